package laminate

import (
	"cmp"
	"crypto/sha256"
	"encoding/binary"
	"math"
	"slices"
	"sync"

	"juxta/core/geom"
)

// Outlines are the outlines of a part, each once, in an order of their own. What they
// alone say, the regions that they cut and the distances between ends, is worked
// out when it is first asked for and kept with them: plies that are turned, moved
// within the stack or of another batch of rules leave it as it is. It may be
// asked from several goroutines.
type Outlines struct {
	outlines []geom.Ring
	cut      func() ([]cover, error)

	mu    sync.Mutex
	reach []float64 // that near was asked for
	near  map[[2]int]float64
}

// NewOutlines are the outlines of layers: nothing is cut yet.
func NewOutlines(layers []PlacedPly) *Outlines {
	p := &Outlines{}
	seen := map[*geom.Point]bool{} // layers that lie alike mostly share one ring
	for _, l := range layers {
		if len(l.Outline) > 0 {
			if seen[&l.Outline[0]] {
				continue
			}
			seen[&l.Outline[0]] = true
		}
		if at, known := p.find(l.Outline); !known {
			p.outlines = slices.Insert(p.outlines, at, l.Outline)
		}
	}
	p.cut = sync.OnceValues(func() ([]cover, error) { return cutInto(p.outlines) })
	return p
}

func compareRings(a, b geom.Ring) int {
	return slices.CompareFunc(
		a,
		b,
		func(p, q geom.Point) int { return cmp.Or(cmp.Compare(p.X, q.X), cmp.Compare(p.Y, q.Y)) },
	)
}

func (p *Outlines) find(outline geom.Ring) (int, bool) {
	return slices.BinarySearchFunc(p.outlines, outline, compareRings)
}

// over lists the layers on each outline. They are layers that the plan is of.
func (p *Outlines) over(layers []PlacedPly) [][]int {
	over, known := make([][]int, len(p.outlines)), map[*geom.Point]int{}
	for i, l := range layers {
		at, seen := 0, false
		if len(l.Outline) > 0 {
			at, seen = known[&l.Outline[0]]
		}
		if !seen {
			at, _ = p.find(l.Outline)
			if len(l.Outline) > 0 {
				known[&l.Outline[0]] = at
			}
		}
		over[at] = append(over[at], i)
	}
	return over
}

// Key is the same for plans of the same outlines, and for no others.
func (p *Outlines) Key() [sha256.Size]byte {
	h, word := sha256.New(), make([]byte, 0, 16)
	for _, o := range p.outlines {
		h.Write(binary.LittleEndian.AppendUint64(word, uint64(len(o))))
		for _, c := range o {
			h.Write(
				binary.LittleEndian.AppendUint64(
					binary.LittleEndian.AppendUint64(word, math.Float64bits(c.X)),
					math.Float64bits(c.Y),
				),
			)
		}
	}
	return [sha256.Size]byte(h.Sum(nil))
}
