// Command slowest shows the output of go test -json as people read it, and at the end the ten slowest packages and
// tests.
//
// ./test pipes its runs through it. What go test would print without -json is printed as it comes. It exits with 1 when
// a test did not pass.
//
// What a test prints is kept until it is known whether it passes, and shown only if it does not. A line that is no JSON
// comes from the build and is shown as it is. The times are those of a package among others that ran beside it, so they
// say where to look, not what a change has gained.
package main
