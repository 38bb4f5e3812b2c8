package forecast

import (
	"context"
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/mat"

	"juxta/core/cure"
	"juxta/core/cure/heat"
)

// FittedValue is a figure with its spread: one standard deviation by how far the readings lie off the model.
type FittedValue struct{ Value, Spread float64 }

// Calibration are what a past run says of its equipment and its resin.
type Calibration struct {
	Film  FittedValue // heat transfer of the air at no pressure, or of the platens, W/(m² K)
	Lag   FittedValue // of the air behind its set point, s
	Rate  FittedValue // of the reaction, as a part of what the law says
	Off   float64     // root mean square of what is left between the part sensors and the model, K
	Used  int         // readings of part sensors
	Cures bool        // the readings tell the rate
}

// Learn fits the heat transfer of the air, its lag and the rate of the reaction to the log of a run with a part that is
// known as a stack of layers: of the platens where no air comes to it. Least squares over the readings of the leading
// and the lagging sensor, with the air as it
// was logged (Gauss and Newton's method, slopes by differences). Readings that failed are left out. The lag of the air
// is the one that follows the logged set point best.
func Learn(ctx context.Context, s Section, e Equipment, log []cure.Sample) (Calibration, error) {
	if err := s.check(e); err != nil {
		return Calibration{}, err
	}
	log = thinned(log)
	if len(log) < 20 {
		return Calibration{}, errors.New(
			"the log is too short: at least twenty readings of the air, a minute apart, are needed",
		)
	}
	rise := 0.0
	for _, x := range log {
		rise = math.Max(rise, x.Air-log[0].Air)
	}
	if rise < 20 {
		return Calibration{}, errors.New(
			"the air was never 20 K warmer than at the start: nothing can be learned from that",
		)
	}
	if s.cures() {
		// A rate that is far off, or told by hardly anything, is not one that was learned.
		l, err := learn(ctx, s, e, log, 2)
		if err == nil && l.Rate.Value > 0.5 && l.Rate.Value < 2 && l.Rate.Spread < 0.25*l.Rate.Value ||
			ctx.Err() != nil {
			return l, err
		}
	}
	return learn(ctx, s, e, log, 1)
}

// learn fits the heat transfer, and with n = 2 the rate as well.
func learn(ctx context.Context, s Section, e Equipment, log []cure.Sample, n int) (Calibration, error) {
	l := Calibration{Cures: n == 2}
	at := []float64{math.Log(*s.heatedBy(&e)), 0} // logarithms: neither can be below zero
	rest, err := leftOver(s, e, log, at)
	if err != nil {
		return l, err
	}
	square := func(r []float64) (sum float64) {
		for _, v := range r {
			sum += v * v
		}
		return sum
	}
	var normal mat.SymDense
	for range 12 {
		if ctx.Err() != nil {
			return l, ctx.Err()
		}
		slopes := mat.NewDense(len(rest), n, nil)
		for k := range n {
			by := append([]float64(nil), at...)
			by[k] += 0.01
			moved, err := leftOver(s, e, log, by)
			if err != nil {
				return l, err
			}
			for i := range rest {
				slopes.Set(i, k, (moved[i]-rest[i])/0.01)
			}
		}
		normal = *mat.NewSymDense(n, nil)
		normal.SymOuterK(1, slopes.T())
		var right, step mat.VecDense
		right.MulVec(slopes.T(), mat.NewVecDense(len(rest), rest))
		var chol mat.Cholesky
		if !chol.Factorize(&normal) || chol.SolveVecTo(&step, &right) != nil {
			return l, errors.New("heat transfer and reaction rate cannot be told apart by these readings")
		}
		better := false
		for share := 1.0; share > 0.01 && !better; share /= 2 {
			to := append([]float64(nil), at...)
			for k := range n {
				to[k] -= share * math.Max(-0.7, math.Min(0.7, step.AtVec(k)))
			}
			if r, err := leftOver(s, e, log, to); err == nil && square(r) < square(rest)*(1-1e-9) {
				at, rest, better = to, r, true
			}
		}
		if !better {
			break
		}
	}
	l.Used = len(rest)
	l.Off = math.Sqrt(square(rest) / float64(len(rest)))
	var cov mat.SymDense
	var chol mat.Cholesky
	if !chol.Factorize(&normal) || chol.InverseTo(&cov) != nil {
		return l, errors.New("heat transfer and reaction rate cannot be told apart by these readings")
	}
	variance := square(rest) / float64(max(1, len(rest)-n))
	l.Film = FittedValue{math.Exp(at[0]), math.Exp(at[0]) * math.Sqrt(variance*cov.At(0, 0))}
	l.Rate = FittedValue{1, 0}
	if n == 2 {
		l.Rate = FittedValue{math.Exp(at[1]), math.Exp(at[1]) * math.Sqrt(variance*cov.At(1, 1))}
	}
	l.Lag = lagOf(log)
	return l, nil
}

// thinned are readings a minute apart at the least whose air is known.
func thinned(log []cure.Sample) (out []cure.Sample) {
	for _, x := range log {
		if math.IsNaN(x.Air) || len(out) > 0 && x.T < out[len(out)-1].T+60 {
			continue
		}
		out = append(out, x)
	}
	return out
}

// leftOver is by how much the model is above the part sensors at every reading that counts, with the logarithms of the
// heat transfer and of the factor of the rate.
func leftOver(s Section, e Equipment, log []cure.Sample, at []float64) (out []float64, err error) {
	*s.heatedBy(&e) = math.Exp(at[0])
	layers := append([]heat.Layer(nil), s.Layers...)
	for k, l := range layers {
		if r := l.Reaction; r != nil {
			own := *r
			own.Law.Terms = append([]cure.Term(nil), r.Law.Terms...)
			for i := range own.Law.Terms {
				own.Law.Terms[i].A *= math.Exp(at[1])
			}
			layers[k].Reaction = &own
		}
	}
	start := log[0].Air
	if !math.IsNaN(log[0].Lag) {
		start = log[0].Lag
	}
	c, err := heat.NewColumn(layers, start, heat.Accuracy{})
	if err != nil {
		return nil, err
	}
	w := &walker{
		Job:     Job{Sections: []Section{{Layers: layers, Resin: s.Resin}}, Equipment: e},
		columns: []*heat.Column{c},
	}
	w.curing = [][]int{curingOf(layers)}
	for i := 1; i < len(log); i++ {
		a, b := log[i-1], log[i]
		span := b.T - a.T
		for done, h := 0.0, span; done < span-1e-9; {
			h = math.Min(h, span-done)
			air := func(t float64) float64 { return a.Air + (b.Air-a.Air)*t/span }
			pressed := known(a.Pressure) + (known(b.Pressure)-known(a.Pressure))*(done+h/2)/span
			face := func(side Side) heat.Face {
				return heat.Face{From: air(done), To: air(done + h), H: e.passes(side, pressed)}
			}
			worst := c.Try(h, face(s.Below), face(s.Above))
			if worst <= 1 {
				c.Accept()
				done += h
			}
			if h *= math.Min(5, math.Max(0.2, 0.9*math.Pow(math.Max(worst, 1e-9), -1.0/3))); h < leastStep {
				return nil, fmt.Errorf("after %s the cure runs too fast to be calculated", clock(a.T))
			}
		}
		p := w.part(0, false)
		if !math.IsNaN(b.Lag) {
			out = append(out, p.Lag-b.Lag)
		}
		if !math.IsNaN(b.Lead) {
			out = append(out, p.Lead-b.Lead)
		}
	}
	if len(out) < 20 {
		return nil, errors.New("fewer than twenty readings of the part count: nothing can be learned from them")
	}
	return out, nil
}

// heatedBy is the heat transfer that heats a section: of the air, or of the platens where none comes to it.
func (s Section) heatedBy(e *Equipment) *float64 {
	if s.ByPlatens() {
		return &e.Contact
	}
	return &e.Film
}

// ByPlatens says whether no air comes to a section.
func (s Section) ByPlatens() bool { return s.Below != Air && s.Above != Air }

// known is a pressure in Pa; one that nobody read is none.
func known(pressure float64) float64 {
	if math.IsNaN(pressure) {
		return 0
	}
	return pressure
}

// lagOf is the time constant with which the logged air follows the logged set point best.
func lagOf(log []cure.Sample) FittedValue {
	off := func(lag float64) (sum float64) {
		air := log[0].Air
		for i := 1; i < len(log); i++ {
			dt := log[i].T - log[i-1].T
			slope := (log[i].SetPoint - log[i-1].SetPoint) / dt
			behind := slope * lag
			air = log[i].SetPoint - behind + (air-log[i-1].SetPoint+behind)*math.Exp(-dt/lag)
			sum += (air - log[i].Air) * (air - log[i].Air)
		}
		return sum
	}
	// Golden section over the logarithm, from a second to two hours.
	low, high := 0.0, math.Log(7200)
	const golden = 0.6180339887498949
	for range 60 {
		a, b := high-golden*(high-low), low+golden*(high-low)
		if off(math.Exp(a)) < off(math.Exp(b)) {
			high = b
		} else {
			low = a
		}
	}
	at := (low + high) / 2
	best := off(math.Exp(at))
	bend := (off(math.Exp(at+0.02)) - 2*best + off(math.Exp(at-0.02))) / (0.02 * 0.02) / 2
	spread := 0.0
	if bend > 0 {
		spread = math.Exp(at) * math.Sqrt(best/float64(max(1, len(log)-1))/bend)
	}
	return FittedValue{math.Exp(at), spread}
}
