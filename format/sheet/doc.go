// Package sheet writes and reads tables as CSV and XLSX.
//
// A cell of a table that a spreadsheet would run as a formula is written as text, in both.
//
// The reader is a streaming one of stored values, not of displayed ones: numbers as they are kept, dates as their
// format says, the first sheet alone. CSV may be separated by commas, semicolons or tabs, in UTF-8 with or without a
// mark; UTF-16, old workbooks and locked ones are refused in words.
//
// There are bounds on bytes, cells and text, so that a small file cannot unfold into a large one. Every importer (ply
// table, stock list, curve) goes by this reader and names faults by row.
package sheet
