package paper

import (
	"fmt"
	"strings"
	"time"

	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop"
	"juxta/shop/builds"
	"juxta/shop/curing"
)

func stamp(t time.Time) string { return t.Local().Format("2006-01-02 15:04") }

func met(ok bool) string {
	if ok {
		return "met"
	}
	return "NOT met"
}

// AsBuilt lays the record of a build out as a document; runs are its cures, if there
// was one.
func AsBuilt(t shop.BuildThread, runs []curing.RunView, now time.Time, units unit.System) pdf.Record {
	b := t.Build
	doc := pdf.Record{
		Title: fmt.Sprintf("As-built record: %s, serial %s", b.Number, b.Serial),
		Subtitle: fmt.Sprintf(
			"%s, revision %s, build %s. This record states what was recorded and which entered limit it met. It "+
				"does not "+
				"state that the part is fit or safe for any use: that is for the engineer of record, with the "+
				"suppliers' "+
				"data sheets and the codes that apply.",
			b.Name,
			b.Letter,
			b.Code,
		),
		Foot: fmt.Sprintf("%s %s · %s · printed %s", b.Number, b.Serial, b.Code, stamp(now)),
	}
	doc.Sections = append(doc.Sections, revisionSection(t))
	doc.Sections = append(doc.Sections, routeRecord(t)...)
	doc.Sections = append(doc.Sections, batchSection(t))
	doc.Sections = append(doc.Sections, materialSection(t), layupSection(t), marksSection(t), debulkSection(t))
	for _, b := range t.Bags {
		doc.Sections = append(doc.Sections, bagSection(b))
	}
	for _, run := range runs {
		doc.Sections = append(doc.Sections, cureSection(&run, units))
	}
	if len(runs) == 0 {
		doc.Sections = append(doc.Sections, cureSection(nil, units))
	}
	doc.Sections = append(doc.Sections, inspectionSection(t), logSection(t))
	doc.Sections = said(doc.Sections, units)
	return doc
}

// materialSection is the kit: what it was cut from, who counted it, how old it was.
func materialSection(t shop.BuildThread) pdf.Section {
	var rolls [][]string
	for _, r := range t.Rolls {
		rolls = append(rolls, []string{r.Code, r.Material, r.Batch, numbers(r.Plies), r.Nest, stamp(r.CutAt)})
	}
	material := pdf.Section{
		Heading: "Material",
		Columns: []pdf.Column{
			{Name: "Roll", Share: .12},
			{Name: "Material", Share: .2},
			{Name: "Batch", Share: .16},
			{Name: "Plies", Share: .22},
			{Name: "Nest", Share: .12},
			{Name: "Cut", Share: .18},
		},
		Rows: rolls,
	}
	if f := t.Build.OutTime; f != nil {
		material.Notes = append(
			material.Notes,
			fmt.Sprintf(
				"Out-time of the kit (worst ply) at cure start or now: %.1f h spent of %.0f h.",
				f.Spent/3600,
				f.Life/3600,
			),
		)
	}
	if t.Kit.CountedAt != nil {
		material.Notes = append(
			material.Notes,
			fmt.Sprintf(
				"Kit of %d plies counted by %s, %s.",
				len(t.Kit.Plies),
				t.Kit.CountedBy,
				stamp(*t.Kit.CountedAt),
			),
		)
	}
	for _, i := range t.Kit.Items {
		if i.CountedAt == nil {
			continue
		}
		says := fmt.Sprintf("%s %s, counted by %s, %s", i.Label, i.Material, i.CountedBy, stamp(*i.CountedAt))
		if i.From != "" {
			says += ", from " + i.From
		}
		material.Notes = append(material.Notes, says+".")
	}
	return material
}

// layupSection is the plies as they were laid, and those that were taken back.
func layupSection(t shop.BuildThread) pdf.Section {
	var laid [][]string
	for _, l := range append(append([]builds.LaidPly{}, t.Layup.Laid...), t.Layup.TakenBack...) {
		remark := ""
		if l.TakenBackAt != nil {
			remark = fmt.Sprintf("taken back by %s: %s", l.TakenBackBy, l.Reason)
		} else if l.FilmsOff < l.Films {
			remark = "film unaccounted for"
		} else if l.FilmFoundAt != nil {
			remark = fmt.Sprintf("a film was missing, found by %s, %s", l.FilmFoundBy, stamp(*l.FilmFoundAt))
		}
		face, how := "down", l.How
		if l.FaceUp {
			face = "up"
		}
		if how == "" {
			how = "not recorded"
		}
		laid = append(
			laid,
			[]string{
				fmt.Sprint(l.Ply),
				" " + l.Material,
				pdf.Degrees(l.AngleDeg),
				"  " + face,
				l.CutPly + ", " + l.Roll,
				how,
				fmt.Sprintf("%d of %d", l.FilmsOff, l.Films),
				l.Person,
				stamp(l.At),
				remark,
			},
		)
	}
	return pdf.Section{Heading: "Layup", Rows: laid,
		Notes: []string{
			"Face is that of the warp, or the one that was up on the roll, seen from the tool. Identified says how " +
				"the label of the ply was: scanned, or chosen on the page.",
		},
		Columns: []pdf.Column{
			{Name: "Ply", Share: .05, Right: true},
			{Name: " Material", Share: .14},
			{Name: "Angle", Share: .07, Right: true},
			{Name: "  Face", Share: .07},
			{Name: "Cut ply, roll", Share: .1},
			{
				Name:  "Identified",
				Share: .1,
			},
			{Name: "Films off", Share: .08},
			{Name: "Signed", Share: .11},
			{Name: "At", Share: .15},
			{Name: "Remark", Share: .13},
		}}
}

// debulkSection is what was debulked between the plies.
func debulkSection(t shop.BuildThread) pdf.Section {
	var debulks [][]string
	for _, d := range t.Layup.Debulks {
		ended, vacuum, counts := "running", "", "no"
		if d.EndedAt != nil {
			ended = fmt.Sprintf("%.0f min", d.EndedAt.Sub(d.StartedAt).Minutes())
		}
		if d.Vacuum != nil {
			vacuum = unit.Vacuum(*d.Vacuum, 1).String()
		}
		if d.Counts {
			counts = "yes"
		}
		debulks = append(
			debulks,
			[]string{fmt.Sprint(d.AfterPly), stamp(d.StartedAt), ended, vacuum, d.StartedBy, counts, d.Message},
		)
	}
	return pdf.Section{
		Heading: "Debulks",
		Rows:    debulks,
		Columns: []pdf.Column{
			{Name: "After ply", Share: .1, Right: true},
			{Name: " Started", Share: .2},
			{Name: "Lasted", Share: .12},
			{Name: "Vacuum", Share: .13},
			{Name: "By", Share: .15},
			{Name: "Counts", Share: .1},
			{Name: "Remark", Share: .2},
		},
	}
}

// inspectionSection is what was measured, and who signed what for.
func inspectionSection(t shop.BuildThread) pdf.Section {
	inspection := pdf.Section{
		Heading: "Inspection",
		Columns: []pdf.Column{
			{Name: "Quantity", Share: .25},
			{Name: "Expected", Share: .17, Right: true},
			{Name: "Low", Share: .17, Right: true},
			{Name: "High", Share: .17, Right: true},
			{Name: "Found", Share: .14, Right: true},
			{Name: "  Limit", Share: .1},
		},
	}
	for _, l := range t.Release.Lines {
		show := func(v *float64) string {
			switch {
			case v == nil:
				return "–"
			case l.Value:
				return unit.Written(l.What, *v, l.Unit)
			case l.What == "mass":
				return unit.Mass(*v, 3).String()
			}
			return unit.Size(*v, 2).String()
		}
		inspection.Rows = append(
			inspection.Rows,
			[]string{l.What, show(l.Expected), show(l.Low), show(l.High), show(&l.Found), "  " + met(l.Met)},
		)
	}
	if t.Release.At != nil {
		said := fmt.Sprintf(
			"Disposition: %s. Signed by %s, %s.",
			t.Release.Disposition,
			t.Release.Person,
			stamp(*t.Release.At),
		)
		if t.Release.Reason != "" {
			said += " Reason: " + t.Release.Reason
		}
		inspection.Notes = append(inspection.Notes, said)
	} else {
		inspection.Notes = append(inspection.Notes, "Not signed off yet.")
	}
	return inspection
}

// logSection is the log of the build, and where the whole log ended.
func logSection(t shop.BuildThread) pdf.Section {
	var log [][]string
	for _, l := range t.Log {
		what := l.What
		if l.Ply > 0 {
			what += fmt.Sprintf(", ply %d", l.Ply)
		}
		log = append(log, []string{fmt.Sprint(l.Seq), stamp(l.At), l.Person, what, l.Why})
	}
	return pdf.Section{Heading: "Log of this build", Rows: log,
		Notes: []string{
			fmt.Sprintf(
				"The whole log ended with entry %d when this was printed, whose hash is %s: it tells whether the "+
					"log was "+
					"rewritten since.",
				t.LogHead.Entry,
				t.LogHead.Hash,
			),
		},
		Columns: []pdf.Column{
			{Name: "Entry", Share: .08, Right: true},
			{Name: " At", Share: .19},
			{Name: "Who", Share: .16},
			{Name: "What", Share: .22},
			{Name: "Why", Share: .35},
		}}
}

// said are sections in their reader's units: what is written here, and what was
// recorded.
func said(sections []pdf.Section, units unit.System) []pdf.Section {
	all := func(texts []string) {
		for k := range texts {
			texts[k] = units.Say(texts[k])
		}
	}
	for _, s := range sections {
		all(s.Notes)
		for _, row := range s.Rows {
			all(row)
		}
	}
	return sections
}

func numbers(plies []int) string {
	return strings.Trim(strings.ReplaceAll(fmt.Sprint(plies), " ", ", "), "[]")
}

// revisionSection says what the build is held against, and who signed it.
func revisionSection(t shop.BuildThread) pdf.Section {
	r := t.Revision
	s := pdf.Section{
		Heading: "Revision " + t.Build.Letter,
		Notes:   []string{"Made on " + r.Tool + ".", "Hash of the document and the process (SHA-256): " + r.Hash},
	}
	signed := func(how, who string, at *time.Time) {
		if who != "" && at != nil {
			s.Notes = append(s.Notes, fmt.Sprintf("%s by %s, %s.", how, who, stamp(*at)))
		}
	}
	if r.WrittenBy != "" {
		s.Notes = append(s.Notes, "Written last by "+r.WrittenBy+".")
	}
	signed("Checked", r.CheckedBy, r.CheckedAt)
	signed("Released", r.ReleasedBy, r.ReleasedAt)
	if t.Build.Ended != "" {
		s.Notes = append(s.Notes, "This build was ended before its time: "+t.Build.Ended)
	}
	return s
}

// batchSection lists the batches of the material with the values that they were
// accepted by.
func batchSection(t shop.BuildThread) pdf.Section {
	s := pdf.Section{
		Heading: "Batches and their tests",
		Columns: []pdf.Column{
			{Name: "Batch", Share: .14},
			{Name: "Material", Share: .17},
			{Name: "Test", Share: .2},
			{Name: "Limits", Share: .17},
			{Name: "Found", Share: .12},
			{Name: "Limit", Share: .08},
			{Name: "By", Share: .12},
		},
	}
	for _, b := range t.Batches {
		decided := fmt.Sprintf("%s: %s", b.Lot, b.State)
		if b.DecidedBy != "" && b.DecidedAt != nil {
			decided += fmt.Sprintf(", by %s, %s", b.DecidedBy, stamp(*b.DecidedAt))
		}
		if b.Decision != "" {
			decided += ": " + b.Decision
		}
		if b.Override != "" {
			decided += ". Cut although it was blocked: " + b.Override
		}
		s.Notes = append(s.Notes, decided+".")
		for _, x := range b.Tests {
			limits, found, verdict := "", "not measured", ""
			with := func(v float64) string { return unit.Written(x.What, v, x.Unit) }
			if x.Least != nil {
				limits = "at least " + with(*x.Least)
			}
			if x.Most != nil {
				limits = strings.TrimPrefix(limits+", at most "+with(*x.Most), ", ")
			}
			if x.Value != nil {
				found, verdict = with(*x.Value), met(x.Met != nil && *x.Met)
			}
			s.Rows = append(
				s.Rows,
				[]string{b.Lot, b.Material, x.What, limits, found, verdict, x.Person},
			)
		}
	}
	return s
}
