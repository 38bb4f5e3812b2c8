package parallel

import (
	"errors"
	"fmt"
	"runtime/debug"
	"sync"
)

// Group runs what may run at once. A panic in it is an error of the group:
// nobody else would catch it beside the caller's own goroutine.
type Group struct {
	running sync.WaitGroup
	mu      sync.Mutex
	errs    []error
}

// Run runs a function beside the others.
func (g *Group) Run(do func()) {
	g.running.Go(func() {
		defer func() {
			if p := recover(); p != nil {
				g.mu.Lock()
				defer g.mu.Unlock()
				g.errs = append(g.errs, fmt.Errorf("panic: %v\n%s", p, debug.Stack()))
			}
		}()
		do()
	})
}

// Wait is for all of them, and gives what went wrong.
func (g *Group) Wait() error {
	g.running.Wait()
	return errors.Join(g.errs...)
}
