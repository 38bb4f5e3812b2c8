package cutting

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Builds stand by when they are due; two share a nest well where their widest plies lie beside each other on the
// roll, and both are due about then, and can be cut.
func TestBuildsThatShareANest(t *testing.T) {
	at := time.Date(2026, 11, 28, 8, 0, 0, 0, time.UTC)
	d := CutDemand{Builds: []CutBuild{
		{Number: "late", CureAt: at.Add(200 * time.Hour), widest: 0.1},
		{Number: "narrow", CureAt: at.Add(20 * time.Hour), widest: 0.2},
		{Number: "wide", CureAt: at, widest: 0.38},
		{Number: "widest", CureAt: at.Add(time.Hour), widest: 0.5},
		{Number: "waits", CureAt: at.Add(2 * time.Hour), widest: 0.1, Waits: "for a mould"},
	}}
	for k := range d.Builds {
		d.Builds[k].Code, d.Builds[k].Serial = d.Builds[k].Number, "1"
	}
	d.share(0.6)
	got := map[string][]string{}
	var order []string
	for _, b := range d.Builds {
		order = append(order, b.Number)
		got[b.Number] = b.Shares
	}
	assert.Equal(t, []string{"wide", "widest", "waits", "narrow", "late"}, order)
	assert.Equal(t, []string{"narrow · 1"}, got["wide"])
	assert.Equal(t, []string{"wide · 1"}, got["narrow"], "380, 200 and 12 mm fit on 600; 500 no more")
	assert.Empty(t, got["late"])
	assert.Empty(t, got["widest"])
}
