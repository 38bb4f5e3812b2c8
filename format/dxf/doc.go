// Package dxf reads and writes the part of DXF that outlines need, as text and in binary: lines,
// polylines of either kind with bulges, arcs, circles, ellipses, splines, and blocks that are put
// in; texts and points are kept as marks. The unit, the layers that are switched off, paper space
// and the encoding are honoured. Group codes as in the published DXF reference (from memory; the
// writer is checked by independent readers, the reader on drawings that others ship).
package dxf
