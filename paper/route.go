package paper

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"juxta/core/master"
	"juxta/core/material"
	"juxta/core/unit"
	"juxta/format/pdf"
	"juxta/shop/parts"
)

// way is the page of a ply book that tells what is done to a part, what waits for what,
// and what each operation asks and records.
func way(doc master.Document) []pdf.Section {
	r := parts.RouteOf(doc)
	if len(r.Operations) == 0 {
		return nil
	}
	numbers := map[string]string{}
	for _, o := range r.Operations {
		numbers[o.Key] = fmt.Sprint(o.Number)
	}
	table := pdf.Section{
		Heading: "Route of this part",
		Page:    true,
		Columns: []pdf.Column{
			{Name: "No.", Share: 0.06, Right: true},
			{Name: "Operation", Share: 0.27},
			{Name: "After", Share: 0.1},
			{Name: "Takes", Share: 0.1},
			{Name: "Place, tool", Share: 0.15},
			{Name: "Asks and records", Share: 0.32},
		},
		Notes: []string{fmt.Sprintf("%d operations; the critical path is %s of work and waiting, %s is work. "+
			"An operation can start when all operations under After are done.",
			len(r.Operations), hours(r.Longest), hours(r.Work))},
	}
	for _, v := range r.Operations {
		o := r.Planned[slices.IndexFunc(r.Planned, func(o master.Operation) bool { return o.Key == v.Key })]
		var after []string
		for _, key := range o.After {
			after = append(after, numbers[key])
		}
		table.Rows = append(table.Rows, []string{
			fmt.Sprint(v.Number), v.Label, strings.Join(after, ", "), hours(o.SetUp + o.Attended + o.Unattended),
			strings.Join(slices.DeleteFunc([]string{o.Place, o.Tool}, func(s string) bool { return s == "" }), ", "),
			strings.Join(asks(o), "; "),
		})
	}
	return []pdf.Section{table}
}

func hours(s float64) string { return material.Hours(time.Duration(s * float64(time.Second))) }

// asks is what an operation asks of whoever does it, and what it records.
func asks(o master.Operation) []string {
	var out []string
	add := func(says string, is bool) {
		if is {
			out = append(out, says)
		}
	}
	add(o.Qualification, o.Qualification != "")
	add("a second person signs", o.Second)
	add("hold: "+o.Hold, o.Hold != "")
	add("not before the part is below "+unit.Temperature(o.Below, 0).String(), o.Below > 0)
	add("with "+strings.Join(o.Adherends, ", "), len(o.Adherends) > 0)
	out = append(out, o.Own()...)
	for _, f := range o.Fields {
		add(f.Name+limits(f), true)
	}
	add(o.Caution, o.Caution != "")
	return out
}

// limits are those of a value in its own unit, or how long a product may be used.
func limits(f master.Field) string {
	with := func(x float64) string { return unit.Written(f.Name, x, f.Unit) }
	switch {
	case f.Least != nil && f.Most != nil:
		return " " + with(*f.Least) + " to " + with(*f.Most)
	case f.Least != nil:
		return " at least " + with(*f.Least)
	case f.Most != nil:
		return " at most " + with(*f.Most)
	case f.Pot > 0:
		return ", pot life " + hours(f.Pot)
	}
	return ""
}
