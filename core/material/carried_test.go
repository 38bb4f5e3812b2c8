package material

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a re-test gave a roll goes with what is cut of it afterwards, be it laid
// at once or after a stay in the freezer; a move of the kit before the ply was
// cut is not the ply's. Common practice, no source.
func TestAPieceTakesAlongWhatItsRollHas(t *testing.T) {
	hour := func(h int) time.Time { return day0.Add(time.Duration(h) * time.Hour) }
	until := hour(3000)
	roll := History{Events: []Event{
		{Kind: Received, At: hour(0), Length: 20}, {Kind: Out, At: hour(10)},
		{Kind: Retested, At: hour(12), More: 200 * time.Hour, Until: until},
	}}
	at, err := roll.Clock(hour(30))
	require.NoError(t, err)
	along := at.Carry()
	assert.Equal(t, CarriedLife{Spent: 20 * time.Hour, More: 200 * time.Hour, Until: until}, along)

	moves := []Event{
		{Kind: In, At: hour(20)},
		{Kind: Out, At: hour(25)},
		{Kind: In, At: hour(32)},
		{Kind: Out, At: hour(40)},
		{Kind: In, At: hour(90)},
	}
	piece, err := along.Piece(hour(30), hour(50), moves, nil).Clock(hour(50))
	require.NoError(t, err)
	assert.Equal(t, 20*time.Hour+2*time.Hour+10*time.Hour, piece.Spent)
	fuse := NewOutTimeStatus(piece, Limits{OutLife: 30 * time.Hour, ShelfEnd: hour(20)}, 0, hour(50))
	assert.Equal(t, 230*time.Hour, fuse.Life)
	assert.Equal(t, until, fuse.ShelfEnd)
	assert.NoError(t, fuse.Refusal(hour(50)))

	again, err := piece.Carry().Piece(hour(50), hour(51), nil, nil).Clock(hour(51))
	require.NoError(t, err)
	assert.Equal(t, 200*time.Hour, again.More, "a piece of a piece")
}
