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
	assert.False(t, NewOutTimeStatus(Clock{Spent: 1e5 * time.Hour}, Limits{}, 0, now).RanOut(now, now), "core does not age")
}
