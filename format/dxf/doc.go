// Package dxf reads and writes the part of DXF that outlines need, as text and in binary.
//
// Read are lines, polylines of either kind with bulges, arcs, circles, ellipses, splines, and blocks that are put in;
// texts and points are kept as marks. The unit, the layers that are switched off, paper space and the encoding are
// honoured. What is open is refused with the place of its ends; what draws no outline is told.
//
// tokens.go reads group codes, file.go what a file says of itself, draw.go and curves.go turn entities into points,
// arrange.go joins them into outlines and says which lies in which. write.go writes outlines, marks and labels.
//
// Group codes as in the published DXF reference (from memory). The writer is checked by independent readers, the reader
// on drawings that others ship; both are fuzzed, and everything read is bounded.
package dxf
