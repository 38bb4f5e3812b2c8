package layup

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

func debulksAfter(steps []Step) (plies []int) {
	for _, s := range steps {
		if s.Debulk {
			plies = append(plies, s.Ply)
		}
	}
	return plies
}

func TestDebulksFallDueAfterThePolicy(t *testing.T) {
	for _, c := range []struct {
		n      int
		policy Policy
		want   []int
	}{
		{10, Policy{First: true, Every: 4}, []int{1, 5, 9, 10}},
		{8, Policy{Every: 4}, []int{4, 8}},
		{3, Policy{Every: 4}, []int{3}},
		{5, Policy{}, nil},
		{1, Policy{First: true, Every: 6}, []int{1}},
	} {
		assert.Equal(t, c.want, debulksAfter(Steps(c.n, c.policy)), "%+v", c)
	}
}

func TestNoMorePliesThanThePolicyLieUndebulked(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := Policy{First: rapid.Bool().Draw(t, "first"), Every: rapid.IntRange(1, 7).Draw(t, "every")}
		n := rapid.IntRange(1, 96).Draw(t, "n")
		done := Done{Laid: map[int]bool{}, Debulks: map[int]bool{}}
		for range 3 * n {
			s, ok := Next(Steps(n, p), done)
			if !ok {
				break
			}
			if s.Debulk {
				done.Debulks[s.Ply] = true
			} else {
				done.Laid[s.Ply] = true
			}
			require.LessOrEqual(t, PliesSinceDebulk(done), p.Every)
		}
		require.Len(t, done.Laid, n)
		assert.Zero(t, PliesSinceDebulk(done), "the last plies are debulked before the bag")
	})
}

func TestTakingAPlyBackMakesItNextAgain(t *testing.T) {
	steps := Steps(4, Policy{Every: 4})
	done := Done{Laid: map[int]bool{1: true, 2: true, 3: true}}
	delete(done.Laid, 3)
	s, ok := Next(steps, done)
	assert.True(t, ok)
	assert.Equal(t, Step{Ply: 3}, s)
}

func TestShortOfPolicy(t *testing.T) {
	p := Policy{Duration: 15 * time.Minute, Vacuum: 85e3}
	assert.NoError(t, p.ShortOfPolicy(15*time.Minute, 85e3))
	assert.ErrorContains(t, p.ShortOfPolicy(14*time.Minute, 90e3), "lasted 14.0 min")
	assert.ErrorContains(t, p.ShortOfPolicy(20*time.Minute, 80e3), unit.Vacuum(80e3, 0).String())
}

func TestDemandsStandWhereTheyFallDue(t *testing.T) {
	steps := Steps(
		3,
		Policy{First: true, Every: 3},
		Demand{
			Hold,
			"core",
			2,
			false,
		},
		Demand{Second, "core", 2, false},
		Demand{Hold, "b", 2, true},
		Demand{Second, "a", 1, true},
		Demand{Second, "c", 3, true},
		Demand{Second, "insert", 4, false},
	)
	want := []Step{
		{Ply: 1}, {Ply: 1, Kind: Second, Key: "a"}, {Ply: 1, Debulk: true},
		{
			Ply:  2,
			Kind: Hold,
			Key:  "core",
		}, {Ply: 2, Kind: Second, Key: "core"}, {Ply: 2, Kind: Hold, Key: "b"}, {Ply: 2},
		{Ply: 3}, {Ply: 3, Kind: Second, Key: "c"}, {Ply: 3, Debulk: true}, {Ply: 4, Kind: Second, Key: "insert"},
	}
	assert.Equal(t, want, steps)
	done := Done{Laid: map[int]bool{1: true}, Met: map[MetDemand]bool{}}
	next, _ := Next(steps, done)
	assert.Equal(t, Step{Ply: 1, Kind: Second, Key: "a"}, next, "before the debulk covers it")
	done.Met[MetDemand{Second, "a"}] = true
	assert.Len(t, Unmet(steps, done), 5)
	for _, s := range steps {
		done.Met[MetDemand{s.Kind, s.Key}] = true
		done.Laid[s.Ply], done.Debulks = true, map[int]bool{1: true, 3: true}
	}
	_, open := Next(steps, done)
	assert.False(t, open)
	assert.Empty(t, Unmet(steps, done))
}
