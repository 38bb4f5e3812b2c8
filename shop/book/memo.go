package book

import (
	"context"
	"fmt"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"
)

// memo keeps answers that many people ask for at once. An answer is given again
// only while the log has not grown (every change of a record writes to the log
// in its own transaction, so the end of the log names the state of the records)
// and within [memoLife] (out-times move with the clock). It is therefore never older
// than the last change, whatever process made it, and at most a second behind
// the clock.
type memo struct {
	mu     sync.Mutex
	head   int64
	kept   map[string]answer
	flight singleflight.Group
}

type answer struct {
	at    time.Time
	value any
}

const (
	memoLife = time.Second
	memoMost = 500 // answers; more are asked for by nobody within a second
)

type headKey struct{}

// AsOf tells the reads of one request where the log ended when it began, so
// that they need not ask again. It is for requests that change nothing.
func AsOf(ctx context.Context, head int64) context.Context {
	return context.WithValue(ctx, headKey{}, head)
}

// head is the number of the last entry in the log.
func (s *Book) head(ctx context.Context) (int64, error) {
	if head, ok := ctx.Value(headKey{}).(int64); ok {
		return head, nil
	}
	var head int64
	err := s.DB.Pool.QueryRow(ctx, `select coalesce(max(seq), 0) from entries`).Scan(&head)
	return head, err
}

// Cached gives the kept answer to a question, or works it out, once for all who
// ask meanwhile. Whoever gets it must not change it.
func Cached[T any](ctx context.Context, s *Book, question string, do func(context.Context) (T, error)) (T, error) {
	var none T
	head, err := s.head(ctx)
	if err != nil {
		return none, err
	}
	now := s.Now()
	if v, ok := s.memo.get(head, question, now); ok {
		return v.(T), nil
	}
	// Whoever goes away meanwhile does not take the answer from the others.
	v, err, _ := s.memo.flight.Do(fmt.Sprint(head, question, now.Truncate(memoLife).Unix()), func() (any, error) {
		out, err := do(context.WithoutCancel(ctx))
		if err == nil {
			s.memo.put(head, question, answer{now, out})
		}
		return out, err
	})
	if err != nil {
		return none, err
	}
	return v.(T), nil
}

func (m *memo) get(head int64, question string, now time.Time) (any, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	k, ok := m.kept[question]
	if age := now.Sub(k.at); !ok || m.head != head || age < 0 || age >= memoLife {
		return nil, false
	}
	return k.value, true
}

func (m *memo) put(head int64, question string, k answer) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if head < m.head {
		return
	}
	if head > m.head || m.kept == nil || len(m.kept) >= memoMost {
		m.head, m.kept = head, map[string]answer{}
	}
	m.kept[question] = k
}
