// Package plytable reads a ply table: a CSV file with a header and one row a
// ply, in lay order.
//
// Columns, in any order: material, angle (degrees), outline (the layer of the
// drawing); optional: face (up or down, up if empty), x and y (place on the
// tool in mm, 0 if empty), and ply, which must then count 1, 2, 3 …
package plytable
