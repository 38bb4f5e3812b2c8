package laminate

import (
	"fmt"
	"math"
	"slices"

	"juxta/core/unit"
)

// steps finds neighbours whose angles are too far apart. A weave of two equal
// directions takes part with the nearer one.
func steps(stack []Ply, most float64) []Finding {
	var found []Finding
	for i := 1; i < len(stack); i++ {
		a, b := stack[i-1], stack[i]
		if !a.laminated() || !b.laminated() {
			continue
		}
		d := math.Abs(unit.FoldAngle(unit.Deg(a.Angle - b.Angle)))
		if a.Lamina.even() || b.Lamina.even() {
			d = min(d, 90-d)
		}
		if d > unit.Deg(most)+1e-6 {
			found = append(
				found,
				Finding{
					"step",
					fmt.Sprintf(
						"%g° between plies %s and %s, at most %.0f°",
						math.Round(d*10)/10,
						a.Name,
						b.Name,
						unit.Deg(most),
					),
					[]string{a.Name, b.Name},
				},
			)
		}
	}
	return found
}

// outer finds outermost plies of fibre that do not lie at ±45°.
func outer(stack []Ply) []Finding {
	var ends []Ply
	first := slices.IndexFunc(stack, Ply.laminated)
	if first < 0 {
		return nil
	}
	ends = append(ends, stack[first])
	for i := len(stack) - 1; i > first; i-- {
		if stack[i].laminated() {
			ends = append(ends, stack[i])
			break
		}
	}
	var names []string
	for _, p := range ends {
		if math.Abs(math.Abs(unit.FoldAngle(unit.Deg(p.Angle)))-45) > 15 {
			names = append(names, p.Name)
		}
	}
	if len(names) == 0 {
		return nil
	}
	return []Finding{{"outer", plies(names) + " lies outermost and not at ±45°", names}}
}

// bonds finds faces of a core that nothing bonds: beside it lies neither film
// adhesive nor a ply with enough resin.
func bonds(stack []Ply, least float64) []Finding {
	var found []Finding
	for i, p := range stack {
		if p.Kind != KindCore {
			continue
		}
		for _, side := range []struct {
			at   int
			name string
		}{{i - 1, "tool"}, {i + 1, "bag"}} {
			if side.at < 0 || side.at >= len(stack) {
				found = append(
					found,
					Finding{
						"core bond",
						fmt.Sprintf("core %s has no skin on its %s side", p.Name, side.name),
						[]string{p.Name},
					},
				)
				continue
			}
			n := stack[side.at]
			if n.Kind == KindFilm || n.laminated() && n.Lamina.ResinShare >= least {
				continue
			}
			says := fmt.Sprintf(
				"core %s has no bond on its %s side: ply %s has %.0f %% resin, %.0f %% would do without "+
					"film adhesive",
				p.Name,
				side.name,
				n.Name,
				100*n.Lamina.ResinShare,
				100*least,
			)
			found = append(found, Finding{"core bond", says, []string{p.Name, n.Name}})
		}
	}
	return found
}
