// Package stocklist reads a list of the rolls that a shop has, from CSV or
// XLSX: a header row and one row a roll.
//
// Columns, in any order: material, lot, length (m, or kg for what is sold by
// mass); optional: width (mm), freezer, place, made and shelf end (dates as
// 2026-11-25 or 25.11.2026), out time (hours already spent), accepted (yes or
// no).
package stocklist
