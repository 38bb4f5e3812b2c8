package route

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestABuildWaitsAtTheFirstRoomNotRecorded(t *testing.T) {
	p := Progress{Plies: 9}
	assert.Equal(t, Cut, RoomOf(p))
	p.Cut = 8
	assert.Equal(t, Cut, RoomOf(p))
	p.Cut = 9
	assert.Equal(t, Kit, RoomOf(p))
	p.KitCounted = true
	assert.Equal(t, Layup, RoomOf(p))
	p.LayupDone = true
	assert.Equal(t, Bag, RoomOf(p))
	p.LeakPassed = true
	assert.Equal(t, Cure, RoomOf(p))
	p.RunFinished = true
	assert.Equal(t, Release, RoomOf(p))
	p.Dispositions = 1
	assert.Equal(t, Finished, RoomOf(p))
	assert.Equal(t, Cut, RoomOf(Progress{}), "a build without plies has nothing to count")
}
