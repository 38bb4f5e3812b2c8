package shop

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/laminate"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/wire"
)

// Worked is what the core makes of a master.
type Worked struct {
	Mass     float64        `json:"mass" doc:"As laid, kg"`
	Scale    ScaleView      `json:"scale"`
	Zones    []ZoneView     `json:"zones" doc:"Largest first"`
	More     int            `json:"more" doc:"Smaller zones that are not listed; their findings are"`
	Area     float64        `json:"area" doc:"Of all zones, m²"`
	Findings []FindingView  `json:"findings"`
	Span     float64        `json:"span" doc:"Over which the bow is told, m"`
	Delta    float64        `json:"deltaT" doc:"From the hottest hold to the room, K"`
	Layers   []LayerView    `json:"layers" doc:"In lay order, on the tool"`
	Shapes   []wire.Outline `json:"shapes" doc:"Outlines on the tool, m from the datum; layers that lie alike share one"`
	Labels   []LabelView    `json:"labels" doc:"Of all items in lay order"`
}

// ScaleView is what a scale should say at each stage, kg.
type ScaleView struct {
	Laid    float64 `json:"laid" doc:"Films off"`
	Cured   float64 `json:"cured" doc:"Less the resin that is bled"`
	Trimmed float64 `json:"trimmed" doc:"Less what lies outside the trim line"`
	Resin   float64 `json:"resin" doc:"In what is laid"`
	Lumps   float64 `json:"lumps" doc:"Inserts and the like"`
	X       float64 `json:"x" doc:"Centre of mass from the datum, m"`
	Y       float64 `json:"y"`
}

// ZoneView is a region with one stack all over. Worked is missing where
// nothing in the stack is stiff.
type ZoneView struct {
	Items  []string          `json:"items" doc:"Keys in lay order"`
	Says   string            `json:"says" doc:"Its layers, such as plies 1 to 4, core 1"`
	Area   float64           `json:"area"`
	X      float64           `json:"x" doc:"A place inside it, m"`
	Y      float64           `json:"y"`
	Beside []int             `json:"beside"`
	Worked *calc.LaminateOut `json:"worked,omitempty"`
}

// FindingView is a broken rule with the items that it is about.
type FindingView struct {
	Rule   string   `json:"rule"`
	Says   string   `json:"says"`
	Items  []string `json:"items" doc:"Keys"`
	Zones  []int    `json:"zones" doc:"Among the zones listed; empty: in plan"`
	Waived string   `json:"waived,omitempty" doc:"Who lets it stand, and why"`
}

// Outline is where a layer lies on the tool, m from the datum.
func (w *Worked) Outline(l LayerView) wire.Outline { return w.Shapes[l.Shape] }

// LayerView is a layer on the tool.
type LayerView struct {
	Key        string  `json:"key"`
	Label      string  `json:"label"`
	Kind       string  `json:"kind"`
	Stage      string  `json:"stage" doc:"Key"`
	Material   string  `json:"material"`
	MaterialID int64   `json:"materialId"`
	Woven      bool    `json:"woven"`
	AngleDeg   float64 `json:"angleDeg" doc:"From the tool's rosette"`
	Shape      int     `json:"shape" doc:"Its outline on the tool, among the shapes"`
	FaceUp     bool    `json:"faceUp"`
	Films      int     `json:"films"`
	Thickness  float64 `json:"thickness"`
	Running    float64 `json:"running" doc:"Sum of the thicknesses up to and with it, where all lie on each other, m"`
	Area       float64 `json:"area" doc:"m²"`
}

// LabelView is what an item is called.
type LabelView struct {
	Key   string `json:"key"`
	Label string `json:"label"`
}

// shownZones is how many zones are listed.
const shownZones = 60

// work asks the core about a master; nil for one without layers. changed are
// layers that a question turns over, drops or turns, before they are worked
// out.
func (m masterOf) work(change func([]master.Layer) []master.Layer) (*Worked, error) {
	if m.doc.Family() {
		// A family is shown as its first variant.
		one, err := m.doc.Of(m.doc.Variants[0])
		if err != nil {
			return nil, invalid("document", "%s", err)
		}
		m.doc = one
	}
	layers, err := m.doc.Layers(m.materials)
	if err != nil {
		return nil, invalid("document", "%s", err)
	}
	if change != nil {
		layers = change(layers)
	}
	if len(layers) == 0 {
		return nil, nil
	}
	placed, keyOf := make([]laminate.Placed, len(layers)), map[string]string{}
	w := &Worked{Span: bowSpan, Delta: room - m.hottest(), Zones: []ZoneView{}, Findings: []FindingView{}}
	shapes := map[*geom.Point]int{} // layers that lie alike share one ring
	labels, running := m.doc.Labels(), 0.0
	for _, i := range m.doc.Items() {
		w.Labels = append(w.Labels, LabelView{i.Key, labels[i.Key]})
		keyOf[labels[i.Key]] = i.Key
	}
	for k, l := range layers {
		placed[k] = l.Placed
		running += l.Lamina.Thickness
		mat := m.materials[l.Item.MaterialID]
		films := mat.Films
		if l.Item.FilmsOff != nil {
			films = *l.Item.FilmsOff
		}
		if _, known := shapes[&l.Outline[0]]; !known {
			shapes[&l.Outline[0]] = len(w.Shapes)
			w.Shapes = append(w.Shapes, wire.FromRing(l.Outline))
		}
		w.Layers = append(w.Layers, LayerView{Key: l.Key, Label: l.Name, Kind: l.Item.Kind, Stage: l.Stage, Material: mat.Name, MaterialID: l.Item.MaterialID, Woven: mat.Kind == "woven",
			AngleDeg: unit.FoldAngle(l.AngleDeg), Shape: shapes[&l.Outline[0]], FaceUp: l.FaceUp, Films: films, Thickness: l.Lamina.Thickness, Running: running, Area: l.Outline.Area()})
	}
	zones, err := laminate.Zones(placed)
	if err != nil {
		return nil, invalid("document", "%s", err)
	}
	trim, err := m.trim()
	if err != nil {
		return nil, invalid("document/trim", "%s", err)
	}
	mass, err := laminate.Weigh(placed, m.doc.Lumps(), m.process.Bleed, trim)
	if err != nil {
		return nil, invalid("document", "%s", err)
	}
	w.Mass = mass.Laid
	w.Scale = ScaleView{mass.Laid, mass.Cured, mass.Trimmed, mass.Resin, mass.Lumps, mass.Centre.X, mass.Centre.Y}
	apart := map[string]bool{} // stages laid on what is cured already
	for _, s := range m.doc.Stages {
		apart[s.Key] = s.Kind == "over-wrap" || s.Kind == "bond"
	}
	for n, z := range zones {
		w.Area += z.Area
		worked := stacked(z.Stack(placed), w.Delta)
		shown := []int{}
		if n < shownZones {
			shown = []int{n}
			view := ZoneView{Area: z.Area, X: z.At.X, Y: z.At.Y, Beside: []int{}, Worked: worked}
			var in []master.Layer
			for _, k := range z.Plies {
				view.Items = append(view.Items, layers[k].Key)
				in = append(in, layers[k])
			}
			view.Says = layersSaid(in)
			for _, b := range z.Beside {
				if b < shownZones {
					view.Beside = append(view.Beside, b)
				}
			}
			w.Zones = append(w.Zones, view)
		} else {
			w.More++
		}
		if worked == nil {
			continue
		}
		for _, f := range wire.FromFindings(laminate.Inspect(together(z, layers, apart), m.rules)) {
			w.find(m, f, keyOf, shown)
		}
	}
	for _, f := range wire.FromFindings(m.doc.Inspect(layers, m.rules)) {
		w.find(m, f, keyOf, []int{})
	}
	return w, nil
}

// together is the part of a zone's stack that cools together from one cure: the
// rules of a stack are not for what is laid over it later.
func together(z laminate.Zone, layers []master.Layer, apart map[string]bool) []laminate.Ply {
	var stack []laminate.Ply
	for _, k := range z.Plies {
		if !apart[layers[k].Stage] {
			stack = append(stack, layers[k].Ply)
		}
	}
	return stack
}

// find adds a finding; the same one in several zones is told once.
func (w *Worked) find(m masterOf, f wire.Finding, keyOf map[string]string, zones []int) {
	k := slices.IndexFunc(w.Findings, func(v FindingView) bool { return v.Rule == f.Rule && v.Says == f.Says })
	if k >= 0 {
		w.Findings[k].Zones = append(w.Findings[k].Zones, zones...)
		return
	}
	v := FindingView{Rule: f.Rule, Says: f.Says, Items: []string{}, Zones: zones}
	for _, label := range f.Plies {
		v.Items = append(v.Items, keyOf[label])
	}
	for _, waiver := range m.waivers {
		if waiver.Rule == f.Rule && waiver.Says == f.Says {
			v.Waived = waiver.Reason
		}
	}
	w.Findings = append(w.Findings, v)
}

// layersSaid names layers shortly: runs of ply numbers, and the others.
func layersSaid(layers []master.Layer) string {
	said, from, last := "", 0, 0
	flush := func() {
		if from == 0 {
			return
		}
		if said != "" {
			said += ", "
		}
		switch {
		case from == last:
			said += strconv.Itoa(from)
		default:
			said += fmt.Sprintf("%d to %d", from, last)
		}
		from = 0
	}
	for _, l := range layers {
		if n, err := strconv.Atoi(l.Name); err == nil {
			if from == 0 || n != last+1 {
				flush()
				from = n
			}
			last = n
			continue
		}
		flush()
		if said != "" {
			said += ", "
		}
		said += l.Name
	}
	flush()
	return said
}

// Question is what somebody wants to know of a master while they write it.
type Question struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Section  *[4]float64      `json:"section,omitempty" doc:"Line x1, y1, x2, y2 in m; missing: through the middle of the smallest layer"`
	WhatIf   *WhatIf          `json:"whatIf,omitempty"`
	Before   bool             `json:"before,omitempty" doc:"Also what the revision before is"`
	Load     *master.Load     `json:"load,omitempty" doc:"To hold the largest zone's plies against"`
	Zone     int              `json:"zone,omitempty" doc:"That the load and the tolerance are about" minimum:"0"`
	Off      float64          `json:"off,omitempty" doc:"Tolerance of all angles for the range of the warp, degrees" minimum:"0" maximum:"20"`
}

// WhatIf is a change that is only asked about.
type WhatIf struct {
	Flip []string           `json:"flip,omitempty" doc:"Keys of layers turned over" maxItems:"500"`
	Drop []string           `json:"drop,omitempty" doc:"Left out" maxItems:"500"`
	Turn map[string]float64 `json:"turn,omitempty" doc:"Turned by degrees, by key"`
}

// Reply is what the core makes of the question.
type Reply struct {
	Faults   []master.Fault  `json:"faults" doc:"While there are any, nothing is worked out"`
	Outlines []OutlineView   `json:"outlines" doc:"In their own axes, those that can be drawn"`
	Worked   *Worked         `json:"worked,omitempty"`
	Section  *SectionView    `json:"section,omitempty"`
	Before   *Worked         `json:"before,omitempty" doc:"The revision before"`
	WhatIf   *Worked         `json:"whatIf,omitempty"`
	Load     []PlyStressView `json:"load,omitempty"`
	Range    *RangeView      `json:"range,omitempty"`
}

// OutlineView is an outline as drawn.
type OutlineView struct {
	Name    string       `json:"name"`
	Outline wire.Outline `json:"outline" doc:"m"`
}

// SectionView is the stack along a line.
type SectionView struct {
	Line   [4]float64     `json:"line" doc:"m"`
	Length float64        `json:"length"`
	Height float64        `json:"height"`
	Pieces []SectionPiece `json:"pieces"`
}

// SectionPiece is a piece of a layer in a section; faces in m from the tool at
// both ends.
type SectionPiece struct {
	Key  string     `json:"key"`
	From float64    `json:"from"`
	To   float64    `json:"to"`
	Low  [2]float64 `json:"low"`
	High [2]float64 `json:"high"`
}

// PlyStressView is what a load does to a ply. The indices are missing where
// the material's strength is not known.
type PlyStressView struct {
	Key       string     `json:"key"`
	Ply       string     `json:"ply"`
	Stress    [3]float64 `json:"stress" doc:"Along, across, shear, Pa"`
	MaxStress *float64   `json:"maxStress,omitempty" doc:"Index by maximum stress: failure at 1"`
	Mode      string     `json:"mode,omitempty"`
	TsaiWu    *float64   `json:"tsaiWu,omitempty" doc:"Index after Tsai and Wu: failure at 1"`
	Reserve   *float64   `json:"reserve,omitempty" doc:"Factor on the load until Tsai–Wu reaches 1; missing: without bound"`
	First     bool       `json:"first" doc:"It fails first"`
}

// RangeView is a range of the bow, m: the middle 90 % and the worst seen.
type RangeView struct {
	Off    float64 `json:"off" doc:"Degrees"`
	Low    float64 `json:"low"`
	Middle float64 `json:"middle"`
	High   float64 `json:"high"`
	Worst  float64 `json:"worst"`
}

// Ask answers a question about a part's master, kept or as it stands on a page.
// It stores nothing.
func (s *Shop) Ask(ctx context.Context, partCode string, q Question) (Reply, error) {
	return view(ctx, s, func(db *gorm.DB) (Reply, error) {
		part, err := find[Part](db, ident.Part, partCode, "part")
		if err != nil {
			return Reply{}, err
		}
		var r Revision
		where := db.Where("part_id = ?", part.ID).Order("id desc")
		if q.Letter != "" {
			where = where.Where("letter = ?", q.Letter)
		}
		if err := where.Limit(1).Find(&r).Error; err != nil {
			return Reply{}, err
		}
		if r.ID == 0 {
			return Reply{}, missing("%s has no revision %s", part.Number, q.Letter)
		}
		m, err := s.master(db, r)
		if err != nil {
			return Reply{}, err
		}
		if q.Document != nil {
			m.doc = q.Document.Normal()
			if err := s.equip(db, &m); err != nil {
				return Reply{}, err
			}
		}
		out, err := m.reply(q)
		if err != nil || !q.Before {
			return out, err
		}
		var before []Revision
		if err := db.Where("part_id = ? and id < ?", part.ID, r.ID).Order("id desc").Limit(1).Find(&before).Error; err != nil || len(before) == 0 {
			return out, err
		}
		old, err := s.master(db, before[0])
		if err != nil {
			return out, err
		}
		out.Before, err = old.work(nil)
		return out, err
	})
}

func (m masterOf) reply(q Question) (Reply, error) {
	out := Reply{Faults: m.doc.Check(m.materials), Outlines: []OutlineView{}}
	if m.doc.Family() && len(out.Faults) == 0 {
		one, err := m.doc.Of(m.doc.Variants[0])
		if err != nil {
			return out, invalid("document", "%s", err)
		}
		m.doc = one
	}
	for _, o := range m.doc.Outlines {
		if ring, err := o.Ring(); err == nil {
			out.Outlines = append(out.Outlines, OutlineView{o.Name, wire.FromRing(ring)})
		}
	}
	if len(out.Faults) > 0 {
		return out, nil
	}
	var err error
	if out.Worked, err = m.work(nil); err != nil || out.Worked == nil {
		return out, err
	}
	layers, err := m.doc.Layers(m.materials)
	if err != nil {
		return out, invalid("document", "%s", err)
	}
	if out.Section, err = sectioned(layers, q.Section); err != nil {
		return out, err
	}
	if q.WhatIf != nil {
		if out.WhatIf, err = m.work(q.WhatIf.apply); err != nil {
			return out, err
		}
	}
	if q.Zone >= len(out.Worked.Zones) || q.Load == nil && q.Off == 0 {
		return out, nil
	}
	var stack []laminate.Ply
	for _, l := range layers {
		if slices.Contains(out.Worked.Zones[q.Zone].Items, l.Key) {
			stack = append(stack, l.Ply)
		}
	}
	if out.Worked.Zones[q.Zone].Worked == nil {
		return out, nil
	}
	if q.Load != nil {
		if out.Load, err = m.stresses(stack, *q.Load); err != nil {
			return out, invalid("load", "%s", err)
		}
	}
	if q.Off > 0 {
		b, err := laminate.BowRange(stack, unit.Rad(q.Off), out.Worked.Delta, bowSpan, 1)
		if err != nil {
			return out, invalid("off", "%s", err)
		}
		out.Range = &RangeView{q.Off, b.Low, b.Middle, b.High, b.Worst}
	}
	return out, nil
}

func (w WhatIf) apply(layers []master.Layer) []master.Layer {
	out := []master.Layer{}
	for _, l := range layers {
		if slices.Contains(w.Drop, l.Key) {
			continue
		}
		if slices.Contains(w.Flip, l.Key) {
			// Turned over about the tool's x: the fibre that ran at θ runs at −θ.
			l.FaceUp, l.Angle, l.AngleDeg = !l.FaceUp, -l.Angle, -l.AngleDeg
		}
		if by := w.Turn[l.Key]; by != 0 {
			l.Angle += unit.Rad(by)
			l.AngleDeg += by
		}
		out = append(out, l)
	}
	return out
}

func sectioned(layers []master.Layer, line *[4]float64) (*SectionView, error) {
	if line == nil {
		smallest, all := layers[0].Outline, geom.Ring{}
		for _, l := range layers {
			if l.Outline.Area() < smallest.Area() {
				smallest = l.Outline
			}
			all = append(all, l.Outline...)
		}
		// A little off the middle, where outlines like to have corners.
		in, b := smallest.Bounds(), all.Bounds()
		y := (in.Min.Y+in.Max.Y)/2 + in.Height()*1e-3
		if c := smallest.Crossings(y); len(c) == 0 {
			y = (in.Min.Y + in.Max.Y) / 2
		}
		pad := b.Width() * 0.02
		line = &[4]float64{b.Min.X - pad, y, b.Max.X + pad, y}
	}
	cut, err := master.Cut(layers, geom.Point{X: line[0], Y: line[1]}, geom.Point{X: line[2], Y: line[3]})
	if err != nil {
		return nil, invalid("section", "%s", err)
	}
	v := &SectionView{Line: *line, Length: cut.Length, Height: cut.Height, Pieces: []SectionPiece{}}
	for _, p := range cut.Pieces {
		v.Pieces = append(v.Pieces, SectionPiece(p))
	}
	return v, nil
}

func (m masterOf) stresses(stack []laminate.Ply, load master.Load) ([]PlyStressView, error) {
	strengths, keyOf := map[string]laminate.Strength{}, map[string]string{}
	for _, mat := range m.materials {
		strengths[mat.Name] = mat.Strength
	}
	for key, label := range m.doc.Labels() {
		keyOf[label] = key
	}
	all, err := laminate.Stresses(stack, strengths, laminate.Load{N: load.N, M: load.M, DeltaT: load.DeltaT})
	if err != nil {
		return nil, err
	}
	first, any := laminate.FirstPly(all)
	out := []PlyStressView{}
	for _, p := range all {
		v := PlyStressView{Key: keyOf[p.Ply], Ply: p.Ply, Stress: p.Stress, Mode: p.Mode, First: any && p.Ply == first.Ply}
		if p.Mode != "" {
			v.MaxStress, v.TsaiWu = &p.MaxStress, &p.TsaiWu
			if p.Reserve < 1e9 {
				v.Reserve = &p.Reserve
			}
		}
		out = append(out, v)
	}
	return out, nil
}
