package master

import "juxta/core/geom"

// HolesIn are the holes among the marks of a piece: what lies in one is free for others. One that runs over the edge is
// a notch, and is left to the knife.
func HolesIn(flat geom.Ring, marks []DrawnMark) (out []geom.Ring) {
	for _, m := range marks {
		ring := geom.Ring(m.Places())
		if m.Closed && ring.Check() == nil && flat.ContainsAll(ring) {
			out = append(out, ring)
		}
	}
	return out
}
