package geom

import "encoding/json"

// MarshalJSON writes a ring as its points, each [x, y]: to the last bit, for a shape that is kept is the shape that was
// drawn.
func (r Ring) MarshalJSON() ([]byte, error) {
	out := make([][2]float64, len(r))
	for i, p := range r {
		out[i] = [2]float64{p.X, p.Y}
	}
	return json.Marshal(out)
}

// UnmarshalJSON reads what [Ring.MarshalJSON] writes.
func (r *Ring) UnmarshalJSON(raw []byte) error {
	var in [][2]float64
	if err := json.Unmarshal(raw, &in); err != nil {
		return err
	}
	*r = make(Ring, len(in))
	for i, p := range in {
		(*r)[i] = Point{p[0], p[1]}
	}
	return nil
}
