package svg

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/format/second"
)

// A set of icons of the npm registry, every third of some two thousand: nine of ten are read and have
// the area that a painter of another package covers, all others but a few are refused with a place.
func TestSampleIcons(t *testing.T) {
	icons := filepath.Join(second.Modules(t), "bootstrap-icons/icons")
	var covered map[string]float64 // units of the drawing, which are 16 × 16
	second.Output(t, &covered, `
const { createCanvas, loadImage } = require("@napi-rs/canvas"); const out = {}, size = 256;
for (const [k, file] of fs.readdirSync(args[0]).entries()) {
  if (k % 3 || !file.endsWith(".svg")) continue;
  const text = fs.readFileSync(path.join(args[0], file), "utf8").replace('width="16" height="16"',
    'width="' + size + '" height="' + size + '"').replace('fill="currentColor"', 'fill="black"');
  const g = createCanvas(size, size).getContext("2d");
  g.drawImage(await loadImage(Buffer.from(text)), 0, 0, size, size);
  const d = g.getImageData(0, 0, size, size).data;
  let sum = 0;
  for (let k = 3; k < d.length; k += 4) sum += d[k];
  out[file] = (sum / 255 / size / size) * 256;
}
say(out);`, icons)
	require.Greater(t, len(covered), 600)
	right, wrong, refused := 0, []string{}, []string{}
	for file, want := range covered {
		raw, err := os.ReadFile(filepath.Join(icons, file))
		require.NoError(t, err)
		d, faults := Read(raw, 1e-3)
		if d == nil {
			require.NotEmpty(t, faults, file)
			refused = append(refused, file+": "+faults[0])
			continue
		}
		if area := inked(d) * 1e6; area > want*0.98-0.05 && area < want*1.02+0.05 {
			right++
		} else {
			wrong = append(wrong, file)
		}
	}
	t.Logf(
		"%d of %d right; refused: %s; not alike: %s",
		right,
		len(covered),
		strings.Join(refused, ", "),
		strings.Join(wrong, ", "),
	)
	assert.Greater(t, float64(right), 0.95*float64(len(covered)))
	assert.Less(t, len(wrong), len(covered)/50, "shapes that lie over one another are no outline of one ply")
	for _, r := range refused {
		assert.Contains(t, r, "crosses itself at", "with its place")
	}
}

// inked is the area that is painted: what lies in an odd number of closed lines.
func inked(d *Drawing) float64 {
	var all []geom.Ring
	for _, o := range d.Outlines {
		all = append(all, o.Ring)
		for _, m := range o.Marks {
			if m.Closed {
				all = append(all, m.Line)
			}
		}
	}
	sum := 0.0
	for i, r := range all {
		sign := 1.0
		for k, q := range all {
			if k != i && q.Area() > r.Area() && q.Contains(r[0]) {
				sign = -sign
			}
		}
		sum += sign * r.Area()
	}
	return sum
}

// What is written here is painted by another package as it was meant: 1:1, with its area.
func TestAnIndependentReaderPaintsOurFiles(t *testing.T) {
	ring := geom.Ring{{X: 0, Y: 0}, {X: 0.2, Y: 0}, {X: 0.2, Y: 0.1}, {X: 0.12, Y: 0.06}, {X: 0, Y: 0.1}}
	var file bytes.Buffer
	require.NoError(t, WriteOutlines(&file, "shell", []Outline{{Name: "shell", Ring: ring}}))
	path := filepath.Join(t.TempDir(), "shell.svg")
	require.NoError(t, os.WriteFile(path, file.Bytes(), 0o600))
	var got struct{ Wide, High, Area float64 }
	second.Output(t, &got, `
const { createCanvas, loadImage } = require("@napi-rs/canvas");
const text = fs.readFileSync(args[0], "utf8").replaceAll('fill="none"', 'fill="black"')
	.replaceAll('stroke="#17191B"', 'stroke="none"');
const image = await loadImage(Buffer.from(text)), wide = 800, high = (wide * image.height) / image.width;
const g = createCanvas(wide, high).getContext("2d");
g.drawImage(image, 0, 0, wide, high);
const d = g.getImageData(0, 0, wide, Math.round(high)).data;
let sum = 0;
for (let k = 3; k < d.length; k += 4) sum += d[k] / 255;
say({ wide: image.width, high: image.height, area: sum / wide / high });`, path)
	// It draws 90 pixels an inch, as was usual before the standard said 96.
	assert.InDelta(t, 200/25.4*90, got.Wide, 1)
	assert.InDelta(t, 100/25.4*90, got.High, 1)
	assert.InEpsilon(t, ring.Area()/0.02, got.Area, 0.005)
}
