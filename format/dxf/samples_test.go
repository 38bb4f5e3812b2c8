package dxf

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/format/second"
)

// The sample drawings that two packages of the npm registry ship are read, or refused with one reason:
// three hold no line at all, two are plans of buildings and one is a curve that does not close.
// Closed lines have the areas that the reader of another package finds.
func TestSampleDrawings(t *testing.T) {
	refused := map[string]string{
		"empty.dxf": "the drawing has no outline", "points.dxf": "the drawing has no outline",
		"texts.dxf":                       "the drawing has no outline",
		"splines.dxf":                     "does not close",
		"floorplan.dxf":                   "does not close",
		"Ceco.NET-Architecture-Tm-53.dxf": "does not close",
	}
	files, err := filepath.Glob(filepath.Join(second.Modules(t), "dxf-samples/test/resources/*.dxf"))
	require.NoError(t, err)
	files = append(files, filepath.Join(second.Modules(t), "three-dxf/sample/data/demo.dxf"))
	require.Len(t, files, 21)
	var other map[string]struct {
		Closed int
		Area   float64 // in the drawing's unit
	}
	second.Output(t, &other, `
const { Helper } = require("dxf"); const out = {};
for (const file of args) {
  let closed = 0, area = 0;
  for (const { vertices: v } of new Helper(fs.readFileSync(file, "utf8")).toPolylines().polylines) {
    if (v.length < 3 || Math.hypot(v[0][0] - v.at(-1)[0], v[0][1] - v.at(-1)[1]) > 1e-6) continue;
    let sum = 0;
    for (let k = 1; k < v.length; k++) sum += v[k - 1][0] * v[k][1] - v[k][0] * v[k - 1][1];
    closed++; area += Math.abs(sum / 2);
  }
  out[path.basename(file)] = { closed, area };
}
say(out);`, files...)
	compared := 0
	for _, file := range files {
		name := filepath.Base(file)
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		d, faults := Read(raw, 1e-3)
		if says, is := refused[name]; is {
			require.NotEmpty(t, faults, name)
			assert.Contains(t, faults[0], says, name)
			continue
		}
		require.NotNil(t, d, "%s: %v", name, faults)
		closed, area := 0, 0.0
		add := func(r geom.Ring) { closed, area = closed+1, area+r.Area()*1e6 }
		for _, o := range d.Outlines {
			add(o.Ring)
			for _, m := range o.Marks {
				if m.Closed {
					add(m.Line)
				}
			}
		}
		// Lines that are joined end to end are one only here.
		o := other[name]
		assert.GreaterOrEqual(t, closed, o.Closed, name)
		if closed == o.Closed {
			compared++
			assert.InEpsilon(t, o.Area, area, 0.005, "%s: the other reader has chords for arcs", name)
		} else {
			assert.GreaterOrEqual(t, area, o.Area*0.995, name)
		}
	}
	assert.GreaterOrEqual(t, compared, 6)
}
