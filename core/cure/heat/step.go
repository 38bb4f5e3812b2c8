package heat

import "math"

// A step is one of the method Rodas3 (Sandu et al., Atmospheric Environment 31 (1997) 3459): four stages, third order
// with an error of second, stiffly accurate; each stage is one linear system with the same matrix, which has three
// bands when the degree of cure of a cell is put into its heat. A method of this kind keeps what is a sum kept exactly:
// heat in and heat of reaction are heat stored.
const (
	stages = 4
	gamma  = 0.5
)

var (
	stageA = [stages][stages]float64{{}, {}, {2, 0}, {2, 0, 1}}
	stageC = [stages][stages]float64{{}, {4}, {1, -1}, {1, -1, -8.0 / 3}}
	when   = [stages]float64{0, 0, 1, 1}
	drift  = [stages]float64{0.5, 1.5, 0, 0}
	anew   = [stages]bool{true, false, true, true}
	sumUp  = [stages]float64{2, 0, 1, 1}
)

// work is room for a step.
type work struct {
	t, slope         []float64 // temperature of the cells, and by their heat
	low, mid, high   []float64 // the matrix
	gain             []float64 // ∂rate/∂T · ∂T/∂u
	grow             []float64 // ∂rate/∂α
	fu, fa           []float64 // right sides
	bu, ba           []float64
	ku, ka           [stages][]float64
	ki               [stages][2]float64
	su, sa           []float64  // where a stage stands
	at               []float64  // temperatures of a stage
	flow             []float64  // through the lower side of each cell, and the upper of the last
	conduct          [2]float64 // of the outer faces
	byLeft, byRight  []float64
	faces            [2]Face
	outer            [2]float64
	factor, quotient []float64
}

func newWork(n int) work {
	row := func() []float64 { return make([]float64, n) }
	w := work{
		t: row(), slope: row(), low: row(), mid: row(), high: row(), gain: row(), grow: row(), fu: row(), fa: row(),
		bu: row(),
		ba: row(), su: row(), sa: row(), at: row(), flow: make([]float64, n+1),
		byLeft: make([]float64, n+1), byRight: make([]float64, n+1), factor: row(), quotient: row(),
	}
	for s := range stages {
		w.ku[s], w.ka[s] = row(), row()
	}
	return w
}

func (w *work) temperatures(c *Column, s state) {
	for i := range c.cells {
		w.t[i], w.slope[i] = c.cells[i].temperature(s.u[i])
	}
}

// face is the temperature where a cell touches the one below it, or what is outside: on the upper side of a contact,
// or on the lower.
func (w *work) face(c *Column, i int, upper bool) float64 {
	n := len(c.cells)
	outer := func(k, cell int) float64 {
		f := w.faces[k]
		if f.H == 0 {
			return w.t[cell]
		}
		r, _ := c.cells[cell].resistance(w.t[cell])
		q := (f.To - w.t[cell]) / (1/f.H + r)
		return w.t[cell] + q*r
	}
	switch i {
	case 0:
		return outer(0, 0)
	case n:
		return outer(1, n-1)
	}
	a, _ := c.cells[i-1].resistance(w.t[i-1])
	b, _ := c.cells[i].resistance(w.t[i])
	q := (w.t[i-1] - w.t[i]) / (a + c.join[i] + b)
	if !upper {
		return w.t[i-1] - q*a
	}
	return w.t[i] + q*b
}

// flows are those through every side of the cells at temperatures t, W/m² upwards; with slopes also how they change.
func (w *work) flows(c *Column, t []float64, below, above float64, slopes bool) {
	n := len(c.cells)
	if n == 0 {
		return
	}
	r, dr := c.cells[0].resistance(t[0])
	w.flow[0] = w.side(0, below-t[0], w.faces[0].H, r, dr, slopes)
	for i := 1; i < n; i++ {
		a, da := r, dr
		r, dr = c.cells[i].resistance(t[i])
		g := 1 / (a + c.join[i] + r)
		apart := t[i-1] - t[i]
		w.flow[i] = g * apart
		if slopes {
			w.byLeft[i] = g - apart*g*g*da
			w.byRight[i] = -g - apart*g*g*dr
		}
	}
	w.flow[n] = -w.side(1, above-t[n-1], w.faces[1].H, r, dr, slopes)
}

// side is what comes in through an outer face, W/m², and its change with the temperature of its cell.
func (w *work) side(k int, apart, h, r, dr float64, slopes bool) float64 {
	if h == 0 {
		if slopes {
			w.outer[k], w.conduct[k] = 0, 0
		}
		return 0
	}
	g := 1 / (1/h + r)
	if slopes {
		w.outer[k], w.conduct[k] = -g-apart*g*g*dr, g
	}
	return g * apart
}

// Try works out a step of dt seconds and says how large its error is, as a part of what a step may have; more than 1
// is to be tried with a shorter one. [Column.Accept] takes it.
func (c *Column) Try(dt float64, below, above Face) float64 {
	w, n := &c.work, len(c.cells)
	w.faces = [2]Face{below, above}
	w.temperatures(c, c.now)
	w.flows(c, w.t, below.From, above.From, true)
	lead := 1 / (dt * gamma)
	if !w.matrix(c, lead) {
		return math.Inf(1)
	}
	moves := [2]float64{w.conduct[0] * (below.To - below.From) / dt, w.conduct[1] * (above.To - above.From) / dt}
	for s := range stages {
		if anew[s] {
			w.rates(c, s, below, above)
		}
		in := [2]float64{w.flow[0], -w.flow[n]}
		copy(w.bu, w.fu)
		copy(w.ba, w.fa)
		for j := range s {
			if f := stageC[s][j] / dt; f != 0 {
				for i := range n {
					w.bu[i] += f * w.ku[j][i]
					w.ba[i] += f * w.ka[j][i]
				}
				in[0] += f * w.ki[j][0]
				in[1] += f * w.ki[j][1]
			}
		}
		d := drift[s] * dt
		w.bu[0] += d * moves[0]
		w.bu[n-1] += d * moves[1]
		w.solve(c, s, lead)
		w.ki[s][0] = (in[0] + d*moves[0] + w.outer[0]*w.slope[0]*w.ku[s][0]) / lead
		w.ki[s][1] = (in[1] + d*moves[1] + w.outer[1]*w.slope[n-1]*w.ku[s][n-1]) / lead
	}
	return c.sum()
}

// sum adds the stages up and says how large the error is.
func (c *Column) sum() float64 {
	w := &c.work
	worst := 0.0
	c.next.copyFrom(c.now)
	for s := range stages {
		if m := sumUp[s]; m != 0 {
			for i := range c.cells {
				c.next.u[i] += m * w.ku[s][i]
				c.next.alpha[i] += m * w.ka[s][i]
			}
			c.next.in[0] += m * w.ki[s][0]
			c.next.in[1] += m * w.ki[s][1]
		}
	}
	last := stages - 1
	for i := range c.cells {
		worst = math.Max(worst, math.Abs(w.ku[last][i]*w.slope[i])/c.tolT)
		if c.cells[i].react != nil {
			// A degree of cure is told to a part of it that gives off as much heat as a kelvin or so.
			worst = math.Max(worst, math.Abs(w.ka[last][i])/(0.02*c.tolT))
			if a := c.next.alpha[i]; a < c.now.alpha[i]-1e-9 || a > 1+1e-9 || math.IsNaN(a) {
				return math.Inf(1)
			}
		}
		if math.IsNaN(c.next.u[i]) {
			return math.Inf(1)
		}
	}
	return worst
}

// Accept takes the step that was tried last.
func (c *Column) Accept() {
	c.now, c.next = c.next, c.now
	c.work.temperatures(c, c.now)
}

// matrix makes and factors 1/(γ dt) − J, the cure of each cell put into its heat; false where a step is so long that
// the reaction would run away within it.
func (w *work) matrix(c *Column, lead float64) bool {
	n := len(c.cells)
	for i := range c.cells {
		w.mid[i] = lead + (w.byOut(i, n)-w.byIn(i))*w.slope[i]
		if i > 0 {
			w.low[i] = -w.byLeft[i] * w.slope[i-1]
		}
		if i+1 < n {
			w.high[i] = w.byRight[i+1] * w.slope[i+1]
		}
		one := &c.cells[i]
		if one.react == nil {
			continue
		}
		_, byAlpha, byT := one.react.Slopes(c.now.alpha[i], w.t[i])
		left := lead - byAlpha
		if left < 0.2*lead {
			return false
		}
		w.gain[i], w.grow[i] = byT*w.slope[i], byAlpha
		w.mid[i] -= one.heat * w.gain[i] * lead / left
	}
	// Thomas: the matrix is dominated by its diagonal while the step is not too long for the reaction.
	for i := range n {
		d := w.mid[i]
		if i > 0 {
			w.factor[i] = w.low[i] / w.quotient[i-1]
			d -= w.factor[i] * w.high[i-1]
		}
		if d <= 0 {
			return false
		}
		w.quotient[i] = d
	}
	return true
}

// byIn and byOut are how the flow into a cell from below, and out of it above, change with its temperature.
func (w *work) byIn(i int) float64 {
	if i == 0 {
		return w.outer[0]
	}
	return w.byRight[i]
}

func (w *work) byOut(i, n int) float64 {
	if i == n-1 {
		return -w.outer[1]
	}
	return w.byLeft[i+1]
}

// rates are the right sides where a stage stands.
func (w *work) rates(c *Column, s int, below, above Face) {
	n := len(c.cells)
	copy(w.su, c.now.u)
	copy(w.sa, c.now.alpha)
	for j := range s {
		if a := stageA[s][j]; a != 0 {
			for i := range n {
				w.su[i] += a * w.ku[j][i]
				w.sa[i] += a * w.ka[j][i]
			}
		}
	}
	for i := range c.cells {
		w.at[i], _ = c.cells[i].temperature(w.su[i])
	}
	part := when[s]
	w.flows(c, w.at, below.From+part*(below.To-below.From), above.From+part*(above.To-above.From), false)
	for i := range c.cells {
		one := &c.cells[i]
		w.fu[i] = w.flow[i] - w.flow[i+1]
		w.fa[i] = 0
		if one.react != nil {
			rate := one.react.Rate(w.sa[i], w.at[i])
			w.fa[i] = rate
			w.fu[i] += one.heat * rate
		}
	}
}

// solve solves a stage from its right sides.
func (w *work) solve(c *Column, s int, lead float64) {
	n := len(c.cells)
	u, a := w.ku[s], w.ka[s]
	for i := range n {
		b := w.bu[i]
		if one := &c.cells[i]; one.react != nil {
			b += one.heat * w.grow[i] * w.ba[i] / (lead - w.grow[i])
		}
		if i > 0 {
			b -= w.factor[i] * u[i-1]
		}
		u[i] = b
	}
	for i := n - 1; i >= 0; i-- {
		if i+1 < n {
			u[i] -= w.high[i] * u[i+1]
		}
		u[i] /= w.quotient[i]
	}
	for i := range n {
		if c.cells[i].react == nil {
			a[i] = 0
			continue
		}
		a[i] = (w.ba[i] + w.gain[i]*u[i]) / (lead - w.grow[i])
	}
}
