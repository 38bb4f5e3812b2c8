package shop_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/drape"
	"juxta/core/geom"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// shell is a draft of one ply over a cap of a sphere.
func (h *house) shell(s master.Surface) parts.RevisionView {
	h.t.Helper()
	twill := h.material("Sable twill 200")
	v, err := h.ImportMaster(h.ctx, h.as("Marek Orde"), parts.MasterFile{
		Format: "juxta master file 1", Number: "D-1", Name: "Shell", Document: master.Document{
			Format:   master.Format,
			Outlines: []master.Outline{{Name: "round", Kind: "circle", Dims: map[string]float64{"diameter": 0.3}}},
			Stages: []master.Stage{{
				Key: "s", Name: "Shell", Kind: "skin", Surface: &s,
				Items: []master.Item{{Key: "a", Kind: master.Ply, MaterialID: twill, Outline: "round", FaceUp: true}},
			}},
		},
		Materials: []parts.FileMaterial{{ID: twill, Name: "Sable twill 200", Kind: "woven"}},
	})
	require.NoError(h.t, err)
	return v
}

func bowl(t *testing.T, radius float64) *drape.Mesh {
	t.Helper()
	m, err := drape.NewSurface(drape.SphereCap, map[string]float64{"radius": radius, "angle": 1}, 4000)
	require.NoError(t, err)
	return m
}

// A surface of a file is kept once, its unit doubted where it looks wrong, and plies lie on it; it
// travels in the master's file.
func TestPliesLieOnASurfaceOfAFile(t *testing.T) {
	h := open(t)
	by := func() book.By { return h.as("Marek Orde") }
	small := bowl(t, 0.4/25.4)
	asked, err := h.KeepSurface(h.ctx, by(), parts.NewSurface{Name: "bowl.stl", Unit: "mm", Mesh: small})
	require.NoError(t, err)
	assert.Zero(t, asked.ID)
	assert.Equal(
		t,
		"Read in mm the surface is 26.5 mm long. Was it drawn in inches? Then it would be 673 mm.",
		unit.InMetric(asked.Question),
	)
	sure, err := h.KeepSurface(h.ctx, by(), parts.NewSurface{Name: "bowl.stl", Unit: "mm", Sure: true, Mesh: small})
	require.NoError(t, err)
	assert.NotZero(t, sure.ID)
	huge, err := h.KeepSurface(h.ctx, by(), parts.NewSurface{Name: "bowl", Unit: "m", Mesh: bowl(t, 40)})
	require.NoError(t, err)
	assert.Contains(t, unit.InMetric(huge.Question), "Surfaces are mostly drawn in mm.")
	_, err = h.KeepSurface(h.ctx, by(), parts.NewSurface{Name: " ", Unit: "mm", Mesh: small})
	refusal(t, err, book.Invalid, "a surface needs a name")

	kept, err := h.KeepSurface(h.ctx, by(), parts.NewSurface{Name: "tool.stl", Unit: "mm", Mesh: bowl(t, 0.4)})
	require.NoError(t, err)
	twice, err := h.KeepSurface(h.ctx, by(), parts.NewSurface{Name: "copy.stl", Unit: "mm", Mesh: bowl(t, 0.4)})
	require.NoError(t, err)
	assert.Equal(t, kept.ID, twice.ID, "one and the same")
	all, err := h.Surfaces(h.ctx)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "tool.stl", all[0].Name)

	v := h.shell(master.Surface{Kind: "sphere cap", Dims: map[string]float64{"radius": 0.4, "angle": 57.2958}})
	built := v.Document.Stages[0].Items[0].Flat
	doc := v.Document
	doc.Stages[0].Surface = &master.Surface{Kind: master.MeshSurface, Dims: map[string]float64{}, MeshID: kept.ID}
	v, err = h.ChangeDraft(h.ctx, by(), v.Part.Code, parts.DraftChange{Version: v.Version, Document: &doc})
	require.NoError(t, err)
	flat := v.Document.Stages[0].Items[0].Flat
	require.Len(t, flat.Pieces, 1)
	assert.InEpsilon(t, built.Area(), flat.Area(), 2e-3)
	file, err := h.ExportMaster(h.ctx, v.Part.Code, "A")
	require.NoError(t, err)
	require.Len(t, file.Surfaces, 1)
	file.Number = "D-2"
	other, err := h.ImportMaster(h.ctx, by(), file)
	require.NoError(t, err)
	assert.Equal(t, kept.ID, other.Document.Stages[0].Surface.MeshID)
	file.Number, file.Surfaces = "D-3", nil
	_, err = h.ImportMaster(h.ctx, by(), file)
	refusal(t, err, book.Invalid, "which the file does not hold")
	file.Surfaces = []parts.FileSurface{{ID: kept.ID, Name: "x", Unit: "mm", Points: []byte{1}, Triangles: []byte{2}}}
	_, err = h.ImportMaster(h.ctx, by(), file)
	refusal(t, err, book.Invalid, "is not whole")
	// One that is not here: the ply has no flat, and says why.
	doc.Stages[0].Surface = &master.Surface{Kind: master.MeshSurface, Dims: map[string]float64{}, MeshID: 999}
	v, err = h.ChangeDraft(h.ctx, by(), v.Part.Code, parts.DraftChange{Version: v.Version, Document: &doc})
	require.NoError(t, err)
	assert.Contains(t, v.Document.Stages[0].Items[0].Flat.Warnings[0], "is not kept here")
	// Written once.
	require.Error(t, h.DB.Gorm.Exec(`update surfaces set name = 'other'`).Error)
}

// What is drawn on a piece's backing lies where the piece lies on its roll, face up or down: its datum
// within it, its notches on its edge.
func TestMarksLieOnTheRoll(t *testing.T) {
	h := open(t)
	v := h.shell(master.Surface{Kind: "sphere cap", Dims: map[string]float64{"radius": 0.4, "angle": 50}})
	flat := v.Document.Stages[0].Items[0].Flat
	for _, up := range []bool{true, false} {
		p := parts.Ply{Flat: flat, FaceUp: up}
		rings, marks := p.OnRoll(), p.MarksOnRoll()
		require.Len(t, marks, 1)
		require.Len(t, marks[0], 6, "a cross of two lines, four notches")
		for k, m := range marks[0] {
			a := m.Places()[0]
			if k < 2 {
				assert.True(t, rings[0].Contains(a), "the datum")
				continue
			}
			assert.Less(t, rings[0].Distance(a), 1e-4, "a notch begins on the edge")
			assert.True(t, rings[0].Contains(m.Places()[1]), "and goes inwards")
		}
	}
	own := geom.Rect(0.2, 0.1)
	p := parts.Ply{Outline: own, AngleDeg: 90, FaceUp: true, Marks: []master.DrawnMark{
		{Points: []master.Corner{{X: 0.05, Y: 0.02}, {X: 0.06, Y: 0.02}, {X: 0.06, Y: 0.03}}, Closed: true},
	}}
	hole := p.MarksOnRoll()[0][0]
	assert.True(t, hole.Closed)
	assert.True(t, p.OnRoll()[0].Contains(hole.Places()[0]))
	assert.InDelta(t, 0.02, hole.Points[0].X, 1e-9, "turned with the ply, by a quarter")
}

// A search is asked for and stopped; its worker tells how far it is, and when it falls silent the
// search goes back into the queue.
func TestASearchForAStart(t *testing.T) {
	h := open(t)
	by := func() book.By { return h.as("Marek Orde") }
	v := h.shell(master.Surface{Kind: "sphere cap", Dims: map[string]float64{"radius": 0.4, "angle": 50}})
	in := parts.NewDrapeSearch{Stage: "s", Ply: "a", What: "start"}
	s, err := h.SeekDrape(h.ctx, by(), v.Part.Code, in)
	require.NoError(t, err)
	assert.Equal(t, "queued", s.State)
	first, row, ok, err := h.BeginDrape(h.ctx, s.ID)
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "start", row.What)
	assert.InDelta(t, math.Pi*0.15*0.15, row.Problem.Outline.Area(), 1e-3)
	_, _, ok, err = h.BeginDrape(h.ctx, s.ID)
	require.NoError(t, err)
	assert.False(t, ok, "another worker is at it")
	stop, err := h.DrapeProgress(h.ctx, first, parts.DrapeBest{X: 0.01, Peak: 7.777777, Tried: 3, Of: 100, Found: true})
	require.NoError(t, err)
	assert.False(t, stop)
	s, err = h.SeenDrape(h.ctx, s.ID)
	require.NoError(t, err)
	assert.Equal(t, parts.DrapeBest{X: 0.01, Peak: 7.78, Tried: 3, Of: 100, Found: true}, s.Best)
	// Silent for long: it is taken up again.
	require.NoError(t, h.ForsakenDrapes(h.ctx))
	s, err = h.SeenDrape(h.ctx, s.ID)
	require.NoError(t, err)
	assert.Equal(t, "running", s.State)
	h.silent("drape_searches", s.ID)
	require.NoError(t, h.ForsakenDrapes(h.ctx))
	s, err = h.SeenDrape(h.ctx, s.ID)
	require.NoError(t, err)
	assert.Equal(t, "queued", s.State)
	_, err = h.StopDrape(h.ctx, by(), s.ID)
	require.NoError(t, err)
	turn, _, ok, err := h.BeginDrape(h.ctx, s.ID)
	require.NoError(t, err)
	require.True(t, ok)
	stop, err = h.DrapeProgress(h.ctx, turn, s.Best)
	require.NoError(t, err)
	assert.True(t, stop)
	_, err = h.DrapeProgress(h.ctx, first, parts.DrapeBest{Tried: 99})
	require.ErrorIs(t, err, book.ErrTurnOver)
	require.ErrorIs(t, h.EndDrape(h.ctx, first, parts.DrapeBest{Tried: 99}, ""), book.ErrTurnOver)
	require.NoError(t, h.EndDrape(h.ctx, turn, s.Best, ""))
	s, err = h.StopDrape(h.ctx, by(), s.ID)
	require.NoError(t, err)
	assert.Equal(t, "done", s.State, "over already: that is what was wanted")
	_, _, ok, err = h.BeginDrape(h.ctx, s.ID)
	require.NoError(t, err)
	assert.False(t, ok)

	_, err = h.SeenDrape(h.ctx, 12345)
	refusal(t, err, book.Invalid, "there is no search 12345")
	in.Ply = "b"
	_, err = h.SeekDrape(h.ctx, by(), v.Part.Code, in)
	refusal(t, err, book.Invalid, "no such ply")
	_, err = h.SeekDrape(h.ctx, h.as("Hedda Solm"), v.Part.Code, in)
	require.Error(t, err)
	doc := v.Document
	doc.Outlines[0].Dims = map[string]float64{"diameter": -1}
	in.Ply, in.Document = "a", &doc
	_, err = h.SeekDrape(h.ctx, by(), v.Part.Code, in)
	require.Error(t, err)
}
