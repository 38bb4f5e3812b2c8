package api

import (
	"bytes"
	"context"
	"fmt"
	"maps"
	"math"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"juxta/core/geom"
	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/pattern"
	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop/book"
	"juxta/shop/parts"
	"juxta/wire"
)

// BookQuery asks for a ply book.
type BookQuery struct {
	ByCode
	Letter    string `query:"letter" maxLength:"4" doc:"Empty for the newest"`
	Paper     string `query:"paper" enum:"a4,letter," doc:"Empty: A4"`
	Templates string `query:"templates" enum:"yes,no," doc:"With templates at 1:1 for hand cutting"`
}

// aTenth of a millimetre, halved: less than that is not written.
const aTenth = 5e-5

func (r *routes) book() {
	huma.Register(r.api, huma.Operation{OperationID: "plyBook", Method: http.MethodGet, Path: "/api/parts/{code}/book", Summary: "The ply book of a revision, PDF",
		Responses: map[string]*huma.Response{"200": {Description: "The ply book", Content: map[string]*huma.MediaType{"application/pdf": {}}}}},
		func(ctx context.Context, in *BookQuery) (*file, error) {
			v, err := r.shop.Written(ctx, in.Code, in.Letter)
			if err != nil {
				return nil, problem(ctx, err)
			}
			reply, err := r.shop.Ask(ctx, in.Code, parts.Question{Letter: v.Letter})
			if err != nil {
				return nil, problem(ctx, err)
			}
			tools, err := r.shop.Tools(ctx)
			if err != nil {
				return nil, problem(ctx, err)
			}
			if reply.Worked == nil {
				return nil, problem(ctx, &book.Error{Kind: book.Conflict, Says: "there is nothing to print yet: the stack is empty, or has a fault"})
			}
			drawing, err := r.shop.Drawing(ctx, in.Code, parts.DrawingQuestion{Letter: v.Letter})
			if err != nil {
				return nil, problem(ctx, err)
			}
			var out bytes.Buffer
			pictures := map[int64][]byte{}
			for _, i := range v.Document.Items() {
				if i.PictureID != 0 && pictures[i.PictureID] == nil {
					if _, pictures[i.PictureID], err = r.shop.File(ctx, i.PictureID); err != nil {
						return nil, problem(ctx, err)
					}
				}
			}
			b := bookOf(v, *reply.Worked, drawing, tools, pictures, in.Templates == "yes")
			b.Letterpaper = in.Paper == "letter"
			if err := pdf.WriteBook(&out, b); err != nil {
				return nil, problem(ctx, err)
			}
			return &file{"application/pdf", disposed("inline", v.Part.Number+"-"+v.Letter+"-plies.pdf"), out.Bytes()}, nil
		})
}

func bookOf(v parts.RevisionView, w parts.Worked, d parts.Drawing, tools []parts.ToolView, pictures map[int64][]byte, templates bool) pdf.Book {
	b := pdf.Book{Number: v.Part.Number, Name: v.Part.Name, Letter: v.Letter, State: v.State, Hash: v.Hash, Cover: cover(v, w, d, tools)}
	layers := map[string]parts.LayerView{}
	for _, l := range d.Layers {
		layers[l.Key] = l
	}
	debulks := map[int]bool{}
	for _, s := range layup.Steps(len(v.Plies), layup.Policy{First: v.Process.DebulkFirst, Every: v.Process.DebulkEvery}) {
		if s.Debulk {
			debulks[s.Ply] = true
		}
	}
	var ghosts []geom.Ring
	seen := map[int]bool{}
	ply := 0
	for _, label := range w.Labels {
		item, ok := itemOf(v.Document, label.Key)
		if !ok {
			continue // a counted copy of a family's item
		}
		page := pdf.BookItem{Title: strings.ToUpper(label.Label[:1]) + label.Label[1:], Picture: pictures[item.PictureID], Ghosts: ghosts, Signs: []string{"Laid", "Date"}}
		if item.Kind == master.Ply {
			ply++
			page.Title = "Ply " + label.Label
		}
		l, layer := layers[label.Key]
		if layer {
			page.Outline = d.Outline(l).Ring()
			page.Fill = fillOf(l)
			page.Facts = append(page.Facts, [2]string{"Material", l.Material})
			if item.Kind == master.Ply {
				angle := l.AngleDeg
				page.Angle = &angle
				page.Facts = append(page.Facts, [2]string{"Angle", pdf.Degrees(angle) + " from the tool's 0°"}, [2]string{"Face", faceOf(l)}, [2]string{"Films to take off", fmt.Sprint(l.Films)})
			}
			page.Facts = append(page.Facts, [2]string{"Outline", item.Outline}, [2]string{"Thickness", fmt.Sprintf("%.3f mm cured, %.2f mm with all below", l.Thickness*1e3, l.Running*1e3)})
			// The edges are what can be measured on the tool, whatever origin the
			// outline was drawn from.
			if edge := page.Outline.Bounds().Min; math.Abs(edge.X) > aTenth || math.Abs(edge.Y) > aTenth {
				page.Place = &edge
				page.Facts = append(page.Facts, [2]string{"From the datum", fmt.Sprintf("left edge x %.1f mm, lower edge y %.1f mm", edge.X*1e3, edge.Y*1e3)})
			}
		} else {
			page.At = geom.Point{X: item.X, Y: item.Y}
			page.Place = &page.At
			page.Facts = append(page.Facts, [2]string{"What", item.Name}, [2]string{"Mass", fmt.Sprintf("%.1f g", item.Mass*1e3)})
		}
		if item.Join != "" {
			page.Facts = append(page.Facts, [2]string{"Pieces meet", fmt.Sprintf("%s, %.0f mm; seams %.0f mm apart", item.Join, item.JoinWidth*1e3, item.Stagger*1e3)})
		}
		if item.Chamfer > 0 {
			page.Facts = append(page.Facts, [2]string{"Chamfer", fmt.Sprintf("%g° from the tool", item.Chamfer)})
		}
		if item.Note != "" {
			page.Facts = append(page.Facts, [2]string{"Note", item.Note})
		}
		if item.Kind == master.Ply && debulks[ply] {
			page.Facts = append(page.Facts, [2]string{"Then", fmt.Sprintf("debulk for %.0f min at %.0f kPa or more", v.Process.DebulkSeconds/60, v.Process.DebulkVacuum/1e3)})
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
		b.Items = append(b.Items, page)
		if layer {
			if !seen[l.Shape] {
				seen[l.Shape] = true
				ghosts = append(slices.Clone(ghosts), page.Outline)
			}
		}
	}
	if s := d.Section; s != nil && len(s.Courses) > 0 {
		cut := pdf.BookCut{Title: fmt.Sprintf("Section from %.0f, %.0f to %.0f, %.0f mm", s.Line[0]*1e3, s.Line[1]*1e3, s.Line[2]*1e3, s.Line[3]*1e3), Length: s.Length, Height: s.Height}
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
		b.Cuts = append(b.Cuts, cut)
	}
	if templates {
		b.Templates = templatesOf(d)
	}
	return b
}

// templatesOf are the shapes to cut by hand, each once, with the fibre along
// the sheet and the face as on the roll.
func templatesOf(d parts.Drawing) []pdf.BookTemplate {
	type shape struct{ ring, material string }
	var out []pdf.BookTemplate
	at := map[shape]int{}
	for _, l := range d.Layers {
		ring := pattern.OnRoll(d.Outline(l).Ring(), wire.Degrees(l.AngleDeg), l.FaceUp || l.Kind != master.Ply)
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
func cover(v parts.RevisionView, w parts.Worked, d parts.Drawing, tools []parts.ToolView) []pdf.Section {
	area, count := map[string]float64{}, map[string]int{}
	for _, l := range d.Layers {
		area[l.Material] += l.Area
		count[l.Material]++
	}
	materials := pdf.Section{Heading: "Materials", Columns: []pdf.Column{{Name: "Material", Share: 0.5}, {Name: "Layers", Share: 0.2, Right: true}, {Name: "Area, m²", Share: 0.3, Right: true}}}
	for _, name := range slices.Sorted(maps.Keys(area)) {
		materials.Rows = append(materials.Rows, []string{name, fmt.Sprint(count[name]), fmt.Sprintf("%.3f", area[name])})
	}
	tool := pdf.Section{Heading: "Tool", Notes: []string{v.Process.Tool}}
	for _, t := range tools {
		if t.Name == v.Process.Tool {
			tool.Notes = append(tool.Notes, fmt.Sprintf("%s, %.0f × %.0f mm, %s; %d release coats, %d cures since", t.Kind, t.Sheet.Length*1e3, t.Sheet.Width*1e3, t.Sheet.Material, t.Coats, t.Cures))
			for _, d := range t.Sheet.Datums {
				tool.Notes = append(tool.Notes, fmt.Sprintf("Datum %s at x %.1f, y %.1f mm", d.Name, d.X*1e3, d.Y*1e3))
			}
		}
	}
	expects := pdf.Section{Heading: "The scale should say", Columns: []pdf.Column{{Name: "When", Share: 0.5}, {Name: "kg", Share: 0.25, Right: true}},
		Rows: [][]string{{"As laid, films off", fmt.Sprintf("%.3f", w.Scale.Laid)}, {"Cured", fmt.Sprintf("%.3f", w.Scale.Cured)}, {"Trimmed", fmt.Sprintf("%.3f", w.Scale.Trimmed)}}}
	process := pdf.Section{Heading: "Process", Notes: []string{
		fmt.Sprintf("Debulk every %d plies for %.0f min at %.0f kPa or more; bag: %s; leak at most %.1f kPa in %.0f min.", v.Process.DebulkEvery, v.Process.DebulkSeconds/60, v.Process.DebulkVacuum/1e3, v.Process.BagStack, v.Process.LeakDrop/1e3, v.Process.LeakSeconds/60),
		"Cure: " + v.Process.Recipe.Name + "."}}
	for _, s := range v.Process.Recipe.Segments {
		process.Notes = append(process.Notes, fmt.Sprintf("to %.0f °C at %.1f K/min, hold %.0f min", s.Target-unit.Kelvin(0), s.Rate*60, s.Hold/60))
	}
	signed := pdf.Section{Heading: "Signed", Notes: []string{}}
	if v.CheckedAt != nil {
		signed.Notes = append(signed.Notes, "Checked by "+v.CheckedBy+", "+stamp(*v.CheckedAt))
	}
	if v.SignedAt != nil {
		signed.Notes = append(signed.Notes, "Released by "+v.SignedBy+", "+stamp(*v.SignedAt))
	}
	for _, x := range v.Waivers {
		signed.Notes = append(signed.Notes, fmt.Sprintf("Let stand by %s: %s. %s", x.Person, x.Says, x.Reason))
	}
	cautions := pdf.Section{Heading: "Cautions", Notes: []string{
		"Nitrile gloves: resin sensitises the skin, and skin oil and powder spoil the bond. Blades and heat guns: mind hands.",
		"Vacuum, pressure and hot tools: only with the interlocks of their makers. Suppliers' data sheets, local codes and licensed practice come first."}}
	for _, o := range v.Document.Outlines {
		if o.Placeholder != "" {
			cautions.Notes = append(cautions.Notes, fmt.Sprintf("The outline %q is a placeholder for %s: do not cut from it.", o.Name, o.Placeholder))
		}
	}
	return []pdf.Section{materials, tool, expects, process, signed, cautions}
}
