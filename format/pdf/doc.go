// Package pdf sets records as PDF pages: headings, tables and notes on ruled
// paper, with a running foot on every page. Nothing of a record is cut short:
// what is too long for its column goes on in the next line. The Go fonts are
// embedded, which carry Latin, Greek and Cyrillic names.
package pdf
