package forecast

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cure"
	"juxta/core/cure/heat"
)

// ran is the log of a run as the model has it, its readings a tenth of a kelvin off by chance.
func ran(t *testing.T, j Job, rate float64) (log []cure.Sample) {
	t.Helper()
	j.Every = 60
	j.Sections = append([]Section(nil), j.Sections...)
	j.Sections[0].Layers = append([]heat.Layer(nil), j.Sections[0].Layers...)
	for k, l := range j.Sections[0].Layers {
		if l.Reaction != nil {
			own := *l.Reaction
			own.Law.Terms = append([]cure.Term(nil), own.Law.Terms...)
			own.Law.Terms[0].A *= rate
			j.Sections[0].Layers[k].Reaction = &own
		}
	}
	rng := rand.New(rand.NewPCG(1, 2))
	noisy := func(v float64) float64 { return v + 0.1*rng.NormFloat64() }
	for _, p := range simulate(t, j).Points {
		log = append(log, cure.Sample{
			T: p.T, SetPoint: p.SetPoint, Air: p.Air, Tool: p.Parts[0].Tool, Lead: noisy(p.Parts[0].Lead),
			Lag:      noisy(p.Parts[0].Lag),
			Pressure: p.Pressure,
		})
	}
	return log
}

// What is put into a run is learned from its log: heat transfer, lag and the rate of the reaction, each within four of
// its own spreads and some of the air's straight pieces.
func TestARunTeachesWhatWasPutIntoIt(t *testing.T) {
	j := ring()
	j.Equipment.ByPressure, j.Equipment.HeatUp = false, 0
	j.Equipment.Film, j.Equipment.Lag = 33, 240
	log := ran(t, j, 1.25)
	for i := 40; i < 60; i++ {
		log[i].Lag = math.NaN() // a sensor that failed for a while
	}
	e := j.Equipment
	e.Film = 20
	l, err := Learn(context.Background(), j.Sections[0], e, log)
	require.NoError(t, err)
	t.Logf(
		"film %.2f ± %.2f, lag %.1f ± %.1f, rate %.3f ± %.3f, off %.3f K of %d",
		l.Film.Value,
		l.Film.Spread,
		l.Lag.Value,
		l.Lag.Spread,
		l.Rate.Value,
		l.Rate.Spread,
		l.Off,
		l.Used,
	)
	assert.InDelta(t, 33, l.Film.Value, 4*l.Film.Spread+0.3)
	assert.InDelta(t, 240, l.Lag.Value, 4*l.Lag.Spread+5)
	assert.InDelta(t, 1.25, l.Rate.Value, 4*l.Rate.Spread+0.02)
	assert.InDelta(t, 0.1, l.Off, 0.05)
	assert.True(t, l.Cures)
	assert.Less(t, l.Film.Spread, 1.0)

	blank := j
	blank.Sections = []Section{
		{
			Name:   "blank",
			Layers: []heat.Layer{{Name: "plate", Thickness: 0.01, Density: 2770, Specific: 875, Conductivity: 177}},
		},
	}
	l, err = Learn(context.Background(), blank.Sections[0], e, ran(t, blank, 1))
	require.NoError(t, err)
	assert.InDelta(t, 33, l.Film.Value, 4*l.Film.Spread+0.3)
	assert.Equal(t, FittedValue{1, 0}, l.Rate, "nothing cures in it")
}

// Under pressure the air passes more heat on: what is learned is still that of no pressure. Platens are learned as
// such.
func TestARunUnderPressureAndOneInAPressTeach(t *testing.T) {
	j := ring()
	require.True(t, j.Equipment.ByPressure)
	j.Equipment.HeatUp, j.Equipment.Film = 0, 33
	e := j.Equipment
	e.Film = 20
	l, err := Learn(context.Background(), j.Sections[0], e, ran(t, j, 1.25))
	require.NoError(t, err)
	assert.InDelta(t, 33, l.Film.Value, 4*l.Film.Spread+0.3)
	assert.InDelta(t, 1.25, l.Rate.Value, 4*l.Rate.Spread+0.02)
	assert.InDelta(t, 0.1, l.Off, 0.05)

	p := panel(0.004)
	p.Sections[0].Below, p.Sections[0].Above = Platen, Platen
	p.Equipment = UsualPress
	p.Equipment.Contact, p.Equipment.HeatUp, p.Equipment.Lag = 150, 0, 60
	press := p.Equipment
	press.Contact = 400
	l, err = Learn(context.Background(), p.Sections[0], press, ran(t, p, 1))
	require.NoError(t, err)
	assert.InDelta(t, 150, l.Film.Value, 4*l.Film.Spread+3)
}

func TestLogsThatTeachNothing(t *testing.T) {
	j := ring()
	log := ran(t, j, 1)
	_, err := Learn(context.Background(), j.Sections[0], j.Equipment, log[:10])
	assert.ErrorContains(t, err, "too short")
	cold := append([]cure.Sample(nil), log...)
	for i := range cold {
		cold[i].Air = 293
	}
	_, err = Learn(context.Background(), j.Sections[0], j.Equipment, cold)
	assert.ErrorContains(t, err, "never 20 K warmer")
	for i := range log {
		log[i].Lead, log[i].Lag = math.NaN(), math.NaN()
	}
	_, err = Learn(context.Background(), j.Sections[0], j.Equipment, log)
	assert.ErrorContains(t, err, "fewer than twenty")
	shut := j.Sections[0]
	shut.Below, shut.Above = Shut, Shut
	_, err = Learn(context.Background(), shut, j.Equipment, log)
	assert.ErrorContains(t, err, "neither face is heated")
	shut.Above = Platen
	_, err = Learn(context.Background(), shut, j.Equipment, log)
	assert.ErrorContains(t, err, "heat transfer coefficient of the platens")
}
