package parts

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/sync/errgroup"
)

// A fault in one zone's working-out ends the question, not the server.
func TestAPanicBesideTheRequestIsAnError(t *testing.T) {
	var all errgroup.Group
	done := 0
	all.Go(calmly(func() { done++ }))
	all.Go(calmly(func() { panic("a zone of no plies") }))
	err := all.Wait()
	assert.ErrorContains(t, err, "panic: a zone of no plies")
	assert.ErrorContains(t, err, "calmly_test.go", "where it was")
	assert.Equal(t, 1, done)
}
