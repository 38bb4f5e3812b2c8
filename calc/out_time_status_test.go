package calc

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/material"
)

func TestAnOutTimeIsSecondsOnThePageAndADurationInTheCore(t *testing.T) {
	now := time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)
	shelf := now.Add(90 * 24 * time.Hour)
	f := material.NewOutTimeStatus(
		material.Clock{Spent: 90 * time.Minute, Out: true},
		material.Limits{OutLife: 240 * time.Hour, TackLife: 100 * time.Hour, ShelfEnd: shelf},
		30*time.Hour,
		now,
	)
	raw, err := json.Marshal(FromOutTime(f))
	require.NoError(t, err)
	var w OutTimeStatus
	require.NoError(t, json.Unmarshal(raw, &w))
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
	assert.True(t, back.Ends().Equal(f.Ends()), "what is refused by the page is what the core refuses")
	assert.False(
		t,
		FromOutTime(material.NewOutTimeStatus(material.Clock{}, material.Limits{}, 0, now)).Ages,
		"core does not age",
	)
	bare := FromOutTime(material.NewOutTimeStatus(material.Clock{}, material.Limits{OutLife: time.Hour}, 0, now))
	assert.Nil(t, bare.TackLeft, "a life that was not entered is not made up")
	assert.Nil(t, bare.ShelfEnd)
}
