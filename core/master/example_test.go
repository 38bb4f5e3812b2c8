package master_test

import (
	"fmt"

	"juxta/core/master"
)

func strip(angles ...float64) master.Document {
	d := master.Document{
		Format: master.Format,
		Outlines: []master.Outline{
			{Name: "full", Kind: "rectangle", Dims: map[string]float64{"length": 0.4, "width": 0.1}},
		},
		Stages: []master.Stage{{Key: "skin", Kind: "skin"}},
	}
	for i, a := range angles {
		d.Stages[0].Items = append(
			d.Stages[0].Items,
			master.Item{Key: fmt.Sprint("ply", i+1), Kind: master.Ply, MaterialID: 1, Outline: "full", AngleDeg: a},
		)
	}
	return d
}

// Two planners who change different plies of one draft both keep their work;
// where both changed one ply, they are told which.
func ExampleMerge() {
	base := strip(0, 45, 90)
	mine, theirs := strip(0, 30, 90), strip(10, 45, 90)
	both, conflicts := master.Merge(base, theirs, mine)
	fmt.Println(both.Items()[0].AngleDeg, both.Items()[1].AngleDeg, conflicts)
	_, conflicts = master.Merge(base, strip(0, 60, 90), mine)
	fmt.Println(conflicts)
	// Output:
	// 10 30 []
	// [item 2 was changed by both]
}

// A family of two lengths: the second has one more ply.
func ExampleDocument_Of() {
	d := strip(0)
	d.Outlines[0].Expr = map[string]string{"length": "L", "width": "L/4"}
	d.Stages[0].Items[0].Expr = map[string]string{"count": "n"}
	d.Parameters = []master.Parameter{
		{Name: "L", Unit: "mm", Value: 400},
		{Name: "n", Unit: "number", Expr: "ceil(L/400)"},
	}
	d.Variants = []master.Variant{{Name: "short"}, {Name: "long", Values: map[string]float64{"L": 600}}}
	for _, v := range d.Variants {
		one, err := d.Of(v)
		fmt.Println(v.Name, one.Outlines[0].Dims["length"], one.Outlines[0].Dims["width"], len(one.Items()), err)
	}
	// Output:
	// short 0.4 0.1 1 <nil>
	// long 0.6 0.15 2 <nil>
}

// What differs between two revisions, item by item.
func ExampleDifference() {
	for _, c := range master.Difference(strip(0, 45, 90), strip(0, 30, 90, 0)) {
		switch {
		case c.Was == nil:
			fmt.Println(c.Is.Key, "is new")
		case c.Differs():
			fmt.Println(c.Is.Key, c.Fields)
		}
	}
	// Output:
	// ply2 [angleDeg]
	// ply4 is new
}

// A fault names its place.
func ExampleDocument_Check() {
	d := strip(0, 45)
	d.Stages[0].Items[1].Outline = "pad"
	for _, f := range d.Check(map[int64]master.Material{1: {Name: "UD", Kind: "unidirectional"}}) {
		fmt.Printf("%s, %s: %s\n", f.Key, f.Field, f.Message)
	}
	// Output:
	// ply2, outline: ply 2: there is no outline "pad"
}
