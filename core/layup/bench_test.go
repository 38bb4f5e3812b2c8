package layup

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func bench() Bench {
	demands := []Demand{{Kind: Hold, Key: "h", Ply: 2, Laid: true}, {Kind: Second, Key: "s", Ply: 2, Laid: true}}
	return Bench{
		Steps: Steps(3, Policy{First: true}, demands...),
		Done:  Done{Laid: map[int]bool{}, Debulks: map[int]bool{}, Met: map[MetDemand]bool{}},
		Demands: map[MetDemand]string{
			{Hold, "h"}:   "the tool is at 40 °C",
			{Second, "s"}: "a second person checks ply 2",
		},
	}
}

// The whole bench of three plies with a debulk, a hold point and a second look,
// step by step, and what is refused at each.
func TestOnlyWhatComesNextIsSigned(t *testing.T) {
	b := bench()
	refused := func(ply int, says string, late bool) {
		t.Helper()
		_, not := b.MaySign(ply)
		require.NotNil(t, not)
		assert.Equal(t, says, not.Message)
		assert.Equal(t, late, not.Late)
	}
	signs := func(ply int) {
		t.Helper()
		step, not := b.MaySign(ply)
		require.Nil(t, not)
		assert.Equal(t, ply, step.Ply)
		b.Done.Laid[ply] = true
	}
	refused(2, "ply 1 comes next, not ply 2", true)
	_, not := b.MayMeet(Hold, "h")
	assert.Equal(t, "this comes after ply 1", not.Message)
	signs(1)
	refused(2, "debulk first: due after ply 1", false)
	b.Done.Debulks[1] = true
	refused(2, "ply 2 waits: the hold point at ply 2 is not signed as done (the tool is at 40 °C)", false)
	_, not = b.MayMeet(Second, "s")
	assert.Equal(
		t,
		"this comes later: the hold point at ply 2 is not signed as done (the tool is at 40 °C)",
		not.Message,
	)
	_, not = b.MayMeet(Hold, "h")
	assert.Nil(t, not)
	b.Done.Met[MetDemand{Hold, "h"}] = true
	_, not = b.MayMeet(Hold, "h")
	assert.Equal(t, "this is signed already", not.Message)
	signs(2)
	refused(3, "ply 3 waits: a second person checks ply 2 first, and signs", false)
	b.Done.Met[MetDemand{Second, "s"}] = true
	signs(3)
	b.Done.Debulks[3] = true // before the bag closes
	refused(4, "every ply of this part is laid", true)
	_, not = b.MayMeet(Hold, "nothing of the kind")
	assert.True(t, not.Unknown)
}

// Whatever was done in whatever order, at most one ply may be signed, and it is
// one that is not laid yet.
func TestAtMostOnePlyMayBeSigned(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := bench()
		for ply := 1; ply <= 3; ply++ {
			b.Done.Laid[ply] = rapid.Bool().Draw(t, "laid")
			b.Done.Debulks[ply] = rapid.Bool().Draw(t, "debulked")
		}
		b.Done.Met[MetDemand{Hold, "h"}] = rapid.Bool().Draw(t, "hold")
		b.Done.Met[MetDemand{Second, "s"}] = rapid.Bool().Draw(t, "second")
		may := 0
		for ply := 1; ply <= 3; ply++ {
			if _, not := b.MaySign(ply); not == nil {
				may++
				assert.False(t, b.Done.Laid[ply])
			}
		}
		assert.LessOrEqual(t, may, 1)
	})
}

func TestOnlyTheLabelOfTheNextPlyFits(t *testing.T) {
	l := Label{Code: "C-1", Ply: 4, Counted: true, Films: 1}
	assert.Nil(t, l.Fits(4))
	assert.Equal(t, "C-1 is ply 4: ply 3 comes next", l.Fits(3).Message)
	assert.NoError(t, l.Off(1))
	assert.EqualError(t, l.Off(2), "this material has 1 films, not 2")
	assert.Error(t, l.Off(-1))
	says, fits := l.Scanned(4)
	assert.True(t, fits)
	assert.Equal(t, "C-1 is ply 4, which comes next", says)
	says, _ = l.Scanned(0)
	assert.Equal(t, "C-1 is ply 4: no ply is expected now", says)
	l.Counted = false
	assert.False(t, l.Fits(4).Late, "a rule forbids it")
	l.Laid = true
	says, fits = l.Scanned(4)
	assert.False(t, fits)
	assert.Contains(t, says, "laid already")
	assert.Nil(t, CheckKit(true, false))
	assert.Contains(t, CheckKit(false, false).Message, "count the kit first")
	assert.True(t, CheckKit(true, true).Late)
}
