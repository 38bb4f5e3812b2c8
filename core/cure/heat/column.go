package heat

import (
	"errors"
	"math"

	"juxta/core/cure"
)

// Column is a stack of layers on its way through a cure. It is stepped by [Column.Try] and [Column.Accept].
type Column struct {
	layers []Layer
	from   []int // the first cell of each layer, and the number of cells
	cells  []cell
	join   []float64 // resistance of the contact below each cell, m² K/W

	now, next state
	tolT      float64 // K a step
	work      work
}

// cell is a slice of a layer.
type cell struct {
	width     float64
	capacity  float64 // at Reference, J/(m² K)
	byT       float64
	half      float64 // resistance of half of it at Reference, m² K/W
	kByT      float64
	react     *cure.Kinetics
	heat      float64 // of its whole reaction, J/m²
	law       int     // of its layer
	alphaZero float64
}

// state is what changes.
type state struct {
	u     []float64 // heat above Reference, J/m²
	alpha []float64
	in    [2]float64 // that came in through the face below and above, J/m²
}

func newState(n int) state { return state{u: make([]float64, n), alpha: make([]float64, n)} }

func (s *state) copyFrom(o state) {
	copy(s.u, o.u)
	copy(s.alpha, o.alpha)
	s.in = o.in
}

// Accuracy is how fine a column is worked out; the zero value is the usual.
type Accuracy struct {
	Step  float64 // error that a step may have, K; 0: [UsualStep]
	Finer int     // cells of a layer for one usual; 0: 1
}

// UsualStep is the error that a step may have where nobody asks for another, K. Over a whole cure it keeps within
// 0.1 K (measured, TestTheUsualAccuracyIsWithinATenthOfAKelvin).
const UsualStep = 0.02

// NewColumn is a stack of layers at one temperature in K.
func NewColumn(layers []Layer, start float64, a Accuracy) (*Column, error) {
	if len(layers) == 0 {
		return nil, errors.New("a stack has a layer")
	}
	if !(start > 100 && start < 1500) {
		return nil, errors.New("the stack's first temperature is none that it can have")
	}
	c := &Column{layers: layers, tolT: a.Step}
	if c.tolT == 0 {
		c.tolT = UsualStep
	}
	for k, l := range layers {
		if err := l.Check(); err != nil {
			return nil, err
		}
		c.from = append(c.from, len(c.cells))
		n := l.cells(a.Finer)
		w := l.Thickness / float64(n)
		one := cell{
			width: w, capacity: l.Density * l.Specific * w, byT: l.SpecificByT, half: w / (2 * l.Conductivity),
			kByT: l.ConductivityByT, law: k,
		}
		if r := l.Reaction; r != nil {
			one.react, one.heat, one.alphaZero = &layers[k].Reaction.Law, r.Heat*w, r.Alpha0
		}
		for i := range n {
			c.cells = append(c.cells, one)
			contact := 0.0
			if i == 0 && k > 0 {
				contact = l.Contact
			}
			c.join = append(c.join, contact)
		}
	}
	c.from = append(c.from, len(c.cells))
	n := len(c.cells)
	c.now, c.next = newState(n), newState(n)
	c.work = newWork(n)
	for i, one := range c.cells {
		c.now.u[i] = one.heatAt(start)
		c.now.alpha[i] = one.alphaZero
	}
	c.work.temperatures(c, c.now)
	return c, nil
}

// heatAt is the heat above Reference that a cell has at a temperature.
func (c *cell) heatAt(t float64) float64 {
	over := t - Reference
	return c.capacity * over * (1 + c.byT*over/2)
}

// temperature is that of a cell by its heat, and how it changes with it.
func (c *cell) temperature(u float64) (t, slope float64) {
	if c.byT == 0 {
		return Reference + u/c.capacity, 1 / c.capacity
	}
	// capacity (θ + byT θ²/2) = u
	root := math.Sqrt(math.Max(1e-6, 1+2*c.byT*u/c.capacity))
	over := (root - 1) / c.byT
	return Reference + over, 1 / (c.capacity * root)
}

// resistance is that of half a cell at a temperature, and how it changes with it.
func (c *cell) resistance(t float64) (r, slope float64) {
	if c.kByT == 0 {
		return c.half, 0
	}
	rel := math.Max(0.05, 1+c.kByT*(t-Reference))
	r = c.half / rel
	return r, -r * c.kByT / rel
}

// Temperatures are those of the cells now, K, and the middles of the cells, m from the face below.
func (c *Column) Temperatures() (at, t []float64) {
	x := 0.0
	for i := range c.cells {
		w := c.cells[i].width
		at = append(at, x+w/2)
		t = append(t, c.work.t[i])
		x += w
	}
	return at, t
}

// State is what one layer is like.
type State struct {
	Least, Most, Middle float64 // temperatures, K, its faces among them
	Below, Above        float64 // of its faces
	LeastCure, MostCure float64
	At                  float64 // where it is hottest, as a share of its thickness from below
}

// State is what a layer is like now, with the faces that the column had in its last step.
func (c *Column) State(layer int) State {
	from, to := c.from[layer], c.from[layer+1]
	s := State{Least: math.Inf(1), Most: math.Inf(-1), LeastCure: math.Inf(1)}
	s.Below, s.Above = c.work.face(c, from, true), c.work.face(c, to, false)
	see := func(t, at float64) {
		s.Least = math.Min(s.Least, t)
		if t > s.Most {
			s.Most, s.At = t, at
		}
	}
	see(s.Below, 0)
	for i := from; i < to; i++ {
		see(c.work.t[i], (float64(i-from)+0.5)/float64(to-from))
		s.LeastCure, s.MostCure = math.Min(s.LeastCure, c.now.alpha[i]), math.Max(s.MostCure, c.now.alpha[i])
	}
	see(s.Above, 1)
	middle := from + (to-from)/2
	s.Middle = c.work.t[middle]
	if (to-from)%2 == 0 {
		s.Middle = (c.work.t[middle-1] + c.work.t[middle]) / 2
	}
	return s
}

// Each goes through the cells of a layer from below, with their temperature and degree of cure.
func (c *Column) Each(layer int, see func(share, t, alpha float64)) {
	from, to := c.from[layer], c.from[layer+1]
	for i := from; i < to; i++ {
		see((float64(i-from)+0.5)/float64(to-from), c.work.t[i], c.now.alpha[i])
	}
}

// Energy is what a column has taken up through its faces, what its reaction has given off, and what is stored above
// its first temperature in K, all J/m². The first two are the third.
func (c *Column) Energy(start float64) (in, reacted, stored float64) {
	in = c.now.in[0] + c.now.in[1]
	for i := range c.cells {
		one := &c.cells[i]
		stored += c.now.u[i] - one.heatAt(start)
		if one.react != nil {
			reacted += one.heat * (c.now.alpha[i] - one.alphaZero)
		}
	}
	return in, reacted, stored
}

// Undo takes the last accepted step back.
func (c *Column) Undo() {
	c.now, c.next = c.next, c.now
	c.work.temperatures(c, c.now)
}
