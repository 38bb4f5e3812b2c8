package shop

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/curing"
	"juxta/shop/stock"
)

// Day is a person's day: what they can go on with, what runs unattended and when it wants
// somebody, what is about to be too late, and what the shift before left them.
type Day struct {
	Now    time.Time           `json:"now"`
	Jobs   []builds.Job        `json:"jobs" doc:"For this person, those that must begin first before others"`
	Others int                 `json:"others" doc:"Jobs that can be gone on with, and are for somebody else"`
	Asks   []Ask               `json:"asks" doc:"What waits for this person besides builds"`
	Itself []RunningUnattended `json:"itself" doc:"What runs unattended, the next to want somebody first"`
	Late   []AtRisk            `json:"late"`
	Notes  []Handover          `json:"notes" doc:"Of the last two days, the newest first"`
}

// Ask is something besides a build that waits for somebody.
type Ask struct {
	Label string `json:"label"`
	Path  string `json:"path"`
}

// RunningUnattended is something that goes on without anybody.
type RunningUnattended struct {
	Label string     `json:"label"`
	Path  string     `json:"path"`
	Until *time.Time `json:"until,omitempty"`
	Then  string     `json:"then" doc:"What it wants then"`
}

// AtRisk is something that is too late, or about to be.
type AtRisk struct {
	What  string    `json:"what"`
	Label string    `json:"label"`
	Path  string    `json:"path"`
	At    time.Time `json:"at" doc:"When it is, or was, too late"`
	Past  bool      `json:"past"`
}

// Handover is what one shift left to the next.
type Handover struct {
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	Text   string    `json:"text"`
}

// Wall is the day of the whole shop as a screen in the room shows it: names and times, and
// nothing to press.
type Wall struct {
	Now    time.Time           `json:"now"`
	Jobs   []builds.Job        `json:"jobs"`
	Itself []RunningUnattended `json:"itself"`
	Late   []AtRisk            `json:"late"`
	Notes  []Handover          `json:"notes"`
	Places Places              `json:"places"`
}

// soon is how long before its end material is spoken of as about to be too late.
const soon = 12 * time.Hour

// Today is a person's day.
func (s *Shop) Today(ctx context.Context, p *book.Person) (Day, error) {
	// Everybody asks for the jobs of all builds: they are worked out once until something is recorded.
	all, err := book.Cached(ctx, s.Book, "jobs", s.Jobs)
	if err != nil {
		return Day{}, err
	}
	return book.View(ctx, s.Book, func(db *gorm.DB) (Day, error) {
		now := s.Now()
		d := Day{Now: now, Jobs: []builds.Job{}, Asks: []Ask{}}
		holds := map[string]bool{"": true}
		may := func(j builds.Job) bool {
			act, asks := j.Asks()
			if book.CheckRole(p, act) != nil {
				return false
			}
			if _, asked := holds[asks]; !asked {
				holds[asks] = book.HoldsAll(db, p, []string{asks}, string(act), now) == nil
			}
			return holds[asks]
		}
		for _, j := range all {
			switch {
			case may(j):
				d.Jobs = append(d.Jobs, j.At(now))
			case j.Waits == nil:
				d.Others++
			}
		}
		var err error
		if d.Asks, err = s.asks(db, p); err != nil {
			return d, err
		}
		d.Itself, d.Late, d.Notes, err = s.goesOn(db, all, now)
		return d, err
	})
}

// KeepReady works the jobs of all builds out from time to time until ctx is done, so that
// nobody is the first to ask for them. Whatever fails is told to whoever asks next.
func (s *Shop) KeepReady(ctx context.Context) {
	ticker := time.NewTicker(20 * time.Second)
	defer ticker.Stop()
	for {
		_, _ = s.Jobs(ctx)
		select {
		case <-ctx.Done():
			return
		case <-ticker.C:
		}
	}
}

// OnTheWall is the day of the whole shop.
func (s *Shop) OnTheWall(ctx context.Context) (Wall, error) {
	places, err := s.ShopPlaces(ctx)
	if err != nil {
		return Wall{}, err
	}
	return book.Cached(ctx, s.Book, "wall", func(ctx context.Context) (Wall, error) {
		return book.View(ctx, s.Book, func(db *gorm.DB) (Wall, error) {
			w := Wall{Now: s.Now(), Places: places}
			var err error
			if w.Jobs, err = s.JobsOf(db); err != nil {
				return w, err
			}
			for k, j := range w.Jobs {
				w.Jobs[k] = j.At(w.Now)
			}
			w.Itself, w.Late, w.Notes, err = s.goesOn(db, w.Jobs, w.Now)
			return w, err
		})
	})
}

func (s *Shop) goesOn(
	db *gorm.DB,
	jobs []builds.Job,
	now time.Time,
) ([]RunningUnattended, []AtRisk, []Handover, error) {
	itself, err := s.itself(db, jobs, now)
	if err != nil {
		return nil, nil, nil, err
	}
	late, err := s.late(db, jobs, now)
	if err != nil {
		return nil, nil, nil, err
	}
	notes := []Handover{}
	err = db.Raw(`select h.at, p.name as person, h.says as text from handovers h join people p on p.id = h.person_id
		where h.at > ? order by h.id desc limit 12`, now.Add(-48*time.Hour)).Scan(&notes).Error
	return itself, late, notes, err
}

// itself is what runs unattended: runs, debulks, thawing rolls, work that is out, and what
// hardens or dries unattended.
func (s *Shop) itself(db *gorm.DB, jobs []builds.Job, now time.Time) ([]RunningUnattended, error) {
	out := []RunningUnattended{}
	var runs []curing.Run
	if err := db.Where("state in ('queued', 'running')").Order("id").Find(&runs).Error; err != nil {
		return nil, err
	}
	for _, r := range runs {
		lines, err := s.RunLines(db, "h.id = ?", r.ID)
		if err != nil {
			return nil, err
		}
		x := RunningUnattended{
			Label: fmt.Sprintf("run %s: %s", r.Code, strings.Join(lines[0].Builds, ", ")),
			Path:  "/cure/" + r.Code,
			Then:  "the run is over, and the oven may be opened once it is cool",
		}
		if r.StartedAt != nil && r.Simulation != nil {
			end := r.StartedAt.Add(stock.Seconds(r.Simulation.Duration))
			x.Until = &end
		}
		out = append(out, x)
	}
	debulks, err := runningDebulks(db)
	if err != nil {
		return nil, err
	}
	out = append(out, debulks...)
	var rolls []struct {
		Code, Name string
		RoomAt     time.Time
	}
	if err := db.Raw(`select r.code, m.name, r.room_at from rolls r join materials m on m.id = r.material_id
		where r.out and r.length > 0 and r.room_at > ? order by r.room_at`, now).Scan(&rolls).Error; err != nil {
		return nil, err
	}
	for _, r := range rolls {
		out = append(out, RunningUnattended{
			Label: fmt.Sprintf("roll %s, %s, thaws", r.Code, r.Name), Path: "/freezer/" + r.Code, Until: &r.RoomAt,
			Then: "its bag may be opened",
		})
	}
	for _, j := range jobs {
		at := j.Number + " · " + j.Serial
		path := "/finish/" + j.Code
		switch {
		case j.Sent != "":
			out = append(out, RunningUnattended{
				Label: fmt.Sprintf("%s, %s, is out at %s", j.Step.Label, at, j.Sent), Path: path, Until: j.Due,
				Then: "it is due back",
			})
		case j.Step.State == "in work" && j.Step.Single && j.Step.Since != nil && j.Step.Unattended > 0:
			end := j.Step.Since.Add(stock.Seconds(j.Step.Takes))
			out = append(out, RunningUnattended{
				Label: fmt.Sprintf("%s, %s", j.Step.Label, at), Path: path, Until: &end, Then: "check and sign",
			})
		}
	}
	slices.SortStableFunc(out, func(a, b RunningUnattended) int {
		switch {
		case a.Until == nil || b.Until == nil:
			return 0
		default:
			return a.Until.Compare(*b.Until)
		}
	})
	return out, nil
}

// runningDebulks are the debulks that nobody has ended yet.
func runningDebulks(db *gorm.DB) (out []RunningUnattended, err error) {
	var debulks []struct {
		Code, Number, Serial, Operation string
		AfterPly                        int
		StartedAt                       time.Time
		Seconds                         float64
	}
	if err := db.Raw(`select b.code, p.number, b.serial, d.operation, d.after_ply, d.started_at,
			coalesce((select (o->'debulks'->>'seconds')::float8 from jsonb_array_elements(r.doc->'route') o
				where o->>'key' = d.operation), (r.process->>'debulkSeconds')::float8, 0) as seconds
		from debulks d join builds b on b.id = d.build_id join revisions r on r.id = b.revision_id
		join parts p on p.id = r.part_id where d.ended_at is null and b.done_at is null order by d.id`).
		Scan(&debulks).Error; err != nil {
		return nil, err
	}
	for _, d := range debulks {
		end := d.StartedAt.Add(stock.Seconds(d.Seconds))
		out = append(out, RunningUnattended{
			Label: fmt.Sprintf("debulk after ply %d, %s · %s", d.AfterPly, d.Number, d.Serial),
			Path:  "/layup/" + d.Code, Until: &end, Then: "read the vacuum and end it",
		})
	}
	return out, nil
}

// late is what is too late, or about to be: work that should have begun, material whose life
// runs out, work that is overdue, and batches that go out of date.
func (s *Shop) late(db *gorm.DB, jobs []builds.Job, now time.Time) ([]AtRisk, error) {
	out := []AtRisk{}
	told := map[string]bool{}
	add := func(l AtRisk) {
		if key := l.What + l.Label; !told[key] {
			told[key] = true
			l.Past = l.At.Before(now)
			out = append(out, l)
		}
	}
	for _, j := range jobs {
		at, path := j.Number+" · "+j.Serial, "/finish/"+j.Code
		if j.Step.Operation == "" {
			path = "/" + j.Step.Room + "/" + j.Code
			if j.Step.Room == "cut" || j.Step.Room == "cure" {
				path = "/" + j.Step.Room
			}
		}
		if f := j.OutTime; f != nil && f.Ages && f.RunsOut.Before(now.Add(soon)) {
			add(AtRisk{What: at, Label: "the out-life of its kit runs out", Path: path, At: f.RunsOut})
		}
		if f := j.OutTime; f != nil && f.TackLeft != nil && *f.TackLeft < soon.Seconds() &&
			(j.Step.Room == "kits" || j.Step.Room == "layup") {
			add(
				AtRisk{
					What:  at,
					Label: "the tack of its plies ends",
					Path:  path,
					At:    now.Add(stock.Seconds(*f.TackLeft)),
				},
			)
		}
		// What comes first says it for all that comes after it.
		if len(j.Tight) > 0 && j.Latest != nil && !told["tight "+j.Code] {
			told["tight "+j.Code] = true
			add(AtRisk{What: at, Label: j.Tight[0], Path: path, At: *j.Latest})
		} else if j.Latest != nil && j.Step.Operation == "" && j.Latest.Before(now) {
			add(AtRisk{What: at, Label: "its cure was planned to begin", Path: path, At: *j.Latest})
		}
		if j.Due != nil && j.Due.Before(now) {
			add(AtRisk{What: at, Label: "due back from " + j.Sent, Path: path, At: *j.Due})
		}
	}
	var batches []struct {
		Code, Lot, Name, Unit string
		ShelfEnd              time.Time
		Length                float64
	}
	if err := db.Raw(`select b.code, b.lot, m.name, m.kind as unit, b.shelf_end, sum(r.length) as length from batches b
		join materials m on m.id = b.material_id join rolls r on r.batch_id = b.id
		where r.length > 0 and b.shelf_end between ? and ? group by b.id, m.name, m.kind
		order by b.shelf_end limit
		20`, now.Add(-7*24*time.Hour), now.Add(7*24*time.Hour)).Scan(&batches).Error; err != nil {
		return nil, err
	}
	for _, b := range batches {
		add(AtRisk{
			What: b.Name + ", lot " + b.Lot, Path: "/freezer/batches/" + b.Code, At: b.ShelfEnd,
			Label: fmt.Sprintf("its shelf life ends, with %s left", stock.Amount(stock.UnitOf(b.Unit), b.Length)),
		})
	}
	slices.SortStableFunc(out, func(a, b AtRisk) int { return a.At.Compare(b.At) })
	return out, nil
}

// asks are what waits for a person besides builds, by what their role may do.
func (s *Shop) asks(db *gorm.DB, p *book.Person) ([]Ask, error) {
	var found []struct {
		Act         book.Act
		Label, Path string
	}
	if err := db.Raw(`select @see as act, case when a.ended_at is null then f.name || ' is too warm'
			else f.name || ' was too warm' end as label, '/freezer/climate' as path
			from alarms a join sensors x on x.id = a.sensor_id join freezers f on f.id = x.freezer_id
			where a.seen_at is null and a.kind <> 'silent'
		union all select @decide, 'decide about lot ' || b.lot || ' of ' || m.name, '/freezer/batches/' || b.code
			from batches b join materials m on m.id = b.material_id where b.state = 'pending'
		union all select case r.state when 'draft' then @write when 'checked' then @release else '' end,
			case r.state when 'draft' then 'go on with the draft ' else 'release the revision ' end
			|| p.number || ' ' || r.letter, '/parts/' || p.code
			from revisions r join parts p on p.id = r.part_id
			where r.state in ('draft', 'checked') and p.put_away_at is null`, map[string]any{
		"see": book.SeeAlarm, "decide": book.DecideBatch, "write": book.WriteMaster, "release": book.ReleaseMaster,
	}).Scan(&found).Error; err != nil {
		return nil, err
	}
	out := []Ask{}
	for _, f := range found {
		if book.CheckRole(p, f.Act) == nil {
			out = append(out, Ask{f.Label, f.Path})
		}
	}
	return out, nil
}

// NewHandover is what a shift leaves to the next.
type NewHandover struct {
	Text string `json:"text" maxLength:"600"`
}

// HandOver keeps a note for the next shift. It stays as it was written.
func (s *Shop) HandOver(ctx context.Context, by book.By, in NewHandover) (Handover, error) {
	return book.Write(ctx, s.Book, by, book.LeaveNote, "hand over", in, func(tx *book.Tx) (Handover, error) {
		says := strings.TrimSpace(in.Text)
		if says == "" {
			return Handover{}, book.Needed.At("text", "write what the next shift should know")
		}
		if err := tx.Exec(`insert into handovers (at, person_id, says) values (?, ?, ?)`, tx.Now, tx.By.Person.ID,
			says).
			Error; err != nil {
			return Handover{}, err
		}
		return Handover{At: tx.Now, Person: tx.By.Person.Name, Text: says},
			tx.Log("handed over", "the day", says, map[string]any{"role": tx.Role()})
	})
}
