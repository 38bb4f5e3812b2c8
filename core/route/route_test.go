package route

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestABuildWaitsAtTheFirstStageNotRecorded(t *testing.T) {
	p := Progress{Plies: 9}
	assert.Equal(t, Cut, StageOf(p))
	p.Cut = 8
	assert.Equal(t, Cut, StageOf(p))
	p.Cut = 9
	assert.Equal(t, Kit, StageOf(p))
	p.KitCounted = true
	assert.Equal(t, Layup, StageOf(p))
	p.LayupDone = true
	assert.Equal(t, Bag, StageOf(p))
	p.LeakPassed = true
	assert.Equal(t, Cure, StageOf(p))
	p.RunFinished = true
	assert.Equal(t, Release, StageOf(p))
	p.Dispositions = 1
	assert.Equal(t, Finished, StageOf(p))
	assert.Equal(t, Cut, StageOf(Progress{}), "a build without plies has nothing to count")
}
