package paper

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/shop/parts"
	"juxta/shop/people"
	"juxta/shop/stock"
)

var inches = unit.System{Length: "in", Temperature: "F", Vacuum: "inHg", Mass: "lb", Area: "ft2"}

// What is printed is in the units of whoever prints it, and holds no quantity as
// data.
func TestPaperIsInTheReadersUnits(t *testing.T) {
	v := parts.RevisionView{Process: parts.Process{
		DebulkEvery: 4, DebulkVacuum: 80e3, DebulkSeconds: 900, LeakStart: 80e3, LeakDrop: 3e3, LeakSeconds: 300,
		BagStack: "no bleed",
	}}
	m := Master{Revision: v, Worked: parts.AnalysisView{Scale: parts.ScaleView{Laid: 0.45359237}}}
	said := func(units unit.System) string {
		var all []string
		book, err := PlyBook(m, false, units)
		require.NoError(t, err)
		for _, s := range book.Cover {
			all = append(all, s.Notes...)
			for _, row := range s.Rows {
				all = append(all, row...)
			}
		}
		return strings.Join(all, "\n")
	}
	metric, us := said(unit.System{}), said(inches)
	assert.Contains(t, metric, "debulk every 4 plies, for 15 min at 80 kPa or more.\n"+
		"closed with no bleed; from 80 kPa or more at most 3.0 kPa lost in 5 min.")
	assert.Contains(t, us, "debulk every 4 plies, for 15 min at 23.6 inHg or more.\n"+
		"closed with no bleed; from 23.6 inHg or more at most 0.89 inHg lost in 5 min.")
	assert.Contains(t, metric, "0.454 kg")
	assert.Contains(t, us, "1.000 lb")
	assert.NotContains(t, metric+us, "⟨")
}

func TestLabelsSayWhatStandsOnThem(t *testing.T) {
	roll := stock.RollView{
		Code:     "R-1",
		Material: "Sable UD 150",
		Batch:    "SU-1",
		Width:    0.3048,
		Length:   30.48,
		Unit:     "m",
	}
	assert.Equal(t, []string{"lot SU-1", "305 mm wide, 30.48 m as printed"}, RollLabel(roll, unit.System{}).Lines)
	assert.Equal(t, []string{"lot SU-1", "12.00 in wide, 100.00 ft as printed"}, RollLabel(roll, inches).Lines)
	badge := Badge(people.IssuedBadge{Badge: "W-1", Person: people.PersonView{Name: "Somebody", Role: "viewer"}})
	assert.Equal(t, "W-1", badge.ID)
	raw, err := Labels(true, badge, badge)
	require.NoError(t, err)
	assert.Equal(t, "%PDF", string(raw[:4]))
}
