package paper

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"juxta/core/geom"
	"juxta/core/master"
	"juxta/core/pattern"
	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop/parts"
)

// aTenth of a millimetre, halved: less than that is not written.
const aTenth = 5e-5

// Master is what a ply book is printed from.
type Master struct {
	Revision parts.RevisionView
	Worked   parts.AnalysisView
	Drawing  parts.Drawing
	Tools    []parts.ToolView
	Cures    []parts.SimulatedCure
	Pictures map[int64][]byte // files by id
}

// PlyBook lays the ply book of a revision out: a cover, a page an item, a section,
// and templates at 1:1 for hand cutting where they are asked for.
func PlyBook(m Master, templates bool, units unit.System) (pdf.Book, error) {
	v, w, d := m.Revision, m.Worked, m.Drawing
	b := pdf.Book{
		Number: v.Part.Number, Name: v.Part.Name, Letter: v.Letter, State: v.State, Hash: v.Hash,
		Cover: said(
			slices.Concat(cover(v, w, d, m.Tools), way(v.Document), simulated(m.Cures, units)),
			units,
		), Units: units,
	}
	layers := map[string]parts.LayerView{}
	for _, l := range d.Layers {
		layers[l.Key] = l
	}
	debulks, err := v.Debulked()
	if err != nil {
		return b, err
	}
	var ghosts []geom.Ring
	seen := map[int]bool{}
	for _, label := range w.Labels {
		item, ok := itemOf(v.Document, label.Key)
		if !ok {
			continue // a counted copy of a family's item
		}
		page := pdf.BookItem{
			Title:   strings.ToUpper(label.Label[:1]) + label.Label[1:],
			Picture: m.Pictures[item.PictureID],
			Ghosts:  ghosts,
			Signs:   []string{"Laid", "Date"},
		}
		if item.Kind == master.Ply {
			page.Title = "Ply " + label.Label
		}
		l, layer := layers[label.Key]
		if layer {
			layerFacts(&page, d, l, item)
		} else {
			page.At = geom.Point{X: item.X, Y: item.Y}
			page.Place = &page.At
			page.Facts = append(page.Facts, [2]string{"What", item.Name},
				[2]string{"Mass", unit.Mass(item.Mass, 4).String()})
		}
		how, debulked := debulks[label.Key]
		if debulked {
			itemFacts(&page, item, &how)
		} else {
			itemFacts(&page, item, nil)
		}
		for k := range page.Facts {
			page.Facts[k][1] = units.Say(page.Facts[k][1])
		}
		b.Items = append(b.Items, page)
		if layer && !seen[l.Shape] {
			seen[l.Shape] = true
			ghosts = append(slices.Clone(ghosts), page.Outline)
		}
	}
	if s := d.Section; s != nil && len(s.Courses) > 0 {
		b.Cuts = append(b.Cuts, sectionOf(d, s, units))
	}
	if templates {
		b.Templates = templatesOf(d)
	}
	return b, nil
}

// layerFacts is what is known of a layer: its material, how it lies, how it is cut.
func layerFacts(page *pdf.BookItem, d parts.Drawing, l parts.LayerView, item master.Item) {
	page.Outline = d.Outline(l)
	page.Fill = fillOf(l)
	page.Facts = append(page.Facts, [2]string{"Material", l.Material})
	if item.Kind == master.Ply {
		angle := l.AngleDeg
		page.Angle = &angle
		page.Facts = append(
			page.Facts,
			[2]string{"Angle", pdf.Degrees(angle) + " from the tool's 0°"},
			[2]string{"Face", faceOf(l)},
			[2]string{"Films to take off", fmt.Sprint(l.Films)},
		)
	}
	page.Facts = append(
		page.Facts,
		[2]string{"Outline", cmp.Or(item.Outline, "developed from the mandrel")},
		[2]string{
			"Thickness",
			fmt.Sprintf("%s cured, %s with all below", unit.Size(l.Thickness, 3), unit.Size(l.Running, 2)),
		},
	)
	if f := item.Flat; f != nil {
		box := geom.Box{}
		for _, p := range f.Pieces {
			b := pattern.OnRoll(p.Ring(), unit.Rad(p.FibreDeg), true).Bounds()
			box.Max.X, box.Max.Y = max(box.Max.X, b.Width()), max(box.Max.Y, b.Height())
		}
		pieces := ""
		if len(f.Pieces) > 1 {
			pieces = fmt.Sprintf("%d pieces of ", len(f.Pieces))
		}
		page.Facts = append(
			page.Facts,
			[2]string{"Method", f.Description},
			[2]string{
				"Cut",
				fmt.Sprintf("%s%s along the roll, %s across", pieces, unit.Size(box.Max.X, 1), unit.Size(box.Max.Y, 1)),
			},
		)
	}
	// The edges are what can be measured on the tool, whatever origin the
	// outline was drawn from.
	if edge := page.Outline.Bounds().Min; math.Abs(edge.X) > aTenth || math.Abs(edge.Y) > aTenth {
		page.Place = &edge
		page.Facts = append(
			page.Facts,
			[2]string{
				"From the datum",
				fmt.Sprintf("left edge x %s, lower edge y %s", unit.Size(edge.X, 1), unit.Size(edge.Y, 1)),
			},
		)
	}
}

// itemFacts is what is written of an item, and the debulk after it, if there is one.
func itemFacts(page *pdf.BookItem, item master.Item, debulk *master.Debulks) {
	if item.Join != "" {
		page.Facts = append(
			page.Facts,
			[2]string{
				"Pieces meet",
				fmt.Sprintf(
					"%s, %s; seams %s apart",
					item.Join,
					unit.Size(item.JoinWidth, 0),
					unit.Size(item.Stagger, 0),
				),
			},
		)
	}
	if item.Chamfer > 0 {
		page.Facts = append(page.Facts, [2]string{"Chamfer", fmt.Sprintf("%g° from the tool", item.Chamfer)})
	}
	if item.Note != "" {
		page.Facts = append(page.Facts, [2]string{"Note", item.Note})
	}
	if debulk != nil {
		page.Facts = append(page.Facts, [2]string{"Then", "debulk " + debulk.How()})
	}
	if item.Caution != "" {
		page.Warnings = append(page.Warnings, "Caution: "+item.Caution)
	}
	if item.Hold != "" {
		page.Warnings = append(page.Warnings, "Hold point: "+item.Hold)
		page.Signs = append(page.Signs, "Hold released")
	}
	if item.Second {
		page.Signs = append(page.Signs, "Checked by a second person")
	}
}

// sectionOf is the section through the part as it is drawn.
func sectionOf(d parts.Drawing, s *parts.SectionView, units unit.System) pdf.BookCut {
	cut := pdf.BookCut{Title: units.Say(fmt.Sprintf(
		"Section from %s, %s to %s, %s",
		unit.Size(
			s.Line[0],
			0,
		),
		unit.Size(s.Line[1], 0),
		unit.Size(s.Line[2], 0),
		unit.Size(s.Line[3], 0),
	)), Length: s.Length, Height: s.Height}
	met := map[int]bool{}
	for _, c := range s.Courses {
		met[c.Layer] = true
		cut.Courses = append(cut.Courses, pdf.BookCourse{At: c.At, Fill: fillOf(d.Layers[c.Layer])})
	}
	for k, l := range d.Layers {
		if met[k] {
			cut.Names = append(cut.Names, nameOf(l))
		}
	}
	return cut
}

// templatesOf are the shapes to cut by hand, each once, with the fibre along
// the sheet and the face as on the roll.
func templatesOf(d parts.Drawing) []pdf.BookTemplate {
	type shape struct{ ring, material string }
	var out []pdf.BookTemplate
	at := map[shape]int{}
	seen := map[string]bool{}
	for _, l := range d.Layers {
		if seen[l.Key] {
			continue // a sheet of several turns is cut once
		}
		seen[l.Key] = true
		up := l.FaceUp || l.Kind != master.Ply
		rings := []geom.Ring{}
		if l.Flat == nil {
			rings = append(rings, pattern.OnRoll(d.Outline(l), unit.Fibre(l.AngleDeg), up))
		} else {
			for _, p := range l.Flat.Pieces {
				rings = append(rings, pattern.OnRoll(p.Ring(), unit.Rad(p.FibreDeg), up))
			}
		}
		for _, ring := range rings {
			rounded := make([]string, len(ring))
			for i, p := range ring {
				rounded[i] = fmt.Sprintf("%.5f %.5f", p.X, p.Y)
			}
			key := shape{strings.Join(rounded, " "), l.Material}
			name := l.Label
			if l.Kind == master.Ply {
				name = "ply " + l.Label
			}
			if k, ok := at[key]; ok {
				out[k].Title += ", " + name
				continue
			}
			at[key] = len(out)
			out = append(out, pdf.BookTemplate{Title: l.Material + ": " + name, Outline: ring})
		}
	}
	return out
}

func itemOf(d master.Document, key string) (master.Item, bool) {
	for _, i := range d.Items() {
		if i.Key == key {
			return i, true
		}
	}
	return master.Item{}, false
}

func fillOf(l parts.LayerView) pdf.Fill {
	return pdf.Fill{Kind: l.Kind, AngleDeg: l.AngleDeg, Woven: l.Woven, FaceUp: l.FaceUp, Thickness: l.Thickness}
}

func faceOf(l parts.LayerView) string {
	side := "down, to the tool"
	if l.FaceUp {
		side = "up, away from the tool"
	}
	if l.Woven {
		return "warp face " + side
	}
	return "the face that was up on the roll: " + side
}

func nameOf(l parts.LayerView) string {
	if l.Kind != master.Ply {
		return l.Label + " " + l.Material
	}
	return fmt.Sprintf("%s · %s %s", l.Label, pdf.Degrees(l.AngleDeg), l.Material)
}

// cover is what stands on a book's first page.
func cover(v parts.RevisionView, w parts.AnalysisView, d parts.Drawing, tools []parts.ToolView) []pdf.Section {
	area, count := map[string]float64{}, map[string]int{}
	for _, l := range d.Layers {
		area[l.Material] += l.Area
		count[l.Material]++
	}
	materials := pdf.Section{
		Heading: "Materials",
		Columns: []pdf.Column{
			{Name: "Material", Share: 0.5},
			{Name: "Layers", Share: 0.2, Right: true},
			{Name: "Area", Share: 0.3, Right: true},
		},
	}
	for _, name := range slices.Sorted(maps.Keys(area)) {
		materials.Rows = append(
			materials.Rows,
			[]string{name, fmt.Sprint(count[name]), unit.Area(area[name], 3).String()},
		)
	}
	tool := pdf.Section{Heading: "Tool", Notes: []string{v.Process.Tool}}
	for _, t := range tools {
		if t.Name == v.Process.Tool {
			tool.Notes = append(tool.Notes, fmt.Sprintf("%s, %s × %s, %s; %d release coats, %d cures since",
				t.Kind, unit.Size(t.Sheet.Length, 0), unit.Size(t.Sheet.Width, 0), t.Sheet.Material, t.Coats, t.Cures))
			for _, d := range t.Sheet.Datums {
				tool.Notes = append(
					tool.Notes,
					fmt.Sprintf("Datum %s at x %s, y %s", d.Name, unit.Size(d.X, 1), unit.Size(d.Y, 1)),
				)
			}
		}
	}
	expects := pdf.Section{
		Heading: "Expected mass",
		Columns: []pdf.Column{{Name: "When", Share: 0.5}, {Name: "Mass", Share: 0.25, Right: true}},
		Rows: [][]string{
			{"As laid, films off", unit.Mass(w.Scale.Laid, 3).String()},
			{"Cured", unit.Mass(w.Scale.Cured, 3).String()},
			{"Trimmed", unit.Mass(w.Scale.Trimmed, 3).String()},
		},
	}
	process := pdf.Section{Heading: "Process", Notes: []string{
		v.Process.Debulks().InWords() + ".", v.Process.Closing().InWords() + ".", v.Process.Heat().InWords() + "."}}
	for _, o := range v.Document.Route {
		if own := o.Own(); len(own) > 0 {
			process.Notes = append(process.Notes, fmt.Sprintf("But %s: %s.",
				o.Core().Label(v.Document.RouteStages()), strings.Join(own, "; ")))
		}
	}
	signed := pdf.Section{Heading: "Signed", Notes: []string{}}
	if v.CheckedAt != nil {
		signed.Notes = append(signed.Notes, "Checked by "+v.CheckedBy+", "+stamp(*v.CheckedAt))
	}
	if v.SignedAt != nil {
		signed.Notes = append(signed.Notes, "Released by "+v.SignedBy+", "+stamp(*v.SignedAt))
	}
	for _, x := range v.Waivers {
		signed.Notes = append(signed.Notes, fmt.Sprintf("Waived by %s: %s. %s", x.Person, x.Finding, x.Reason))
	}
	cautions := pdf.Section{Heading: "Cautions", Notes: []string{
		"Nitrile gloves: resin sensitises the skin, and skin oil and powder spoil the bond. Blades and heat guns: " +
			"mind hands.",
		"Vacuum, pressure and hot tools: only with the interlocks of their makers. Suppliers' data sheets, local " +
			"codes and licensed practice come first."}}
	for _, o := range v.Document.Outlines {
		if o.Placeholder != "" {
			cautions.Notes = append(
				cautions.Notes,
				fmt.Sprintf("The outline %q is a placeholder for %s: do not cut from it.", o.Name, o.Placeholder),
			)
		}
	}
	return []pdf.Section{materials, tool, expects, process, signed, cautions}
}
