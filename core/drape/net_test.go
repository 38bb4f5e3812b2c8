package drape

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
)

func lay(t testing.TB, m *Mesh, s Start, cell float64) *Net {
	t.Helper()
	n, err := m.Lay(context.Background(), s, Options{Cell: cell})
	require.NoError(t, err)
	return n
}

// shears are the least and most shear over cells that lie on the surface wholly.
func shears(n *Net) (least, most float64, cells int) {
	least, most = math.Inf(1), math.Inf(-1)
	for _, c := range n.Cells() {
		if c.On {
			least, most = min(least, c.Shear), max(most, c.Shear)
			cells++
		}
	}
	return least, most, cells
}

// On what can be unrolled, threads that begin as geodesics shear nowhere (Mack and Taylor
// 1956): within 0.05°, whatever the direction; and all threads keep their length.
func TestNoShearOnWhatCanBeUnrolled(t *testing.T) {
	for _, kind := range []string{Cylinder, Cone} {
		m := usual(t, kind, 60_000)
		lo, hi := m.Box()
		middle, _ := m.Locate(lo.along(hi, 0.5).Add(Vec{Z: 1}))
		for _, warp := range []float64{0, 30, 45, 77} {
			n := lay(t, m, Start{middle, unit.Rad(warp)}, 0.01)
			least, most, cells := shears(n)
			assert.Less(t, unit.Deg(most), 0.05, "%s at %g°", kind, warp)
			assert.Greater(t, unit.Deg(least), -0.05, "%s at %g°", kind, warp)
			// The cells cover the surface but for what the edge cuts.
			assert.InEpsilon(t, m.Area(), float64(cells)*1e-4, 0.1, "%s at %g°", kind, warp)
			kept(t, n)
		}
	}
}

// kept holds every thread of a net against its length: to 0.1 %, as every chord is a cell.
func kept(t *testing.T, n *Net) {
	t.Helper()
	for _, c := range n.Cells() {
		for k := range 4 {
			require.InEpsilon(t, n.Cell, c.Corners[k].Distance(c.Corners[(k+1)%4]), 1e-6)
		}
	}
}

// On a sphere of curvature K the angle ω between threads obeys ω_uv = −K sin ω, from a right
// angle along two geodesics (Chebyshev 1878; Servant). It is integrated here for itself, on a
// grid ten times as fine, and the net comes nearer to it as its cells are made smaller.
func TestASphereShearsAsItsEquationSays(t *testing.T) {
	const r, step = 0.4, 5e-4
	const n = 900
	// ω(i,j) = ω(i−1,j) + ω(i,j−1) − ω(i−1,j−1) − K h² sin of the mean.
	exact := make([][]float64, n)
	for j := range exact {
		exact[j] = make([]float64, n)
		for i := range exact[j] {
			exact[j][i] = math.Pi / 2
			if i > 0 && j > 0 {
				mean := (exact[j][i-1] + exact[j-1][i]) / 2
				exact[j][i] = 2*mean - exact[j-1][i-1] - step*step/r/r*math.Sin(mean)
			}
		}
	}
	// At one place, the middle of a cell whatever its size.
	const at = 0.15
	off := func(triangles int, cell float64) float64 {
		net := lay(t, usual(t, SphereCap, triangles), Start{}, cell)
		kept(t, net)
		k := int(at / cell)
		c, ok := net.cell(k, k)
		require.True(t, ok && c.On)
		other, ok := net.cell(-k-1, k)
		require.True(t, ok)
		assert.InDelta(t, -c.Shear, other.Shear, 2e-3, "the other way in the next quarter")
		return unit.Deg(math.Abs(c.Shear - math.Pi/2 + exact[int(at/step)][int(at/step)]))
	}
	cells := []float64{off(400_000, 0.1), off(400_000, 0.06), off(400_000, 0.02)}
	t.Logf("%.2f° by the equation; off by %.4f°, %.4f°, %.4f° at cells of 100, 60, 20 mm",
		90-unit.Deg(exact[300][300]), cells[0], cells[1], cells[2])
	assert.Less(t, cells[1], cells[0]/2)
	assert.Less(t, cells[2], 0.005, "what is left is the mesh's")
	coarse := off(4_000, 0.02)
	assert.Greater(t, coarse, cells[2])
	assert.Less(t, coarse, 0.2)
}

func TestAStartThatCannotBe(t *testing.T) {
	m := usual(t, SphereCap, 2000)
	_, err := m.Lay(context.Background(), Start{At: Vec{2, 0, 0}}, Options{Cell: 0.01})
	require.ErrorContains(t, err, "off the surface")
	_, err = m.Lay(context.Background(), Start{}, Options{})
	require.ErrorContains(t, err, "the cell of a net")
	_, err = m.Lay(context.Background(), Start{}, Options{Cell: 1e-5})
	require.ErrorContains(t, err, "too fine")
	stopped, stop := context.WithCancel(context.Background())
	stop()
	_, err = m.Lay(stopped, Start{}, Options{Cell: 0.01})
	require.ErrorIs(t, err, context.Canceled)
}

// Every built-in surface is laid all over.
func TestEverySurfaceIsLaid(t *testing.T) {
	for _, k := range Library {
		m := usual(t, k.Kind, 20_000)
		lo, hi := m.Box()
		middle := lo.along(hi, 0.5)
		at, _ := m.Locate(middle)
		n := lay(t, m, Start{at, unit.Rad(20)}, m.size/60)
		area := 0.0
		for _, c := range n.Cells() {
			if c.On {
				area += c.Corners[1].Sub(c.Corners[0]).Cross(c.Corners[3].Sub(c.Corners[0])).Length()
			}
		}
		assert.Greater(t, area/m.Area(), 0.85, k.Kind)
		least, most, _ := shears(n)
		t.Logf(
			"%s: %d nodes, shear %.1f° to %.1f°, covers %.3f",
			k.Kind,
			n.Nodes(),
			unit.Deg(least),
			unit.Deg(most),
			area/m.Area(),
		)
	}
}

// BenchmarkNet lays 20,000 nodes on a surface of 200,000 triangles.
func BenchmarkNet(b *testing.B) {
	m := usual(b, Paraboloid, 200_000)
	at, _ := m.Locate(Vec{0, 0.35, 0.1})
	b.ReportAllocs()
	for b.Loop() {
		n, err := m.Lay(context.Background(), Start{At: at, Warp: 0.6}, Options{Cell: 0.00315})
		require.NoError(b, err)
		b.ReportMetric(float64(n.Nodes()), "nodes")
	}
}

// Over a block of a net of pinned threads the curvature sums up to what its four angles lack of a full
// turn, ∬K dA = 2π − Σα (Hazzidakis, Ueber einige Eigenschaften der Flächen mit constantem
// Krümmungsmaass, J. reine angew. Math. 88 (1879), from memory): held against a hemisphere, with blocks
// from its pole whose far corners lie at up to 60° from it.
func TestAHemisphereByHazzidakis(t *testing.T) {
	const r, cell = 0.4, 0.005
	m, err := NewSurface(SphereCap, map[string]float64{"radius": r, "angle": math.Pi / 2}, 200_000)
	require.NoError(t, err)
	n := lay(t, m, Start{}, cell)
	for _, k := range []int{20, 40, 60} {
		area := 0.0
		for j := range k {
			for i := range k {
				c, ok := n.cell(i, j)
				require.True(t, ok && c.On)
				p := c.Corners
				area += p[1].Sub(p[0]).
					Cross(p[3].Sub(p[0])).
					Length()/
					2 + p[1].Sub(p[2]).
					Cross(p[3].Sub(p[2])).
					Length()/
					2
			}
		}
		omega := func(i, j int) float64 {
			warp, weft, ok := n.threads(i, j)
			require.True(t, ok)
			return math.Acos(warp.Dot(weft))
		}
		sum := omega(0, 0) + math.Pi - omega(k, 0) + omega(k, k) + math.Pi - omega(0, k)
		t.Logf(
			"to %.0f° from the pole: curvature %.4f, angles lack %.4f",
			unit.Deg(float64(k)*cell/r),
			area/r/r,
			2*math.Pi-sum,
		)
		assert.InEpsilon(t, area/r/r, 2*math.Pi-sum, 1e-3, "%d cells", k)
	}
}

// On a paraboloid the curvature is not the same everywhere: ω_uv = −K sin ω is integrated with that of
// the places where the threads cross, K = 1/(4f²)/(1 + r²/4f²)², node by node, from right angles along
// the two threads through the start.
func TestAParaboloidShearsAsItsEquationSays(t *testing.T) {
	const f = 0.35
	m, err := NewSurface(
		Paraboloid,
		map[string]float64{"focal": f, "inner": 0.02, "outer": 0.62, "angle": math.Pi * 0.9},
		400_000,
	)
	require.NoError(t, err)
	start, _ := m.Locate(Vec{Y: 0.3, Z: 0.3 * 0.3 / 4 / f})
	off := func(cell float64) float64 {
		n := lay(t, m, Start{start, 0.3}, cell)
		k := int(math.Round(0.2 / cell))
		// omega[j][i] from the start, shear measured at the middle of cells.
		omega := make([][]float64, k+1)
		for j := range omega {
			omega[j] = make([]float64, k+1)
			for i := range omega[j] {
				if i == 0 || j == 0 {
					omega[j][i] = math.Pi / 2
					continue
				}
				c, ok := n.cell(i-1, j-1)
				require.True(t, ok)
				p := c.Corners[0].along(c.Corners[2], 0.5)
				r2 := (p.X*p.X + p.Y*p.Y) / 4 / f / f
				curve := 1 / (4 * f * f) / (1 + r2) / (1 + r2)
				mean := (omega[j][i-1] + omega[j-1][i]) / 2
				omega[j][i] = 2*mean - omega[j-1][i-1] - curve*cell*cell*math.Sin(mean)
			}
		}
		c, ok := n.cell(k-1, k-1)
		require.True(t, ok && c.On)
		at := (omega[k][k] + omega[k-1][k] + omega[k][k-1] + omega[k-1][k-1]) / 4
		t.Logf("cells of %.0f mm: %.3f° by the equation, %.3f° laid", cell*1e3, 90-unit.Deg(at), unit.Deg(c.Shear))
		return unit.Deg(math.Abs(c.Shear - math.Pi/2 + at))
	}
	for _, cell := range []float64{0.02, 0.01, 0.005} {
		assert.Less(t, off(cell), 0.01)
	}
}
