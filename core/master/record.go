package master

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"juxta/core/material"
	"juxta/core/unit"
)

// Value is what was recorded in a field of an operation.
type Value struct {
	Number *float64   `json:"number,omitempty" doc:"Of a value, in the field's unit"`
	Text   string     `json:"text,omitempty" doc:"Of a text, a choice or a scan; of a product its batch" maxLength:"600"`
	FileID int64      `json:"fileId,omitempty" doc:"Of a picture or a paper: a kept file"`
	At     *time.Time `json:"at,omitempty" doc:"Of a product: when it was mixed or opened"`
}

// FieldCheck is what a field asks of a value, held against it.
type FieldCheck struct {
	Key     string
	Missing bool   // nothing was recorded, and something has to be
	Met     bool   // it is there, and within its limits
	Message string // why not; empty if it is met, or free and empty
}

// Judge holds values against an operation's fields, in their order, at a time: a product
// whose pot is over is not used.
func (o Operation) Judge(values map[string]Value, now time.Time) []FieldCheck {
	out := make([]FieldCheck, len(o.Fields))
	for k, f := range o.Fields {
		v, says := values[f.Key], ""
		empty := v.empty(f.Kind)
		switch {
		case empty && f.Free:
		case empty:
			says = f.Name + ": " + map[string]string{
				"value": "measure it", "choice": "choose one", "text": "write it down", "picture": "take a picture",
				"paper": "add the paper",
				"scan":  "scan it", "product": "scan its batch, and say when it was mixed",
			}[f.Kind]
		default:
			says = f.wrong(v, now)
		}
		out[k] = FieldCheck{Key: f.Key, Missing: empty && !f.Free, Met: !empty && says == "", Message: says}
	}
	return out
}

func (v Value) empty(kind string) bool {
	switch kind {
	case "value":
		return v.Number == nil
	case "picture", "paper":
		return v.FileID == 0
	case "product":
		return strings.TrimSpace(v.Text) == "" || v.At == nil
	}
	return strings.TrimSpace(v.Text) == ""
}

// wrong says why what was recorded does not meet the field, or nothing.
func (f Field) wrong(v Value, now time.Time) string {
	with := func(x float64) string { return unit.Written(f.Name, x, f.Unit) }
	switch f.Kind {
	case "value":
		switch {
		case !f.shown(*v.Number):
			return fmt.Sprintf("%s: its gauge cannot show %s: read it again, and its unit", f.Name, with(*v.Number))
		case f.Least != nil && *v.Number < *f.Least:
			return fmt.Sprintf("%s: %s is below the minimum, %s", f.Name, with(*v.Number), with(*f.Least))
		case f.Most != nil && *v.Number > *f.Most:
			return fmt.Sprintf("%s: %s is above the maximum, %s", f.Name, with(*v.Number), with(*f.Most))
		}
	case "choice":
		if !slices.Contains(f.Choices, v.Text) {
			return fmt.Sprintf("%s is one of %s", f.Name, strings.Join(f.Choices, ", "))
		}
	case "product":
		switch pot := seconds(f.Pot); {
		case v.At.After(now):
			return fmt.Sprintf("%s cannot have been mixed in the future", f.Name)
		case f.Pot > 0 && now.Sub(*v.At) > pot:
			return fmt.Sprintf("%s: its pot life of %s was over %s ago, mix anew", f.Name, material.Hours(pot),
				material.Hours(now.Sub(v.At.Add(pot))))
		}
	}
	return ""
}
