package nest

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkDissections gives the density of exact dissections of a rectangle after 60 s: the median of ten
// seeds, half of them not convex. Run with -benchtime 1x.
func BenchmarkDissections(b *testing.B) {
	for _, n := range []int{8, 16, 32, 64} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for range b.N {
				var all []float64
				for seed := range uint64(10) {
					all = append(all, densityOf(b, seed, n, seconds))
				}
				slices.Sort(all)
				b.ReportMetric((all[4]+all[5])/2*100, "%median")
				b.ReportMetric(all[0]*100, "%least")
				b.ReportMetric(all[9]*100, "%most")
			}
		})
	}
}

const seconds = 60 * time.Second

// grain is by how much the strip is wider than the rectangle that was cut: the corners of its pieces lie on
// whole micrometres, and not on the sides of their neighbours.
const grain = 5e-5

func densityOf(b testing.TB, seed uint64, n int, length time.Duration) float64 {
	pieces, width, long := dissection(seed, n, seed%2 == 1)
	ctx, stop := context.WithTimeout(context.Background(), length)
	began := time.Now()
	defer stop()
	r, err := Nest(ctx, Problem{Pieces: pieces, Sheets: roll(width+grain, 20)}, Options{
		Seed: seed, Share: func() float64 { return time.Since(began).Seconds() / length.Seconds() },
	})
	require.NoError(b, err)
	return long * width / (r.Length * (width + grain))
}
