// Package second asks independent readers of the npm registry what a file holds, for tests: they run
// in node, with the packages that the web pages are built with.
package second
