package main

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"juxta/api"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/store"
	"juxta/store/cluster"
)

// A backup is a ZIP file with the whole database and a note of what it is: who
// made it, when, and where the log ended. Restored, the log must still say what
// it said there.

const backupFormat = "juxta-backup/1"

type backupNote struct {
	Format  string    `json:"format"`
	Version string    `json:"version"`
	At      time.Time `json:"at"`
	Head    book.Head `json:"head"`
}

// addresses are those of a database, as the owner of its tables and as the
// application.
type addresses struct{ owner, app string }

// where finds the database of the environment, or that of a state folder, whose
// server is started where it does not run; done leaves it as it was. Only what is
// to be filled may be made on the way.
func where(ctx context.Context, state string, fills bool) (at addresses, done func(), err error) {
	if url := os.Getenv("JUXTA_DATABASE_URL"); url != "" {
		return addresses{ownerOr(url), url}, func() {}, nil
	}
	if _, err := os.Stat(filepath.Join(state, "data")); err != nil && !fills {
		return at, nil, fmt.Errorf(
			"there is no shop in the folder %s: name it with --state, or set JUXTA_DATABASE_URL", state)
	}
	c, err := cluster.Start(ctx, cluster.Options{Dir: state})
	if err != nil {
		return at, nil, err
	}
	return addresses{c.OwnerURL("juxta"), c.URL("juxta")}, c.Leave, nil
}

// onDatabase is a command that does something with a database and a file.
func onDatabase(
	use, short string, fills bool,
	do func(ctx context.Context, at addresses, file string, out io.Writer) error,
) *cobra.Command {
	var state string
	cmd := &cobra.Command{
		Use: use + " FILE", Short: short, Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			at, done, err := where(cmd.Context(), state, fills)
			if err != nil {
				return err
			}
			defer done()
			return do(cmd.Context(), at, args[0], cmd.OutOrStdout())
		},
	}
	cmd.Flags().StringVar(&state, "state", "var", "folder of juxta start, where JUXTA_DATABASE_URL says nothing else")
	return cmd
}

func backupCommand() *cobra.Command {
	short := "Write everything that is kept into one file; the shop may go on working"
	return onDatabase(
		"backup",
		short,
		false,
		func(ctx context.Context, at addresses, file string, out io.Writer) error {
			note, err := backup(ctx, at, file)
			if err == nil {
				_, err = fmt.Fprintf(out, "%s holds everything up to entry %d of the log\n", file, note.Head.Entry)
			}
			return err
		},
	)
}

// backup writes a new file beside its place and puts it there when it is whole.
func backup(ctx context.Context, at addresses, path string) (note backupNote, err error) {
	if _, err := os.Stat(path); err == nil {
		return note, fmt.Errorf("%s is there already: a backup never replaces a file", path)
	}
	s, err := shopAt(ctx, at.app)
	if err != nil {
		return note, err
	}
	defer s.DB.Close()
	// Read before the dump: it holds at least this much of the log.
	head, err := s.Head(ctx)
	if err != nil {
		return note, err
	}
	note = backupNote{backupFormat, api.Version(), time.Now().UTC().Truncate(time.Second), head}
	f, err := os.CreateTemp(filepath.Dir(path), ".juxta-backup-*")
	if err != nil {
		return note, err
	}
	defer func() { _ = os.Remove(f.Name()) }() // gone already where it was put in place
	z := zip.NewWriter(f)
	about, err := z.Create("about.json")
	if err != nil {
		return note, err
	}
	if err := json.NewEncoder(about).Encode(note); err != nil {
		return note, err
	}
	// The archive is compressed in itself.
	dump, err := z.CreateHeader(&zip.FileHeader{Name: "database.dump", Method: zip.Store})
	if err != nil {
		return note, err
	}
	if err := cluster.Dump(ctx, at.owner, dump); err != nil {
		return note, err
	}
	if err := errors.Join(z.Close(), f.Sync(), f.Close()); err != nil {
		return note, err
	}
	return note, os.Link(f.Name(), path)
}

func restoreCommand() *cobra.Command {
	short := "Restore a backup into an empty database, bring it to the present schema, and verify its log"
	return onDatabase(
		"restore",
		short,
		true,
		func(ctx context.Context, at addresses, file string, out io.Writer) error {
			note, err := restore(ctx, at, file)
			if err != nil {
				return err
			}
			when := note.At.Local().Format("2 Jan 2006 15:04")
			if _, err := fmt.Fprintf(out, "restored what juxta %s wrote on %s\n", note.Version, when); err != nil {
				return err
			}
			return verify(ctx, at, []book.Head{note.Head}, out)
		},
	)
}

func restore(ctx context.Context, at addresses, path string) (note backupNote, err error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return note, fmt.Errorf("%s is no backup: %w", path, err)
	}
	defer func() { _ = z.Close() }()
	about, err := z.Open("about.json")
	if err != nil {
		return note, fmt.Errorf("%s is no backup of Juxta: %w", path, err)
	}
	defer func() { _ = about.Close() }()
	if err := json.NewDecoder(io.LimitReader(about, 1<<20)).Decode(&note); err != nil || note.Format != backupFormat {
		return note, fmt.Errorf("%s is no backup that this program reads", path)
	}
	dump, err := z.Open("database.dump")
	if err != nil {
		return note, fmt.Errorf("%s is not whole: %w", path, err)
	}
	defer func() { _ = dump.Close() }()
	if err := cluster.Restore(ctx, at.owner, dump); err != nil {
		return note, err
	}
	return note, migrate(ctx, at.owner, at.app)
}

func upgradeCommand() *cobra.Command {
	short := "Write a backup into FILE, bring the database to the present schema, and verify its log"
	return onDatabase(
		"upgrade",
		short,
		false,
		func(ctx context.Context, at addresses, file string, out io.Writer) error {
			note, err := backup(ctx, at, file)
			if err != nil {
				return err
			}
			if err := migrate(ctx, at.owner, at.app); err != nil {
				return fmt.Errorf("%w; %s holds what was there before", err, file)
			}
			return verify(ctx, at, []book.Head{note.Head}, out)
		},
	)
}

func shopAt(ctx context.Context, url string) (*shop.Shop, error) {
	db, err := store.Open(ctx, url)
	if err != nil {
		return nil, err
	}
	return newShop(db, "", "", "", 0)
}

// verify checks the chain of the log against ends of it, the clocks of the rolls, and what is
// kept of builds beside their events.
func verify(ctx context.Context, at addresses, heads []book.Head, out io.Writer) error {
	s, err := shopAt(ctx, at.app)
	if err != nil {
		return err
	}
	defer s.DB.Close()
	n, err := s.VerifyLog(ctx)
	if err != nil {
		return err
	}
	if err := s.VerifyHeads(ctx, heads); err != nil {
		return err
	}
	rolls, err := s.VerifyClocks(ctx)
	if err != nil {
		return err
	}
	builds, err := s.VerifyBuilds(ctx)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "%d entries, the chain holds and fits %d kept ends; %d rolls, every clock is that of its "+
		"ledger; %d builds on routes stand as their events say\n", n, len(heads), rolls, builds)
	return err
}
