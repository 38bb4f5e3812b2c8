// Package svg writes a nest as an SVG drawing at 1:1 in millimetres.
package svg
