package calc

import (
	"context"
	"errors"

	"juxta/core/nest"
	"juxta/wire"
)

// NestPiece is one ply to cut, its fibre along x.
type NestPiece struct {
	ID       string       `json:"id"`
	Outline  wire.Outline `json:"outline"`
	HalfTurn bool         `json:"halfTurn,omitempty" doc:"May be cut turned by 180°"`
}

// NestIn is a nest to find.
type NestIn struct {
	Pieces   []NestPiece `json:"pieces"`
	Width    float64     `json:"width" doc:"Of the roll, m"`
	Length   float64     `json:"length" doc:"Left on the roll, m"`
	EdgeTrim float64     `json:"edgeTrim,omitempty" doc:"m"`
	Gap      float64     `json:"gap,omitempty" doc:"For the knife, m"`
	Flaws    []wire.Flaw `json:"flaws,omitempty"`
	Seed     uint64      `json:"seed,omitempty"`
	Steps    int         `json:"steps,omitempty" doc:"Orders to try" minimum:"0" maximum:"1000000"`
}

// Problem is the nest as the core's value.
func (in NestIn) Problem() nest.Problem {
	p := nest.Problem{Width: in.Width, Length: in.Length, EdgeTrim: in.EdgeTrim, Gap: in.Gap}
	for _, piece := range in.Pieces {
		p.Pieces = append(p.Pieces, nest.Piece{ID: piece.ID, Outline: piece.Outline.Ring(), HalfTurn: piece.HalfTurn})
	}
	for _, f := range in.Flaws {
		p.Flaws = append(p.Flaws, nest.Flaw{From: f.From, To: f.To})
	}
	return p
}

var nestCalc = define("nest", "plies placed on a roll, fibre direction held", NestIn{
	Pieces: []NestPiece{
		{ID: "1", Outline: wire.Outline{{0, 0}, {0.5, 0}, {0.5, 0.28}, {0, 0.28}}, HalfTurn: true},
		{ID: "2", Outline: wire.Outline{{0, 0}, {0.4, 0}, {0.15, 0.28}}, HalfTurn: true},
		{ID: "3", Outline: wire.Outline{{0, 0}, {0.4, 0}, {0.15, 0.28}}, HalfTurn: true},
	},
	Width: 0.6, Length: 40, EdgeTrim: 0.005, Gap: 0.002, Seed: 1, Steps: 200,
}, func(ctx context.Context, in NestIn) (wire.NestResult, error) {
	r, err := nest.Nest(ctx, in.Problem(), nest.Options{Seed: in.Seed, Steps: in.Steps})
	var wrong *nest.FieldError
	if errors.As(err, &wrong) {
		return wire.NestResult{}, &InputError{wrong.Field, wrong.Says}
	}
	return wire.FromNest(r), err
})
