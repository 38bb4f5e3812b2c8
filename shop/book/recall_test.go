package book

import (
	"context"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whoever goes away while an answer is worked out takes it from nobody: the one
// who began it leaves, those who wait for it still get it, and it is worked out
// once.
func TestManyAskAtOnceAndOneLeaves(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		at := time.Date(2026, 6, 10, 9, 30, 0, 0, time.UTC)
		s := &Book{Now: func() time.Time { return at }}
		begun, times := make(chan struct{}), 0
		work := func(ctx context.Context) (int, error) {
			times++
			close(begun)
			select {
			case <-ctx.Done():
				return 0, ctx.Err()
			case <-time.After(time.Minute):
				return 7, nil
			}
		}
		ask := func(ctx context.Context) (int, error) { return Cached(AsOf(ctx, 12), s, "which roll", work) }

		ctx, leave := context.WithCancel(t.Context())
		go func() { _, _ = ask(ctx) }()
		<-begun
		answers := make(chan error, 20)
		for range 20 {
			go func() {
				got, err := ask(t.Context())
				assert.Equal(t, 7, got)
				answers <- err
			}()
		}
		synctest.Wait() // all 20 wait for the first one's answer
		leave()
		for range 20 {
			require.NoError(t, <-answers)
		}
		assert.Equal(t, 1, times, "worked out once")
	})
}

// A fault is nobody's answer for longer than those who waited for it.
func TestAFaultIsNotKept(t *testing.T) {
	s := &Book{Now: func() time.Time { return time.Date(2026, 6, 10, 9, 30, 0, 0, time.UTC) }}
	times := 0
	work := func(context.Context) (int, error) {
		times++
		if times == 1 {
			return 0, context.DeadlineExceeded
		}
		return 7, nil
	}
	_, err := Cached(AsOf(t.Context(), 12), s, "which roll", work)
	require.ErrorIs(t, err, context.DeadlineExceeded)
	for range 2 {
		got, err := Cached(AsOf(t.Context(), 12), s, "which roll", work)
		require.NoError(t, err)
		assert.Equal(t, 7, got)
	}
	assert.Equal(t, 2, times)
	_, err = Cached(AsOf(t.Context(), 13), s, "which roll", work)
	require.NoError(t, err)
	assert.Equal(t, 3, times, "the log has grown")
}
