package master

import (
	"slices"

	"juxta/core/laminate"
	"juxta/core/unit"
)

// WhatIf is a change of layers that is only asked about; layers by their keys.
type WhatIf struct {
	Flip []string           // turned over
	Drop []string           // left out
	Turn map[string]float64 // turned by degrees
}

// Apply gives the layers as the question has them.
func (w WhatIf) Apply(layers []Layer) []Layer {
	if len(w.Flip)+len(w.Drop)+len(w.Turn) == 0 {
		return layers
	}
	out := []Layer{}
	for _, l := range layers {
		if slices.Contains(w.Drop, l.Key) {
			continue
		}
		if slices.Contains(w.Flip, l.Key) {
			// Turned over about the tool's x: the fibre that ran at θ runs at −θ.
			l.FaceUp, l.Angle, l.AngleDeg = !l.FaceUp, -l.Angle, -l.AngleDeg
		}
		if by := w.Turn[l.Key]; by != 0 {
			l.Angle += unit.Rad(by)
			l.AngleDeg += by
		}
		out = append(out, l)
	}
	return out
}

// Stack is that of the layers with these keys, in lay order.
func Stack(layers []Layer, keys []string) []laminate.Ply {
	var stack []laminate.Ply
	for _, l := range layers {
		if slices.Contains(keys, l.Key) {
			stack = append(stack, l.Ply)
		}
	}
	return stack
}

// Stresses holds the plies of a stack against a load; first is the one that
// fails first, -1 where no ply's strength is known.
func (c AnalysisInput) Stresses(stack []laminate.Ply, load Load) (all []laminate.PlyStress, first int, err error) {
	strengths := map[string]laminate.Strength{}
	for _, m := range c.Materials {
		strengths[m.Name] = m.Strength
	}
	all, err = laminate.Stresses(stack, strengths, laminate.Load{N: load.N, M: load.M, DeltaT: load.DeltaT})
	if err != nil {
		return nil, -1, err
	}
	worst, any := laminate.FirstPly(all)
	if !any {
		return all, -1, nil
	}
	return all, slices.IndexFunc(all, func(p laminate.PlyStress) bool { return p.Ply == worst.Ply }), nil
}

// Releasable is the first thing that keeps parts from being built from a master
// without faults, or nil: plies of different resins, one that has no flat, or no plies at all.
func (c AnalysisInput) Releasable() *Fault {
	if c.Doc.Family() {
		return nil
	}
	labels, first, resin := c.Doc.Labels(), "", int64(0)
	for _, i := range c.Doc.Items() {
		if i.Kind != Ply {
			continue
		}
		m := c.Materials[i.MaterialID]
		switch {
		case i.Flat != nil && len(i.Flat.Pieces) == 0:
			return &Fault{
				i.Key,
				"flat",
				"ply " + labels[i.Key] + " has no flat that could be cut: " + i.Flat.Warnings[0],
			}
		case m.Resin == 0:
			return &Fault{
				i.Key,
				"materialId",
				"ply " + labels[i.Key] + " is of " + m.Name + ", which has no resin: it cannot be cured",
			}
		case first == "":
			first, resin = labels[i.Key], m.Resin
		case m.Resin != resin:
			return &Fault{
				i.Key,
				"materialId",
				"ply " + labels[i.Key] + " has another resin than ply " + first + ": one cure needs one resin",
			}
		}
	}
	if first == "" {
		return &Fault{"", "document", "a revision without plies cannot be released"}
	}
	return nil
}

// NextLetter of a revision: A, B … Z, AA, AB, leaving out I, O and Q, which
// drawings avoid (common practice, no source).
func NextLetter(letter string) string {
	const letters = "ABCDEFGHJKLMNPRSTUVWXYZ"
	b := []byte(letter)
	for i := len(b) - 1; i >= 0; i-- {
		at := slices.Index([]byte(letters), b[i])
		if at+1 < len(letters) {
			b[i] = letters[at+1]
			return string(b)
		}
		b[i] = letters[0]
	}
	return "A" + string(b)
}

// WithMaterials is the document with other versions of its materials: next by
// what stood there.
func (d Document) WithMaterials(next map[int64]int64) Document {
	d.Stages = slices.Clone(d.Stages)
	for k := range d.Stages {
		d.Stages[k].Items = slices.Clone(d.Stages[k].Items)
		for n := range d.Stages[k].Items {
			i := &d.Stages[k].Items[n]
			if id, ok := next[i.MaterialID]; ok {
				i.MaterialID = id
			}
		}
	}
	return d
}
