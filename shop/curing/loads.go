package curing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/cure"
	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/parts"
	"juxta/shop/recipes"
)

// OvenLoad is what is put into the oven: a build, and of one with a route the operation
// that the run completes.
type OvenLoad struct {
	Build     string `json:"build"`
	Operation string `json:"operation,omitempty" doc:"Missing: the one whose turn it is"`
}

// loadedOven is an oven with what is put in.
type loadedOven struct {
	run   Run
	in    []RunBuild
	loads []parts.Load // alike parts are one
}

// loadOven looks up what is put into the oven, and refuses what cannot run together; hold keeps the builds until the
// transaction ends.
func (s *Room) loadOven(tx *book.Tx, loads []OvenLoad, hold bool) (out loadedOven, err error) {
	if len(loads) == 0 {
		return out, book.Needed.At("builds", "choose what goes into the oven")
	}
	var first string
	masters := map[int64]parts.MasterOf{} // by revision
	var each []buildInLoad
	for _, load := range loads {
		b, err := s.Build(tx.DB, load.Build)
		if err == nil && hold {
			b, err = s.Held(tx, load.Build)
		}
		if err != nil {
			return out, err
		}
		heated, err := b.CureLoad(tx, load.Operation)
		if err != nil {
			return out, err
		}
		if slices.Contains(out.in, RunBuild{BuildID: b.ID, Operation: heated.Operation}) {
			return out, book.Wrong.Errorf("%s · %s is named twice for this run", b.Number, b.Serial)
		}
		m, known := masters[heated.Revision.ID]
		if !known {
			if m, err = s.Master(tx.DB, heated.Revision); err != nil {
				return out, err
			}
			masters[heated.Revision.ID] = m
		}
		resin, err := m.Resin(tx.DB, heated.Stages)
		if err != nil {
			return out, err
		}
		asks := heated.Process.Heat()
		asks.PartLag, asks.From = 0, nil // what is written beside a recipe is not another recipe
		same, _ := json.Marshal([]any{asks, resin.ID})
		begun := max(resin.Alpha0, heated.Begun)
		if first == "" {
			first = string(same)
			out.run.Process, out.run.Kinetics, out.run.Viscosity, out.run.Alpha0 = heated.Process, resin.Kinetics,
				resin.Viscosity, begun
		} else if first != string(same) {
			return out, book.Limit.Errorf("%s · %s has another recipe or other limits: it needs a run of its own",
				b.Number, b.Serial)
		}
		// The run is judged by what has come the least way yet.
		out.run.Alpha0 = min(out.run.Alpha0, begun)
		out.in = append(out.in, RunBuild{BuildID: b.ID, Operation: heated.Operation})
		each = append(each, buildInLoad{parts.Load{
			Name: b.Number + " · " + b.Serial, Count: 1, Master: m, Process: heated.Process, Stages: heated.Stages,
			Cured: heated.Cured,
			Free:  heated.Free,
			Begun: heated.Begun,
		}, b.ID, b.Code, fmt.Sprint(heated.Revision.ID, " ", heated.Operation), resin})
	}
	out.loads, err = s.groupAlike(tx.DB, each)
	return out, err
}

// buildInLoad is what one build brings to the oven; builds that have the same of are of one operation of one revision.
type buildInLoad struct {
	load     parts.Load
	id       int64
	code, of string
	resin    recipes.Resin
}

// groupAlike are loads with parts that are alike as one.
func (s *Room) groupAlike(db *gorm.DB, each []buildInLoad) (out []parts.Load, err error) {
	ids := make([]int64, len(each))
	for k, one := range each {
		ids[k] = one.id
	}
	lines, err := s.BuildLines(db, "b.id in ?", ids)
	if err != nil {
		return nil, err
	}
	spent := map[string]float64{} // out-time, s
	for _, l := range lines {
		if l.OutTime != nil {
			spent[l.Code] = l.OutTime.Spent
		}
	}
	at := map[string]int{}
	for _, one := range each {
		// What lay out of the freezer has begun to cure. It is simulated so, and not judged so: nobody measured it.
		if lay, ok := spent[one.code]; ok && one.load.Begun == 0 {
			if one.load.Begun, err = one.resin.Kinetics.Aged(one.resin.Alpha0, lay); err != nil {
				return nil, err
			}
			one.load.Begun = math.Round(one.load.Begun*1e3) / 1e3 // parts that lay out about as long are alike
		}
		key := fmt.Sprint(one.of, " ", one.load.Begun)
		if k, ok := at[key]; ok {
			out[k].Count++
			continue
		}
		at[key] = len(out)
		out = append(out, one.load)
	}
	return out, nil
}

// SimulateRun is what a load would do together, before the door closes; nothing is stored.
func (s *Room) SimulateRun(ctx context.Context, by book.By, loads []OvenLoad) (recipes.CureSimulation, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (recipes.CureSimulation, error) {
		in, err := s.loadOven(&book.Tx{DB: db, Ctx: ctx, By: by, Act: book.RunOven, Now: s.Now()}, loads, false)
		if err != nil {
			return recipes.CureSimulation{}, err
		}
		return s.simulateHere(ctx, db, in.loads)
	})
}

// simulateHere simulates a load, and says where it is planned for something else than what records the run here.
func (s *Room) simulateHere(ctx context.Context, db *gorm.DB, loads []parts.Load) (recipes.CureSimulation, error) {
	out, err := s.SimulateLoads(ctx, db, loads)
	here, _, _ := strings.Cut(s.OvenName, ",") // the simulated one says so behind its name
	if named := loads[0].Process.Equipment; err == nil && named != "" && named != here {
		out.Notes = append(
			out.Notes,
			fmt.Sprintf("it is planned for %s and simulated in it; what records the run here is %s", named, s.OvenName),
		)
	}
	return out, err
}

// StartRun loads builds into the oven and asks for the run to be recorded.
func (s *Room) StartRun(ctx context.Context, by book.By, loads []OvenLoad) (RunLine, error) {
	return book.Write(ctx, s.Book, by, book.RunOven, "start run", loads, func(tx *book.Tx) (RunLine, error) {
		if err := s.free(tx); err != nil {
			return RunLine{}, err
		}
		in, err := s.loadOven(tx, loads, true)
		if err != nil {
			return RunLine{}, err
		}
		run := in.run
		// A load that cannot be simulated runs all the same: the recipe is signed, and the sensors tell.
		simulated, err := s.simulateHere(tx.Ctx, tx.DB, in.loads)
		var refused *book.Error
		switch {
		case err == nil:
			run.Simulation = &simulated
		case errors.As(err, &refused):
			run.Message = "not simulated: " + refused.Message
		default:
			return RunLine{}, err
		}
		id, code, err := book.NextCode(tx.DB, "runs", ident.Run)
		if err != nil {
			return RunLine{}, err
		}
		run.ID, run.Code, run.State, run.Oven, run.OvenName = id, code, "queued", s.Oven, s.OvenName
		run.CreatedAt, run.StartedBy = tx.Now, tx.By.Person.ID
		asked := time.Now().UTC() // leases live on the wall clock, also in tests
		run.Heartbeat = &asked
		run.Controller = cure.Begin(run.Process.Recipe)
		if err := tx.Create(&run).Error; err != nil {
			return RunLine{}, err
		}
		for _, b := range in.in {
			b.RunID = id
			if err := tx.Create(&b).Error; err != nil {
				return RunLine{}, err
			}
		}
		if err := s.Queue.Record(tx.Ctx, tx.SQL(), id); err != nil {
			return RunLine{}, fmt.Errorf("queue the run: %w", err)
		}
		codes := make([]string, len(loads))
		for k, load := range loads {
			codes[k] = load.Build
		}
		if err := tx.Log("run started", code, "", map[string]any{
			"builds": codes, "recipe": run.Process.Recipe.Name, "from": run.Process.From,
		}); err != nil {
			return RunLine{}, err
		}
		lines, err := s.RunLines(tx.DB, "h.id = ?", id)
		if err != nil {
			return RunLine{}, err
		}
		return lines[0], nil
	})
}

// free refuses while the oven runs.
func (s *Room) free(tx *book.Tx) error {
	var busy int64
	if err := tx.Exec(`select pg_advisory_xact_lock(hashtext(?))`, "oven "+s.Oven).Error; err != nil {
		return err
	}
	if err := tx.Model(&Run{}).Where("oven = ? and state in ('queued', 'running')",
		s.Oven).Count(&busy).Error; err != nil {
		return err
	}
	if busy > 0 {
		return book.Done.Errorf("the oven is running already")
	}
	return nil
}
