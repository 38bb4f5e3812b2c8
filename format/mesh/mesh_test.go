package mesh

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/drape"
)

func surface(t testing.TB, triangles int) *drape.Mesh {
	t.Helper()
	m, err := drape.NewSurface(drape.SphereCap, map[string]float64{"radius": 0.4, "angle": 1}, triangles)
	require.NoError(t, err)
	return m
}

// binaryOf and textOf write a surface in mm, as the format has it.
func binaryOf(m *drape.Mesh) []byte {
	var b bytes.Buffer
	head := [80]byte{}
	copy(head[:], "solid made by a test")
	b.Write(head[:])
	_ = binary.Write(&b, binary.LittleEndian, uint32(len(m.Triangles)))
	for _, c := range m.Triangles {
		var f [12]float32
		for k, p := range c {
			v := m.Points[p].Times(1e3)
			f[3+3*k], f[4+3*k], f[5+3*k] = float32(v.X), float32(v.Y), float32(v.Z)
		}
		_ = binary.Write(&b, binary.LittleEndian, f)
		b.Write([]byte{0, 0})
	}
	return b.Bytes()
}

func textOf(m *drape.Mesh) string {
	var b strings.Builder
	b.WriteString("solid cap\n")
	for _, c := range m.Triangles {
		b.WriteString(" facet normal 0 0 0\n  outer loop\n")
		for _, p := range c {
			v := m.Points[p].Times(1e3)
			fmt.Fprintf(&b, "   vertex %e %e %e\n", v.X, v.Y, v.Z)
		}
		b.WriteString("  endloop\n endfacet\n")
	}
	return b.String() + "endsolid cap\n"
}

func objOf(m *drape.Mesh) string {
	var b strings.Builder
	b.WriteString("# a cap\no cap\n")
	for _, p := range m.Points {
		v := p.Times(1e3)
		fmt.Fprintf(&b, "v %.6f %.6f %.6f\n", v.X, v.Y, v.Z)
	}
	for _, c := range m.Triangles {
		fmt.Fprintf(&b, "f %d/1/1 %d//2 %d\n", c[0]+1, c[1]+1, int(c[2])-len(m.Points))
	}
	return b.String()
}

// A surface that is written comes back, whatever the format, with its points merged.
func TestASurfaceComesBack(t *testing.T) {
	m := surface(t, 2000)
	for name, raw := range map[string][]byte{
		"binary STL": binaryOf(m), "STL as text": []byte(textOf(m)), "OBJ": []byte(objOf(m)),
		"OBJ of Windows": []byte("\xef\xbb\xbf" + strings.ReplaceAll(objOf(m), "\n", "\r\n")),
	} {
		raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
		got, err := Read(raw, "mm")
		require.NoError(t, err, name)
		assert.Len(t, got.Points, len(m.Points), name)
		assert.Len(t, got.Triangles, len(m.Triangles), name)
		assert.InEpsilon(t, m.Area(), got.Area(), 1e-5, name)
	}
	inches, err := Read(binaryOf(m), "inch")
	require.NoError(t, err)
	assert.InEpsilon(t, m.Area()*25.4*25.4, inches.Area(), 1e-5)
}

func TestWhatCannotBeRead(t *testing.T) {
	m := surface(t, 300)
	for _, c := range []struct{ says, unit, raw string }{
		{"no unit that is read", "furlong", objOf(m)},
		{"no faces", "mm", "hello" + strings.Repeat(" ", 0) + "\n"},
		{"line 3: \"one\" is no figure", "mm", "v 0 0 0\nv 1 0 0\nv one 0 0\n"},
		{"line 2: \"9\" names no point", "mm", "v 0 0 0\nf 1 1 9\n"},
		{"a face has 3 to 64 corners", "mm", "v 0 0 0\nf 1 1\n"},
		{"free-form surfaces are not read", "mm", "v 0 0 0\nsurf 0 1 0 1\n"},
		{"no figure", "mm", "solid a\nfacet\nvertex 1 2 NaN\n"},
		{"in the middle of a facet", "mm", "solid a\nfacet\nvertex 1 2 3\n"},
		{"a facet of 2 corners", "mm", "solid a\nfacet\nvertex 1 2 3\nvertex 1 2 4\nendfacet\n"},
		{"cut short", "mm", string(binaryOf(m)[:1000])},
		{"was the right unit chosen", "m", objOf(m)},
	} {
		if c.says == "no faces" {
			c.raw = "# nothing\n"
		}
		_, err := Read([]byte(c.raw), c.unit)
		require.ErrorContains(t, err, c.says)
	}
	_, err := Read(make([]byte, MaxSize+1), "mm")
	require.ErrorContains(t, err, "at most 128 MB are read")
}

func FuzzRead(f *testing.F) {
	m, err := drape.NewMesh([]drape.Vec{{}, {X: 1}, {X: 1, Y: 1}, {Y: 1}}, [][3]int32{{0, 1, 2}, {0, 2, 3}})
	require.NoError(f, err)
	f.Add(binaryOf(m))
	f.Add([]byte(textOf(m)))
	f.Add([]byte(objOf(m)))
	f.Add([]byte("solid\nfacet\nvertex 1 1 1\n"))
	f.Add([]byte("v 0 0 0\nv 1 0 0\nv 0 1 0\nf -1 -2 -3\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		got, err := Read(raw, "mm")
		if err != nil {
			return
		}
		assert.False(t, math.IsNaN(got.Area()))
	})
}

// BenchmarkRead imports a binary STL of 20 MB.
func BenchmarkRead(b *testing.B) {
	raw := binaryOf(surface(b, 420_000))
	b.SetBytes(int64(len(raw)))
	b.ReportAllocs()
	for b.Loop() {
		_, err := Read(raw, "mm")
		require.NoError(b, err)
	}
}
