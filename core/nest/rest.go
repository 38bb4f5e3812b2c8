package nest

import (
	"math"
	"slices"

	"juxta/core/geom"
	"juxta/core/unit"
)

// restCell is the grain in which what is left is looked for, m; restLeast the narrowest that is of use.
const (
	restCell  = 0.005
	restLeast = 0.05
)

// restOf is the largest rectangle along the roll, within what is used of the sheets, on which nothing lies: to
// the grain of 5 mm, never over a piece or within the gap of one.
func restOf(p Problem, r Layout) Remnant {
	best := Remnant{Sheet: -1}
	byID := map[string]*Piece{}
	for i := range p.Pieces {
		byID[p.Pieces[i].ID] = &p.Pieces[i]
	}
	for k, s := range p.Sheets {
		nx, ny := int(r.Used[k]/restCell), int((s.Width-2*s.EdgeTrim)/restCell)
		if nx < 1 || ny < 1 {
			continue
		}
		full := make([]bool, nx*ny)
		cover := func(box geom.Box, at func(lo, hi float64) (float64, float64, bool)) {
			for row := max(0, int((box.Min.Y-s.EdgeTrim)/restCell)); row < ny; row++ {
				lo := s.EdgeTrim + float64(row)*restCell
				if lo >= box.Max.Y {
					break
				}
				from, to, any := at(lo, lo+restCell)
				if !any {
					continue
				}
				for c := max(0, int(from/restCell)); c < nx && float64(c)*restCell < to; c++ {
					full[row*nx+c] = true
				}
			}
		}
		taken := slices.Clone(s.Spoiled)
		for _, at := range r.Placements {
			if at.Sheet == k {
				taken = append(taken, PlaceOutline(byID[at.ID].Outline, at))
			}
		}
		for _, ring := range taken {
			for _, q := range convex(ring, nil) {
				box := geom.Ring(q).Bounds()
				box.Min.Y, box.Max.Y = box.Min.Y-p.Gap, box.Max.Y+p.Gap
				cover(box, func(lo, hi float64) (float64, float64, bool) {
					from, to, any := q.within(lo-p.Gap, hi+p.Gap)
					return from - p.Gap, to + p.Gap, any
				})
			}
		}
		for _, f := range s.Flaws {
			low, high := f.Low, f.High
			if low == 0 && high == 0 {
				high = s.Width
			}
			box := geom.Box{Min: geom.Point{X: f.From, Y: low}, Max: geom.Point{X: f.To, Y: high}}
			cover(box, func(float64, float64) (float64, float64, bool) { return f.From, f.To, true })
		}
		if box, found := largest(full, nx, ny, int(math.Ceil(restLeast/restCell))); found {
			box.Min.Y, box.Max.Y = box.Min.Y+s.EdgeTrim, box.Max.Y+s.EdgeTrim
			if best.Sheet < 0 || box.Width()*box.Height() > best.Area() {
				best = Remnant{
					k,
					unit.RoundLength(box.Min.X),
					unit.RoundLength(box.Min.Y),
					unit.RoundLength(box.Width()),
					unit.RoundLength(box.Height()),
				}
			}
		}
	}
	if best.Sheet < 0 {
		return Remnant{}
	}
	return best
}

// Area of the rectangle, m².
func (r Remnant) Area() float64 { return r.Width * r.Height }

// within is the extent along x of a convex part between two levels.
func (q part) within(lo, hi float64) (from, to float64, any bool) {
	from, to = math.Inf(1), math.Inf(-1)
	for k, a := range q {
		b := q[(k+1)%len(q)]
		if max(a.Y, b.Y) < lo || min(a.Y, b.Y) > hi {
			continue
		}
		for _, y := range [2]float64{max(lo, min(a.Y, b.Y)), min(hi, max(a.Y, b.Y))} {
			x := a.X
			if a.Y != b.Y {
				x += (y - a.Y) / (b.Y - a.Y) * (b.X - a.X)
			} else {
				from, to = min(from, b.X), max(to, b.X)
			}
			from, to = min(from, x), max(to, x)
		}
	}
	return from, to, from <= to
}

// largest is the largest rectangle of empty cells at least so many wide both ways: row by row, over the
// heights of what is empty below (the largest rectangle in a histogram by a stack).
func largest(full []bool, nx, ny, least int) (geom.Box, bool) {
	height := make([]int, nx+1) // the last stays zero
	type bar struct{ from, height int }
	var stack []bar
	best, box := 0, geom.Box{}
	for row := range ny {
		stack = stack[:0]
		for c := range nx + 1 {
			if c < nx {
				if full[row*nx+c] {
					height[c] = 0
				} else {
					height[c]++
				}
			}
			from := c
			for len(stack) > 0 && stack[len(stack)-1].height >= height[c] {
				top := stack[len(stack)-1]
				stack = stack[:len(stack)-1]
				from = top.from
				if w, h := c-top.from, top.height; w >= least && h >= least && w*h > best {
					best = w * h
					box = geom.Box{
						Min: geom.Point{X: float64(top.from) * restCell, Y: float64(row-h+1) * restCell},
						Max: geom.Point{X: float64(c) * restCell, Y: float64(row+1) * restCell},
					}
				}
			}
			stack = append(stack, bar{from, height[c]})
		}
	}
	return box, best > 0
}
