// Package pdf sets records as PDF pages: headings, tables and notes on ruled paper, with a running foot.
//
// [Record] is a document of sections; [Book] a ply book with drawings (book.go), [Label] a label with the QR code of
// its id (label.go), [Template] a pattern at 1:1, on one page or tiled on A4 with marks (pattern.go), and charts of
// curves over time go beside a table (chart.go).
//
// Nothing of a record is cut short: what is too long for its column goes on in the next line, and what is too long for
// a page on the next page. The Go fonts are embedded, which carry Latin, Greek and Cyrillic names.
//
// It draws what it is given and knows nothing of the shop. Read back in tests by a reader that is not ours (pdftest).
package pdf
