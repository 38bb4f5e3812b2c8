package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/format/pdf/pdftest"
	"juxta/shop/parts"
	"juxta/shop/recipes"
)

// Every part of the demo has a ply book: a cover, a page an item, a section, and
// the revision with its hash on every one of them, on both papers.
func TestEveryPartHasItsPlyBook(t *testing.T) {
	b := open(t)
	b.signIn("Hedda Solm")
	var allParts []parts.PartLine
	b.send("GET", "/api/parts", "").into(t, &allParts)
	for k, p := range allParts {
		var v parts.RevisionView
		b.send("GET", "/api/parts/"+p.Code, "").into(t, &v)
		paper := []string{"a4", "letter"}[k%2]
		got := b.send("GET", "/api/parts/"+p.Code+"/book?paper="+paper, "")
		require.Equal(t, http.StatusOK, got.StatusCode, p.Number)
		assert.Equal(t, "application/pdf", got.Header.Get("Content-Type"))
		pages, text := pdftest.Read(t, got.body)
		items := len(v.Document.Items())
		front := pages - items - 1 // of several cures more than of one
		assert.True(t, front == 2 || front == 3, "%s: %d pages of cover, way and cures as simulated", p.Number, front)
		assert.Contains(t, text, "as simulated", p.Number)
		assert.Contains(t, text, "Route of this part", p.Number)
		assert.Equal(
			t,
			pages,
			strings.Count(text, v.Part.Number+" revision "+v.Letter+", "+v.State+" · "+v.Hash[:40]),
			"%s: on every page",
			p.Number,
		)
		assert.Contains(t, text, v.Part.Name)
		assert.Equal(t, v.State != "released", strings.Contains(text, "do not build from it"), p.Number)
		for _, o := range v.Document.Outlines {
			if o.Placeholder != "" {
				assert.Contains(t, text, "is a placeholder for "+o.Placeholder, p.Number)
			}
		}
		if p.Number == "SP-11" {
			assert.Contains(
				t,
				text,
				"left edge x 30.0 mm, lower edge y 120.0 mm",
				"what lies away from the datum says where, also when its outline was drawn there",
			)
		}
		for _, i := range v.Document.Items() {
			if i.Caution != "" {
				assert.Contains(t, text, i.Caution, p.Number)
			}
			if i.Hold != "" {
				assert.Contains(t, text, "Hold released", p.Number)
			}
		}
	}
	assert.Equal(
		t,
		http.StatusUnprocessableEntity,
		b.send("GET", "/api/parts/"+allParts[0].Code+"/book?paper=napkin", "").StatusCode,
	)
	assert.Equal(t, http.StatusNotFound, b.send("GET", "/api/parts/"+allParts[0].Code+"/book?letter=Z", "").StatusCode)
}

func TestAnEmptyPartHasNoBookYet(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	var resins []recipes.ResinView
	b.send("GET", "/api/resins", "").into(t, &resins)
	var v parts.RevisionView
	got := b.send("POST", "/api/parts/new", `{"number":"SP-50","name":"Nothing yet","resinId":1}`, key, "an-empty-part")
	require.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
	got.into(t, &v)
	got = b.send("GET", "/api/parts/"+v.Part.Code+"/book", "")
	assert.Equal(t, http.StatusConflict, got.StatusCode)
	assert.Contains(t, string(got.body), "nothing to print yet")
	// What is written is told without what is worked out, and the rest on asking.
	var written parts.RevisionView
	code := b.partCode("SP-11")
	b.send("GET", "/api/parts/"+code+"?only=written", "").into(t, &written)
	assert.Nil(t, written.Worked)
	assert.NotEmpty(t, written.Document.Outlines)
	var reply parts.Reply
	b.send("POST", "/api/parts/"+code+"/ask", `{"before":true}`, key, "asked-with-before").into(t, &reply)
	require.NotNil(t, reply.Before)
	assert.Greater(t, reply.Worked.Mass, reply.Before.Mass, "the draft has a ply more")
}
