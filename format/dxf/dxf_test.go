package dxf

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
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
	return d.named(t, "full").Ring
}

func (d *Drawing) named(t *testing.T, name string) Outline {
	t.Helper()
	for _, o := range d.Outlines {
		if o.Name == name {
			return o
		}
	}
	require.Failf(t, "no such outline", "%q is not among %d outlines", name, len(d.Outlines))
	return Outline{}
}

func TestUnitsHeaderIsHonoured(t *testing.T) {
	for units, scale := range map[string]float64{"1": 0.0254, "2": 0.3048, "4": 1e-3, "5": 1e-2, "6": 1} {
		assert.InDelta(t, 100*50*scale*scale, read(t, drawing(units, square)).Area(), 1e-9, units)
	}
	d, faults := Read(drawing("", square), 0.0254)
	require.Empty(t, faults)
	assert.InDelta(t, 5000*0.0254*0.0254, d.named(t, "full").Ring.Area(), 1e-9, "the unit chosen by hand")
	d, faults = Read(drawing("4", square), 0.0254)
	require.Empty(t, faults)
	assert.InDelta(t, 0.005, d.named(t, "full").Ring.Area(), 1e-9, "the header wins over the choice")
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
		"this is not a DXF file":                   []byte("hello\nthere\n"),
		"neither a text DXF file":                  []byte("AB\x00\x01"),
		"an empty line stands":                     []byte("0\nSECTION\n\n2\nENTITIES\n"),
		"does not say its unit":                    drawing("", square),
		"line 8: the unit 3":                       drawing("3", square),
		"no outline":                               drawing("4"),
		"it has neither control points nor points": drawing("4", "0 SPLINE|8 full"),
		"its knots do not fit its control points": drawing("4",
			"0 SPLINE|8 full|71 3|40 0|40 1|10 0|20 0|10 1|20 1"),
		"only 1 HATCH, 2 REGION: explode these": drawing("4", "0 REGION|8 a", "0 HATCH|8 a",
			"0 REGION|8 a"),
		`LINE on layer "full" (line 16): the outline does not`: drawing("4", "0 LINE|8 full|10 0|20 0|11 5|21 5"),
		"it goes from (0.000, 0.000) to (5.000, 5.000) mm":     drawing("4", "0 LINE|8 full|10 0|20 0|11 5|21 5"),
		"its ends lie 0.100 mm apart at (0.000, 0.100) mm": drawing("4",
			"0 LWPOLYLINE|8 full|10 0|20 0|10 100|20 0|10 100|20 100|10 0|20 100|10 0|20 0.1"),
		"group 40 is missing":      drawing("4", "0 CIRCLE|8 full|10 0|20 0"),
		"radius is not above zero": drawing("4", "0 CIRCLE|8 full|10 0|20 0|40 -1"),
		"the outline crosses itself at (4.737, 4.737) mm": drawing("4", "0 LWPOLYLINE|8 full|70 1|10 0|20 0|10 "+
			"10|20 10|10 10|20 0|10 0|20 9"),
		"is no number": drawing("4", strings.Replace(square, "10 100", "10 wide", 1)),
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
		Write(
			&file,
			[]LabelledOutline{
				{Outline: ring, Label: "SP-02 · 0001 · 4", At: geom.Point{X: 0.01, Y: 0.01}, Height: 0.01},
			},
		),
	)
	back, faults := Read(file.Bytes(), 0)
	require.Empty(t, faults)
	assert.Equal(t, ring, back.named(t, "CUT").Ring)
}

// Marks of a piece are written apart from what is cut, and read as marks again.
func TestMarksAreWrittenApart(t *testing.T) {
	var file bytes.Buffer
	require.NoError(t, Write(&file, []LabelledOutline{{Outline: geom.Rect(0.4, 0.3), Layer: "shell", Marks: []Detail{
		{Line: []geom.Point{{X: 0, Y: 0.1}, {X: 0.006, Y: 0.1}}}, {Text: "strip +2", At: geom.Point{X: 0.2, Y: 0.15}},
		{Line: geom.Rect(0.05, 0.05).Move(0.1, 0.1), Closed: true},
	}}}))
	text := file.String()
	for layer, n := range map[string]int{"MARK": 1, "TEXT": 1, "HOLE": 1, "shell": 1} {
		assert.Equal(t, n, strings.Count(text, "AcDbEntity\n  8\n"+layer+"\n"), layer)
	}
	back, faults := Read(file.Bytes(), 0)
	require.Empty(t, faults)
	var marks []Detail
	for _, o := range back.Outlines {
		marks = append(marks, o.Marks...)
	}
	assert.InDelta(t, 0.12, back.named(t, "shell").Ring.Area(), 1e-9)
	says := ""
	for _, m := range append(marks, back.Marks...) {
		says += m.Text
	}
	assert.Contains(t, says, "strip +2")
}

// Two independent readers from the npm registry, dxf-parser and dxf, must read
// what we write: count, layer, coordinates, closed flag, label.
func TestIndependentReadersReadOurFiles(t *testing.T) {
	web, err := filepath.Abs("../../web")
	require.NoError(t, err)
	require.DirExists(t, filepath.Join(web, "node_modules", "dxf-parser"), "run npm ci in web first, as ./test does")
	pieces := []LabelledOutline{
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
				.map((e) => ({ layer: e.layer, closed: !!(e.shape ?? e.closed),
					points: e.vertices.map((v) => [v.x, v.y]) }));
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
	assert.Equal(t, [][2]string{{"TEXT", "SP-02 0001 4"}}, got.Text)
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
		for _, o := range d.Outlines {
			if err := o.Ring.Check(); err != nil {
				t.Fatalf("%s passed and is none: %v", o.Name, err)
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
			[]LabelledOutline{
				{Outline: geom.Rect(0.4, 0.3), Layer: "full"},
				{Outline: geom.Rect(0.1, 0.05).Move(0.2, -0.1), Layer: "pad: 2/3"},
				{Outline: geom.Rect(0.02, 0.02)},
			},
		),
	)
	read, faults := Read(out.Bytes(), 0)
	require.Empty(t, faults)
	require.Len(t, read.Outlines, 3)
	assert.InDelta(t, 0.12, read.named(t, "full").Ring.Area(), 1e-9)
	assert.InDelta(t, 0.005, read.named(t, "pad_ 2_3").Ring.Area(), 1e-9)
	assert.InDelta(t, 0.0004, read.named(t, "CUT").Ring.Area(), 1e-9)
	assert.InDelta(t, -0.1, read.named(t, "pad_ 2_3").Ring.Bounds().Min.Y, 1e-9)
}

// What real drawings hold besides one plain line a layer, each against a closed form.
func TestWhatDrawingsHold(t *testing.T) {
	const mm2 = 1e-6
	kappa := 4 * (math.Sqrt2 - 1) / 3 // a quarter of a circle as a cubic: off by 0.03 %
	spline := func(pairs ...string) string { return "0 SPLINE|8 full|70 8|71 3|" + strings.Join(pairs, "|") }
	quarter := spline("40 0", "40 0", "40 0", "40 0", "40 1", "40 1", "40 1", "40 1", "10 100", "20 0",
		"10 100", fmt.Sprint("20 ", 100*kappa), fmt.Sprint("10 ", 100*kappa), "20 100", "10 0", "20 100")
	half := math.Sqrt(0.5)
	rational := "0 SPLINE|8 full|70 12|71 2|40 0|40 0|40 0|40 1|40 1|40 1|41 1|41 " + fmt.Sprint(half) + "|41 1|" +
		"10 100|20 0|10 100|20 100|10 0|20 100"
	sides := []string{"0 LINE|8 full|10 0|20 0|11 100|21 0", "0 LINE|8 full|10 0|20 100|11 0|21 0"}
	for name, c := range map[string]struct {
		raw  []byte
		area float64 // mm²
	}{
		"ellipse": {drawing("4", "0 ELLIPSE|8 full|10 5|20 5|11 40|21 30|40 0.5|41 0|42 6.283185307179586"),
			math.Pi * 50 * 25},
		"half an ellipse and its axis": {drawing("4",
			"0 ELLIPSE|8 full|10 0|20 0|11 50|21 0|40 0.4|41 0|42 3.141592653589793",
			"0 LINE|8 full|10 -50|20 0|11 50|21 0"), math.Pi * 50 * 20 / 2},
		"a cubic spline":    {drawing("4", append([]string{quarter}, sides...)...), math.Pi * 2500 * 1.00028},
		"a rational spline": {drawing("4", append([]string{rational}, sides...)...), math.Pi * 2500},
		"an old polyline": {drawing("4", "0 POLYLINE|8 full|66 1|70 1", "0 VERTEX|8 full|10 0|20 0",
			"0 VERTEX|8 full|10 100|20 0|42 1",
			"0 VERTEX|8 full|10 100|20 100", "0 VERTEX|8 full|10 0|20 100", "0 SEQEND"), 10000 + math.Pi*1250},
		"drawn on the back":      {drawing("4", square+"|230 -1"), 5000},
		"on paper as well":       {drawing("4", square, strings.Replace(square, "8 full", "8 full|67 1", 1)), 5000},
		"drawn twice":            {drawing("4", square, square), 5000},
		"a hatch and a region":   {drawing("4", square, "0 HATCH|8 full", "0 REGION|8 other", "0 SOLID|8 full"), 5000},
		"with a grain line":      {drawing("4", square, "0 LINE|8 full|10 10|20 10|11 60|21 10"), 5000},
		"with a hole":            {drawing("4", square, "0 CIRCLE|8 full|10 50|20 25|40 10"), 5000},
		"blank lines at the end": {append(drawing("4", square), "\n \n\n"...), 5000},
		"lines in any order": {drawing("4", "0 LINE|8 full|10 0|20 0|11 100|21 0", "0 LINE|8 full|10 0|20 50|11 0|21 0",
			"0 LINE|8 full|10 100|20 50|11 0|21 50", "0 LINE|8 full|10 100|20 50|11 100|21 0"), 5000},
	} {
		assert.InEpsilon(t, c.area*mm2, read(t, c.raw).Area(), 2e-3, name)
	}
	d, faults := Read(drawing("4", square, "0 CIRCLE|8 full|10 50|20 25|40 10", "0 LINE|8 full|10 10|20 10|11 60|21 10",
		"0 TEXT|8 notes|10 20|20 20|1 ply\\U+00A07", "0 POINT|8 full|10 500|20 5"), 0)
	require.Empty(t, faults)
	marks := d.named(t, "full").Marks
	require.Len(t, marks, 3)
	assert.Equal(t, "ply\u00a07", marks[0].Text)
	assert.Equal(t, []bool{false, false, true}, []bool{marks[0].Closed, marks[1].Closed, marks[2].Closed})
	assert.Len(t, d.Marks, 1, "a point beside it")
	// Several on a layer are numbered, the largest first.
	d, faults = Read(drawing("4", "0 CIRCLE|8 full|10 900|20 25|40 10", square), 0)
	require.Empty(t, faults)
	assert.Greater(t, d.named(t, "full").Ring.Area(), d.named(t, "full 2").Ring.Area())
}

// A block is drawn where it is put, turned, enlarged, in rows; its layer 0 is the insert's.
func TestBlocksArePutIn(t *testing.T) {
	lines := []string{
		"0 SECTION", "2 HEADER", "9 $INSUNITS", "70 4", "0 ENDSEC", "0 SECTION", "2 TABLES", "0 TABLE", "2 LAYER",
		"0 LAYER", "2 off", "70 0", "62 -7", "0 LAYER", "2 frozen", "70 1", "62 7", "0 ENDTAB", "0 ENDSEC", "0 SECTION",
		"2 BLOCKS", "0 BLOCK", "8 0", "2 tab", "10 10", "20 0",
	}
	add := func(entities ...string) {
		for _, e := range entities {
			lines = append(lines, strings.Split(e, "|")...)
		}
	}
	add("0 LWPOLYLINE|8 0|70 1|10 10|20 0|10 20|20 0|10 20|20 5|10 10|20 5", "0 ENDBLK")
	add(
		"0 BLOCK|8 0|2 pair|10 0|20 0",
		"0 INSERT|8 0|2 tab|10 0|20 0",
		"0 INSERT|8 0|2 tab|10 0|20 50|50 90",
		"0 ENDBLK",
	)
	lines = append(lines, "0 ENDSEC", "0 SECTION", "2 ENTITIES")
	add("0 INSERT|8 one|2 tab|10 100|20 0|41 2|42 3", "0 INSERT|8 row|2 tab|10 0|20 200|70 3|71 2|44 30|45 20",
		"0 INSERT|8 deep|2 pair|10 500|20 0", "0 INSERT|8 off|2 tab|10 0|20 0", "0 CIRCLE|8 frozen|10 0|20 0|40 5",
		"0 INSERT|8 none|2 nothing|10 0|20 0")
	lines = append(lines, "0 ENDSEC", "0 EOF")
	d, faults := Read([]byte(strings.ReplaceAll(strings.Join(lines, "\n"), " ", "\n")+"\n"), 0)
	require.Empty(t, faults)
	assert.Len(t, d.Outlines, 1+6+2)
	one := d.named(t, "one").Ring
	assert.InDelta(t, 10*5*6e-6, one.Area(), 1e-12)
	assert.InDelta(t, 0.1, one.Bounds().Min.X, 1e-12, "from its base")
	assert.InDelta(t, 0.26, d.named(t, "row 2").Ring.Bounds().Max.Y+d.named(t, "row 6").Ring.Bounds().Max.Y-0.17, 0.021)
	turned := d.named(t, "deep 2").Ring.Bounds()
	assert.InDelta(t, 50e-6, d.named(t, "deep 2").Ring.Area(), 1e-12)
	assert.True(t, turned.Height() > turned.Width() || d.named(t, "deep").Ring.Bounds().Height() > 0.009)
	assert.Equal(t, 1, d.Left["INSERT of a block that there is not"])
}

// The same drawing in binary, with group codes of two bytes and of one, and in an old encoding.
func TestBinaryAndOldEncodings(t *testing.T) {
	text := drawing("4", square, "0 CIRCLE|8 full|10 50|20 25|40 10")
	pairs, fault := tokens(text)
	require.Empty(t, fault)
	for _, wide := range []bool{true, false} {
		var b bytes.Buffer
		b.WriteString("A")
		b.Write(magic)
		for _, p := range pairs {
			if wide {
				_ = binary.Write(&b, binary.LittleEndian, uint16(p.code))
			} else {
				b.WriteByte(byte(p.code))
			}
			switch v, _ := strconv.ParseFloat(p.value, 64); shapeOf(p.code) {
			case 'd':
				_ = binary.Write(&b, binary.LittleEndian, v)
			case 'h':
				_ = binary.Write(&b, binary.LittleEndian, int16(v))
			default:
				b.WriteString(p.value + "\x00")
			}
		}
		d, faults := Read(b.Bytes(), 0)
		require.Empty(t, faults)
		assert.InDelta(t, 0.005, d.named(t, "full").Ring.Area(), 1e-12)
		assert.Len(t, d.named(t, "full").Marks, 1)
		_, faults = Read(b.Bytes()[:b.Len()-7], 0)
		assert.Contains(t, faults[0], "in the middle of an entry")
	}
	old := bytes.ReplaceAll(text, []byte("\nfull\n"), []byte("\n\xdcber\n"))
	d, faults := Read(old, 0)
	require.Empty(t, faults)
	assert.InDelta(t, 0.005, d.named(t, "Über").Ring.Area(), 1e-12, "Windows 1252 where nothing else is said")
	escaped := bytes.ReplaceAll(text, []byte("\nfull\n"), []byte("\n\\U+00DCber\n"))
	d, faults = Read(escaped, 0)
	require.Empty(t, faults)
	d.named(t, "Über")
	// Our own export writes such names and reads them back.
	var out bytes.Buffer
	require.NoError(t, Write(&out, []LabelledOutline{{Outline: geom.Rect(0.1, 0.1), Layer: "Überlappung"}}))
	d, faults = Read(out.Bytes(), 0)
	require.Empty(t, faults)
	d.named(t, "Überlappung")
}
