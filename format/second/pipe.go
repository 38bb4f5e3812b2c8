package second

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
)

// pipe lets a command write its answer on its descriptor 3, apart from what its packages print; the
// function that is given waits for the end of the answer.
func pipe(cmd *exec.Cmd, into *bytes.Buffer) (func(), error) {
	r, w, err := os.Pipe()
	if err != nil {
		return nil, fmt.Errorf("a pipe: %w", err)
	}
	cmd.ExtraFiles = []*os.File{w}
	done := make(chan struct{})
	go func() {
		defer close(done)
		_, _ = into.ReadFrom(r)
	}()
	return func() {
		_ = w.Close()
		<-done
		_ = r.Close()
	}, nil
}
