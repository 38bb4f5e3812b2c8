package drape

import (
	"fmt"
	"math"
	"slices"
)

// Built-in surfaces, each with its dimensions by name, in m and radians.
const (
	Cylinder   = "cylinder"
	Cone       = "cone"
	SphereCap  = "sphere cap"
	Paraboloid = "paraboloid"
	Torus      = "torus segment"
	Saddle     = "saddle"
	BoxCorner  = "ramped box corner"
)

// Dim is a dimension of a built-in surface.
type Dim struct {
	Name, Called string
	Unit         string // "m" or "rad"
	Usual        float64
}

// SurfaceKind is a built-in surface.
type SurfaceKind struct {
	Kind, Called string
	Dims         []Dim
}

// Library is the surfaces there are.
var Library = []SurfaceKind{
	{Cylinder, "part of a cylinder, its axis along x", []Dim{
		{
			"radius",
			"radius",
			"m",
			0.3,
		}, {"length", "length along x", "m", 0.6}, {"angle", "angle round", "rad", math.Pi / 2},
	}},
	{Cone, "part of a cone, its axis along x", []Dim{
		{
			"first",
			"radius at x = 0",
			"m",
			0.3,
		}, {"last", "radius at the other end", "m", 0.15}, {"length", "length along x", "m", 0.6},
		{"angle", "angle round", "rad", math.Pi / 2},
	}},
	{SphereCap, "cap of a sphere, round its pole", []Dim{
		{"radius", "radius", "m", 0.4}, {"angle", "angle from pole to edge", "rad", math.Pi / 3},
	}},
	{Paraboloid, "sector of a paraboloid of revolution, its rib along y", []Dim{
		{"focal", "focal length", "m", 0.35}, {"inner", "inner radius", "m", 0.1}, {"outer", "outer radius", "m", 0.62},
		{"angle", "angle of the sector", "rad", math.Pi / 3},
	}},
	{Torus, "outer part of a torus round z", []Dim{
		{"ring", "radius of its ring", "m", 0.5}, {"tube", "radius of its tube", "m", 0.15},
		{
			"angle",
			"angle round the ring",
			"rad",
			math.Pi / 3,
		}, {"round", "angle round the tube", "rad", 2 * math.Pi / 3},
	}},
	{Saddle, "saddle, z = (x² − y²)/(2 radius)", []Dim{
		{
			"radius",
			"radius of curvature in the middle",
			"m",
			0.5,
		}, {"length", "length along x", "m", 0.5}, {"width", "width along y", "m", 0.4},
	}},
	{BoxCorner, "inner corner of a box: a floor, two walls, all edges rounded", []Dim{
		{
			"length",
			"length along x",
			"m",
			0.3,
		}, {"width", "width along y", "m", 0.25}, {"height", "height of the walls", "m", 0.08},
		{"ramp", "angle of the walls from the floor", "rad", math.Pi / 4}, {"radius", "radius of the edges", "m", 0.03},
	}},
}

// NewSurface makes a built-in surface as a mesh of about so many triangles.
func NewSurface(kind string, dims map[string]float64, triangles int) (*Mesh, error) {
	at := slices.IndexFunc(Library, func(k SurfaceKind) bool { return k.Kind == kind })
	if at < 0 {
		return nil, fmt.Errorf("%q is no surface that is known here", kind)
	}
	d := map[string]float64{}
	for _, dim := range Library[at].Dims {
		v := dims[dim.Name]
		if !(v > 0) && !(kind == Paraboloid && dim.Name == "inner" && v == 0) || math.IsInf(v, 0) {
			return nil, fmt.Errorf("the %s of a %s must be above zero", dim.Called, kind)
		}
		if dim.Unit == "m" && v > 50 {
			return nil, fmt.Errorf("the %s of a %s can be no more than 50 m", dim.Called, kind)
		}
		if dim.Unit == "rad" && v > 2*math.Pi*0.98 {
			return nil, fmt.Errorf("the %s of a %s stays below a full turn", dim.Called, kind)
		}
		d[dim.Name] = v
	}
	return built(kind, d, triangles)
}

func built(kind string, d map[string]float64, triangles int) (*Mesh, error) {
	switch kind {
	case Cylinder:
		r, half := d["radius"], d["angle"]/2
		return grid(-d["length"]/2, d["length"]/2, -half*r, half*r, triangles, func(u, v float64) Vec {
			sin, cos := math.Sincos(v / r)
			return Vec{u, r * sin, r*cos - r}
		})
	case Cone:
		half := d["angle"] / 2
		mean := (d["first"] + d["last"]) / 2
		return grid(0, d["length"], -half*mean, half*mean, triangles, func(u, v float64) Vec {
			r := d["first"] + (d["last"]-d["first"])*u/d["length"]
			sin, cos := math.Sincos(v / mean)
			return Vec{u, r * sin, r*cos - d["first"]}
		})
	case SphereCap:
		if d["angle"] > math.Pi*0.9 {
			return nil, fmt.Errorf("a cap reaches at most 162° from its pole")
		}
		r := d["radius"]
		return disc(r*d["angle"], triangles, func(u, v float64) Vec {
			l := math.Hypot(u, v)
			if l == 0 {
				return Vec{}
			}
			sin, cos := math.Sincos(l / r)
			return Vec{r * sin * u / l, r * sin * v / l, r*cos - r}
		})
	case Paraboloid:
		in, out, half, f := d["inner"], d["outer"], d["angle"]/2, d["focal"]
		if in >= out {
			return nil, fmt.Errorf("a paraboloid's inner radius lies below its outer one")
		}
		if in == 0 {
			in = out / 50
		}
		mean := (in + out) / 2
		return grid(-half*mean, half*mean, in, out, triangles, func(u, v float64) Vec {
			sin, cos := math.Sincos(u / mean)
			return Vec{v * sin, v * cos, v * v / 4 / f}
		})
	case Torus:
		ring, tube := d["ring"], d["tube"]
		if tube >= ring {
			return nil, fmt.Errorf("a torus's tube is thinner than its ring")
		}
		a, b := d["angle"]/2, d["round"]/2
		return grid(-a*ring, a*ring, -b*tube, b*tube, triangles, func(u, v float64) Vec {
			s, c := math.Sincos(v / tube)
			sin, cos := math.Sincos(u / ring)
			// The outer equator looks up.
			r := ring + tube*c
			return Vec{r * sin, tube * s, r*cos - ring - tube}
		})
	case Saddle:
		l, w := d["length"]/2, d["width"]/2
		return grid(-l, l, -w, w, triangles, func(u, v float64) Vec {
			return Vec{u, v, (u*u - v*v) / 2 / d["radius"]}
		})
	}
	return boxCorner(d, triangles)
}

// boxCorner is a floor that two walls rise from, with all edges rounded: the lower envelope of
// three planes, rolled over by a ball.
func boxCorner(d map[string]float64, triangles int) (*Mesh, error) {
	r, ramp := d["radius"], d["ramp"]
	if ramp > math.Pi*0.42 {
		return nil, fmt.Errorf("the walls of a ramped corner lean at most 75° from the floor")
	}
	foot := r * math.Tan(ramp/2) // how far before the walls' foot the rounding begins
	if foot >= min(d["length"], d["width"]) || d["height"] <= r*(1-math.Cos(ramp)) {
		return nil, fmt.Errorf("the radius of the edges leaves nothing flat: a smaller radius, or a larger box")
	}
	// A profile of the wall by the length along it, from the far end of the floor.
	sin, cos := math.Sincos(ramp)
	profile := func(floor, s float64) (x, z float64) {
		flat := floor - foot
		switch {
		case s < flat:
			return s, 0
		case s < flat+r*ramp:
			a, b := math.Sincos((s - flat) / r)
			return flat + r*a, r * (1 - b)
		}
		up := s - flat - r*ramp
		return flat + r*sin + up*cos, r*(1-cos) + up*sin
	}
	wall := (d["height"]-r*(1-cos))/sin + r*ramp
	lx, ly := d["length"]-foot+wall, d["width"]-foot+wall
	// The higher of the two walls, blended where they meet: z = √(zx² + zy²) is tangent to
	// either wall away from the corner and has no edge between them.
	return grid(0, lx, 0, ly, triangles, func(u, v float64) Vec {
		x, zx := profile(d["length"], u)
		y, zy := profile(d["width"], v)
		return Vec{x, y, math.Hypot(zx, zy)}
	})
}

// grid triangulates a patch of two parameters, as lengths, into about so many triangles.
func grid(u0, u1, v0, v1 float64, triangles int, at func(u, v float64) Vec) (*Mesh, error) {
	triangles = min(max(triangles, 200), MostTriangles)
	wide, high := u1-u0, v1-v0
	nu := max(4, int(math.Round(math.Sqrt(float64(triangles)/2*wide/high))))
	nv := max(4, int(math.Round(float64(triangles)/2/float64(nu))))
	points := make([]Vec, 0, (nu+1)*(nv+1))
	for j := range nv + 1 {
		for i := range nu + 1 {
			points = append(points, at(u0+wide*float64(i)/float64(nu), v0+high*float64(j)/float64(nv)))
		}
	}
	var all [][3]int32
	for j := range nv {
		for i := range nu {
			a := int32(j*(nu+1) + i)
			b, c, e := a+1, a+int32(nu)+1, a+int32(nu)+2
			// Diagonals in turn, so that the mesh leans no way.
			if (i+j)%2 == 0 {
				all = append(all, [3]int32{a, b, e}, [3]int32{a, e, c})
			} else {
				all = append(all, [3]int32{a, b, c}, [3]int32{b, e, c})
			}
		}
	}
	return NewMesh(points, all)
}

// disc triangulates a disc of two parameters, as lengths from its middle, in rings.
func disc(radius float64, triangles int, at func(u, v float64) Vec) (*Mesh, error) {
	triangles = min(max(triangles, 200), MostTriangles)
	rings := max(4, int(math.Round(math.Sqrt(float64(triangles)/6))))
	points := []Vec{at(0, 0)}
	var all [][3]int32
	inner, n0 := int32(0), 1
	for k := 1; k <= rings; k++ {
		n := 6 * k
		outer := int32(len(points))
		for i := range n {
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(n))
			l := radius * float64(k) / float64(rings)
			points = append(points, at(l*cos, l*sin))
		}
		for side := range 6 {
			for i := range k {
				a := outer + int32((side*k+i)%n)
				b := outer + int32((side*k+i+1)%n)
				c := inner + int32((side*(k-1)+i)%max(n0, 1))
				all = append(all, [3]int32{a, b, c})
				if i < k-1 {
					all = append(all, [3]int32{b, inner + int32((side*(k-1)+i+1)%n0), c})
				}
			}
		}
		inner, n0 = outer, n
	}
	return NewMesh(points, all)
}
