package dxf

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
)

// drawing wraps entities, given as "code value" lines, in a file.
func drawing(units string, entities ...string) []byte {
	lines := []string{}
	if units != "" {
		lines = append(lines, "0 SECTION", "2 HEADER", "9 $INSUNITS", "70 "+units, "0 ENDSEC")
	}
	lines = append(lines, "0 SECTION", "2 ENTITIES")
	for _, e := range entities {
		lines = append(lines, strings.Split(e, "|")...)
	}
	lines = append(lines, "0 ENDSEC", "0 EOF")
	return []byte(strings.ReplaceAll(strings.Join(lines, "\n"), " ", "\n") + "\n")
}

const square = "0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 100|20 0|10 100|20 50|10 0|20 50"

func read(t *testing.T, raw []byte) geom.Ring {
	t.Helper()
	d, faults := Read(raw, 0)
	require.Empty(t, faults)
	require.Contains(t, d.Outlines, "full")
	return d.Outlines["full"]
}

func TestUnitsHeaderIsHonoured(t *testing.T) {
	for units, scale := range map[string]float64{"1": 0.0254, "2": 0.3048, "4": 1e-3, "5": 1e-2, "6": 1} {
		assert.InDelta(t, 100*50*scale*scale, read(t, drawing(units, square)).Area(), 1e-9, units)
	}
	d, faults := Read(drawing("", square), 0.0254)
	require.Empty(t, faults)
	assert.InDelta(t, 5000*0.0254*0.0254, d.Outlines["full"].Area(), 1e-9, "the unit chosen by hand")
	d, faults = Read(drawing("4", square), 0.0254)
	require.Empty(t, faults)
	assert.InDelta(t, 0.005, d.Outlines["full"].Area(), 1e-9, "the header wins over the choice")
}

// Closed forms: circle, half-circle bulge (±1) and quarter-circle bulge
// (tan 22.5°) on a unit square of 100 mm.
func TestArcsAgainstClosedForms(t *testing.T) {
	const side, tol = 0.1, 4e-5
	quarter := fmt.Sprint(math.Tan(math.Pi / 8))
	for name, c := range map[string]struct {
		entities []string
		want     float64
	}{
		"circle": {[]string{"0 CIRCLE|8 full|10 5|20 5|40 100"}, math.Pi * side * side},
		"half circle out": {[]string{"0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 100|20 0|42 1|10 100|20 100|10 0|20 " +
			"100"}, side*side + math.Pi*side*side/8},
		"half circle in": {[]string{"0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 100|20 0|42 -1|10 100|20 100|10 0|20 " +
			"100"}, side*side - math.Pi*side*side/8},
		"quarter circle": {[]string{"0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 100|20 " +
			"0|42 " + quarter + "|10 0|20 100"}, math.Pi * side * side / 4},
		"lines and an arc": {[]string{
			"0 LINE|8 full|10 0|20 0|11 100|21 0", "0 LINE|8 full|10 0|20 100|11 0|21 0",
			"0 ARC|8 full|10 0|20 0|40 100|50 0|51 90",
		}, math.Pi * side * side / 4},
		"arc over the start": {[]string{
			"0 ARC|8 full|10 0|20 0|40 100|50 270|51 90", "0 LINE|8 full|10 0|20 100|11 0|21 -100",
		}, math.Pi * side * side / 2},
	} {
		ring := read(t, drawing("4", c.entities...))
		assert.InDelta(t, c.want, ring.Area(), tol, name)
		assert.Positive(t, ring.SignedArea(), "anticlockwise")
	}
}

func TestTextAndOtherLayersDoNotDisturb(t *testing.T) {
	d, faults := Read(drawing("4", square, "0 TEXT|8 full|10 1|20 1|1 note", "0 CIRCLE|8 patch|10 0|20 0|40 9"), 0)
	require.Empty(t, faults)
	assert.Len(t, d.Outlines, 2)
}

func TestFaultsNameTheEntity(t *testing.T) {
	for says, raw := range map[string][]byte{
		"this is not a DXF file": []byte("hello\nthere\n"),
		"this is not a text DXF": []byte("AB\x00\x01"),
		"does not say its unit":  drawing("", square),
		"line 8: the unit 3":     drawing("3", square),
		"no outline":             drawing("4"),
		`SPLINE on layer "full" (line 16): this entity is not`: drawing("4", "0 SPLINE|8 full"),
		`LINE on layer "full"`:                                 drawing("4", "0 LINE|8 full|10 0|20 0|11 5|21 5"),
		"the outline does not close: it ends at (5.000, 5.000": drawing("4", "0 LINE|8 full|10 0|20 0|11 5|21 5"),
		"group 40 is missing":                                  drawing("4", "0 CIRCLE|8 full|10 0|20 0"),
		"radius is not above zero":                             drawing("4", "0 CIRCLE|8 full|10 0|20 0|40 -1"),
		"already has an outline":                               drawing("4", square, "0 CIRCLE|8 full|10 0|20 0|40 9"),
		"touches or crosses itself": drawing("4", "0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 "+
			"10|20 10|10 10|20 0|10 0|20 9"),
		"drawn on the back": drawing("4", square+"|230 -1"),
		"is no number":      drawing("4", strings.Replace(square, "10 100", "10 wide", 1)),
	} {
		d, faults := Read(raw, 0)
		assert.Nil(t, d, says)
		require.NotEmpty(t, faults, says)
		assert.Contains(t, faults[0], says)
	}
}

func TestWhatIsWrittenReadsBackTheSame(t *testing.T) {
	ring := read(t, drawing("4", square))
	var file bytes.Buffer
	require.NoError(
		t,
		Write(&file, []Piece{{Outline: ring, Label: "SP-02 · 0001 · 4", At: geom.Point{X: 0.01, Y: 0.01}, Height: 0.01}}),
	)
	back, faults := Read(file.Bytes(), 0)
	require.Empty(t, faults)
	assert.Equal(t, ring, back.Outlines["CUT"])
}

// Two independent readers from the npm registry, dxf-parser and dxf, must read
// what we write: count, layer, coordinates, closed flag, label.
func TestIndependentReadersReadOurFiles(t *testing.T) {
	web, err := filepath.Abs("../../web")
	require.NoError(t, err)
	require.DirExists(t, filepath.Join(web, "node_modules", "dxf-parser"), "run npm ci in web first, as ./test does")
	pieces := []Piece{
		{
			Outline: geom.Ring{{X: 0, Y: 0}, {X: 0.5, Y: 0}, {X: 0.5, Y: 0.28}, {X: 0, Y: 0.28}},
			Label:   "SP-02 0001 4",
			At:      geom.Point{X: 0.2, Y: 0.1},
			Height:  0.012,
		},
		{Outline: geom.Ring{{X: 0.6, Y: 0.01}, {X: 0.9, Y: 0.01}, {X: 0.7, Y: 0.2345}}},
	}
	file := filepath.Join(t.TempDir(), "nest.dxf")
	f, err := os.Create(file)
	require.NoError(t, err)
	require.NoError(t, Write(f, pieces))
	require.NoError(t, f.Close())

	script := `
import fs from "node:fs"; import { createRequire } from "node:module";
const require = createRequire(process.argv[1] + "/package.json");
const text = fs.readFileSync(process.argv[2], "utf8");
const Parser = require("dxf-parser"); const one = new (Parser.default ?? Parser)().parseSync(text);
const { Helper } = require("dxf"); const two = new Helper(text).parsed;
const lines = (es) => es.filter((e) => e.type === "LWPOLYLINE")
				.map((e) => ({ layer: e.layer, closed: !!(e.shape ?? e.closed), points: e.vertices.map((v) => [v.x, v.y]) }));
const label = (es) => es.filter((e) => e.type === "TEXT").map((e) => [e.layer, e.text ?? e.string]);
console.log(JSON.stringify({ units: one.header.$INSUNITS, a: lines(one.entities), b: lines(two.entities),
				text: label(one.entities) }));`
	out, err := exec.Command("node", "--input-type=module", "-e", script, web, file).Output()
	require.NoError(t, err)
	type line struct {
		Layer  string
		Closed bool
		Points [][2]float64
	}
	var got struct {
		Units int
		A, B  []line
		Text  [][2]string
	}
	require.NoError(t, json.Unmarshal(out, &got), string(out))
	assert.Equal(t, 4, got.Units)
	assert.Equal(t, [][2]string{{"MARK", "SP-02 0001 4"}}, got.Text)
	for _, lines := range [][]line{got.A, got.B} {
		require.Len(t, lines, 2)
		for i, l := range lines {
			assert.Equal(t, "CUT", l.Layer)
			assert.True(t, l.Closed)
			require.Len(t, l.Points, len(pieces[i].Outline))
			for k, p := range l.Points {
				assert.InDelta(t, pieces[i].Outline[k].X*1e3, p[0], 1e-3)
				assert.InDelta(t, pieces[i].Outline[k].Y*1e3, p[1], 1e-3)
			}
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(drawing("4", square))
	f.Add(drawing("1", "0 CIRCLE|8 full|10 5|20 5|40 100"))
	f.Add(drawing("6", "0 LINE|8 a|10 0|20 0|11 1|21 0", "0 ARC|8 a|10 0.5|20 0|40 0.5|50 0|51 180"))
	f.Add(drawing("4", "0 LWPOLYLINE|8 b|70 1|10 0|20 0|42 1e300|10 1|20 1|42 -0.5|10 3|20 0"))
	f.Add([]byte("0\nSECTION\n2\nENTITIES\n0\nARC\n40\nNaN\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		d, faults := Read(raw, 1e-3)
		if (d == nil) == (len(faults) == 0) {
			t.Fatal("either a drawing or faults")
		}
		if d == nil {
			return
		}
		for layer, ring := range d.Outlines {
			if err := ring.Check(); err != nil {
				t.Fatalf("%s passed and is none: %v", layer, err)
			}
		}
	})
}

// Outlines on layers of their own come back under the layers' names, but for
// characters that the format keeps for itself.
func TestOutlinesComeBackOnTheirLayers(t *testing.T) {
	var out bytes.Buffer
	require.NoError(
		t,
		Write(
			&out,
			[]Piece{
				{Outline: geom.Rect(0.4, 0.3), Layer: "full"},
				{Outline: geom.Rect(0.1, 0.05).Move(0.2, -0.1), Layer: "pad: 2/3"},
				{Outline: geom.Rect(0.02, 0.02)},
			},
		),
	)
	read, faults := Read(out.Bytes(), 0)
	require.Empty(t, faults)
	require.Len(t, read.Outlines, 3)
	assert.InDelta(t, 0.12, read.Outlines["full"].Area(), 1e-9)
	assert.InDelta(t, 0.005, read.Outlines["pad_ 2_3"].Area(), 1e-9)
	assert.InDelta(t, 0.0004, read.Outlines["CUT"].Area(), 1e-9)
	assert.InDelta(t, -0.1, read.Outlines["pad_ 2_3"].Bounds().Min.Y, 1e-9)
}
