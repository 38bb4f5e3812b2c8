package svg

import (
	"fmt"
	"math"
	"strings"

	"juxta/core/geom"
)

// lines are what a shape draws, in its own units; none: it is no shape.
func (n *node) lines(fine float64) ([]line, error) {
	get := func(name string, usual float64) float64 {
		if n.a[name] == "" {
			return usual
		}
		v, unit, ok := length(n.a[name])
		if !ok || unit != "" && unit != "px" {
			return math.NaN()
		}
		return v
	}
	switch n.kind {
	case "rect":
		return rect(get, fine)
	case "circle", "ellipse":
		rx, ry := get("rx", math.NaN()), get("ry", math.NaN())
		if n.kind == "circle" {
			rx = get("r", math.NaN())
			ry = rx
		}
		x, y := get("cx", 0), get("cy", 0)
		if math.IsNaN(x + y + rx + ry) {
			return nil, fmt.Errorf("its place or size is no figure, or in a unit of its own")
		}
		if rx == 0 || ry == 0 {
			return nil, nil
		}
		return paths(
			fmt.Sprintf("M%g %gA%g %g 0 0 1 %g %gA%g %g 0 0 1 %g %gz", x+rx, y, rx, ry, x-rx, y, rx, ry, x+rx, y),
			fine,
		)
	case "polygon", "polyline":
		v := numbers(n.a["points"])
		if len(v) < 4 || len(v)%2 != 0 {
			return nil, fmt.Errorf("its points are not pairs of numbers")
		}
		l := line{closed: n.kind == "polygon"}
		for i := 0; i < len(v); i += 2 {
			l.points = append(l.points, geom.Point{X: v[i], Y: v[i+1]})
		}
		return []line{l}, nil
	case "line":
		a, b := geom.Point{X: get("x1", 0), Y: get("y1", 0)}, geom.Point{X: get("x2", 0), Y: get("y2", 0)}
		if math.IsNaN(a.X+a.Y+b.X+b.Y) || a == b {
			return nil, nil
		}
		return []line{{[]geom.Point{a, b}, false}}, nil
	case "path":
		if strings.TrimSpace(n.a["d"]) == "" {
			return nil, nil
		}
		lines, err := paths(n.a["d"], fine)
		if err == nil && lines == nil {
			lines = []line{}
		}
		return lines, err
	}
	return nil, nil
}

// rect is a rectangle; get reads its attributes.
func rect(get func(name string, usual float64) float64, fine float64) ([]line, error) {
	x, y, w, h := get("x", 0), get("y", 0), get("width", math.NaN()), get("height", math.NaN())
	rx, ry := get("rx", -1), get("ry", -1)
	if math.IsNaN(x + y + w + h + rx + ry) {
		return nil, fmt.Errorf("its place or size is no figure, or in a unit of its own")
	}
	if w == 0 || h == 0 {
		return nil, nil
	}
	if rx < 0 {
		rx = ry
	}
	if ry < 0 {
		ry = rx
	}
	rx, ry = min(max(rx, 0), w/2), min(max(ry, 0), h/2)
	if rx == 0 || ry == 0 {
		return []line{
			{[]geom.Point{{X: x, Y: y}, {X: x + w, Y: y}, {X: x + w, Y: y + h}, {X: x, Y: y + h}}, true},
		}, nil
	}
	return paths(fmt.Sprintf("M%g %gH%gA%g %g 0 0 1 %g %gV%gA%g %g 0 0 1 %g %gH%gA%g %g 0 0 1 %g %gV%gA%g %g 0 0 1 "+
		"%g %gz",
		x+rx, y, x+w-rx, rx, ry, x+w, y+ry, y+h-ry, rx, ry, x+w-rx, y+h, x+rx, rx, ry, x, y+h-ry, y+ry, rx, ry, x+rx, y,
	), fine)
}
