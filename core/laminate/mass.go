package laminate

import (
	"slices"

	"juxta/core/geom"
)

// PointMass is something of a mass at a place: an insert, potting, a fillet.
type PointMass struct {
	Mass float64 // kg
	At   geom.Point
}

// MassProperties is what a part weighs, in kg, by stage, and where its middle of mass
// lies in plan.
type MassProperties struct {
	Laid    float64 // as laid, films off
	Cured   float64 // less the resin that is bled
	Trimmed float64 // less what lies outside the trim line
	Resin   float64 // in what is laid
	Lumps   float64 // in all of them
	Centre  geom.Point
}

// MassOf adds the layers' areal masses up over their areas, with lumps. bleed is
// the share of the plies' resin that the bag takes out; trim is the net outline,
// or nil where nothing is trimmed.
func MassOf(plies []PlacedPly, lumps []PointMass, bleed float64, trim geom.Ring) (MassProperties, error) {
	var w MassProperties
	var sx, sy float64
	type inside struct {
		ring geom.Ring
		area float64
	}
	var known []inside // plies of one outline are cut by the trim line once
	for _, p := range plies {
		area := p.Outline.Area()
		laid := p.Lamina.ArealMass * area
		if p.Share > 0 {
			laid *= p.Share
		}
		resin := laid * p.Lamina.ResinShare
		w.Laid += laid
		w.Resin += resin
		cured := laid
		if p.laminated() {
			cured -= resin * bleed
		}
		w.Cured += cured
		kept := area
		if trim != nil {
			found := false
			for _, k := range known {
				if slices.Equal(k.ring, p.Outline) {
					kept, found = k.area, true
				}
			}
			if !found {
				var err error
				if kept, err = geom.Overlap(p.Outline, trim); err != nil {
					return MassProperties{}, err
				}
				known = append(known, inside{p.Outline, kept})
			}
		}
		if p.Kept > 0 {
			kept *= p.Kept
		}
		w.Trimmed += cured * kept / area
		c := p.Outline.Centroid()
		sx, sy = sx+laid*c.X, sy+laid*c.Y
	}
	for _, l := range lumps {
		w.Lumps += l.Mass
		sx, sy = sx+l.Mass*l.At.X, sy+l.Mass*l.At.Y
	}
	w.Laid, w.Cured, w.Trimmed = w.Laid+w.Lumps, w.Cured+w.Lumps, w.Trimmed+w.Lumps
	if w.Laid > 0 {
		w.Centre = geom.Point{X: sx / w.Laid, Y: sy / w.Laid}
	}
	return w, nil
}
