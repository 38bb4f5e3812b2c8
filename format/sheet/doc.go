// Package sheet writes and reads tables as CSV and XLSX. A cell of a table that
// a spreadsheet would run as a formula is written as text.
//
// The reader is a streaming one of stored values, not of displayed ones, with bounds on cells
// and text. Every importer has bounds that are refused in words.
package sheet
