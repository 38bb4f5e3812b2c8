package calc

import (
	"cmp"
	"context"
	"errors"
	"math"
	"time"

	"juxta/core/cutpath"
	"juxta/core/nest"
	"juxta/wire"
)

// NestPiece is one ply to cut, its fibre along x.
type NestPiece struct {
	ID          string          `json:"id"`
	Outline     wire.Outline    `json:"outline"`
	Holes       []wire.Outline  `json:"holes,omitempty" doc:"What lies in a hole is free for others"`
	HalfTurn    bool            `json:"halfTurn,omitempty" doc:"May be cut turned by 180°"`
	QuarterTurn bool            `json:"quarterTurn,omitempty" doc:"May also be cut turned by 90° and 270°: only where warp and weft are declared equal"`
	Kit         string          `json:"kit,omitempty" doc:"What it is complete with"`
	Batch       string          `json:"batch,omitempty" doc:"Pieces that name the same lie on sheets of one batch"`
	Sheets      []int           `json:"sheets,omitempty" doc:"That it may lie on, from 0; missing: on any"`
	At          *wire.Placement `json:"at,omitempty" doc:"Where it is held; missing: it is free"`
	Cut         bool            `json:"cut,omitempty" doc:"It is cut free there already: flaws found under it since are no matter"`
}

// NestSheet is a roll or an off-cut.
type NestSheet struct {
	Name        string      `json:"name,omitempty"`
	Width       float64     `json:"width" doc:"m"`
	Length      float64     `json:"length" doc:"That is left of it, m"`
	EdgeTrim    float64     `json:"edgeTrim,omitempty" doc:"Left unused along both edges, m"`
	Flaws       []wire.Flaw `json:"flaws,omitempty"`
	TableLength float64     `json:"tableLength,omitempty" doc:"No piece lies across its multiples, m; 0: pieces may"`
	OldLength   float64     `json:"bite,omitempty" doc:"What tableLength was called before"`
	Batch       string      `json:"batch,omitempty"`

	Spoiled []wire.Outline `json:"spoiled,omitempty" doc:"What the knife has spoiled: nothing lies there"`
}

// NestIn is a nest to find.
type NestIn struct {
	Pieces   []NestPiece `json:"pieces"`
	Sheets   []NestSheet `json:"sheets" doc:"In the order that they are used up in"`
	Gap      float64     `json:"gap,omitempty" doc:"For the knife, between pieces and from flaws, m"`
	Together bool        `json:"together,omitempty" doc:"Keep the pieces of a kit near one another"`
	Spread   bool        `json:"spread,omitempty" doc:"Or spread them, so that one flaw does not take a whole kit"`
	Leave    bool        `json:"leave,omitempty" doc:"Leave out what does not fit, whole kits where it can be; else that is an error"`
	First    []string    `json:"first,omitempty" doc:"Kits by importance: the last is left out first"`
	Seed     uint64      `json:"seed,omitempty" doc:"The same seed and steps give the same nest"`
	Steps    int         `json:"steps,omitempty" doc:"Places to seek for a piece; 0: as long as the seconds" minimum:"0" maximum:"100000000"`
	Seconds  float64     `json:"seconds,omitempty" doc:"To search for at most; both 0: 10 s" minimum:"0" maximum:"3600"`
}

// Problem is the nest as the core's value.
func (in NestIn) Problem() nest.Problem {
	p := nest.Problem{Gap: in.Gap, Together: in.Together, Spread: in.Spread, Leave: in.Leave, First: in.First}
	for _, piece := range in.Pieces {
		one := nest.Piece{
			ID: piece.ID, Outline: piece.Outline.Ring(), HalfTurn: piece.HalfTurn, QuarterTurn: piece.QuarterTurn, Kit: piece.Kit,
			Batch: piece.Batch, Sheets: piece.Sheets, Cut: piece.Cut,
		}
		for _, h := range piece.Holes {
			one.Holes = append(one.Holes, h.Ring())
		}
		if piece.At != nil {
			at := piece.At.Core()
			one.At = &at
		}
		p.Pieces = append(p.Pieces, one)
	}
	for _, s := range in.Sheets {
		sheet := nest.Sheet{
			Name:        s.Name,
			Width:       s.Width,
			Length:      s.Length,
			EdgeTrim:    s.EdgeTrim,
			TableLength: cmp.Or(s.TableLength, s.OldLength),
			Batch:       s.Batch,
		}
		for _, f := range s.Flaws {
			sheet.Flaws = append(sheet.Flaws, nest.Flaw{From: f.From, To: f.To, Low: f.Low, High: f.High})
		}
		for _, o := range s.Spoiled {
			sheet.Spoiled = append(sheet.Spoiled, o.Ring())
		}
		p.Sheets = append(p.Sheets, sheet)
	}
	return p
}

// Search finds the nest, as long as it may; tell, if not nil, hears of every better one.
func (in NestIn) Search(ctx context.Context, tell func(best nest.Result, step int)) (nest.Result, error) {
	seconds := in.Seconds
	if seconds == 0 && in.Steps == 0 {
		seconds = 10
	}
	p := in.Problem()
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
func knifeOver(p nest.Problem) func(nest.Result) float64 {
	return func(r nest.Result) float64 {
		byID := make(map[string]nest.Piece, len(p.Pieces))
		for _, q := range p.Pieces {
			byID[q.ID] = q
		}
		on := make([][]cutpath.PlacedPiece, len(p.Sheets))
		for _, at := range r.Placements {
			q := byID[at.ID]
			one := cutpath.PlacedPiece{ID: q.ID, Kit: q.Kit, Outline: nest.PlaceOutline(q.Outline, at), Cut: q.At != nil}
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
			path, err := cutpath.Plan(cutpath.Sheet{Length: r.Used[k], Width: p.Sheets[k].Width}, pieces, cutpath.Usual(), cutpath.Options{Across: true})
			if err != nil {
				return math.Inf(1)
			}
			seconds += path.Seconds
		}
		return seconds
	}
}

var nestCalc = define("nest", "plies placed on rolls and off-cuts, fibre direction held", NestIn{
	Pieces: []NestPiece{
		{ID: "1", Outline: wire.Outline{{0, 0}, {0.5, 0}, {0.5, 0.28}, {0, 0.28}}, HalfTurn: true},
		{ID: "2", Outline: wire.Outline{{0, 0}, {0.4, 0}, {0.15, 0.28}}, HalfTurn: true, Kit: "B-1"},
		{ID: "3", Outline: wire.Outline{{0, 0}, {0.4, 0}, {0.15, 0.28}}, HalfTurn: true, Kit: "B-1"},
		{
			ID: "4", Outline: wire.Outline{{0, 0}, {0.3, 0}, {0.3, 0.25}, {0, 0.25}}, HalfTurn: true,
			Holes: []wire.Outline{{{0.05, 0.05}, {0.2, 0.05}, {0.2, 0.2}, {0.05, 0.2}}},
		},
	},
	Sheets: []NestSheet{
		{Name: "off-cut", Width: 0.6, Length: 0.45, EdgeTrim: 0.005},
		{
			Name:     "roll",
			Width:    0.6,
			Length:   40,
			EdgeTrim: 0.005,
			Flaws:    []wire.Flaw{{From: 0.1, To: 0.14, Low: 0.2, High: 0.3}},
		},
	},
	Gap: 0.002, Seed: 1, Steps: 3000,
}, func(ctx context.Context, in NestIn) (wire.NestResult, error) {
	r, err := in.Search(ctx, nil)
	var wrong *nest.FieldError
	if errors.As(err, &wrong) {
		return wire.NestResult{}, &InputError{wrong.Field, wrong.Message}
	}
	return wire.FromNest(r), err
})
