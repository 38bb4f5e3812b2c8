package api_test

import (
	"context"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"juxta/api"
	"juxta/demo/demotest"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/shoptest"
	"juxta/store/storetest"
)

// Today of a shop of 200 open builds, most of them on routes of some twenty operations, the
// others of one pass, as a technician asks for it.
//
//	go test ./api -run '^$' -bench Today -benchtime 200x
func BenchmarkToday(b *testing.B) {
	_, s := serveOn(b, storetest.Open(b, demotest.Works), api.Options{})
	ctx := context.Background()
	n, err := shoptest.MoreBuilds(storetest.Owner(b, s.DB).Gorm, 14)
	require.NoError(b, err)
	require.GreaterOrEqual(b, n, int64(200))
	people, err := s.People(ctx)
	require.NoError(b, err)
	for _, p := range people {
		if p.Name != "Ines Falk" {
			continue
		}
		person, err := s.PersonByID(ctx, p.ID)
		require.NoError(b, err)
		b.Run("first", func(b *testing.B) { // as whoever asks first, of nothing that is kept
			for b.Loop() {
				b.StopTimer()
				cold := shop.New(&book.Book{DB: s.DB, Now: s.Book.Now, Altitude: s.Altitude})
				b.StartTimer()
				_, err := cold.Today(ctx, person)
				require.NoError(b, err)
			}
		})
		b.Run("recorded", func(b *testing.B) { // as after something was recorded of a build
			by, reason := book.By{Person: person}, 0
			laying, err := s.Builds(ctx, builds.BuildQuery{Find: "0002", Room: "layup", Limit: 1})
			require.NoError(b, err)
			for b.Loop() {
				b.StopTimer()
				reason++
				_, err := s.ReferBuild(ctx, by, laying.Builds[0].Code, "", fmt.Sprint("look ", reason))
				require.NoError(b, err)
				b.StartTimer()
				_, err = s.Today(ctx, person)
				require.NoError(b, err)
			}
		})
		b.Run("day", func(b *testing.B) { // as others ask until something is
			jobs := 0
			for b.Loop() {
				day, err := s.Today(ctx, person)
				require.NoError(b, err)
				jobs = len(day.Jobs)
			}
			b.ReportMetric(float64(n), "builds")
			b.ReportMetric(float64(jobs), "jobs")
		})
	}
}
