package sim

import (
	"bufio"
	"fmt"
	"hash/crc32"
	"math"
	"net"
	"strconv"
	"strings"
	"sync"
	"time"

	"juxta/core/cutpath"
	"juxta/core/geom"
	"juxta/device"
	"juxta/format/gcode"
)

// TableFault is what can go wrong on a simulated table.
type TableFault struct {
	Kind   string  // "corner", "stop", "sheet", "line"
	After  int     // pieces cut free before; of "line": the line that is lost
	Length float64 // of "sheet": where it ends, m
}

// Table is a simulated cutting table behind the line protocol of docs/table.md. It moves by small steps of time,
// its clock Speed times as fast as the wall's.
type Table struct {
	Address string
	c       cutpath.Cutter
	speed   float64
	l       net.Listener
	quit    chan struct{}
	all     sync.WaitGroup

	mu      sync.Mutex
	conns   map[net.Conn]bool
	faults  []TableFault
	state   device.TableState
	job     string
	want    int // lines of the program
	lines   []string
	moves   []gcode.Move
	next    int // of the moves
	line    int // of the program that is done
	at      geom.Point
	turn    float64
	down    bool
	tool    int
	piece   string
	advance int
	clock   float64
	freed   []string
	says    string
	way     *stroke
	rest    float64 // that what is being done still takes, s
}

// ServeTable starts a simulated table on address (host:port; port 0 picks a free one).
func ServeTable(address string, c cutpath.Cutter, speed float64) (*Table, error) {
	if !(speed > 0 && speed <= 1000) {
		return nil, fmt.Errorf("the simulated table runs at up to 1000 times the wall clock, not %g", speed)
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("the simulated table cannot listen on %s: %w", address, err)
	}
	t := &Table{
		Address: l.Addr().String(), c: c, speed: speed, l: l, quit: make(chan struct{}), conns: map[net.Conn]bool{},
		state: device.TableIdle,
	}
	t.all.Add(2)
	go t.accept()
	go t.run()
	return t, nil
}

// Close stops the table.
func (t *Table) Close() error {
	close(t.quit)
	err := t.l.Close()
	t.mu.Lock()
	for c := range t.conns {
		_ = c.Close()
	}
	t.mu.Unlock()
	t.all.Wait()
	return err
}

// Fail makes something go wrong once.
func (t *Table) Fail(f TableFault) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.faults = append(t.faults, f)
}

// Clock is how long the program has run, s.
func (t *Table) Clock() float64 {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.clock
}

func (t *Table) accept() {
	defer t.all.Done()
	for {
		conn, err := t.l.Accept()
		if err != nil {
			return
		}
		t.mu.Lock()
		t.conns[conn] = true
		t.mu.Unlock()
		t.all.Add(1)
		go t.serve(conn)
	}
}

func (t *Table) serve(conn net.Conn) {
	defer t.all.Done()
	defer func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		delete(t.conns, conn)
		_ = conn.Close()
	}()
	in := bufio.NewScanner(conn)
	in.Buffer(nil, 4096)
	for in.Scan() {
		if _, err := fmt.Fprintln(conn, t.answer(strings.TrimRight(in.Text(), "\r"))); err != nil {
			return
		}
	}
}

// mostLines is how long a program may be.
const mostLines = 500_000

func (t *Table) answer(line string) string {
	t.mu.Lock()
	defer t.mu.Unlock()
	word, rest, _ := strings.Cut(line, " ")
	switch word {
	case "HELLO":
		return fmt.Sprintf("TABLE 1 %.3f simulated", t.c.Table)
	case "LOAD":
		name, number, _ := strings.Cut(rest, " ")
		n, err := strconv.Atoi(number)
		switch {
		case t.state == device.TableRunning:
			return "NO a program is running"
		case err != nil || n < 1 || n > mostLines || name == "" || len(name) > 60:
			return "NO a program has a name and its number of lines"
		}
		t.forget()
		t.state, t.job, t.want = device.TableLoading, name, n
		return "OK 0"
	case "START":
		if t.state != device.TableReady {
			return "NO no program is ready"
		}
		t.state = device.TableRunning
		return "OK"
	case "STOP":
		if t.state == device.TableRunning {
			t.fault("stopped from outside")
		}
		return "OK"
	case "CLEAR":
		if t.state == device.TableRunning {
			return "NO a program is running"
		}
		t.forget()
		return "OK"
	case "STATUS":
		job := t.job
		if job == "" {
			job = "-"
		}
		return fmt.Sprintf("STATE %s %s %d %d %d %d %d %d | %s", t.state, job, t.line, int64(math.Round(t.at.X*1e6)),
			int64(math.Round(t.at.Y*1e6)), t.advance, int64(t.clock*1e3), len(t.freed), t.says)
	case "FREED":
		k, err := strconv.Atoi(rest)
		if err != nil || k < 0 || k >= len(t.freed) {
			return "NO so many pieces are not free"
		}
		return fmt.Sprintf("FREED %d %s", k, t.freed[k])
	}
	if n, err := strconv.Atoi(word); err == nil && t.state == device.TableLoading {
		return t.take(n, rest)
	}
	return "NO that is not known"
}

// take takes a line of a program.
func (t *Table) take(n int, rest string) string {
	sum, text, _ := strings.Cut(rest, " ")
	if n != len(t.lines)+1 || sum != fmt.Sprintf("%08x", crc32.ChecksumIEEE([]byte(text))) ||
		t.fails("line", n) != nil {
		return fmt.Sprintf("AGAIN %d", len(t.lines)+1)
	}
	t.lines = append(t.lines, text)
	if len(t.lines) == t.want {
		moves, err := gcode.Read(strings.NewReader(strings.Join(t.lines, "\n")))
		if err != nil {
			t.forget()
			return "NO " + err.Error()
		}
		t.moves, t.state = moves, device.TableReady
	}
	return fmt.Sprintf("OK %d", n)
}

func (t *Table) forget() {
	t.state, t.job, t.want, t.lines, t.moves, t.next, t.line = device.TableIdle, "", 0, nil, nil, 0, 0
	t.at, t.turn, t.down, t.tool, t.piece, t.advance, t.clock = geom.Point{}, 0, false, 0, "", 0, 0
	t.freed, t.says, t.way, t.rest = nil, "", nil, 0
}

func (t *Table) fault(says string) { t.state, t.says = device.TableFault, says }

// fails takes the fault of a kind that is due.
func (t *Table) fails(kind string, at int) *TableFault {
	for k, f := range t.faults {
		if f.Kind == kind && (kind == "sheet" || at >= f.After) {
			if kind != "sheet" {
				t.faults = append(t.faults[:k:k], t.faults[k+1:]...)
			}
			return &f
		}
	}
	return nil
}

// step is how finely the table moves, s of its own clock.
const step = 0.001

func (t *Table) run() {
	defer t.all.Done()
	const tick = 20 * time.Millisecond
	ticker := time.NewTicker(tick)
	defer ticker.Stop()
	for {
		select {
		case <-t.quit:
			return
		case <-ticker.C:
		}
		t.mu.Lock()
		for left := tick.Seconds() * t.speed; left > 0 && t.state == device.TableRunning; left -= step {
			t.tick(step)
		}
		t.mu.Unlock()
	}
}

// tick moves the table on by a moment.
func (t *Table) tick(dt float64) {
	t.clock += dt
	if t.rest > dt {
		t.rest -= dt
		return
	}
	dt -= t.rest
	t.rest = 0
	if t.way != nil {
		t.at = t.way.move(dt)
		if f := t.fails("sheet", 0); f != nil && t.tool == 2 && t.at.X+float64(t.advance)*t.c.Table > f.Length {
			t.fault(fmt.Sprintf("the sheet ends at %.3f m", f.Length))
			return
		}
		if !t.way.over() {
			return
		}
		t.line, t.way = t.way.line, nil
	}
	for t.rest == 0 && t.way == nil && t.state == device.TableRunning {
		t.begin()
	}
}

// begin begins the next move.
func (t *Table) begin() {
	if t.next >= len(t.moves) {
		t.state = device.TableDone
		return
	}
	m := t.moves[t.next]
	t.next++
	t.line = m.Line
	switch m.Kind {
	case gcode.Rapid, gcode.Feed:
		if !t.down {
			long := math.Hypot(m.To.X-t.at.X, m.To.Y-t.at.Y)
			t.rest = hop(long, t.c)
			// The knife turns to where it will go while it is lifted.
			if t.tool == 2 && t.next+1 < len(t.moves) {
				to := t.moves[t.next+1].To
				heading := math.Atan2(to.Y-m.To.Y, to.X-m.To.X)
				t.rest = max(t.rest, math.Abs(math.Remainder(heading-t.turn, 2*math.Pi))/t.c.Turn)
			}
			t.at = m.To
			return
		}
		// All that goes on without a lift is one way.
		way := &stroke{c: t.c, points: []geom.Point{t.at, m.To}, line: m.Line}
		for t.next < len(t.moves) && t.moves[t.next].Kind == gcode.Feed {
			way.points = append(way.points, t.moves[t.next].To)
			way.line = t.moves[t.next].Line
			t.next++
		}
		n := len(way.points)
		t.turn = math.Atan2(way.points[n-1].Y-way.points[n-2].Y, way.points[n-1].X-way.points[n-2].X)
		t.way = way
	case gcode.Lower:
		if !t.down {
			t.down, t.rest = true, t.c.Lower
		}
	case gcode.Raise:
		if t.down {
			t.down, t.rest = false, t.c.Lift
		}
	case gcode.Tool:
		if t.tool != 0 && t.tool != m.Tool {
			t.rest = t.c.ToolChange
		}
		t.tool = m.Tool
	case gcode.Advance:
		t.advance++
		t.rest = t.c.Advance
	case gcode.Ply:
		t.piece = m.ID
		if m.ID == "" || t.tool != 2 {
			return
		}
		if t.fails("corner", len(t.freed)) != nil {
			t.fault("a corner of " + m.ID + " has lifted")
		} else if t.fails("stop", len(t.freed)) != nil {
			t.fault("the emergency stop was pressed")
		}
	case gcode.Free:
		t.freed = append(t.freed, m.ID)
	case gcode.End:
		t.state = device.TableDone
	}
}

// hop is how long a lifted way takes: half of it gathering speed, half slowing down, with full speed between.
func hop(long float64, c cutpath.Cutter) float64 {
	full := c.Rapid * c.Rapid / c.Acceleration
	if long < full {
		return 2 * math.Sqrt(long/c.Acceleration)
	}
	return 2*c.Rapid/c.Acceleration + (long-full)/c.Rapid
}

// stroke is a way with the tool down while it goes along it.
type stroke struct {
	c      cutpath.Cutter
	points []geom.Point
	line   int
	leg    int     // that it is on
	done   float64 // of the leg, m
	v      float64
}

func (s *stroke) over() bool { return s.leg >= len(s.points)-1 }

// legOf is a leg's length and direction.
func (s *stroke) legOf(k int) (long, heading float64) {
	a, b := s.points[k], s.points[k+1]
	return math.Hypot(b.X-a.X, b.Y-a.Y), math.Atan2(b.Y-a.Y, b.X-a.X)
}

// move goes on for a moment: as fast as it can still slow down for every corner ahead.
func (s *stroke) move(dt float64) geom.Point {
	ahead, most := -s.done, s.c.Feed
	for k := s.leg; k < len(s.points)-1; k++ {
		long, heading := s.legOf(k)
		ahead += long
		corner := 0.0
		if k+2 < len(s.points) {
			_, next := s.legOf(k + 1)
			corner = s.c.Through(math.Abs(math.Remainder(next-heading, 2*math.Pi)))
		}
		most = min(most, math.Sqrt(corner*corner+2*s.c.Acceleration*max(0, ahead)))
		if ahead > s.c.Feed*s.c.Feed/(2*s.c.Acceleration) {
			break
		}
	}
	s.v = max(min(s.v+s.c.Acceleration*dt, most), 1e-4)
	far := s.v * dt
	for !s.over() {
		long, heading := s.legOf(s.leg)
		if s.done+far < long {
			s.done += far
			a := s.points[s.leg]
			sin, cos := math.Sincos(heading)
			return geom.Point{X: a.X + cos*s.done, Y: a.Y + sin*s.done}
		}
		far -= long - s.done
		s.done = 0
		s.leg++
	}
	return s.points[len(s.points)-1]
}
