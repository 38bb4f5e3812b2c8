package gcode

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

	"juxta/core/cutpath"
	"juxta/core/geom"
)

func path(t testing.TB, c cutpath.Cutter) (cutpath.Path, []cutpath.PlacedPiece) {
	t.Helper()
	zero := 0.7
	var pieces []cutpath.PlacedPiece
	for k := range 6 {
		x := 0.01 + 0.35*float64(k)
		pieces = append(
			pieces,
			cutpath.PlacedPiece{
				ID:      fmt.Sprintf("B-1/%d", k),
				Outline: geom.Rect(0.3, 0.4).Move(x, 0.01),
				Label:   "SP-1 · 0007 · 3",
				Zero:    &zero,
				Holes:   []geom.Ring{geom.Rect(0.05, 0.05).Move(x+0.02, 0.03)},
			},
			cutpath.PlacedPiece{
				ID:      fmt.Sprintf("B-2/%d", k),
				Outline: geom.Ring{{X: x, Y: 0.42}, {X: x + 0.3, Y: 0.42}, {X: x + 0.15, Y: 0.58}},
			},
		)
	}
	p, err := cutpath.Plan(cutpath.Sheet{Length: 2.1, Width: 0.6}, pieces, c, cutpath.Options{Across: true})
	require.NoError(t, err)
	return p, pieces
}

// What is read again is what was written, to the micrometre: with the cloth advanced, and the knife turned.
func TestWhatIsReadAgainIsDrawnTheSame(t *testing.T) {
	c := cutpath.Usual()
	c.Table = 0.7 // no piece lies across it: 0.35 each
	p, pieces := path(t, c)
	require.Equal(t, 2, p.Strokes[len(p.Strokes)-1].Advanced)
	var ids []string
	for _, piece := range pieces {
		ids = append(ids, piece.ID)
	}
	for _, tangential := range []bool{false, true} {
		var file bytes.Buffer
		require.NoError(t, Write(&file, p, Options{Name: "N-1 (a)", IDs: ids, Cutter: c, Tangential: tangential}))
		assert.NotContains(t, file.String(), "a))")
		moves, err := Read(&file)
		require.NoError(t, err)
		all, read := Strokes(moves, c.Table)
		require.Len(t, all, len(p.Strokes))
		for k, s := range all {
			want := p.Strokes[k]
			assert.Equal(t, [3]any{want.Tool, want.Advanced, want.Frees}, [3]any{s.Tool, s.Advanced, s.Frees})
			if want.Piece >= 0 {
				assert.Equal(t, ids[want.Piece], read[s.Piece])
			} else {
				assert.Equal(t, -1, s.Piece)
			}
			require.Len(t, s.Points, len(want.Points))
			for n, q := range s.Points {
				assert.InDelta(t, want.Points[n].X, q.X, 0.6e-6)
				assert.InDelta(t, want.Points[n].Y, q.Y, 0.6e-6)
			}
		}
		turns, last := 0, 0.0
		tool, at := 0, geom.Point{}
		for _, m := range moves {
			if m.Kind == Tool {
				tool = m.Tool
			}
			if m.Kind == Feed && tool == 2 && tangential {
				turns++
				assert.InDelta(
					t,
					0,
					math.Remainder(m.Turn-cutpath.Heading(at, m.To), 2*math.Pi),
					1e-3,
					"the knife looks where it goes",
				)
				assert.LessOrEqual(t, math.Abs(m.Turn-last), math.Pi+1e-4, "and turns the short way")
			}
			if m.Kind == Feed || m.Kind == Rapid {
				at = m.To
				if m.Turn == m.Turn {
					last = m.Turn
				}
			}
		}
		assert.Equal(t, tangential, turns > 0)
	}
}

// Another reader of such programs (gcode-toolpath, an npm package) follows the knife over the same ways: every
// stretch with the tool down is one of the plan's, in its order, with its tool.
func TestAnIndependentReaderFollowsTheProgram(t *testing.T) {
	web, err := filepath.Abs("../../web")
	require.NoError(t, err)
	require.DirExists(
		t,
		filepath.Join(web, "node_modules", "gcode-toolpath"),
		"run npm ci in web first, as ./test does",
	)
	p, pieces := path(t, cutpath.Usual())
	var ids []string
	for _, piece := range pieces {
		ids = append(ids, piece.ID)
	}
	file := filepath.Join(t.TempDir(), "nest.nc")
	f, err := os.Create(file)
	require.NoError(t, err)
	require.NoError(t, Write(f, p, Options{Name: "N-1", IDs: ids, Cutter: cutpath.Usual()}))
	require.NoError(t, f.Close())
	script := `
import fs from "node:fs"; import { createRequire } from "node:module";
const require = createRequire(process.argv[1] + "/package.json");
const all = [];
const reader = new (require("gcode-toolpath"))({
	addLine: (modal, a, b) => all.push([modal.motion, modal.tool, a.x, a.y, a.z, b.x, b.y, b.z]),
});
reader.loadFromString(fs.readFileSync(process.argv[2], "utf8"), () =>
	console.log(JSON.stringify(all.map(([m, ...rest]) => [m === "G1" ? 1 : 0, ...rest.map(Number)]))));`
	out, err := exec.Command("node", "--input-type=module", "-e", script, web, file).Output()
	require.NoError(t, err)
	var moves [][8]float64
	require.NoError(t, json.Unmarshal(out, &moves), string(out))
	var want [][5]float64 // tool, from, to
	for _, s := range p.Strokes {
		for k := 1; k < len(s.Points); k++ {
			a, b := s.Points[k-1], s.Points[k]
			want = append(want, [5]float64{float64(s.Tool) + 1, a.X, a.Y, b.X, b.Y})
		}
	}
	n := 0
	for _, m := range moves {
		if m[0] == 0 || m[4] > 0 || m[7] > 0 || m[2] == m[5] && m[3] == m[6] {
			continue // lifted, or only lowered
		}
		require.Less(t, n, len(want), "more ways than planned")
		for k, v := range want[n] {
			read := [5]float64{m[1], m[2] / 1e3, m[3] / 1e3, m[5] / 1e3, m[6] / 1e3}[k]
			require.InDelta(t, v, read, 1e-6, "way %d", n)
		}
		n++
	}
	assert.Equal(t, len(want), n)
}

func TestWhatATableDoesNotKnowIsRefused(t *testing.T) {
	for text, says := range map[string]string{
		"N10 G2 X1 Y1\nM30":      `line 1 of the program: "G2" is not known`,
		"G0 X1\nG1 Xa\nM30":      `line 2 of the program: "XA" is no word`,
		"G0 X1":                  "no end",
		"":                       "no end",
		"(PLY a\nM30":            "a comment has no end",
		"M30\nG0 X1":             "goes on after its end",
		"M6\nM30":                `"M6" is not known`,
		"G0 XNaN\nM30":           "is no word",
		strings.Repeat("x", 1e4): "read G-code",
	} {
		_, err := Read(strings.NewReader(text))
		assert.ErrorContains(t, err, says, text)
	}
	moves, err := Read(strings.NewReader("%\n\ng1 x10 (c) y-2.5 z0\nM30\n%\n"))
	require.NoError(t, err)
	assert.Equal(t, geom.Point{X: 0.01, Y: -0.0025}, moves[0].To)
}

func FuzzRead(f *testing.F) {
	f.Add("N10 G0 X1 Y2 C3\n(PLY a)\nG1 Z0\nG1 X2 F100\nG0 Z5\n(FREE a)\nM60\nT1 M6\nM30")
	f.Fuzz(func(t *testing.T, text string) {
		if moves, err := Read(strings.NewReader(text)); err == nil {
			Strokes(moves, 1)
		}
	})
}
