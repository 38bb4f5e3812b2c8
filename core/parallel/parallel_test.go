package parallel

import (
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAPanicIsAnErrorOfTheGroup(t *testing.T) {
	var g Group
	var done atomic.Int32
	for range 8 {
		g.Run(func() { done.Add(1) })
	}
	require.NoError(t, g.Wait())
	assert.EqualValues(t, 8, done.Load())
	g.Run(func() { panic("too thin") })
	err := g.Wait()
	require.ErrorContains(t, err, "panic: too thin")
	require.ErrorContains(t, err, "parallel_test.go", "where it was")
}
