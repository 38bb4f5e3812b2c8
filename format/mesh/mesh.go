package mesh

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"

	"juxta/core/drape"
)

// MaxSize is how large a file may be, in bytes.
const MaxSize = 128 << 20

// Units are those that a file may be in, m.
var Units = map[string]float64{"mm": 1e-3, "cm": 1e-2, "m": 1, "inch": 0.0254}

// Read reads a surface in a unit. What cannot be read is told by its line or triangle, what
// cannot be draped over is a [*drape.Fault] with its place.
func Read(raw []byte, unit string) (*drape.Mesh, error) {
	scale, known := Units[unit]
	if !known {
		return nil, fmt.Errorf("%q is no unit that is read: mm, cm, m and inch are", unit)
	}
	if len(raw) > MaxSize {
		return nil, fmt.Errorf("the file has %.0f MB, at most %d MB are read: export the surface coarser",
			float64(len(raw))/(1<<20), MaxSize>>20)
	}
	points, triangles, err := parse(raw)
	if err != nil {
		return nil, err
	}
	for k := range points {
		points[k] = points[k].Times(scale)
	}
	return drape.NewMesh(points, triangles)
}

func parse(raw []byte) ([]drape.Vec, [][3]int32, error) {
	if n, ok := binarySTL(raw); ok {
		return readBinary(raw, n)
	}
	if bytes.IndexByte(raw[:min(len(raw), 4096)], 0) >= 0 {
		return nil, nil, fmt.Errorf("this is neither an STL nor an OBJ file, or it is cut short")
	}
	text := bytes.TrimLeft(bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf")), " \t\r\n")
	if bytes.HasPrefix(bytes.ToLower(text[:min(len(text), 5)]), []byte("solid")) {
		return readText(raw)
	}
	return readOBJ(raw)
}

// binarySTL says how many triangles a binary STL has: its length says so, for text may begin
// like one.
func binarySTL(raw []byte) (int, bool) {
	if len(raw) < 84 {
		return 0, false
	}
	n := binary.LittleEndian.Uint32(raw[80:84])
	return int(n), int64(len(raw)) == 84+50*int64(n) && n > 0
}

func readBinary(raw []byte, n int) ([]drape.Vec, [][3]int32, error) {
	if n > drape.MostTriangles {
		return nil, nil, fmt.Errorf(
			"the surface has %d triangles, at most %d are read: export it coarser",
			n,
			drape.MostTriangles,
		)
	}
	points, triangles := make([]drape.Vec, 0, 3*n), make([][3]int32, 0, n)
	at := func(b []byte) float64 { return float64(math.Float32frombits(binary.LittleEndian.Uint32(b))) }
	for k := range n {
		b := raw[84+50*k+12:]
		for c := range 3 {
			p := drape.Vec{X: at(b[12*c:]), Y: at(b[12*c+4:]), Z: at(b[12*c+8:])}
			points = append(points, p)
		}
		i := int32(3 * k)
		triangles = append(triangles, [3]int32{i, i + 1, i + 2})
	}
	return points, triangles, nil
}

// lines goes over the words of every line.
func lines(raw []byte, do func(line int, words []string) error) error {
	for line := 1; len(raw) > 0; line++ {
		text := raw
		if k := bytes.IndexByte(raw, '\n'); k >= 0 {
			text, raw = raw[:k], raw[k+1:]
		} else {
			raw = nil
		}
		if words := strings.Fields(string(text)); len(words) > 0 {
			if err := do(line, words); err != nil {
				return err
			}
		}
	}
	return nil
}

func place(line int, words []string) (drape.Vec, error) {
	var v [3]float64
	if len(words) < 3 {
		return drape.Vec{}, fmt.Errorf("line %d: a place has three figures", line)
	}
	for k := range v {
		f, err := strconv.ParseFloat(words[k], 64)
		if err != nil || math.IsNaN(f) || math.IsInf(f, 0) || math.Abs(f) > 1e9 {
			return drape.Vec{}, fmt.Errorf("line %d: %.20q is no figure", line, words[k])
		}
		v[k] = f
	}
	return drape.Vec{X: v[0], Y: v[1], Z: v[2]}, nil
}

func readText(raw []byte) ([]drape.Vec, [][3]int32, error) {
	var points []drape.Vec
	var triangles [][3]int32
	corners := 0
	err := lines(raw, func(line int, words []string) error {
		switch strings.ToLower(words[0]) {
		case "vertex":
			p, err := place(line, words[1:])
			if err != nil {
				return err
			}
			points = append(points, p)
			corners++
		case "endfacet", "facet":
			if corners != 0 && corners != 3 {
				return fmt.Errorf("line %d: a facet of %d corners: STL has triangles", line, corners)
			}
			if corners == 3 {
				i := int32(len(points) - 3)
				triangles = append(triangles, [3]int32{i, i + 1, i + 2})
			}
			corners = 0
			if len(triangles) > drape.MostTriangles {
				return fmt.Errorf("the surface has more than %d triangles: export it coarser", drape.MostTriangles)
			}
		case "solid", "outer", "endloop", "endsolid":
		default:
			return fmt.Errorf("line %d: %.20q is no word of an STL file", line, words[0])
		}
		return nil
	})
	if err == nil && corners != 0 {
		err = fmt.Errorf("the file ends in the middle of a facet")
	}
	return points, triangles, err
}

// mostSides is how many sides a face of an OBJ file may have.
const mostSides = 64

func readOBJ(raw []byte) ([]drape.Vec, [][3]int32, error) {
	var points []drape.Vec
	var triangles [][3]int32
	err := lines(raw, func(line int, words []string) error {
		switch words[0] {
		case "v":
			p, err := place(line, words[1:])
			if err != nil {
				return err
			}
			points = append(points, p)
		case "f":
			if len(words) < 4 || len(words) > mostSides+1 {
				return fmt.Errorf("line %d: a face has 3 to %d corners", line, mostSides)
			}
			corners := make([]int32, 0, len(words)-1)
			for _, w := range words[1:] {
				// corner/texture/normal: the first counts; below 0 from the end.
				n, err := strconv.Atoi(strings.SplitN(w, "/", 2)[0])
				if n < 0 {
					n += len(points) + 1
				}
				if err != nil || n < 1 || n > len(points) {
					return fmt.Errorf("line %d: %.20q names no point before it", line, w)
				}
				corners = append(corners, int32(n-1))
			}
			for k := 1; k+1 < len(corners); k++ {
				triangles = append(triangles, [3]int32{corners[0], corners[k], corners[k+1]})
			}
			if len(triangles) > drape.MostTriangles {
				return fmt.Errorf("the surface has more than %d triangles: export it coarser", drape.MostTriangles)
			}
		case "vt",
			"vn",
			"vp",
			"g",
			"o",
			"s",
			"l",
			"p",
			"usemtl",
			"mtllib",
			"usemap",
			"bevel",
			"c_interp",
			"d_interp",
			"lod",
			"shadow_obj",
			"trace_obj",
			"deg",
			"cstype":
		case "curv", "curv2", "surf", "end", "parm", "trim", "hole", "scrv", "sp", "bmat", "step", "con":
			return fmt.Errorf("line %d: curves and free-form surfaces are not read: export triangles", line)
		default:
			if !strings.HasPrefix(words[0], "#") {
				return fmt.Errorf("line %d: %.20q is no word of an OBJ file", line, words[0])
			}
		}
		return nil
	})
	if err == nil && len(triangles) == 0 {
		err = fmt.Errorf("the file has no faces: this is no OBJ or STL surface")
	}
	return points, triangles, err
}
