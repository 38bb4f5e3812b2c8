package api_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"juxta/core/ident"
	"juxta/shop/builds"
)

// A shop of many years: 5,000 rolls on hand with 200 lines each. JUXTA's page of
// the freezer, a scan and the choice of a roll, asked by 50 people at once.
//
// The largest of the three is ten times that.
//
//	go test ./api -run '^$' -bench 'Freezer/.*-1000000-' -benchtime 10000x
const (
	manyRolls  = 5_000
	linesEach  = 200
	manyPeople = 50
)

// filled is a server over the demo and a stock of n rolls with lines each.
func filled(b *testing.B, n, lines int) *browser {
	b.Helper()
	web, s := serve(b)
	db := s.DB.Gorm
	started := time.Now()
	for _, q := range []string{
		// Ten materials: the demo's two prepregs and eight more like them.
		`insert into materials (family, version, name, kind, resin_id, width, e1, e2, nu12, g12, alpha1, alpha2,
			thickness,
			areal_mass, asymmetric_weave, half_turn, films, out_life, tack_life, sheet)
			select 1000 + k, 1, 'Filler ' || k, kind, resin_id, width, e1, e2, nu12, g12, alpha1, alpha2, thickness,
			areal_mass, asymmetric_weave, half_turn, films, out_life, tack_life, sheet
			from materials, generate_series(1, 8) k where name = 'Sable UD 150'`,
		`insert into batches (code, material_id, lot, received_at, shelf_end, state) select 'M-load' || k, m.id,
			'LOAD-' || k, now() - interval '300 days', now() + interval '200 days', 'passed'
			from generate_series(1, 500) k join (select id, row_number() over (order by id) as n from materials
			where kind in ('unidirectional', 'woven')) m on m.n = 1 + k % 10`,
		fmt.Sprintf(`insert into rolls (code, material_id, batch_id, width, place, flaws, freezer_id)
			select 'R-load' || k, b.material_id, b.id, 1.0, 'shelf 1', '[]', 1 + k %% 2 from generate_series(1, %d) k
			join (select id, material_id, row_number() over (order by id) as n from batches
			where lot like 'LOAD-%%') b on b.n = 1 + k %% 500`, n),
		// A stay out is short: the lines that say "in" lie 40 min after those that say "out".
		fmt.Sprintf(`insert into freezer_events (roll_id, kind, at, entered_at, length, person_id, freezer_id)
			select r.id, case when i = 0 then 'received' when i %% 2 = 1 then 'out' else 'in' end,
			now() - interval '300 days' + case when i > 0 and i %% 2 = 0
			then (i - 1) * interval '%[1]d seconds' + interval '40 minutes' else i * interval '%[1]d seconds' end,
			now(), case when i = 0 then 60 else 0 end, 1, 1 + r.id %% 2
			from rolls r, generate_series(0, %[2]d) i
			where r.code like 'R-load%%'`, 300*86400/(lines+2), lines-2+lines%2),
	} {
		// The shop's moment is fixed in tests, that of the database is not.
		q = strings.ReplaceAll(q, "now()", s.Now().UTC().Format("timestamptz '2006-01-02 15:04:05Z'"))
		require.NoError(b, db.Exec(q).Error)
	}
	var rolls []struct{ ID int64 }
	require.NoError(b, db.Raw(`select id from rolls where code like 'R-load%'`).Scan(&rolls).Error)
	for _, r := range rolls {
		require.NoError(
			b,
			db.Exec(`update rolls set code = ? where id = ?`, ident.Format(ident.Roll, r.ID), r.ID).Error,
		)
	}
	require.NoError(b, s.Settle(context.Background()))
	// What the server would tidy up in the background of the first minutes.
	require.NoError(b, db.Exec(`vacuum (analyze)`).Error)
	var events int
	require.NoError(b, db.Raw(`select count(*) from freezer_events`).Scan(&events).Error)
	b.Logf("%d rolls, %d lines of ledgers, in %v", len(rolls), events, time.Since(started).Round(time.Second))
	return web
}

// asked lets people ask, each after a pause, and reports the middle and the
// 99th percentile of their waits.
func asked(b *testing.B, web *browser, pause time.Duration, path func(rng *rand.Rand) string) {
	b.Helper()
	clients := make([]*http.Client, manyPeople)
	server, err := url.Parse(web.url)
	require.NoError(b, err)
	for i := range clients {
		jar, err := cookiejar.New(nil)
		require.NoError(b, err)
		jar.SetCookies(server, web.Jar.Cookies(server))
		clients[i] = &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: 2}}
	}
	waits := make([][]time.Duration, manyPeople)
	var all sync.WaitGroup
	per := max(1, b.N/manyPeople)
	b.ResetTimer()
	for i, c := range clients {
		all.Go(func() {
			rng := rand.New(rand.NewPCG(uint64(i), 1))
			if pause > 0 {
				time.Sleep(time.Duration(rng.Int64N(int64(pause))))
			}
			for range per {
				started := time.Now()
				res, err := c.Get(web.url + path(rng))
				if err != nil {
					b.Error(err)
					return
				}
				if _, err := discard(res); err != nil || res.StatusCode != http.StatusOK {
					b.Errorf("%s: %d %v", path(rng), res.StatusCode, err)
					return
				}
				waits[i] = append(waits[i], time.Since(started))
				if pause > 0 {
					time.Sleep(pause - min(pause, time.Since(started)))
				}
			}
		})
	}
	all.Wait()
	b.StopTimer()
	flat := slices.Concat(waits...)
	require.NotEmpty(b, flat)
	slices.Sort(flat)
	at := func(p float64) float64 { return float64(flat[int(p*float64(len(flat)-1))].Microseconds()) / 1e3 }
	b.ReportMetric(at(0.5), "ms-median")
	b.ReportMetric(at(0.99), "ms-p99")
	b.ReportMetric(0, "ns/op")
}

func BenchmarkFreezer(b *testing.B) {
	for _, size := range []struct{ rolls, lines int }{
		{manyRolls, linesEach / 10}, {manyRolls, linesEach}, {manyRolls, linesEach * 10},
	} {
		b.Run(fmt.Sprintf("%d-rolls-%d-lines", size.rolls, size.rolls*size.lines), func(b *testing.B) {
			web := filled(b, size.rolls, size.lines)
			var build builds.BuildLine
			for _, l := range web.builds() {
				if l.Serial == "0003" {
					build = l
				}
			}
			some := func(rng *rand.Rand) string { return ident.Format(ident.Roll, 20+rng.Int64N(manyRolls-40)) }
			for name, path := range map[string]func(*rand.Rand) string{
				"page": func(*rand.Rand) string { return "/api/rolls?limit=40" },
				"find": func(rng *rand.Rand) string {
					return "/api/rolls?limit=40&find=LOAD-" +
						fmt.Sprint(rng.IntN(500))
				},
				"scan":  func(rng *rand.Rand) string { return "/api/scan/" + some(rng) },
				"which": func(*rand.Rand) string { return "/api/builds/" + build.Code + "/which-roll" },
				"roll":  func(rng *rand.Rand) string { return "/api/rolls/" + some(rng) },
			} {
				b.Run(name+"/each-asks-every-second", func(b *testing.B) { asked(b, web, time.Second, path) })
				b.Run(name+"/without-a-pause", func(b *testing.B) { asked(b, web, 0, path) })
			}
		})
	}
}
