// Package mesh reads surfaces of triangles: STL, binary and as text, and OBJ.
//
// Neither says its unit, so whoever reads one says it; the result is in metres. Faces of an OBJ with more corners are
// cut into triangles; curves and free-form surfaces are refused in words.
//
// What is read is bounded by bytes and triangles before anything is kept in memory. Whether the triangles make a
// surface that a ply can lie on (one piece, two sides, no edge of three) is core/drape's to say: its NewMesh repairs
// what can be repaired and tells what it did.
//
// Read from the published descriptions of both formats (from memory), and fuzzed.
package mesh
