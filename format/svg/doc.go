// Package svg writes and reads drawings as SVG, 1:1 in millimetres.
//
// [Write] writes a nest: the sheet, its flaws, cuts, marks and labels. [WriteOutlines] writes outlines with their
// names. y points up in the shop and down in SVG; both writers turn it.
//
// The reader takes the closed outlines that are seen out of a drawing of any program: paths with all their commands
// (path.go), shapes (shapes.go), groups, transforms, symbols and their uses, styles and clip paths (tree.go, read.go).
// The drawing's size and viewBox say its unit; where they do not, whoever reads it is asked. What is open and filled is
// closed, and said so.
//
// Everything is bounded: bytes, elements, depth, points and outlines. Outlines that cross themselves are refused with
// the place. Checked against a renderer that is not ours, on drawings that others ship.
package svg
