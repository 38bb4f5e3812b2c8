package svg

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"juxta/core/geom"
)

// line is a subpath: closed where its data say so.
type line struct {
	points []geom.Point
	closed bool
}

// paths reads the data of a path (SVG 1.1, chapter 8) into lines whose chords lie within a
// distance of its curves.
func paths(data string, fine float64) ([]line, error) {
	s := &scanner{text: data}
	var all []line
	var now line
	var at, begin, control geom.Point // control is the last one of a curve, mirrored by S and T
	command, before := byte(0), byte(0)
	end := func(closed bool) {
		if len(now.points) > 1 {
			now.closed = closed
			all = append(all, now)
		}
		now = line{}
	}
	for {
		if c, ok := s.letter(); ok {
			command = c
		} else if s.end() {
			break
		} else if command == 0 || command|0x20 == 'z' {
			return nil, fmt.Errorf("its data cannot be read at character %d", s.at+1)
		}
		from := at
		if command < 'a' {
			from = geom.Point{}
		}
		if len(now.points) == 0 && command|0x20 != 'm' && command|0x20 != 'z' {
			now.points = append(now.points, at) // after a close it goes on from where that was
		}
		do := command | 0x20
		take := func(n int) ([]geom.Point, error) {
			v, err := s.take(2 * n)
			if err != nil {
				return nil, err
			}
			out := make([]geom.Point, n)
			for k := range out {
				out[k] = geom.Point{X: from.X + v[2*k], Y: from.Y + v[2*k+1]}
			}
			return out, nil
		}
		mirrored := func(kinds string) geom.Point {
			if strings.IndexByte(kinds, before|0x20) < 0 {
				return at
			}
			return geom.Point{X: 2*at.X - control.X, Y: 2*at.Y - control.Y}
		}
		var err error
		var p []geom.Point
		switch do {
		case 'm':
			if p, err = take(1); err == nil {
				end(false)
				at, begin = p[0], p[0]
				now.points = append(now.points, at)
				command-- // what follows a move is a line
			}
		case 'l':
			if p, err = take(1); err == nil {
				at = p[0]
				now.points = append(now.points, at)
			}
		case 'h', 'v':
			var v []float64
			if v, err = s.take(1); err == nil {
				if do == 'h' {
					at.X = from.X + v[0]
				} else {
					at.Y = from.Y + v[0]
				}
				now.points = append(now.points, at)
			}
		case 'c':
			if p, err = take(3); err == nil {
				now.points = append(now.points, cubic(at, p[0], p[1], p[2], fine)...)
				control, at = p[1], p[2]
			}
		case 's':
			if p, err = take(2); err == nil {
				now.points = append(now.points, cubic(at, mirrored("cs"), p[0], p[1], fine)...)
				control, at = p[0], p[1]
			}
		case 'q':
			if p, err = take(2); err == nil {
				now.points = append(now.points, quadratic(at, p[0], p[1], fine)...)
				control, at = p[0], p[1]
			}
		case 't':
			if p, err = take(1); err == nil {
				control = mirrored("qt")
				now.points = append(now.points, quadratic(at, control, p[0], fine)...)
				at = p[0]
			}
		case 'a':
			var v []float64
			if v, err = s.arc(); err == nil {
				to := geom.Point{X: from.X + v[5], Y: from.Y + v[6]}
				now.points = append(
					now.points,
					elliptic(at, to, v[0], v[1], v[2]*math.Pi/180, v[3] != 0, v[4] != 0, fine)...)
				at = to
			}
		case 'z':
			end(true)
			at = begin
		default:
			err = fmt.Errorf("its data cannot be read at character %d", s.at)
		}
		if err != nil {
			return nil, err
		}
		if before = command; do == 'm' {
			before = 'm'
		}
		if len(now.points) > MaxCorners || len(all) > MaxOutlines {
			return nil, fmt.Errorf("it has more than %d points, or more than %d outlines", MaxCorners, MaxOutlines)
		}
	}
	end(false)
	return all, nil
}

func cubic(a, b, c, d geom.Point, fine float64) []geom.Point {
	// A polygon of n chords lies within max|second difference|·(3/4)/n² of the curve.
	dd := max(math.Hypot(a.X-2*b.X+c.X, a.Y-2*b.Y+c.Y), math.Hypot(b.X-2*c.X+d.X, b.Y-2*c.Y+d.Y))
	n := pieces(0.75*dd, fine)
	out := make([]geom.Point, n)
	for k := range out {
		t := float64(k+1) / float64(n)
		u := 1 - t
		e, f, g, h := u*u*u, 3*u*u*t, 3*u*t*t, t*t*t
		out[k] = geom.Point{X: e*a.X + f*b.X + g*c.X + h*d.X, Y: e*a.Y + f*b.Y + g*c.Y + h*d.Y}
	}
	return out
}

func quadratic(a, b, c geom.Point, fine float64) []geom.Point {
	n := pieces(math.Hypot(a.X-2*b.X+c.X, a.Y-2*b.Y+c.Y)/4, fine)
	out := make([]geom.Point, n)
	for k := range out {
		t := float64(k+1) / float64(n)
		u := 1 - t
		out[k] = geom.Point{X: u*u*a.X + 2*u*t*b.X + t*t*c.X, Y: u*u*a.Y + 2*u*t*b.Y + t*t*c.Y}
	}
	return out
}

// pieces is how many chords lie within a distance, where one lies off by so much.
func pieces(off, fine float64) int {
	n := math.Ceil(math.Sqrt(off / fine))
	if math.IsNaN(n) || n < 1 {
		return 1
	}
	return int(min(n, 720))
}

// elliptic is an arc by its ends, as the format gives it, without the first
// point (SVG 1.1, appendix F.6.5).
func elliptic(p, q geom.Point, rx, ry, turn float64, large, sweep bool, fine float64) []geom.Point {
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx < 1e-9 || ry < 1e-9 || p == q {
		return []geom.Point{q}
	}
	sin, cos := math.Sincos(turn)
	dx, dy := (p.X-q.X)/2, (p.Y-q.Y)/2
	x1, y1 := cos*dx+sin*dy, -sin*dx+cos*dy
	if l := x1*x1/(rx*rx) + y1*y1/(ry*ry); l > 1 {
		rx, ry = rx*math.Sqrt(l), ry*math.Sqrt(l)
	}
	k := math.Sqrt(max(0, (rx*rx*ry*ry-rx*rx*y1*y1-ry*ry*x1*x1)/(rx*rx*y1*y1+ry*ry*x1*x1)))
	if large == sweep {
		k = -k
	}
	cx1, cy1 := k*rx*y1/ry, -k*ry*x1/rx
	cx, cy := cos*cx1-sin*cy1+(p.X+q.X)/2, sin*cx1+cos*cy1+(p.Y+q.Y)/2
	from := math.Atan2((y1-cy1)/ry, (x1-cx1)/rx)
	by := math.Atan2((-y1-cy1)/ry, (-x1-cx1)/rx) - from
	if sweep && by < 0 {
		by += 2 * math.Pi
	}
	if !sweep && by > 0 {
		by -= 2 * math.Pi
	}
	// A chord over an angle lies r·angle²/8 off.
	n := max(2, pieces(max(rx, ry)*by*by/8, fine))
	out := make([]geom.Point, 0, n)
	for i := 1; i < n; i++ {
		s, c := math.Sincos(from + by*float64(i)/float64(n))
		out = append(out, geom.Point{X: cx + rx*c*cos - ry*s*sin, Y: cy + rx*c*sin + ry*s*cos})
	}
	return append(out, q)
}

type scanner struct {
	text string
	at   int
}

func (s *scanner) skip() {
	for s.at < len(s.text) && strings.IndexByte(" \t\r\n\f,", s.text[s.at]) >= 0 {
		s.at++
	}
}

func (s *scanner) end() bool { s.skip(); return s.at >= len(s.text) }

func (s *scanner) letter() (byte, bool) {
	if s.end() {
		return 0, false
	}
	c := s.text[s.at]
	if c|0x20 >= 'a' && c|0x20 <= 'z' && c|0x20 != 'e' {
		s.at++
		return c, true
	}
	return 0, false
}

func (s *scanner) take(n int) ([]float64, error) {
	out := make([]float64, n)
	for i := range out {
		v, err := s.figure()
		if err != nil {
			return nil, err
		}
		out[i] = v
	}
	return out, nil
}

func (s *scanner) figure() (float64, error) {
	s.skip()
	start, exponent := s.at, false
	for s.at < len(s.text) {
		c := s.text[s.at]
		sign := (c == '-' || c == '+') && s.at > start && s.text[s.at-1]|0x20 != 'e'
		if sign || strings.IndexByte("+-.0123456789eE", c) < 0 ||
			c == '.' && (exponent || strings.Contains(s.text[start:s.at], ".")) || c|0x20 == 'e' && exponent {
			break
		}
		exponent = exponent || c|0x20 == 'e'
		s.at++
	}
	v, err := strconv.ParseFloat(s.text[start:s.at], 64)
	if err != nil || math.IsNaN(v) || math.Abs(v) > 1e7 {
		return 0, fmt.Errorf("its data cannot be read at character %d", start+1)
	}
	return v, nil
}

// arc takes the seven figures of an arc: its two flags are single characters, which need nothing
// between them.
func (s *scanner) arc() ([]float64, error) {
	out := make([]float64, 7)
	for i := range out {
		if i == 3 || i == 4 {
			if s.end() || s.text[s.at] != '0' && s.text[s.at] != '1' {
				return nil, fmt.Errorf("its data cannot be read at character %d", s.at+1)
			}
			out[i] = float64(s.text[s.at] - '0')
			s.at++
			continue
		}
		v, err := s.figure()
		if err != nil {
			return nil, err
		}
		out[i] = v
	}
	return out, nil
}
