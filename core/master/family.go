package master

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/parser"
)

// Family says whether the document stands for several parts.
func (d Document) Family() bool { return len(d.Variants) > 0 }

// values works the parameters of a family out for a variant, in their units.
func (d Document) values(v Variant) (map[string]any, error) {
	given := map[string]Parameter{}
	for _, p := range d.Parameters {
		given[p.Name] = p
	}
	for name := range v.Values {
		if _, ok := given[name]; !ok {
			return nil, fmt.Errorf("variant %s sets %s, which is no parameter", v.Name, name)
		}
	}
	done := map[string]any{}
	var work func(name string, way []string) error
	work = func(name string, way []string) error {
		if _, ok := done[name]; ok {
			return nil
		}
		p, ok := given[name]
		if !ok {
			return fmt.Errorf("%s is no parameter", name)
		}
		if slices.Contains(way, name) {
			return fmt.Errorf("parameter %s depends on itself: %s", name, strings.Join(append(way, name), " → "))
		}
		if set, ok := v.Values[name]; ok {
			done[name] = set
			return nil
		}
		if p.Expr == "" {
			done[name] = p.Value
			return nil
		}
		names, err := mentioned(p.Expr)
		if err != nil {
			return fmt.Errorf("parameter %s: %w", name, err)
		}
		for _, n := range names {
			if err := work(n, append(way, name)); err != nil {
				return err
			}
		}
		value, err := evaluate(p.Expr, done)
		if err != nil {
			return fmt.Errorf("parameter %s: %w", name, err)
		}
		done[name] = value
		return nil
	}
	for _, p := range d.Parameters {
		if err := work(p.Name, nil); err != nil {
			return nil, err
		}
	}
	return done, nil
}

// functions may stand in expressions beside + - * / ^ and brackets.
var functions = []string{"abs", "ceil", "floor", "round", "min", "max"}

type names struct {
	found []string
	calls map[string]bool
}

func (n *names) Visit(node *ast.Node) {
	switch v := (*node).(type) {
	case *ast.IdentifierNode:
		if !slices.Contains(n.found, v.Value) {
			n.found = append(n.found, v.Value)
		}
	case *ast.StringNode, *ast.ArrayNode, *ast.MapNode, *ast.PredicateNode, *ast.MemberNode, *ast.SequenceNode:
		n.calls["texts and lists"] = true
	case *ast.BuiltinNode:
		n.calls[v.Name] = true
	}
}

// mentioned are the parameters that an expression names.
func mentioned(code string) ([]string, error) {
	tree, err := parser.Parse(code)
	if err != nil {
		return nil, fmt.Errorf("%q is no expression: %s", code, strings.SplitN(err.Error(), "\n", 2)[0])
	}
	n := &names{calls: map[string]bool{}}
	ast.Walk(&tree.Node, n)
	for _, c := range slices.Sorted(maps.Keys(n.calls)) {
		if !slices.Contains(functions, c) {
			return nil, fmt.Errorf("%q: %s cannot be used here; %s can", code, c, strings.Join(functions, ", "))
		}
	}
	return n.found, nil
}

// evaluate works an expression out.
func evaluate(code string, values map[string]any) (float64, error) {
	names, err := mentioned(code)
	if err != nil {
		return 0, err
	}
	for _, n := range names {
		if _, ok := values[n]; !ok {
			return 0, fmt.Errorf("%q names %s, which is no parameter", code, n)
		}
	}
	program, err := expr.Compile(code, expr.Env(values), expr.AsFloat64())
	if err != nil {
		return 0, fmt.Errorf("%q is no expression that makes a number", code)
	}
	out, err := expr.Run(program, values)
	if err != nil {
		return 0, fmt.Errorf("%q cannot be calculated", code)
	}
	value, ok := out.(float64)
	if !ok || math.IsNaN(value) || math.IsInf(value, 0) {
		return 0, fmt.Errorf("%q gives no number", code)
	}
	return value, nil
}

// fieldsOf are the fields of an item that an expression may set, with what its
// value is multiplied by: lengths are written in mm.
var fieldsOf = map[string]float64{
	"angleDeg":  1,
	"turnDeg":   1,
	"x":         1e-3,
	"y":         1e-3,
	"joinWidth": 1e-3,
	"stagger":   1e-3,
	"count":     1,
}

// Of is the master of one variant: every expression worked out, every counted
// item as often as it says. A copy of an item has a key of its own, the
// original's and a number.
func (d Document) Of(v Variant) (Document, error) {
	values, err := d.values(v)
	if err != nil {
		return Document{}, err
	}
	out := d
	out.Parameters, out.Variants = nil, nil
	out.Outlines = slices.Clone(d.Outlines)
	for k, o := range out.Outlines {
		if len(o.Expr) == 0 {
			continue
		}
		dims := maps.Clone(o.Dims)
		if dims == nil {
			dims = map[string]float64{}
		}
		for _, name := range slices.Sorted(maps.Keys(o.Expr)) {
			value, err := evaluate(o.Expr[name], values)
			if err != nil {
				return Document{}, fmt.Errorf("outline %q, %s: %w", o.Name, name, err)
			}
			if name != "angle" && name != "sides" {
				value *= 1e-3
			}
			dims[name] = value
		}
		out.Outlines[k].Dims, out.Outlines[k].Expr = dims, nil
	}
	labels := d.Labels()
	out.Stages = slices.Clone(d.Stages)
	total := 0
	for k, s := range out.Stages {
		items := []Item{}
		for _, i := range s.Items {
			count := 1.0
			targets := map[string]*float64{
				"angleDeg":  &i.AngleDeg,
				"turnDeg":   &i.TurnDeg,
				"x":         &i.X,
				"y":         &i.Y,
				"joinWidth": &i.JoinWidth,
				"stagger":   &i.Stagger,
				"count":     &count,
			}
			for _, field := range slices.Sorted(maps.Keys(i.Expr)) {
				scale, ok := fieldsOf[field]
				if !ok {
					return Document{}, fmt.Errorf("%s: %s takes no expression", labels[i.Key], field)
				}
				value, err := evaluate(i.Expr[field], values)
				if err != nil {
					return Document{}, fmt.Errorf("%s, %s: %w", labels[i.Key], field, err)
				}
				value *= scale
				*targets[field] = value
			}
			count = math.Round(count)
			i.Expr = nil
			if total += int(max(0, count)); total > MaxItems || count > MaxItems {
				return Document{}, fmt.Errorf("%s: the variant would have more than %d items", labels[i.Key], MaxItems)
			}
			for n := range int(max(0, count)) {
				copied := i
				if n > 0 {
					copied.Key = fmt.Sprintf("%s.%d", i.Key, n+1)
				}
				items = append(items, copied)
			}
		}
		out.Stages[k].Items = items
		if s.Rolled != nil {
			m, err := s.Rolled.of(values)
			if err != nil {
				return Document{}, fmt.Errorf("%s: %w", s.Name, err)
			}
			out.Stages[k].Rolled = &m
		}
	}
	return out.Normal(), nil
}

// of is the mandrel of a variant, its expressions worked out.
func (m Rolled) of(values map[string]any) (Rolled, error) {
	targets := map[string]*float64{
		"width": &m.Width, "height": &m.Height, "radius": &m.Radius, "lastWidth": &m.LastWidth,
		"lastHeight": &m.LastHeight, "lastRadius": &m.LastRadius, "length": &m.Length, "outside": &m.Outside,
	}
	for _, field := range slices.Sorted(maps.Keys(m.Expr)) {
		target, ok := targets[field]
		if !ok {
			return Rolled{}, fmt.Errorf("%s takes no expression", field)
		}
		value, err := evaluate(m.Expr[field], values)
		if err != nil {
			return Rolled{}, fmt.Errorf("%s: %w", field, err)
		}
		*target = value * 1e-3
	}
	m.Expr = nil
	return m, nil
}

func (d Document) checkFamily(add func(key, field, format string, args ...any)) {
	seen := map[string]bool{}
	for _, p := range d.Parameters {
		if seen[p.Name] || slices.Contains(functions, p.Name) {
			add(p.Name, "parameters", "two parameters, or a function, are called %s", p.Name)
		}
		seen[p.Name] = true
	}
	called := map[string]bool{}
	for _, v := range d.Variants {
		if called[v.Name] || strings.TrimSpace(v.Name) == "" {
			add(v.Name, "variants", "two variants are called %q, or one has no name", v.Name)
		}
		called[v.Name] = true
		if err := d.drawn(v); err != nil {
			add(v.Name, "variants", "variant %s: %s", v.Name, err)
		}
	}
	if len(d.Variants) == 0 {
		if err := d.drawn(Variant{}); err != nil {
			add("", "parameters", "%s", err)
		}
	}
}

// drawn says whether a variant can be worked out and drawn.
func (d Document) drawn(v Variant) error {
	one, err := d.Of(v)
	if err != nil {
		return err
	}
	for k, o := range one.Outlines {
		if len(d.Outlines[k].Expr) == 0 {
			continue
		}
		if _, err := o.Ring(); err != nil {
			return fmt.Errorf("outline %q: %w", o.Name, err)
		}
	}
	return nil
}
