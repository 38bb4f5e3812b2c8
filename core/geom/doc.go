// Package geom is the plane geometry that every room shares: closed outlines
// in metres. A [Ring] is a simple polygon without holes, its last point joined
// to its first, not repeated.
package geom
