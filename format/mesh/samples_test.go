package mesh

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/drape"
	"juxta/core/unit"
	"juxta/format/second"
)

// The sample surfaces that two packages of the npm registry ship: what they hold is what the loaders
// of another package read, triangle by triangle and in area; then those that a ply can lie on are taken,
// and the others refused with the reason.
func TestSampleSurfaces(t *testing.T) {
	modules := second.Modules(t)
	objects := "obj-mtl-loader/example/public/test/objfiles/"
	samples := map[string]struct{ in, refused string }{
		"stl/test/ascii/effector_base.stl":        {"mm", "a triangle has no area though its corners lie apart"},
		"stl/test/ascii/teapot.stl":               {"mm", "the surface is of several pieces"},
		"stl/test/ascii/tri.stl":                  {"mm", "a triangle has no area though its corners lie apart"},
		"stl/test/binary/cube-20mm-with-hole.stl": {"mm", ""},
		"stl/test/binary/cube.stl":                {"mm", ""},
		"stl/test/binary/shark.stl":               {"mm", "the surface is of several pieces"},
		"stl/test/binary/ship.stl":                {"mm", "three triangles share one edge"},
		objects + "bunny.obj":                     {"m", "the surface is open at"},
		objects + "bunny2.obj":                    {"mm", ""},
		objects + "diamond.obj":                   {"mm", "three triangles share one edge"},
		objects + "lamp.obj":                      {"mm", "three triangles share one edge"},
		objects + "teapot.obj":                    {"mm", "the surface is of several pieces"},
		objects + "suzanne/suzanne.obj":           {"mm", "the surface is of several pieces"},
	}
	files := []string{}
	for name := range samples {
		files = append(files, name)
	}
	var other map[string]struct {
		Triangles int
		Area      float64
	}
	second.Output(t, &other, `
const { STLLoader } = await load("three/examples/jsm/loaders/STLLoader.js");
const { OBJLoader } = await load("three/examples/jsm/loaders/OBJLoader.js");
const out = {};
for (const name of args) {
  const raw = fs.readFileSync(path.join(process.argv[1], name)), stl = name.endsWith(".stl");
  const shapes = [];
  if (stl) shapes.push(new STLLoader().parse(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length)));
  else new OBJLoader().parse(raw.toString("utf8")).traverse((o) => o.isMesh && shapes.push(o.geometry));
  let triangles = 0, area = 0;
  for (const g of shapes) {
    const p = g.attributes.position.array;
    for (let k = 0; k + 8 < p.length; k += 9) {
      const [ax, ay, az, bx, by, bz] = [3, 4, 5, 6, 7, 8].map((n) => p[k + n] - p[k + (n % 3)]);
      area += Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx) / 2; triangles++;
    }
  }
  out[name] = { triangles, area };
}
say(out);`, files...)
	for name, s := range samples {
		raw, err := os.ReadFile(filepath.Join(modules, name))
		require.NoError(t, err)
		points, triangles, err := parse(raw)
		require.NoError(t, err, name)
		assert.Len(t, triangles, other[name].Triangles, name)
		area := 0.0
		for _, c := range triangles {
			a, b, d := points[c[0]], points[c[1]], points[c[2]]
			area += b.Sub(a).Cross(d.Sub(a)).Length() / 2
		}
		assert.InEpsilon(t, other[name].Area+1e-12, area+1e-12, 1e-5, name)
		m, err := Read(raw, s.in)
		if s.refused == "" {
			require.NoError(t, err, name)
			scale := Units[s.in]
			assert.InEpsilon(t, area*scale*scale, m.Area(), 1e-4, name)
			continue
		}
		var fault *drape.Fault
		require.ErrorAs(t, err, &fault, name)
		assert.Contains(t, unit.InMetric(err.Error()), s.refused, name)
	}
}
