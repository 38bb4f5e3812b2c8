package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"juxta/shop"
	"juxta/shop/book"
)

// Ends of the log are kept in a folder, a file a day and a line an end: the
// number of the entry, its hash, and when it was written. Copied elsewhere, they
// show whether the log was rewritten since.

const headEvery = 10 * time.Minute

// keepHeads writes the end of the log down from time to time, and once more when
// ctx is done.
func keepHeads(ctx context.Context, s *shop.Shop, dir string) {
	last := int64(0)
	keep := func(ctx context.Context) {
		h, err := s.Head(ctx)
		if err == nil && h.Entry > last {
			if err = writeHead(dir, h, time.Now()); err == nil {
				last = h.Entry
			}
		}
		if err != nil {
			slog.Warn("the end of the log could not be written down", "error", err)
		}
	}
	for {
		keep(context.WithoutCancel(ctx))
		select {
		case <-ctx.Done():
			keep(context.WithoutCancel(ctx))
			return
		case <-time.After(headEvery):
		}
	}
}

func writeHead(dir string, h book.Head, now time.Time) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	f, err := os.OpenFile(
		filepath.Join(dir, now.UTC().Format("2006-01-02")),
		os.O_CREATE|os.O_APPEND|os.O_WRONLY,
		0o600,
	)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(f, "%d %s %s\n", h.Entry, h.Hash, h.At.UTC().Format(time.RFC3339Nano))
	return errors.Join(err, f.Close())
}

// readHeads reads the ends that were kept in a folder, oldest first; none where
// there is no such folder.
func readHeads(dir string) ([]book.Head, error) {
	files, err := os.ReadDir(dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var heads []book.Head
	for _, file := range files {
		raw, err := os.ReadFile(filepath.Join(dir, file.Name()))
		if err != nil {
			return nil, err
		}
		for line := range strings.Lines(string(raw)) {
			line = strings.TrimSpace(line)
			var h book.Head
			var at string
			_, err := fmt.Sscan(line, &h.Entry, &h.Hash, &at)
			if err == nil {
				h.At, err = time.Parse(time.RFC3339Nano, at)
			}
			if err != nil {
				return nil, fmt.Errorf("%s: %q is not an end of a log", file.Name(), line)
			}
			heads = append(heads, h)
		}
	}
	slices.SortFunc(heads, func(a, b book.Head) int { return int(a.Entry - b.Entry) })
	return heads, nil
}
