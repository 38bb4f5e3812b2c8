package master

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAFamilyMakesItsVariants(t *testing.T) {
	d := Document{Format: Format,
		Parameters: []Parameter{
			{Name: "L", Unit: "mm", Value: 600},
			{Name: "W", Unit: "mm", Expr: "L/2+15"},
			{Name: "n", Unit: "number", Value: 2},
			{Name: "a", Unit: "°", Value: 30},
		},
		Variants: []Variant{
			{Name: "60", Values: nil},
			{Name: "90", Values: map[string]float64{"L": 900, "n": 3}},
			{Name: "bare", Values: map[string]float64{"n": 0}},
		},
		Outlines: []Outline{
			{Name: "full", Kind: "rectangle", Expr: map[string]string{"length": "L", "width": "min(W, 400)"}},
		},
		Stages: []Stage{{Key: "s", Kind: "skin", Items: []Item{
			{
				Key:        "p",
				Kind:       Ply,
				MaterialID: 1,
				Outline:    "full",
				Expr:       map[string]string{"angleDeg": "-a", "count": "n", "x": "L/10"},
			}, {Key: "q", Kind: Ply, MaterialID: 1, Outline: "full"}}}}}
	require.Empty(t, d.Check(materials))
	got, err := d.Of(d.Variants[1])
	require.NoError(t, err)
	require.Empty(t, got.Check(materials))
	assert.Equal(t, map[string]float64{"length": 0.9, "width": 0.4}, got.Outlines[0].Dims)
	items := got.Items()
	require.Len(t, items, 4)
	assert.Equal(t, []string{"p", "p.2", "p.3", "q"}, []string{items[0].Key, items[1].Key, items[2].Key, items[3].Key})
	assert.Equal(t, -30.0, items[2].AngleDeg)
	assert.InDelta(t, 0.09, items[2].X, 1e-12)
	narrow := d
	narrow.Outlines = []Outline{
		{Name: "full", Kind: "rectangle", Expr: map[string]string{"length": "L", "width": "L-900"}},
	}
	faults := narrow.Check(materials)
	require.Len(t, faults, 3)
	assert.Contains(t, faults[1].Message, `variant 90: outline "full": the width`)
	got, err = d.Of(d.Variants[2])
	require.NoError(t, err)
	assert.Len(t, got.Items(), 1, "an option left out")
	assert.InDelta(t, 0.315, got.Outlines[0].Dims["width"], 1e-12)
	for code, says := range map[string]string{
		"L/": "is no expression", "len([1])": "cannot be used here", `"a"`: "cannot be used here",
		"Z+1": "names Z, which is no parameter", "L > 3": "makes a number", "1/(n-n)": "gives no number",
		"1e9*n": "more than 500 items",
	} {
		d.Stages[0].Items[0].Expr = map[string]string{"count": code}
		_, err := d.Of(d.Variants[0])
		assert.ErrorContains(t, err, says, code)
	}
}

// What a variant cannot be is said with the place where it stands.
func TestAVariantThatCannotBeSaysWhere(t *testing.T) {
	family := func() Document {
		d := panel()
		d.Parameters = []Parameter{{Name: "L", Unit: "mm", Value: 600}}
		d.Variants = []Variant{{Name: "60"}}
		return d
	}
	for says, spoil := range map[string]func(d *Document){
		"variant 60 sets Q, which is no parameter": func(d *Document) {
			d.Variants[0].Values = map[string]float64{"Q": 1}
		},
		"Z is no parameter": func(d *Document) { d.Parameters[0].Expr = "Z + 1" },
		"parameter L depends on itself: L → W → L": func(d *Document) {
			d.Parameters[0].Expr = "W"
			d.Parameters = append(d.Parameters, Parameter{Name: "W", Unit: "mm", Expr: "L"})
		},
		`parameter L: "3 +" is no expression`: func(d *Document) { d.Parameters[0].Expr = "3 +" },
		`outline "full", length: "L/(L-L)" gives`: func(d *Document) {
			d.Outlines[0].Expr = map[string]string{"length": "L/(L-L)"}
		},
		"1: colour takes no expression": func(d *Document) {
			d.Stages[0].Items[0].Expr = map[string]string{"colour": "L"}
		},
	} {
		d := family()
		spoil(&d)
		_, err := d.Of(d.Variants[0])
		assert.ErrorContains(t, err, says)
	}
	tube := family()
	for says, code := range map[string]map[string]string{
		"takes no expression": {"colour": "L"}, "no number": {"width": "L/(L-L)"},
	} {
		tube.Stages[0].Rolled = &Rolled{Expr: code}
		_, err := tube.Of(tube.Variants[0])
		assert.ErrorContains(t, err, says)
	}
	// Names that are there twice are faults of the document.
	twice := family()
	twice.Parameters = append(twice.Parameters, twice.Parameters[0], Parameter{Name: "min", Unit: "mm", Value: 1})
	twice.Variants = append(twice.Variants, Variant{Name: "60"}, Variant{Name: " "})
	said := ""
	for _, f := range twice.Check(materials) {
		said += f.Message + "\n"
	}
	for _, s := range []string{
		"a function, are called L", "a function, are called min", `two variants are called "60"`, `called " "`,
	} {
		assert.Contains(t, said, s)
	}
}
