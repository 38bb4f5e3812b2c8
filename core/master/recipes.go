package master

import "juxta/core/cure"

// SegmentChange is a segment of a recipe as it was, as it is, or both, with the names of its fields that differ.
type SegmentChange struct {
	Was    *cure.Segment `json:"was,omitempty"`
	Is     *cure.Segment `json:"is,omitempty"`
	Fields []string      `json:"fields"`
}

// SegmentDifference lines two recipes up segment by segment. Those that say the same are pairs; what lies between two
// pairs
// is taken in its order, so that a segment put in between is new and nothing after it has changed.
func SegmentDifference(was, is cure.Recipe) []SegmentChange {
	a, b := was.Segments, is.Segments
	partner := make([]int, len(b)+1)
	for k := range partner {
		partner[k] = -1
	}
	pair(a, b, partner[:len(b)], func(s cure.Segment) any { return s })
	partner[len(b)] = len(a)
	var out []SegmentChange
	i, j := 0, 0
	for k, at := range partner {
		if at < 0 {
			continue
		}
		for i < at || j < k {
			c := SegmentChange{Fields: []string{}}
			if i < at {
				c.Was = &a[i]
				i++
			}
			if j < k {
				c.Is = &b[j]
				j++
			}
			if c.Was != nil && c.Is != nil {
				c.Fields = ChangedFields(*c.Was, *c.Is)
			}
			out = append(out, c)
		}
		if k < len(b) {
			out = append(out, SegmentChange{&a[i], &b[j], []string{}})
			i, j = i+1, j+1
		}
	}
	return out
}

// Differs says whether a line of a difference shows any.
func (c SegmentChange) Differs() bool { return c.Was == nil || c.Is == nil || len(c.Fields) > 0 }
