package shop_test

import (
	"cmp"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/geom"
	"juxta/core/nest"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

// nested starts a build, nests its plies of one material on a roll and finds
// the nest.
func (h *house) nested(build, roll string) string {
	h.t.Helper()
	line, err := h.StartNest(
		h.ctx,
		h.as("Tilda Brandl"),
		cutting.NewNest{Roll: roll, Builds: []string{build}, Steps: 3},
	)
	require.NoError(h.t, err)
	h.searched(line.Code)
	return line.Code
}

// silent makes a worker be out of sight for long.
func (h *house) silent(table string, id int64) {
	h.t.Helper()
	require.NoError(
		h.t,
		h.DB.Gorm.Table(table).Where("id = ?", id).Update("seen_at", time.Now().Add(-time.Minute)).Error,
	)
}

// searched does a worker's part of a nest, for some steps.
func (h *house) searched(code string) cutting.NestView {
	h.t.Helper()
	var n cutting.Nest
	require.NoError(h.t, h.DB.Gorm.Where("code = ?", code).Take(&n).Error)
	turn, problem, ok, err := h.BeginNest(h.ctx, n.ID)
	require.NoError(h.t, err)
	require.True(h.t, ok)
	problem.Seconds, problem.Steps = 0, max(3, problem.Steps)
	found, err := problem.Search(h.ctx, nil)
	require.NoError(h.t, err)
	best := found
	require.NoError(h.t, h.EndNest(h.ctx, turn, &best, ""))
	v, err := h.Nest(h.ctx, code)
	require.NoError(h.t, err)
	return v
}

func (h *house) newBuild(serial string) builds.BuildLine {
	h.t.Helper()
	parts, err := h.Parts(h.ctx)
	require.NoError(h.t, err)
	b, err := h.StartBuild(
		h.ctx,
		h.as("Marek Orde"),
		parts[0].Code,
		builds.NewBuild{Serial: serial, CureAt: h.at.Add(30 * time.Hour)},
	)
	require.NoError(h.t, err)
	return b
}

func TestCuttingTakesTheLengthAndHandsOnTheClock(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0030"), h.roll("SU-2207").Code
	code := h.nested(b.Code, roll)
	_, err := h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "in the freezer")
	all, err := h.TakeOut(h.ctx, by, moved(roll))
	require.NoError(t, err)
	out := all[0]
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "is sealed")
	h.at = h.at.Add(2 * time.Hour)
	h.ready(roll)
	v, err := h.ConfirmCut(h.ctx, by, code)
	require.NoError(t, err)
	after := h.roll("SU-2207")
	assert.InDelta(t, out.Length-v.Length, after.Length, 1e-9)
	require.Len(t, after.Flaws, 1, "the flaw was on the length that is gone, the splice is not")
	assert.Equal(t, "splice", after.Flaws[0].Kind)
	var spent []float64
	require.NoError(
		t,
		h.DB.Gorm.Raw(`select spent from cut_plies c join builds b on b.id = c.build_id where b.code = ?`, b.Code).
			Scan(&spent).
			Error,
	)
	require.Len(t, spent, 8)
	for _, s := range spent {
		assert.InDelta(t, out.OutTime.Spent+2*3600, s, 1)
	}
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Conflict, "already cut")
}

func TestFlawsMoveWithTheRoll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	r := h.received("Sable UD 150", "flawed", 30, nest.Flaw{From: 5, To: 5.2})
	h.ready(r.Code)
	v, err := h.ConfirmCut(h.ctx, by, h.nested(h.newBuild("0040").Code, r.Code))
	require.NoError(t, err)
	left := h.roll("flawed").Flaws
	require.Len(t, left, 1)
	assert.InDelta(t, 5-v.Length, left[0].From, 1e-9)
}

// Two plies do not come off the table good, and what lay beside is kept: the length comes off the roll once, the
// others have their ids and clocks, these wait to be cut again, and the off-cut ages like its roll.
func TestACutWithExceptions(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0040"), h.roll("SU-2207")
	code := h.nested(b.Code, roll.Code)
	h.ready(roll.Code)
	before, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	require.Len(t, before.Placed, 8)
	require.NotNil(t, before.Rest)
	_, err = h.ReportCut(
		h.ctx,
		by,
		code,
		cutting.CutReport{Missing: []cutting.MissingPly{{Piece: "B-1/1", Why: "lost"}}},
	)
	refusal(t, err, book.Invalid, "this nest has no piece B-1/1")
	report := cutting.CutReport{
		Missing: []cutting.MissingPly{
			{Piece: before.Placed[0].ID, Why: "damaged", Note: "corner lifted"},
			{Piece: before.Placed[3].ID, Why: "lost"},
		},
		Keep: &cutting.OffCutPlace{Place: "shelf 2"},
	}
	v, err := h.ReportCut(h.ctx, by, code, report)
	require.NoError(t, err)
	good := 0
	for k, p := range v.Placed {
		switch k {
		case 0:
			assert.Equal(t, "damaged", p.Missing)
		case 3:
			assert.Equal(t, "lost", p.Missing)
		default:
			good++
			assert.Empty(t, p.Missing)
		}
		assert.Equal(t, p.Missing == "", p.CutPly != "")
	}
	assert.Equal(t, 6, good)
	after := h.roll("SU-2207")
	assert.InDelta(t, roll.Length-v.Length, after.Length, 1e-9)
	waiting, err := h.WhichRoll(h.ctx, b.Code, nil)
	require.NoError(t, err)
	for _, d := range waiting {
		if d.Material == v.Material {
			assert.Equal(t, 2, d.Plies)
		}
	}
	var off stock.Roll
	require.NoError(t, h.DB.Gorm.Where("parent_id is not null").Order("id desc").Take(&off).Error)
	assert.InDelta(t, before.Rest.Width*before.Rest.Height, off.Outline.Area(), 1e-9)
	assert.Equal(t, "shelf 2", off.Place)
	assert.InDelta(t, after.OutTime.Spent, off.Spent, 1)
	again := h.nested(b.Code, roll.Code)
	w, err := h.Nest(h.ctx, again)
	require.NoError(t, err)
	assert.Len(t, w.Placed, 2)
	_, err = h.ReportCut(h.ctx, by, code, report)
	refusal(t, err, book.Conflict, "already cut")
}

// The knife's way follows the nest; the arrow on the backing is the part's 0°: a ply at +45° lies with its fibre
// along the roll, so that 0° is 45° clockwise of it, and the other way round where it is cut turned.
func TestTheKnifesWayOverANest(t *testing.T) {
	h := open(t)
	code := h.nested(h.newBuild("0040").Code, h.roll("SU-2207").Code)
	w, err := h.KnifePath(h.ctx, code, false)
	require.NoError(t, err)
	for _, p := range w.Nest.Placed {
		assert.InDelta(t, 0, math.Remainder(p.ZeroDeg+p.Angle-float64(p.Turn), 360), 1e-9)
		assert.True(t, p.FaceUp)
	}
	v := w.View()
	assert.Len(t, v.Strokes, v.Lifts)
	freed := 0
	for _, s := range v.Strokes {
		if s.Frees {
			freed++
		}
	}
	assert.Equal(t, len(w.Nest.Placed), freed)
	perimeter := 0.0
	for _, p := range w.Nest.Placed {
		perimeter += p.Outline.Perimeter()
	}
	// What ends where the sheet is cut off shares that line.
	assert.Greater(t, v.Cut, perimeter)
	assert.Less(t, v.Cut, (perimeter+w.Nest.Width)*1.1)
	assert.Empty(t, v.Unmarked)
}

func TestAFlawAcrossLiesOnTheRoll(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	r := h.received("Sable UD 150", "flawed across", 30, nest.Flaw{From: 5, To: 5.2, Low: 0.1, High: 0.2})
	for _, f := range []nest.Flaw{
		{From: 1, To: 2, Low: 0.3, High: 0.2}, {From: 1, To: 2, High: r.Width + 0.01},
		{From: 1, To: 2, Low: -0.1, High: 0.2},
	} {
		_, err := h.SetFlaws(h.ctx, by, r.Code, []nest.Flaw{f})
		refusal(t, err, book.Invalid, "across does not lie on a roll")
	}
	assert.Equal(t, 0.2, h.roll("flawed across").Flaws[0].High, "nothing of it was kept")
}

func TestAnOldRollIsRefusedAtTheCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0030"), h.roll("ST-0418").Code
	code := h.nested(b.Code, roll)
	h.ready(roll)
	_, err := h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "pass the end of its out-life by")
	queue, err := h.CutQueue(h.ctx)
	require.NoError(t, err)
	for _, d := range queue {
		if d.Material == "Sable twill 200" {
			assert.Equal(t, h.roll("ST-0455").Code, d.Rolls[0].Code, "the fresher roll is proposed")
			passed := map[string]string{}
			for _, r := range d.Rolls[1:] {
				passed[r.Batch+" "+r.Kind] = r.Passed
			}
			assert.Contains(t, passed["ST-0418 roll"], "out-life")
			assert.Contains(t, passed["ST-0460 roll"], "quarantine")
			assert.Contains(t, unit.InMetric(passed["ST-0455 off-cut"]), "mm wide")
		}
	}
}

func TestANestIsStaleOnceItsRollWasCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207").Code
	h.ready(roll)
	first, second := h.nested(h.newBuild("0030").Code, roll), h.nested(h.newBuild("0031").Code, roll)
	_, err := h.ConfirmCut(h.ctx, by, first)
	require.NoError(t, err)
	before := h.roll("SU-2207").Length
	_, err = h.ConfirmCut(h.ctx, by, second)
	refusal(t, err, book.Conflict, "has been cut since this nest was made")
	assert.Equal(t, before, h.roll("SU-2207").Length, "nothing is taken off for a refused cut")
	_, err = h.ConfirmCut(h.ctx, by, h.nested(h.build("0031").Code, roll))
	assert.NoError(t, err, "a nest of what is left can be cut")
}

// A ply is put by hand and held, the rest is searched anew, and it can be taken back; what is put over another is
// refused in the words of the shop.
func TestANestIsArrangedByHand(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207").Code
	h.ready(roll)
	code := h.nested(h.newBuild("0040").Code, roll)
	before, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	a, b := before.Placed[0], before.Placed[1]
	at := func(p cutting.PieceView, dx float64) nest.Placement {
		return nest.Placement{ID: p.ID, X: p.X + dx, Y: p.Y, Turn: p.Turn}
	}
	put, err := h.PutPiece(h.ctx, code, at(a, before.Length+0.3), nil, 0, nil)
	require.NoError(t, err)
	assert.Empty(t, put.Over)
	half := (a.Turn + 180) % 360
	turned, err := h.PutPiece(h.ctx, code, at(a, before.Length+0.3), nil, 0, &half)
	require.NoError(t, err)
	assert.Equal(t, half, turned.Turn)
	box, was := turned.Outline.Bounds(), put.Outline.Bounds()
	assert.InDelta(t, was.Min.X, box.Min.X, 2e-6, "about its middle")
	assert.InDelta(t, was.Max.Y, box.Max.Y, 2e-6)
	over := nest.Placement{ID: a.ID, X: b.X, Y: b.Y, Turn: b.Turn}
	_, err = h.ArrangeNest(h.ctx, by, code, cutting.Arrangement{Held: []string{b.ID}, Moved: []nest.Placement{over}})
	refusal(t, err, book.Invalid, a.Label)
	v, err := h.ArrangeNest(
		h.ctx,
		by,
		code,
		cutting.Arrangement{Held: []string{b.ID}, Moved: []nest.Placement{put.Placement}},
	)
	require.NoError(t, err)
	assert.Equal(t, "queued", v.State)
	v = h.searched(code)
	assert.True(t, v.Again)
	for _, p := range v.Placed {
		switch p.ID {
		case a.ID:
			assert.Equal(t, put.Placement, at(p, 0))
		case b.ID:
			assert.Equal(t, at(b, 0), at(p, 0))
		}
	}
	_, err = h.TakeNestBack(h.ctx, by, code)
	require.NoError(t, err)
	back, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	assert.Equal(t, before.Placed, back.Placed)
	_, err = h.TakeNestBack(h.ctx, by, code)
	refusal(t, err, book.Conflict, "not arranged again")
}

// After a fault: what is cut free stays, nothing lies where a ply was spoiled or beyond where the cloth ends, and what
// has no room any more is left out, and waits to be cut.
func TestTheRestIsNestedAnewRoundWhatIsCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b, roll := h.newBuild("0040"), h.roll("SU-2207").Code
	h.ready(roll)
	code := h.nested(b.Code, roll)
	before, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	var n cutting.Nest
	require.NoError(t, h.DB.Gorm.Where("code = ?", code).Take(&n).Error)
	first := slices.MinFunc(before.Placed, func(p, q cutting.PieceView) int {
		return cmp.Compare(p.Outline.Bounds().Max.X, q.Outline.Bounds().Max.X)
	})
	ends := first.Outline.Bounds().Max.X + 0.4
	require.NoError(t, h.DB.Gorm.Create(&cutting.CutJob{
		NestID: n.ID, Name: "j", Address: "a", Pieces: []string{first.ID}, State: "fault", Freed: []string{first.ID},
		Message: "the sheet ends at 0.900 m", CreatedAt: h.at, SeenAt: h.at,
	}).Error)
	spoiled := before.Placed[0].ID
	if spoiled == first.ID {
		spoiled = before.Placed[1].ID
	}
	_, err = h.ArrangeNest(h.ctx, by, code, cutting.Arrangement{Spoiled: []string{first.ID}})
	refusal(t, err, book.Conflict, "named when the cut is recorded")
	// A flaw that is mapped under what is cut free already does not stand in the way of the rest.
	under := first.Outline.Bounds()
	_, err = h.SetFlaws(h.ctx, by, roll, append(h.roll("SU-2207").Flaws, nest.Flaw{
		From: under.Min.X + 0.02, To: under.Min.X + 0.05, Low: under.Min.Y + 0.05, High: under.Min.Y + 0.08,
	}))
	require.NoError(t, err)
	now, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	assert.Empty(t, now.Stale)
	_, err = h.ArrangeNest(h.ctx, by, code, cutting.Arrangement{Spoiled: []string{spoiled}, EndsAt: ends})
	require.NoError(t, err)
	v := h.searched(code)
	require.NotEmpty(t, v.Left, "0.4 m of cloth do not hold the rest")
	require.Len(t, v.Spoiled, 2, "the ply, and the cloth from where it ends")
	assert.InDelta(t, ends, v.Spoiled[1].Bounds().Min.X, 1e-9)
	require.NotNil(t, v.Job)
	for _, f := range v.Job.Report {
		assert.Equal(t, "not cut", f.Why)
	}
	assert.Len(t, v.Job.Report, len(v.Job.Left))
	for _, p := range v.Placed {
		over, err := geom.Overlap(p.Outline, v.Spoiled[0])
		require.NoError(t, err)
		assert.Zero(t, over)
		assert.LessOrEqual(t, p.Outline.Bounds().Max.X, ends)
		if p.ID == first.ID {
			assert.Equal(t, [3]any{first.X, first.Y, first.Turn}, [3]any{p.X, p.Y, p.Turn})
		}
	}
	assert.Equal(t, 8, len(v.Placed)+len(v.Left))
	done, err := h.ConfirmCut(h.ctx, by, code)
	require.NoError(t, err)
	assert.Len(t, done.Placed, len(v.Placed))
	waiting, err := h.WhichRoll(h.ctx, b.Code, nil)
	require.NoError(t, err)
	for _, d := range waiting {
		if d.Material == v.Material {
			assert.Equal(t, len(v.Left), d.Plies)
		}
	}
}

// A flaw is found under a nest that was made: it says so, is not cut, and goes round it when it is searched again.
func TestAFlawFoundUnderANest(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207")
	h.ready(roll.Code)
	code := h.nested(h.newBuild("0040").Code, roll.Code)
	v, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	assert.Empty(t, v.Stale)
	box := v.Placed[0].Outline.Bounds()
	middle := geom.Point{X: (box.Min.X + box.Max.X) / 2, Y: (box.Min.Y + box.Max.Y) / 2}
	flaw := nest.Flaw{From: middle.X - 0.01, To: middle.X + 0.01, Low: middle.Y - 0.01, High: middle.Y + 0.01}
	_, err = h.SetFlaws(h.ctx, by, roll.Code, append(h.roll("SU-2207").Flaws, flaw))
	require.NoError(t, err)
	v, err = h.Nest(h.ctx, code)
	require.NoError(t, err)
	assert.Contains(t, v.Stale, v.Placed[0].Label)
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Conflict, "does not fit")
	_, err = h.ArrangeNest(h.ctx, by, code, cutting.Arrangement{})
	require.NoError(t, err)
	v = h.searched(code)
	assert.Empty(t, v.Stale)
	_, err = h.ConfirmCut(h.ctx, by, code)
	require.NoError(t, err)
}

// Two plans of the same kit: one is cut, the other is released and not handed to the table any more. Whoever cut it
// all the same says so, and the plies are there twice.
func TestAPlanWhosePliesAreCutIsReleased(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	b := h.newBuild("0040").Code
	r := h.received("Sable UD 150", "another", 30)
	h.ready(r.Code)
	h.ready(h.roll("SU-2207").Code)
	one, other := h.nested(b, r.Code), h.nested(b, h.roll("SU-2207").Code)
	v, err := h.ConfirmCut(h.ctx, by, one)
	require.NoError(t, err)
	left, err := h.Nest(h.ctx, other)
	require.NoError(t, err)
	assert.Equal(t, "released", left.State)
	assert.Contains(t, left.Message, v.Code)
	h.Table = "127.0.0.1:1"
	_, err = h.CutOnTable(h.ctx, by, other, cutting.StartCut{})
	refusal(t, err, book.Conflict, "was released: its plies were cut by "+v.Code)
	assert.InDelta(t, 30-v.Length, h.roll("another").Length, 1e-9)
	left, err = h.ConfirmCut(h.ctx, by, other)
	require.NoError(t, err)
	assert.Equal(t, "cut", left.State)
}

// The shop enters its table: times follow from it, nests keep off its ends, and one that was made before and lies
// across one is not cut on it.
func TestTheShopEntersItsCutter(t *testing.T) {
	h := open(t)
	keeper := h.as("Jonas Quist")
	v, err := h.Cutter(h.ctx)
	require.NoError(t, err)
	assert.Zero(t, v.Version)
	roll := h.roll("SU-2207").Code
	b := h.newBuild("0040").Code
	before := h.nested(b, roll)
	slow, err := h.KnifePath(h.ctx, before, false)
	require.NoError(t, err)
	c := v.Cutter
	c.Feed, c.Table = 0.1, 0.9
	_, err = h.ChangeCutter(h.ctx, h.as("Tilda Brandl"), cutting.CutterIn{Cutter: c, Reason: "the maker's papers"})
	refusal(t, err, book.Refused, "")
	wrong := c
	wrong.CornerDeg = 0
	_, err = h.ChangeCutter(h.ctx, keeper, cutting.CutterIn{Cutter: wrong, Reason: "x"})
	refusal(t, err, book.Invalid, "the angle from which the knife is lifted")
	v, err = h.ChangeCutter(h.ctx, keeper, cutting.CutterIn{Cutter: c, Reason: "the maker's papers"})
	require.NoError(t, err)
	assert.Equal(t, 1, v.Version)
	_, err = h.ChangeCutter(h.ctx, keeper, cutting.CutterIn{Cutter: c, Reason: "again"})
	refusal(t, err, book.Conflict, "somebody changed")
	_, err = h.KnifePath(h.ctx, before, false)
	refusal(t, err, book.Conflict, "lies across the end of the cutting table")
	w, err := h.KnifePath(h.ctx, h.nested(b, roll), false)
	require.NoError(t, err)
	assert.Greater(t, w.Path.Seconds, slow.Path.Seconds)
	for _, p := range w.Nest.Placed {
		box := p.Outline.Bounds()
		assert.Equal(t, math.Floor(box.Min.X/0.9), math.Floor((box.Max.X-1e-6)/0.9), p.Label)
	}
}

// The roll runs out while the knife is at it: what was cut is recorded all the same, and every ply carries the clock
// that the kit will be refused by. Nobody begins to cut it any more.
func TestARollThatRunsOutInTheMiddleOfTheCut(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207").Code
	h.ready(roll)
	code := h.nested(h.newBuild("0040").Code, roll)
	h.at = h.at.Add(60 * 24 * time.Hour)
	_, err := h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "must not be cut")
	for _, late := range []time.Time{h.at.Add(time.Hour), h.at.Add(-time.Hour), h.at.Add(-61 * 24 * time.Hour)} {
		_, err = h.ReportCut(h.ctx, by, code, cutting.CutReport{Began: &late})
		assert.ErrorContains(t, err, map[time.Time]string{
			h.at.Add(time.Hour): "still to come", h.at.Add(-time.Hour): "had run out by then",
			h.at.Add(-61 * 24 * time.Hour): "only after that",
		}[late])
	}
	h.Table = "127.0.0.1:1"
	_, err = h.CutOnTable(h.ctx, by, code, cutting.StartCut{})
	refusal(t, err, book.Refused, "must not be cut")
	v, err := h.Nest(h.ctx, code)
	require.NoError(t, err)
	var n cutting.Nest
	require.NoError(t, h.DB.Gorm.Where("code = ?", code).Take(&n).Error)
	all := []string{}
	for _, p := range v.Placed {
		all = append(all, p.ID)
	}
	require.NoError(t, h.DB.Gorm.Create(&cutting.CutJob{
		NestID: n.ID, Name: "j", Address: "a", Pieces: all, State: "done", Freed: all, CreatedAt: h.at, SeenAt: h.at,
	}).Error)
	done, err := h.ConfirmCut(h.ctx, by, code)
	require.NoError(t, err)
	assert.Equal(t, "cut", done.State)
	assert.Negative(t, done.Builds[0].OutTime.Left)
}

// Cut by hand, when the knife began is said: the roll had not run out then.
func TestARollThatRanOutWhileItWasCutByHand(t *testing.T) {
	h := open(t)
	by := h.as("Tilda Brandl")
	roll := h.roll("SU-2207")
	h.ready(roll.Code)
	code := h.nested(h.newBuild("0040").Code, roll.Code)
	now, err := h.Roll(h.ctx, roll.Code)
	require.NoError(t, err)
	left := time.Duration((now.OutTime.Life - now.OutTime.Spent) * float64(time.Second))
	began := h.at.Add(left - 10*time.Minute)
	h.at = h.at.Add(left + 5*time.Minute)
	_, err = h.ConfirmCut(h.ctx, by, code)
	refusal(t, err, book.Refused, "must not be cut")
	done, err := h.ReportCut(h.ctx, by, code, cutting.CutReport{Began: &began})
	require.NoError(t, err)
	assert.Equal(t, "cut", done.State)
	assert.Negative(t, done.Builds[0].OutTime.Left, "every ply carries the clock")
}
