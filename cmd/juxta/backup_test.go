package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/demo"
	"juxta/shop/book"
	"juxta/store"
	"juxta/store/cluster"
)

// sums are the number of rows of every table with a hash over them: what a
// database says.
func sums(t *testing.T, url string) map[string]string {
	t.Helper()
	ctx := context.Background()
	db, err := store.Open(ctx, url)
	require.NoError(t, err)
	defer db.Close()
	var tables []string
	require.NoError(t, db.Gorm.Raw(`select tablename from pg_tables where schemaname = 'public'
		and tablename not like 'river%' and tablename <> 'sessions'`).Scan(&tables).Error)
	out := map[string]string{}
	for _, table := range tables {
		var sum string
		require.NoError(
			t,
			db.Gorm.Raw(`select count(*) || ' ' || coalesce(md5(string_agg(md5(t::text), '' order by md5(t::text))), '')
			from "`+table+`" t`).Scan(&sum).Error,
		)
		out[table] = sum
	}
	return out
}

func TestABackupIsRestoredIntoAnEmptyShop(t *testing.T) {
	ctx := context.Background()
	c, err := cluster.Start(ctx, cluster.Options{Dir: t.TempDir(), Throwaway: true})
	require.NoError(t, err)
	defer c.Stop()
	require.NoError(t, migrate(ctx, c.OwnerURL("juxta"), c.URL("juxta")))
	db, err := store.Open(ctx, c.URL("juxta"))
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, demo.Load(ctx, db, demo.Secrets{PIN: "271828", Password: "twelve letters"}, time.Now()))
	file := filepath.Join(t.TempDir(), "shop.zip")
	run := func(database string, args ...string) (string, error) {
		cmd := exec.Command(binary, args...)
		cmd.Env = append(os.Environ(), "JUXTA_DATABASE_URL="+c.URL(database), "JUXTA_OWNER_URL="+c.OwnerURL(database))
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	out, err := run("juxta", "backup", file)
	require.NoError(t, err, out)
	assert.Regexp(t, `holds everything up to entry \d{3,} of the log`, out)
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "it holds what only the shop may read")
	out, err = run("juxta", "backup", file)
	require.Error(t, err)
	assert.Contains(t, out, "a backup never replaces a file")

	// Another cluster, as on another machine: other secrets, no tables.
	other, err := cluster.Start(ctx, cluster.Options{Dir: t.TempDir(), Throwaway: true})
	require.NoError(t, err)
	defer other.Stop()
	cmd := exec.Command(binary, "restore", file)
	cmd.Env = append(os.Environ(), "JUXTA_DATABASE_URL="+other.URL("juxta"), "JUXTA_OWNER_URL="+other.OwnerURL("juxta"))
	raw, err := cmd.CombinedOutput()
	require.NoError(t, err, string(raw))
	assert.Regexp(
		t,
		`\d{3,} entries, the chain holds and fits 1 kept ends; \d+ rolls, every clock is that of its ledger`,
		string(raw),
	)
	was, is := sums(t, c.OwnerURL("juxta")), sums(t, other.OwnerURL("juxta"))
	assert.Greater(t, len(was), 25)
	assert.Equal(t, was, is, "every row of every table")
	// What the application may not do there it may not do here.
	restored, err := store.Open(ctx, other.URL("juxta"))
	require.NoError(t, err)
	defer restored.Close()
	assert.ErrorContains(t, restored.Gorm.Exec(`delete from entries`).Error, "permission denied")
	assert.ErrorContains(t, restored.Gorm.Exec(`update entries set why = 'another'`).Error, "permission denied")

	// Refused, and nothing is changed: a database that holds something, a file
	// that is none, a log that does not say what it said.
	out, err = run("juxta", "restore", file)
	require.Error(t, err)
	assert.Contains(t, out, "this database is not empty")
	junk := filepath.Join(t.TempDir(), "junk.zip")
	require.NoError(t, os.WriteFile(junk, []byte("no archive"), 0o600))
	require.NoError(t, c.Create(ctx, "junk", ""))
	out, err = run("junk", "restore", junk)
	require.Error(t, err)
	assert.Contains(t, out, "is no backup")
	require.NoError(t, c.Create(ctx, "forged", ""))
	out, err = run("forged", "restore", forge(t, file))
	require.Error(t, err)
	assert.Contains(t, out, "the log was rewritten")

	// A folder without a shop is not made into one by backing it up.
	empty := t.TempDir()
	cmd = exec.Command(binary, "backup", "--state", empty, filepath.Join(t.TempDir(), "none.zip"))
	cmd.Env = append(os.Environ(), "JUXTA_DATABASE_URL=")
	raw, err = cmd.CombinedOutput()
	require.Error(t, err)
	assert.Contains(t, string(raw), "there is no shop in the folder")
	made, err := os.ReadDir(empty)
	require.NoError(t, err)
	assert.Empty(t, made)

	// An upgrade begins with a backup, and ends with a log that holds.
	before := filepath.Join(t.TempDir(), "before.zip")
	out, err = run("juxta", "upgrade", before)
	require.NoError(t, err, out)
	assert.Contains(t, out, "the chain holds")
	assert.FileExists(t, before)
	assert.Equal(t, was, sums(t, c.OwnerURL("juxta")))
}

// forge copies a backup with another end of the log in its note.
func forge(t *testing.T, file string) string {
	t.Helper()
	z, err := zip.OpenReader(file)
	require.NoError(t, err)
	defer z.Close()
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		raw, err := io.ReadAll(in)
		require.NoError(t, err)
		if f.Name == "about.json" {
			var note backupNote
			require.NoError(t, json.Unmarshal(raw, &note))
			note.Head = book.Head{Entry: note.Head.Entry, Hash: "00", At: note.Head.At}
			raw, err = json.Marshal(note)
			require.NoError(t, err)
		}
		to, err := w.Create(f.Name)
		require.NoError(t, err)
		_, err = to.Write(raw)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	path := filepath.Join(t.TempDir(), "forged.zip")
	require.NoError(t, os.WriteFile(path, out.Bytes(), 0o600))
	return path
}
