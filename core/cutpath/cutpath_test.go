package cutpath

import (
	"fmt"
	"math"
	"testing"

	sf "github.com/peterstace/simplefeatures/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

func disc(x, y, radius float64, n int) geom.Ring {
	var r geom.Ring
	for k := range n {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / float64(n))
		r = append(r, geom.Point{X: x + radius*cos, Y: y + radius*sin})
	}
	return r
}

func square(x, y, side float64) geom.Ring { return geom.Rect(side, side).Move(x, y) }

// bare is a cutter that begins and ends where the line does.
func bare() Cutter {
	c := Usual()
	c.LeadIn, c.Overcut = 0, 0
	return c
}

// table draws pieces of some kinds, each in a cell of its own, some with a hole and some with a piece in it.
func table(t *rapid.T) (Sheet, []PlacedPiece) {
	var out []PlacedPiece
	nx, ny := rapid.IntRange(1, 5).Draw(t, "nx"), rapid.IntRange(1, 3).Draw(t, "ny")
	for x := range nx {
		for y := range ny {
			at := geom.Point{X: 0.01 + 0.21*float64(x), Y: 0.01 + 0.21*float64(y)}
			p := PlacedPiece{
				ID:    fmt.Sprintf("%d-%d", x, y),
				Kit:   []string{"a", "b"}[rapid.IntRange(0, 1).Draw(t, "kit")],
				Label: "SP-1 7",
			}
			angle := rapid.Float64Range(0, 2*math.Pi).Draw(t, "angle")
			p.Zero = &angle
			switch rapid.IntRange(0, 3).Draw(t, "kind") {
			case 0:
				p.Outline = square(at.X, at.Y, 0.208)
			case 1:
				p.Outline = disc(at.X+0.104, at.Y+0.104, 0.104, 60)
			case 2: // a corner inwards
				p.Outline = geom.Ring{
					{X: 0, Y: 0},
					{X: 0.2, Y: 0},
					{X: 0.2, Y: 0.05},
					{X: 0.06, Y: 0.05},
					{X: 0.06, Y: 0.2},
					{X: 0, Y: 0.2},
				}.
					Move(
						at.X,
						at.Y,
					)
			case 3:
				p.Outline = square(at.X, at.Y, 0.208)
				p.Holes = []geom.Ring{square(at.X+0.02, at.Y+0.02, 0.05), disc(at.X+0.14, at.Y+0.14, 0.05, 40)}
				if rapid.Bool().Draw(t, "within") {
					out = append(
						out,
						PlacedPiece{ID: p.ID + "w", Kit: "b", Outline: square(at.X+0.12, at.Y+0.12, 0.03)},
					)
				}
			}
			out = append(out, p)
		}
	}
	return Sheet{Length: 0.02 + 0.21*float64(nx), Width: 0.02 + 0.21*float64(ny)}, out
}

// cloth is what must not be cut into: a piece without a rim of 10 µm.
func cloth(t require.TestingT, p PlacedPiece) sf.Geometry {
	rim, err := p.Outline.Offset(-1e-5)
	require.NoError(t, err)
	g := rim.Polygon()
	for _, h := range p.Holes {
		hole, err := h.Offset(1e-5)
		require.NoError(t, err)
		g, err = sf.Difference(g, hole.Polygon())
		require.NoError(t, err)
	}
	return g
}

func lineOf(points []geom.Point) sf.Geometry {
	var flat []float64
	for _, p := range points {
		flat = append(flat, p.X, p.Y)
	}
	return sf.NewLineString(sf.NewSequence(flat, sf.DimXY)).AsGeometry()
}

// off is how far a point is from the nearest stroke of the knife.
func off(all []Stroke, q geom.Point) float64 {
	best := math.Inf(1)
	for _, s := range all {
		for k := 1; s.Tool == Knife && k < len(s.Points); k++ {
			best = min(best, q.To(s.Points[k-1], s.Points[k]))
		}
	}
	return best
}

func TestEveryOutlineIsCutAndNoPlyIsCutInto(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sheet, pieces := table(t)
		o := Options{ByKit: rapid.Bool().Draw(t, "by kit"), Across: true}
		c := Usual()
		if rapid.Bool().Draw(t, "table") {
			c.Table = 0.21
			for i := range pieces { // none lies across the end of the table
				dx := -0.005
				pieces[i].Outline = pieces[i].Outline.Move(dx, 0)
				for h := range pieces[i].Holes {
					pieces[i].Holes[h] = pieces[i].Holes[h].Move(dx, 0)
				}
			}
		}
		path, err := Plan(sheet, pieces, c, o)
		require.NoError(t, err)
		solid := make([]sf.Geometry, len(pieces))
		for i, p := range pieces {
			solid[i] = cloth(t, p)
			for _, r := range append([]geom.Ring{p.Outline}, p.Holes...) {
				for k, a := range r {
					require.Less(t, off(path.Strokes, a), 1e-9)
					require.Less(t, off(path.Strokes, a.Middle(r[(k+1)%len(r)])), 1e-9)
				}
			}
		}
		freed, cutting, advanced := map[int]int{}, 0, 0
		kits := []string{}
		for n, s := range path.Strokes {
			require.GreaterOrEqual(t, len(s.Points), 2)
			require.GreaterOrEqual(t, s.Advanced, advanced, "the cloth goes one way")
			if s.Advanced > advanced {
				advanced, cutting, kits = s.Advanced, 0, nil
			}
			if s.Tool == Pen {
				require.Zero(t, cutting, "all is marked before the first cut")
				for _, q := range s.Points {
					require.True(t, pieces[s.Piece].Outline.Contains(q))
				}
				continue
			}
			cutting++
			for i, g := range solid {
				require.False(t, sf.Intersects(lineOf(s.Points), g), "stroke %d goes into piece %s", n, pieces[i].ID)
			}
			if s.Piece < 0 {
				continue
			}
			_, over := freed[s.Piece]
			require.False(t, over, "nothing is cut of a piece that is free")
			if s.Frees {
				freed[s.Piece] = n
			}
			if kit := pieces[s.Piece].Kit; len(kits) == 0 || kits[len(kits)-1] != kit {
				kits = append(kits, kit)
			}
		}
		require.Len(t, freed, len(pieces))
		for i, p := range pieces {
			for j, q := range pieces {
				for _, h := range p.Holes {
					if h.Contains(q.Outline.Centroid()) && i != j {
						require.Less(t, freed[j], freed[i], "what lies in a hole is cut before what is round it")
					}
				}
			}
		}
		if o.ByKit && len(path.Strokes) > 0 && c.Table == 0 && noneWithin(pieces) {
			require.LessOrEqual(t, len(kits), 2, "kit by kit")
		}
		require.Positive(t, path.Seconds)
	})
}

func noneWithin(pieces []PlacedPiece) bool {
	for _, p := range pieces {
		if p.ID[len(p.ID)-1] == 'w' {
			return false
		}
	}
	return true
}

// The way of the lifted knife against what it cannot be longer or shorter than: the nearest next each time,
// and the least spanning tree (by Prim) over the nearest ways between any two.
func TestOrderLiesBetweenTheNearestNextAndTheSpanningTree(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		point := func(name string) geom.Point {
			return geom.Point{X: rapid.Float64Range(0, 3).Draw(t, name), Y: rapid.Float64Range(0, 1.2).Draw(t, name)}
		}
		var items []item
		for k := range rapid.IntRange(1, 25).Draw(t, "n") {
			var i item
			if rapid.Bool().Draw(t, "open") {
				a, b := point("a"), point("b")
				i.options = []option{{a, b, 1}, {b, a, 0}}
			} else {
				for n := range rapid.IntRange(1, 5).Draw(t, "corners") {
					p := point("p")
					i.options = append(i.options, option{p, p, n})
				}
			}
			if k > 0 && rapid.IntRange(0, 5).Draw(t, "waits") == 0 {
				i.before = []int{rapid.IntRange(0, k-1).Draw(t, "for")}
			}
			items = append(items, i)
		}
		start := point("start")
		first := &tour{items: items, start: start, option: make([]int, len(items)), place: make([]int, len(items))}
		first.nearest()
		got := order(items, start)
		require.LessOrEqual(t, got.length(), first.length()+1e-9)
		require.GreaterOrEqual(t, got.length(), tree(items, start)-1e-9)
		require.Len(t, got.order, len(items))
		for k, i := range got.order {
			require.Equal(t, k, got.place[i])
			for _, b := range items[i].before {
				require.Less(t, got.place[b], k)
			}
		}
	})
}

// tree is the length of the least spanning tree: no way from one to the other is shorter than between the
// nearest of their ends.
func tree(items []item, start geom.Point) float64 {
	ends := [][]geom.Point{{start}}
	for _, i := range items {
		var own []geom.Point
		for _, o := range i.options {
			own = append(own, o.in, o.out)
		}
		ends = append(ends, own)
	}
	near := make([]float64, len(ends))
	in := make([]bool, len(ends))
	for k := range near {
		near[k] = math.Inf(1)
	}
	near[0] = 0
	sum := 0.0
	for range ends {
		best := -1
		for k := range ends {
			if !in[k] && (best < 0 || near[k] < near[best]) {
				best = k
			}
		}
		in[best] = true
		sum += near[best]
		for k := range ends {
			for _, a := range ends[best] {
				for _, b := range ends[k] {
					if d := apart(a, b); !in[k] && d < near[k] {
						near[k] = d
					}
				}
			}
		}
	}
	return sum
}

// Plies that touch share their lines, and the edge of the roll is no cut at all.
func TestCommonLinesAreCutOnce(t *testing.T) {
	var pieces []PlacedPiece
	for x := range 4 {
		for y := range 3 {
			pieces = append(
				pieces,
				PlacedPiece{ID: fmt.Sprint(x, y), Outline: square(float64(x)*0.1, float64(y)*0.2, 0.1).Move(0, 0)},
			)
			pieces[len(pieces)-1].Outline = geom.Rect(0.1, 0.2).Move(float64(x)*0.1, float64(y)*0.2)
		}
	}
	path, err := Plan(Sheet{Length: 0.4, Width: 0.6}, pieces, bare(), Options{Across: true})
	require.NoError(t, err)
	// Five lines across, two along between the rows; the two along the edges of the roll are there.
	assert.InDelta(t, 5*0.6+2*0.4, path.Cut, 1e-9)
	// Half a side is shared where they are set off by half.
	pieces = []PlacedPiece{{ID: "1", Outline: square(0.1, 0.1, 0.2)}, {ID: "2", Outline: square(0.3, 0.2, 0.2)}}
	path, err = Plan(Sheet{Length: 1, Width: 0.6}, pieces, bare(), Options{})
	require.NoError(t, err)
	assert.InDelta(t, 1.6-0.1, path.Cut, 1e-9)
}

// What is cut already is not cut again, nor marked, and nothing runs into it: a lead-in that would is shorter.
func TestWhatIsCutAlreadyIsKeptClearOf(t *testing.T) {
	c := Usual()
	pieces := []PlacedPiece{
		{ID: "1", Outline: square(0.1, 0.1, 0.1), Label: "A", Cut: true},
		{ID: "2", Outline: square(0.2, 0.1, 0.1)},
	}
	path, err := Plan(Sheet{Length: 1, Width: 0.6}, pieces, c, Options{})
	require.NoError(t, err)
	long := 0.0
	for _, s := range path.Strokes {
		assert.Equal(t, 1, s.Piece)
		for _, q := range s.Points {
			assert.GreaterOrEqual(t, q.X, 0.2-1e-9, "the square beside it begins there")
		}
		long += apart(s.Points[0], s.Points[len(s.Points)-1])
	}
	assert.InDelta(t, 0.3, long, 4*(c.LeadIn+c.Overcut), "the side between them is cut")
	assert.Zero(t, path.Drawn)
}

func TestTheKnifeIsLiftedAtSharpCornersOnly(t *testing.T) {
	c := Usual()
	path, err := Plan(
		Sheet{Length: 1, Width: 0.6},
		[]PlacedPiece{{ID: "1", Outline: square(0.2, 0.2, 0.1)}},
		c,
		Options{},
	)
	require.NoError(t, err)
	require.Len(t, path.Strokes, 4)
	assert.InDelta(t, 4*(0.1+c.LeadIn+c.Overcut), path.Cut, 1e-9)
	path, err = Plan(
		Sheet{Length: 1, Width: 0.6},
		[]PlacedPiece{{ID: "1", Outline: disc(0.3, 0.3, 0.1, 72)}},
		c,
		Options{},
	)
	require.NoError(t, err)
	require.Len(t, path.Strokes, 1)
	ring := disc(0.3, 0.3, 0.1, 72)
	assert.InDelta(t, ring.Perimeter()+c.LeadIn+c.Overcut, path.Cut, 1e-4, "in from the waste, and on along the line")
	// Into a corner that points inwards nothing goes on.
	notch := geom.Ring{{X: 0.1, Y: 0.1}, {X: 0.3, Y: 0.1}, {X: 0.3, Y: 0.3}, {X: 0.2, Y: 0.2}, {X: 0.1, Y: 0.3}}
	path, err = Plan(Sheet{Length: 1, Width: 0.6}, []PlacedPiece{{ID: "1", Outline: notch}}, c, Options{})
	require.NoError(t, err)
	require.Len(t, path.Strokes, 5)
	assert.InDelta(t, notch.Perimeter()+4*(c.LeadIn+c.Overcut), path.Cut, 1e-9)
}

// Uniformly accelerated motion (any textbook of mechanics): v/a + d/v over a way that reaches its speed,
// 2·√(d/a) over one that does not.
func TestTimeOfAStraightWay(t *testing.T) {
	c := bare()
	c.Lift, c.Lower = 0, 0
	line := func(long float64) []Stroke { return []Stroke{{Tool: Knife, Points: []geom.Point{{}, {X: long}}}} }
	assert.InDelta(t, 2+0.25, Seconds(line(1), c), 1e-12)
	assert.InDelta(t, 2*math.Sqrt(0.05/2), Seconds(line(0.05), c), 1e-12)
	c.Lift, c.Lower = 0.2, 0.1
	assert.InDelta(t, 2.25+0.3, Seconds(line(1), c), 1e-12)
	// Lifted there at 1 m/s: 0.5 + 0.5 s, and half a turn takes longer.
	there := []Stroke{{Tool: Knife, Points: []geom.Point{{X: 1, Y: 0}, {X: 0, Y: 0}}}}
	assert.InDelta(t, 1.5+0.3+2.25, Seconds(there, c), 1e-12)
	c.Turn = math.Pi / 2
	assert.InDelta(t, 2+0.3+2.25, Seconds(there, c), 1e-12)
	// A point on the way changes nothing, a right angle does: there it all but stops.
	through := []Stroke{{Tool: Knife, Points: []geom.Point{{}, {X: 0.3}, {X: 1}}}}
	assert.InDelta(t, 2.55, Seconds(through, c), 1e-9)
	bent := []Stroke{{Tool: Knife, Points: []geom.Point{{}, {X: 0.5}, {X: 0.5, Y: 0.5}}}}
	v := c.Jump / math.Sqrt2 // the change of velocity is √2 times as large
	assert.InDelta(t, 0.3+2*(1+0.25)-2*(v/2-v*v/(2*2*0.5)), Seconds(bent, c), 1e-9)
}

func TestWritingIsLegible(t *testing.T) {
	seen := map[string]rune{}
	for r := range strokesOf {
		key := fmt.Sprint(LetterStrokes(string(r), geom.Point{}, 6))
		other, twice := seen[key]
		assert.False(t, twice, "%c is written as %c", r, other)
		seen[key] = r
		for _, l := range LetterStrokes(string(r), geom.Point{X: 1, Y: 2}, 0.006) {
			assert.Greater(t, len(l), 1)
			for _, p := range l {
				assert.True(t, p.X >= 1 && p.X <= 1.004+1e-12 && p.Y >= 2 && p.Y <= 2.006+1e-12, "%c", r)
			}
		}
	}
	assert.Equal(t, LetterStrokes("q", geom.Point{}, 1), LetterStrokes("Q", geom.Point{}, 1))
	assert.Len(t, LetterStrokes("é", geom.Point{}, 1), 1, "a box for what it does not know")
	assert.Equal(t, []string{"É", "Ž"}, MissingLetters("SP-1 · é 7 Žé"))
	assert.Empty(t, MissingLetters("SP-11 · 0003 · 5a"))
}

// Three squares in a row, 2 mm apart, are cut off below and above in one go each, and once between two; a ply that
// lies in the line keeps them apart.
func TestStraightCutsAreJoinedTheLongestFirst(t *testing.T) {
	var pieces []PlacedPiece
	for k := range 3 {
		pieces = append(pieces, PlacedPiece{ID: fmt.Sprint(k), Outline: square(0.01+0.102*float64(k), 0.01, 0.1)})
	}
	sheet := Sheet{Length: 1, Width: 0.6}
	cuts := HandCuts(sheet, pieces)
	require.Len(t, cuts, 2+6)
	for k, c := range cuts {
		switch {
		case k < 2:
			assert.InDelta(t, 0.304, c.Length(), 1e-9)
			assert.Equal(t, []int{0, 1, 2}, c.Pieces)
		default:
			assert.InDelta(t, 0.1, c.Length(), 1e-9)
			assert.Len(t, c.Pieces, 1)
		}
	}
	// A small ply across the line between the first two: nothing is cut through it.
	pieces[1].Outline = pieces[1].Outline.Move(0.01, 0)
	pieces[2].Outline = pieces[2].Outline.Move(0.01, 0)
	pieces = append(pieces, PlacedPiece{ID: "tip", Outline: square(0.112, 0.105, 0.008)})
	cuts = HandCuts(sheet, pieces)
	assert.InDelta(t, 0.314, cuts[0].Length(), 1e-9, "below nothing lies between")
	assert.Equal(t, 0.01, cuts[0].From.Y)
	assert.InDelta(t, 0.202, cuts[1].Length(), 1e-9)
	assert.Empty(
		t,
		HandCuts(sheet, []PlacedPiece{{ID: "d", Outline: disc(0.3, 0.3, 0.1, 72)}}),
		"nothing of it is straight",
	)
}

func TestSmallPiecesAreNamedAndBadCuttersRefused(t *testing.T) {
	tiny := PlacedPiece{ID: "t", Outline: square(0.1, 0.1, 0.01), Label: "SP-11 · 0030 · 4"}
	path, err := Plan(Sheet{Length: 1, Width: 0.6}, []PlacedPiece{tiny}, Usual(), Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"t"}, path.Unmarked)
	for field, change := range map[string]func(*Cutter){
		"feed": func(c *Cutter) { c.Feed = 0 }, "acceleration": func(c *Cutter) { c.Acceleration = math.NaN() },
		"overcut": func(c *Cutter) { c.Overcut = -1 }, "corner": func(c *Cutter) { c.Corner = 4 },
	} {
		c := Usual()
		change(&c)
		_, err := Plan(Sheet{Length: 1, Width: 0.6}, nil, c, Options{})
		var wrong *FieldError
		require.ErrorAs(t, err, &wrong)
		assert.Equal(t, field, wrong.Field)
	}
	_, err = Plan(
		Sheet{Length: 1, Width: 0.6},
		[]PlacedPiece{{ID: "x", Outline: geom.Ring{{}, {X: 1}}}},
		Usual(),
		Options{},
	)
	assert.ErrorContains(t, err, "piece x")
}

// BenchmarkPlan is the way over 150 plies of four corners and a label each.
// rows are square plies in rows of three that lie close together.
func rows(n int) (Sheet, []PlacedPiece) {
	pieces := make([]PlacedPiece, n)
	for k := range pieces {
		pieces[k] = PlacedPiece{
			ID: fmt.Sprint(k), Outline: square(float64(k/3)*0.2, float64(k%3)*0.2, 0.198), Label: "SP-11 · 0030 · 4",
		}
	}
	return Sheet{Length: float64(n)/15 + 0.1, Width: 0.6}, pieces
}

func BenchmarkPlan(b *testing.B) {
	sheet, pieces := rows(150)
	for b.Loop() {
		if _, err := Plan(sheet, pieces, Usual(), Options{Across: true}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkByRule(b *testing.B) {
	sheet, pieces := rows(1000)
	for b.Loop() {
		HandCuts(sheet, pieces)
	}
}
