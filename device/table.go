package device

import (
	"bufio"
	"fmt"
	"hash/crc32"
	"net"
	"strconv"
	"strings"
	"time"

	"juxta/core/geom"
)

// TableState is what a cutting table is at.
type TableState string

const (
	TableIdle    TableState = "idle"
	TableLoading TableState = "loading"
	TableReady   TableState = "ready"
	TableRunning TableState = "running"
	TableFault   TableState = "fault"
	TableDone    TableState = "done"
)

// TableStatus is what a table tells of itself. Line counts those of the program that are done, At is the tool on
// the table, m, Advanced how often the cloth has been, Freed how many pieces are cut free.
type TableStatus struct {
	State    TableState
	Job      string // its own name for what it has loaded; empty: none
	Line     int
	At       geom.Point
	Advanced int
	Clock    time.Duration // since the start of the program
	Freed    int
	Message  string
}

// Table is a cutting table that speaks the line protocol of docs/table.md over TCP.
type Table struct {
	conn net.Conn
	in   *bufio.Reader
}

const tablePatience = 5 * time.Second

// DialTable reaches a table and hears that it is one.
func DialTable(address string) (*Table, error) {
	conn, err := net.DialTimeout("tcp", address, tablePatience)
	if err != nil {
		return nil, fmt.Errorf("the cutting table at %s does not answer: %w", address, err)
	}
	t := &Table{conn, bufio.NewReaderSize(conn, 8192)}
	says, err := t.ask("HELLO")
	if err == nil && !strings.HasPrefix(says, "TABLE 1 ") {
		err = fmt.Errorf("what answers at %s is no cutting table that Juxta knows: %q", address, says)
	}
	if err != nil {
		_ = conn.Close()
		return nil, err
	}
	return t, nil
}

// Close leaves the table: what it runs goes on.
func (t *Table) Close() error { return t.conn.Close() }

// ask sends a line and gives the answer.
func (t *Table) ask(line string) (string, error) {
	if err := t.conn.SetDeadline(time.Now().Add(tablePatience)); err != nil {
		return "", err
	}
	if _, err := t.conn.Write([]byte(line + "\n")); err != nil {
		return "", fmt.Errorf("the cutting table does not take %q: %w", line, err)
	}
	says, err := t.in.ReadString('\n')
	if err != nil {
		return "", fmt.Errorf("the cutting table does not answer: %w", err)
	}
	return strings.TrimRight(says, "\r\n"), nil
}

// order sends what is answered by OK, or by NO and why.
func (t *Table) order(line string) error {
	says, err := t.ask(line)
	if err != nil {
		return err
	}
	if why, refused := strings.CutPrefix(says, "NO "); refused {
		return fmt.Errorf("the cutting table refuses: %s", why)
	}
	if !strings.HasPrefix(says, "OK") {
		return fmt.Errorf("the cutting table says %q", says)
	}
	return nil
}

// mostAgain is how often in a row a line is sent anew.
const mostAgain = 20

// Load gives the table a program under a name, line by line, each with its number and check sum; what is lost on
// the way is sent again.
func (t *Table) Load(job string, program []string) error {
	if err := t.order(fmt.Sprintf("LOAD %s %d", job, len(program))); err != nil {
		return err
	}
	for k, again := 0, 0; k < len(program); {
		says, err := t.ask(fmt.Sprintf("%d %08x %s", k+1, crc32.ChecksumIEEE([]byte(program[k])), program[k]))
		if err != nil {
			return err
		}
		word, number, _ := strings.Cut(says, " ")
		n, err := strconv.Atoi(number)
		switch {
		case word == "OK" && err == nil && n == k+1:
			k, again = k+1, 0
		case word == "AGAIN" && err == nil && n >= 1 && n <= len(program) && again < mostAgain:
			k, again = n-1, again+1
		default:
			return fmt.Errorf("the cutting table does not take line %d: %q", k+1, says)
		}
	}
	return nil
}

// Start runs the program that is loaded.
func (t *Table) Start() error { return t.order("START") }

// Stop lifts the tool and ends the program.
func (t *Table) Stop() error { return t.order("STOP") }

// Clear forgets a program that is over, and its fault.
func (t *Table) Clear() error { return t.order("CLEAR") }

// Status asks what the table is at.
func (t *Table) Status() (s TableStatus, err error) {
	says, err := t.ask("STATUS")
	if err != nil {
		return s, err
	}
	var x, y, clock int64
	head, rest, _ := strings.Cut(says, " | ")
	n, err := fmt.Sscanf(
		head,
		"STATE %s %s %d %d %d %d %d %d",
		&s.State,
		&s.Job,
		&s.Line,
		&x,
		&y,
		&s.Advanced,
		&clock,
		&s.Freed,
	)
	if err != nil || n != 8 {
		return s, fmt.Errorf("the cutting table says %q", says)
	}
	if s.Job == "-" {
		s.Job = ""
	}
	s.At, s.Clock, s.Message = geom.Point{
		X: float64(x) * 1e-6,
		Y: float64(y) * 1e-6,
	}, time.Duration(
		clock,
	)*time.Millisecond, rest
	return s, nil
}

// Freed is which piece was cut free as the k-th, from 0.
func (t *Table) Freed(k int) (string, error) {
	says, err := t.ask(fmt.Sprintf("FREED %d", k))
	if err != nil {
		return "", err
	}
	id, found := strings.CutPrefix(says, fmt.Sprintf("FREED %d ", k))
	if !found {
		return "", fmt.Errorf("the cutting table says %q", says)
	}
	return id, nil
}
