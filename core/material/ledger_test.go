package material

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var day0 = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

// histories is how many random lives every property is held against.
const histories = 10_000

// life is a possible life of a roll, with its out-time counted a second way:
// minute by minute, by asking of each whether the roll was out or lay in a
// freezer that was too warm.
type life struct {
	History
	end                time.Time
	bench, warm, spent time.Duration
	length             float64
}

// lives draws random lives: stays in two freezers, some of them failing, bags
// opened and sealed, lengths cut and thrown away, lines entered wrongly and
// taken back.
func lives(seed uint64) life {
	rng := rand.New(rand.NewPCG(seed, 7))
	minutes := func(most int) time.Duration { return time.Duration(1+rng.IntN(most)) * time.Minute }
	l := life{end: day0, length: 50}
	l.Base = CarriedLife{Spent: time.Duration(rng.IntN(2)) * minutes(300),
		More: time.Duration(rng.IntN(2)) * minutes(500)}
	id := int64(0)
	add := func(e Event) {
		id++
		e.ID = id
		l.Events = append(l.Events, e)
		if rng.IntN(12) == 0 { // the same once more, by mistake, and taken back
			e.ID = id + 1
			l.Events = append(l.Events, e, Event{Kind: Counter, At: e.At, ID: id + 2, Cancels: e.ID})
			id += 2
		}
	}
	freezer := int64(1 + rng.IntN(2))
	add(Event{Kind: Received, At: day0, Length: l.length, Freezer: freezer})
	type stay struct {
		from, to time.Time
		freezer  int64 // 0: out
	}
	stays := []stay{{from: day0, freezer: freezer}}
	move := func(e Event, to int64) {
		stays[len(stays)-1].to = e.At
		stays = append(stays, stay{from: e.At, freezer: to})
		add(e)
	}
	open := false
	for range rng.IntN(7) {
		l.end = l.end.Add(minutes(3000))
		move(Event{Kind: Out, At: l.end}, 0)
		out := minutes(900)
		if !open && rng.IntN(2) == 0 {
			add(Event{Kind: Opened, At: l.end.Add(out / 3)})
			open = true
		}
		if rng.IntN(2) == 0 {
			add(Event{Kind: Used, At: l.end.Add(out / 2), Length: 1.5})
			l.length -= 1.5
		}
		if rng.IntN(5) == 0 {
			add(Event{Kind: Scrapped, At: l.end.Add(out / 2), Length: 0.25})
			l.length -= 0.25
		}
		l.end = l.end.Add(out)
		if open && rng.IntN(2) == 0 {
			add(Event{Kind: Sealed, At: l.end})
			open = false
		}
		if rng.IntN(5) > 0 {
			freezer = int64(1 + rng.IntN(2))
			move(Event{Kind: In, At: l.end, Freezer: freezer}, freezer)
		} else {
			break // left on the bench
		}
	}
	l.end = l.end.Add(minutes(2000))
	stays[len(stays)-1].to = l.end
	for range rng.IntN(3) {
		from := day0.Add(minutes(12000))
		w := Warm{Freezer: int64(1 + rng.IntN(2)), From: from, To: from.Add(minutes(2000))}
		if rng.IntN(3) == 0 {
			w.To = time.Time{}
		}
		if !from.After(l.end) {
			l.Warm = append(l.Warm, w)
		}
	}
	for _, s := range stays {
		if s.freezer == 0 {
			l.bench += s.to.Sub(s.from)
			continue
		}
		for m := s.from; m.Before(s.to); m = m.Add(time.Minute) {
			if slices.ContainsFunc(l.Warm, func(w Warm) bool {
				return w.Freezer == s.freezer && !m.Before(w.From) && (w.To.IsZero() || m.Before(w.To))
			}) {
				l.warm += time.Minute
			}
		}
	}
	l.spent = l.Base.Spent + l.bench + l.warm
	return l
}

// each runs a property over all histories and names the seed that breaks it.
func each(t *testing.T, property func(rng *rand.Rand, l life) error) {
	t.Helper()
	for i, l := range drawn() {
		l.Events, l.Warm = slices.Clone(l.Events), slices.Clone(l.Warm)
		if err := property(rand.New(rand.NewPCG(uint64(i), 8)), l); err != nil {
			t.Fatalf("history %d: %v", i, err)
		}
	}
}

var drawn = sync.OnceValue(func() []life {
	all := make([]life, histories)
	for i := range all {
		all[i] = lives(uint64(i))
	}
	return all
})

func TestTheClockCountsEveryWarmMinuteOnce(t *testing.T) {
	kinds := map[string]int{}
	each(t, func(_ *rand.Rand, l life) error {
		for _, e := range l.Events {
			kinds[string(e.Kind)]++
		}
		kinds["warm"] += len(l.Warm)
		c, err := l.Clock(l.end)
		if err != nil {
			return err
		}
		if c.Spent != l.spent || c.Bench != l.bench || c.Warm != l.warm {
			return fmt.Errorf(
				"spent %v of it bench %v warm %v, by minutes %v, %v, %v",
				c.Spent,
				c.Bench,
				c.Warm,
				l.spent,
				l.bench,
				l.warm,
			)
		}
		if diff := c.Length - l.length; diff > 1e-9 || diff < -1e-9 {
			return fmt.Errorf("%g m left, not %g", c.Length, l.length)
		}
		return nil
	})
	for _, kind := range []string{"received", "out", "in", "opened", "sealed", "used", "scrapped", "counter", "warm"} {
		assert.Greater(t, kinds[kind], 1000, "the histories hold enough of %q", kind)
	}
}

func TestOrderOfArrivalDoesNotMatter(t *testing.T) {
	each(t, func(rng *rand.Rand, l life) error {
		want, err := l.Clock(l.end)
		if err != nil {
			return err
		}
		rng.Shuffle(len(l.Events), func(i, j int) { l.Events[i], l.Events[j] = l.Events[j], l.Events[i] })
		rng.Shuffle(len(l.Warm), func(i, j int) { l.Warm[i], l.Warm[j] = l.Warm[j], l.Warm[i] })
		got, err := l.Clock(l.end)
		if err != nil || got != want {
			return fmt.Errorf("%+v, in order %+v, %v", got, want, err)
		}
		return nil
	})
}

func TestTheClockNeverRunsBackwardAndLaterAgrees(t *testing.T) {
	each(t, func(rng *rand.Rand, l life) error {
		slices.SortStableFunc(l.Events, func(a, b Event) int { return a.At.Compare(b.At) })
		last := Clock{}
		for at := day0; !at.After(l.end); at = at.Add(time.Duration(1+rng.IntN(1500)) * time.Minute) {
			known := History{Base: l.Base}
			for _, e := range l.Events {
				if !e.At.After(at) {
					known.Events = append(known.Events, e)
				}
			}
			for _, w := range l.Warm {
				if w.From.After(at) {
					continue
				}
				if w.To.After(at) {
					w.To = time.Time{}
				}
				known.Warm = append(known.Warm, w)
			}
			c, err := known.Clock(at)
			if err != nil {
				return err
			}
			if c.Spent < last.Spent || c.Bench < last.Bench || c.Warm < last.Warm {
				return fmt.Errorf("at %v it went back from %v to %v", at, last.Spent, c.Spent)
			}
			later, err := known.Clock(at.Add(41 * time.Minute))
			if err != nil {
				return err
			}
			if c.Later(at.Add(41*time.Minute)) != later {
				return fmt.Errorf(
					"at %v: 41 min later by the clock %+v, by the ledger %+v",
					at,
					c.Later(at.Add(41*time.Minute)),
					later,
				)
			}
			last = c
		}
		return nil
	})
}

func TestTheLineOfALifeIsItsClockAtEveryMoment(t *testing.T) {
	each(t, func(rng *rand.Rand, l life) error {
		line, err := l.Line(l.end)
		if err != nil {
			return err
		}
		c, err := l.Clock(l.end)
		if err != nil {
			return err
		}
		if last := line[len(line)-1]; last.Spent != c.Spent || last.Out != c.Out || !last.At.Equal(l.end) ||
			!line[0].At.Equal(day0) {
			return fmt.Errorf("it ends at %+v, the clock says %v", last, c.Spent)
		}
		for i, m := range line[1:] {
			rose, took := m.Spent-line[i].Spent, m.At.Sub(line[i].At)
			if took < 0 || rose != 0 && rose != took {
				return fmt.Errorf("%v of out-time in %v", rose, took)
			}
		}
		return nil
	})
}

func TestSplittingAStayChangesNothing(t *testing.T) {
	each(t, func(rng *rand.Rand, l life) error {
		want, err := l.Clock(l.end)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(l.Events, func(e Event) bool { return e.Kind == Out })
		if i < 0 || want.Freezer == 0 {
			return nil
		}
		// Into the freezer and out again in the same moment, while it was out.
		at := l.Events[i].At.Add(time.Second)
		l.Events = append(l.Events, Event{Kind: In, At: at, Freezer: 1}, Event{Kind: Out, At: at})
		got, err := l.Clock(l.end)
		if err != nil {
			return err
		}
		if got.Spent != want.Spent || got.Length != want.Length {
			return fmt.Errorf("%v, whole %v", got.Spent, want.Spent)
		}
		return nil
	})
}

func TestACutPlyIsNeverFresherThanItsRoll(t *testing.T) {
	each(t, func(rng *rand.Rand, l life) error {
		cutAt := l.end
		roll, err := l.Clock(cutAt)
		if err != nil {
			return err
		}
		later := cutAt.Add(time.Duration(rng.IntN(1000)) * time.Minute)
		ply, err := roll.Carry().Piece(cutAt, later, nil, nil).Clock(later)
		if err != nil {
			return err
		}
		rollLater, err := l.Clock(later)
		if err != nil {
			return err
		}
		if ply.Spent < rollLater.Spent {
			return fmt.Errorf("ply %v, roll %v", ply.Spent, rollLater.Spent)
		}
		return nil
	})
}

func TestACounterEntryUndoesItsLineAndNothingElse(t *testing.T) {
	each(t, func(rng *rand.Rand, l life) error {
		want, err := l.Clock(l.end)
		if err != nil {
			return err
		}
		wrong := Event{Kind: Scrapped, At: l.end, Length: 0.01, ID: 9001}
		l.Events = append(l.Events, wrong, Event{Kind: Counter, At: l.end, ID: 9002, Cancels: 9001})
		got, err := l.Clock(l.end)
		if err != nil || got != want {
			return fmt.Errorf("%+v, before %+v, %v", got, want, err)
		}
		return nil
	})
}

func TestDaylightSavingNeitherAddsNorRemovesAnHour(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Vienna")
	require.NoError(t, err)
	// The clocks go forward on 29 March 2026 at 02:00 and back on 25 October at 03:00.
	for hours, night := range map[int]time.Time{
		7: time.Date(2026, 3, 28, 22, 0, 0, 0, zone), 9: time.Date(2026, 10, 24, 22, 0, 0, 0, zone),
	} {
		morning := time.Date(night.Year(), night.Month(), night.Day()+1, 6, 0, 0, 0, zone)
		c, err := History{Events: []Event{{Kind: Out, At: night}, {Kind: In, At: morning}}}.Clock(morning)
		require.NoError(t, err)
		assert.Equal(t, time.Duration(hours)*time.Hour, c.Spent)
	}
}

// Worked by hand: 3 h 30 on Monday, 45 min on Tuesday, out again at 07:00 on
// Wednesday; at 09:15 that makes 6 h 30 spent of 240 h.
func TestHandWorkedLedger(t *testing.T) {
	at := func(d, h, m int) time.Time { return time.Date(2026, 3, d, h, m, 0, 0, time.UTC) }
	h := History{Events: []Event{
		{
			Kind:    Received,
			At:      at(1, 9, 0),
			Length:  42,
			Freezer: 1,
		}, {Kind: Out, At: at(2, 7, 10)}, {Kind: Opened, At: at(2, 9, 0)},
		{
			Kind:   Used,
			At:     at(2, 9, 41),
			Length: 8.62,
		}, {Kind: Sealed, At: at(2, 10, 40)}, {Kind: In, At: at(2, 10, 40), Freezer: 1},
		{Kind: Out, At: at(3, 13, 0)}, {Kind: In, At: at(3, 13, 45), Freezer: 1}, {Kind: Out, At: at(4, 7, 0)},
	}}
	now := at(4, 9, 15)
	c, err := h.Clock(now)
	require.NoError(t, err)
	assert.Equal(t, 6*time.Hour+30*time.Minute, c.Spent)
	assert.InDelta(t, 33.38, c.Length, 1e-9)
	assert.True(t, c.Out)
	assert.False(t, c.Open)

	f := NewOutTimeStatus(c, Limits{OutLife: 240 * time.Hour, TackLife: 48 * time.Hour}, 30*time.Hour, now)
	assert.Equal(t, 203*time.Hour+30*time.Minute, f.Left)
	assert.Equal(t, time.Date(2026, 3, 14, 2, 45, 0, 0, time.UTC), f.RunsOut)
	assert.Equal(t, 41*time.Hour+30*time.Minute, f.Tack)
	assert.NoError(t, f.Refusal(now))
}

// Worked by hand: the freezer stood at -4 °C from Sunday 22:00 to Monday 06:30.
// A roll put in at 23:15 aged 7 h 15 of it; one that was out until Monday
// 05:00 aged that hour and a half; one in the other freezer none.
func TestAFreezerFailureAgesEverythingInside(t *testing.T) {
	at := func(d, h, m int) time.Time { return time.Date(2026, 3, d, h, m, 0, 0, time.UTC) }
	failed := []Warm{{Freezer: 1, From: at(1, 22, 0), To: at(2, 6, 30)}}
	now := at(2, 12, 0)
	for in, want := range map[time.Time]time.Duration{
		at(1, 23, 15): 7*time.Hour + 15*time.Minute, at(2, 5, 0): 90 * time.Minute,
		at(1, 12, 0): 8*time.Hour + 30*time.Minute,
	} {
		h := History{
			Events: []Event{
				{Kind: Received, At: at(1, 8, 0), Length: 10, Freezer: 1},
				{Kind: Out, At: at(1, 10, 0)},
				{Kind: In, At: in, Freezer: 1},
			},
			Warm: failed,
		}
		c, err := h.Clock(now)
		require.NoError(t, err)
		assert.Equal(t, want, c.Warm)
		assert.Equal(t, in.Sub(at(1, 10, 0)), c.Bench)
		h.Events[2].Freezer = 2
		c, err = h.Clock(now)
		require.NoError(t, err)
		assert.Zero(t, c.Warm)
	}
	// Still warm: it ages now, and two failures that overlap count once.
	c, err := History{
		Events: []Event{{Kind: Received, At: at(1, 8, 0), Length: 10, Freezer: 1}},
		Warm:   append(failed, Warm{Freezer: 1, From: at(2, 6, 0)}),
	}.Clock(
		now,
	)
	require.NoError(t, err)
	assert.True(t, c.Ageing)
	assert.Equal(t, 14*time.Hour, c.Warm)
}

func TestARetestExtendsLife(t *testing.T) {
	limits := Limits{OutLife: 100 * time.Hour, ShelfEnd: day0.Add(24 * time.Hour)}
	now := day0.Add(48 * time.Hour)
	h := History{Events: []Event{{Kind: Received, At: day0, Length: 10}}}
	c, err := h.Clock(now)
	require.NoError(t, err)
	assert.ErrorContains(t, NewOutTimeStatus(c, limits, 0, now).Refusal(now), "shelf life ended on 3 Mar 2026")
	h.Events = append(
		h.Events,
		Event{Kind: Retested, At: now, Until: now.Add(90 * 24 * time.Hour), More: 12 * time.Hour},
	)
	c, err = h.Clock(now)
	require.NoError(t, err)
	f := NewOutTimeStatus(c, limits, 0, now)
	assert.NoError(t, f.Refusal(now))
	assert.Equal(t, 112*time.Hour, f.Life)
	assert.Equal(t, now.Add(112*time.Hour), f.Ends(), "out-life ends before the new shelf life")
}

func TestTheLedgerRefusesWhatCannotHaveHappened(t *testing.T) {
	now := day0.Add(100 * time.Hour)
	h := func(n int) time.Time { return day0.Add(time.Duration(n) * time.Hour) }
	received := Event{Kind: Received, At: h(0), Length: 5, ID: 1}
	out := Event{Kind: Out, At: h(1), ID: 2}
	for says, events := range map[string][]Event{
		"already out":       {out, {Kind: Out, At: h(2)}},
		"without having":    {received, {Kind: In, At: h(2)}},
		"in the future":     {{Kind: Out, At: h(101)}},
		"received after":    {out, {Kind: Received, At: h(2), Length: 5}},
		"not be below zero": {{Kind: Received, At: h(0), Length: -5}},
		"only 5.00 m":       {received, out, {Kind: Used, At: h(2), Length: 5.5}},
		"above zero":        {received, out, {Kind: Used, At: h(2), Length: -1}},
		"not an event":      {{Kind: "melted", At: h(0), Length: 5}},
		"only 0.00 m were": {received, out, {Kind: Used, At: h(2), Length: 5},
			{Kind: Scrapped, At: h(3), Length: 1}},
		"while it lay in the freezer": {received, {Kind: Used, At: h(2), Length: 1}},
		"opened inside the freezer":   {received, {Kind: Opened, At: h(2)}},
		"already open":                {received, out, {Kind: Opened, At: h(2)}, {Kind: Opened, At: h(3)}},
		"although it was not open":    {received, out, {Kind: Sealed, At: h(2)}},
		"must give a new shelf life":  {received, {Kind: Retested, At: h(2)}},
		"beyond its own day":          {received, {Kind: Retested, At: h(2), Until: h(1)}},
		"not in this ledger":          {received, {Kind: Counter, At: h(2), Cancels: 77}},
		"already taken " +
			"back": {received, out, {Kind: Counter, At: h(2), Cancels: 2}, {Kind: Counter, At: h(2), Cancels: 2}},
		"cannot be taken back": {received, out, {Kind: Counter, At: h(2), ID: 3, Cancels: 2},
			{Kind: Counter, At: h(2), Cancels: 3}},
		"put back without having been": {received, out, {Kind: In, At: h(3)}, {Kind: Counter, At: h(4), Cancels: 2}},
	} {
		_, err := History{Events: events}.Clock(now)
		assert.ErrorContains(t, err, says)
		var refused *Error
		assert.ErrorAs(t, err, &refused)
	}
}

func TestEventsOfOneMomentAreReadInTheOrderInWhichTheyCanHappen(t *testing.T) {
	events := []Event{
		{Kind: Used, At: day0, Length: 1},
		{Kind: Opened, At: day0},
		{Kind: Out, At: day0},
		{Kind: Received, At: day0, Length: 3},
	}
	c, err := History{Events: events}.Clock(day0)
	require.NoError(t, err)
	assert.InDelta(t, 2, c.Length, 1e-12)
}

func BenchmarkLedger200Events(b *testing.B) {
	h := History{Events: []Event{{Kind: Received, At: day0, Length: 500}}}
	for k := range 99 {
		at := day0.Add(time.Duration(k*10) * time.Hour)
		h.Events = append(
			h.Events,
			Event{Kind: Out, At: at.Add(time.Hour), ID: int64(2*k + 1)},
			Event{Kind: In, At: at.Add(5 * time.Hour), ID: int64(2*k + 2)},
		)
	}
	now := day0.Add(2000 * time.Hour)
	b.Run("clock", func(b *testing.B) {
		for b.Loop() {
			if _, err := h.Clock(now); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("line", func(b *testing.B) {
		for b.Loop() {
			if _, err := h.Line(now); err != nil {
				b.Fatal(err)
			}
		}
	})
}
