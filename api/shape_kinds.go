package api

import (
	"math"

	"juxta/core/drape"
	"juxta/core/pattern"
	"juxta/core/unit"
)

// shapeKind is a kind of outline that takes dimensions.
type shapeKind struct {
	Kind   string     `json:"kind" enum:"rectangle,strip,ring sector,circle,ellipse,patch,taper,regular"`
	Called string     `json:"called"`
	Dims   []shapeDim `json:"dims"`
}

type shapeDim struct {
	Name   string  `json:"name"`
	Called string  `json:"called"`
	Unit   string  `json:"unit" enum:"m,°,number"`
	Usual  float64 `json:"usual" doc:"What a new outline has"`
}

// meshBody is a file of a surface.
type meshBody struct {
	Name    string `json:"name" maxLength:"120" doc:"Of the file"`
	Unit    string `json:"unit" enum:"mm,cm,m,inch" doc:"Neither STL nor OBJ says its own"`
	Content []byte `json:"content" doc:"base64"`
	Sure    bool   `json:"sure,omitempty" doc:"The question about its unit is answered: it is right"`
}

// surfaceKind is a kind of curved surface.
type surfaceKind struct {
	Kind   string     `json:"kind" enum:"cylinder,cone,sphere cap,paraboloid,torus segment,saddle,ramped box corner"`
	Called string     `json:"called"`
	Dims   []shapeDim `json:"dims"`
}

// surfaceKinds is the library of surfaces in the units of a document.
func surfaceKinds() []surfaceKind {
	out := make([]surfaceKind, len(drape.Library))
	for i, k := range drape.Library {
		out[i] = surfaceKind{Kind: k.Kind, Called: k.Called}
		for _, d := range k.Dims {
			dim := shapeDim{d.Name, d.Called, d.Unit, d.Usual}
			if d.Unit == "rad" {
				dim.Unit, dim.Usual = "°", math.Round(unit.Deg(d.Usual))
			}
			out[i].Dims = append(out[i].Dims, dim)
		}
	}
	return out
}

// shapeKinds is the library of shapes in the units of a document.
func shapeKinds() []shapeKind {
	out := make([]shapeKind, len(pattern.Library))
	for i, k := range pattern.Library {
		out[i] = shapeKind{Kind: k.Kind, Called: k.Called}
		for _, d := range k.Dims {
			dim := shapeDim{d.Name, d.Called, d.Unit, d.Usual}
			switch d.Unit {
			case "rad":
				dim.Unit, dim.Usual = "°", math.Round(unit.Deg(d.Usual))
			case "":
				dim.Unit = "number"
			}
			out[i].Dims = append(out[i].Dims, dim)
		}
	}
	return out
}
