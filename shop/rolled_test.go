package shop_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/parts"
)

// tube is a draft that is rolled: one sheet round, and three strips side by side.
func (h *house) tube() parts.RevisionView {
	h.t.Helper()
	ud := h.material("Sable UD 150")
	doc := master.Document{Format: master.Format, Stages: []master.Stage{{
		Key: "t", Name: "Tube", Kind: "pre-form",
		Rolled: &master.Rolled{Section: "round", Width: 0.04, Length: 0.3, Trim: 0.01, StepDeg: 90},
		Items: []master.Item{
			{Key: "a", Kind: master.Ply, MaterialID: ud, FaceUp: true, Join: "overlap", JoinWidth: 0.01},
			{
				Key:        "b",
				Kind:       master.Ply,
				MaterialID: ud,
				AngleDeg:   45,
				FaceUp:     true,
				Wrap:       &master.Wrap{How: "strips", Strip: 0.03, Starts: 3},
			},
			{Key: "c", Kind: master.Ply, MaterialID: ud, AngleDeg: 0, FaceUp: true, Join: "butt"},
		},
	}}}
	v, err := h.ImportMaster(h.ctx, h.as("Marek Orde"), parts.MasterFile{
		Format: "juxta master file 1", Number: "T-1", Name: "Tube", Document: doc,
		Materials: []parts.FileMaterial{{ID: ud, Name: "Sable UD 150", Kind: "unidirectional"}},
	})
	require.NoError(h.t, err)
	return v
}

// What is rolled is kept with its flats; a changed mandrel derives them again, but for one that
// was changed by hand.
func TestARolledDraftKeepsItsFlats(t *testing.T) {
	h := open(t)
	v := h.tube()
	flat := func(v parts.RevisionView, k int) *master.Flat { return v.Document.Stages[0].Items[k].Flat }
	require.NotNil(t, flat(v, 0))
	assert.Len(t, flat(v, 1).Pieces, 3)
	before := flat(v, 2).Area()
	change := func(doc func(d *master.Document)) parts.RevisionView {
		base := h.named("T-1")
		raw, err := json.Marshal(base.Document)
		require.NoError(t, err)
		var next master.Document
		require.NoError(t, json.Unmarshal(raw, &next))
		doc(&next)
		out, err := h.ChangeDraft(h.ctx, h.as("Marek Orde"), v.Part.Code, parts.DraftChange{
			Version: base.Version, Base: &base.Document, Document: &next,
		})
		require.NoError(t, err)
		return out
	}
	hand := change(func(d *master.Document) { d.Stages[0].Items[0].Flat.Hand = true })
	wide := change(func(d *master.Document) { d.Stages[0].Rolled.Width = 0.05 })
	assert.Equal(t, flat(hand, 0).Pieces, flat(wide, 0).Pieces, "by hand")
	assert.Greater(t, flat(wide, 2).Area(), before*1.2)
	reply, err := h.Rolled(h.ctx, v.Part.Code, parts.RolledQuestion{Stage: "t", Sweep: []string{"b"}, Bending: 1})
	require.NoError(t, err)
	require.NotNil(t, reply.Rolled)
	assert.Equal(t, []string{"a", "b", "c"}, reply.Keys)
	assert.Len(t, reply.Rolled.Swept, 91)
	assert.Empty(t, reply.Bending, "no angle is as soft as that")
	_, err = h.Rolled(h.ctx, v.Part.Code, parts.RolledQuestion{Stage: "no"})
	refusal(t, err, book.Invalid, "no stage")
	// A faulty one is told, nothing worked out and nothing stored.
	doc := wide.Document
	doc.Stages[0].Rolled = &master.Rolled{Section: "hexagon", Width: 0.04, Radius: 0.03, Length: 0.3}
	reply, err = h.Rolled(h.ctx, v.Part.Code, parts.RolledQuestion{Stage: "t", Document: &doc})
	require.NoError(t, err)
	require.NotEmpty(t, reply.Faults)
	assert.Contains(t, unit.InMetric(reply.Faults[0].Message), "the corner radius of 30.0 mm exceeds half")
	assert.Nil(t, reply.Rolled)
}

// The pieces of a ply are nested each for itself and cut as one ply with one id.
func TestAPlyOfSeveralPiecesIsCutAsOne(t *testing.T) {
	h := open(t)
	v := h.release(h.tube())
	b, err := h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		builds.NewBuild{Serial: "0001", CureAt: h.at.Add(30 * time.Hour)},
	)
	require.NoError(t, err)
	roll := h.roll("SU-2207").Code
	code := h.nested(b.Code, roll)
	n, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	labels := map[string]bool{}
	for _, p := range n.Placed {
		labels[p.Label[strings.LastIndex(p.Label, " ")+1:]] = true
	}
	assert.Equal(t, map[string]bool{"1": true, "2a": true, "2b": true, "2c": true, "3": true}, labels)
	_, err = h.TakeOut(h.ctx, h.as("Tilda Brandl"), moved(roll))
	require.NoError(t, err)
	h.at = h.at.Add(2 * time.Hour)
	h.ready(roll)
	_, err = h.ConfirmCut(h.ctx, h.as("Tilda Brandl"), code)
	require.NoError(t, err)
	assert.Equal(
		t,
		3,
		h.count(`select count(*) from cut_plies c join builds b on b.id = c.build_id where b.code = ?`, b.Code),
	)
	bench, err := h.Layup(h.ctx, b.Code, "")
	require.NoError(t, err)
	assert.Contains(t, unit.InMetric(bench.Plies[1].PutOn), "3 strips of 30.0 mm side by side")
	_, err = h.StartNest(h.ctx, h.as("Tilda Brandl"), cutting.NewNest{Roll: roll, Builds: []string{b.Code}, Steps: 3})
	refusal(t, err, book.Invalid, "nothing of these builds is left to cut")
}
