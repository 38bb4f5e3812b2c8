package storetest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"

	"juxta/store/cluster"
)

// throwaway begins the names of the databases of single tests.
const throwaway = "test_"

// join starts the server that the tests share, or takes over the one that another
// package has started. Whoever is the first clears up what tests that were killed have
// left; whoever leaves last stops it.
func join(ctx context.Context) (leave func(), err error) {
	dir, err := place()
	if err != nil {
		return nil, err
	}
	// Whoever starts and stops the server does so alone; users is held by all who use it.
	alone, err := lockFile(filepath.Join(dir, "alone.lock"))
	if err != nil {
		return nil, err
	}
	users, err := lockFile(filepath.Join(dir, "users.lock"))
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(alone, syscall.LOCK_EX); err != nil {
		return nil, fmt.Errorf("wait for the tests' server: %w", err)
	}
	defer func() { _ = syscall.Flock(alone, syscall.LOCK_UN) }()
	first := syscall.Flock(users, syscall.LOCK_EX|syscall.LOCK_NB) == nil
	running, err = start(ctx, filepath.Join(dir, "server"))
	if err != nil {
		return nil, err
	}
	if first {
		if err := clearUp(ctx); err != nil {
			return nil, err
		}
	}
	if err := syscall.Flock(users, syscall.LOCK_SH); err != nil {
		return nil, err
	}
	return func() {
		_ = syscall.Flock(alone, syscall.LOCK_EX)
		if syscall.Flock(users, syscall.LOCK_EX|syscall.LOCK_NB) == nil {
			running.Stop()
		}
		_ = syscall.Close(users)
		_ = syscall.Close(alone)
	}, nil
}

// memory is a file system in memory, as Linux has it, and how much has to be free there.
// Databases come and go with every test: on a disk, a journalling file system looks at
// every file that was removed lately before it makes a new one, which took most of the
// tests' time.
const (
	memory     = "/dev/shm"
	memoryFree = 3 << 30
)

// place is the folder of this checkout's server. It is not in the checkout: what a test
// reads there is an input of its cached result, and a server's files change at every run.
func place() (string, error) {
	root, err := moduleRoot()
	if err != nil {
		return "", err
	}
	of := sha256.Sum256([]byte(root))
	name := fmt.Sprintf("juxta-test-%d-%s", os.Getuid(), hex.EncodeToString(of[:6]))
	dir := filepath.Join(memory, name)
	var free syscall.Statfs_t
	if info, err := os.Stat(dir); err == nil && info.IsDir() && owned(info) {
		return dir, nil
	}
	if syscall.Statfs(memory, &free) == nil && free.Bavail*uint64(free.Bsize) > memoryFree &&
		os.Mkdir(dir, 0o711) == nil {
		return dir, nil
	}
	cache, err := os.UserCacheDir()
	if err != nil {
		return "", fmt.Errorf("no place for the tests' server: %w", err)
	}
	dir = filepath.Join(cache, name)
	return dir, os.MkdirAll(dir, 0o711)
}

// owned says whether a folder that everybody may write beside is ours.
func owned(info os.FileInfo) bool {
	s, is := info.Sys().(*syscall.Stat_t)
	return is && int(s.Uid) == os.Getuid()
}

// start makes a new server where the one from before cannot be started, such as one that
// a machine took away in the middle of its writing: it writes without care.
func start(ctx context.Context, dir string) (*cluster.Cluster, error) {
	options := cluster.Options{Dir: dir, Throwaway: true}
	c, err := cluster.Start(ctx, options)
	if err == nil {
		return c, nil
	}
	if data, linked := filepath.EvalSymlinks(filepath.Join(dir, "data")); linked == nil {
		_ = os.RemoveAll(data)
	}
	if gone := os.RemoveAll(dir); gone != nil {
		return nil, errors.Join(err, gone)
	}
	return cluster.Start(ctx, options)
}

// clearUp drops the databases of tests that are no more.
func clearUp(ctx context.Context) error {
	names, err := running.Databases(ctx, throwaway)
	if err != nil {
		return err
	}
	for _, name := range names {
		if err := running.Drop(ctx, name); err != nil {
			return err
		}
	}
	return nil
}

func lockFile(path string) (int, error) {
	fd, err := syscall.Open(path, syscall.O_CREAT|syscall.O_RDWR|syscall.O_CLOEXEC, 0o600)
	if err != nil {
		return 0, fmt.Errorf("the lock %s: %w", path, err)
	}
	return fd, nil
}

// moduleRoot is the folder of the checkout.
func moduleRoot() (string, error) {
	dir, err := os.Getwd()
	if err != nil {
		return "", err
	}
	for {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir, nil
		}
		up := filepath.Dir(dir)
		if up == dir {
			return "", errors.New("no go.mod above the tests")
		}
		dir = up
	}
}
