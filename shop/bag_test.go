package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// layAll lays what is left of a build, with every debulk.
func (h *house) layAll(build string) {
	h.t.Helper()
	by := h.as("Ines Falk")
	for {
		v, err := h.Layup(h.ctx, build, "")
		require.NoError(h.t, err)
		switch {
		case v.Next == nil:
			return
		case v.Next.Debulk:
			_, err = h.StartDebulk(h.ctx, by, build, "")
			require.NoError(h.t, err)
			h.at = h.at.Add(16 * time.Minute)
			_, err = h.EndDebulk(h.ctx, by, build, "", builds.DebulkEnd{Vacuum: 88e3})
		default:
			_, err = h.Sign(h.ctx, by, build, h.nextPly(build))
		}
		require.NoError(h.t, err)
	}
}

func TestABagIsClosedOnceOverAWholeLayup(t *testing.T) {
	h := open(t)
	by, build := h.as("Ines Falk"), h.build("0002").Code
	_, err := h.CloseBag(h.ctx, by, build, "", "no bleed")
	refusal(t, err, book.Refused, "the layup of this part is not complete")
	_, err = h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 90e3, End: 89e3, Seconds: 300})
	refusal(t, err, book.Refused, "close the bag first")
	h.layAll(build)
	_, err = h.CloseBag(h.ctx, by, build, "", "paper bag")
	refusal(t, err, book.Invalid, `no bag stack "paper bag"`)
	v, err := h.CloseBag(h.ctx, by, build, "", "bleed")
	require.NoError(t, err)
	assert.NotEqual(t, v.Planned, v.Closed, "what was done is kept beside what was planned")
	assert.Equal(t, "bleeder", v.Closed[2])
	assert.Equal(t, "Ines Falk", v.ClosedBy)
	_, err = h.CloseBag(h.ctx, h.as("Ines Falk"), build, "", "no bleed")
	refusal(t, err, book.Conflict, "already closed, by Ines Falk")
	_, err = h.TakeBack(h.ctx, by, build, 10, "crease")
	refusal(t, err, book.Conflict, "already closed")
}

func TestTheLastLeakCheckRules(t *testing.T) {
	h := open(t)
	by, build := h.as("Ines Falk"), h.build("0002").Code
	h.layAll(build)
	_, err := h.CloseBag(h.ctx, by, build, "", "no bleed")
	require.NoError(t, err)
	for _, c := range []struct {
		start, end, seconds float64
		pass                bool
		says                string
	}{
		{90e3, 86e3, 300, false, "4.0 kPa lost over 5 min, limit 3.0 kPa"},
		{90e3, 89e3, 60, false, "it lasted 1.0 min, 5 min required"},
		{70e3, 70e3, 300, false, "it started at 70.0 kPa, at least 80.0 kPa required"},
		{90e3, 87e3, 300, true, "3.0 kPa lost over 5 min"},
		{90e3, 85e3, 600, true, "2.5 kPa lost over 5 min"}, // a longer check is judged by its rate
		{90e3, 80e3, 300, false, "10.0 kPa lost"},
	} {
		v, err := h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: c.start, End: c.end, Seconds: c.seconds})
		require.NoError(t, err)
		last := v.Checks[len(v.Checks)-1]
		assert.Equal(t, c.pass, last.Pass, c.says)
		assert.Contains(t, unit.InMetric(last.Message), c.says)
		assert.InDelta(
			t,
			(c.start-c.end)*300/c.seconds,
			last.Lost,
			1e-6,
			"what it makes over the five minutes of the limit",
		)
		room := map[bool]string{true: "cure", false: "bag"}[c.pass]
		assert.Equal(t, room, v.Build.Room, "%s: a failed check after a good one takes the part back", c.says)
	}
	_, err = h.CheckLeak(h.ctx, by, build, "", builds.NewLeakCheck{Start: 80e3, End: 90e3, Seconds: 300})
	refusal(t, err, book.Invalid, "read both gauges again")
	v, err := h.Bag(h.ctx, build, "")
	require.NoError(t, err)
	assert.Len(t, v.Checks, 6, "every check stays on record")
	assert.InDelta(t, 93.9e3, v.Deepest, 200, "standard atmosphere at 640 m")
}
