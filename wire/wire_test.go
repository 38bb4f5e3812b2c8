package wire

import (
	"encoding/json"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/cure"
	"juxta/core/geom"
	"juxta/core/material"
	"juxta/core/nest"
)

// through sends a value the way a JSON column or the HTTP contract does.
func through[T any](t require.TestingT, v T) T {
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	var back T
	require.NoError(t, json.Unmarshal(raw, &back))
	return back
}

func TestNothingIsLostOnTheWayThroughJSON(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-1e12, 1e12)
		var ring geom.Ring
		var placements []nest.Placement
		var terms []Term
		for range rapid.IntRange(1, 6).Draw(t, "n") {
			ring = append(ring, geom.Point{X: number.Draw(t, "x"), Y: number.Draw(t, "y")})
			placements = append(
				placements,
				nest.Placement{
					ID:    rapid.String().Draw(t, "id"),
					Sheet: rapid.IntRange(0, 5).Draw(t, "sheet"),
					X:     number.Draw(t, "x"),
					Y:     number.Draw(t, "y"),
					Turn:  90 * rapid.IntRange(0, 3).Draw(t, "turn"),
				},
			)
			terms = append(
				terms,
				Term{A: number.Draw(t, "A"), E: number.Draw(t, "E"), M: number.Draw(t, "M"), N: number.Draw(t, "N")},
			)
		}
		assert.Equal(t, ring, through(t, FromRing(ring)).Ring(), "to the last bit: a shape stored is the shape drawn")
		found := nest.Result{
			Placements: placements,
			Length:     number.Draw(t, "l"),
			Yield:      number.Draw(t, "y"),
			Used:       []float64{number.Draw(t, "used")},
			Step:       rapid.Int().Draw(t, "s"),
		}
		assert.Equal(t, found, through(t, FromNest(found)).Core())
		kinetics := through(t, Kinetics{Terms: terms}).Core()
		require.Len(t, kinetics.Terms, len(terms))
		for i, k := range kinetics.Terms {
			assert.Equal(t, cure.Term(terms[i]), k)
		}
	})
}

func TestAFuseSaysInSecondsWhatTheCoreSaysInTime(t *testing.T) {
	now := time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)
	shelf := now.Add(90 * 24 * time.Hour)
	f := material.NewOutTimeStatus(
		material.Clock{Spent: 90 * time.Minute, Out: true},
		material.Limits{OutLife: 240 * time.Hour, TackLife: 100 * time.Hour, ShelfEnd: shelf},
		30*time.Hour,
		now,
	)
	w := through(t, FromOutTime(f))
	assert.Equal(t, 864000.0, w.Life)
	assert.Equal(t, 5400.0, w.Spent)
	assert.Equal(t, 108000.0, w.Planned)
	assert.Equal(t, w.Life, w.Spent+w.Planned+w.Left)
	assert.True(t, w.RunsOut.Equal(now.Add(238*time.Hour+30*time.Minute)))
	require.NotNil(t, w.TackLeft)
	assert.Equal(t, 98.5*3600, *w.TackLeft)
	assert.True(t, w.ShelfEnd.Equal(shelf))
	back := w.Core()
	assert.Equal(t, f.Spent, back.Spent)
	assert.Equal(t, f.Tack, back.Tack)
	assert.True(t, back.HasTack && back.Ages && back.Out)
	assert.True(t, back.Ends().Equal(f.Ends()), "what is refused from the wire is what the core refuses")
	assert.False(t, FromOutTime(material.NewOutTimeStatus(material.Clock{}, material.Limits{}, 0, now)).Ages, "core does not age")
	bare := FromOutTime(material.NewOutTimeStatus(material.Clock{}, material.Limits{OutLife: time.Hour}, 0, now))
	assert.Nil(t, bare.TackLeft, "a life that was not entered is not made up")
	assert.Nil(t, bare.ShelfEnd)
}

func TestAVerdictCanAlwaysBeWritten(t *testing.T) {
	recipe := cure.Recipe{
		Start:     293,
		Tolerance: 5,
		Segments:  []cure.Segment{{Target: 393, Rate: 0.03, Hold: 60, WaitPart: 390}},
	}
	log := []cure.Sample{
		{T: 0, Lead: 293, Lag: 293, Vacuum: math.NaN()},
		{T: 60, Lead: 294, Lag: math.NaN(), Vacuum: math.NaN()},
		{T: 120, Lead: 294, Lag: 294, Vacuum: math.NaN()},
	}
	v, err := cure.Judge(
		log,
		recipe,
		cure.Limits{MaxPart: 400, MaxRamp: 1, MinVacuum: 8e4, MinCure: 0.9, MaxGap: 300},
		cure.Kinetics{Terms: []cure.Term{{A: 1e5, E: 6e4, N: 1}}},
		0,
	)
	require.NoError(t, err)
	w := through(t, FromVerdict(v))
	assert.False(t, w.Met)
	assert.Len(t, w.Checks, len(v.Checks))
	assert.NotEmpty(t, w.Notes)
	for i, c := range w.Checks {
		assert.Equal(t, v.Checks[i].AtLeast, c.AtLeast)
		if c.Unit == "Pa" || c.Unit == "" || c.Unit == "s" && !strings.HasPrefix(c.What, "longest ") {
			assert.True(t, c.AtLeast, c.What)
		} else {
			assert.False(t, c.AtLeast, c.What)
		}
		assert.Equal(t, c.Met, c.AtLeast && c.Found >= c.Limit || !c.AtLeast && c.Found <= c.Limit, c.What)
	}
	assert.NotNil(t, FromVerdict(cure.Verdict{}).Notes, "no note is an empty list")
}

func TestDegreesNameAFibreDirectionOnce(t *testing.T) {
	for deg, want := range map[float64]float64{
		0: 0, 180: 0, 45: math.Pi / 4, -135: math.Pi / 4, 90: math.Pi / 2, -90: math.Pi / 2, 270: math.Pi / 2,
	} {
		assert.InDelta(t, want, Degrees(deg), 1e-12, "%g°", deg)
	}
}

// What is drawn is as short as it can be on the wire and nowhere off by more than
// half a tenth of a micrometre; what is kept is untouched.
func TestDrawnOutlinesAreShort(t *testing.T) {
	ring := geom.Ring{{X: 1.0 / 3, Y: -2.0 / 3}, {X: 0.1234567891, Y: 1e-9}, {X: math.Pi, Y: 0}}
	drawn := Drawn(ring)
	for i, p := range ring {
		assert.InDelta(t, p.X, drawn[i][0], 0.5e-7+1e-15)
		assert.InDelta(t, p.Y, drawn[i][1], 0.5e-7+1e-15)
	}
	raw, err := json.Marshal(drawn)
	require.NoError(t, err)
	assert.JSONEq(t, `[[0.3333333,-0.6666667],[0.1234568,0],[3.1415927,0]]`, string(raw))
	assert.Equal(t, ring, FromRing(ring).Ring())
}

// Verdicts that runs kept before call the sentence of a check by its old name.
func TestAVerdictOfBeforeIsRead(t *testing.T) {
	var v Verdict
	require.NoError(t, json.Unmarshal([]byte(`{"met":true,"checks":[{"what":"a","met":true,"says":"as kept before"},
		{"what":"b","limit":2,"message":"as kept now"}]}`), &v))
	require.Len(t, v.Checks, 2)
	assert.Equal(t, RunCheck{What: "a", Met: true, Message: "as kept before"}, v.Checks[0])
	assert.Equal(t, RunCheck{What: "b", Limit: 2, Message: "as kept now"}, v.Checks[1])
	again, err := json.Marshal(v)
	require.NoError(t, err)
	assert.NotContains(t, string(again), "says")
	require.Error(t, json.Unmarshal([]byte(`{"checks":[{"says":3}]}`), &v))
}
