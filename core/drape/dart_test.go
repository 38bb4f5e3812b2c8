package drape

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/unit"
)

// capPly is a square ply on a cap of a sphere, and its start.
func capPly(t testing.TB) (*Mesh, []Vec) {
	t.Helper()
	m := usual(t, SphereCap, 60_000)
	b, err := m.Project(geom.Rect(0.44, 0.44).Move(-0.22, -0.22), 0.004)
	require.NoError(t, err)
	return m, b
}

func on(t testing.TB, m *Mesh, x, y float64) Vec {
	t.Helper()
	b, err := m.Project(geom.Ring{{X: x, Y: y}}, 1)
	require.NoError(t, err)
	return b[0]
}

// Beyond a dart the thread through its tip is a geodesic again: there the angle obeys the same
// equation, ω_uv = −K sin ω, from what it is along the row through the tip and from the tip's own
// along the dart (Chebyshev 1878: a thread's geodesic curvature is the change of ω along it). It is
// integrated here for itself.
func TestBeyondADartTheEquationBeginsAnew(t *testing.T) {
	m, b := capPly(t)
	const cell, h, r = 0.01, 5e-4, 0.4
	const n, every = 600, 20 // grid steps; of a cell
	tip := [2]int{8, 6}
	flat := m.lift(t, tip, cell)
	o := Options{Cell: cell, Darts: []Dart{{Tip: flat, Mouth: on(t, m, flat.X, 0.22)}}}
	d, err := m.Drape(context.Background(), b, Start{}, o)
	require.NoError(t, err)
	before := integrated(n, h, r, func(i, j int) float64 { return math.Pi / 2 })
	ti, tj := tip[0]*every, tip[1]*every
	beyond := integrated(n-ti, h, r, func(i, j int) float64 {
		if j == 0 {
			return before[tj][ti+i]
		}
		return before[tj][ti]
	})
	checked := 0
	for _, node := range d.Inside {
		if node.Panel != 1 || node.I <= tip[0]+1 || node.J <= tip[1]+1 {
			continue
		}
		i, j := (node.I-tip[0])*every, (node.J-tip[1])*every
		if i >= n-ti || j >= n-ti {
			continue
		}
		checked++
		assert.InDelta(t, 90-unit.Deg(beyond[j][i]), unit.Deg(node.Shear), 0.35, "%d, %d", node.I, node.J)
	}
	assert.Greater(t, checked, 80)
	// The excess is cut away: the lips lie apart, by more the farther out.
	require.Len(t, d.Lips, 1)
	l := d.Lips[0]
	assert.Greater(t, l.Width, 0.004)
	assert.Equal(t, l.Flat[0], l.Far[0])
	plain, err := m.Drape(context.Background(), b, Start{}, Options{Cell: cell})
	require.NoError(t, err)
	assert.Less(t, d.Area, plain.Area)
	assert.InEpsilon(t, plain.Surface, d.Surface, 2e-3, "it covers what it covered")
}

// lift is where a node of the net from the pole lies.
func (m *Mesh) lift(t testing.TB, at [2]int, cell float64) Vec {
	t.Helper()
	net, err := m.Lay(context.Background(), Start{}, Options{Cell: cell})
	require.NoError(t, err)
	return net.at[net.index(at[0], at[1])]
}

func integrated(n int, h, r float64, edge func(i, j int) float64) [][]float64 {
	out := make([][]float64, n)
	for j := range out {
		out[j] = make([]float64, n)
		for i := range out[j] {
			if i == 0 || j == 0 {
				out[j][i] = edge(i, j)
				continue
			}
			mean := (out[j][i-1] + out[j-1][i]) / 2
			out[j][i] = 2*mean - out[j-1][i-1] - h*h/r/r*math.Sin(mean)
		}
	}
	return out
}

// Nothing is cut away on what can be unrolled, whatever the quarter and the way of the dart.
func TestADartOnACylinderIsASlit(t *testing.T) {
	m := usual(t, Cylinder, 20_000)
	b, err := m.Project(geom.Rect(0.3, 0.3).Move(-0.15, -0.15), 0.004)
	require.NoError(t, err)
	plain, err := m.Drape(context.Background(), b, Start{Warp: 0.3}, Options{Cell: 0.01})
	require.NoError(t, err)
	for _, c := range [][4]float64{{0.06, 0.05, 0.07, 0.15}, {-0.06, 0.05, -0.15, 0.06}, {-0.05, -0.06, -0.06, -0.15},
		{0.07, -0.05, 0.15, -0.09}} {
		d, err := m.Drape(context.Background(), b, Start{Warp: 0.3}, Options{
			Cell: 0.01, Darts: []Dart{{Tip: on(t, m, c[0], c[1]), Mouth: on(t, m, c[2], c[3])}},
		})
		require.NoError(t, err, "%v", c)
		require.Len(t, d.Lips, 1)
		assert.InDelta(t, 0, d.Lips[0].Width, 2e-4, "%v", c)
		assert.InEpsilon(t, plain.Area, d.Area, 1e-3)
		assert.InEpsilon(t, plain.Surface, d.Surface, 5e-3)
		assert.Less(t, unit.Deg(d.Peak), 0.1)
	}
}

// On a saddle the fabric wants more than there is: the cut opens, and says so.
func TestACutOpensOnASaddle(t *testing.T) {
	m := usual(t, Saddle, 40_000)
	b, err := m.Project(geom.Rect(0.4, 0.36).Move(-0.2, -0.18), 0.004)
	require.NoError(t, err)
	o := Options{Cell: 0.008, Darts: []Dart{{Tip: on(t, m, 0.07, 0.05), Mouth: on(t, m, 0.07, 0.18)}}}
	d, err := m.Drape(context.Background(), b, Start{}, o)
	require.NoError(t, err)
	require.Len(t, d.Lips, 1)
	assert.Less(t, d.Lips[0].Width, -0.001)
	require.Len(t, d.says(o), 1)
	assert.Contains(t, unit.InMetric(d.says(o)[0]), "on the tool: lay a patch over it")
}

// Where it locks darts are proposed, and with them it locks less; the lips overlap as asked.
func TestDartsAreProposedWhereItLocks(t *testing.T) {
	m := usual(t, SphereCap, 60_000)
	ply := Ply{Outline: geom.Rect(0.44, 0.44).Move(-0.22, -0.22)}
	o := Options{Cell: 0.008, Lock: unit.Rad(16)}
	laid := func(p Ply) *DrapedPiece {
		all, err := m.Pieces(context.Background(), p, o)
		require.NoError(t, err)
		require.Len(t, all, 1)
		return all[0]
	}
	plain := laid(ply)
	require.Len(t, plain.Locks, 4)
	tried := 0
	p, err := m.Propose(context.Background(), ply, o, func(f CutProposal) {
		assert.GreaterOrEqual(t, f.Tried, tried)
		tried = f.Tried
	})
	require.NoError(t, err)
	assert.Equal(t, tried, p.Tried)
	require.GreaterOrEqual(t, len(p.Cuts), 4)
	assert.Less(t, p.Peak, plain.Peak-unit.Rad(2))
	ply.Cuts = p.Cuts
	d := laid(ply)
	assert.Less(t, d.Peak, plain.Peak-unit.Rad(2))
	t.Logf(
		"%.1f° without, %.1f° with %d darts (%.1f° proposed)",
		unit.Deg(plain.Peak),
		unit.Deg(d.Peak),
		len(p.Cuts),
		unit.Deg(p.Peak),
	)
	for k := range ply.Cuts {
		ply.Cuts[k].Overlap = 0.006
	}
	assert.Greater(t, laid(ply).Area, d.Area)
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = m.Propose(ctx, ply, o, nil)
	require.ErrorIs(t, err, context.Canceled)
}

// A split is laid piece by piece, each from its own middle, and shears less than the whole.
func TestASplitPlyIsLaidPieceByPiece(t *testing.T) {
	m := usual(t, SphereCap, 60_000)
	ply := Ply{Outline: geom.Rect(0.44, 0.44).Move(-0.22, -0.22)}
	o := Options{Cell: 0.01}
	whole, err := m.Pieces(context.Background(), ply, o)
	require.NoError(t, err)
	for _, over := range []float64{0, 0.02} {
		ply.Cuts = []Cut{{Split: true, From: geom.Point{Y: -1}, To: geom.Point{Y: 1}, Overlap: over}}
		all, err := m.Pieces(context.Background(), ply, o)
		require.NoError(t, err)
		require.Len(t, all, 2)
		w, one := Summarise(all), Summarise(whole)
		assert.Less(t, w.Peak, one.Peak*0.65)
		// The strip that lies twice is as wide as the overlap and as long as a meridian's chord.
		assert.InDelta(t, one.Surface+over*2*0.4*math.Asin(0.22/0.4), w.Surface, 1.5e-3)
	}
	says := func(c Cut) error {
		p := ply
		p.Cuts = []Cut{c}
		_, err := m.Pieces(context.Background(), p, o)
		return err
	}
	require.ErrorContains(
		t,
		says(Cut{Split: true, From: geom.Point{X: 1}, To: geom.Point{X: 1, Y: 1}}),
		"passes by the ply",
	)
	require.ErrorContains(
		t,
		says(Cut{Split: true, From: geom.Point{X: 0.2}, To: geom.Point{X: 0.2, Y: 1}, Overlap: 0.1}),
		"wider than the piece",
	)
	require.ErrorContains(
		t,
		says(Cut{From: geom.Point{X: 0.1, Y: 0.1}, To: geom.Point{X: 0.1, Y: 0.3}, Overlap: 0.5}),
		"wider than the ply",
	)
	require.ErrorContains(
		t,
		says(Cut{From: geom.Point{X: 0.3, Y: 0.1}, To: geom.Point{X: 0.1, Y: 0.3}}),
		"lies off the ply",
	)
}

func TestDartsThatCannotBe(t *testing.T) {
	m, b := capPly(t)
	for says, c := range map[string][4]float64{
		"lies along or across the threads": {0.1, 0.003, 0.22, 0.003},
		"end it on the side":               {-0.1, 0.1, 0.1, 0.22},
		"lies off the ply":                 {0.31, 0.1, 0.22, 0.1},
	} {
		_, err := m.Drape(context.Background(), b, Start{}, Options{Cell: 0.01, Darts: []Dart{
			{Tip: on(t, m, c[0], c[1]), Mouth: on(t, m, c[2], c[3])},
		}})
		require.Error(t, err, says)
		assert.ErrorContains(t, err, says)
	}
	two := []Dart{
		{Tip: on(t, m, 0.08, 0.06), Mouth: on(t, m, 0.08, 0.22)},
		{Tip: on(t, m, 0.14, 0.08), Mouth: on(t, m, 0.16, 0.22)},
	}
	_, err := m.Drape(context.Background(), b, Start{}, Options{Cell: 0.01, Darts: two})
	require.ErrorContains(t, err, "meets another one")
}

// A split leaves two sides that are the whole again, or reach over each other as asked.
func TestASplitInPlan(t *testing.T) {
	ring := geom.Rect(0.4, 0.3)
	for _, over := range []float64{0, 0.02} {
		parts, err := Split(ring, geom.Point{X: 0.1, Y: 0}, geom.Point{X: 0.3, Y: 0.3}, over)
		require.NoError(t, err)
		require.Len(t, parts, 2)
		line := math.Hypot(0.2, 0.3)
		assert.InDelta(t, 0.12+over*line, parts[0].Area()+parts[1].Area(), over*over+1e-6)
	}
	parts, err := Split(ring, geom.Point{X: -1, Y: 1}, geom.Point{X: 1, Y: 1}, 0)
	require.NoError(t, err)
	assert.Len(t, parts, 1, "a line that passes by")
}
