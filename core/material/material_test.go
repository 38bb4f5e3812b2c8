package material

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var day0 = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

// history draws a possible life of a roll: stays out of and in the freezer,
// lengths taken off while it is out. It gives the out-time worked out alone.
func history(t *rapid.T) (events []Event, spent time.Duration, now time.Time) {
	now = day0
	events = []Event{{Received, now, 50}}
	for range rapid.IntRange(0, 12).Draw(t, "stays") {
		now = now.Add(time.Duration(rapid.IntRange(1, 5000).Draw(t, "in")) * time.Minute)
		events = append(events, Event{Kind: Out, At: now})
		stay := time.Duration(rapid.IntRange(1, 900).Draw(t, "out")) * time.Minute
		if rapid.Bool().Draw(t, "cuts") {
			events = append(events, Event{Used, now.Add(stay / 2), 1.5})
		}
		now = now.Add(stay)
		spent += stay
		events = append(events, Event{Kind: In, At: now})
	}
	return events, spent, now.Add(time.Hour)
}

func TestLedgerAddsUpInAnyOrderOfArrival(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		events, spent, now := history(t)
		inOrder, err := Ledger(0, events, now)
		require.NoError(t, err)
		assert.Equal(t, spent, inOrder.Spent)
		shuffled := append([]Event(nil), events...)
		rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1)).Shuffle(len(shuffled), func(i, j int) {
			shuffled[i], shuffled[j] = shuffled[j], shuffled[i]
		})
		late, err := Ledger(0, shuffled, now)
		require.NoError(t, err)
		assert.Equal(t, inOrder, late)
	})
}

func TestClockNeverRunsBackward(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		events, _, end := history(t)
		before := time.Duration(0)
		for n := 1; n <= len(events); n++ {
			c, err := Ledger(0, events[:n], events[n-1].At)
			require.NoError(t, err)
			require.GreaterOrEqual(t, c.Spent, before)
			before = c.Spent
		}
		c, err := Ledger(0, events, end)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, c.Spent, before)
	})
}

func TestSplittingAStayChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		out := time.Duration(rapid.IntRange(2, 4000).Draw(t, "min")) * time.Minute
		cut := time.Duration(rapid.Int64Range(1, int64(out)-1).Draw(t, "split"))
		now := day0.Add(out + time.Hour)
		whole := []Event{{Received, day0, 1}, {Out, day0, 0}, {In, day0.Add(out), 0}}
		split := append(whole[:2:2], Event{In, day0.Add(cut), 0}, Event{Out, day0.Add(cut), 0}, whole[2])
		a, err := Ledger(0, whole, now)
		require.NoError(t, err)
		b, err := Ledger(0, split, now)
		require.NoError(t, err)
		assert.Equal(t, a.Spent, b.Spent)
	})
}

func TestDaylightSavingNeitherAddsNorRemovesAnHour(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Vienna")
	require.NoError(t, err)
	// The clocks go forward on 29 March 2026 at 02:00 and back on 25 October at 03:00.
	for _, night := range []time.Time{time.Date(2026, 3, 28, 22, 0, 0, 0, zone), time.Date(2026, 10, 24, 22, 0, 0, 0, zone)} {
		morning := time.Date(night.Year(), night.Month(), night.Day()+1, 6, 0, 0, 0, zone)
		c, err := Ledger(0, []Event{{Out, night, 0}, {In, morning, 0}}, morning)
		require.NoError(t, err)
		assert.Equal(t, morning.UTC().Sub(night.UTC()), c.Spent)
	}
}

// Worked by hand: 3 h 30 on Monday, 45 min on Tuesday, out again at 07:00 on
// Wednesday; at 09:15 that makes 6 h 30 spent of 240 h.
func TestHandWorkedLedger(t *testing.T) {
	at := func(d, h, m int) time.Time { return time.Date(2026, 3, d, h, m, 0, 0, time.UTC) }
	events := []Event{
		{Received, at(1, 9, 0), 42}, {Out, at(2, 7, 10), 0}, {Used, at(2, 9, 41), 8.62}, {In, at(2, 10, 40), 0},
		{Out, at(3, 13, 0), 0}, {In, at(3, 13, 45), 0}, {Out, at(4, 7, 0), 0},
	}
	now := at(4, 9, 15)
	c, err := Ledger(0, events, now)
	require.NoError(t, err)
	assert.Equal(t, 6*time.Hour+30*time.Minute, c.Spent)
	assert.InDelta(t, 33.38, c.Length, 1e-9)
	assert.True(t, c.Out)

	f := NewFuse(c, Limits{OutLife: 240 * time.Hour, TackLife: 48 * time.Hour}, 30*time.Hour, now)
	assert.Equal(t, 203*time.Hour+30*time.Minute, f.Left)
	assert.Equal(t, time.Date(2026, 3, 14, 2, 45, 0, 0, time.UTC), f.RunsOut)
	assert.Equal(t, 41*time.Hour+30*time.Minute, f.Tack)
	assert.NoError(t, f.Refusal(now))
}

func TestLedgerRefusesWhatCannotHaveHappened(t *testing.T) {
	now := day0.Add(100 * time.Hour)
	h := func(n int) time.Time { return day0.Add(time.Duration(n) * time.Hour) }
	for says, events := range map[string][]Event{
		"already out":      {{Out, h(1), 0}, {Out, h(2), 0}},
		"without having":   {{Received, h(0), 5}, {In, h(2), 0}},
		"in the future":    {{Out, h(101), 0}},
		"received after":   {{Out, h(1), 0}, {Received, h(2), 5}},
		"only 5.00 m":      {{Received, h(0), 5}, {Used, h(2), 5.5}},
		"above zero":       {{Received, h(0), 5}, {Used, h(2), -1}},
		"not an event":     {{EventKind("melted"), h(0), 5}},
		"only 0.00 m were": {{Received, h(0), 5}, {Used, h(2), 5}, {Used, h(3), 1}},
	} {
		_, err := Ledger(0, events, now)
		assert.ErrorContains(t, err, says)
		var refused *Error
		assert.ErrorAs(t, err, &refused)
	}
}

func TestACutPlyIsNeverFresherThanItsRoll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		events, _, cutAt := history(t)
		roll, err := Ledger(0, events, cutAt)
		require.NoError(t, err)
		later := cutAt.Add(time.Duration(rapid.IntRange(0, 999).Draw(t, "later")) * time.Minute)
		ply, err := Ledger(roll.Spent, []Event{{Kind: Out, At: cutAt}}, later)
		require.NoError(t, err)
		rollLater, err := Ledger(0, events, later)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, ply.Spent, rollLater.Spent)
	})
}

func TestKitClockIsItsWorstPly(t *testing.T) {
	fresh, tired := Fuse{Left: 50 * time.Hour}, Fuse{Left: -2 * time.Hour}
	assert.Equal(t, tired, Worst([]Fuse{fresh, tired}))
	assert.Equal(t, Fuse{}, Worst(nil))
}

func TestFirstToExpireThatFitsComesFirst(t *testing.T) {
	life := func(spent, planned time.Duration) Fuse {
		return NewFuse(Clock{Spent: spent}, Limits{OutLife: 100 * time.Hour}, planned, day0)
	}
	got := Choose([]Choice{
		{ID: "fresh", Fuse: life(time.Hour, 0), Length: 30},
		{ID: "spent", Fuse: life(101*time.Hour, 0), Length: 30},
		{ID: "older", Fuse: life(60*time.Hour, 30*time.Hour), Length: 30},
		{ID: "stub", Fuse: life(50*time.Hour, 0), Length: 0.4},
		{ID: "plan too long", Fuse: life(90*time.Hour, 30*time.Hour), Length: 30},
	}, 2, day0)
	var ids []string
	for _, c := range got {
		ids = append(ids, c.ID)
	}
	assert.Equal(t, []string{"older", "fresh", "spent", "plan too long", "stub"}, ids)
	assert.Contains(t, got[2].Passed, "is spent")
	assert.Contains(t, got[3].Passed, "by 20 h")
	assert.Contains(t, got[4].Passed, "0.40 m left")
}

func TestHoursAsPeopleSayThem(t *testing.T) {
	for want, d := range map[string]time.Duration{
		"35 min": 35 * time.Minute, "2 h 40": 160 * time.Minute, "2 h": 2 * time.Hour, "203 h": 203*time.Hour + 29*time.Minute,
	} {
		assert.Equal(t, want, Hours(d))
	}
}

func TestShelfLifeRefuses(t *testing.T) {
	f := NewFuse(Clock{}, Limits{OutLife: time.Hour, ShelfEnd: day0.Add(-24 * time.Hour)}, 0, day0)
	assert.ErrorContains(t, f.Refusal(day0), "shelf life ended on 1 Mar 2026")
}
