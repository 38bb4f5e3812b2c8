package shop_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/master"
	"juxta/demo"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/recipes"
)

func TestAReleasedRevisionIsFrozen(t *testing.T) {
	h := open(t)
	allParts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	part := allParts[0].Code
	assert.ErrorContains(
		t,
		h.DB.Gorm.Exec(`update plies set angle_deg = 1 where revision_id = (select min(id) from revisions)`).Error,
		"frozen",
	)
	assert.ErrorContains(
		t,
		h.DB.Gorm.Exec(`delete from plies where revision_id = (select min(id) from revisions)`).Error,
		"frozen",
	)
	draft, err := h.Revision(h.ctx, part, "")
	require.NoError(t, err)
	_, err = h.ReleaseRevision(h.ctx, h.as("Ines Falk"), part, parts.RevisionSign{Version: draft.Version, PIN: pin})
	refusal(t, err, book.Refused, "only a planner or a quality person can")
	_, err = h.CheckRevision(h.ctx, h.as("Hanne Vold"), part, parts.RevisionSign{Version: draft.Version - 1, PIN: pin})
	refusal(t, err, book.Conflict, "in the meantime")
	_, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), part, parts.RevisionSign{Version: draft.Version, PIN: pin})
	refusal(t, err, book.Conflict, "has to be checked before it is released")
	released := h.release(draft)
	assert.Equal(t, "Hanne Vold", released.CheckedBy)
	assert.Equal(
		t,
		[]parts.RevisionLine{{Letter: "B", State: "released"}, {Letter: "A", State: "superseded"}},
		released.Letters,
	)
	_, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), part, parts.DraftChange{Version: draft.Version + 1})
	refusal(t, err, book.Conflict, "released and frozen")
	next, err := h.NewRevision(h.ctx, h.as("Marek Orde"), part)
	require.NoError(t, err)
	assert.Equal(t, "C", next.Letter)
	assert.Empty(t, next.Changed)
}

func TestDifferencesOfRevisionsNameOnlyWhatIsNew(t *testing.T) {
	h := open(t)
	parts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	v, err := h.Revision(h.ctx, parts[0].Code, "B")
	require.NoError(t, err)
	assert.Equal(t, []string{"pad-more"}, v.Changed, "one ply was put in; what it shifted is not new")
	assert.Zero(t, v.Gone)
	assert.Equal(t, "A", v.Against)
}

func TestAnImportWithAFaultNamesEveryRowAndStoresNothing(t *testing.T) {
	h := open(t)
	in, err := demo.Panel()
	require.NoError(t, err)
	in.Number, in.Name = "SP-30", "Copy"
	in.Plies[1].Material = "Sabel UD"
	in.Plies[6].Layer = "hinge"
	before := h.count(`select count(*) from parts`) + h.count(`select count(*) from plies`)
	_, err = h.ImportPart(h.ctx, h.as("Marek Orde"), in)
	var faults *book.Error
	require.ErrorAs(t, err, &faults)
	require.Len(t, faults.Details, 2)
	assert.Contains(t, faults.Details[0], `row 3: no material is called "Sabel UD"`)
	assert.Contains(t, faults.Details[1], `row 8: the drawing has no outline on a layer "hinge"`)
	assert.Equal(t, before, h.count(`select count(*) from parts`)+h.count(`select count(*) from plies`))
}

// release has a draft checked and released by quality.
func (h *house) release(v parts.RevisionView) parts.RevisionView {
	h.t.Helper()
	sign := parts.RevisionSign{Version: v.Version, PIN: pin}
	_, err := h.CheckRevision(h.ctx, h.as("Hanne Vold"), v.Part.Code, sign)
	require.NoError(h.t, err)
	v, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), v.Part.Code, sign)
	require.NoError(h.t, err)
	return v
}

// squares is a master of plies of 100 mm square, of the demo's materials.
func (h *house) squares(materials ...string) *master.Document {
	h.t.Helper()
	d := &master.Document{
		Format: master.Format,
		Outlines: []master.Outline{
			{Name: "square", Kind: "rectangle", Dims: map[string]float64{"length": 0.1, "width": 0.1}},
		},
		Stages: []master.Stage{{Key: "s", Kind: "skin", Items: []master.Item{}}},
	}
	for k, m := range materials {
		d.Stages[0].Items = append(
			d.Stages[0].Items,
			master.Item{
				Key:        fmt.Sprint("q", k+1),
				Kind:       master.Ply,
				MaterialID: h.material(m),
				Outline:    "square",
				FaceUp:     true,
			},
		)
	}
	return d
}

func (h *house) material(name string) int64 {
	h.t.Helper()
	all, err := h.Materials(h.ctx)
	require.NoError(h.t, err)
	for _, m := range all {
		if m.Name == name {
			return m.ID
		}
	}
	h.t.Fatalf("no material %s", name)
	return 0
}

func TestAChangeToADraftIsWholeOrNotAtAll(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	allParts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	part := allParts[0].Code
	before, err := h.Revision(h.ctx, part, "B")
	require.NoError(t, err)
	ud := "Sable UD 150"
	crossed, strange, far := h.squares(ud, ud), h.squares(ud), h.squares(ud)
	crossed.Outlines[0] = master.Outline{
		Name:   "square",
		Kind:   "points",
		Points: []master.Corner{{}, {X: 0.1, Y: 0.1}, {X: 0.1}, {Y: 0.1}},
	}
	strange.Stages[0].Items[0].MaterialID = 4711
	far.Outlines[0] = master.Outline{Name: "square", Kind: "points", Points: []master.Corner{{}, {X: 0.1}}}
	process := before.Process
	bagless, endless, cold := process, process, process
	bagless.BagStack = "none"
	endless.Recipe.Segments = []cure.Segment{{Target: 350, Rate: 0.03, Hold: 4 * 24 * 3600}}
	cold.Recipe = cure.Recipe{
		Name:      "cold",
		Start:     295,
		Tolerance: 5,
		Segments:  []cure.Segment{{Target: 20, Rate: 1}},
	}
	for says, in := range map[string]parts.DraftChange{
		`outline "square": the outline touches or crosses itself`: {Document: crossed},
		"ply 1: this material is not known here":                  {Document: strange},
		"the outline has 2 points":                                {Document: far},
		`there is no bag stack "none"`:                            {Process: &bagless},
		"takes longer than three days":                            {Process: &endless},
		"segment 1: a target of -253 °C":                          {Process: &cold},
	} {
		in.Version = before.Version
		_, err := h.ChangeDraft(h.ctx, by, part, in)
		refusal(t, err, book.Invalid, says)
	}
	after, err := h.Revision(h.ctx, part, "B")
	require.NoError(t, err)
	assert.Equal(t, before, after)

	two, err := h.ChangeDraft(h.ctx, by, part, parts.DraftChange{Version: before.Version, Document: h.squares(ud, ud)})
	require.NoError(t, err)
	assert.Equal(t, before.Version+1, two.Version)
	// By hand: two plies of 0.01 m² at 0.234 kg/m².
	assert.InDelta(t, 2*0.01*0.234, two.Worked.Mass, 1e-12)
	assert.InDelta(t, 2*143e-6, two.Worked.Zones[0].Analysis.Thickness, 1e-12)
	assert.Equal(t, 10, two.Gone, "every ply of A")
	_, err = h.ChangeDraft(
		h.ctx,
		h.as("Ada Wren"),
		part,
		parts.DraftChange{Version: before.Version + 7, Document: h.squares(ud)},
	)
	refusal(t, err, book.Conflict, "somebody changed revision B")
}

func TestOneCureNeedsOneResin(t *testing.T) {
	h := open(t)
	kiln := demo.Ember()
	kiln.Name = "Kiln 185"
	other, err := h.SaveResin(h.ctx, h.as("Marek Orde"), 0, recipes.ResinChange{ResinIn: kiln})
	require.NoError(t, err)
	in := demo.Sable(other.ID)[0]
	in.Name = "Sable UD 150 K"
	hot, err := h.AddMaterial(h.ctx, h.as("Marek Orde"), in)
	require.NoError(t, err)
	allParts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	mixed := h.squares("Sable UD 150", hot.Name)
	draft, err := h.Revision(h.ctx, allParts[0].Code, "")
	require.NoError(t, err)
	draft, err = h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		allParts[0].Code,
		parts.DraftChange{Version: draft.Version, Document: mixed},
	)
	require.NoError(t, err)
	_, err = h.CheckRevision(
		h.ctx,
		h.as("Hanne Vold"),
		allParts[0].Code,
		parts.RevisionSign{Version: draft.Version, PIN: pin},
	)
	refusal(t, err, book.Invalid, "ply 2 has another resin than ply 1")
	draft, err = h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		allParts[0].Code,
		parts.DraftChange{Version: draft.Version, Document: h.squares()},
	)
	require.NoError(t, err)
	assert.Nil(t, draft.Worked)
	_, err = h.CheckRevision(
		h.ctx,
		h.as("Hanne Vold"),
		allParts[0].Code,
		parts.RevisionSign{Version: draft.Version, PIN: pin},
	)
	refusal(t, err, book.Invalid, "without plies")
}

func TestAnImportUnderAKnownNumberIsTheNextRevision(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	in, err := demo.Panel()
	require.NoError(t, err)
	_, err = h.ImportPart(h.ctx, by, in)
	refusal(t, err, book.Conflict, "already has a draft, revision B")
	draft, err := h.Revision(h.ctx, h.part(), "")
	require.NoError(t, err)
	_, err = h.NewRevision(h.ctx, by, h.part())
	refusal(t, err, book.Conflict, "already has a draft")
	h.release(draft)
	v, err := h.ImportPart(h.ctx, by, in)
	require.NoError(t, err)
	assert.Equal(t, "C", v.Letter)
	assert.Equal(t, "draft", v.State)
	assert.Equal(t, draft.Process, v.Process, "made as the revision before")
	assert.Equal(t, 1, v.Gone, "the file lacks the ply that B had more")
	in.Number, in.Name = "SP-77", " "
	_, err = h.ImportPart(h.ctx, by, in)
	refusal(t, err, book.Invalid, "a new part needs a name")
	in.Plies = nil
	in.Name = "Empty"
	_, err = h.ImportPart(h.ctx, by, in)
	refusal(t, err, book.Invalid, "no rows")
}

func (h *house) part() string {
	h.t.Helper()
	parts, err := h.Parts(h.ctx)
	require.NoError(h.t, err)
	return parts[0].Code
}

func TestABuildNeedsAReleasedRevisionAndASerialOfItsOwn(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	_, err := h.StartBuild(h.ctx, by, h.part(), builds.NewBuild{Serial: " 0001 ", CureAt: h.at.Add(time.Hour)})
	refusal(t, err, book.Conflict, "already has a serial 0001")
	_, err = h.StartBuild(h.ctx, by, h.part(), builds.NewBuild{Serial: "0005", CureAt: h.at.Add(-time.Hour)})
	refusal(t, err, book.Invalid, "lies in the past")
	in, err := demo.Panel()
	require.NoError(t, err)
	in.Number, in.Name = "SP-12", "Unreleased"
	v, err := h.ImportPart(h.ctx, by, in)
	require.NoError(t, err)
	_, err = h.StartBuild(h.ctx, by, v.Part.Code, builds.NewBuild{Serial: "0001", CureAt: h.at.Add(time.Hour)})
	refusal(t, err, book.Conflict, "no released revision yet")
	b, err := h.StartBuild(h.ctx, by, h.part(), builds.NewBuild{Serial: "0005", CureAt: h.at.Add(time.Hour)})
	require.NoError(t, err)
	assert.Equal(t, "A", b.Letter, "to the released revision, not to the draft")
	assert.Equal(t, "cut", b.Room)
	assert.Nil(t, b.OutTime, "nothing cut, nothing ageing")
}

func TestTheDatabaseKeepsAReleasedRevisionAsItIs(t *testing.T) {
	h := open(t)
	for _, change := range []string{
		`update revisions set process = '{}' where id = (select min(id) from revisions)`,
		`update revisions set state = 'draft' where id = (select min(id) from revisions)`,
		`update revisions set state = 'superseded', letter = 'Z' where id = (select min(id) from revisions)`,
		`delete from revisions where id = (select min(id) from revisions)`,
		`update plies set revision_id = (select id from revisions where letter = 'B'), number = 99 where number = 1
			and revision_id = (select min(id) from revisions)`,
		`update plies set revision_id = (select min(id) from revisions), number = 99 where number = 1
			and revision_id = (select id from revisions where letter = 'B')`,
	} {
		assert.ErrorContains(t, h.DB.Gorm.Exec(change).Error, "frozen", change)
	}
	assert.NoError(
		t,
		h.DB.Gorm.Exec(
			`update plies set angle_deg = 30 where number = 8 and revision_id = (select id from revisions
				where letter = 'B')`,
		).Error,
		"a draft is not",
	)
}
