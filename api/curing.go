package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"juxta/shop/book"
	"juxta/shop/curing"
	"juxta/shop/recipes"
)

func (r *routes) cure() {
	get(
		r,
		"/api/runs",
		"runs",
		"Cure runs, newest first",
		func(ctx context.Context, _ *none) ([]curing.RunLine, error) {
			return r.shop.Runs(ctx)
		},
	)
	get(
		r,
		"/api/runs/{code}",
		"run",
		"A run with plan, record and verdict",
		func(ctx context.Context, in *ByCode) (curing.RunView, error) {
			return r.shop.Run(ctx, in.Code)
		},
	)
	type builds struct {
		Body struct {
			Loads []curing.OvenLoad `json:"loads" minItems:"1" maxItems:"50"`
		}
	}
	post(
		r,
		book.RunOven,
		"/api/runs",
		"startRun",
		"Load builds and start the oven",
		func(ctx context.Context, by book.By, in *builds) (curing.RunLine, error) {
			return r.shop.StartRun(ctx, by, in.Body.Loads)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/runs/simulate",
		"simulateRun",
		"What a load would do together in the oven; stores nothing",
		func(ctx context.Context, by book.By, in *builds) (recipes.CureSimulation, error) {
			return r.shop.SimulateRun(ctx, by, in.Body.Loads)
		},
	)
	post(
		r,
		book.StopOven,
		"/api/runs/{code}/stop",
		"stopRun",
		"Turn the heat off and end the run",
		func(ctx context.Context, by book.By, in *with[Because]) (curing.RunLine, error) {
			return r.shop.StopRun(ctx, by, in.Code, in.Body.Reason)
		},
	)
	r.runEvents()
}

// runEvents tells a run as it goes on.
func (r *routes) runEvents() {
	type since struct {
		ByCode
		From float64 `query:"from" doc:"Only what came after this time of the run, s" default:"-1"`
	}
	sse.Register(
		r.api,
		huma.Operation{
			OperationID: "runEvents",
			Method:      http.MethodGet,
			Path:        "/api/runs/{code}/events",
			Summary:     "A run while it is recorded",
		},
		map[string]any{"run": curing.RunUpdate{}},
		func(ctx context.Context, in *since, send sse.Sender) {
			last, state, still := in.From, "", stillIn(ctx)
			for still() {
				u, err := r.shop.RunSince(ctx, in.Code, last)
				if err != nil {
					return
				}
				if n := len(u.Samples); n > 0 {
					last = u.Samples[n-1].T
				}
				if len(u.Samples) > 0 || u.State != state {
					state = u.State
					if send.Data(u) != nil {
						return
					}
				}
				if u.State != "queued" && u.State != "running" || !wait(ctx) {
					return
				}
			}
		},
	)
}
