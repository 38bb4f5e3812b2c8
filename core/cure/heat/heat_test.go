package heat

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
)

// through steps a column for a time with faces that stay as they are, as far as its error allows.
func through(t testing.TB, c *Column, seconds float64, faces func(at float64) (below, above Face)) (steps int) {
	t.Helper()
	h, at := 0.1, 0.0
	for at < seconds {
		h = math.Min(h, seconds-at)
		b0, a0 := faces(at)
		b1, a1 := faces(at + h)
		err := c.Try(h, Face{b0.From, b1.From, b0.H}, Face{a0.From, a1.From, a0.H})
		if err <= 1 {
			c.Accept()
			at += h
			steps++
		}
		h *= math.Min(5, math.Max(0.2, 0.9*math.Pow(math.Max(err, 1e-9), -1.0/3)))
		require.Greater(t, h, 1e-9, "it cannot meet its tolerance")
	}
	return steps
}

func still(below, above Face) func(float64) (Face, Face) {
	return func(float64) (Face, Face) { return below, above }
}

var laminate = Layer{Name: "laminate", Thickness: 0.0144, Density: 1580, Specific: 900, Conductivity: 0.6}

// Carslaw & Jaeger, Conduction of Heat in Solids (1959), 3.3: a slab of thickness 2l at 0 whose faces are held at 1:
//
//	v = 1 - 4/π Σ (-1)ⁿ/(2n+1) exp(-κ(2n+1)²π²t/4l²) cos((2n+1)πx/2l)
func TestASlabWithFixedFacesAgainstItsSeries(t *testing.T) {
	c, err := NewColumn([]Layer{laminate, laminate}, 293, Accuracy{Finer: 2}) // no air makes a step of 100 K
	require.NoError(t, err)
	hot := Face{393, 393, math.Inf(1)}
	l := laminate.Thickness
	kappa := laminate.Conductivity / (laminate.Density * laminate.Specific)
	at := 0.0
	for _, until := range []float64{60, 200, 500, 1500} {
		through(t, c, until-at, still(hot, hot))
		at = until
		xs, temps := c.Temperatures()
		for i, x := range xs {
			v := 1.0
			for n := range 200 {
				m := float64(2*n + 1)
				v -= 4 / math.Pi * math.Pow(-1, float64(n)) / m * math.Exp(-kappa*m*m*math.Pi*math.Pi*at/(4*l*l)) *
					math.Cos(m*math.Pi*(x-l)/(2*l))
			}
			// Of a step of 100 K at the face, which no cure has; after a minute it is smooth enough.
			assert.InDelta(t, 293+100*v, temps[i], 0.1, "%g s, %g m", until, x)
		}
	}
}

// Carslaw & Jaeger 3.11: a slab of half-thickness l cooled by convection at both faces, roots of β tan β = hl/k.
func TestASlabWithConvectionAgainstItsSeries(t *testing.T) {
	const h = 40.0
	c, err := NewColumn([]Layer{laminate, laminate}, 393, Accuracy{})
	require.NoError(t, err)
	air := Face{293, 293, h}
	l := laminate.Thickness
	kappa := laminate.Conductivity / (laminate.Density * laminate.Specific)
	biot := h * l / laminate.Conductivity
	root := func(n int) float64 {
		low, high := float64(n)*math.Pi, float64(n)*math.Pi+math.Pi/2-1e-12
		for range 200 {
			mid := (low + high) / 2
			if mid*math.Tan(mid) < biot {
				low = mid
			} else {
				high = mid
			}
		}
		return low
	}
	at := 0.0
	for _, until := range []float64{100, 400, 1200, 3600} {
		through(t, c, until-at, still(air, air))
		at = until
		xs, temps := c.Temperatures()
		for i, x := range xs {
			v := 0.0
			for n := range 60 {
				b := root(n)
				v += 4 * math.Sin(b) / (2*b + math.Sin(2*b)) * math.Exp(-b*b*kappa*at/(l*l)) * math.Cos(b*(x-l)/l)
			}
			assert.InDelta(t, 293+100*v, temps[i], 0.1, "%g s, %g m", until, x)
		}
	}
}

// Two layers that differ, with a contact between them, by a second method: explicit steps of a thousandth of what is
// stable, on a grid of its own with nodes on the faces of the cells (finite differences of the flux form).
func TestTwoLayersByASecondMethod(t *testing.T) {
	tool := Layer{Name: "tool", Thickness: 0.012, Density: 7800, Specific: 500, Conductivity: 45}
	top := laminate
	top.Contact = 2e-4
	c, err := NewColumn([]Layer{tool, top}, 300, Accuracy{})
	require.NoError(t, err)
	below, above := Face{400, 400, 60}, Face{400, 400, 25}
	through(t, c, 900, still(below, above))

	const n, m = 12, 96
	dx, dy := tool.Thickness/n, top.Thickness/m
	temp := make([]float64, n+m)
	for i := range temp {
		temp[i] = 300
	}
	dt := 0.2 * dy * dy * top.Density * top.Specific / top.Conductivity
	if s := 0.2 * dx * dx * tool.Density * tool.Specific / tool.Conductivity; s < dt {
		dt = s
	}
	steps := int(math.Ceil(900 / dt))
	dt = 900 / float64(steps)
	flow := make([]float64, n+m+1)
	for range steps {
		flow[0] = (400 - temp[0]) / (1/60.0 + dx/2/tool.Conductivity)
		for i := 1; i < n+m; i++ {
			switch {
			case i < n:
				flow[i] = tool.Conductivity * (temp[i-1] - temp[i]) / dx
			case i == n:
				flow[i] = (temp[i-1] - temp[i]) / (dx/2/tool.Conductivity + 2e-4 + dy/2/top.Conductivity)
			default:
				flow[i] = top.Conductivity * (temp[i-1] - temp[i]) / dy
			}
		}
		flow[n+m] = (temp[n+m-1] - 400) / (1/25.0 + dy/2/top.Conductivity)
		for i := range temp {
			rho := tool.Density * tool.Specific * dx
			if i >= n {
				rho = top.Density * top.Specific * dy
			}
			temp[i] += dt * (flow[i] - flow[i+1]) / rho
		}
	}
	tl, lam := c.State(0), c.State(1)
	assert.InDelta(t, temp[0], tl.Below, 0.1)
	assert.InDelta(t, temp[n-1], tl.Above, 0.1)
	assert.InDelta(t, temp[n], lam.Below, 0.1)
	assert.InDelta(t, temp[n+m-1], lam.Above, 0.1)
	assert.InDelta(t, (temp[n+m/2]+temp[n+m/2-1])/2, lam.Middle, 0.1)
	assert.Greater(t, tl.Above-lam.Below, 0.01, "a contact has a jump of its own")
}

// epoxy cures by n-th order with a heat of 400 kJ a kilogram of a resin that is a third of it.
func epoxy() *Reaction {
	return &Reaction{
		Law:    cure.Kinetics{Terms: []cure.Term{{A: 5e5, E: 6.5e4, N: 1.5}, {A: 3e6, E: 6.5e4, M: 1, N: 1.5}}},
		Alpha0: 0.02, Heat: 1580 * 0.34 * 4e5,
	}
}

// No heat goes out: the stack rises by H/(ρc) for the cure that it does, H w/c of the whole.
func TestAdiabaticRise(t *testing.T) {
	l := laminate
	l.Reaction = epoxy()
	c, err := NewColumn([]Layer{l}, 400, Accuracy{})
	require.NoError(t, err)
	through(t, c, 20*3600, still(Face{}, Face{}))
	s := c.State(0)
	rise := (s.LeastCure - 0.02) * 0.34 * 4e5 / 900
	assert.Greater(t, s.LeastCure, 0.95)
	assert.InDelta(t, 400+rise, s.Middle, 1e-6)
	assert.InDelta(t, 0, s.Most-s.Least, 1e-9)
}

func ring() []Layer {
	l := laminate
	l.Reaction = epoxy()
	return []Layer{
		{Name: "tool", Thickness: 0.012, Density: 7800, Specific: 500, Conductivity: 45},
		l,
		{Name: "breather", Thickness: 0.004, Density: 150, Specific: 1300, Conductivity: 0.06},
	}
}

// cycle is the air of a cure of ten hours with two dwells.
func cycle(h float64) func(float64) (Face, Face) {
	return func(at float64) (Face, Face) {
		t := 295.0
		switch {
		case at < 4200:
			t += at * 108 / 4200
		case at < 9000:
			t = 403
		case at < 12600:
			t = 403 + (at-9000)*47/3600
		case at < 27000:
			t = 450
		default:
			t = math.Max(320, 450-(at-27000)*2/60)
		}
		f := Face{t, t, h}
		return f, f
	}
}

// What comes in and what the reaction gives off is what is stored, over a whole cycle and with properties that depend
// on the temperature: within 0.1 % is asked for, it is kept to rounding.
func TestEnergyIsKept(t *testing.T) {
	for _, byT := range []float64{0, 0.0015} {
		layers := ring()
		for k := range layers {
			layers[k].SpecificByT, layers[k].ConductivityByT = byT, byT
		}
		c, err := NewColumn(layers, 295, Accuracy{})
		require.NoError(t, err)
		through(t, c, 36000, cycle(60))
		in, reacted, stored := c.Energy(295)
		assert.Greater(t, reacted, 2e6, "J/m²")
		assert.InDelta(t, in+reacted, stored, 1e-6*reacted, "with %g 1/K", byT)
	}
}

// The usual accuracy against one of a fiftieth on four times the cells.
func TestTheUsualAccuracyIsWithinATenthOfAKelvin(t *testing.T) {
	usual, err := NewColumn(ring(), 295, Accuracy{})
	require.NoError(t, err)
	fine, err := NewColumn(ring(), 295, Accuracy{Step: UsualStep / 50, Finer: 4})
	require.NoError(t, err)
	mean := func(c *Column) float64 {
		sum, n := 0.0, 0.0
		c.Each(1, func(_, _, alpha float64) { sum, n = sum+alpha, n+1 })
		return sum / n
	}
	worst, cures := 0.0, 0.0
	for at := 0.0; at < 36000; at += 300 {
		faces := func(s float64) (Face, Face) { return cycle(60)(at + s) }
		through(t, usual, 300, faces)
		through(t, fine, 300, faces)
		a, b := usual.State(1), fine.State(1)
		worst = math.Max(worst, math.Max(math.Abs(a.Most-b.Most), math.Abs(a.Least-b.Least)))
		cures = math.Max(cures, math.Abs(mean(usual)-mean(fine)))
	}
	t.Logf("worst %.3f K, %.5f of the cure", worst, cures)
	assert.Less(t, worst, 0.1)
	assert.Less(t, cures, 0.005)
}

// The error falls by the order of the method: third in time, second in space.
func TestOrders(t *testing.T) {
	layers := ring()[1:2]
	at := func(dt float64, finer int) float64 {
		c, err := NewColumn(layers, 380, Accuracy{Step: 1e9, Finer: finer})
		require.NoError(t, err)
		for s := 0.0; s < 1600-1e-9; s += dt {
			f := func(at float64) float64 { return 400 + 20*math.Sin(at/400) }
			face := Face{f(s), f(s + dt), 200}
			require.LessOrEqual(t, c.Try(dt, face, face), 1.0)
			c.Accept()
		}
		return c.State(0).Middle
	}
	// The air is told in straight pieces, so the pieces must stay as they are: three runs within pieces of 100 s are
	// compared by their own halves.
	steps := func(dt float64) float64 {
		c, err := NewColumn(layers, 380, Accuracy{Step: 1e9})
		require.NoError(t, err)
		for s := 0.0; s < 800-1e-9; s += dt {
			a := func(at float64) float64 { return 380 + at/20 }
			face := Face{a(s), a(s + dt), 200}
			require.LessOrEqual(t, c.Try(dt, face, face), 1.0)
			c.Accept()
		}
		return c.State(0).Middle
	}
	a, b, c := steps(8), steps(4), steps(2)
	order := math.Log2(math.Abs((a - b) / (b - c)))
	assert.Greater(t, order, 2.7, "in time: %g, %g, %g", a, b, c)
	x, y, z := at(2, 1), at(2, 2), at(2, 4)
	order = math.Log2(math.Abs((x - y) / (y - z)))
	assert.InDelta(t, 2, order, 0.3, "in space: %g, %g, %g", x, y, z)
}

// A thick laminate overheats more than a thin one, and less with a dwell on the way.
func TestOvershootGrowsWithThicknessAndFallsWithADwell(t *testing.T) {
	peak := func(thick float64, dwell bool) float64 {
		l := laminate
		l.Reaction, l.Thickness = epoxy(), thick
		c, err := NewColumn([]Layer{l}, 295, Accuracy{})
		require.NoError(t, err)
		most := 0.0
		for at := 0.0; at < 30000; at += 60 {
			through(t, c, 60, func(s float64) (Face, Face) {
				when := at + s
				temp := math.Min(450, 295+when/30)
				if dwell {
					temp = math.Min(353, 295+when/30)
					if when > 12000 {
						temp = math.Min(450, 353+(when-12000)/30)
					}
				}
				f := Face{temp, temp, 60}
				return f, f
			})
			most = math.Max(most, c.State(0).Most)
		}
		return most - 450
	}
	before := -1.0
	for _, thick := range []float64{0.004, 0.01, 0.02, 0.03} {
		over := peak(thick, false)
		assert.Greater(t, over, before-0.01, "%g m", thick)
		assert.Less(t, peak(thick, true), math.Max(over, 0.5), "%g m with a dwell", thick)
		before = over
	}
	assert.Greater(t, before, 20.0)
}

func TestLayersThatCannotBe(t *testing.T) {
	_, err := NewColumn(nil, 300, Accuracy{})
	require.Error(t, err)
	_, err = NewColumn([]Layer{laminate}, -3, Accuracy{})
	require.Error(t, err)
	for says, change := range map[string]func(*Layer){
		"has a thickness": func(l *Layer) { l.Thickness = 0 },
		"is a block":      func(l *Layer) { l.Thickness = 2 },
		"above zero":      func(l *Layer) { l.Conductivity = 0 },
		"contact":         func(l *Layer) { l.Contact = -1 },
		"a kelvin":        func(l *Layer) { l.SpecificByT = 0.1 },
		"number":          func(l *Layer) { l.Density = math.NaN() },
		"no term":         func(l *Layer) { l.Reaction = &Reaction{} },
		"never starts": func(l *Layer) {
			l.Reaction = &Reaction{Law: cure.Kinetics{Terms: []cure.Term{{A: 1, E: 1, M: 1, N: 1}}}}
		},
		"heat of the reaction": func(l *Layer) { l.Reaction = epoxy(); l.Reaction.Heat = -1 },
	} {
		l := laminate
		change(&l)
		_, err := NewColumn([]Layer{l}, 300, Accuracy{})
		assert.ErrorContains(t, err, says)
	}
	r := Ribbed(Layer{Density: 1000, Conductivity: 5}, 0.4)
	assert.Equal(t, 1400.0, r.Density)
	assert.Equal(t, 5.0, r.Conductivity)
}

func BenchmarkCycle(b *testing.B) {
	for b.Loop() {
		c, err := NewColumn(ring(), 295, Accuracy{})
		require.NoError(b, err)
		steps := 0
		for at := 0.0; at < 36000; at += 60 {
			steps += through(b, c, 60, func(s float64) (Face, Face) { return cycle(60)(at + s) })
		}
		b.ReportMetric(float64(steps), "steps")
	}
}
