package demo

import (
	"fmt"

	"juxta/core/laminate"
	"juxta/core/master"
	"juxta/core/route"
	"juxta/core/unit"
)

// places are where the shop does what.
var places = map[route.Kind]string{
	route.Cutting: "cutter", route.Laying: "bench", route.Joining: "bench", route.Curing: "oven 1",
	route.PostCuring: "oven 1", route.Debulking: "press", route.Trimming: "saw and drill",
	route.Drilling: "saw and drill", route.Machining: "saw and drill",
	route.Bonding: "bonding bench", route.Sanding: "finishing bench", route.Coating: "finishing bench",
}

// sketch builds a document.
type sketch struct {
	master.Document
	ids map[string]int64
	n   int
}

func (s *script) sketch(ids map[string]int64, outlines ...master.Outline) *sketch {
	return &sketch{Document: master.Document{Format: master.Format, Outlines: outlines}, ids: ids}
}

func (k *sketch) stage(name, kind string) *sketch {
	k.n++
	k.Stages = append(
		k.Stages,
		master.Stage{Key: fmt.Sprintf("s%d", k.n), Name: name, Kind: kind, Items: []master.Item{}},
	)
	return k
}

// rolled rolls the last stage on a mandrel.
func (k *sketch) rolled(m master.Rolled) *sketch {
	k.Stages[len(k.Stages)-1].Rolled = &m
	return k
}

// on lays the last stage on a curved surface.
func (k *sketch) on(surface master.Surface) *sketch {
	k.Stages[len(k.Stages)-1].Surface = &surface
	return k
}

// made is the sketch with the route of a template.
func (k *sketch) made(way string) master.Document {
	w, known := route.FindTemplate(way)
	if !known {
		panic("no template " + way)
	}
	k.Route = k.Made(w)
	for n := range k.Route {
		o := &k.Route[n]
		o.Place = places[route.Kind(o.Kind)]
		if o.Place == "bench" {
			o.Place = fmt.Sprintf("bench %d", 1+n%3)
		}
		switch route.Kind(o.Kind) {
		case route.Demoulding:
			o.Below = unit.Kelvin(60)
		case route.Bonding:
			o.Adherends = []string{"end fitting, aluminium, bought"}
			o.Qualification = "bonding"
			o.Fields = []master.Field{
				{
					Key:     "paste",
					Name:    "adhesive",
					Kind:    "product",
					Pot:     45 * 60,
					Caution: "Mix small amounts: it heats itself.",
				},
				{
					Key:   "ratio",
					Name:  "mixed, A to B by mass",
					Kind:  "value",
					Unit:  "g/g",
					Least: number(1.96),
					Most:  number(2.04),
				},
				{Key: "line", Name: "bond line", Kind: "value", Unit: "mm", Least: number(0.15), Most: number(0.6)},
			}
		case route.Inspecting:
			o.Fields = []master.Field{{Key: "look", Name: "dry spots, bridging, " +
				"folds", Kind: "choice", Choices: []string{"none", "marked"}}}
		}
	}
	return k.Document
}

// put adds an item to the last stage.
func (k *sketch) put(i master.Item, material string) *sketch {
	k.n++
	i.Key, i.MaterialID = fmt.Sprintf("i%d", k.n), k.ids[material]
	last := &k.Stages[len(k.Stages)-1]
	last.Items = append(last.Items, i)
	return k
}

// lay adds the plies of a stacking code.
func (k *sketch) lay(code, material string, like master.Item) *sketch {
	plies, err := laminate.ReadCode(code)
	if err != nil {
		panic(err) // a code in this file
	}
	for _, p := range plies {
		i := like
		i.Kind, i.AngleDeg, i.FaceUp = master.Ply, p.AngleDeg, !p.Mirrored
		k.put(i, material)
	}
	return k
}

func box(name string, length, width float64) master.Outline {
	return master.Outline{Name: name, Kind: "rectangle", Dims: map[string]float64{"length": length, "width": width}}
}

func stands(o master.Outline, for_ string) master.Outline {
	o.Placeholder = for_
	return o
}
