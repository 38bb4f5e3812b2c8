package shop_test

import (
	"encoding/json"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// named is the newest revision of the part with a number.
func (h *house) named(number string) parts.RevisionView {
	h.t.Helper()
	allParts, err := h.Parts(h.ctx)
	require.NoError(h.t, err)
	for _, p := range allParts {
		if p.Number == number {
			v, err := h.Revision(h.ctx, p.Code, "")
			require.NoError(h.t, err)
			return v
		}
	}
	h.t.Fatalf("no part %s", number)
	return parts.RevisionView{}
}

// copied is a document that shares nothing with another.
func copied(d master.Document) *master.Document {
	raw, _ := json.Marshal(d)
	var out master.Document
	_ = json.Unmarshal(raw, &out)
	return &out
}

func TestTwoPlannersAtOneDraft(t *testing.T) {
	h := open(t)
	v := h.named("SP-28")
	mine, theirs := copied(v.Document), copied(v.Document)
	mine.Stages[0].Items[0].AngleDeg = 5
	theirs.Stages[0].Items[1].AngleDeg = 25
	_, err := h.ChangeDraft(
		h.ctx,
		h.as("Ada Wren"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Base: &v.Document, Document: theirs},
	)
	require.NoError(t, err)
	both, err := h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Base: &v.Document, Document: mine},
	)
	require.NoError(t, err)
	assert.Equal(
		t,
		[]float64{5, 25},
		[]float64{both.Document.Stages[0].Items[0].AngleDeg, both.Document.Stages[0].Items[1].AngleDeg},
		"both changes are there",
	)
	assert.Equal(t, "Marek Orde", both.ChangedBy)
	// The same ply by both: told, and nothing is lost or stored.
	other := copied(v.Document)
	other.Stages[0].Items[0].AngleDeg = 7
	_, err = h.ChangeDraft(
		h.ctx,
		h.as("Ada Wren"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Base: &v.Document, Document: other},
	)
	var told *book.Error
	require.ErrorAs(t, err, &told)
	assert.Equal(t, book.Conflict, told.Kind)
	assert.Equal(t, []string{"item 1 was changed by both"}, told.Details)
	assert.Equal(t, both.Document, h.named("SP-28").Document)
	// Without a base only the newest version may be changed.
	_, err = h.ChangeDraft(h.ctx, h.as("Ada Wren"), v.Part.Code, parts.DraftChange{Version: v.Version, Document: other})
	refusal(t, err, book.Conflict, "in the meantime")

	// A process that was made from the stored one is taken, whatever became of the document meanwhile.
	process := v.Process
	process.MassTolerance = 0.03
	change := parts.DraftChange{Version: v.Version, Process: &process}
	_, err = h.ChangeDraft(h.ctx, h.as("Ada Wren"), v.Part.Code, change)
	refusal(t, err, book.Conflict, "look at its process again")
	change.Was = &v.Process
	kept, err := h.ChangeDraft(h.ctx, h.as("Ada Wren"), v.Part.Code, change)
	require.NoError(t, err)
	assert.Equal(t, 0.03, kept.Process.MassTolerance)
	process.MassTolerance = 0.02
	_, err = h.ChangeDraft(h.ctx, h.as("Ada Wren"), v.Part.Code, change)
	refusal(t, err, book.Conflict, "look at its process again")
}

func TestAChangeUndoesTheCheck(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	sign := parts.RevisionSign{Version: v.Version, PIN: pin}
	checked, err := h.CheckRevision(h.ctx, h.as("Hanne Vold"), v.Part.Code, sign)
	require.NoError(t, err)
	assert.Equal(t, "checked", checked.State)
	_, err = h.CheckRevision(h.ctx, h.as("Hanne Vold"), v.Part.Code, sign)
	refusal(t, err, book.Conflict, "is checked already")
	_, err = h.NewRevision(h.ctx, h.as("Marek Orde"), v.Part.Code)
	refusal(t, err, book.Conflict, "already has a draft")
	doc := copied(v.Document)
	doc.Stages[0].Items[0].AngleDeg = 40
	changed, err := h.ChangeDraft(
		h.ctx,
		h.as("Ada Wren"),
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: doc},
	)
	require.NoError(t, err)
	assert.Equal(t, "draft", changed.State)
	assert.Empty(t, changed.CheckedBy)
	assert.NotEqual(t, v.Hash, changed.Hash)
	_, err = h.ReleaseRevision(
		h.ctx,
		h.as("Jonas Quist"),
		v.Part.Code,
		parts.RevisionSign{Version: changed.Version, PIN: pin},
	)
	refusal(t, err, book.Conflict, "has to be checked")
}

func TestAQuestionIsAnsweredAndStoresNothing(t *testing.T) {
	h := open(t)
	v := h.named("SP-26")
	before := h.count(`select count(*) from entries`)
	ask := func(q parts.Question) parts.Reply {
		t.Helper()
		r, err := h.Ask(h.ctx, v.Part.Code, q)
		require.NoError(t, err)
		return r
	}
	plain := ask(parts.Question{})
	require.Len(t, plain.Worked.Zones, 2)
	assert.Equal(t, "1 to 3, film adhesive 1, core 1, film adhesive 2, 4 to 6", plain.Worked.Zones[0].Label)
	assert.InDelta(t, 0.9*0.6, plain.Worked.Area, 1e-9)
	assert.InDelta(t, 0.84*0.54, plain.Worked.Zones[0].Area, 1e-9)
	// By hand: 2 twill of 0.345 and 4 unidirectional of 0.234 kg/m² on 0.54 m²,
	// 2 films of 0.25 and a core of 0.192 kg/m² on 0.4536 m², lumps of 66 g.
	laid := (2*0.345+4*0.234)*0.54 + (2*0.25+0.192)*0.4536 + 0.066
	assert.InDelta(t, laid, plain.Worked.Scale.Laid, 1e-9)
	resin := (2*0.345*0.42 + 4*0.234*0.36) * 0.54
	assert.InDelta(t, laid-0.02*resin, plain.Worked.Scale.Cured, 1e-9, "two percent of the plies' resin are bled")
	assert.Less(t, plain.Worked.Scale.Trimmed, plain.Worked.Scale.Cured)
	assert.InDelta(t, 0.45, plain.Worked.Scale.X, 1e-3)
	require.NotNil(t, plain.Worked.Zones[0].Analysis.Sandwich)
	assert.InDelta(t, 38e6*0.00459*0.00459/0.004, plain.Worked.Zones[0].Analysis.Sandwich.ShearX, 0.05e6)
	assert.Zero(t, plain.Worked.Zones[0].Analysis.Bow)
	drawing, err := h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{})
	require.NoError(t, err)
	require.Len(t, drawing.Layers, 9, "lumps are no layers")
	assert.Equal(t, v.Document.Stages[0].Items[0].Key, drawing.Layers[0].Key)
	require.Len(
		t,
		drawing.Section.Courses,
		len(drawing.Layers),
		"through the middle of the smallest layer, all are met",
	)
	for k, c := range drawing.Section.Courses {
		assert.Equal(t, k, c.Layer)
	}
	assert.InDelta(t, drawing.Section.Height, drawing.Layers[8].Running, 1e-7)
	assert.Len(t, drawing.Shapes, 2, "the skins share one, core and films the other")
	assert.Equal(
		t,
		&parts.ToolOutline{
			Name:    "flat tool T-19",
			Datum:   "pin",
			Outline: geom.Ring{{X: -0.3, Y: -0.5}, {X: 1.3, Y: -0.5}, {X: 1.3, Y: 0.7}, {X: -0.3, Y: 0.7}},
		},
		drawing.Tool,
	)
	over := copied(v.Document)
	over.Stages[0].Items[1].X = 0.4 // 0.9 m long, so its end lies where the tool ends
	drawing, err = h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{Document: over})
	require.NoError(t, err)
	assert.Empty(t, drawing.Tool.Beyond)
	over.Stages[0].Items[1].X = 0.401
	drawing, err = h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{Document: over})
	require.NoError(t, err)
	assert.Equal(t, "2", drawing.Tool.Beyond)

	first := v.Document.Stages[0].Items[0].Key
	reply := ask(
		parts.Question{
			WhatIf: &parts.WhatIf{
				Flip: []string{first},
				Turn: map[string]float64{v.Document.Stages[0].Items[1].Key: 2},
			},
			Load: &v.Document.Loads[0],
			Off:  2,
		},
	)
	assert.Greater(t, reply.WhatIf.Zones[0].Analysis.Bow, 1e-5, "a twill turned over warps the panel")
	assert.Zero(t, reply.Worked.Zones[0].Analysis.Bow, "as written it stays flat")
	drawing, err = h.Drawing(
		h.ctx,
		v.Part.Code,
		parts.DrawingQuestion{Document: &v.Document, Line: &[4]float64{0.45, -0.1, 0.45, 0.7}},
	)
	require.NoError(t, err)
	assert.InDelta(t, 0.8, drawing.Section.Length, 1e-12)
	require.Len(t, reply.Load, 6)
	failing := 0
	for _, p := range reply.Load {
		require.NotNil(t, p.TsaiWu)
		if p.First {
			failing++
			assert.Greater(t, *p.Reserve, 1.0)
		}
	}
	assert.Equal(t, 1, failing)
	assert.Greater(t, reply.Range.High, reply.Range.Low)

	bad := copied(v.Document)
	bad.Stages[0].Items[1].Outline = "nowhere"
	bad.Stages[0].Items[2].MaterialID = 4711
	faulty := ask(parts.Question{Document: bad, Outlines: true})
	require.Len(t, faulty.Faults, 2)
	assert.Equal(
		t,
		master.Fault{
			Key:     bad.Stages[0].Items[1].Key,
			Field:   "outline",
			Message: `ply 2: there is no outline "nowhere"`,
		},
		faulty.Faults[0],
	)
	assert.Nil(t, faulty.Worked)
	assert.Len(t, faulty.Outlines, 3, "what can be drawn is")
	empty := ask(parts.Question{Document: &master.Document{Format: master.Format}})
	assert.Empty(t, empty.Faults)
	assert.Nil(t, empty.Worked)
	_, err = h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{Line: &[4]float64{}})
	refusal(t, err, book.Invalid, "needs a length")
	_, err = h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{Document: bad})
	refusal(t, err, book.Invalid, "the master has 2 faults")
	drawing, err = h.Drawing(
		h.ctx,
		v.Part.Code,
		parts.DrawingQuestion{Document: &master.Document{Format: master.Format}},
	)
	require.NoError(t, err)
	assert.Empty(t, drawing.Layers)
	assert.Nil(t, drawing.Section)
	_, err = h.Ask(h.ctx, v.Part.Code, parts.Question{Letter: "X"})
	refusal(t, err, book.Missing, "no revision X")
	assert.Equal(t, before, h.count(`select count(*) from entries`))
}

func TestAFindingMayBeLetStandBySomebodyElse(t *testing.T) {
	h := open(t)
	v := h.named("SP-28")
	f := v.Worked.Findings[0]
	in := parts.NewWaiver{
		Rule:    f.Rule,
		Finding: f.Message,
		Reason:  "the fitting is anodised and sealed, drawing note 7",
		PIN:     pin,
	}
	_, err := h.Waive(h.ctx, h.as("Marek Orde"), v.Part.Code, in)
	refusal(t, err, book.Refused, "a quality person")
	wrong := in
	wrong.PIN = "000000"
	_, err = h.Waive(h.ctx, h.as("Jonas Quist"), v.Part.Code, wrong)
	refusal(t, err, book.Refused, "not your PIN")
	strange := in
	strange.Finding = "something else"
	_, err = h.Waive(h.ctx, h.as("Jonas Quist"), v.Part.Code, strange)
	refusal(t, err, book.Conflict, "no such finding")
	waived, err := h.Waive(h.ctx, h.as("Jonas Quist"), v.Part.Code, in)
	require.NoError(t, err)
	assert.Equal(t, in.Reason, waived.Worked.Findings[0].Waived)
	require.Len(t, waived.Waivers, 1)
	assert.Equal(t, "Jonas Quist", waived.Waivers[0].Person)
	_, err = h.Waive(h.ctx, h.as("Jonas Quist"), v.Part.Code, in)
	refusal(t, err, book.Conflict, "waived already")
	back, err := h.WithdrawWaiver(h.ctx, h.as("Jonas Quist"), waived.Waivers[0].ID)
	require.NoError(t, err)
	assert.Empty(t, back.Worked.Findings[0].Waived)
	assert.Empty(t, back.Waivers)
}

func TestTheShopsRulesAreItsOwn(t *testing.T) {
	h := open(t)
	rules, err := h.Rules(h.ctx)
	require.NoError(t, err)
	assert.Zero(t, rules.Version)
	assert.Len(t, rules.Rules, 11)
	before := h.named("SP-11")
	require.NotEmpty(t, before.Worked.Findings)
	limits := rules.Limits
	limits.Symmetry, limits.MaxDrop, limits.MaxStep = false, 0, 30
	in := parts.RulesIn{Version: 0, Limits: limits, Reason: "engineering note 12"}
	_, err = h.ChangeRules(h.ctx, h.as("Marek Orde"), in)
	refusal(t, err, book.Refused, "change the shop's rules")
	blank := in
	blank.Reason = " "
	_, err = h.ChangeRules(h.ctx, h.as("Jonas Quist"), blank)
	refusal(t, err, book.Invalid, "say why")
	changed, err := h.ChangeRules(h.ctx, h.as("Jonas Quist"), in)
	require.NoError(t, err)
	assert.Equal(t, 1, changed.Version)
	for _, f := range h.named("SP-11").Worked.Findings {
		assert.Equal(t, "step", f.Rule)
	}
	_, err = h.ChangeRules(h.ctx, h.as("Ada Wren"), in)
	refusal(t, err, book.Conflict, "in the meantime")
}

func TestAFamilyIsMadeIntoParts(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	v := h.named("SP-21")
	require.Len(t, v.Variants, 2)
	assert.True(t, v.Variants[0].UpToDate && v.Variants[1].UpToDate)
	long := h.named("SP-21-900")
	assert.Equal(t, "SP-21", long.Part.Family)
	assert.Len(t, long.Plies, 10, "two of each wrap")
	assert.InDelta(t, 0.9, long.Document.Stages[0].Rolled.Length, 1e-9)
	assert.InDelta(
		t,
		0.94,
		long.Document.Stages[0].Items[0].Flat.Pieces[0].Ring().Bounds().Width(),
		1e-6,
		"and its trims",
	)
	_, err := h.MakeVariants(h.ctx, by, v.Part.Code)
	refusal(t, err, book.Conflict, "every variant of SP-21 is up to date")
	_, err = h.MakeVariants(h.ctx, by, long.Part.Code)
	refusal(t, err, book.Conflict, "is no family")
	// The family itself is not built, whatever its state.
	h.release(v)
	_, err = h.StartBuild(h.ctx, by, v.Part.Code, builds.NewBuild{Serial: "0001", CureAt: h.at.Add(time.Hour)})
	refusal(t, err, book.Conflict, "SP-21 is a family: start a build of one of its variants")
	v, err = h.NewRevision(h.ctx, by, v.Part.Code)
	require.NoError(t, err)
	// The 900 is released; then the family changes and gets a third size.
	h.release(long)
	doc := copied(v.Document)
	doc.Parameters[1].Value = 42
	doc.Variants = append(doc.Variants, master.Variant{Name: "1200", Values: map[string]float64{"L": 1200}})
	v, err = h.ChangeDraft(h.ctx, by, v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	require.NoError(t, err)
	assert.False(t, v.Variants[0].UpToDate)
	v, err = h.MakeVariants(h.ctx, by, v.Part.Code)
	require.NoError(t, err)
	got := map[string]string{}
	for _, x := range v.Variants {
		assert.True(t, x.UpToDate)
		got[x.Number] = x.Letter + " " + x.State
	}
	assert.Equal(t, map[string]string{"SP-21-600": "A draft", "SP-21-900": "B draft", "SP-21-1200": "A draft"}, got)
	// A variant that cannot be is refused with its name, and nothing changes.
	doc.Parameters[0].Expr = "D*2"
	doc.Parameters[1].Expr = "L/2"
	_, err = h.ChangeDraft(h.ctx, by, v.Part.Code, parts.DraftChange{Version: v.Version, Document: doc})
	var told *book.Error
	require.ErrorAs(t, err, &told)
	assert.Contains(t, told.Error(), "variant 600: parameter L depends on itself: L → D → L")
}

func TestADifferenceNamesTheOpenBuilds(t *testing.T) {
	h := open(t)
	d, err := h.Difference(h.ctx, h.part(), "A", "B")
	require.NoError(t, err)
	changed := 0
	for _, l := range d.Lines {
		if l.Was == nil {
			changed++
			assert.Equal(t, "8", l.IsLabel)
		} else {
			assert.Empty(t, l.Fields)
		}
	}
	assert.Equal(t, 1, changed)
	assert.Empty(t, d.Process)
	open, err := h.BuildsOf(h.ctx, h.part(), "A", true)
	require.NoError(t, err)
	assert.Len(t, open, 3, "all three builds to A are still open")
	_, err = h.EndBuild(h.ctx, h.as("Marek Orde"), open[0].Code, builds.Ending{Reason: "tool is wanted elsewhere"})
	require.NoError(t, err)
	left, err := h.BuildsOf(h.ctx, h.part(), "A", true)
	require.NoError(t, err)
	assert.Len(t, left, 2)
	ever, err := h.BuildsOf(h.ctx, h.part(), "A", false)
	require.NoError(t, err)
	assert.Len(t, ever, 3, "also the one that was ended")
	assert.NotNil(t, d.FromWorked)
	_, err = h.Difference(h.ctx, h.part(), "A", "Q")
	refusal(t, err, book.Missing, "no revision Q")
	draft := h.named("SP-11")
	process := draft.Process
	process.DebulkEvery = 6
	_, err = h.ChangeDraft(
		h.ctx,
		h.as("Marek Orde"),
		h.part(),
		parts.DraftChange{Version: draft.Version, Process: &process},
	)
	require.NoError(t, err)
	d, err = h.Difference(h.ctx, h.part(), "A", "B")
	require.NoError(t, err)
	assert.Equal(t, []string{"debulkEvery"}, d.Process)
}

func TestAMasterGoesOutAndComesBackUnchanged(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	allParts, err := h.Parts(h.ctx)
	require.NoError(t, err)
	for k, p := range allParts {
		file, err := h.ExportMaster(h.ctx, p.Code, "")
		require.NoError(t, err)
		raw, err := json.Marshal(file)
		require.NoError(t, err)
		var in parts.MasterFile
		require.NoError(t, json.Unmarshal(raw, &in))
		in.Number, in.Name = "CP-"+p.Number, "Copy"
		v, err := h.ImportMaster(h.ctx, by, in)
		require.NoError(t, err, p.Number)
		assert.Equal(t, file.Hash, v.Hash, "%s: document and process are the same to the last character", p.Number)
		if k == 0 {
			// The same file where a material has another name.
			in.Number, in.Materials[0].Name = "CP-0", "Sabel"
			_, err = h.ImportMaster(h.ctx, by, in)
			refusal(t, err, book.Invalid, "nothing was stored")
		}
	}
	file, err := h.ExportMaster(h.ctx, allParts[0].Code, "A")
	require.NoError(t, err)
	file.Materials = file.Materials[:1]
	_, err = h.ImportMaster(h.ctx, by, file)
	var told *book.Error
	require.ErrorAs(t, err, &told)
	assert.Contains(t, told.Details[0], "which the file does not name")
	// Its faults are no more than a page holds, however long the file.
	long := file
	long.Document.Stages = make([]master.Stage, 10)
	for k := range long.Document.Stages {
		long.Document.Stages[k].Items = make([]master.Item, 2000)
	}
	_, err = h.ImportMaster(h.ctx, by, long)
	refusal(t, err, book.Invalid, "20000 items are more than the 500 that one master holds")
	file.Materials, file.Document = nil, master.Document{Format: master.Format}
	_, err = h.ImportMaster(h.ctx, by, file)
	refusal(t, err, book.Conflict, "already has a draft")
	file.Process = nil
	_, err = h.ImportMaster(h.ctx, by, file)
	refusal(t, err, book.Invalid, "neither a process")
}

func TestAPartBeginsEmptyAndIsFilled(t *testing.T) {
	h := open(t)
	by := h.as("Marek Orde")
	resins, err := h.Resins(h.ctx)
	require.NoError(t, err)
	in := parts.NewPart{Number: "SP-40", Name: "Bracket", ResinID: resins[0].ID}
	v, err := h.BeginPart(h.ctx, by, in)
	require.NoError(t, err)
	assert.Nil(t, v.Worked)
	assert.Equal(t, resins[0].Recipe.Name, v.Process.Recipe.Name)
	_, err = h.BeginPart(h.ctx, by, in)
	refusal(t, err, book.Conflict, "already a part SP-40")
	_, err = h.BeginPart(h.ctx, by, parts.NewPart{Number: "SP-41", Name: "x", ResinID: 4711})
	refusal(t, err, book.Invalid, "this resin is not known")
	_, err = h.BeginPart(h.ctx, by, parts.NewPart{Number: " ", Name: "x", ResinID: resins[0].ID})
	refusal(t, err, book.Invalid, "a number and a name")
	_, err = h.CheckRevision(h.ctx, h.as("Hanne Vold"), v.Part.Code, parts.RevisionSign{Version: v.Version, PIN: pin})
	refusal(t, err, book.Invalid, "without plies")
	filled, err := h.ChangeDraft(
		h.ctx,
		by,
		v.Part.Code,
		parts.DraftChange{Version: v.Version, Document: h.squares("Sable UD 150")},
	)
	require.NoError(t, err)
	h.release(filled)
}

func TestDraftsFollowAMaterialThatIsInStock(t *testing.T) {
	h := open(t)
	v := h.named("SP-25")
	twill := h.view("Sable twill 200")
	in := twill.MaterialIn
	in.Thickness = 215e-6
	next, err := h.ChangeMaterial(
		h.ctx,
		h.as("Marek Orde"),
		twill.ID,
		stock.MaterialChange{MaterialIn: in, Version: twill.Version, Stock: true},
	)
	require.NoError(t, err)
	require.NotEqual(t, twill.ID, next.ID)
	after := h.named("SP-25")
	assert.Equal(t, next.ID, after.Document.Stages[0].Items[0].MaterialID)
	assert.Equal(t, v.Version+1, after.Version)
	assert.Equal(t, twill.ID, h.named("SP-26").Document.Stages[0].Items[0].MaterialID, "what is released keeps the old")
}

func TestAToolKeepsItsLog(t *testing.T) {
	h := open(t)
	tools, err := h.Tools(h.ctx)
	require.NoError(t, err)
	require.Len(t, tools, 8)
	tool := tools[0]
	for _, x := range tools {
		if x.Name == "mandrel M-40" {
			tool = x
		}
	}
	assert.Equal(t, []string{"SP-21", "SP-21-600", "SP-21-900"}, tool.Parts)
	assert.Equal(t, 3, tool.Coats)
	by := h.as("Ines Falk")
	for n := range 3 {
		h.at = h.at.Add(time.Minute)
		tool, err = h.LogToolWork(h.ctx, by, tool.ID, parts.NewToolEvent{Kind: "cured"})
		require.NoError(t, err)
		assert.Equal(t, n+1, tool.Cures)
	}
	assert.True(t, tool.Due, "its coats last for three cures")
	h.at = h.at.Add(time.Minute)
	tool, err = h.LogToolWork(h.ctx, by, tool.ID, parts.NewToolEvent{Kind: "release coat", Note: "wiped on, 15 min"})
	require.NoError(t, err)
	assert.False(t, tool.Due)
	assert.Equal(t, 4, tool.Coats)
	h.at = h.at.Add(time.Minute)
	tool, err = h.LogToolWork(h.ctx, by, tool.ID, parts.NewToolEvent{Kind: "stripped"})
	require.NoError(t, err)
	assert.True(t, tool.Due && tool.Coats == 0)
	late := h.at.Add(time.Hour)
	_, err = h.LogToolWork(h.ctx, by, tool.ID, parts.NewToolEvent{Kind: "checked", At: &late})
	refusal(t, err, book.Invalid, "in the future")
	_, err = h.LogToolWork(h.ctx, by, 4711, parts.NewToolEvent{Kind: "checked"})
	refusal(t, err, book.Missing, "no such tool")
	assert.ErrorContains(t, h.DB.Gorm.Exec(`delete from tool_events`).Error, "permission denied")

	planner := h.as("Marek Orde")
	in := tool.ToolIn
	in.Sheet.Length = 1.2
	saved, err := h.SaveTool(h.ctx, planner, tool.ID, in)
	require.NoError(t, err)
	assert.Equal(t, 1.2, saved.Sheet.Length)
	_, err = h.SaveTool(h.ctx, planner, tool.ID, in)
	refusal(t, err, book.Conflict, "in the meantime")
	in.Name, in.Version = "flat tool T-18", saved.Version
	_, err = h.SaveTool(h.ctx, planner, tool.ID, in)
	refusal(t, err, book.Conflict, "already a tool called")
	_, err = h.SaveTool(h.ctx, planner, 0, parts.ToolIn{Name: " ", Kind: "flat tool"})
	refusal(t, err, book.Invalid, "needs a name")
}

func TestTheBenchIsToldOfWhatLiesBetweenThePlies(t *testing.T) {
	h := open(t)
	v := h.named("SP-26")
	b, err := h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		v.Part.Code,
		builds.NewBuild{Serial: "0001", CureAt: h.at.Add(40 * time.Hour)},
	)
	require.NoError(t, err)
	bench, err := h.Layup(h.ctx, b.Code, "")
	require.NoError(t, err)
	require.Len(t, bench.Others, 3)
	require.Len(t, bench.Plies, 3, "the first skin")
	assert.Empty(t, slices.DeleteFunc(bench.Notes, func(n builds.BenchNote) bool { return n.Kind != "first" }))
	core, err := h.Layup(h.ctx, b.Code, bench.Others[1].Operation)
	require.NoError(t, err)
	assert.Empty(t, core.Plies)
	before4 := []string{}
	for _, n := range core.Notes {
		before4 = append(before4, n.Kind+": "+unit.InMetric(n.Text))
	}
	assert.Equal(t, []string{
		"first: film adhesive 1, Ember film 250 at x 30.0 mm, y " +
			"30.0 mm", "first: core 1, Lattice 48 core, 4 mm at x 30.0 mm, y 30.0 mm",
		"note: ribbon along x; dry, dust blown off",
		"first: insert 1, hinge insert, glass-filled at x 100.0 mm, y " +
			"300.0 mm", "first: insert 2, hinge insert, glass-filled at x 800.0 mm, y 300.0 mm",
		"first: potting 1, Ember paste 20 at x 450.0 mm, y 300.0 mm", "hold: potting is hard to the nail",
		"first: film adhesive 2, Ember film 250 at x 30.0 mm, y 30.0 mm",
	}, before4)
	require.Len(t, core.Steps, 1, "the hold point is its one step at the bench")
	last, err := h.Layup(h.ctx, b.Code, bench.Others[2].Operation)
	require.NoError(t, err)
	assert.Equal(
		t,
		builds.BenchNote{Ply: 6, Kind: "second", Text: "a second person checks it"},
		last.Notes[len(last.Notes)-1],
	)
}

// A family is cut as its first variant, as it is drawn.
func TestTheDrawingOfAFamilyIsThatOfItsFirstVariant(t *testing.T) {
	h := open(t)
	v := h.named("SP-21")
	require.True(t, v.Document.Family())
	drawing, err := h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{})
	require.NoError(t, err)
	one, err := v.Document.Of(v.Document.Variants[0])
	require.NoError(t, err)
	alone, err := h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{Document: &one})
	require.NoError(t, err)
	assert.Equal(t, alone, drawing)
	assert.NotEmpty(t, drawing.Section.Courses)
	assert.Nil(t, drawing.Tool, "a mandrel is wrapped")
	_, err = h.Drawing(h.ctx, v.Part.Code, parts.DrawingQuestion{Letter: "Q"})
	refusal(t, err, book.Missing, "no revision Q")
}
