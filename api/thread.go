package api

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"time"

	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop"
)

func (r *routes) thread() {
	type query struct {
		Q string `query:"q" maxLength:"80"`
	}
	get(r, "/api/find", "find", "Find anything by id, number, name, serial or batch", func(ctx context.Context, in *query) ([]shop.Found, error) {
		return r.shop.Find(ctx, in.Q)
	})
	get(r, "/api/scan/{code}", "scan", "What an id is and where it leads", func(ctx context.Context, in *ByCode) (shop.Scanned, error) {
		return r.shop.Scan(ctx, in.Code)
	})
	get(r, "/api/thread/builds/{code}", "threadOfBuild", "From a part to all that went into it", func(ctx context.Context, in *ByCode) (shop.BuildThread, error) {
		return r.shop.ThreadOfBuild(ctx, in.Code)
	})
	get(r, "/api/thread/rolls/{code}", "threadOfRoll", "From a roll to every part it went into", func(ctx context.Context, in *ByCode) (shop.RollThread, error) {
		return r.shop.ThreadOfRoll(ctx, in.Code)
	})
	r.download("/api/thread/builds/{code}/record.pdf", "asBuilt", "The as-built record, PDF", "application/pdf", func(ctx context.Context, code string) (string, []byte, error) {
		t, err := r.shop.ThreadOfBuild(ctx, code)
		if err != nil {
			return "", nil, err
		}
		var run *shop.RunView
		if t.Run != nil {
			v, err := r.shop.Run(ctx, t.Run.Code)
			if err != nil {
				return "", nil, err
			}
			run = &v
		}
		var file bytes.Buffer
		if err := pdf.Write(&file, asBuilt(t, run, r.shop.Now())); err != nil {
			return "", nil, err
		}
		return fmt.Sprintf("%s-%s.pdf", t.Build.Number, t.Build.Serial), file.Bytes(), nil
	})
}

func stamp(t time.Time) string { return t.Local().Format("2006-01-02 15:04") }

func met(ok bool) string {
	if ok {
		return "met"
	}
	return "NOT met"
}

// asBuilt lays the record of a build out as a document.
func asBuilt(t shop.BuildThread, run *shop.RunView, now time.Time) pdf.Record {
	b := t.Build
	doc := pdf.Record{
		Title: fmt.Sprintf("As-built record: %s, serial %s", b.Number, b.Serial),
		Subtitle: fmt.Sprintf("%s, revision %s, build %s. This record states what was recorded and which entered limit it met. It does not state that the part is fit or safe for any use: that is for the engineer of record, with the suppliers' data sheets and the codes that apply.",
			b.Name, b.Letter, b.Code),
		Foot: fmt.Sprintf("%s %s · %s · printed %s", b.Number, b.Serial, b.Code, stamp(now)),
	}
	var rolls [][]string
	for _, r := range t.Rolls {
		rolls = append(rolls, []string{r.Code, r.Material, r.Batch, numbers(r.Plies), r.Nest, stamp(r.CutAt)})
	}
	doc.Sections = append(doc.Sections, pdf.Section{Heading: "Material", Columns: []pdf.Column{{Name: "Roll", Share: .12}, {Name: "Material", Share: .2}, {Name: "Batch", Share: .16}, {Name: "Plies", Share: .22}, {Name: "Nest", Share: .12}, {Name: "Cut", Share: .18}}, Rows: rolls})
	if f := b.Fuse; f != nil {
		s := &doc.Sections[0]
		s.Notes = append(s.Notes, fmt.Sprintf("Out-time of the kit (worst ply) at cure start or now: %.1f h spent of %.0f h.", f.Spent/3600, f.Life/3600))
	}
	if t.Kit.CountedAt != nil {
		doc.Sections[0].Notes = append(doc.Sections[0].Notes, fmt.Sprintf("Kit of %d plies counted by %s, %s.", len(t.Kit.Plies), t.Kit.CountedBy, stamp(*t.Kit.CountedAt)))
	}
	var laid [][]string
	for _, l := range append(append([]shop.LaidPly{}, t.Layup.Laid...), t.Layup.TakenBack...) {
		remark := ""
		if l.TakenBackAt != nil {
			remark = fmt.Sprintf("taken back by %s: %s", l.TakenBackBy, l.Reason)
		} else if l.FilmsOff < l.Films {
			remark = "film unaccounted for"
		}
		laid = append(laid, []string{fmt.Sprint(l.Ply), fmt.Sprintf("%g°", l.AngleDeg), l.CutPly, l.Roll, fmt.Sprintf("%d of %d", l.FilmsOff, l.Films), l.Person, stamp(l.At), remark})
	}
	doc.Sections = append(doc.Sections, pdf.Section{Heading: "Layup", Rows: laid, Columns: []pdf.Column{{Name: "Ply", Share: .06, Right: true}, {Name: "Angle", Share: .08, Right: true},
		{Name: " Cut ply", Share: .12}, {Name: "Roll", Share: .11}, {Name: "Films off", Share: .1}, {Name: "Signed", Share: .14}, {Name: "At", Share: .18}, {Name: "Remark", Share: .21}}})
	var debulks [][]string
	for _, d := range t.Layup.Debulks {
		ended, vacuum, counts := "running", "", "no"
		if d.EndedAt != nil {
			ended = fmt.Sprintf("%.0f min", d.EndedAt.Sub(d.StartedAt).Minutes())
		}
		if d.Vacuum != nil {
			vacuum = fmt.Sprintf("%.1f kPa", *d.Vacuum/1e3)
		}
		if d.Counts {
			counts = "yes"
		}
		debulks = append(debulks, []string{fmt.Sprint(d.AfterPly), stamp(d.StartedAt), ended, vacuum, d.StartedBy, counts, d.Says})
	}
	doc.Sections = append(doc.Sections, pdf.Section{Heading: "Debulks", Rows: debulks, Columns: []pdf.Column{{Name: "After ply", Share: .1, Right: true}, {Name: " Started", Share: .2}, {Name: "Lasted", Share: .12}, {Name: "Vacuum", Share: .13}, {Name: "By", Share: .15}, {Name: "Counts", Share: .1}, {Name: "Remark", Share: .2}}})
	var checks [][]string
	for _, c := range t.Bag.Checks {
		checks = append(checks, []string{stamp(c.At), fmt.Sprintf("%.1f kPa", c.Start/1e3), fmt.Sprintf("%.1f kPa", c.End/1e3), fmt.Sprintf("%.1f min", c.Seconds/60), c.Person, met(c.Pass), c.Says})
	}
	bag := pdf.Section{Heading: "Bag and leak checks", Rows: checks, Columns: []pdf.Column{{Name: "At", Share: .18}, {Name: "Start", Share: .1}, {Name: "End", Share: .1}, {Name: "Over", Share: .1}, {Name: "By", Share: .13}, {Name: "Limit", Share: .11}, {Name: "Finding", Share: .28}}}
	if t.Bag.ClosedAt != nil {
		bag.Notes = []string{fmt.Sprintf("Closed by %s, %s. From the part outwards: %s.", t.Bag.ClosedBy, stamp(*t.Bag.ClosedAt), strings.Join(t.Bag.Closed, ", "))}
	}
	doc.Sections = append(doc.Sections, bag, cureSection(run))
	inspection := pdf.Section{Heading: "Inspection", Columns: []pdf.Column{{Name: "Quantity", Share: .25}, {Name: "Expected", Share: .17, Right: true}, {Name: "Low", Share: .17, Right: true}, {Name: "High", Share: .17, Right: true}, {Name: "Found", Share: .14, Right: true}, {Name: "  Limit", Share: .1}}}
	for _, l := range t.Release.Lines {
		show := func(v *float64) string {
			switch {
			case v == nil:
				return "–"
			case l.Value:
				return strings.TrimSpace(fmt.Sprintf("%g %s", *v, l.Unit))
			case l.What == "mass":
				return fmt.Sprintf("%.3f kg", *v)
			}
			return fmt.Sprintf("%.2f mm", *v*1e3)
		}
		inspection.Rows = append(inspection.Rows, []string{l.What, show(l.Expected), show(l.Low), show(l.High), show(&l.Found), "  " + met(l.Met)})
	}
	if t.Release.At != nil {
		said := fmt.Sprintf("Disposition: %s. Signed by %s, %s.", t.Release.Disposition, t.Release.Person, stamp(*t.Release.At))
		if t.Release.Reason != "" {
			said += " Reason: " + t.Release.Reason
		}
		inspection.Notes = append(inspection.Notes, said)
	} else {
		inspection.Notes = append(inspection.Notes, "Not signed off yet.")
	}
	var log [][]string
	for _, l := range t.Log {
		log = append(log, []string{fmt.Sprint(l.Seq), stamp(l.At), l.Person, l.What, l.Why})
	}
	return withSections(doc, inspection, pdf.Section{Heading: "Log of this build", Rows: log, Columns: []pdf.Column{{Name: "Entry", Share: .08, Right: true}, {Name: " At", Share: .19}, {Name: "Who", Share: .16}, {Name: "What", Share: .22}, {Name: "Why", Share: .35}}})
}

func withSections(doc pdf.Record, more ...pdf.Section) pdf.Record {
	doc.Sections = append(doc.Sections, more...)
	return doc
}

func cureSection(run *shop.RunView) pdf.Section {
	s := pdf.Section{Heading: "Cure"}
	if run == nil {
		s.Notes = []string{"No cure run yet."}
		return s
	}
	s.Heading = "Cure run " + run.Code
	s.Columns = []pdf.Column{{Name: "Limit", Share: .4}, {Name: "Finding", Share: .38}, {Name: "At", Share: .1, Right: true}, {Name: "  Verdict", Share: .12}}
	s.Notes = []string{fmt.Sprintf("Recipe %s, %s, %s, %d samples. Times are the oven's clock from the start of the run.", run.Recipe, run.Oven, run.State, len(run.Samples))}
	if n := len(run.Samples); n > 0 && run.Samples[n-1].Lag != nil {
		s.Notes = append(s.Notes, fmt.Sprintf("Recorded over %.1f h; last reading of the lagging sensor %.1f °C.", run.Samples[n-1].T/3600, unit.Celsius(*run.Samples[n-1].Lag)))
	}
	if run.Says != "" {
		s.Notes = append(s.Notes, "Note: "+run.Says)
	}
	if run.Verdict == nil {
		return s
	}
	s.Notes = append(s.Notes, run.Verdict.Notes...)
	for _, c := range run.Verdict.Checks {
		s.Rows = append(s.Rows, []string{c.What, c.Says, fmt.Sprintf("%.0f min", c.At/60), "  " + met(c.Met)})
	}
	return s
}

func numbers(plies []int) string {
	return strings.Trim(strings.ReplaceAll(fmt.Sprint(plies), " ", ", "), "[]")
}
