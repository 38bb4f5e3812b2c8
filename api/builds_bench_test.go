package api_test

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/shop/builds"
	"juxta/shop/shoptest"
	"juxta/store/storetest"
)

const manyBuilds = 50_000

func copied(b *testing.B, db *gorm.DB, table, where string, n int, other map[string]string) {
	b.Helper()
	require.NoError(b, shoptest.Copied(db, table, where, n, other))
}

// A shop of many years: 50,000 finished builds with all their plies, runs and
// releases. Its lists of builds, asked by 50 people at once, and a signature at
// the bench.
//
//	go test ./api -run '^$' -bench 'Builds' -benchtime 10000x
func BenchmarkBuilds(b *testing.B) {
	web, s := serve(b)
	started := time.Now()
	db := storetest.Owner(b, s.DB).Gorm
	var old struct{ Build, Run, Nest int64 }
	require.NoError(
		b,
		db.Raw(`select b.id as build, r.run_id as run, (select nest_id from cut_plies c
			where c.build_id = b.id limit 1) as nest
		from builds b join run_builds r on r.build_id = b.id where b.serial = '0001'`).
			Scan(&old).
			Error,
	)
	const base = 1_000_000
	of := fmt.Sprintf("o.build_id = %d", old.Build)
	other := func(with map[string]string) map[string]string {
		all := map[string]string{"build_id": fmt.Sprint(base, " + k")}
		for k, v := range with {
			all[k] = v
		}
		return all
	}
	copied(
		b,
		db,
		"builds",
		fmt.Sprintf("o.id = %d", old.Build),
		manyBuilds,
		map[string]string{
			"id":      fmt.Sprint(base, " + k"),
			"code":    "'B-old' || k",
			"serial":  "'old ' || k",
			"done_at": "o.created_at",
		},
	)
	copied(
		b,
		db,
		"runs",
		fmt.Sprintf("o.id = %d", old.Run),
		manyBuilds,
		map[string]string{"id": fmt.Sprint(base, " + k"), "code": "'H-old' || k"},
	)
	copied(
		b,
		db,
		"cut_plies",
		of,
		manyBuilds,
		other(map[string]string{"id": fmt.Sprint(base, " + k * 100 + o.id"), "code": "'C-old' || k || '-' || o.id"}),
	)
	copied(
		b,
		db,
		"ply_records",
		of,
		manyBuilds,
		other(
			map[string]string{
				"id":         fmt.Sprint(base, " + k * 100 + o.id"),
				"cut_ply_id": fmt.Sprint(base, " + k * 100 + o.cut_ply_id"),
			},
		),
	)
	copied(b, db, "bags", of, manyBuilds, other(nil))
	copied(b, db, "leak_checks", of, manyBuilds, other(map[string]string{"id": fmt.Sprint(base, " + k * 10 + o.id")}))
	copied(b, db, "run_builds", of, manyBuilds, other(map[string]string{"run_id": fmt.Sprint(base, " + k")}))
	require.NoError(
		b,
		db.Exec(
			`insert into releases (build_id, at, person_id, mass, thickness, lines, disposition, reason) select id,
				created_at, 1, 0.4, '[]', '[]', 'good', '' from builds where id > ?`,
			base,
		).Error,
	)
	var codes []int64
	require.NoError(b, db.Raw(`select id from builds where id > ?`, base).Scan(&codes).Error)
	for _, id := range codes {
		require.NoError(b, db.Exec(`update builds set code = ? where id = ?`, ident.Format(ident.Build, id), id).Error)
	}
	require.NoError(b, db.Exec(`vacuum (analyze)`).Error)
	var plies int
	require.NoError(b, db.Raw(`select count(*) from ply_records`).Scan(&plies).Error)
	web.signIn("Ines Falk")
	b.Logf("%d finished builds, %d signed plies, in %v", len(codes), plies, time.Since(started).Round(time.Second))

	for name, path := range map[string]func(*rand.Rand) string{
		"layup":    func(*rand.Rand) string { return "/api/builds?room=layup" },
		"finished": func(*rand.Rand) string { return "/api/builds?room=finished" },
		"all":      func(*rand.Rand) string { return "/api/builds" },
		"further": func(rng *rand.Rand) string {
			return fmt.Sprintf("/api/builds?before=%d", base+100+rng.Int64N(manyBuilds-100))
		},
		"rooms": func(*rand.Rand) string { return "/api/rooms" },
	} {
		b.Run(name+"/each-asks-every-second", func(b *testing.B) { asked(b, web, time.Second, path) })
		b.Run(name+"/without-a-pause", func(b *testing.B) { asked(b, web, 0, path) })
	}
	b.Run("signature", func(b *testing.B) {
		web.signIn("Ines Falk")
		page, err := s.Builds(b.Context(), builds.BuildQuery{Room: "layup"})
		require.NoError(b, err)
		require.Len(b, page.Builds, 1)
		build := page.Builds[0]
		kit, err := s.Kit(b.Context(), build.Code, "")
		require.NoError(b, err)
		waits := make([]time.Duration, 0, b.N)
		b.ResetTimer()
		for n := range b.N {
			v, err := s.Layup(b.Context(), build.Code, "")
			require.NoError(b, err)
			next := v.Next.Ply
			body := fmt.Sprintf(
				`{"ply":%d,"cutPly":%q,"filmsOff":0,"how":"scanned"}`,
				next,
				kit.Plies[next-1].Cut[0].Code,
			)
			from := time.Now()
			res := web.send("POST", "/api/layup/"+build.Code+"/sign", body, key, fmt.Sprintf("bench-%08d", n))
			waits = append(waits, time.Since(from))
			require.Equal(b, http.StatusOK, res.StatusCode, string(res.body))
			require.NoError(
				b,
				db.Exec(
					`delete from ply_records where id = (select max(l.id) from ply_records l
						join builds b on b.id = l.build_id
						where b.code = ?)`,
					build.Code,
				).Error,
			)
		}
		b.StopTimer()
		slices.Sort(waits)
		at := func(p float64) float64 { return float64(waits[int(p*float64(len(waits)-1))].Microseconds()) / 1e3 }
		b.ReportMetric(at(0.5), "ms-median")
		b.ReportMetric(at(0.99), "ms-p99")
		b.ReportMetric(0, "ns/op")
	})
}
