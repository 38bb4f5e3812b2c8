// Package second asks independent readers of the npm registry what a file holds, for tests.
//
// They run in node, with the packages that the web pages are built with (npm ci in web puts them there): parsers of
// DXF, of G-code, of XLSX and of SVG paths, a renderer, a validator. [Output] runs a few lines of a script with a file
// and reads its answer as JSON.
//
// A test whose packages are missing fails and says so; it is not skipped.
//
// Whatever Juxta writes for other programs is read back by one of these, and whatever it reads is tried on drawings
// that they ship. No code of the product imports it.
package second
