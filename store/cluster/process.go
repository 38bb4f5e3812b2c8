package cluster

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

// Watch starts the server again, on its port, when it ends without having been
// told to, until ctx is done; told hears of it.
func (c *Cluster) Watch(ctx context.Context, told func(event string, err error)) {
	for wait := 200 * time.Millisecond; ; {
		if !c.ended(ctx) {
			return
		}
		told("the database server ended and is started again", c.exit)
		for {
			_ = os.Remove(filepath.Join(c.data, "postmaster.pid"))
			err := c.launch(ctx, c.port)
			if err == nil {
				told("the database server answers again", nil)
				wait = 200 * time.Millisecond
				break
			}
			if ctx.Err() != nil {
				return
			}
			told("the database server does not start", err)
			select {
			case <-ctx.Done():
				return
			case <-time.After(wait):
			}
			wait = min(2*wait, 5*time.Second)
		}
	}
}

// ended waits until the server has ended by itself; false when that is no more of
// interest.
func (c *Cluster) ended(ctx context.Context) bool {
	c.mu.Lock()
	exited := c.exited
	c.mu.Unlock()
	if exited != nil {
		select {
		case <-ctx.Done():
			return false
		case <-exited:
		}
	} else {
		// One that was taken over is no child: it is looked at.
		for pid := c.pid(); Alive(pid); {
			select {
			case <-ctx.Done():
				return false
			case <-time.After(500 * time.Millisecond):
			}
		}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	return !c.stopping && ctx.Err() == nil
}

// startError is a server that ended before it answered, with its log.
type startError struct {
	log, path string
	exit      error
}

func (e *startError) Error() string {
	return fmt.Sprintf(
		"the database server does not start: %s (see %s; --fresh makes a new one and discards what is there)",
		reason(e.log, e.exit),
		e.path,
	)
}

func (e *startError) passes() bool {
	return strings.Contains(e.log, "Address already in use") || strings.Contains(e.log, "is still in use")
}

// launch starts a server, on a free port or on one that is known already, and
// waits until it answers.
func (c *Cluster) launch(ctx context.Context, port int) error {
	if port == 0 {
		free, err := freePort()
		if err != nil {
			return err
		}
		port = free
	}
	c.port = port
	log, from, err := c.log()
	if err != nil {
		return err
	}
	defer func() { _ = log.Close() }() // the server has its own copy
	args := []string{
		"-D",
		c.data,
		"-p",
		strconv.Itoa(port),
		"-h",
		"127.0.0.1",
		"-c",
		"unix_socket_directories=",
		"-c",
		fmt.Sprint("max_connections=", map[bool]int{false: 120, true: 300}[c.options.Throwaway]),
		"-c",
		"log_line_prefix=%m [%p] ",
	}
	if c.options.Throwaway {
		args = append(
			args,
			"-c",
			"fsync=off",
			"-c",
			"synchronous_commit=off",
			"-c",
			"full_page_writes=off",
			"-c",
			"shared_buffers=64MB",
		)
	}
	cmd := c.command(context.WithoutCancel(ctx), c.owner, filepath.Join(c.bin, "postgres"), args...)
	cmd.Stdout, cmd.Stderr = log, log
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("the database server could not be started: %w", err)
	}
	exited := make(chan struct{})
	c.mu.Lock()
	c.process, c.exited = cmd, exited
	c.mu.Unlock()
	go func() {
		c.exit = cmd.Wait()
		close(exited)
	}()
	for {
		switch err := c.ping(ctx, superuser); {
		case err == nil:
			return nil
		case errors.Is(err, errPassword):
			// Is it ours that answers? One that found its port taken ends at once.
			select {
			case <-exited:
			case <-time.After(2 * time.Second):
				c.Stop()
				return err
			}
		}
		select {
		case <-exited:
			raw, _ := os.ReadFile(log.Name())
			return &startError{string(raw[min(from, len(raw)):]), log.Name(), c.exit}
		case <-ctx.Done():
			c.Stop()
			return ctx.Err()
		case <-time.After(30 * time.Millisecond):
		}
	}
}

// largestLog is how large the server's log grows before a new one is begun; the
// one before is kept beside it.
const largestLog = 8 << 20

// log opens the server's log, which is kept over starts, and says where what
// comes now begins.
func (c *Cluster) log() (*os.File, int, error) {
	path := filepath.Join(c.dir, "postgres.log")
	if info, err := os.Stat(path); err == nil && info.Size() > largestLog {
		if err := os.Rename(path, path+".1"); err != nil {
			return nil, 0, err
		}
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return nil, 0, err
	}
	info, err := f.Stat()
	if err != nil {
		_ = f.Close()
		return nil, 0, err
	}
	return f, int(info.Size()), nil
}

// survivor says whether a server of this data folder still runs and answers;
// it is then ours. One that is going down is waited for. The lock file of one
// that was killed is removed: where nobody reaps the dead, its number lives on
// as a zombie, and PostgreSQL would take that for a running server.
func (c *Cluster) survivor(ctx context.Context, data string) (bool, error) {
	lock := filepath.Join(data, "postmaster.pid")
	for range 200 {
		raw, err := os.ReadFile(lock)
		if err != nil {
			return false, nil
		}
		lines := strings.Split(string(raw), "\n")
		pid, _ := strconv.Atoi(lines[0])
		if !Alive(pid) {
			_ = os.Remove(lock)
			return false, nil
		}
		if len(lines) > 3 {
			c.port, _ = strconv.Atoi(lines[3])
			if c.port != 0 {
				if err := c.ping(ctx, superuser); err == nil || errors.Is(err, errPassword) {
					return err == nil, err
				}
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	return false, nil
}

// Alive says whether a process number is a living PostgreSQL server.
func Alive(pid int) bool {
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return false
	}
	// pid (name) state …
	_, rest, _ := strings.Cut(string(stat), "(")
	name, rest, _ := strings.Cut(rest, ") ")
	return strings.HasPrefix(name, "postgres") && !strings.HasPrefix(rest, "Z")
}

func (c *Cluster) pid() int {
	if c.process != nil {
		return c.process.Process.Pid
	}
	data, err := filepath.EvalSymlinks(filepath.Join(c.dir, "data"))
	if err != nil {
		return 0
	}
	raw, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
	if err != nil {
		return 0
	}
	pid, _ := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
	return pid
}
