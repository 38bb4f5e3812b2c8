package route

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestAPlaceDoesOneThingAfterAnother(t *testing.T) {
	at := func(h float64) time.Time { return day0.Add(time.Duration(h * float64(time.Hour))) }
	begins := ExpectedStarts(map[string]time.Time{"oven": at(3)}, []QueuedWork{
		{"bench 1", at(0), time.Hour}, {"oven", at(1), 4 * time.Hour}, {"bench 1", at(0), time.Hour},
		{"bench 1", at(5), time.Hour}, {"oven", at(1), time.Hour},
	})
	assert.Equal(t, []time.Time{at(0), at(3), at(1), at(5), at(7)}, begins)
}

// Nothing begins before it can, and no place does two things at once.
func TestNoPlaceDoesTwoThingsAtOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		turns := rapid.SliceOf(rapid.Custom(func(t *rapid.T) QueuedWork {
			return QueuedWork{
				Place: rapid.SampledFrom([]string{"a", "b"}).Draw(t, "place"),
				From:  day0.Add(time.Duration(rapid.IntRange(0, 600).Draw(t, "from")) * time.Minute),
				Takes: time.Duration(rapid.IntRange(0, 300).Draw(t, "takes")) * time.Minute,
			}
		})).Draw(t, "turns")
		begins := ExpectedStarts(nil, turns)
		for k, x := range turns {
			assert.False(t, begins[k].Before(x.From))
			for n := range k {
				y := turns[n]
				if x.Place == y.Place {
					assert.False(t, begins[k].Before(begins[n].Add(y.Takes)), "%d begins while %d is on", k, n)
				}
			}
		}
	})
}
