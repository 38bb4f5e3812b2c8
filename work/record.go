package work

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"juxta/core/cure"
	"juxta/device"
	"juxta/shop"
	"juxta/shop/curing"
)

type recordWorker struct {
	river.WorkerDefaults[recordArgs]
	shop *shop.Shop
}

// Timeout: a cure may last days.
func (*recordWorker) Timeout(*river.Job[recordArgs]) time.Duration { return -1 }

// A recorder reads the oven every pollEvery of the wall clock and keeps a
// sample for every sampleEvery seconds of the oven's clock. An oven that stays
// silent for giveUp ends the run as failed.
const (
	pollEvery   = 100 * time.Millisecond
	sampleEvery = 15.0
	giveUp      = 60 * time.Second
)

func (w *recordWorker) Work(ctx context.Context, job *river.Job[recordArgs]) error {
	r := recorder{shop: w.shop, id: job.Args.RunID, name: uuid.NewString()}
	run, ok, err := w.shop.LeaseRun(ctx, r.id, r.name)
	if err != nil || !ok {
		return err
	}
	r.run, r.controller = run, run.Controller
	for _, known := range strings.Split(run.Message, between) {
		r.say(known)
	}
	if r.last, err = w.shop.LastSample(ctx, r.id); err != nil {
		return err
	}
	r.begun = r.last >= 0
	state, says, err := r.record(ctx)
	if ctx.Err() != nil { // shutting down: another recorder picks the run up
		return errors.Join(ctx.Err(), w.shop.LetGo(context.WithoutCancel(ctx), r.id, r.name))
	}
	if err != nil {
		return err
	}
	return w.shop.EndRun(ctx, r.id, state, says)
}

// recorder walks one run: it reads the oven, moves the controller, writes the
// set point and stores the sample.
type recorder struct {
	shop       *shop.Shop
	id         int64
	name       string
	run        curing.Run
	controller cure.Controller
	oven       *device.Oven
	last       float64  // time of the newest sample, -1 for none
	begun      bool     // the oven has been started for this run
	offset     float64  // added to the oven's clock after the oven restarted
	said       []string // what is to be known of the run, each once
	pressless  bool     // the oven takes no pressure
}

// between stands between what is to be known of a run.
const between = "; "

// say adds to what is to be known of the run. It is stored with the next sample, so that another recorder goes on with
// it.
func (r *recorder) say(what string) {
	if what != "" && !slices.Contains(r.said, what) {
		r.said = append(r.said, what)
	}
}

func (r *recorder) says() string { return strings.Join(r.said, between) }

func (r *recorder) record(ctx context.Context) (state, says string, err error) {
	defer func() {
		if r.oven != nil {
			_ = r.oven.Close()
		}
	}()
	ticker := time.NewTicker(pollEvery)
	defer ticker.Stop()
	heard := time.Now()
	for {
		stop, fault, err := r.poll(ctx)
		switch {
		case err != nil:
			return "", "", err
		case fault == nil:
			heard = time.Now()
		case time.Since(heard) <= giveUp:
			// Silence is no reason for another recorder to step in.
			if err := r.shop.KeepLease(ctx, r.id, r.name); err != nil {
				return "", "", err
			}
		default:
			r.say(fmt.Sprintf("the oven was silent for %s: %v", giveUp, fault))
			return "failed", r.says(), nil
		}
		if stop || r.controller.Done {
			if r.oven == nil || r.oven.Stop() != nil {
				r.say("the oven did not confirm that its heat is off: go and look")
			}
			if stop {
				return "stopped", r.says(), nil
			}
			return "finished", r.says(), nil
		}
		select {
		case <-ctx.Done():
			return "", "", ctx.Err()
		case <-ticker.C:
		}
	}
}

// poll does one round. fault is the oven's silence, err is ours.
func (r *recorder) poll(ctx context.Context) (stop bool, fault, err error) {
	if r.oven == nil {
		if r.oven, fault = device.Dial(r.run.Oven); fault != nil {
			r.oven = nil
			return false, fault, nil
		}
	}
	drop := func(fault error) (bool, error, error) {
		_ = r.oven.Close()
		r.oven = nil
		return false, fault, nil
	}
	now, fault := r.oven.Read()
	if fault != nil {
		return drop(fault)
	}
	switch {
	case !r.begun && now.Running:
		// Somebody left it heating: our run begins with a start of its own.
		if fault := r.oven.Stop(); fault != nil {
			return drop(fault)
		}
		return false, nil, nil
	case !now.Running:
		if r.begun {
			r.offset = r.last + 1
			r.say("the oven had lost the run and was started again where it was left")
		}
		if fault := r.oven.Start(r.controller.SetPoint); fault != nil {
			return drop(fault)
		}
		r.begun = true
		return false, nil, nil
	}
	t := r.offset + now.Clock
	if t < r.last {
		// Picked up by a new recorder after the oven's clock had begun anew.
		r.offset = r.last + 1 - now.Clock
		t = r.last + 1
	}
	if r.last >= 0 && t < r.last+sampleEvery {
		return false, nil, nil
	}
	dt := t - math.Max(r.last, 0)
	r.controller = r.controller.Cured(r.run.Kinetics, r.run.Alpha0, now.Lag, dt)
	recipe, part := r.run.Process.Recipe, r.sensed(now)
	r.controller = r.controller.Step(recipe, part, dt)
	lead, rate := r.run.Simulation.Told()
	if fault := r.oven.SetPoint(recipe.Aim(r.controller.SetPoint, part, lead)); fault != nil {
		return drop(fault)
	}
	pressure, fault := r.press(recipe, now.Lag, rate, dt)
	if fault != nil {
		return drop(fault)
	}
	r.last = t
	sample := cure.Sample{
		T:        t,
		SetPoint: r.controller.SetPoint,
		Air:      now.Air,
		Tool:     now.Tool,
		Lead:     now.Lead,
		Lag:      now.Lag,
		Vacuum:   now.Vacuum,
		Pressure: pressure,
	}
	stop, err = r.shop.AddSample(ctx, r.id, r.name, sample, r.controller, r.says())
	return stop, nil, err
}

// press tells a vessel its pressure and reads it; NaN where the recipe asks for none, and where the oven has none,
// which is
// said once.
func (r *recorder) press(recipe cure.Recipe, lag, rate, dt float64) (float64, error) {
	if !recipe.Pressed() || r.pressless {
		return math.NaN(), nil
	}
	var vacuum float64
	r.controller, vacuum = r.controller.Presses(recipe, lag, rate, dt)
	err := r.oven.Press(r.controller.Pressure, vacuum)
	if err == nil {
		var p float64
		if p, err = r.oven.Pressure(); err == nil {
			return p, nil
		}
	}
	if errors.Is(err, device.ErrNoPressure) {
		r.pressless = true
		r.say("the recipe asks for pressure, and the oven takes none: it was put on by hand, or not at all")
		return math.NaN(), nil
	}
	return math.NaN(), err
}

// sensed is what the controller knows of the part by the oven's sensors and by how far the resin is with them.
func (r *recorder) sensed(now device.Reading) cure.PartState {
	thick := math.NaN()
	if v := r.run.Viscosity; v != nil {
		thick = v.At(r.controller.Lag, r.controller.Cure)
	}
	return cure.PartState{Lag: now.Lag, Lead: now.Lead, Cure: r.controller.Cure, Thick: thick, Thin: thick}
}
