package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/finish"
)

// send changes something and returns once that is acknowledged: it is sent again under its
// key, as a page does, while the database does not answer.
func (r running) send(t *testing.T, c *http.Client, path, key string, body any) {
	t.Helper()
	raw, err := json.Marshal(body)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		req, err := http.NewRequest("POST", r.url+path, bytes.NewReader(raw))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Idempotency-Key", key)
		res, err := c.Do(req)
		if err != nil {
			return false
		}
		defer res.Body.Close()
		var says bytes.Buffer
		_, _ = says.ReadFrom(res.Body)
		require.Contains(
			t,
			[]int{http.StatusOK, http.StatusServiceUnavailable},
			res.StatusCode,
			path+": "+says.String(),
		)
		return res.StatusCode == http.StatusOK
	}, 30*time.Second, 20*time.Millisecond)
}

// A build on its route, killed after every step: what was acknowledged is there, whatever
// room it was recorded in.
func TestKilledAtEveryStepOfARouteNothingIsLost(t *testing.T) {
	state := demoState(t)
	r := launch(t, state)
	var all builds.BuildPage
	r.read(t, r.client(t), "/api/builds?limit=200", &all)
	code := func(number, serial string) string {
		for _, b := range all.Builds {
			if b.Number == number && b.Serial == serial {
				return b.Code
			}
		}
		t.Fatalf("no build %s %s", number, serial)
		return ""
	}
	yoke, truss, strut, vane := code(
		"SP-27",
		"0001",
	), code(
		"SP-21-600",
		"0001",
	), code(
		"SP-29",
		"0001",
	), code(
		"SP-23",
		"0002",
	)
	work := func(c *http.Client, code, says string) finish.WorkStep {
		t.Helper()
		var v finish.WorkView
		r.read(t, c, "/api/finish/"+code, &v)
		for _, o := range v.Operations {
			if o.Label == says {
				return o
			}
		}
		t.Fatalf("%s has no operation %s", code, says)
		return finish.WorkStep{}
	}
	stands := func(code, says, state string) func(c *http.Client) {
		return func(c *http.Client) { assert.Equal(t, state, work(c, code, says).State, says) }
	}
	kit := func(c *http.Client, code string) (v builds.KitView) {
		r.read(t, c, "/api/kits/"+code, &v)
		return v
	}
	at := func(path, code, operation string) string {
		return fmt.Sprintf("/api/%s?operation=%s", fmt.Sprintf(path, code), url.QueryEscape(operation))
	}
	for n, step := range []struct {
		does func(c *http.Client, key string)
		then func(c *http.Client)
	}{
		{ // begun
			func(c *http.Client, key string) {
				r.send(t, c, "/api/finish/"+yoke+"/start", key, finish.Step{Operation: work(c, yoke,
					"Prepare tool").Operation})
			},
			stands(yoke, "Prepare tool", "in work"),
		},
		{ // held
			func(c *http.Client, key string) {
				r.send(t, c, "/api/finish/"+yoke+"/hold", key,
					finish.StepReason{Operation: work(c, yoke, "Prepare tool").Operation, Reason: "a scratch"})
			},
			stands(yoke, "Prepare tool", "held"),
		},
		{ // taken up again
			func(c *http.Client, key string) {
				r.send(t, c, "/api/finish/"+yoke+"/start", key, finish.Step{Operation: work(c, yoke,
					"Prepare tool").Operation})
			},
			stands(yoke, "Prepare tool", "in work"),
		},
		{ // signed
			func(c *http.Client, key string) {
				r.send(t, c, "/api/finish/"+yoke+"/sign", key, finish.SignStep{Operation: work(c, yoke,
					"Prepare tool").Operation})
			},
			stands(yoke, "Prepare tool", "done"),
		},
		{ // a ply laid at a join
			func(c *http.Client, key string) {
				var v builds.LayupView
				r.read(t, c, at("layup/%s", yoke, work(c, yoke, "Join").Operation), &v)
				r.send(t, c, "/api/layup/"+yoke+"/sign", key,
					builds.SignPly{Ply: v.Next.Ply, CutPly: v.NextCut, FilmsOff: v.Plies[0].Films})
			},
			stands(yoke, "Join", "ready"), // it is signed once its plies are laid
		},
		{ // a ply counted
			func(c *http.Client, key string) {
				r.send(t, c, "/api/kits/"+truss+"/count", key, map[string]string{"cutPly": kit(c,
					truss).Plies[0].Cut[0].Code})
			},
			func(c *http.Client) { assert.Len(t, kit(c, truss).Missing, len(kit(c, truss).Plies)-1) },
		},
		{ // a whole kit
			func(c *http.Client, key string) {
				v := kit(c, strut)
				for k, p := range v.Plies {
					r.send(t, c, "/api/kits/"+strut+"/count", fmt.Sprint(key, k),
						map[string]string{"cutPly": p.Cut[0].Code})
				}
				r.send(t, c, at("kits/%s/close", strut, v.At.Operation), key, map[string]string{"container": "box 3"})
			},
			func(c *http.Client) { assert.Equal(t, "box 3", kit(c, strut).Container) },
		},
		{ // a run
			func(c *http.Client, key string) {
				r.send(t, c, "/api/runs", key, map[string]any{"loads": []curing.OvenLoad{{Build: vane}}})
			},
			stands(vane, "Cure", "in work"),
		},
		{ // a note to the next shift
			func(c *http.Client, key string) {
				r.send(t, c, "/api/today/notes", key, shop.NewHandover{Text: "hose 3 hisses"})
			},
			func(c *http.Client) {
				var day shop.Day
				r.read(t, c, "/api/today", &day)
				require.NotEmpty(t, day.Notes)
				assert.Equal(t, "hose 3 hisses", day.Notes[0].Text)
			},
		},
	} {
		step.does(r.client(t), fmt.Sprintf("step-%d-of-test", n))
		r.killAll(t, state)
		r = launch(t, state)
		step.then(r.client(t))
	}
	// The run goes on by itself where it was left, also if it was not even begun.
	c := r.client(t)
	require.Eventually(t, func() bool {
		var runs []curing.RunLine
		r.read(t, c, "/api/runs", &runs)
		return len(runs) > 0 && slices.Contains([]string{"running", "finished"}, runs[0].State)
	}, 60*time.Second, 100*time.Millisecond)
	var bench builds.LayupView
	r.read(t, r.client(t), at("layup/%s", yoke, work(r.client(t), yoke, "Join").Operation), &bench)
	assert.Len(t, bench.Laid, 1)
}
