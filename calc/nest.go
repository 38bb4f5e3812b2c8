package calc

import (
	"context"
	"errors"
	"math"
	"time"

	"juxta/core/cutpath"
	"juxta/core/geom"
	"juxta/core/nest"
)

// NestIn is a nest to find.
type NestIn struct {
	nest.Problem
	Seed    uint64  `json:"seed,omitempty" doc:"The same seed and steps give the same nest"`
	Steps   int     `json:"steps,omitempty" doc:"Places to seek for a piece; 0: as long as the seconds" minimum:"0" maximum:"100000000"`
	Seconds float64 `json:"seconds,omitempty" doc:"To search for at most; both 0: 10 s" minimum:"0" maximum:"3600"`
}

// Search finds the nest, as long as it may; tell, if not nil, hears of every better one.
func (in NestIn) Search(ctx context.Context, tell func(best nest.Layout, step int)) (nest.Layout, error) {
	seconds := in.Seconds
	if seconds == 0 && in.Steps == 0 {
		seconds = 10
	}
	p := in.Problem
	o := nest.Options{Seed: in.Seed, Steps: in.Steps, Progress: tell, Knife: knifeOver(p)}
	if seconds > 0 {
		began := time.Now()
		o.Share = func() float64 { return time.Since(began).Seconds() / seconds }
		var stop context.CancelFunc
		ctx, stop = context.WithTimeout(ctx, time.Duration(seconds*float64(time.Second)))
		defer stop()
	}
	return nest.Nest(ctx, p, o)
}

// knifeOver says how long the usual knife takes for a nest, s. A nest that it cannot be planned for takes for ever.
func knifeOver(p nest.Problem) func(nest.Layout) float64 {
	return func(r nest.Layout) float64 {
		byID := make(map[string]nest.Piece, len(p.Pieces))
		for _, q := range p.Pieces {
			byID[q.ID] = q
		}
		on := make([][]cutpath.PlacedPiece, len(p.Sheets))
		for _, at := range r.Placements {
			q := byID[at.ID]
			one := cutpath.PlacedPiece{
				ID:      q.ID,
				Kit:     q.Kit,
				Outline: nest.PlaceOutline(q.Outline, at),
				Cut:     q.At != nil,
			}
			for _, h := range q.Holes {
				one.Holes = append(one.Holes, nest.PlaceOutline(h, at))
			}
			on[at.Sheet] = append(on[at.Sheet], one)
		}
		seconds := 0.0
		for k, pieces := range on {
			if len(pieces) == 0 {
				continue
			}
			path, err := cutpath.Plan(
				cutpath.Sheet{Length: r.Used[k], Width: p.Sheets[k].Width},
				pieces,
				cutpath.Usual(),
				cutpath.Options{Across: true},
			)
			if err != nil {
				return math.Inf(1)
			}
			seconds += path.Seconds
		}
		return seconds
	}
}

var nestCalc = define("nest", "plies placed on rolls and off-cuts, fibre direction held", NestIn{
	Problem: nest.Problem{
		Pieces: []nest.Piece{
			{
				ID:       "1",
				Outline:  geom.Ring{{X: 0, Y: 0}, {X: 0.5, Y: 0}, {X: 0.5, Y: 0.28}, {X: 0, Y: 0.28}},
				HalfTurn: true,
			},
			{ID: "2", Outline: geom.Ring{{X: 0, Y: 0}, {X: 0.4, Y: 0}, {X: 0.15, Y: 0.28}}, HalfTurn: true, Kit: "B-1"},
			{ID: "3", Outline: geom.Ring{{X: 0, Y: 0}, {X: 0.4, Y: 0}, {X: 0.15, Y: 0.28}}, HalfTurn: true, Kit: "B-1"},
			{
				ID: "4", Outline: geom.Ring{{X: 0, Y: 0}, {X: 0.3, Y: 0}, {X: 0.3, Y: 0.25}, {X: 0, Y: 0.25}},
				HalfTurn: true,
				Holes:    []geom.Ring{{{X: 0.05, Y: 0.05}, {X: 0.2, Y: 0.05}, {X: 0.2, Y: 0.2}, {X: 0.05, Y: 0.2}}},
			},
		},
		Sheets: []nest.Sheet{
			{Name: "off-cut", Width: 0.6, Length: 0.45, EdgeTrim: 0.005},
			{
				Name:     "roll",
				Width:    0.6,
				Length:   40,
				EdgeTrim: 0.005,
				Flaws:    []nest.Flaw{{From: 0.1, To: 0.14, Low: 0.2, High: 0.3}},
			},
		},
		Gap: 0.002,
	},
	Seed: 1, Steps: 3000,
}, func(ctx context.Context, in NestIn) (nest.Layout, error) {
	r, err := in.Search(ctx, nil)
	var wrong *nest.FieldError
	if errors.As(err, &wrong) {
		return nest.Layout{}, &InputError{wrong.Field, wrong.Message}
	}
	return r, err
})
