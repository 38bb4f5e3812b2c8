package sim_test

import (
	"bytes"
	"fmt"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/cutpath"
	"juxta/core/geom"
	"juxta/device"
	"juxta/device/sim"
	"juxta/format/gcode"
)

// program cuts some plies, squares and a round one, on a table of 0.8 m.
func program(t testing.TB) (cutpath.Path, cutpath.Cutter, []string) {
	t.Helper()
	c := cutpath.Usual()
	c.Table = 0.8
	var pieces []cutpath.PlacedPiece
	var ids []string
	for k := range 5 {
		ring := geom.Rect(0.3, 0.25).Move(0.01+0.4*float64(k), 0.01)
		if k%2 == 1 {
			ring = ring.Rotate(0.3).Move(0.08, 0)
			if round, err := ring.Rounded(0.05); err == nil {
				ring = round
			}
			ring = ring.Move(0.405*float64(k)-ring.Bounds().Min.X, 0.02-ring.Bounds().Min.Y)
		}
		id := fmt.Sprintf("B-1/%d", k+1)
		pieces, ids = append(pieces, cutpath.PlacedPiece{ID: id, Outline: ring, Label: "SP-1 · 3"}), append(ids, id)
	}
	path, err := cutpath.Plan(cutpath.Sheet{Length: 2.1, Width: 0.6}, pieces, c, cutpath.Options{Across: true})
	require.NoError(t, err)
	var file bytes.Buffer
	require.NoError(t, gcode.Write(&file, path, gcode.Options{Name: "N-1", IDs: ids, Cutter: c, Tangential: true}))
	return path, c, strings.Split(strings.TrimSpace(file.String()), "\n")
}

func tableOf(t testing.TB, c cutpath.Cutter) (*sim.Table, *device.Table) {
	t.Helper()
	table, err := sim.ServeTable("127.0.0.1:0", c, 400)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, table.Close()) })
	driver, err := device.DialTable(table.Address)
	require.NoError(t, err)
	t.Cleanup(func() { _ = driver.Close() })
	return table, driver
}

// over waits until a program is.
func over(t testing.TB, driver *device.Table) device.TableStatus {
	t.Helper()
	for range 3000 {
		s, err := driver.Status()
		require.NoError(t, err)
		if s.State != device.TableRunning {
			return s
		}
		time.Sleep(10 * time.Millisecond)
	}
	t.Fatal("the table does not come to an end")
	return device.TableStatus{}
}

// The time that is told before against the table, which knows nothing of it and moves by milliseconds.
func TestATableTakesAsLongAsIsSaid(t *testing.T) {
	path, c, lines := program(t)
	_, driver := tableOf(t, c)
	require.NoError(t, driver.Load("job", lines))
	require.NoError(t, driver.Start())
	s := over(t, driver)
	require.Equal(t, device.TableDone, s.State, s.Message)
	assert.InEpsilon(t, path.Seconds, s.Clock.Seconds(), 0.02)
	assert.Equal(t, []any{5, "job", 2}, []any{s.Freed, s.Job, s.Advanced})
	seen := map[string]bool{}
	for k := range s.Freed {
		id, err := driver.Freed(k)
		require.NoError(t, err)
		seen[id] = true
	}
	assert.Len(t, seen, 5)
	_, err := driver.Freed(5)
	assert.ErrorContains(t, err, "so many pieces are not free")
}

// A line that is lost on the way is sent again, and the program is whole.
func TestALostLineIsSentAgain(t *testing.T) {
	_, c, lines := program(t)
	table, driver := tableOf(t, c)
	table.Fail(sim.TableFault{Kind: "line", After: 7})
	table.Fail(sim.TableFault{Kind: "line", After: 30})
	require.NoError(t, driver.Load("a", lines))
	require.NoError(t, driver.Start())
	assert.Equal(t, device.TableDone, over(t, driver).State)
}

func TestFaultsStopTheTable(t *testing.T) {
	_, c, lines := program(t)
	for _, f := range []struct {
		fault sim.TableFault
		says  string
		freed int
	}{
		{sim.TableFault{Kind: "corner", After: 2}, " has lifted", 2},
		{sim.TableFault{Kind: "stop", After: 1}, "the emergency stop was pressed", 1},
		{sim.TableFault{Kind: "sheet", Length: 1}, "the sheet ends at 1.000 m", 2},
	} {
		table, driver := tableOf(t, c)
		table.Fail(f.fault)
		require.NoError(t, driver.Load("a", lines))
		require.NoError(t, driver.Start())
		s := over(t, driver)
		assert.Equal(t, device.TableFault, s.State)
		assert.Contains(t, s.Message, f.says)
		assert.Equal(t, f.freed, s.Freed)
		// The connection breaks: what the table has done it still knows.
		require.NoError(t, driver.Close())
		again, err := device.DialTable(table.Address)
		require.NoError(t, err)
		s, err = again.Status()
		require.NoError(t, err)
		assert.Equal(t, f.freed, s.Freed)
		assert.ErrorContains(t, again.Start(), "no program is ready")
		require.NoError(t, again.Clear())
		s, err = again.Status()
		require.NoError(t, err)
		assert.Equal(t, device.TableStatus{State: device.TableIdle}, s)
		require.NoError(t, again.Close())
	}
}

func TestATableRefusesWhatItDoesNotKnow(t *testing.T) {
	_, c, lines := program(t)
	table, driver := tableOf(t, c)
	assert.ErrorContains(t, driver.Start(), "no program is ready")
	assert.ErrorContains(t, driver.Load("a", []string{"G2 X1", "M30"}), "G2")
	require.NoError(t, driver.Load("a", lines))
	require.NoError(t, driver.Start())
	assert.ErrorContains(t, driver.Load("b", lines), "a program is running")
	assert.ErrorContains(t, driver.Clear(), "a program is running")
	require.NoError(t, driver.Stop())
	assert.Equal(t, "stopped from outside", over(t, driver).Message)
	conn, err := net.Dial("tcp", table.Address)
	require.NoError(t, err)
	defer conn.Close()
	_, err = conn.Write([]byte("NONSENSE 1\n"))
	require.NoError(t, err)
	answer := make([]byte, 64)
	n, err := conn.Read(answer)
	require.NoError(t, err)
	assert.Equal(t, "NO that is not known\n", string(answer[:n]))
	_, err = device.DialTable("127.0.0.1:1")
	assert.ErrorContains(t, err, "does not answer")
}
