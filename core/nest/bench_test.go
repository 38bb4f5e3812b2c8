package nest

import (
	"context"
	"fmt"
	"os"
	"slices"
	"strconv"
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
					all = append(all, densityOf(b, seed, n, seconds(b)))
				}
				slices.Sort(all)
				b.ReportMetric((all[4]+all[5])/2*100, "%median")
				b.ReportMetric(all[0]*100, "%least")
				b.ReportMetric(all[9]*100, "%most")
			}
		})
	}
}

// seconds is how long a search is, from the environment variable NEST_SECONDS; 60 if that is not said.
func seconds(b testing.TB) time.Duration {
	said := os.Getenv("NEST_SECONDS")
	if said == "" {
		return time.Minute
	}
	s, err := strconv.ParseFloat(said, 64)
	require.NoError(b, err)
	return time.Duration(s * float64(time.Second))
}

// BenchmarkKits gives the density of kits of plies at a gap of 2 mm on rolls of 600 and 1,270 mm, and when
// there was a first layout: medians of five seeds.
func BenchmarkKits(b *testing.B) {
	for _, n := range []int{20, 60, 150} {
		for _, width := range []float64{0.6, 1.27} {
			b.Run(fmt.Sprintf("%d on %.0f", n, width*1000), func(b *testing.B) {
				for range b.N {
					var yields, firsts []float64
					for seed := range uint64(5) {
						r, first := searched(
							b,
							Problem{Pieces: kit(seed, n), Sheets: roll(width, 100), Gap: 0.002},
							seed,
							seconds(b),
						)
						yields, firsts = append(yields, r.Yield), append(firsts, first.Seconds())
					}
					slices.Sort(yields)
					slices.Sort(firsts)
					b.ReportMetric(yields[2]*100, "%density")
					b.ReportMetric(firsts[2], "s-first")
				}
			})
		}
	}
}

// BenchmarkThousand gives when a thousand different pieces had a first layout, its density, and what it
// allocated.
func BenchmarkThousand(b *testing.B) {
	b.ReportAllocs()
	for range b.N {
		r, first := searched(
			b,
			Problem{Pieces: kit(3, 1000), Sheets: roll(1.27, 400), Gap: 0.002},
			3,
			min(seconds(b), 20*time.Second),
		)
		b.ReportMetric(r.Yield*100, "%density")
		b.ReportMetric(first.Seconds(), "s-first")
	}
}

// BenchmarkSnap puts one piece among a thousand by hand.
func BenchmarkSnap(b *testing.B) {
	p := Problem{Pieces: kit(3, 1000), Sheets: roll(1.27, 400), Gap: 0.002}
	r, err := Nest(context.Background(), p, Options{Steps: 1})
	require.NoError(b, err)
	want := r.Placements[500]
	want.X += 0.01
	for b.Loop() {
		_, _, err := Snap(p, r, want, 0.02)
		require.NoError(b, err)
	}
}

func searched(b testing.TB, p Problem, seed uint64, length time.Duration) (Layout, time.Duration) {
	ctx, stop := context.WithTimeout(context.Background(), length)
	began := time.Now()
	defer stop()
	first := time.Duration(0)
	r, err := Nest(ctx, p, Options{
		Seed: seed, Share: func() float64 { return time.Since(began).Seconds() / length.Seconds() },
		Progress: func(Layout, int) {
			if first == 0 {
				first = time.Since(began)
			}
		},
	})
	require.NoError(b, err)
	return r, first
}

// grain is by how much the strip is wider than the rectangle that was cut: the corners of its pieces lie on
// whole micrometres, and not on the sides of their neighbours.
const grain = 5e-5

// BenchmarkPieceByPiece is BenchmarkDissections without the blocks of what fits whole: the search alone.
func BenchmarkPieceByPiece(b *testing.B) {
	for _, n := range []int{16, 32, 64} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for range b.N {
				var all []float64
				for seed := range uint64(6) {
					pieces, width, long := dissection(seed, n, seed%2 == 1)
					length := seconds(b)
					ctx, stop := context.WithTimeout(context.Background(), length)
					began := time.Now()
					share := func() float64 { return time.Since(began).Seconds() / length.Seconds() }
					s := &search{o: Options{Seed: seed, Share: share}, plain: true}
					f, err := s.run(ctx, Problem{Pieces: pieces, Sheets: roll(width+grain, 20)}, 1)
					stop()
					require.NoError(b, err)
					all = append(all, long*width/(f.found.Length*(width+grain)))
				}
				slices.Sort(all)
				b.ReportMetric((all[2]+all[3])/2*100, "%median")
			}
		})
	}
}

// BenchmarkLiterature gives the heights that sets of the literature are packed to, of a best of 20.
func BenchmarkLiterature(b *testing.B) {
	for name, sizes := range hopperTurton() {
		b.Run(name, func(b *testing.B) {
			for range b.N {
				r, _ := searched(b, literature(sizes), 1, seconds(b))
				b.ReportMetric(r.Length*100, "height")
			}
		})
	}
}

func densityOf(b testing.TB, seed uint64, n int, length time.Duration) float64 {
	pieces, width, long := dissection(seed, n, seed%2 == 1)
	r, _ := searched(b, Problem{Pieces: pieces, Sheets: roll(width+grain, 20)}, seed, length)
	return long * width / (r.Length * (width + grain))
}
