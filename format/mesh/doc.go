// Package mesh reads surfaces of triangles: STL, binary and as text, and OBJ. Neither says its
// unit, so that whoever reads one is asked for it.
package mesh
