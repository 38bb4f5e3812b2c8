package shop

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/finish"
	"juxta/shop/inspect"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// SearchHit is one hit of a search.
type SearchHit struct {
	Kind  string `json:"kind"`
	ID    string `json:"id"`
	Label string `json:"label"`
	Path  string `json:"path"`
}

// Find searches rolls, parts, builds and runs by id, number, name, serial or
// batch.
func (s *Shop) Find(ctx context.Context, q string) ([]SearchHit, error) {
	out := []SearchHit{}
	q = strings.TrimSpace(q)
	if q == "" {
		return out, nil
	}
	pattern := book.LikePattern(q)
	err := book.TextError(s.DB.Gorm.WithContext(ctx).Raw(`
		(select 'build' as kind, b.code as id, t.number || ' · ' || b.serial || ' · ' || t.name as label,
		'/thread/' || b.code as path
		 from builds b join revisions r on r.id = b.revision_id join parts t on t.id = r.part_id
		 where b.code ilike @q or t.number ilike @q or t.name ilike @q or b.serial ilike @q order by b.id desc limit 12)
		union all
		(select r.kind, r.code, m.name || ', batch ' || l.lot, '/thread/' || r.code from rolls r
		join materials m on m.id = r.material_id join batches l on l.id = r.batch_id
		 where r.code ilike @q or l.lot ilike @q or m.name ilike @q order by r.id desc limit 12)
		union all
		(select 'batch', l.code, m.name || ', lot ' || l.lot, '/freezer/batches/' || l.code from batches l
		join materials m on m.id = l.material_id
		 where l.code ilike @q or l.lot ilike @q or m.name ilike @q order by l.id desc limit 12)
		union all
		(select 'part', code, number || ' · ' || name, '/parts/' || code from parts
		where code ilike @q or number ilike @q or name ilike @q order by number limit 12)
		union all
		(select 'run', code, 'cure run, ' || state, '/cure/' || code from runs where code ilike @q
		order by id desc limit 12)`, map[string]any{"q": pattern}).Scan(&out).Error)
	return out, err
}

// BuildThread leads from a part to everything that went into it.
type BuildThread struct {
	Build   builds.BuildLine    `json:"build"`
	Rolls   []ThreadRoll        `json:"rolls"`
	People  []ThreadWork        `json:"people"`
	Layup   builds.LayupView    `json:"layup"`
	Kit     builds.KitView      `json:"kit"`
	Bags    []builds.BagView    `json:"bags" doc:"In the order of the route; of one pass one"`
	Runs    []curing.RunLine    `json:"runs" doc:"Every run that it was in, stopped and failed ones too, in the order they began"`
	Release inspect.ReleaseView `json:"release"`
	Log     []book.LogLine      `json:"log"`

	Operations []finish.WorkStep    `json:"operations" doc:"Of the route, none before what it waits for; empty: one pass"`
	Preforms   []builds.PreformView `json:"preforms,omitempty"`

	Revision SignedRevision `json:"revision"`
	Batches  []ThreadBatch  `json:"batches" doc:"That its plies are of, with the tests that they were accepted by"`
	LogHead  book.Head      `json:"logHead" doc:"End of the whole log when this was read"`
}

// SignedRevision is who wrote, checked and released what a build is held against.
type SignedRevision struct {
	Tool       string     `json:"tool"`
	Hash       string     `json:"hash" doc:"Of the document and the process: SHA-256, hexadecimal"`
	WrittenBy  string     `json:"writtenBy,omitempty"`
	CheckedBy  string     `json:"checkedBy,omitempty"`
	CheckedAt  *time.Time `json:"checkedAt,omitempty"`
	ReleasedBy string     `json:"releasedBy,omitempty"`
	ReleasedAt *time.Time `json:"releasedAt,omitempty"`
}

// ThreadBatch is a batch with how it was accepted.
type ThreadBatch struct {
	Code      string                 `json:"code"`
	Lot       string                 `json:"lot"`
	Material  string                 `json:"material"`
	State     string                 `json:"state"`
	DecidedBy string                 `json:"decidedBy,omitempty"`
	DecidedAt *time.Time             `json:"decidedAt,omitempty"`
	Decision  string                 `json:"decision,omitempty"`
	Override  string                 `json:"override,omitempty" doc:"Why it was cut although it was blocked"`
	Tests     []stock.AcceptanceLine `json:"tests"`
}

// ThreadRoll is a roll and the plies of a build that came from it.
type ThreadRoll struct {
	Code     string    `json:"code"`
	Material string    `json:"material"`
	Batch    string    `json:"batch"`
	Plies    []int     `json:"plies"`
	CutAt    time.Time `json:"cutAt"`
	Nest     string    `json:"nest"`
}

// ThreadWork is a person and what they signed.
type ThreadWork struct {
	Person string `json:"person"`
	What   string `json:"what"`
	Times  int    `json:"times"`
}

// ThreadOfBuild follows the thread back from a part.
func (s *Shop) ThreadOfBuild(ctx context.Context, code string) (BuildThread, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (BuildThread, error) { return s.threadOfBuild(db, code) })
}

func (s *Shop) threadOfBuild(db *gorm.DB, code string) (BuildThread, error) {
	var t BuildThread
	var err error
	if t.Release, err = s.ReleaseView(db, code); err != nil {
		return t, err
	}
	whole := t.Release.Whole
	t.Layup, t.Kit, t.Bags, t.Build = whole.Layup, whole.Kit, whole.Bags, whole.Layup.Build
	t.Preforms = whole.Forms
	code = t.Build.Code
	t.Operations = t.Release.Work.Operations
	t.Runs = []curing.RunLine{}
	for _, run := range whole.AllRuns {
		lines, err := s.RunLines(db, "h.code = ?", run)
		if err != nil {
			return t, err
		}
		t.Runs = append(t.Runs, lines[0])
	}
	if t.Rolls, err = threadRolls(db, code); err != nil {
		return t, err
	}
	t.People = []ThreadWork{}
	if err := db.Raw(`select p.name as person, e.what, count(*) as times from entries e
		join people p on p.id = e.person_id
		where e.subject = ? or e.subject in ? or e.subject in (select n.code from nests n
		join nest_pieces np on np.nest_id = n.id join builds b on b.id = np.build_id where b.code = ?)
		group by p.name, e.what order by p.name, min(e.seq)`, code, append(whole.AllRuns, ""), code).
		Scan(&t.People).Error; err != nil {
		return t, err
	}
	if t.Revision, err = s.signedRevision(db, code); err != nil {
		return t, err
	}
	t.Batches = []ThreadBatch{}
	views, err := s.BatchViews(
		db,
		"b.id in (select r.batch_id from cut_plies c join rolls r on r.id = c.roll_id join builds x on x.id = "+
			"c.build_id where x.code = ?)",
		code,
	)
	if err != nil {
		return t, err
	}
	for _, b := range views {
		t.Batches = append(
			t.Batches,
			ThreadBatch{
				b.Code,
				b.Lot,
				b.Material,
				b.State,
				b.DecidedBy,
				b.DecidedAt,
				b.Decision,
				b.OverrideWhy,
				b.Tests,
			},
		)
	}
	if t.LogHead, err = book.LogHead(db); err != nil {
		return t, err
	}
	t.Log, err = s.LogOf(db, append([]string{code}, whole.AllRuns...)...)
	return t, err
}

// threadRolls are the rolls that a build's plies were cut from, a nest each.
func threadRolls(db *gorm.DB, code string) ([]ThreadRoll, error) {
	out := []ThreadRoll{}
	var rows []struct {
		Code, Material, Batch, Nest string
		Ply                         int
		CutAt                       time.Time
	}
	if err := db.Raw(`select r.code, m.name as material, l.lot as batch, n.code as nest, p.number as ply, c.cut_at
		from cut_plies c join builds b on b.id = c.build_id
		join rolls r on r.id = c.roll_id join batches l on l.id = r.batch_id join materials m on m.id = c.material_id
		join nests n on n.id = c.nest_id join plies p on p.id = c.ply_id
		where b.code = ? order by n.id, p.number`, code).Scan(&rows).Error; err != nil {
		return nil, err
	}
	for _, r := range rows {
		if n := len(out); n == 0 || out[n-1].Nest != r.Nest {
			out = append(
				out,
				ThreadRoll{Code: r.Code, Material: r.Material, Batch: r.Batch, CutAt: r.CutAt, Nest: r.Nest},
			)
		}
		last := &out[len(out)-1]
		last.Plies = append(last.Plies, r.Ply)
	}
	return out, nil
}

func (s *Shop) signedRevision(db *gorm.DB, code string) (SignedRevision, error) {
	var r parts.Revision
	if err := db.Where("id = (select revision_id from builds where code = ?)", code).Take(&r).Error; err != nil {
		return SignedRevision{}, err
	}
	m, err := s.Master(db, r)
	if err != nil {
		return SignedRevision{}, err
	}
	names, err := s.Names(db)
	if err != nil {
		return SignedRevision{}, err
	}
	named := func(id *int64) string {
		if id == nil {
			return ""
		}
		return names[*id]
	}
	return SignedRevision{
		r.Process.Tool,
		m.Hash(),
		named(r.ChangedBy),
		named(r.CheckedBy),
		r.CheckedAt,
		named(r.ReleasedBy),
		r.ReleasedAt,
	}, nil
}

// RollThread leads from a roll to every part it went into.
type RollThread struct {
	Roll   stock.RollDetail  `json:"roll"`
	Builds []RollThreadBuild `json:"builds"`
}

// RollThreadBuild is a build and the plies that this roll gave it.
type RollThreadBuild struct {
	builds.BuildLine
	FromRoll []RollThreadPly `json:"fromRoll"`
}

// RollThreadPly is one ply that a roll gave.
type RollThreadPly struct {
	Ply    int       `json:"ply"`
	CutPly string    `json:"cutPly"`
	CutAt  time.Time `json:"cutAt"`
	Laid   bool      `json:"laid"`
}

// ThreadOfRoll follows the thread forward from a roll.
func (s *Shop) ThreadOfRoll(ctx context.Context, code string) (RollThread, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (RollThread, error) { return s.threadOfRoll(db, code) })
}

func (s *Shop) threadOfRoll(db *gorm.DB, code string) (RollThread, error) {
	detail, err := s.DetailOf(db, code)
	if err != nil {
		return RollThread{}, err
	}
	t := RollThread{Roll: detail, Builds: []RollThreadBuild{}}
	lines, err := s.BuildLines(
		db,
		"b.id in (select c.build_id from cut_plies c join rolls r on r.id = c.roll_id where r.code = ?)",
		detail.Code,
	)
	if err != nil {
		return t, err
	}
	plies, err := s.pliesFromRoll(db, detail.Code)
	if err != nil {
		return t, err
	}
	for _, l := range lines {
		t.Builds = append(t.Builds, RollThreadBuild{l, plies[l.Code]})
	}
	return t, nil
}

func (s *Shop) pliesFromRoll(db *gorm.DB, roll string) (map[string][]RollThreadPly, error) {
	var rows []struct {
		RollThreadPly
		Build string
	}
	err := db.Raw(`select b.code as build, p.number as ply, c.code as cut_ply, c.cut_at,
		exists (select from ply_records l where l.cut_ply_id = c.id and l.taken_back_at is null) as laid
		from cut_plies c join rolls r on r.id = c.roll_id join builds b on b.id = c.build_id
		join plies p on p.id = c.ply_id
		where r.code = ? order by b.id, p.number`, roll).Scan(&rows).Error
	out := map[string][]RollThreadPly{}
	for _, r := range rows {
		out[r.Build] = append(out[r.Build], r.RollThreadPly)
	}
	return out, err
}
