package paper

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"juxta/core/master"
	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop"
	"juxta/shop/builds"
	"juxta/shop/finish"
)

// routeRecord is the way that a build went: its operations in the order of its route, with who
// signed and what they recorded; nothing for a build of one pass.
func routeRecord(t shop.BuildThread) []pdf.Section {
	if len(t.Operations) == 0 {
		return nil
	}
	way := pdf.Section{
		Heading: "Route of this build",
		Columns: []pdf.Column{
			{Name: "No.", Share: 0.06, Right: true},
			{Name: " Operation", Share: 0.24},
			{Name: "Stands", Share: 0.1},
			{Name: "By, at", Share: 0.24},
			{Name: "Recorded", Share: 0.36},
		},
	}
	for _, o := range t.Operations {
		by := ""
		if o.Since != nil {
			by = o.By + ", " + stamp(*o.Since)
			if o.Second != "" {
				by += "; second person " + o.Second
			}
		}
		way.Rows = append(way.Rows, []string{
			fmt.Sprint(o.Number), " " + o.Label, o.State, by, strings.Join(recorded(o), "; "),
		})
	}
	sections := []pdf.Section{way}
	if len(t.Preforms) > 0 {
		forms := pdf.Section{Heading: "Pre-forms", Columns: []pdf.Column{
			{Name: "Label", Share: 0.15}, {Name: "Pre-form", Share: 0.35}, {Name: "Laid", Share: 0.15},
			{Name: "Joined", Share: 0.15}, {Name: "Out-time of its worst ply", Share: 0.2},
		}}
		for _, f := range t.Preforms {
			spent := ""
			if f.OutTime != nil {
				spent = fmt.Sprintf("%.1f h of %.0f h", f.OutTime.Spent/3600, f.OutTime.Life/3600)
			}
			forms.Rows = append(forms.Rows, []string{f.Code, f.Name, yes(f.Laid), yes(f.Joined), spent})
		}
		sections = append(sections, forms)
	}
	return sections
}

func yes(is bool) string {
	if is {
		return "yes"
	}
	return "no"
}

// recorded is what an operation recorded, in the order of its fields, and then what the
// shop keeps of it besides: labels, adherends, what was said when work was sent out.
func recorded(o finish.WorkStep) []string {
	var out []string
	if o.Run != "" {
		out = append(out, "run "+o.Run)
	}
	if o.Reason != "" {
		out = append(out, o.Reason)
	}
	planned := map[string]bool{}
	for _, f := range o.Planned.Fields {
		planned[f.Key] = true
		if v, there := o.Fields[f.Key]; there {
			out = append(out, f.Name+" "+valued(f, v))
		}
	}
	for _, key := range slices.Sorted(maps.Keys(o.Fields)) {
		if !planned[key] {
			out = append(out, key+" "+valued(master.Field{}, o.Fields[key]))
		}
	}
	return out
}

// valued is a recorded value in words.
func valued(f master.Field, v master.Value) string {
	switch {
	case v.Number != nil:
		return unit.Written(f.Name, *v.Number, f.Unit)
	case v.At != nil && v.Text != "":
		return v.Text + ", " + stamp(*v.At)
	case v.At != nil:
		return stamp(*v.At)
	case v.FileID != 0:
		return fmt.Sprintf("%s %d", f.Kind, v.FileID)
	}
	return v.Text
}

// bagSection is what was closed, and its leak checks.
func bagSection(b builds.BagView) pdf.Section {
	out := pdf.Section{
		Heading: "Bag and leak checks",
		Columns: []pdf.Column{
			{Name: "At", Share: .18},
			{Name: "Start", Share: .1},
			{Name: "End", Share: .1},
			{Name: "Over", Share: .1},
			{Name: "By", Share: .13},
			{Name: "Limit", Share: .11},
			{Name: "Finding", Share: .28},
		},
	}
	if b.At != nil {
		out.Heading = fmt.Sprintf("Operation %d: %s", b.At.Number, b.At.Label)
	}
	for _, c := range b.Checks {
		out.Rows = append(
			out.Rows,
			[]string{
				stamp(c.At),
				unit.Vacuum(c.Start, 1).String(),
				unit.Vacuum(c.End, 1).String(),
				fmt.Sprintf("%.1f min", c.Seconds/60),
				c.Person,
				met(c.Pass),
				c.Message,
			},
		)
	}
	if b.ClosedAt != nil {
		out.Notes = []string{
			fmt.Sprintf(
				"Closed by %s, %s. From the part outwards: %s.",
				b.ClosedBy,
				stamp(*b.ClosedAt),
				strings.Join(b.Closed, ", "),
			),
		}
	}
	return out
}
