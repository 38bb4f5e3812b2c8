package cutting

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// CutJobView is a nest on the table: what is planned and what is cut.
type CutJobView struct {
	State   string        `json:"state" enum:"queued,running,fault,stopped,done"`
	Message string        `gorm:"column:says" json:"message,omitempty" doc:"Why it stopped"`
	Piece   string        `json:"piece,omitempty" doc:"That the knife is at"`
	Label   string        `json:"label,omitempty" doc:"Of that piece"`
	Freed   []string      `json:"freed" doc:"Pieces that are cut free, in their order, of all that was done of this nest"`
	Left    []string      `json:"left" doc:"Pieces that are not"`
	X       float64       `json:"x" doc:"Of the tool on the sheet, m"`
	Y       float64       `json:"y"`
	Share   float64       `json:"share" doc:"Of the program"`
	Seconds float64       `json:"seconds" doc:"That the program takes by the plan"`
	ToGo    float64       `json:"toGo" doc:"Of them that are left by the share of the program that is run, s"`
	ByKit   bool          `json:"byKit"`
	Report  []MissedPiece `json:"report" doc:"What the plies that are not free come to be reported as, until a person says otherwise"`
	Since   *time.Time    `json:"since,omitempty"`
	Ended   *time.Time    `json:"ended,omitempty"`
}

// MissedPiece is what a piece that the table did not cut free is reported as.
type MissedPiece struct {
	Piece string `json:"piece"`
	Why   string `json:"why" enum:"damaged,lost,flawed,not cut"`
}

// fates are those of what a job has left: where it was through, or at a piece, that one is spoiled.
func (v CutJobView) fates() []MissedPiece {
	out := []MissedPiece{}
	for _, id := range v.Left {
		why := "not cut"
		if v.State == "done" || id == v.Piece {
			why = "damaged"
		}
		out = append(out, MissedPiece{id, why})
	}
	return out
}

// Moving says whether a nest is searched or cut right now.
func (v NestView) Moving() bool {
	return v.State == "queued" || v.State == "running" ||
		v.Job != nil && (v.Job.State == "queued" || v.Job.State == "running")
}

// StartCut is how a nest is cut on the table.
type StartCut struct {
	ByKit bool     `json:"byKit,omitempty" doc:"One kit after the other"`
	Skip  []string `json:"skip,omitempty" doc:"Pieces that are spoiled and not cut any more" maxItems:"3000"`
}

// cutJobs are all of a nest, the last first.
func cutJobs(db *gorm.DB, nestID int64) (all []CutJob, err error) {
	err = db.Where("nest_id = ?", nestID).Order("id desc").Find(&all).Error
	return all, err
}

// open says whether a job is not over.
func (j CutJob) open() bool { return j.State == "queued" || j.State == "running" }

// freed are the pieces that some jobs cut free, the first first.
func freed(jobs []CutJob) []string {
	out := []string{}
	for _, j := range slices.Backward(jobs) {
		out = append(out, j.Freed...)
	}
	return out
}

func jobView(db *gorm.DB, n Nest, placed []PieceView) (*CutJobView, error) {
	jobs, err := cutJobs(db, n.ID)
	if err != nil || len(jobs) == 0 {
		return nil, err
	}
	j := jobs[0]
	v := CutJobView{
		State: j.State, Message: j.Message, Piece: j.Piece, Freed: freed(jobs), Left: []string{}, X: j.X, Y: j.Y,
		Share:   j.Share,
		Seconds: j.Seconds, ByKit: j.ByKit, Since: j.StartedAt, Ended: j.EndedAt,
	}
	// Arranged again since, the knife is at none.
	if j.EndedAt != nil && n.EndedAt != nil && n.EndedAt.After(*j.EndedAt) {
		v.Piece = ""
	}
	for _, p := range placed {
		if p.ID == v.Piece {
			v.Label = p.Label
		}
		v.Message = replaceWord(v.Message, p.ID, p.Label)
		if !slices.Contains(v.Freed, p.ID) {
			v.Left = append(v.Left, p.ID)
		}
	}
	v.ToGo, v.Report = v.Seconds*(1-v.Share), v.fates()
	return &v, nil
}

// replaceWord puts a piece's label where a table names it by its id.
func replaceWord(says, id, label string) string {
	words := strings.Split(says, " ")
	for k, w := range words {
		if w == id {
			words[k] = label
		}
	}
	return strings.Join(words, " ")
}

// CutOnTable hands a nest to the table: all of it, or what an earlier program has left.
func (s *Room) CutOnTable(ctx context.Context, by book.By, code string, in StartCut) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "cut on table "+code, in, func(tx *book.Tx) (NestView, error) {
		n, err := book.Find[Nest](book.Locked(tx.DB), ident.Nest, code, "nest")
		if err != nil {
			return NestView{}, err
		}
		jobs, err := cutJobs(tx.DB, n.ID)
		if err != nil {
			return NestView{}, err
		}
		switch {
		case s.Table == "":
			return NestView{}, book.NotNow.Errorf(
				"no cutting table is connected: take the program to it, or cut by hand",
			)
		case n.State == "cut":
			return NestView{}, book.Done.Errorf("this nest is already cut")
		case n.State == "released":
			return NestView{}, book.NotNow.Errorf("this nest was released: %s", n.Message)
		case n.State != "done":
			return NestView{}, book.NotNow.Errorf("this nest is not finished: stop it first, or wait")
		case len(jobs) > 0 && jobs[0].open():
			return NestView{}, book.Done.Errorf("this nest is on the table already")
		}
		var roll stock.Roll
		if err := tx.Take(&roll, n.RollID).Error; err != nil {
			return NestView{}, err
		}
		if err := s.current(tx, roll, n); err != nil {
			return NestView{}, err
		}
		v, err := s.nestView(tx.DB, n.Code)
		if err != nil {
			return NestView{}, err
		}
		done := freed(jobs)
		job := CutJob{
			NestID: n.ID, Name: fmt.Sprintf("%s-%d", n.Code, len(jobs)+1), Address: s.Table, ByKit: in.ByKit,
			State: "queued",
			Freed: []string{}, CreatedAt: tx.Now, SeenAt: time.Now().UTC(),
		}
		for _, p := range v.Placed {
			if !slices.Contains(done, p.ID) && !slices.Contains(in.Skip, p.ID) {
				job.Pieces = append(job.Pieces, p.ID)
			}
		}
		if len(job.Pieces) == 0 {
			return NestView{}, book.Wrong.At("skip", "nothing is left to cut")
		}
		way, err := wayOver(tx.DB, v, in.ByKit, job.Pieces...)
		if err != nil {
			return NestView{}, err
		}
		job.Seconds = way.Path.Seconds
		if err := tx.Create(&job).Error; err != nil {
			return NestView{}, err
		}
		if err := s.Queue.Cut(tx.Ctx, tx.SQL(), job.ID); err != nil {
			return NestView{}, fmt.Errorf("queue the cut: %w", err)
		}
		if err := tx.Log("nest sent to the table", n.Code, "", map[string]any{"job": job.Name,
			"pieces": len(job.Pieces)}); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

// StopCut stops the knife.
func (s *Room) StopCut(ctx context.Context, by book.By, code string) (NestView, error) {
	return book.Write(ctx, s.Book, by, book.CutPlies, "stop cut "+code, nil, func(tx *book.Tx) (NestView, error) {
		n, err := book.Find[Nest](tx.DB, ident.Nest, code, "nest")
		if err != nil {
			return NestView{}, err
		}
		jobs, err := cutJobs(book.Locked(tx.DB), n.ID)
		if err != nil {
			return NestView{}, err
		}
		if len(jobs) == 0 || !jobs[0].open() {
			return NestView{}, book.NotNow.Errorf("this nest is not on the table")
		}
		if err := tx.Model(&jobs[0]).Update("stop", true).Error; err != nil {
			return NestView{}, err
		}
		if err := tx.Log("knife stopped", n.Code, "", nil); err != nil {
			return NestView{}, err
		}
		return s.nestView(tx.DB, n.Code)
	})
}

const jobs = "cut_jobs"

// BeginCut takes a job up and gives its way; ok is false when it is over, or another worker runs it.
// The turn is given up with Abandon; the table goes on by itself.
func (s *Room) BeginCut(
	ctx context.Context,
	id int64,
) (turn book.SearchTurn, job CutJob, way KnifePathView, ok bool, err error) {
	turn, ok, err = s.TakeUp(ctx, jobs, id)
	if err != nil || !ok {
		return turn, job, way, false, err
	}
	way, err = book.View(ctx, s.Book, func(db *gorm.DB) (KnifePathView, error) {
		if err := db.Take(&job, id).Error; err != nil {
			return KnifePathView{}, err
		}
		var n Nest
		if err := db.Take(&n, job.NestID).Error; err != nil {
			return KnifePathView{}, err
		}
		v, err := s.nestView(db, n.Code)
		if err != nil {
			return KnifePathView{}, err
		}
		return wayOver(db, v, job.ByKit, job.Pieces...)
	})
	return turn, job, way, err == nil, err
}

// CutStarted notes that the table runs a job: from then on it is never begun again.
func (s *Room) CutStarted(ctx context.Context, id int64) error {
	return s.DB.Gorm.WithContext(ctx).Model(&CutJob{ID: id}).Update("started_at", s.Now().UTC()).Error
}

// CutProgress keeps what the table told; stop says that somebody asked it to stop.
func (s *Room) CutProgress(ctx context.Context, turn book.SearchTurn, j CutJob) (stop bool, err error) {
	return s.Progress(ctx, turn, &j, "X", "Y", "Share", "Piece", "Freed")
}

// ForsakenCuts puts jobs whose worker has fallen silent back into the queue.
func (s *Room) ForsakenCuts(ctx context.Context) error { return s.Forsaken(ctx, jobs, s.Queue.Cut) }

// EndCut notes how a job ended.
func (s *Room) EndCut(ctx context.Context, turn book.SearchTurn, state, says string) error {
	_, err := book.Write(ctx, s.Book, book.By{}, book.CutPlies, "end cut", turn, func(tx *book.Tx) (struct{}, error) {
		j, err := book.LockTurn[CutJob](tx, turn)
		if err != nil {
			return struct{}{}, err
		}
		var n Nest
		if err := tx.Take(&n, j.NestID).Error; err != nil {
			return struct{}{}, err
		}
		j.State, j.Message, j.EndedAt = state, says, &tx.Now
		if err := tx.Save(&j).Error; err != nil {
			return struct{}{}, err
		}
		return struct{}{}, tx.Log("table "+state, n.Code, says, map[string]any{"job": j.Name, "freed": len(j.Freed)})
	})
	return err
}
