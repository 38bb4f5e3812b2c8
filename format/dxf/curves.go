package dxf

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/interp"

	"juxta/core/geom"
)

// arc is a circular arc as chords that lie at most so far inside it; nil: too many.
func arc(x, y, r, from, sweep, fine float64) []geom.Point {
	step := math.Pi / 4
	if fine < r {
		step = math.Min(step, 2*math.Acos(1-fine/r))
	}
	n := int(math.Ceil(math.Abs(sweep)/step)) + 1
	if n > maxPoints {
		return nil
	}
	points := make([]geom.Point, n+1)
	for i := range points {
		s, c := math.Sincos(from + sweep*float64(i)/float64(n))
		points[i] = geom.Point{X: x + r*c, Y: y + r*s}
	}
	return points
}

// bulged are the inner points of the arc from a to b.
func bulged(a, b geom.Point, bulge, fine float64) []geom.Point {
	if math.Abs(bulge) > 1e3 || math.Abs(bulge) < 1e-9 {
		return nil
	}
	// The centre lies left of the chord for a left turn of less than half.
	dx, dy := b.X-a.X, b.Y-a.Y
	k := (1 - bulge*bulge) / (4 * bulge)
	x, y := (a.X+b.X)/2-dy*k, (a.Y+b.Y)/2+dx*k
	points := arc(x, y, math.Hypot(a.X-x, a.Y-y), math.Atan2(a.Y-y, a.X-x), 4*math.Atan(bulge), fine)
	if len(points) < 3 {
		return nil
	}
	return points[1 : len(points)-1]
}

// ellipse is centre, end of the longer axis from it, ratio of the axes; from and to are
// parameters (41, 42). Seen from the back it runs the other way.
func (e entity) ellipse(v []float64, fine float64) []geom.Point {
	mx, my, ratio := v[2], v[3], v[4]
	from, to := e.or(41, 0), e.or(42, 2*math.Pi)
	if to <= from {
		to += 2 * math.Pi
	}
	if e.or(230, 1) < 0 {
		ratio = -ratio
	}
	r := math.Hypot(mx, my)
	step := math.Pi / 16
	if fine < r {
		step = math.Min(step, 2*math.Acos(1-fine/r))
	}
	n := int(math.Ceil((to-from)/step)) + 1
	if n > maxPoints || r == 0 {
		return nil
	}
	points := make([]geom.Point, n+1)
	for i := range points {
		s, c := math.Sincos(from + (to-from)*float64(i)/float64(n))
		points[i] = geom.Point{X: v[0] + c*mx - s*my*ratio, Y: v[1] + c*my + s*mx*ratio}
	}
	return points
}

// spline flattens a NURBS by its knots, control points and weights (de Boor 1972), or, where it
// has only the points that it was fitted to, a natural cubic through these.
func (e entity) spline(fine float64) ([]geom.Point, string) {
	xs, okX := e.all(10)
	ys, okY := e.all(20)
	if !okX || !okY || len(xs) != len(ys) {
		return nil, "its control points are no places"
	}
	if len(xs) < 2 {
		return e.fitted(fine)
	}
	knots, okK := e.all(40)
	weights, okW := e.all(41)
	degree := int(e.or(71, 3))
	if !okK || !okW || degree < 1 || degree > 10 || len(xs) <= degree || len(knots) != len(xs)+degree+1 ||
		len(xs) > maxPoints || !slices.IsSorted(knots) {
		return nil, "its knots do not fit its control points: convert it to a polyline"
	}
	if len(weights) != len(xs) {
		weights = slices.Repeat([]float64{1}, len(xs))
	}
	at := func(u float64, span int) geom.Point {
		type hom struct{ x, y, w float64 }
		d := make([]hom, degree+1)
		for j := range d {
			k := span - degree + j
			d[j] = hom{xs[k] * weights[k], ys[k] * weights[k], weights[k]}
		}
		for r := 1; r <= degree; r++ {
			for j := degree; j >= r; j-- {
				i := span - degree + j
				t := 0.0
				if w := knots[i+degree-r+1] - knots[i]; w > 0 {
					t = (u - knots[i]) / w
				}
				d[j] = hom{(1-t)*d[j-1].x + t*d[j].x, (1-t)*d[j-1].y + t*d[j].y, (1-t)*d[j-1].w + t*d[j].w}
			}
		}
		last := d[degree]
		return geom.Point{X: last.x / last.w, Y: last.y / last.w}
	}
	var points []geom.Point
	for span := degree; span < len(xs); span++ {
		a, b := knots[span], knots[span+1]
		if b <= a {
			continue
		}
		points = append(
			points,
			flattened(func(t float64) geom.Point { return at(a+t*(b-a), span) }, fine, len(points) == 0)...)
		if len(points) > maxPoints {
			return nil, "it has too many points"
		}
	}
	for _, p := range points {
		if math.IsNaN(p.X + p.Y) {
			return nil, "its weights make no curve: convert it to a polyline"
		}
	}
	return points, ""
}

// fitted is a natural cubic through points, by the length of the chords between them.
func (e entity) fitted(fine float64) ([]geom.Point, string) {
	xs, okX := e.all(11)
	ys, okY := e.all(21)
	if !okX || !okY || len(xs) != len(ys) || len(xs) < 2 || len(xs) > maxPoints {
		return nil, "it has neither control points nor points that it goes through"
	}
	along, px, py := []float64{0}, []float64{xs[0]}, []float64{ys[0]}
	for k := 1; k < len(xs); k++ {
		l := math.Hypot(xs[k]-xs[k-1], ys[k]-ys[k-1])
		if l == 0 {
			continue
		}
		along, px, py = append(along, along[len(along)-1]+l), append(px, xs[k]), append(py, ys[k])
	}
	if len(px) < 3 {
		out := make([]geom.Point, len(px))
		for k := range px {
			out[k] = geom.Point{X: px[k], Y: py[k]}
		}
		return out, ""
	}
	var x, y interp.NaturalCubic
	if x.Fit(along, px) != nil || y.Fit(along, py) != nil {
		return nil, "no curve goes through its points: convert it to a polyline"
	}
	var points []geom.Point
	for k := 1; k < len(along); k++ {
		a, b := along[k-1], along[k]
		at := func(t float64) geom.Point { u := a + t*(b-a); return geom.Point{X: x.Predict(u), Y: y.Predict(u)} }
		points = append(points, flattened(at, fine, k == 1)...)
		if len(points) > maxPoints {
			return nil, "it has too many points"
		}
	}
	return points, ""
}

// flattened is a curve over 0 to 1 as chords that lie within a distance of it, halved until they
// do; its first point only if asked for.
func flattened(at func(float64) geom.Point, within float64, first bool) []geom.Point {
	a, b := at(0), at(1)
	var out []geom.Point
	if first {
		out = append(out, a)
	}
	var halve func(t0, t1 float64, p, q geom.Point, depth int)
	halve = func(t0, t1 float64, p, q geom.Point, depth int) {
		mid := (t0 + t1) / 2
		m := at(mid)
		near := depth >= 2 // a curve may cross its chord in the middle
		for _, t := range []float64{0.25, 0.5, 0.75} {
			near = near && at(t0+t*(t1-t0)).To(p, q) <= within
		}
		if near || depth >= 12 {
			out = append(out, q)
			return
		}
		halve(t0, mid, p, m, depth+1)
		halve(mid, t1, m, q, depth+1)
	}
	halve(0, 1, a, b, 0)
	return out
}
