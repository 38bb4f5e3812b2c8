package calc

import (
	"context"
	"slices"

	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/parallel"
)

// FindIn asks for the shortest cycle that meets the limits of a cure, beginning with its recipe.
type FindIn struct {
	CureIn
	Search *FindState `json:"search,omitempty" doc:"As far as a search has come that is gone on with"`
	Seed   uint64     `json:"seed,omitempty"`
	Tries  int        `json:"tries,omitempty" doc:"Cycles to try; 0: until it is settled" minimum:"0" maximum:"20000"`
}

// FindState is how far a search has come, and what it has found.
type FindState struct {
	Recipe   cure.Recipe  `json:"recipe" doc:"Best so far"`
	Duration float64      `json:"duration" doc:"s"`
	Misses   float64      `json:"misses" doc:"By how much it misses its limits, as parts of them added up; 0: it meets all"`
	Scale    int          `json:"scale"`
	Round    int          `json:"round"`
	Tried    int          `json:"tried"`
	Settled  bool         `json:"settled"`
	Proved   *cure.Recipe `json:"proved,omitempty" doc:"Best that has passed a check at a finer step"`
	Lasts    float64      `json:"lasts,omitempty"`
	Lacks    float64      `json:"lacks,omitempty"`
	HeldBack *CureHeld    `json:"heldBack,omitempty" doc:"Settled: the limit that keeps it from being shorter, with what would be found"`
	Shorter  string       `json:"shorter,omitempty" doc:"What a minute less would be taken from"`
}

func (s FindState) core() forecast.Search {
	out := forecast.Search{
		Recipe: s.Recipe, Duration: s.Duration, Misses: s.Misses, Scale: s.Scale, Round: s.Round, Tried: s.Tried,
		Settled: s.Settled, Lasts: s.Lasts, Lacks: s.Lacks,
	}
	if s.Proved != nil {
		out.Proved = *s.Proved
	}
	return out
}

func fromSearch(s forecast.Search) FindState {
	out := FindState{
		Recipe: s.Recipe, Duration: s.Duration, Misses: s.Misses, Scale: s.Scale, Round: s.Round, Tried: s.Tried,
		Settled: s.Settled, Lasts: s.Lasts, Lacks: s.Lacks, Shorter: s.Shorter,
	}
	if s.Round > 0 {
		proved := s.Proved
		out.Proved = &proved
	}
	if h := s.HeldBack; h.What != "" {
		out.HeldBack = &CureHeld{h.What, string(h.Kind), h.Limit, h.Found, h.AtLeast, h.Met, h.Section, h.T}
	}
	return out
}

// Find goes on with a search for the shortest cycle. Bad input is an *[InputError].
func (in FindIn) Find(ctx context.Context) (FindState, error) {
	s := forecast.Search{Recipe: in.Recipe}
	if in.Search != nil {
		s = in.Search.core()
		if err := s.Recipe.Check(); err != nil {
			return FindState{}, &InputError{"search.recipe", err.Error()}
		}
	}
	for {
		tries := in.Tries
		if tries == 0 {
			tries = 200
		}
		var err error
		if s, err = forecast.FindShortest(ctx, in.Job(), s, in.Seed, tries); err != nil {
			return FindState{}, &InputError{"recipe", err.Error()}
		}
		if in.Tries > 0 || s.Settled || ctx.Err() != nil {
			return fromSearch(s), nil
		}
	}
}

var recipeCalc = define("recipe", "the shortest cure cycle that meets limits on a stack, a tool and an oven", FindIn{
	CureIn: ExampleCure(), Seed: 1, Tries: 60,
}, func(ctx context.Context, in FindIn) (FindState, error) { return in.Find(ctx) })

// MapIn asks where a cure works over thickness and dwell: a row of a map.
type MapIn struct {
	CureIn
	Section   int       `json:"section" minimum:"0" maximum:"11"`
	Layer     int       `json:"layer" doc:"Whose thickness is varied" minimum:"0" maximum:"23"`
	Thickness []float64 `json:"thickness" doc:"m" minItems:"1" maxItems:"60"`
	Segment   int       `json:"segment" doc:"Whose hold is varied" minimum:"0" maximum:"39"`
	Holds     []float64 `json:"holds" doc:"s" minItems:"1" maxItems:"60"`
}

// MapCell is a cure of a map.
type MapCell struct {
	Thickness float64 `json:"thickness"`
	Hold      float64 `json:"hold"`
	Duration  float64 `json:"duration" doc:"s; 0: it cannot be run"`
	Hottest   float64 `json:"hottest" doc:"K"`
	Why       string  `json:"why,omitempty" doc:"The limit that it misses by most, or why it cannot be run"`
}

// Map works out all pairs of thickness and hold, on all cores.
func (in MapIn) Map(ctx context.Context) ([]MapCell, error) {
	switch {
	case in.Section >= len(in.Sections):
		return nil, &InputError{"section", "there is no such section"}
	case in.Layer >= len(in.Sections[in.Section].Layers):
		return nil, &InputError{"layer", "there is no such layer"}
	case in.Segment >= len(in.Recipe.Segments):
		return nil, &InputError{"segment", "there is no such segment"}
	}
	out := make([]MapCell, len(in.Thickness)*len(in.Holds))
	next := make(chan int)
	var all parallel.Group
	for range 4 {
		all.Run(func() {
			for k := range next {
				out[k] = in.cell(ctx, in.Thickness[k/len(in.Holds)], in.Holds[k%len(in.Holds)])
			}
		})
	}
	for k := range out {
		next <- k
	}
	close(next)
	if err := all.Wait(); err != nil {
		return nil, err
	}
	return out, ctx.Err()
}

func (in MapIn) cell(ctx context.Context, thick, hold float64) MapCell {
	j := in.Job()
	j.Sections[in.Section].Layers[in.Layer].Thickness = thick
	j.Recipe.Segments = slices.Clone(j.Recipe.Segments)
	j.Recipe.Segments[in.Segment].Hold = hold
	j.Every = 600
	c := MapCell{Thickness: thick, Hold: hold}
	f, err := forecast.Simulate(ctx, j)
	if err != nil {
		c.Why = err.Error()
		return c
	}
	c.Duration = f.Duration
	for _, o := range f.Sections {
		c.Hottest = max(c.Hottest, o.Hottest)
	}
	worst := 0.0
	for _, h := range f.Checks {
		if by := h.Misses(); by > worst {
			worst, c.Why = by, h.What
		}
	}
	for _, x := range f.Findings {
		if x.By > worst {
			worst, c.Why = x.By, x.Rule
		}
	}
	return c
}
