package work

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/riverqueue/river"

	"juxta/device"
	"juxta/format/gcode"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/cutting"
)

type cutWorker struct {
	river.WorkerDefaults[cutArgs]
	shop *shop.Shop
}

// Timeout: a nest may lie on the table for hours.
func (*cutWorker) Timeout(*river.Job[cutArgs]) time.Duration { return -1 }

// lookEvery is how often the table is asked.
const lookEvery = 200 * time.Millisecond

func (w *cutWorker) Work(ctx context.Context, job *river.Job[cutArgs]) error {
	turn, cut, way, ok, err := w.shop.BeginCut(ctx, job.Args.JobID)
	if err != nil || !ok {
		return err
	}
	c := &cutter{shop: w.shop, turn: turn, job: cut, way: way}
	if c.program, err = c.write(); err != nil {
		return ended(w.shop.EndCut(ctx, turn, "fault", err.Error()))
	}
	state, says, err := c.follow(ctx)
	if ctx.Err() != nil { // shutting down: the table goes on, another follows it
		return errors.Join(ctx.Err(), w.shop.Abandon(context.WithoutCancel(ctx), turn))
	}
	if err != nil {
		return ended(err)
	}
	return ended(w.shop.EndCut(ctx, turn, state, says))
}

// cutter hands a program to the table and follows it.
type cutter struct {
	shop    *shop.Shop
	turn    book.SearchTurn
	job     cutting.CutJob
	way     cutting.KnifePathView
	program []string
	table   *device.Table
}

// write is the program, line by line.
func (c *cutter) write() ([]string, error) {
	var file bytes.Buffer
	err := gcode.Write(&file, c.way.Path, gcode.Options{
		Name: c.job.Name, IDs: c.way.IDs, Cutter: c.way.Cutter, Tangential: true,
	})
	return strings.Split(strings.TrimSpace(file.String()), "\n"), err
}

func (c *cutter) follow(ctx context.Context) (state, says string, err error) {
	defer func() {
		if c.table != nil {
			_ = c.table.Close()
		}
	}()
	ticker := time.NewTicker(lookEvery)
	defer ticker.Stop()
	heard := time.Now()
	for {
		state, says, fault, err := c.look(ctx)
		switch {
		case err != nil || state != "":
			return state, says, err
		case fault == nil:
			heard = time.Now()
		default:
			if c.table != nil {
				_ = c.table.Close()
				c.table = nil
			}
			if time.Since(heard) > giveUp {
				return "fault", fmt.Sprintf("the cutting table was silent for %s: go and look (%v)", giveUp, fault), nil
			}
			// Silence is no reason for another worker to step in.
			if _, err := c.shop.CutProgress(ctx, c.turn, c.job); err != nil {
				return "", "", err
			}
		}
		select {
		case <-ctx.Done():
			return "", "", ctx.Err()
		case <-ticker.C:
		}
	}
}

// look asks the table once; a state says that the job is over. fault is the table's silence, err is ours.
func (c *cutter) look(ctx context.Context) (state, says string, fault, err error) {
	if c.table == nil {
		if c.table, fault = device.DialTable(c.job.Address); fault != nil {
			c.table = nil
			return "", "", fault, nil
		}
	}
	s, fault := c.table.Status()
	if fault != nil {
		return "", "", fault, nil
	}
	if s.Job != c.job.Name {
		return c.begin(ctx, s)
	}
	if s.State == device.TableReady { // loaded, and then somebody fell over
		return "", "", c.table.Start(), nil
	}
	for k := len(c.job.Freed); k < s.Freed; k++ {
		id, fault := c.table.Freed(k)
		if fault != nil {
			return "", "", fault, nil
		}
		c.job.Freed = append(c.job.Freed, id)
	}
	c.job.X, c.job.Y = s.At.X+float64(s.Advanced)*c.way.Cutter.Table, s.At.Y
	c.job.Share, c.job.Piece = float64(s.Line)/float64(len(c.program)), c.pieceAt(s.Line)
	stop, err := c.shop.CutProgress(ctx, c.turn, c.job)
	if err != nil {
		return "", "", nil, err
	}
	switch {
	case s.State == device.TableDone:
		return "done", "", nil, nil
	case s.State == device.TableFault && stop:
		return "stopped", "", nil, nil
	case s.State == device.TableFault:
		return "fault", s.Message, nil, nil
	case stop:
		return "", "", c.table.Stop(), nil
	}
	return "", "", nil, nil
}

// begin loads and starts the program, once: a table that has lost a job is not given it again, for it would cut
// twice.
func (c *cutter) begin(ctx context.Context, s device.TableStatus) (state, says string, fault, err error) {
	switch {
	case c.job.StartedAt != nil:
		return "fault", "the table has lost its program: what it had told is cut, look at the rest", nil, nil
	case s.State == device.TableRunning:
		return "fault", "the table cuts something else: " + s.Job, nil, nil
	}
	if fault := c.table.Load(c.job.Name, c.program); fault != nil {
		return "", "", fault, nil
	}
	now := c.shop.Now()
	if err := c.shop.CutStarted(ctx, c.job.ID); err != nil {
		return "", "", nil, err
	}
	c.job.StartedAt = &now
	return "", "", c.table.Start(), nil
}

// pieceAt is the piece that a line of the program belongs to.
func (c *cutter) pieceAt(line int) string {
	for k := min(line, len(c.program)) - 1; k >= 0; k-- {
		if id, of := strings.CutPrefix(c.program[k], "(PLY "); of {
			return strings.TrimSuffix(id, ")")
		}
		if strings.HasPrefix(c.program[k], "(ACROSS ") {
			return ""
		}
	}
	return ""
}
