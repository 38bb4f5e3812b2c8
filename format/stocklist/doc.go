// Package stocklist reads a list of the rolls that a shop has, from CSV or XLSX: a header row and one row a roll.
//
// Columns, in any order: material, lot, length (m, or kg for what is sold by mass); optional: width (mm), freezer,
// place, made and shelf end (dates as 2026-11-25 or 25.11.2026), out time (hours already spent), accepted (yes or no).
//
// A date that could mean two days is refused, and asked for as 2026-11-25. Rows that are right come with the faults of
// those that are not, so that a page can show row by row what would happen; the shop stores all of a list or nothing.
// Whether materials, freezers and lots exist is for the shop to say.
//
// A CSV's columns are separated by commas, semicolons or tabs, found from its header; of a workbook the first sheet is
// read. Rows and faults are bounded in number.
package stocklist
