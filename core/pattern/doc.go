// Package pattern makes flat patterns: the shape that is cut off the roll for
// a ply as it lies on the tool.
package pattern
