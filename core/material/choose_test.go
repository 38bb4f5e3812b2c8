package material

import (
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/unit"
)

func TestKitClockIsItsWorstPly(t *testing.T) {
	fresh, tired := OutTimeStatus{Ages: true, Left: 50 * time.Hour}, OutTimeStatus{Ages: true, Left: -2 * time.Hour}
	assert.Equal(t, tired, WorstOutTime([]OutTimeStatus{fresh, {}, tired}), "what does not age is never the worst")
	assert.Equal(t, OutTimeStatus{}, WorstOutTime(nil))
}

func TestHoursAsPeopleSayThem(t *testing.T) {
	for want, d := range map[string]time.Duration{
		"35 min": 35 * time.Minute, "2 h 40": 160 * time.Minute, "2 h": 2 * time.Hour,
		"203 h": 203*time.Hour + 29*time.Minute,
	} {
		assert.Equal(t, want, Hours(d))
	}
}

func aged(spent, planned time.Duration) OutTimeStatus {
	return NewOutTimeStatus(
		Clock{Spent: spent},
		Limits{OutLife: 100 * time.Hour, TackLife: 80 * time.Hour},
		planned,
		day0,
	)
}

func TestFirstToExpireThatFitsComesFirst(t *testing.T) {
	roll := func(id string, f OutTimeStatus) Choice { return Choice{ID: id, OutTime: f, Length: 30, Width: 1} }
	blocked, short, narrow, flawed, holed, piece := roll(
		"blocked",
		aged(0, 0),
	), roll(
		"stub",
		aged(50*time.Hour, 0),
	), roll(
		"narrow",
		aged(0, 0),
	), roll(
		"flawed",
		aged(0, 0),
	), roll(
		"holed",
		aged(0, 0),
	), roll(
		"piece",
		aged(0, 0),
	)
	blocked.Blocked = "batch X is in quarantine"
	short.Length = 0.4
	narrow.Width = 0.5
	flawed.Length, flawed.Left = 2.5, []Stretch{{0.2, 2.4}}
	holed.Length, holed.Left = 4, []Stretch{{0.9, 1}, {1.9, 2}, {2.9, 3}}
	piece.OffCut, piece.Length = true, 2.5
	core := NewOutTimeStatus(Clock{Spent: 9000 * time.Hour}, Limits{}, time.Hour, day0)
	assert.NoError(t, core.Refusal(day0), "core does not age")
	assert.True(t, core.Ends().IsZero())
	got := Choose([]Choice{
		roll(
			"fresh",
			aged(time.Hour, 0),
		), roll("spent", aged(101*time.Hour, 0)), roll("older", aged(60*time.Hour, 30*time.Hour)),
		short, roll(
			"plan too long", aged(75*time.Hour, 30*time.Hour),
		), roll("no tack", aged(85*time.Hour, 0)), blocked, narrow, flawed, holed, piece,
	}, Job{Area: 2, Longest: 1.2, Widest: 0.8}, day0)
	ids, passed := []string{}, map[string]string{}
	for _, c := range got {
		ids = append(ids, c.ID)
		passed[c.ID] = c.Passed
	}
	assert.Equal(t, []string{"piece", "older", "fresh"}, ids[:3], "an off-cut first, then the first to expire")
	for id, says := range map[string]string{"spent": "is spent", "plan too " +
		"long": "by 5 h", "stub": "0.40 m left, at least 2.00 m needed", "no tack": "tack life ended 5 h ago",
		"blocked": "quarantine", "narrow": "500 mm wide, the widest piece needs 800 mm",
		"flawed": "0.30 m of it clear of flaws", "holed": "stretch without a flaw is 1.00 m"} {
		assert.Contains(t, unit.InMetric(passed[id]), says)
	}
	for _, c := range got {
		if c.ID == "older" {
			assert.Equal(t, "tack ends 10 h before the planned cure: lay it in time", c.Warns)
		}
	}
}

func TestClearStretchesAndFlawsMakeTheWholeRoll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		length := rapid.Float64Range(0.1, 50).Draw(t, "length")
		flaws := []Stretch{}
		for range rapid.IntRange(0, 6).Draw(t, "n") {
			from := rapid.Float64Range(0, 60).Draw(t, "from")
			flaws = append(flaws, Stretch{from, from + rapid.Float64Range(0, 5).Draw(t, "long")})
		}
		clear := ClearLengths(length, flaws)
		// A second way: how much of a fine comb lies in no flaw.
		const teeth = 4000
		free := 0
		for k := range teeth {
			x := length * (float64(k) + 0.5) / teeth
			in := false
			for _, f := range flaws {
				in = in || x > f.From && x < f.To
			}
			if !in {
				free++
			}
		}
		sum, at := 0.0, 0.0
		for _, c := range clear {
			require.GreaterOrEqual(t, c.From, at)
			require.LessOrEqual(t, c.To, length)
			sum, at = sum+math.Max(0, c.To-c.From), c.To
		}
		assert.InDelta(t, length*float64(free)/teeth, sum, length*float64(2*len(flaws)+2)/teeth)
	})
}

// Worked by hand: 12 m² that live long and 5 m² that end on the 10th. The first
// build takes the 5 that end first, the second 4 of the 12; the third wants 10
// and finds 8.
func TestScarcityByDate(t *testing.T) {
	day := func(d int) time.Time { return time.Date(2026, 4, d, 12, 0, 0, 0, time.UTC) }
	stock := []Stock{{"long", 12, day(30)}, {"soon", 5, day(10)}}
	short := Shortages([]Need{{"third", day(14), 8}, {"first", day(8), 4}, {"second", day(9), 3.2}}, stock, 0.8)
	require.Len(t, short, 1)
	assert.Equal(t, "third", short[0].Build)
	assert.Equal(t, day(14), short[0].By)
	assert.InDelta(t, 2, short[0].Short, 1e-9)
	// What has expired by the day of the need is no stock for it.
	short = Shortages([]Need{{"late", day(20), 12}}, stock, 1)
	require.Empty(t, short)
	short = Shortages([]Need{{"late", day(20), 13}}, stock, 1)
	require.Len(t, short, 1)
	assert.InDelta(t, 1, short[0].Short, 1e-9)
	assert.Equal(t, 12.0, stock[0].Area, "the stock that was passed in stays as it was")
}

// Rolls are loaded in the order in which they would be ranked, so that weighing the
// first of them finds the best.
func TestRollsAreLoadedInTheOrderInWhichTheyAreRanked(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var all []Choice
		var dues []Due
		for k := range rapid.IntRange(1, 40).Draw(t, "rolls") {
			limits := Limits{OutLife: 900 * time.Hour}
			switch rapid.IntRange(0, 3).Draw(t, "limits") {
			case 0:
				limits = Limits{} // does not age
			case 1:
				limits.ShelfEnd = day0.Add(time.Duration(rapid.IntRange(1, 50).Draw(t, "days")) * 24 * time.Hour)
			}
			clock := Clock{Spent: time.Duration(rapid.IntRange(0, 300).Draw(t, "spent")) * time.Hour}
			c := Choice{
				ID: fmt.Sprintf("%02d", k), OutTime: NewOutTimeStatus(clock, limits, 0, day0), Length: 30, Width: 1,
				OffCut: rapid.Bool().Draw(t, "off-cut"),
			}
			all = append(all, c)
			dues = append(dues, Due{c.ID, c.OffCut, c.OutTime.Ends()})
		}
		FirstToExpire(dues)
		for k, c := range Choose(all, Job{Area: 1, Longest: 1, Widest: 0.5}, day0) {
			require.Equal(t, c.ID, dues[k].ID, c.Passed)
		}
	})
}
