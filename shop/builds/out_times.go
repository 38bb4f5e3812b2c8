package builds

import (
	"slices"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/material"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// loadOutTimes draws builds up with the out-times of their kits, in a few queries for
// all of them.
func (s *Room) loadOutTimes(db *gorm.DB, rows []buildRow) ([]BuildLine, error) {
	outTimes, err := s.kitOutTimes(db, rows)
	if err != nil {
		return nil, err
	}
	return withOutTimes(rows, outTimes), nil
}

func withOutTimes(rows []buildRow, outTimes map[int64]*calc.OutTimeStatus) []BuildLine {
	out := make([]BuildLine, len(rows))
	for i, r := range rows {
		out[i] = r.BuildLine
		out[i].OutTime = outTimes[r.ID]
	}
	return out
}

// kitOutTimes are the out-times of the kits of builds, by build; none before anything is
// cut. Every ply carries its roll's clock from the cut, then the stays of its own kit;
// its cure ends it. Of a build on a route those count that are not cured yet, or all
// once everything is; of some stages alone where they are named.
func (s *Room) kitOutTimes(db *gorm.DB, rows []buildRow, stages ...string) (map[int64]*calc.OutTimeStatus, error) {
	out := map[int64]*calc.OutTimeStatus{}
	ids := []int64{}
	for _, r := range rows {
		if r.Cut > 0 {
			ids = append(ids, r.ID)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	var cut []struct {
		CutPly   `gorm:"embedded"`
		Numbers  string // of its plies, where they belong to stages
		OutLife  float64
		TackLife float64
	}
	if err := db.Raw(`select c.build_id, c.cut_at, c.spent, c.more, c.until, m.out_life, m.tack_life,
			coalesce(string_agg(p.number::text, ',') filter (where c.build_id = any(@routed)), '') as numbers
		from cut_plies c join materials m on m.id = c.material_id join plies p on p.id = c.ply_id
		where c.build_id = any(@ids) and c.void_at is null
		group by c.build_id, c.cut_at, c.spent, c.more, c.until, m.out_life, m.tack_life`,
		map[string]any{"ids": book.IDs(ids), "routed": routedIDs(rows)}).Scan(&cut).Error; err != nil {
		return nil, err
	}
	var events []stock.FreezerEvent
	if err := db.Where("build_id = any(?)", book.IDs(ids)).Order("at, id").Find(&events).Error; err != nil {
		return nil, err
	}
	warm, err := s.Warm(db)
	if err != nil {
		return nil, err
	}
	type kit struct {
		build     int64
		operation string
	}
	moves, plies := map[kit][]stock.FreezerEvent{}, map[int64][]int{}
	for _, e := range events {
		moves[kit{*e.BuildID, e.Operation}] = append(moves[kit{*e.BuildID, e.Operation}], e)
	}
	for i, c := range cut {
		plies[c.BuildID] = append(plies[c.BuildID], i)
	}
	for _, r := range rows {
		var outTimes, cured []material.OutTimeStatus
		for _, i := range plies[r.ID] {
			c := cut[i]
			for _, stage := range r.stagesOf(c.Numbers) {
				of, began, over := kit{r.ID, ""}, r.RunStarted, false
				if r.RunState == "stopped" || r.RunState == "failed" {
					began = nil
				}
				if r.progress != nil {
					if len(stages) > 0 && !slices.Contains(stages, stage) {
						continue
					}
					of.operation = r.progress.kitOf(stage)
					began, over = r.progress.curedAt(stage)
				}
				until, planned := material.ClockEnds(began, r.DoneAt, r.CureAt, s.Now())
				clock, err := c.carried().Piece(c.CutAt, until, stock.CoreEvents(moves[of]), warm).Clock(until)
				if err != nil {
					return nil, err
				}
				limits := material.Limits{OutLife: stock.Seconds(c.OutLife), TackLife: stock.Seconds(c.TackLife)}
				f := material.NewOutTimeStatus(clock, limits, planned, until)
				if over {
					cured = append(cured, f)
				} else {
					outTimes = append(outTimes, f)
				}
			}
		}
		if worst, there := material.WorstOfPart(outTimes, cured); there {
			told := calc.FromOutTime(worst)
			out[r.ID] = &told
		}
	}
	return out, nil
}

// routedIDs are the builds among some with a route.
func routedIDs(rows []buildRow) book.IDs {
	out := book.IDs{}
	for _, r := range rows {
		if r.progress != nil {
			out = append(out, r.ID)
		}
	}
	return out
}

// KitOutTime is the out-time of one build's kit, or of that of some stages.
func (s *Room) KitOutTime(db *gorm.DB, b buildRow, stages ...string) (*calc.OutTimeStatus, error) {
	outTimes, err := s.kitOutTimes(db, []buildRow{b}, stages...)
	return outTimes[b.ID], err
}

// stagesOf are the stages of plies, which are told by their numbers with commas between;
// one without a name for a build of one pass.
func (r buildRow) stagesOf(numbers string) []string {
	if r.progress == nil {
		return []string{""}
	}
	var out []string
	for text := range strings.SplitSeq(numbers, ",") {
		n, _ := strconv.Atoi(text) // none: no stage
		if stage := r.progress.stageOf(n); !slices.Contains(out, stage) {
			out = append(out, stage)
		}
	}
	return out
}
