package api_test

import (
	"context"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"juxta/demo"
	"juxta/shop/builds"
	"juxta/store/storetest"
)

// Today of a shop of 200 open builds, a quarter of them on routes of some twenty operations,
// the others of one pass, as a technician asks for it.
//
//	go test ./api -run '^$' -bench Today -benchtime 200x
func BenchmarkToday(b *testing.B) {
	_, s := serve(b)
	ctx := context.Background()
	require.NoError(b, demo.Works(ctx, s.DB, demo.Secrets{PIN: pin, Password: password}, storetest.Now))
	db := storetest.Owner(b, s.DB).Gorm
	var open []builds.Build
	require.NoError(b, db.Where("done_at is null").Order("id").Find(&open).Error)
	const each = 24
	base := int64(1_000_000)
	for _, o := range open {
		base += 10_000
		at := fmt.Sprintf("%d + k", base)
		of := fmt.Sprintf("o.build_id = %d", o.ID)
		key := func(more ...string) map[string]string {
			all := map[string]string{"build_id": at, "id": fmt.Sprintf("(%d + k) * 1000 + o.id", base)}
			for k := 0; k+1 < len(more); k += 2 {
				all[more[k]] = more[k+1]
			}
			return all
		}
		copied(b, db, "builds", fmt.Sprintf("o.id = %d", o.ID), each, map[string]string{
			"id": at, "code": fmt.Sprintf("'B-%d-' || k", base), "serial": "'more ' || k",
		})
		copied(b, db, "cut_plies", of, each, key("code", fmt.Sprintf("'C-%d-' || k || '-' || o.id", base)))
		copied(b, db, "ply_records", of, each, key("cut_ply_id", fmt.Sprintf("(%d + k) * 1000 + o.cut_ply_id", base)))
		for _, table := range []string{"debulks", "marks", "leak_checks", "operation_lines"} {
			copied(b, db, table, of, each, key())
		}
		for _, table := range []string{"kit_counts", "bags", "run_builds"} {
			copied(b, db, table, of, each, map[string]string{"build_id": at})
		}
	}
	require.NoError(b, db.Exec("analyze").Error)
	var n int64
	require.NoError(b, db.Model(&builds.Build{}).Where("done_at is null").Count(&n).Error)
	require.GreaterOrEqual(b, n, int64(200))
	people, err := s.People(ctx)
	require.NoError(b, err)
	for _, p := range people {
		if p.Name != "Ines Falk" {
			continue
		}
		person, err := s.PersonByID(ctx, p.ID)
		require.NoError(b, err)
		b.Run("jobs", func(b *testing.B) { // as after something was recorded
			for b.Loop() {
				_, err := s.Jobs(ctx)
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
