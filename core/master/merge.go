package master

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
)

// row is one line of the document in lay order: a stage's head or an item.
// Reading stages and items as one list makes an item that changes its stage a
// row that moved.
type row struct {
	key   string
	stage *Stage // a head, without its items
	item  *Item
}

func (d Document) rows() []row {
	var rows []row
	for _, s := range d.Stages {
		head := s
		head.Items = nil
		rows = append(rows, row{s.Key, &head, nil})
		for _, i := range s.Items {
			rows = append(rows, row{i.Key, nil, &i})
		}
	}
	return rows
}

// Merge brings together what two people made of one document: mine and theirs,
// both from base. What only one of them touched is taken from that one; where
// both touched the same thing differently, the conflicts say so in a sentence
// each, and nothing is merged. Things are items, heads of stages, outlines,
// parameters, variants, load cases, operations of the route and the trim line.
func Merge(base, theirs, mine Document) (Document, []string) {
	// What is derived is nobody's change: it follows from what comes of the merge.
	base, theirs, mine = base.Bare(), theirs.Bare(), mine.Bare()
	labels := base.Labels()
	called := func(key string) string {
		if l, ok := labels[key]; ok {
			return "item " + l
		}
		return key
	}
	var conflicts []string
	out := Document{Format: mine.Format}
	rows, wrong := mergeList(base.rows(), theirs.rows(), mine.rows(), func(r row) string { return r.key }, called)
	conflicts = append(conflicts, wrong...)
	out.Outlines, wrong = mergeList(
		base.Outlines,
		theirs.Outlines,
		mine.Outlines,
		func(o Outline) string { return o.Name },
		func(k string) string { return fmt.Sprintf("outline %q", k) },
	)
	conflicts = append(conflicts, wrong...)
	out.Parameters, wrong = mergeList(
		base.Parameters,
		theirs.Parameters,
		mine.Parameters,
		func(p Parameter) string { return p.Name },
		func(k string) string { return "parameter " + k },
	)
	conflicts = append(conflicts, wrong...)
	out.Variants, wrong = mergeList(
		base.Variants,
		theirs.Variants,
		mine.Variants,
		func(v Variant) string { return v.Name },
		func(k string) string { return "variant " + k },
	)
	conflicts = append(conflicts, wrong...)
	out.Loads, wrong = mergeList(
		base.Loads,
		theirs.Loads,
		mine.Loads,
		func(l Load) string { return l.Name },
		func(k string) string { return "load case " + k },
	)
	conflicts = append(conflicts, wrong...)
	out.Route, wrong = mergeList(
		base.Route,
		theirs.Route,
		mine.Route,
		func(o Operation) string { return o.Key },
		func(k string) string { return fmt.Sprintf("operation %q", k) },
	)
	conflicts = append(conflicts, wrong...)
	switch {
	case theirs.Trim == base.Trim || theirs.Trim == mine.Trim:
		out.Trim = mine.Trim
	case mine.Trim == base.Trim:
		out.Trim = theirs.Trim
	default:
		conflicts = append(conflicts, "the trim line was changed by both")
	}
	for _, r := range rows {
		if r.stage != nil {
			out.Stages = append(out.Stages, *r.stage)
			continue
		}
		if len(out.Stages) == 0 {
			conflicts = append(conflicts, "the first stage was removed by one and filled by the other")
			break
		}
		last := &out.Stages[len(out.Stages)-1]
		last.Items = append(last.Items, *r.item)
	}
	out = out.Normal()
	if len(conflicts) > 0 {
		return Document{}, conflicts
	}
	return out, nil
}

// Normal is the document in its present edition with empty lists for missing ones, so
// that two that say the same are the same.
func (d Document) Normal() Document {
	if d.Format == FormatOne {
		d.Format = Format
	}
	if d.Outlines == nil {
		d.Outlines = []Outline{}
	}
	d.Stages = slices.Clone(d.Stages)
	if d.Stages == nil {
		d.Stages = []Stage{}
	}
	for k := range d.Stages {
		if d.Stages[k].Items == nil {
			d.Stages[k].Items = []Item{}
		}
	}
	return d
}

func (r row) MarshalJSON() ([]byte, error) { return json.Marshal([]any{r.stage, r.item}) }

// same compares what two things say.
func same[T any](a, b T) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && bytes.Equal(x, y)
}

// mergeList merges ordered lists of keyed things.
func mergeList[T any](base, theirs, mine []T, key func(T) string, called func(string) string) ([]T, []string) {
	index := func(list []T) map[string]T {
		m := map[string]T{}
		for _, v := range list {
			m[key(v)] = v
		}
		return m
	}
	b, t, m := index(base), index(theirs), index(mine)
	var conflicts []string
	value, gone := map[string]T{}, map[string]bool{}
	for _, list := range [][]T{base, theirs, mine} {
		for _, v := range list {
			k := key(v)
			if _, done := value[k]; done || gone[k] {
				continue
			}
			was, before := b[k]
			their, theyHave := t[k]
			my, iHave := m[k]
			switch {
			case theyHave && iHave:
				switch {
				case same(their, my) || before && same(their, was):
					value[k] = my
				case before && same(my, was):
					value[k] = their
				default:
					conflicts = append(conflicts, called(k)+" was changed by both")
					value[k] = my
				}
			case theyHave && before: // I took it away
				if !same(their, was) {
					conflicts = append(conflicts, called(k)+" was changed by one and removed by the other")
				}
				gone[k] = true
			case iHave && before:
				if !same(my, was) {
					conflicts = append(conflicts, called(k)+" was changed by one and removed by the other")
				}
				gone[k] = true
			case theyHave:
				value[k] = their
			case iHave:
				value[k] = my
			default:
				gone[k] = true
			}
		}
	}
	// The order is that of whoever moved something; mine where both did. What
	// the other added comes after what stands before it there.
	order, other := mine, theirs
	if inOrder(base, mine, key) && !inOrder(base, theirs, key) {
		order, other = theirs, mine
	}
	var keys []string
	for _, v := range order {
		if !gone[key(v)] {
			keys = append(keys, key(v))
		}
	}
	after := ""
	for _, v := range other {
		k := key(v)
		if gone[k] {
			continue
		}
		if !slices.Contains(keys, k) {
			keys = slices.Insert(keys, slices.Index(keys, after)+1, k)
		}
		after = k
	}
	var out []T
	for _, k := range keys {
		out = append(out, value[k])
	}
	return out, conflicts
}

// inOrder says whether what two lists share stands in the same order.
func inOrder[T any](a, b []T, key func(T) string) bool {
	at := map[string]int{}
	for i, v := range a {
		at[key(v)] = i
	}
	last := -1
	for _, v := range b {
		i, there := at[key(v)]
		if there && i < last {
			return false
		}
		if there {
			last = i
		}
	}
	return true
}
