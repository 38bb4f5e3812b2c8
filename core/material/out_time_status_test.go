package material

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestWhetherMaterialHadRunOutWhenItsCutBegan(t *testing.T) {
	now := time.Date(2026, 3, 4, 12, 0, 0, 0, time.UTC)
	limits := Limits{OutLife: 240 * time.Hour}
	f := NewOutTimeStatus(Clock{Spent: 241 * time.Hour, Out: true}, limits, 0, now)
	assert.True(t, f.RanOut(now, now))
	assert.True(t, f.RanOut(now.Add(-time.Hour), now), "at the very end of its life it has run out")
	assert.False(t, f.RanOut(now.Add(-time.Hour-time.Second), now))
	assert.False(t, NewOutTimeStatus(Clock{Spent: 239 * time.Hour, Out: true}, limits, 0, now).RanOut(now, now))
	limits.ShelfEnd = now.Add(-2 * time.Hour)
	shelf := NewOutTimeStatus(Clock{Spent: time.Hour, Out: true}, limits, 0, now)
	assert.True(t, shelf.RanOut(now, now))
	assert.False(t, shelf.RanOut(now.Add(-2*time.Hour), now))
	assert.False(t, NewOutTimeStatus(Clock{Spent: 1e5 * time.Hour}, Limits{}, 0, now).RanOut(now, now),
		"core does not age")
}

// The clock of a part's material stops at its cure, at its signature where no run cured it, and else goes on.
func TestWhenTheClockOfAPartStops(t *testing.T) {
	now := time.Date(2026, 3, 4, 12, 0, 0, 0, time.UTC)
	cured, signed, planned := now.Add(-9*time.Hour), now.Add(-2*time.Hour), now.Add(5*time.Hour)
	for says, c := range map[string]struct {
		cured, signed *time.Time
		until         time.Time
		more          time.Duration
	}{
		"cured":                {&cured, nil, cured, 0},
		"cured, then signed":   {&cured, &signed, cured, 0},
		"signed without a run": {nil, &signed, signed, 0},
		"under way":            {nil, nil, now, 5 * time.Hour},
	} {
		until, more := ClockEnds(c.cured, c.signed, planned, now)
		assert.Equal(t, c.until, until, says)
		assert.Equal(t, c.more, more, says)
	}
	_, more := ClockEnds(nil, nil, now.Add(-time.Hour), now)
	assert.Equal(t, -time.Hour, more, "a cure that is late plans nothing: [NewOutTimeStatus] takes it as none")
}

// What is not cured yet decides of a part, however old what is cured was.
func TestWhichOutTimeDecidesOfAPart(t *testing.T) {
	now := time.Date(2026, 3, 4, 12, 0, 0, 0, time.UTC)
	spent := func(h time.Duration) OutTimeStatus {
		return NewOutTimeStatus(Clock{Spent: h * time.Hour}, Limits{OutLife: 100 * time.Hour}, 0, now)
	}
	worst, there := WorstOfPart([]OutTimeStatus{spent(10), spent(30)}, []OutTimeStatus{spent(90)})
	assert.True(t, there)
	assert.Equal(t, 30*time.Hour, worst.Spent)
	worst, there = WorstOfPart(nil, []OutTimeStatus{spent(90), spent(20)})
	assert.True(t, there)
	assert.Equal(t, 90*time.Hour, worst.Spent)
	_, there = WorstOfPart(nil, nil)
	assert.False(t, there)
}
