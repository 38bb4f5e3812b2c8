package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/demo"
	"juxta/shop"
	"juxta/wire"
)

func TestAReleasedRevisionIsFrozen(t *testing.T) {
	h := open(t)
	parts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	part := parts[0].Code
	assert.ErrorContains(t, h.DB.Gorm.Exec(`update plies set angle_deg = 1 where revision_id = (select min(id) from revisions)`).Error, "frozen")
	assert.ErrorContains(t, h.DB.Gorm.Exec(`delete from plies where revision_id = (select min(id) from revisions)`).Error, "frozen")
	draft, err := h.Revision(h.ctx, part, "")
	require.NoError(t, err)
	_, err = h.ReleaseRevision(h.ctx, h.as("Ines Falk"), part, shop.ReleaseSign{Version: draft.Version, PIN: pin})
	refusal(t, err, shop.Refused, "ask a planner or a quality person")
	_, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), part, shop.ReleaseSign{Version: draft.Version - 1, PIN: pin})
	refusal(t, err, shop.Conflict, "in the meantime")
	_, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), part, shop.ReleaseSign{Version: draft.Version, PIN: pin})
	require.NoError(t, err)
	_, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), part, shop.DraftChange{Version: draft.Version + 1})
	refusal(t, err, shop.Conflict, "released and frozen")
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
	assert.Equal(t, []int{8}, v.Changed, "one ply was put in; what it shifted is not new")
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
	var faults *shop.Error
	require.ErrorAs(t, err, &faults)
	require.Len(t, faults.Details, 2)
	assert.Contains(t, faults.Details[0], `row 3: no material is called "Sabel UD"`)
	assert.Contains(t, faults.Details[1], `row 8: the drawing has no outline on a layer "hinge"`)
	assert.Equal(t, before, h.count(`select count(*) from parts`)+h.count(`select count(*) from plies`))
}

// square is a 100 mm square ply of the demo's unidirectional material.
func (h *house) square() shop.NewPly {
	h.t.Helper()
	return shop.NewPly{Shape: "square", MaterialID: h.material("Sable UD 150"), Outline: wire.Outline{{0, 0}, {0.1, 0}, {0.1, 0.1}, {0, 0.1}}, FaceUp: true}
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
	parts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	part := parts[0].Code
	before, err := h.Revision(h.ctx, part, "B")
	require.NoError(t, err)
	good := h.square()
	crossed, strange, far := good, good, good
	crossed.Outline = wire.Outline{{0, 0}, {0.1, 0.1}, {0.1, 0}, {0, 0.1}}
	strange.MaterialID = 4711
	far.Outline = wire.Outline{{0, 0}, {0.1, 0}}
	process := before.Process
	bagless, endless, cold := process, process, process
	bagless.BagStack = "none"
	endless.PartLag = 1e9
	cold.Recipe = wire.Recipe{Name: "cold", Start: 295, Tolerance: 5, Segments: []wire.Segment{{Target: 20, Rate: 1}}}
	for says, in := range map[string]shop.DraftChange{
		"ply 2: the outline touches or crosses itself": {Plies: &[]shop.NewPly{good, crossed}},
		"ply 1: this material is not known here":       {Plies: &[]shop.NewPly{strange}},
		"ply 3: the outline has 2 points":              {Plies: &[]shop.NewPly{good, good, far}},
		`there is no bag stack "none"`:                 {Process: &bagless},
		"would not reach the recipe's holds":           {Process: &endless},
		"segment 1: a target of -253 °C":               {Process: &cold},
	} {
		in.Version = before.Version
		_, err := h.ChangeDraft(h.ctx, by, part, in)
		refusal(t, err, shop.Invalid, says)
	}
	after, err := h.Revision(h.ctx, part, "B")
	require.NoError(t, err)
	assert.Equal(t, before, after)

	two, err := h.ChangeDraft(h.ctx, by, part, shop.DraftChange{Version: before.Version, Plies: &[]shop.NewPly{good, good}})
	require.NoError(t, err)
	assert.Equal(t, before.Version+1, two.Version)
	// By hand: two plies of 0.01 m² at 0.234 kg/m².
	assert.InDelta(t, 2*0.01*0.234, two.Worked.Mass, 1e-12)
	assert.InDelta(t, 2*143e-6, two.Worked.Zones[0].Worked.Thickness, 1e-12)
	assert.Equal(t, 10, two.Gone, "every ply of A")
	_, err = h.ChangeDraft(h.ctx, h.as("Ada Wren"), part, shop.DraftChange{Version: before.Version, Plies: &[]shop.NewPly{good}})
	refusal(t, err, shop.Conflict, "somebody changed revision B")
}

func TestOneCureNeedsOneResin(t *testing.T) {
	h := open(t)
	kiln := demo.Ember()
	kiln.Name = "Kiln 180"
	other, err := h.SaveResin(h.ctx, h.as("Marek Orde"), 0, kiln)
	require.NoError(t, err)
	in := demo.Sable(other.ID)[0]
	in.Name = "Sable UD 150 K"
	hot, err := h.AddMaterial(h.ctx, h.as("Marek Orde"), in)
	require.NoError(t, err)
	parts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	mixed := []shop.NewPly{h.square(), h.square()}
	mixed[1].MaterialID = hot.ID
	draft, err := h.Revision(h.ctx, parts[0].Code, "")
	require.NoError(t, err)
	draft, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), parts[0].Code, shop.DraftChange{Version: draft.Version, Plies: &mixed})
	require.NoError(t, err)
	_, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), parts[0].Code, shop.ReleaseSign{Version: draft.Version, PIN: pin})
	refusal(t, err, shop.Invalid, "ply 2 has another resin than ply 1")
	none := []shop.NewPly{}
	draft, err = h.ChangeDraft(h.ctx, h.as("Marek Orde"), parts[0].Code, shop.DraftChange{Version: draft.Version, Plies: &none})
	require.NoError(t, err)
	assert.Nil(t, draft.Worked)
	_, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), parts[0].Code, shop.ReleaseSign{Version: draft.Version, PIN: pin})
	refusal(t, err, shop.Invalid, "without plies")
}

func TestAnImportUnderAKnownNumberIsTheNextRevision(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	in, err := demo.Panel()
	require.NoError(t, err)
	_, err = h.ImportPart(h.ctx, by, in)
	refusal(t, err, shop.Conflict, "already has a draft, revision B")
	draft, err := h.Revision(h.ctx, h.part(), "")
	require.NoError(t, err)
	_, err = h.NewRevision(h.ctx, by, h.part())
	refusal(t, err, shop.Conflict, "already has a draft")
	_, err = h.ReleaseRevision(h.ctx, h.as("Jonas Quist"), h.part(), shop.ReleaseSign{Version: draft.Version, PIN: pin})
	require.NoError(t, err)
	v, err := h.ImportPart(h.ctx, by, in)
	require.NoError(t, err)
	assert.Equal(t, "C", v.Letter)
	assert.Equal(t, "draft", v.State)
	assert.Equal(t, draft.Process, v.Process, "made as the revision before")
	assert.Equal(t, 1, v.Gone, "the file lacks the ply that B had more")
	in.Number, in.Name = "SP-77", " "
	_, err = h.ImportPart(h.ctx, by, in)
	refusal(t, err, shop.Invalid, "a new part needs a name")
	in.Plies = nil
	in.Name = "Empty"
	_, err = h.ImportPart(h.ctx, by, in)
	refusal(t, err, shop.Invalid, "no rows")
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
	_, err := h.StartBuild(h.ctx, by, h.part(), shop.NewBuild{Serial: " 0001 ", CureAt: h.at.Add(time.Hour)})
	refusal(t, err, shop.Conflict, "already has a serial 0001")
	_, err = h.StartBuild(h.ctx, by, h.part(), shop.NewBuild{Serial: "0005", CureAt: h.at.Add(-time.Hour)})
	refusal(t, err, shop.Invalid, "lies in the past")
	in, err := demo.Panel()
	require.NoError(t, err)
	in.Number, in.Name = "SP-12", "Unreleased"
	v, err := h.ImportPart(h.ctx, by, in)
	require.NoError(t, err)
	_, err = h.StartBuild(h.ctx, by, v.Part.Code, shop.NewBuild{Serial: "0001", CureAt: h.at.Add(time.Hour)})
	refusal(t, err, shop.Conflict, "no released revision yet")
	b, err := h.StartBuild(h.ctx, by, h.part(), shop.NewBuild{Serial: "0005", CureAt: h.at.Add(time.Hour)})
	require.NoError(t, err)
	assert.Equal(t, "A", b.Letter, "to the released revision, not to the draft")
	assert.Equal(t, "cut", b.Stage)
	assert.Nil(t, b.Fuse, "nothing cut, nothing ageing")
}

func TestTheDatabaseKeepsAReleasedRevisionAsItIs(t *testing.T) {
	h := open(t)
	for _, change := range []string{
		`update revisions set process = '{}' where letter = 'A'`,
		`update revisions set state = 'draft' where letter = 'A'`,
		`delete from revisions where letter = 'A'`,
		`update plies set revision_id = (select id from revisions where letter = 'B'), number = 99 where number = 1 and revision_id = (select id from revisions where letter = 'A')`,
		`update plies set revision_id = (select id from revisions where letter = 'A'), number = 99 where number = 1 and revision_id = (select id from revisions where letter = 'B')`,
	} {
		assert.ErrorContains(t, h.DB.Gorm.Exec(change).Error, "frozen", change)
	}
	assert.NoError(t, h.DB.Gorm.Exec(`update plies set angle_deg = 30 where number = 8 and revision_id = (select id from revisions where letter = 'B')`).Error, "a draft is not")
}
