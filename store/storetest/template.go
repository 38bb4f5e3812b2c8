package storetest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"

	"juxta/store"
	"juxta/store/cluster"
)

// Template is a database that tests begin with a copy of. It is made by whoever asks for
// it first, and anew when one of the files that it follows from has changed.
type Template struct {
	Name  string
	From  *Template // what it is a copy of before it is filled; nil: an empty database
	Trees []string  // folders of the checkout whose files it follows from, beside From's
	// Fill fills it; nothing may be open to it afterwards.
	Fill func(ctx context.Context, url Urls) error

	once sync.Once
	made string
	err  error
}

// Urls are the addresses of a database that is filled.
type Urls struct{ App, Owner string }

// Empty is the present schema and nothing in it.
var Empty = &Template{
	Name:  "empty",
	Trees: []string{"store", "go.sum"},
	Fill: func(ctx context.Context, of Urls) error {
		db, err := store.Open(ctx, of.Owner)
		if err != nil {
			return err
		}
		defer db.Close()
		if err := db.Migrate(ctx); err != nil {
			return err
		}
		return db.Grant(ctx, cluster.App)
	},
}

// database is the name of the template's database, which is there afterwards.
func (t *Template) database(ctx context.Context) (string, error) {
	t.once.Do(func() { t.made, t.err = t.make(ctx) })
	return t.made, t.err
}

func (t *Template) make(ctx context.Context) (string, error) {
	from := ""
	if t.From != nil {
		var err error
		if from, err = t.From.database(ctx); err != nil {
			return "", err
		}
	}
	root, err := moduleRoot()
	if err != nil {
		return "", err
	}
	key, err := hashed(root, from+Now.String(), t.Trees)
	if err != nil {
		return "", fmt.Errorf("what the template %s follows from: %w", t.Name, err)
	}
	family := "template_" + t.Name + "_"
	name := family + key
	err = running.Alone(ctx, family, func() error {
		there, err := running.Databases(ctx, family)
		if err != nil {
			return err
		}
		for _, other := range there {
			if other == name {
				return nil
			}
			_ = running.Drop(ctx, other) // another process may still copy it
		}
		// It has its name only when it is whole.
		making := "making_" + t.Name
		if err := running.Drop(ctx, making); err != nil {
			return err
		}
		if err := running.Create(ctx, making, from); err != nil {
			return err
		}
		if err := t.Fill(ctx, Urls{App: running.URL(making), Owner: running.OwnerURL(making)}); err != nil {
			return fmt.Errorf("fill the template %s: %w", t.Name, err)
		}
		return running.Rename(ctx, making, name)
	})
	return name, err
}

// hashed is one name for a text and the contents of trees: all files but tests and what
// the pages are made of.
func hashed(root, and string, trees []string) (string, error) {
	sum := sha256.New()
	sum.Write([]byte(and))
	for _, tree := range trees {
		err := filepath.WalkDir(filepath.Join(root, tree), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") {
				return err
			}
			raw, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(sum, "%s %d\n%s", strings.TrimPrefix(path, root), len(raw), raw)
			return err
		})
		if err != nil {
			return "", err
		}
	}
	return hex.EncodeToString(sum.Sum(nil)[:8]), nil
}
