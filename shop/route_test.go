package shop_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// A revision of before there were routes is read as the one pass that its builds walk.
func TestARevisionWithoutARouteIsReadAsOnePass(t *testing.T) {
	h := open(t)
	r, err := h.Route(h.ctx, h.part(), parts.RouteQuestion{Letter: "A"})
	require.NoError(t, err)
	assert.True(t, r.OnePass)
	assert.Empty(t, r.Faults)
	var rooms []string
	for k, o := range r.Operations {
		assert.Equal(t, k+1, o.Number)
		rooms = append(rooms, o.Room)
	}
	assert.Equal(t, []string{
		"layup", "cut", "kits", "layup", "bag", "cure", "finish", "finish", "release", "release",
	}, rooms)
	assert.Equal(
		t,
		8.0+35.0/60,
		r.Longest/3600,
		"prepared, laid, closed, cured, demoulded, trimmed, inspected, released",
	)
	assert.Len(t, r.Templates, 11)
	assert.Equal(t, "no stage is a core", r.Templates[1].Not)
}

func TestAWayOfMakingIsAskedForAndKept(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	_, err := h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{Template: "sandwich, three cures"})
	refusal(t, err, book.Invalid, "Sandwich in three cures: no stage is a core")
	_, err = h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{Template: "by magic"})
	refusal(t, err, book.Invalid, "there is no route template")
	doc := copied(v.Document)
	doc.Format = master.FormatOne
	doc.Route = nil
	asked, err := h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{Document: doc, Template: "wet layup"})
	require.NoError(t, err)
	assert.True(t, asked.OnePass)
	doc.Route, doc.Format = asked.Made, master.Format
	kept, err := h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: doc},
	)
	require.NoError(t, err)
	assert.Equal(t, asked.Made, kept.Document.Route)
	r, err := h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{})
	require.NoError(t, err)
	assert.False(t, r.OnePass)
	require.Len(t, r.Findings, 1)
	assert.Equal(t, "no recipe", r.Findings[0].Rule, "its post-cure is signed for itself until it has one")
	// A draft of edition 1 that is kept is one of the present edition afterwards.
	doc = copied(kept.Document)
	doc.Format, doc.Route = master.FormatOne, nil
	kept, err = h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: kept.Version, Document: doc},
	)
	require.NoError(t, err)
	assert.Equal(t, master.Format, kept.Document.Format)
	assert.Empty(t, kept.Document.Route)
}

func TestAFaultyRouteIsNotKept(t *testing.T) {
	h := open(t)
	v := h.named("SP-28")
	doc := copied(v.Document)
	doc.Route[0].After = []string{"release"}
	_, err := h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: doc},
	)
	refusal(t, err, book.Invalid, "these wait for each other, so none can begin: ")
	r, err := h.Route(h.ctx, v.Part.Code, parts.RouteQuestion{Document: doc})
	require.NoError(t, err)
	assert.Len(t, r.Faults, 1)
	assert.Empty(t, r.Operations, "what waits for each other has no order")
	assert.Equal(t, doc.Route, r.Planned, "and nothing of it is lost")
	assert.Len(t, r.Labels, len(doc.Route))
	assert.Equal(t, "Release", r.Labels["release"])
	assert.Equal(t, v.Document.Route, h.named("SP-28").Document.Route)
}

// A new revision says what of its route differs; the file of a master carries it.
func TestRoutesAreComparedAndExchanged(t *testing.T) {
	h := open(t)
	old := h.named("SP-26")
	v, err := h.NewRevision(h.ctx, h.as("Marek Orde"), old.Part.Code)
	require.NoError(t, err)
	doc := copied(v.Document)
	doc.Route[1].Place, doc.Route[len(doc.Route)-2].Second = "cutter 2", true
	_, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	require.NoError(t, err)
	d, err := h.Difference(h.ctx, v.Part.Code, "A", "B")
	require.NoError(t, err)
	fields := map[string][]string{}
	for _, c := range d.Route {
		if len(c.Fields) > 0 {
			fields[c.Is.Key] = c.Fields
		}
	}
	assert.Len(t, d.Route, len(doc.Route))
	assert.Equal(t, map[string][]string{doc.Route[1].Key: {"place"}, "inspect": {"second"}}, fields)
	file, err := h.ExportMaster(h.ctx, v.Part.Code, "B")
	require.NoError(t, err)
	assert.Equal(t, doc.Route, file.Document.Route)
	file.Number = "SP-26 X"
	copy, err := h.ImportMaster(h.ctx, h.as("Marek Orde"), file)
	require.NoError(t, err)
	assert.Equal(t, doc.Route, copy.Document.Route)
	// One from before there were routes comes in as well.
	file.Number, file.Document.Format, file.Document.Route = "SP-26 Y", master.FormatOne, nil
	copy, err = h.ImportMaster(h.ctx, h.as("Marek Orde"), file)
	require.NoError(t, err)
	assert.Empty(t, copy.Document.Route)
}
