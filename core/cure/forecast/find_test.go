package forecast

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/cure/heat"
)

// small is a thin laminate with one dwell: three figures to be found and the ramp down.
func small() Job {
	j := ring()
	r := kiln()
	r.Hottest = c(160)
	r.Kinetics.Diffusion = cure.Diffusion{}
	j.Sections[0].Resin = r
	j.Sections[0].Layers = []heat.Layer{laminate(0.004, r)}
	j.Recipe.Segments = []cure.Segment{{Target: c(140), Rate: 1.5 / 60, Hold: 3 * 3600}}
	j.Limits = CureLimits{MinCure: 0.8, MaxOvershoot: 6}
	return j
}

// Against every recipe of a grid: what is found is no longer than the shortest of them that meets the limits.
func TestFindAgainstAGridOfAllRecipes(t *testing.T) {
	j := small()
	shortest := math.Inf(1)
	for target := 146.0; target <= 160; target += 2 {
		for rate := 1.0; rate <= 4; rate += 0.5 {
			for hold := 10.0; hold <= 120; hold += 5 {
				r := j.Recipe
				r.Segments = []cure.Segment{{Target: c(target), Rate: rate / 60, Hold: hold * 60}}
				if x := j.try(context.Background(), r); x.misses == 0 {
					shortest = math.Min(shortest, x.duration)
					break // longer holds meet it as well
				}
			}
		}
	}
	require.False(t, math.IsInf(shortest, 1))
	s := Search{Recipe: j.Recipe}
	var err error
	for range 40 {
		if s, err = FindShortest(context.Background(), j, s, 3, 100); err != nil || s.Settled {
			break
		}
	}
	require.NoError(t, err)
	require.True(t, s.Settled)
	t.Logf(
		"grid %.0f s, found %.0f s after %d tries: %.0f °C at %.1f K/min for %.0f min; held back by %s (%s)",
		shortest,
		s.Duration,
		s.Tried,
		s.Recipe.Segments[0].Target-273.15,
		s.Recipe.Segments[0].Rate*60,
		s.Recipe.Segments[0].Hold/60,
		s.HeldBack.What,
		s.Shorter,
	)
	assert.Zero(t, s.Misses)
	assert.LessOrEqual(t, s.Duration, shortest+1)
	assert.NotEmpty(t, s.HeldBack.What)
	// The fine model agrees.
	fine := j
	fine.Recipe, fine.Accuracy = s.Recipe, heat.Accuracy{Step: heat.UsualStep / 20, Finer: 3}
	assert.True(t, simulate(t, fine).Met())
}

// In pieces or at once, it is the same search; and one that cannot begin says why.
func TestASearchIsTheSameEachTime(t *testing.T) {
	run := func() Search {
		s := Search{Recipe: small().Recipe}
		for range 3 {
			var err error
			s, err = FindShortest(context.Background(), small(), s, 7, 40)
			require.NoError(t, err)
		}
		return s
	}
	a, b := run(), run()
	assert.Equal(t, a, b)
	bad := small()
	bad.Recipe.Segments = nil
	_, err := FindShortest(context.Background(), bad, Search{Recipe: bad.Recipe}, 1, 10)
	assert.Error(t, err)
	ctx, stop := context.WithCancel(context.Background())
	stop()
	s, err := FindShortest(ctx, small(), a, 7, 40)
	require.NoError(t, err)
	assert.Equal(t, a.Recipe, s.Recipe, "stopped, the best so far stays")
}

// BenchmarkFind is the thick ring: until a first cycle that meets all, and until it is settled.
func BenchmarkFind(b *testing.B) {
	for b.Loop() {
		j := ring()
		j.Limits.Humidity = 0
		s := Search{Recipe: j.Recipe}
		for !s.Settled {
			var err error
			s, err = FindShortest(context.Background(), j, s, 1, 50)
			require.NoError(b, err)
		}
		b.ReportMetric(s.Duration/3600, "h")
		b.ReportMetric(float64(s.Tried), "tries")
		b.ReportMetric(s.Misses, "misses")
	}
}
