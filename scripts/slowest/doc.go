// Command slowest shows the output of go test -json as people read it, and at the end the ten slowest packages and
// tests.
//
// ./test pipes its runs through it. What go test would print without -json is printed as it comes. It exits with 1 when
// a test did not pass.
package main
