// Package pdftest reads PDF files in tests with a reader that is not ours:
// pdf.js, which also shows them in a browser.
package pdftest
