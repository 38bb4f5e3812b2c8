package shop_test

import (
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/master"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
)

// What must hold of every master of the demo, whatever it is of.
func TestEveryMasterAddsUp(t *testing.T) {
	h := open(t)
	allParts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	for _, p := range allParts {
		t.Run(p.Number, func(t *testing.T) {
			v, err := h.Revision(h.ctx, p.Code, "")
			require.NoError(t, err)
			w := v.Worked
			drawing, err := h.Drawing(h.ctx, p.Code, parts.DrawingQuestion{})
			require.NoError(t, err)
			layers := map[string]parts.LayerView{}
			for _, l := range drawing.Layers {
				layers[l.Key] = l
			}
			// Areas by zones are those of the layers, and so is the thickness.
			under, total := map[string]float64{}, 0.0
			for _, z := range w.Zones {
				total += z.Area
				thick := 0.0
				for _, key := range z.Items {
					under[key] += z.Area
					thick += layers[key].Thickness
				}
				if z.Analysis != nil {
					assert.InDelta(t, thick, z.Analysis.Thickness, 1e-12)
					// Work is positive: the stiffness is that of a body.
					assert.Positive(t, z.Analysis.A[0][0])
					assert.Positive(t, z.Analysis.D[0][0])
					assert.Positive(t, z.Analysis.A[0][0]*z.Analysis.A[1][1]-z.Analysis.A[0][1]*z.Analysis.A[0][1])
				}
			}
			assert.InDelta(t, w.Area, total, 1e-9, "every zone is listed")
			for key, l := range layers {
				assert.InEpsilon(t, l.Area, under[key], 1e-9, "under layer %s", l.Label)
			}
			assert.GreaterOrEqual(t, w.Scale.Laid, w.Scale.Cured)
			assert.GreaterOrEqual(t, w.Scale.Cured, w.Scale.Trimmed)
			// Shares are whole.
			for _, z := range w.Zones {
				if z.Analysis == nil {
					continue
				}
				sum := 0.0
				for _, s := range z.Analysis.Shares {
					sum += s.Part
				}
				assert.InDelta(t, 1, sum, 1e-9)
			}
			// The same turned on the tool: masses, areas, warp and findings stay.
			doc := copied(v.Document)
			if !doc.Family() {
				for k := range doc.Stages {
					doc.Stages[k].Rosette += 30
				}
				turned, err := h.Ask(h.ctx, p.Code, parts.Question{Document: doc})
				require.NoError(t, err)
				within, why := 1e-5, "flats are kept to a tenth of a micrometre"
				curved := slices.ContainsFunc(doc.Stages, func(s master.Stage) bool { return s.Surface != nil })
				if curved {
					within, why = 0.05, "turned fabric shears elsewhere over a curved surface, and its darts lie "+
						"otherwise"
				}
				assert.InEpsilon(t, w.Scale.Laid, turned.Worked.Scale.Laid, within, why)
				for k, z := range turned.Worked.Zones {
					if z.Analysis != nil && !curved {
						assert.InDelta(t, w.Zones[k].Analysis.Bow, z.Analysis.Bow, 1e-9)
						// A11 + A22 + 2 A12 does not turn (Tsai & Hahn).
						a, b := w.Zones[k].Analysis.A, z.Analysis.A
						assert.InEpsilon(t, a[0][0]+a[1][1]+2*a[0][1], b[0][0]+b[1][1]+2*b[0][1], 1e-9)
					}
				}
			}
			// A revision does not differ from itself, and its hash is its own.
			d, err := h.Difference(h.ctx, p.Code, v.Letter, v.Letter)
			require.NoError(t, err)
			for _, l := range d.Lines {
				assert.Empty(t, l.Fields)
			}
			again, err := h.Revision(h.ctx, p.Code, "")
			require.NoError(t, err)
			assert.Equal(t, v.Hash, again.Hash)
		})
	}
}

// Turning every ply over and the stack round is the same part seen from the
// other side: the warp is the same, the other way.
func TestAPartSeenFromTheOtherSide(t *testing.T) {
	h := open(t)
	v := h.named("SP-11")
	doc := copied(v.Document)
	items := doc.Stages[0].Items
	for i, j := 0, len(items)-1; i < j; i, j = i+1, j-1 {
		items[i], items[j] = items[j], items[i]
	}
	for i := range items {
		items[i].FaceUp = !items[i].FaceUp
	}
	other, err := h.Ask(h.ctx, v.Part.Code, parts.Question{Document: doc})
	require.NoError(t, err)
	for k, z := range other.Worked.Zones {
		was := v.Worked.Zones[k].Analysis
		assert.InDelta(t, was.Bow, z.Analysis.Bow, 1e-9)
		for i := range 3 {
			assert.InDelta(t, was.Curvature[i], -z.Analysis.Curvature[i], 1e-9)
			assert.InDelta(t, was.B[i][i], -z.Analysis.B[i][i], 1e-3+1e-9*math.Abs(was.A[0][0]))
		}
	}
}

// A change sent again with its key is made once, also when it was merged.
func TestAChangeSentTwiceIsMadeOnce(t *testing.T) {
	h := open(t)
	v := h.named("SP-27")
	by := h.as("Marek Orde")
	by.Key = "a-change-sent-twice"
	doc := copied(v.Document)
	doc.Stages[0].Items[0].AngleDeg = 41
	in := parts.DraftChange{Version: v.Version, Base: &v.Document, Document: doc}
	first, err := h.ChangeDraft(h.ctx, by, v.Part.Code, in)
	require.NoError(t, err)
	second, err := h.ChangeDraft(h.ctx, by, v.Part.Code, in)
	require.NoError(t, err)
	assert.Equal(t, first.Version, second.Version)
	assert.Equal(t, first.Version, h.named("SP-27").Version)
	other := copied(v.Document)
	other.Stages[0].Items[0].AngleDeg = 42
	_, err = h.ChangeDraft(
		h.ctx,
		by,
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Base: &v.Document, Document: other},
	)
	refusal(t, err, book.Conflict, "already used for something else")
}

// png is the beginning of a picture, enough to be known as one.
var png = []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x00\x00\x00\x00:~\x9bU")

// Pictures travel with a master and are kept once.
func TestAPictureTravelsWithItsMaster(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	file, err := h.KeepFile(h.ctx, by, book.NewFile{Name: "lip.png", Content: png})
	require.NoError(t, err)
	text, err := h.KeepFile(h.ctx, by, book.NewFile{Name: "lip.txt", Content: []byte("no picture")})
	require.NoError(t, err)
	v := h.named("SP-25")
	doc := copied(v.Document)
	doc.Stages[0].Items[0].PictureID = text.ID
	_, err = h.ChangeDraft(h.ctx, by, v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	refusal(t, err, book.Invalid, "is no PNG or JPEG")
	doc.Stages[0].Items[0].PictureID = file.ID
	kept, err := h.ChangeDraft(h.ctx, by, v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	require.NoError(t, err)
	out, err := h.ExportMaster(h.ctx, v.Part.Code, "")
	require.NoError(t, err)
	require.Len(t, out.Pictures, 1)
	assert.Equal(t, png, out.Pictures[0].Content)
	before := h.count(`select count(*) from files`)
	out.Number = "CP-25"
	back, err := h.ImportMaster(h.ctx, by, out)
	require.NoError(t, err)
	assert.Equal(t, kept.Hash, back.Hash)
	assert.Equal(t, before, h.count(`select count(*) from files`), "the picture is here already")
	out.Number, out.Pictures[0].Name, out.Pictures[0].Content = "CP-26", "other.png", append([]byte{}, png...)
	other, err := h.ImportMaster(h.ctx, by, out)
	require.NoError(t, err)
	assert.NotEqual(t, file.ID, other.Document.Stages[0].Items[0].PictureID)
	out.Number, out.Pictures = "CP-27", nil
	_, err = h.ImportMaster(h.ctx, by, out)
	refusal(t, err, book.Invalid, "which the file does not hold")
}

// What an item shows and says stands at the bench before the ply that it is about,
// and what its part demands of who lays it.
func TestPicturesStandAtTheBench(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	file, err := h.KeepFile(h.ctx, by, book.NewFile{Name: "fold.png", Content: png})
	require.NoError(t, err)
	v := h.named("SP-25")
	doc := copied(v.Document)
	doc.Stages[0].Items[1].PictureID, doc.Stages[0].Items[1].Caution = file.ID, "mind the lip"
	process := v.Process
	process.Qualifications = []string{"bonding"}
	v, err = h.ChangeDraft(
		h.ctx,
		by,
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: doc, Process: &process},
	)
	require.NoError(t, err)
	v = h.release(v)
	b, err := h.StartBuild(h.ctx, by, v.Part.Code, builds.NewBuild{Serial: "0001", CureAt: h.at.Add(90 * time.Hour)})
	require.NoError(t, err)
	bench, err := h.Layup(h.ctx, b.Code, "")
	require.NoError(t, err)
	assert.Contains(t, bench.Notes, builds.BenchNote{Ply: 2, Kind: "picture", Text: "2", Picture: file.ID})
	assert.Contains(t, bench.Notes, builds.BenchNote{Ply: 2, Kind: "caution", Text: "mind the lip"})
	assert.Equal(t, []string{"bonding"}, bench.Process.Qualifications)
	_, content, err := h.File(h.ctx, file.ID)
	require.NoError(t, err)
	assert.Equal(t, png, content)
}

// Zones are worked out side by side; the answer is one and the same.
func TestTheSameMasterGivesTheSameAnswer(t *testing.T) {
	h := open(t)
	for _, number := range []string{"SP-24", "SP-26", "SP-28"} {
		v := h.named(number)
		first, err := h.Ask(h.ctx, v.Part.Code, parts.Question{})
		require.NoError(t, err)
		drawn, err := h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{})
		require.NoError(t, err)
		for range 5 {
			again, err := h.Ask(h.ctx, v.Part.Code, parts.Question{Document: &v.Document})
			require.NoError(t, err)
			require.Equal(t, first, again, number)
			same, err := h.Drawing(
				h.ctx,
				v.Part.Code,
				parts.DrawingQuestion{Document: &v.Document, Line: &drawn.Section.Line},
			)
			require.NoError(t, err)
			require.Equal(t, drawn, same, number)
		}
		// The section reaches as high as the layers do that lie under its line, and
		// no layer is shown where it does not lie.
		for _, c := range drawn.Section.Courses {
			for i, a := range c.At {
				assert.LessOrEqual(
					t,
					a[1],
					a[2]+1e-12,
					"%s of %s has its faces the right way round",
					drawn.Layers[c.Layer].Key,
					number,
				)
				assert.LessOrEqual(t, a[2], drawn.Section.Height+1e-7)
				if i > 0 {
					assert.GreaterOrEqual(t, a[0], c.At[i-1][0])
				}
			}
		}
	}
}

// A draft may be left with a whole working week between two changes; the log
// tells what each changed in words.
func TestTheLogSaysWhatADraftChanged(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	v := h.named("SP-23")
	doc := copied(v.Document)
	doc.Stages[0].Items[0].AngleDeg = 3
	doc.Stages[0].Items = append(doc.Stages[0].Items[:5], doc.Stages[0].Items[6:]...)
	doc.Stages[0].Items = append(
		doc.Stages[0].Items,
		master.Item{
			Key:        "extra",
			Kind:       master.Ply,
			MaterialID: doc.Stages[0].Items[0].MaterialID,
			Outline:    doc.Stages[0].Items[0].Outline,
		},
	)
	h.at = h.at.Add(5 * 24 * time.Hour)
	_, err := h.ChangeDraft(h.ctx, by, v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	require.NoError(t, err)
	var detail string
	require.NoError(
		t,
		h.DB.Gorm.Raw(`select detail from entries where what = 'draft changed' order by seq desc limit 1`).
			Scan(&detail).
			Error,
	)
	for _, says := range []string{`"1: angleDeg"`, `"6 is gone"`, `"8 is new"`, `"hash"`} {
		assert.Contains(t, detail, says)
	}
	_, err = h.VerifyLog(h.ctx)
	require.NoError(t, err)
}
