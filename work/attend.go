package work

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"juxta/shop"
	"juxta/shop/book"
)

// attendEvery is how often a worker says that it is still at a search, also while it finds nothing.
const attendEvery = 3 * time.Second

// attend is a context that ends when somebody asks a search to stop, or it is no longer this worker's turn.
func attend(ctx context.Context, s *shop.Shop, turn book.SearchTurn) (search context.Context, stop func()) {
	search, stop = context.WithCancel(ctx)
	go func() {
		ticker := time.NewTicker(attendEvery)
		defer ticker.Stop()
		for {
			select {
			case <-search.Done():
				return
			case <-ticker.C:
				told(stop, func() (bool, error) { return s.Progress(search, turn, nil) })
			}
		}
	}()
	return search, stop
}

// told keeps how far a search is, and stops it where it is to end.
func told(stop func(), keep func() (asked bool, err error)) {
	asked, err := keep()
	switch {
	case asked || errors.Is(err, book.ErrTurnOver):
		stop()
	case err != nil && !errors.Is(err, context.Canceled):
		slog.Warn("a search's progress was not kept", "error", err)
	}
}

// ended is no error where another worker was at it meanwhile: nothing is left to do.
func ended(err error) error {
	if errors.Is(err, book.ErrTurnOver) {
		slog.Warn("a worker came back late", "says", err)
		return nil
	}
	return err
}
