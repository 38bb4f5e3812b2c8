// Package plytable reads a ply table: a CSV or XLSX file with a header and one row a ply, in lay order.
//
// Columns, in any order: material, angle (degrees), outline (the layer of the drawing); optional: face (up or down, up
// if empty), x and y (place on the tool in mm, 0 if empty), and ply, which must then count 1, 2, 3 …
//
// Numbers are read as people write them (format/number). All faults are named by row, as many as are useful at once,
// and nothing is read from a table that has one. Whether materials and outlines exist is for the shop to say.
//
// What separates a CSV's columns (comma, semicolon or tab) is found from its header. A file is bounded in length before
// it comes here (api), and in rows here.
package plytable
