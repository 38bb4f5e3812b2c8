package nest

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
)

// Of two layouts as long the one that leaves a larger rectangle is given: a small piece beside a long one is drawn
// out of the middle.
func TestOfNestsAsLongTheOneThatLeavesMoreIsGiven(t *testing.T) {
	p := Problem{Sheets: roll(0.6, 5), Gap: 0.002, Pieces: []Piece{
		{ID: "long", Outline: geom.Rect(1, 0.2)}, {ID: "small", Outline: geom.Rect(0.1, 0.1)},
	}}
	f := &field{ground: newGround(p), search: &search{}}
	s := newSearcher(f.ground, 0, 0)
	s.put(0, 0, 0, 0, 0.2)
	s.put(1, 0, 0, 0.4, 0.45)
	s.end = 1
	f.best = s.clone()
	f.found = f.result(f.best)
	f.found.Rest = restOf(p, f.found)
	before := f.found.Rest.Area()
	f.tidy()
	require.NoError(t, Verify(p, f.found))
	assert.InDelta(t, 1, f.found.Length, 1e-9)
	assert.Greater(t, f.found.Rest.Area(), before*1.5)
	assert.InDelta(t, restOf(p, f.found).Area(), f.found.Rest.Area(), 1e-12)
}

// Where as much is left the knife decides.
func TestOfNestsThatLeaveAsMuchTheQuickestIsGiven(t *testing.T) {
	p := Problem{
		Sheets: roll(0.6, 5),
		Pieces: []Piece{{ID: "a", Outline: geom.Rect(0.3, 0.6)}, {ID: "b", Outline: geom.Rect(0.1, 0.58)}},
	}
	low := func(r Layout) float64 {
		k := slices.IndexFunc(r.Placements, func(at Placement) bool { return at.ID == "b" })
		return r.Placements[k].Y
	}
	for _, sign := range []float64{1, -1} {
		r, err := Nest(
			context.Background(),
			p,
			Options{Steps: 50, Knife: func(r Layout) float64 { return sign * low(r) }},
		)
		require.NoError(t, err)
		assert.InDelta(t, max(0, -sign)*0.02, low(r), 3e-6, "the lower edge is quicker, then the upper one")
	}
}

// Pieces of one batch go where the whole nest is shortest: the narrow batch comes first, but its sheet takes one
// after another what the wide one takes side by side.
func TestEachBatchIsTried(t *testing.T) {
	p := Problem{Sheets: []Sheet{
		{Width: 0.25, Length: 20, Batch: "narrow"}, {Width: 0.9, Length: 20, Batch: "wide"},
	}}
	for k := range 4 {
		p.Pieces = append(p.Pieces, Piece{ID: fmt.Sprint(k), Outline: geom.Rect(0.5, 0.2), Batch: "skin"})
	}
	require.Len(t, settlements(p), 2)
	r, err := Nest(context.Background(), p, Options{Steps: 200})
	require.NoError(t, err)
	assert.Zero(t, r.Used[0])
	assert.InDelta(t, 0.5, r.Used[1], 1e-4)
	// One that is held decides for all.
	p.Pieces[2].At = &Placement{ID: "2", Sheet: 0}
	r, err = Nest(context.Background(), p, Options{Steps: 200})
	require.NoError(t, err)
	assert.Zero(t, r.Used[1])
	assert.InDelta(t, 2, r.Used[0], 1e-4)
}

// Spread, two kits of like plies take turns along the roll; together, one comes after the other.
func TestKitsAreKeptTogetherOrSpread(t *testing.T) {
	p := Problem{Sheets: roll(0.21, 20)}
	for k := range 6 {
		p.Pieces = append(
			p.Pieces,
			Piece{ID: fmt.Sprint(k), Outline: geom.Rect(0.3, 0.2), Kit: []string{"A", "B"}[k/3]},
		)
	}
	along := func(change func(*Problem)) (kits string) {
		q := p
		change(&q)
		r, err := Nest(context.Background(), q, Options{Steps: 100})
		require.NoError(t, err)
		slices.SortFunc(r.Placements, func(a, b Placement) int { return int((a.X - b.X) * 1e6) })
		for _, at := range r.Placements {
			kits += p.Pieces[slices.IndexFunc(p.Pieces, func(q Piece) bool { return q.ID == at.ID })].Kit
		}
		return kits
	}
	assert.Equal(t, "AAABBB", along(func(q *Problem) { q.Together = true }))
	assert.Equal(t, "ABABAB", along(func(q *Problem) { q.Spread = true }))
	p.Together, p.Spread = true, true
	_, err := Nest(context.Background(), p, Options{Steps: 1})
	assert.ErrorContains(t, err, "together or spread, not both")
}
