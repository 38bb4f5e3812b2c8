package wire

import (
	"cmp"
	"encoding/json"
	"math"
	"time"

	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/material"
	"juxta/core/nest"
	"juxta/core/unit"
)

// Outline is a closed outline, points in m.
type Outline [][2]float64

// Ring is the outline as the core's value.
func (o Outline) Ring() geom.Ring {
	r := make(geom.Ring, len(o))
	for i, p := range o {
		r[i] = geom.Point{X: p[0], Y: p[1]}
	}
	return r
}

// FromRing is the outline of a core value.
func FromRing(r geom.Ring) Outline {
	o := make(Outline, len(r))
	for i, p := range r {
		o[i] = [2]float64{p.X, p.Y}
	}
	return o
}

// Drawn is an outline for a picture, to the tenth of a micrometre: a third of
// the digits to send. What is cut or kept goes by [FromRing].
func Drawn(r geom.Ring) Outline {
	o := make(Outline, len(r))
	for i, p := range r {
		o[i] = [2]float64{Fine(p.X), Fine(p.Y)}
	}
	return o
}

// Fine is a length to the tenth of a micrometre.
func Fine(metres float64) float64 { return math.Round(metres*1e7) / 1e7 }

// Lamina is the cured material of a ply.
type Lamina struct {
	E1              float64 `json:"e1" doc:"Stiffness along the fibre or warp, Pa" exclusiveMinimum:"0"`
	E2              float64 `json:"e2" doc:"Stiffness across, Pa" exclusiveMinimum:"0"`
	Nu12            float64 `json:"nu12" doc:"Poisson's ratio"`
	G12             float64 `json:"g12" doc:"Shear stiffness, Pa" exclusiveMinimum:"0"`
	Alpha1          float64 `json:"alpha1,omitempty" doc:"Expansion along, 1/K"`
	Alpha2          float64 `json:"alpha2,omitempty" doc:"Expansion across, 1/K"`
	Thickness       float64 `json:"thickness" doc:"Cured ply thickness, m" exclusiveMinimum:"0"`
	ArealMass       float64 `json:"arealMass,omitempty" doc:"Of the prepreg, kg/m²" minimum:"0"`
	AsymmetricWeave bool    `json:"asymmetricWeave,omitempty" doc:"Warp face and weft face differ"`
	FaceShift       float64 `json:"faceShift,omitempty" doc:"Asymmetric weave: share by which warp prevails on the warp face" minimum:"0" maximum:"1"`
	G13             float64 `json:"g13,omitempty" doc:"Core: shear stiffness through its thickness, Pa"`
	G23             float64 `json:"g23,omitempty"`
	ResinShare      float64 `json:"resinShare,omitempty" doc:"Of the prepreg's mass"`
	Conducts        bool    `json:"conducts,omitempty" doc:"Carbon"`
}

// Core is the core's value.
func (l Lamina) Core() laminate.Lamina { return laminate.Lamina(l) }

// Share is the part of the thickness at one angle.
type Share struct {
	AngleDeg float64 `json:"angleDeg"`
	Part     float64 `json:"part"`
}

// Finding is one rule that a stack breaks.
type Finding struct {
	Rule    string   `json:"rule"`
	Message string   `json:"message"`
	Plies   []string `json:"plies"`
}

// FromFindings turns the core's findings into their wire form.
func FromFindings(found []laminate.Finding) []Finding {
	out := make([]Finding, len(found))
	for i, f := range found {
		out[i] = Finding(f)
	}
	return out
}

// FromShares turns the core's shares into their wire form.
func FromShares(shares []laminate.Share) []Share {
	out := make([]Share, len(shares))
	for i, s := range shares {
		out[i] = Share(s)
	}
	return out
}

// OutTimeStatus is what is left of a material's life; durations in s.
type OutTimeStatus struct {
	Life     float64    `json:"life" doc:"Out-life, s"`
	Spent    float64    `json:"spent" doc:"Out-time spent, s"`
	Planned  float64    `json:"planned" doc:"That the plan will still use, s"`
	Left     float64    `json:"left" doc:"What is over; negative: the plan passes the end, s"`
	RunsOut  time.Time  `json:"runsOut" doc:"End of out-life if kept out from now"`
	TackLeft *float64   `json:"tackLeft,omitempty" doc:"Tack life left, s"`
	ShelfEnd *time.Time `json:"shelfEnd,omitempty"`
	Out      bool       `json:"out" doc:"Outside the freezer now"`
	Ages     bool       `json:"ages" doc:"It has an out-life at all"`
}

// FromOutTime is the wire form of a fuse.
func FromOutTime(f material.OutTimeStatus) OutTimeStatus {
	w := OutTimeStatus{
		Life:    f.Life.Seconds(),
		Spent:   f.Spent.Seconds(),
		Planned: f.Planned.Seconds(),
		Left:    f.Left.Seconds(),
		RunsOut: f.RunsOut,
		Out:     f.Out,
		Ages:    f.Ages,
	}
	if f.HasTack {
		tack := f.Tack.Seconds()
		w.TackLeft = &tack
	}
	if !f.ShelfEnd.IsZero() {
		w.ShelfEnd = &f.ShelfEnd
	}
	return w
}

// Core is the fuse as the core's value.
func (w OutTimeStatus) Core() material.OutTimeStatus {
	seconds := func(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
	f := material.OutTimeStatus{
		Life:    seconds(w.Life),
		Spent:   seconds(w.Spent),
		Planned: seconds(w.Planned),
		Left:    seconds(w.Left),
		RunsOut: w.RunsOut,
		Out:     w.Out,
		Ages:    w.Ages,
	}
	if w.TackLeft != nil {
		f.Tack, f.HasTack = seconds(*w.TackLeft), true
	}
	if w.ShelfEnd != nil {
		f.ShelfEnd = *w.ShelfEnd
	}
	return f
}

// Flaw is a stretch of roll to leave out, m: a flaw of the supplier's map or
// found in the shop, or a splice.
type Flaw struct {
	From float64 `json:"from" minimum:"0"`
	To   float64 `json:"to" minimum:"0"`
	Low  float64 `json:"low,omitempty" doc:"Across the roll from its lower edge; low and high zero: the whole width" minimum:"0"`
	High float64 `json:"high,omitempty" minimum:"0"`
	Kind string  `json:"kind,omitempty" enum:"flaw,splice" doc:"Missing: flaw"`
	Note string  `json:"note,omitempty" maxLength:"120"`
}

// Placement says where a piece lies: its points are turned about their own origin, then moved by x and y
// from the start of the sheet's lower edge.
type Placement struct {
	ID    string  `json:"id"`
	Sheet int     `json:"sheet" doc:"Which of the sheets, from 0"`
	X     float64 `json:"x" doc:"m"`
	Y     float64 `json:"y" doc:"m"`
	Turn  int     `json:"turn" doc:"Anticlockwise about the origin of the piece's own points, degrees" enum:"0,90,180,270"`
}

// Core is the placement as the core's value.
func (p Placement) Core() nest.Placement { return nest.Placement(p) }

// FromPlacement is the wire form of a placement.
func FromPlacement(p nest.Placement) Placement { return Placement(p) }

// NestResult is a nest as found so far.
type NestResult struct {
	Placements []Placement `json:"placements"`
	Left       []string    `json:"left,omitempty" doc:"Pieces that were left out"`
	Used       []float64   `json:"used" doc:"Of each sheet, m"`
	Length     float64     `json:"length" doc:"Used of all sheets, m"`
	Yield      float64     `json:"yield" doc:"Area of the pieces over that of what is used"`
	Rest       *Rest       `json:"rest,omitempty" doc:"The largest rectangle within what is used on which nothing lies"`
	Step       int         `json:"step" doc:"Places sought for a piece"`
	Dropped    int         `json:"dropped,omitempty" doc:"Layouts that did not pass the exact check and were dropped"`
}

// Rest is a rectangle of a sheet, m.
type Rest struct {
	Sheet  int     `json:"sheet"`
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width" doc:"Along the sheet"`
	Height float64 `json:"height" doc:"Across it"`
}

// FromNest is the wire form of a nest.
func FromNest(r nest.Result) NestResult {
	w := NestResult{
		Placements: make([]Placement, len(r.Placements)), Left: r.Left, Used: r.Used, Length: r.Length, Yield: r.Yield, Step: r.Step,
		Dropped: r.Dropped,
	}
	for i, p := range r.Placements {
		w.Placements[i] = Placement(p)
	}
	if r.Rest.Area() > 0 {
		b := r.Rest.Box
		w.Rest = &Rest{r.Rest.Sheet, Fine(b.Min.X), Fine(b.Min.Y), Fine(b.Width()), Fine(b.Height())}
	}
	return w
}

// Core is the nest as the core's value.
func (w NestResult) Core() nest.Result {
	r := nest.Result{
		Placements: make([]nest.Placement, len(w.Placements)), Left: w.Left, Used: w.Used, Length: w.Length, Yield: w.Yield, Step: w.Step,
		Dropped: w.Dropped,
	}
	for i, p := range w.Placements {
		r.Placements[i] = nest.Placement(p)
	}
	if w.Rest != nil {
		r.Rest = nest.Remnant{Sheet: w.Rest.Sheet, Box: geom.Box{
			Min: geom.Point{X: w.Rest.X, Y: w.Rest.Y}, Max: geom.Point{X: w.Rest.X + w.Rest.Width, Y: w.Rest.Y + w.Rest.Height},
		}}
	}
	return r
}

// PlanPoint is one point of a planned run, K.
type PlanPoint struct {
	T        float64 `json:"t" doc:"s"`
	SetPoint float64 `json:"setPoint"`
	Low      float64 `json:"low" doc:"Of the air's band"`
	High     float64 `json:"high"`
	Part     float64 `json:"part" doc:"Coldest place of what cures, as foreseen"`
	Lead     float64 `json:"lead,omitempty" doc:"And the hottest; missing: of before cures were foreseen"`
}

// FromPlan is the wire form of a plan.
func FromPlan(plan []forecast.Planned) []PlanPoint {
	out := make([]PlanPoint, len(plan))
	for i, p := range plan {
		out[i] = PlanPoint{p.T, p.SetPoint, p.Low, p.High, p.Lag, p.Lead}
	}
	return out
}

// RunCheck is one limit and what the run did.
type RunCheck struct {
	What    string  `json:"what"`
	Limit   float64 `json:"limit"`
	Found   float64 `json:"found"`
	Unit    string  `json:"unit" doc:"K, s, K/s, Pa, or empty for a ratio"`
	AtLeast bool    `json:"atLeast" doc:"The limit is met at or above it; else at or below"`
	Met     bool    `json:"met"`
	At      float64 `json:"at" doc:"s from the start"`
	Message string  `json:"message"`
}

// UnmarshalJSON reads checks that were kept before their sentence was called a message, too.
func (c *RunCheck) UnmarshalJSON(raw []byte) error {
	type plain RunCheck
	return WithOldMessage(raw, (*plain)(c), &c.Message)
}

// WithOldMessage reads a value, and its message by the name that it had in what was kept
// before. What it reads into must not unmarshal itself.
func WithOldMessage(raw []byte, into any, message *string) error {
	var old struct {
		Says string `json:"says"`
	}
	if err := json.Unmarshal(raw, &old); err != nil {
		return err
	}
	if err := json.Unmarshal(raw, into); err != nil {
		return err
	}
	*message = cmp.Or(*message, old.Says)
	return nil
}

// Verdict is a run held against its limits.
type Verdict struct {
	Met    bool       `json:"met"`
	Checks []RunCheck `json:"checks"`
	Cure   float64    `json:"cure" doc:"Degree of cure at the end by the lagging sensor"`
	Notes  []string   `json:"notes"`
}

// FromVerdict is the wire form of a verdict.
func FromVerdict(v cure.Verdict) Verdict {
	w := Verdict{Met: v.Met, Cure: v.Cure, Notes: v.Notes, Checks: make([]RunCheck, len(v.Checks))}
	if w.Notes == nil {
		w.Notes = []string{}
	}
	for i, c := range v.Checks {
		w.Checks[i] = RunCheck(c)
	}
	return w
}

// Degrees folds a fibre angle in degrees and turns it into radians.
func Degrees(deg float64) float64 { return unit.Rad(unit.FoldAngle(deg)) }

// CurePoint is a degree of cure at a time.
type CurePoint struct {
	T     float64 `json:"t"`
	Alpha float64 `json:"alpha"`
}
