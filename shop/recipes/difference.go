package recipes

import (
	"fmt"
	"slices"

	"juxta/calc"
	"juxta/core/master"
	"juxta/core/unit"
)

// PlanDifference is what a recipe says otherwise than another version.
type PlanDifference struct {
	Segments []master.SegmentChange `json:"segments"`
	Changes  []string               `json:"changes" doc:"What else differs: limits, stack, where it is cured"`
}

// Difference is what a plan says otherwise than one before.
func (p RecipePlan) Difference(was RecipePlan) PlanDifference {
	out := PlanDifference{master.SegmentDifference(was.Recipe, p.Recipe), []string{}}
	if p.Recipe.Control != was.Recipe.Control {
		out.Changes = append(out.Changes, "another sensor follows the set point")
	}
	if p.Recipe.Start != was.Recipe.Start {
		out.Changes = append(
			out.Changes,
			fmt.Sprintf(
				"it starts at %s, was %s",
				unit.Temperature(p.Recipe.Start, 0),
				unit.Temperature(was.Recipe.Start, 0),
			),
		)
	}
	if p.Recipe.Tolerance != was.Recipe.Tolerance {
		out.Changes = append(
			out.Changes,
			fmt.Sprintf(
				"band of the air: %s, was %s",
				unit.TemperatureDifference(p.Recipe.Tolerance, 1),
				unit.TemperatureDifference(was.Recipe.Tolerance, 1),
			),
		)
	}
	out.Changes = append(out.Changes, p.Limits.Difference(was.Limits)...)
	out.Changes = append(out.Changes, sectionsOtherwise(was.Sections, p.Sections)...)
	if !slices.Equal(p.Reasons, was.Reasons) {
		out.Changes = append(out.Changes, "the reasons are changed")
	}
	return out
}

// sectionsOtherwise says what of the stacks differs; sections and their layers are known by their names.
func sectionsOtherwise(was, is []calc.CureSection) (out []string) {
	for _, s := range is {
		k := slices.IndexFunc(was, func(w calc.CureSection) bool { return w.Name == s.Name })
		if k < 0 {
			out = append(out, s.Name+" is new")
			continue
		}
		out = append(out, layersOtherwise(was[k], s)...)
	}
	for _, w := range was {
		if !slices.ContainsFunc(is, func(s calc.CureSection) bool { return s.Name == w.Name }) {
			out = append(out, w.Name+" is gone")
		}
	}
	return out
}

func layersOtherwise(was, is calc.CureSection) (out []string) {
	names := func(s calc.CureSection) (all []string) {
		for _, l := range s.Layers {
			all = append(all, l.Name)
		}
		return all
	}
	if !slices.Equal(names(was), names(is)) {
		return []string{is.Name + " has other layers"}
	}
	for k, l := range is.Layers {
		w := was.Layers[k]
		if l.Thickness != w.Thickness {
			out = append(
				out,
				fmt.Sprintf(
					"%s: %s is %s thick, was %s",
					is.Name,
					l.Name,
					unit.Size(l.Thickness, 2),
					unit.Size(w.Thickness, 2),
				),
			)
		}
		w.Thickness = l.Thickness
		if l != w {
			out = append(out, fmt.Sprintf("%s: %s has other figures", is.Name, l.Name))
		}
	}
	if is.Below != was.Below || is.Above != was.Above {
		out = append(out, "heat comes to "+is.Name+" in another way")
	}
	return out
}
