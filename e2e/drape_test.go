package e2e

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/drape"
	"juxta/core/master"
	"juxta/shop/parts"
)

// deep is a draft of a square ply over a bowl so deep that it locks.
func (h *house) deep(t *testing.T) parts.RevisionView {
	t.Helper()
	ctx := context.Background()
	materials, err := h.shop.Materials(ctx)
	require.NoError(t, err)
	var twill int64
	for _, m := range materials {
		if m.Name == "Sable twill 200" {
			twill = m.ID
		}
	}
	require.NotZero(t, twill)
	at := 0.08
	v, err := h.shop.ImportMaster(ctx, h.as(t, "Marek Orde"), parts.MasterFile{
		Format: "juxta master file 1", Number: "D-1", Name: "Bowl", Document: master.Document{
			Format: master.Format,
			Outlines: []master.Outline{
				{Name: "square", Kind: "rectangle", Dims: map[string]float64{"length": 0.38, "width": 0.38}},
			},
			Stages: []master.Stage{{
				Key: "s", Name: "Shell", Kind: "skin",
				Surface: &master.Surface{Kind: "sphere cap", Dims: map[string]float64{"radius": 0.29, "angle": 85}},
				Items: []master.Item{
					{
						Key:        "a",
						Kind:       master.Ply,
						MaterialID: twill,
						Outline:    "square",
						X:          -0.19,
						Y:          -0.19,
						FaceUp:     true,
						Laid:       &master.DrapeSettings{X: &at, Y: &at},
					},
				},
			}},
		},
		Materials: []parts.FileMaterial{{ID: twill, Name: "Sable twill 200", Kind: "woven"}},
	})
	require.NoError(t, err)
	return v
}

// A planner is told where a ply locks, lets cuts be proposed and takes them, moves one, adds another,
// lays it of strips, and splits it; a search is stopped and its best left.
func TestAPlannerCutsAPlyThatLocks(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	v := h.deep(t)
	ply := func() master.Item { return h.named(t, "D-1").Document.Stages[0].Items[0] }
	kept := func(what string, is func(i master.Item) bool) {
		t.Helper()
		require.Eventually(t, func() bool { return is(ply()) }, patience, 30*time.Millisecond, what)
	}
	p := openPage(t, h)
	p.visit("/parts/" + v.Part.Code + "?view=patterns")
	p.signIn("Marek Orde", password)
	p.see("it locks at")
	peak := ply().Flat.Peak
	p.click("Propose cuts")
	p.see("Found:")
	p.see("The drawing shows it so.")
	p.see("1 dart")
	p.axe("cuts that were proposed")
	assert.Empty(t, ply().Laid.Cuts, "nothing is changed until it is taken")
	p.click("Take these cuts")
	kept("the darts", func(i master.Item) bool {
		return len(i.Laid.Cuts) > 0 && i.Flat.Peak < peak-1 && len(i.Flat.Pieces) == 1
	})
	cuts := len(ply().Laid.Cuts)
	p.see("cut away at the edge")
	// Letters are told at their place, and an overlap wider than the ply is refused there too.
	p.fill("Overlap, mm", "ten")
	p.see("is not a number")
	p.fill("Overlap, mm", "900")
	p.see("wider than the ply")
	p.fill("Overlap, mm", "6")
	kept("the overlap", func(i master.Item) bool { return i.Laid.Cuts[0].Overlap == 0.006 && len(i.Flat.Pieces) == 1 })
	p.click("Remove Dart 1")
	kept("one dart less", func(i master.Item) bool { return len(i.Laid.Cuts) == cuts-1 })
	for range cuts - 1 {
		p.click("Remove Dart 1")
	}
	p.see("it locks at")
	// By hand, on the place that is picked.
	p.click("From above")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("svg[role=application]").focus()`))
	for range 12 {
		p.press(kb.ArrowRight)
		p.press(kb.ArrowUp)
	}
	p.see("Here: sheared by")
	p.click("Dart with its tip here")
	kept("a dart by hand", func(i master.Item) bool { return len(i.Laid.Cuts) == 1 && i.Laid.Cuts[0].X > 0.01 })
	p.click("Remove Dart 1")
	p.click("Split along y here")
	kept("two pieces", func(i master.Item) bool { return len(i.Flat.Pieces) == 2 })
	p.see("2 pieces")
	p.click("Remove Split 1")
	p.fill("Strips of width, mm", "60")
	p.see("Steered along")
	kept("strips", func(i master.Item) bool { return len(i.Flat.Pieces) > 6 && i.Flat.Peak == 0 })
	p.axe("a ply of strips")
	p.fill("Strips of width, mm", "0")
	kept("whole again", func(i master.Item) bool { return len(i.Flat.Pieces) == 1 })
	p.click("Search the best start")
	p.click("Stop, keep the best")
	p.see("Discard the proposal")
	p.click("Discard the proposal")
	p.see("Search the best start")
	// By hand, and over all of the surface.
	p.click("Edit by hand")
	p.see("Changed by hand: it stays as it is")
	kept("by hand", func(i master.Item) bool { return i.Flat.Hand })
	p.click("Derive again")
	kept("derived again", func(i master.Item) bool { return !i.Flat.Hand })
	before := ply().Flat.Area()
	p.fill("Start x, mm", "0")
	p.fill("y, mm", "0")
	p.click("Cover the whole surface")
	kept("the whole surface", func(i master.Item) bool { return i.Outline == "whole surface" })
	p.see("whole surface")
	// A bowl of 85° is too deep for one piece: said, or laid; back to what it was.
	kept("an answer", func(i master.Item) bool { return len(i.Flat.Warnings) > 0 || i.Flat.Area() > before })
	// In space: turned, brought nearer, walked by keys.
	p.click("In space")
	p.see("Fit to view")
	p.until("the canvas", `document.querySelector("[role=application] canvas") !== null`)
	p.click("Rotate left")
	p.click("Nearer")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[role=application]").focus()`))
	p.press(kb.ArrowRight)
	p.see("Here: sheared by")
}

// stlOf is a mesh as a binary file, in a unit.
func stlOf(t *testing.T, m *drape.Mesh, scale float64) []byte {
	t.Helper()
	var out bytes.Buffer
	out.Write(make([]byte, 80))
	put := func(v any) { require.NoError(t, binary.Write(&out, binary.LittleEndian, v)) }
	put(uint32(len(m.Triangles)))
	for _, tri := range m.Triangles {
		put([3]float32{})
		for _, c := range tri {
			p := m.Points[c].Times(scale)
			put([3]float32{float32(p.X), float32(p.Y), float32(p.Z)})
		}
		put(uint16(0))
	}
	return out.Bytes()
}

// A planner brings a surface in: its unit is asked, doubted where it looks wrong, and what cannot be
// draped over is told with its place.
func TestAPlannerBringsASurfaceIn(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	v := h.deep(t)
	dir := t.TempDir()
	m, err := drape.NewSurface(drape.SphereCap, map[string]float64{"radius": 0.3, "angle": 1.4}, 3000)
	require.NoError(t, err)
	file := func(name string, raw []byte) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, raw, 0o600))
		return path
	}
	inches := file("bowl.stl", stlOf(t, m, 1/0.0254))
	again := file("again.stl", stlOf(t, m, 1/0.0254))
	// Two sheets that meet in one corner alone.
	torn := file("torn.obj", []byte("v 0 0 0\nv 100 0 0\nv 0 100 0\nv -100 0 0\nv 0 -100 0\nf 1 2 3\nf 1 4 5\n"))
	no := file("no.stl", append(make([]byte, 90), "this is no surface"...))
	p := openPage(t, h)
	p.visit("/parts/" + v.Part.Code + "?view=patterns")
	p.signIn("Marek Orde", password)
	p.see("it locks at")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll("details").forEach((d) => (d.open = true))`))
	p.set("Surface", "a surface from a file (STL, OBJ)")
	p.see("choose which surface it lies on, or bring one in")
	p.upload(0, inches)
	p.see("Choose its unit first")
	p.set("Unit of the file", "mm")
	p.upload(0, torn)
	p.see("the surface")
	p.see("mm, y")
	p.upload(0, no)
	p.see("neither an STL nor an OBJ")
	p.upload(0, again)
	p.see("Was it drawn in inches?")
	p.axe("a surface whose unit is doubted")
	all, err := h.shop.Surfaces(context.Background())
	require.NoError(t, err)
	assert.Empty(t, all, "nothing is kept until it is said to be right")
	p.click("Unit: inch")
	p.see(fmt.Sprintf("%d triangles, read in inch.", len(m.Triangles)))
	p.see("surface from a file")
	require.Eventually(t, func() bool {
		s := h.named(t, "D-1").Document.Stages[0]
		return s.Surface.MeshID != 0 && len(s.Items[0].Flat.Pieces) == 1
	}, patience, 30*time.Millisecond)
}

// A browser that cannot draw in space says so, and the net is drawn flat.
func TestTheNetIsDrawnFlatWhereThereIsNoWebGL(t *testing.T) {
	t.Parallel()
	h := openHouse(t)
	v := h.deep(t)
	p := openPage(t, h)
	p.onEveryLoad(`const own = HTMLCanvasElement.prototype.getContext;
HTMLCanvasElement.prototype.getContext = function (kind, ...more) {
  return kind.startsWith("webgl") ? null : own.call(this, kind, ...more);
};`)
	p.visit("/parts/" + v.Part.Code + "?view=patterns")
	p.signIn("Marek Orde", password)
	p.see("This browser does not draw in space (it has no WebGL)")
	p.see("From the side")
	p.notSee("In space")
	p.see("the net is drawn flat, from four sides.")
	p.until("the net", `document.querySelectorAll("svg[role=application] path").length > 20`)
}
