// Package drape lays a woven ply over a doubly curved surface as a net of inextensible
// threads that are pinned where they cross and free to shear (Mack and Taylor 1956; van West,
// Pipes and Keefe 1990), and brings its boundary back to the flat.
//
// The surface is a mesh of triangles whose normals point to the bag side. Lengths in m, angles
// in radians.
//
// A [Mesh] is the surface, built in ([NewSurface]) or of a file. A ply is laid in pieces: split
// along lines in plan, each from its own start; with darts, beyond which a net is laid anew
// from the row through the tip; or of strips along lines that lie side by side, each steered no
// tighter than the material takes. [DrapedPiece] is one piece with its flat, [Summary] all of a ply.
// Search looks for the best start, Propose for cuts by which it no longer locks.
package drape
