package demo

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/calc"
	"juxta/core/cure/forecast"
	"juxta/core/unit"
	"juxta/shop/recipes"
)

// Every recipe of the demo can be walked and meets what it asks for.
func TestTheRecipesOfTheDemoCure(t *testing.T) {
	resins := map[string]recipes.ResinIn{}
	for _, r := range []recipes.ResinIn{Ember(), kiln(), tarn(), wet()} {
		resins[r.Name] = r
	}
	ovens := map[string]forecast.Equipment{}
	for _, e := range equipment() {
		ovens[e.Name] = e
	}
	for _, c := range cures() {
		r := resins[c.resin]
		in := calc.CureIn{
			Recipe: c.plan.Recipe, Equipment: ovens[c.in], Sections: c.plan.Sections, Limits: c.plan.Limits,
			Atmosphere: 93.9e3,
		}
		in.Resin.Kinetics, in.Resin.Viscosity, in.Resin.Alpha0, in.Resin.ResinFacts = r.Kinetics, r.Viscosity, r.Alpha0,
			r.ResinFacts
		if c.plan.Limits.Free { // it was cured before
			in.Resin.Alpha0 = 0.85
		}
		assert.Len(t, c.plan.Reasons, len(c.plan.Recipe.Segments), "%s tells a new colleague why", c.name)
		out, err := in.Simulate(context.Background(), 10)
		require.NoError(t, err, c.name)
		t.Logf("%s: %.1f h, %v", c.name, out.Duration/3600, out.Met)
		for _, f := range out.Findings {
			t.Log("   ", unit.InMetric(f.Message))
		}
		for _, h := range out.Held {
			assert.True(t, h.Met, "%s: %s is %.4g, limit %.4g", c.name, h.What, h.Found, h.Limit)
		}
	}
}
