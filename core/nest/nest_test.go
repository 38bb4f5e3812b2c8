package nest

import (
	"context"
	"fmt"
	"math"
	"slices"
	"testing"

	sf "github.com/peterstace/simplefeatures/geom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
)

func rectangles(n int, w, h float64) []Piece {
	var out []Piece
	for i := range n {
		out = append(out, Piece{ID: fmt.Sprint(i), Outline: geom.Rect(w, h)})
	}
	return out
}

func roll(width, length float64) []Sheet { return []Sheet{{Width: width, Length: length}} }

// A dissection of a 1.2 m × 0.6 m sheet into nine rectangles, its optimum known: no gap, nothing wasted.
func TestDissectedRectangleIsFilledWhole(t *testing.T) {
	var pieces []Piece
	for i, s := range [][2]float64{
		{0.4, 0.6}, {0.4, 0.2}, {0.4, 0.2}, {0.4, 0.2}, {0.2, 0.3}, {0.2, 0.3}, {0.2, 0.2}, {0.2, 0.2}, {0.2, 0.2},
	} {
		pieces = append(pieces, Piece{ID: fmt.Sprint(i), Outline: geom.Rect(s[0], s[1])})
	}
	r, err := Nest(context.Background(), Problem{Pieces: pieces, Sheets: roll(0.6, 5)}, Options{Seed: 1, Steps: 60_000})
	require.NoError(t, err)
	assert.InDelta(t, 1.2, r.Length, 3e-5)
	assert.InDelta(t, 1, r.Yield, 3e-5)
}

func TestRectanglesMeetTheAreaBound(t *testing.T) {
	p := Problem{Pieces: rectangles(8, 0.25, 0.15), Sheets: roll(0.6, 3)}
	r, err := Nest(context.Background(), p, Options{Seed: 3, Steps: 10})
	require.NoError(t, err)
	assert.InDelta(t, 0.5, r.Length, 3e-5)
}

// hands gives pieces with straight, slanted and hollow sides, some with holes, on sheets with flaws and
// table ends.
func hands(t *rapid.T) Problem {
	p := Problem{
		Sheets: []Sheet{
			{Width: 0.6, Length: 40, EdgeTrim: 0.01},
		}, Gap: rapid.SampledFrom([]float64{0, 0.002, 0.0035}).Draw(t, "gap"),
	}
	if rapid.Bool().Draw(t, "offcut") {
		p.Sheets = []Sheet{{Width: 0.45, Length: 0.5}, p.Sheets[0]}
	}
	last := &p.Sheets[len(p.Sheets)-1]
	if rapid.Bool().Draw(t, "flawed") {
		last.Flaws = []Flaw{{From: 0.31, To: 0.42}, {From: 0.05, To: 0.1, Low: 0.2, High: 0.25}}
	}
	if rapid.Bool().Draw(t, "table") {
		last.TableLength = 0.7
	}
	for i := range rapid.IntRange(2, 8).Draw(t, "pieces") {
		w, h := rapid.Float64Range(0.05, 0.4).Draw(t, "w"), rapid.Float64Range(0.05, 0.4).Draw(t, "h")
		outline := rapid.SampledFrom([]geom.Ring{
			geom.Rect(w, h),
			{{X: 0, Y: 0}, {X: w, Y: 0}, {X: w / 3, Y: h}},
			{{X: 0, Y: 0}, {X: w, Y: 0}, {X: w, Y: h / 4}, {X: w / 4, Y: h / 4}, {X: w / 4, Y: h}, {X: 0, Y: h}},
			{{X: w / 2, Y: 0}, {X: w, Y: h / 2}, {X: w / 2, Y: h}, {X: 0, Y: h / 2}},
			ringSector(0.6*w, w, 1.2),
		}).Draw(t, "outline")
		one := Piece{
			ID:          fmt.Sprint(i),
			Outline:     outline,
			HalfTurn:    rapid.Bool().Draw(t, "half"),
			QuarterTurn: rapid.Bool().Draw(t, "quarter"),
		}
		if len(outline) == 4 && outline[0] == (geom.Point{}) && rapid.Bool().Draw(t, "hole") {
			one.Holes = []geom.Ring{geom.Rect(w*0.6, h*0.6).Move(w*0.2, h*0.2)}
		}
		p.Pieces = append(p.Pieces, one)
	}
	return p
}

// ringSector is a sector of a ring with its arcs in chords.
func ringSector(inner, outer, angle float64) geom.Ring {
	var r geom.Ring
	const n = 24
	for k := range n + 1 {
		sin, cos := math.Sincos(angle * float64(k) / n)
		r = append(r, geom.Point{X: outer * cos, Y: outer * sin})
	}
	for k := range n + 1 {
		sin, cos := math.Sincos(angle * float64(n-k) / n)
		r = append(r, geom.Point{X: inner * cos, Y: inner * sin})
	}
	return r
}

// cloth is a piece as the geometry library sees it, its holes cut out.
func cloth(t require.TestingT, piece Piece, at Placement) sf.Geometry {
	g := PlaceOutline(piece.Outline, at).Polygon()
	for _, h := range piece.Holes {
		var err error
		g, err = sf.Difference(g, PlaceOutline(h, at).Polygon())
		require.NoError(t, err)
	}
	return g
}

// The second test of overlap: the overlay and the distance of the geometry library, which share nothing
// with the engine or with Verify. Area is conserved, the fibre stays along the roll or across where that is
// declared equal.
func TestEveryNestPassesASecondOverlapTest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := hands(t)
		r, err := Nest(context.Background(), p, Options{Seed: 9, Steps: 60})
		require.NoError(t, err)
		require.Zero(t, r.Dropped)
		byID := map[string]Piece{}
		for _, piece := range p.Pieces {
			byID[piece.ID] = piece
		}
		area := 0.0
		for i, a := range r.Placements {
			ga := cloth(t, byID[a.ID], a)
			area += ga.Area()
			require.InDelta(t, byID[a.ID].Area(), ga.Area(), 1e-6)
			require.True(t, a.Turn == 0 || byID[a.ID].QuarterTurn || byID[a.ID].HalfTurn && a.Turn == 180)
			for _, b := range r.Placements[:i] {
				if a.Sheet != b.Sheet {
					continue
				}
				gb := cloth(t, byID[b.ID], b)
				shared, err := sf.Intersection(ga, gb)
				require.NoError(t, err)
				require.Less(t, shared.Area(), 1e-9, "%s and %s", a.ID, b.ID)
				d, ok := sf.Distance(ga, gb)
				require.True(t, ok)
				require.GreaterOrEqual(t, d, p.Gap-2e-6)
			}
		}
		used := 0.0
		for k, s := range p.Sheets {
			used += r.Used[k] * s.Width
		}
		require.InDelta(t, area/used, r.Yield, 1e-4)
	})
}

// A slanted edge that comes to rest on a corner, with no gap between: a rounding of 0.001 µm the wrong way
// is an overlap to the exact check.
func TestASlantedEdgeRestsOnACornerWithoutCuttingIt(t *testing.T) {
	hook := func(w, h float64) geom.Ring {
		return geom.Ring{
			{X: 0, Y: 0},
			{X: w, Y: 0},
			{X: w, Y: h / 4},
			{X: w / 4, Y: h / 4},
			{X: w / 4, Y: h},
			{X: 0, Y: h},
		}
	}
	wedge := func(w, h float64) geom.Ring { return geom.Ring{{X: 0, Y: 0}, {X: w, Y: 0}, {X: w / 3, Y: h}} }
	p := Problem{Sheets: []Sheet{{Width: 0.6, Length: 40, EdgeTrim: 0.01}}, Pieces: []Piece{
		{ID: "0", Outline: geom.Rect(0.0625, 0.17236328125)},
		{ID: "1", Outline: wedge(0.19406890869140625, 0.054718017578125)},
		{ID: "2", Outline: hook(0.125, 0.4), HalfTurn: true},
		{ID: "3", Outline: geom.Rect(0.0703125, 0.1875)},
		{ID: "4", Outline: geom.Ring{
			{
				X: 0.08984375,
				Y: 0,
			}, {X: 0.1796875, Y: 0.02978515625}, {X: 0.08984375, Y: 0.0595703125}, {X: 0, Y: 0.02978515625},
		}},
		{ID: "5", Outline: hook(0.05, 0.29296875)},
		{ID: "6", Outline: wedge(0.1251915479078889, 0.19069010382561322), HalfTurn: true},
	}}
	r, err := Nest(
		context.Background(),
		p,
		Options{Seed: 0x1cbbea3414, Steps: 4000, Progress: func(best Layout, _ int) {
			assert.NoError(t, Verify(p, best), "every nest on the way, too")
		}},
	)
	assert.NoError(t, err)
	assert.Zero(t, r.Dropped)
}

func TestSameSeedAndStepsGiveTheSameNest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := hands(t)
		o := Options{Seed: rapid.Uint64().Draw(t, "seed"), Steps: 400}
		a, err := Nest(context.Background(), p, o)
		require.NoError(t, err)
		b, err := Nest(context.Background(), p, o)
		require.NoError(t, err)
		assert.Equal(t, a, b)
	})
}

func TestMoreStepsNeverGiveALongerSheetAndProgressHearsOfIt(t *testing.T) {
	var pieces []Piece
	for i := range 14 {
		pieces = append(
			pieces,
			Piece{ID: fmt.Sprint(i), Outline: geom.Rect(0.1+0.02*float64(i%5), 0.09+0.03*float64(i%4))},
		)
	}
	p := Problem{Pieces: pieces, Sheets: roll(0.45, 9)}
	var heard []float64
	r, err := Nest(context.Background(), p, Options{Steps: 9000, Progress: func(best Layout, _ int) {
		heard = append(heard, best.Length)
	}})
	require.NoError(t, err)
	require.NotEmpty(t, heard)
	assert.True(
		t,
		slices.IsSortedFunc(heard, func(a, b float64) int { return int(math.Copysign(1, b-a)) }),
		"%v",
		heard,
	)
	assert.Equal(t, r.Length, heard[len(heard)-1])
	first, err := Nest(context.Background(), p, Options{Steps: 1})
	require.NoError(t, err)
	assert.LessOrEqual(t, r.Length, first.Length)
}

func TestStoppingKeepsTheBestSoFar(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	pieces, width, _ := dissection(5, 12, true)
	p := Problem{Pieces: pieces, Sheets: roll(width, 9)}
	heard := 0
	r, err := Nest(ctx, p, Options{Progress: func(Layout, int) {
		if heard++; heard == 2 {
			stop()
		}
	}})
	require.NoError(t, err)
	assert.NoError(t, Verify(p, r))
}

// Turned by 180° as a whole a problem is the same: the shortest strip of a dissection is as long.
func TestAProblemTurnedWholeIsAsLong(t *testing.T) {
	for seed := range uint64(4) {
		pieces, width, long := dissection(seed, 5, seed%2 == 1)
		turned := make([]Piece, len(pieces))
		for i, p := range pieces {
			p.Outline = p.Outline.Rotate(math.Pi)
			turned[i] = p
		}
		for _, all := range [][]Piece{pieces, turned} {
			r, err := Nest(
				context.Background(),
				Problem{Pieces: all, Sheets: roll(width+grain, 9)},
				Options{Seed: seed, Steps: 30_000},
			)
			require.NoError(t, err)
			assert.InEpsilon(t, long, r.Length, 2e-3, "seed %d", seed)
		}
	}
}

func TestOffcutsAreUsedUpBeforeTheRoll(t *testing.T) {
	p := Problem{
		Pieces: rectangles(6, 0.2, 0.2), Gap: 0.002,
		Sheets: []Sheet{{Name: "off-cut", Width: 0.45, Length: 0.45}, {Name: "roll", Width: 0.6, Length: 10}},
	}
	r, err := Nest(context.Background(), p, Options{Steps: 2000})
	require.NoError(t, err)
	on := map[int]int{}
	for _, at := range r.Placements {
		on[at.Sheet]++
	}
	assert.Equal(t, map[int]int{0: 4, 1: 2}, on)
	assert.InDelta(t, 0.2, r.Used[1], 1e-4)
}

func TestHolesTakePieces(t *testing.T) {
	p := Problem{Sheets: roll(0.5, 3), Gap: 0.002, Pieces: []Piece{
		{ID: "frame", Outline: geom.Rect(0.5, 0.5), Holes: []geom.Ring{geom.Rect(0.4, 0.4).Move(0.05, 0.05)}},
		{ID: "a", Outline: geom.Rect(0.39, 0.19)}, {ID: "b", Outline: geom.Rect(0.39, 0.19)},
	}}
	r, err := Nest(context.Background(), p, Options{Steps: 20_000})
	require.NoError(t, err)
	assert.InDelta(t, 0.5, r.Length, 1e-4)
}

func TestNoPieceLiesAcrossTheEndOfTheTable(t *testing.T) {
	p := Problem{Pieces: rectangles(4, 0.3, 0.5), Sheets: []Sheet{{Width: 0.6, Length: 10, TableLength: 0.7}}}
	r, err := Nest(context.Background(), p, Options{Steps: 2000})
	require.NoError(t, err)
	assert.InDelta(t, 1.3, r.Length, 1e-4, "two on each length of the table")
	for _, at := range r.Placements {
		assert.True(t, at.X+0.3 <= 0.7+1e-6 || at.X >= 0.7-1e-6)
	}
}

func TestHeldPiecesStayAndTheOthersGoRoundThem(t *testing.T) {
	p := Problem{Pieces: rectangles(5, 0.25, 0.19), Sheets: roll(0.6, 10), Gap: 0.002}
	at := Placement{ID: "3", X: 0.1, Y: 0.15}
	p.Pieces[3].At = &at
	r, err := Nest(context.Background(), p, Options{Steps: 3000})
	require.NoError(t, err)
	assert.Contains(t, r.Placements, at)
	other := at
	other.ID, other.X = "4", 0.2
	p.Pieces[4].At = &other
	_, err = Nest(context.Background(), p, Options{Steps: 10})
	assert.EqualError(t, err, "pieces[4].at: pieces 3 and 4 overlap")
}

func TestPiecesOfOneBatchLieOnSheetsOfOneBatch(t *testing.T) {
	p := Problem{Pieces: rectangles(8, 0.25, 0.25), Sheets: []Sheet{
		{Width: 0.6, Length: 0.3, Batch: "B1"}, {Width: 0.6, Length: 8, Batch: "B2"},
	}}
	for i := range 4 {
		p.Pieces[i].Batch = "skin"
	}
	r, err := Nest(context.Background(), p, Options{Steps: 3000})
	require.NoError(t, err)
	for _, at := range r.Placements {
		if p.Pieces[slices.IndexFunc(p.Pieces, func(q Piece) bool { return q.ID == at.ID })].Batch != "" {
			assert.Equal(t, 1, at.Sheet)
		}
	}
	assert.Positive(t, r.Used[0], "the others use the first up")
}

func TestWhatDoesNotFitIsLeftOutByKits(t *testing.T) {
	p := Problem{Sheets: roll(0.6, 1), First: []string{"B-2", "B-3", "B-1"}}
	for k := 1; k <= 3; k++ {
		for i, q := range rectangles(4, 0.29, 0.25) {
			q.ID, q.Kit = fmt.Sprintf("B-%d/%d", k, i), fmt.Sprintf("B-%d", k)
			p.Pieces = append(p.Pieces, q)
		}
	}
	_, err := Nest(context.Background(), p, Options{Steps: 4000})
	assert.EqualError(t, err, "sheets: ⟨run 1 2⟩ are left and ⟨run 1.74 2⟩ are needed: ⟨run 0.74 2⟩ too short")
	p.Leave = true
	r, err := Nest(context.Background(), p, Options{Steps: 4000})
	require.NoError(t, err)
	require.NoError(t, Verify(p, r))
	assert.Equal(t, []string{"B-1/0", "B-1/1", "B-1/2", "B-1/3", "B-3/0", "B-3/1", "B-3/2", "B-3/3"}, sorted(r.Left))
}

func sorted(s []string) []string {
	s = slices.Clone(s)
	slices.Sort(s)
	return s
}

func TestBadProblemNamesTheField(t *testing.T) {
	good := Problem{Pieces: rectangles(1, 0.2, 0.1), Sheets: roll(0.3, 1)}
	for field, change := range map[string]func(*Problem){
		"pieces":                func(p *Problem) { p.Pieces = nil },
		"sheets":                func(p *Problem) { p.Sheets = nil },
		"sheets[0].width":       func(p *Problem) { p.Sheets[0].Width = 0 },
		"sheets[0].length":      func(p *Problem) { p.Sheets[0].Length = math.NaN() },
		"gap":                   func(p *Problem) { p.Gap = -1 },
		"sheets[0].edgeTrim":    func(p *Problem) { p.Sheets[0].EdgeTrim = 0.2 },
		"sheets[0].flaws[0]":    func(p *Problem) { p.Sheets[0].Flaws = []Flaw{{From: 2, To: 1}} },
		"sheets[0].tableLength": func(p *Problem) { p.Sheets[0].TableLength = -1 },
		"pieces[0].outline":     func(p *Problem) { p.Pieces[0].Outline = geom.Rect(0.2, 0.5) },
		"pieces[0].id":          func(p *Problem) { p.Pieces[0].ID = "" },
		"pieces[0].sheets":      func(p *Problem) { p.Pieces[0].Sheets = []int{3} },
		"pieces[0].holes[0]":    func(p *Problem) { p.Pieces[0].Holes = []geom.Ring{geom.Rect(1, 1)} },
		"pieces[0].at":          func(p *Problem) { p.Pieces[0].At = &Placement{ID: "0", Turn: 90} },
	} {
		p := good
		p.Pieces, p.Sheets = slices.Clone(good.Pieces), slices.Clone(good.Sheets)
		change(&p)
		_, err := Nest(context.Background(), p, Options{Steps: 10})
		var wrong *FieldError
		require.ErrorAs(t, err, &wrong, field)
		assert.Equal(t, field, wrong.Field)
	}
}

// A roll that is all flaw, and one too short for any piece.
func TestARollWithoutRoomSaysSo(t *testing.T) {
	p := Problem{
		Pieces: rectangles(2, 0.3, 0.2),
		Sheets: []Sheet{{Width: 0.6, Length: 2, Flaws: []Flaw{{From: 0, To: 2}}}},
	}
	_, err := Nest(context.Background(), p, Options{Steps: 100})
	assert.ErrorContains(t, err, "too short")
	p.Leave = true
	_, err = Nest(context.Background(), p, Options{Steps: 100})
	assert.ErrorContains(t, err, "too short")
}

// Two kits of the same plies, kept together: the first lies before the second.
func TestKitsAreKeptTogether(t *testing.T) {
	p := Problem{Sheets: roll(0.6, 9), Together: true}
	for _, kit := range []string{"B-1", "B-2"} {
		for i := range 6 {
			p.Pieces = append(p.Pieces, Piece{ID: fmt.Sprint(kit, "/", i), Kit: kit, Outline: geom.Rect(0.25, 0.28)})
		}
	}
	r, err := Nest(context.Background(), p, Options{Steps: 500})
	require.NoError(t, err)
	require.NoError(t, Verify(p, r))
	ends := map[string][2]float64{"B-1": {9, 0}, "B-2": {9, 0}}
	for _, at := range r.Placements {
		e := ends[at.ID[:3]]
		ends[at.ID[:3]] = [2]float64{min(e[0], at.X), max(e[1], at.X)}
	}
	assert.LessOrEqual(t, ends["B-1"][1], ends["B-2"][0]+1e-5)
}

func TestOnePieceLiesAtTheStart(t *testing.T) {
	r, err := Nest(
		context.Background(),
		Problem{Pieces: rectangles(1, 0.3, 0.2), Sheets: roll(0.6, 9), Gap: 0.002},
		Options{Steps: 3000},
	)
	require.NoError(t, err)
	assert.InDelta(t, 0.3, r.Length, 1e-5)
	p := Problem{Pieces: rectangles(1, 0.3, 0.2), Sheets: roll(0.6, 9)}
	p.Pieces[0].Outline = ringSector(0.1, 0.3, 1.5)
	_, err = Nest(context.Background(), p, Options{Steps: 3000})
	require.NoError(t, err)
}

// A piece that the shrinking end leaves no room for on the last sheet overlaps nothing there, and has to go all
// the same.
func TestWhatTheLastSheetHasNoRoomForGoesToAnother(t *testing.T) {
	sheets := []Sheet{{Width: 0.6, Length: 1}, {Width: 0.6, Length: 5}}
	s := newSearcher(newGround(Problem{Pieces: rectangles(2, 0.3, 0.5), Sheets: sheets, Gap: 0.002}), 1, 1)
	last := s.bands[1].start
	s.put(0, 0, 0, 0, 0)
	s.put(1, 0, 1, last, 0)
	s.end = last + 0.2
	own := make([]float64, 2)
	assert.Positive(t, s.total(own))
	assert.Equal(t, []float64{0, own[1]}, own)
	require.True(t, s.move(1))
	assert.Equal(t, []int16{0, 0}, s.band)
}

func TestAStoppedSearchSaysSo(t *testing.T) {
	pieces := kit(4, 30)
	area := 0.0
	for _, q := range pieces {
		area += q.Area()
	}
	stopped, stop := context.WithCancel(context.Background())
	stop()
	p := Problem{Pieces: pieces, Sheets: roll(0.6, area/0.6*1.02)}
	_, err := Nest(stopped, p, Options{Seed: 2, Share: func() float64 { return 0.1 }})
	assert.ErrorContains(t, err, "the search was stopped while the shortest layout was ")
	p.Sheets[0].Length = area / 0.6 * 0.9 // less than the area: no time helps
	_, err = Nest(stopped, p, Options{Seed: 2, Share: func() float64 { return 0.1 }})
	assert.ErrorContains(t, err, "too short")
}

// A piece that is put over another is pushed out of it, and one that lies near is drawn against its neighbour, the
// gap away; what does not fit says what it overlaps. Held all, the layout is as it was put.
func TestAPieceIsPutByHand(t *testing.T) {
	p := Problem{Pieces: rectangles(3, 0.3, 0.2), Sheets: roll(0.6, 2), Gap: 0.002}
	r := Layout{Placements: []Placement{{ID: "0", X: 0, Y: 0}, {ID: "1", X: 0, Y: 0.25}, {ID: "2", X: 1, Y: 0}}}
	for k := range p.Pieces {
		r.Placements[k].ID = p.Pieces[k].ID
	}
	id := p.Pieces[2].ID
	at, over, err := Snap(p, r, Placement{ID: id, X: 0.29, Y: 0}, 0.015)
	require.NoError(t, err)
	assert.Empty(t, over)
	assert.InDelta(t, 0.302, at.X, 5e-6)
	assert.InDelta(t, 0, at.Y, 5e-6)
	at, over, err = Snap(p, r, Placement{ID: id, X: 0.31, Y: 0.01}, 0.015)
	require.NoError(t, err)
	assert.Empty(t, over)
	assert.InDelta(t, 0.302, at.X, 5e-6)
	assert.InDelta(t, 0, at.Y, 5e-6)
	at, over, err = Snap(p, r, Placement{ID: id, X: 0.5, Y: 0.3}, 0.015)
	require.NoError(t, err)
	assert.Empty(t, over)
	assert.InDelta(t, 0.485, at.X, 5e-6, "no farther than it reaches")
	p.Sheets[0].Length = 0.31
	_, over, err = Snap(p, r, Placement{ID: id, X: 0, Y: 0.1}, 0)
	require.NoError(t, err)
	assert.NotEmpty(t, over)
	_, _, err = Snap(p, r, Placement{ID: id, Turn: 90}, 0)
	assert.ErrorContains(t, err, "at that angle")
	p.Sheets[0].Length = 2
	for k := range p.Pieces {
		p.Pieces[k].At = &r.Placements[k]
	}
	got, err := Nest(context.Background(), p, Options{Steps: 1_000_000_000})
	require.NoError(t, err)
	assert.Equal(t, 1.3, got.Length)
	// Where one is held beyond all others nothing is to be won: it is over at once.
	p.Pieces[0].At, p.Pieces[1].At = nil, nil
	got, err = Nest(context.Background(), p, Options{Steps: 1_000_000_000})
	require.NoError(t, err)
	assert.Equal(t, 1.3, got.Length)
	p.Pieces[0].At, p.Pieces[2].At = &r.Placements[0], &Placement{ID: id, X: 0.1}
	assert.ErrorContains(t, Check(p), "pieces[2].at")
}

// Cloth that is spoiled is an outline as any other: what lies round it keeps its gap, and a piece that is held just
// that far off stays.
func TestNothingLiesOnWhatIsSpoiled(t *testing.T) {
	p := Problem{Pieces: rectangles(3, 0.3, 0.2), Sheets: roll(0.6, 2), Gap: 0.002}
	p.Sheets[0].Spoiled = []geom.Ring{{{X: 0.1, Y: 0}, {X: 0.4, Y: 0}, {X: 0.1, Y: 0.3}}}
	p.Pieces[0].At = &Placement{ID: "0", X: 0.402, Y: 0}
	r, err := Nest(context.Background(), p, Options{Seed: 1, Steps: 3000})
	require.NoError(t, err)
	gone := p.Sheets[0].Spoiled[0].Polygon()
	for k, at := range r.Placements {
		far, _ := sf.Distance(gone, PlaceOutline(p.Pieces[k].Outline, at).Polygon())
		assert.GreaterOrEqual(t, far, p.Gap-tolerance)
	}
	r.Placements[1].X, r.Placements[1].Y = 0.11, 0.01
	assert.ErrorContains(t, Verify(p, r), "cloth is spoiled")
	p.Pieces[0].At.X = 0.401
	assert.Error(t, Check(p))
}
