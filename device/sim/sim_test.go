package sim

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/device"
)

func TestEverythingComesToTheSetPointAndTheMiddleLags(t *testing.T) {
	o := NewOven(unit.Kelvin(20), 1)
	o.Step(unit.Kelvin(120), true, 1200)
	assert.Greater(t, o.Air, o.Lead)
	assert.Greater(t, o.Lead, o.Lag)
	o.Step(unit.Kelvin(120), true, 6*3600)
	for _, temp := range []float64{o.Air, o.Tool, o.Lead, o.Lag} {
		assert.InDelta(t, unit.Kelvin(120), temp, 0.1)
	}
	o.Step(0, false, 24*3600)
	assert.InDelta(t, unit.Kelvin(20), o.Lag, 0.1)
}

func TestStepsOfAnySizeAgree(t *testing.T) {
	whole, parts := NewOven(293, 1), NewOven(293, 1)
	whole.Step(390, true, 3000)
	for range 600 {
		parts.Step(390, true, 5)
	}
	assert.InDelta(t, whole.Lag, parts.Lag, 1e-9)
}

// The driver and the simulated oven talk over a real socket.
func TestDriverRunsTheSimulatedOvenOverModbusTCP(t *testing.T) {
	server, err := Serve("127.0.0.1:0", 600, 1)
	require.NoError(t, err)
	defer server.Close()
	oven, err := device.Dial(server.Address)
	require.NoError(t, err)
	defer oven.Close()

	cold, err := oven.Read()
	require.NoError(t, err)
	assert.False(t, cold.Running)
	assert.InDelta(t, unit.Kelvin(21), cold.Air, 1)
	assert.InDelta(t, 91e3, cold.Vacuum, 1e3)

	require.NoError(t, oven.Start(unit.Kelvin(80)))
	require.Eventually(t, func() bool {
		r, err := oven.Read()
		return err == nil && r.Running && r.Clock > 1800 && r.Lag > unit.Kelvin(50)
	}, 20*time.Second, 10*time.Millisecond)

	server.FailLagSensor(true)
	r, err := oven.Read()
	require.NoError(t, err)
	assert.True(t, math.IsNaN(r.Lag))

	assert.Error(t, oven.SetPoint(unit.Kelvin(300)), "the oven's own interlock refuses")
	require.NoError(t, oven.Stop())
	r, err = oven.Read()
	require.NoError(t, err)
	assert.False(t, r.Running)
}

// A vessel takes its pressure and draws its vacuum; its valve bounds it, and an oven has none.
func TestAVesselIsToldItsPressure(t *testing.T) {
	server, err := Serve("127.0.0.1:0", 600, 1)
	require.NoError(t, err)
	defer server.Close()
	oven, err := device.Dial(server.Address)
	require.NoError(t, err)
	defer oven.Close()
	require.NoError(t, oven.Start(unit.Kelvin(40)))
	require.NoError(t, oven.Press(620e3, 0))
	require.Eventually(t, func() bool {
		p, err := oven.Pressure()
		r, failed := oven.Read()
		return err == nil && failed == nil && p == 620e3 && r.Vacuum < 500
	}, 20*time.Second, 10*time.Millisecond)
	assert.Error(t, oven.Press(1.2e6, 0), "more than its safety valve lets stay")
	require.NoError(t, oven.Stop())
	require.Eventually(t, func() bool {
		p, err := oven.Pressure()
		return err == nil && p == 0
	}, 20*time.Second, 10*time.Millisecond, "it lets its pressure off when it is stopped")
	server.WithoutPressure()
	_, err = oven.Pressure()
	assert.ErrorIs(t, err, device.ErrNoPressure)
	assert.ErrorIs(t, oven.Press(1e5, 0), device.ErrNoPressure)
	_, err = oven.Read()
	assert.NoError(t, err)
}

func TestUnreachableOvenIsASentence(t *testing.T) {
	address, err := freePort("127.0.0.1:0")
	require.NoError(t, err)
	_, err = device.Dial(address)
	assert.ErrorContains(t, err, "does not answer")
	_, err = Serve("127.0.0.1:0", 601, 1)
	assert.ErrorContains(t, err, "600")
}

// Nobody reads for a while in which it would run on for an hour and more: its clock stands.
func TestAnOvenWaitsForItsReader(t *testing.T) {
	server, err := Serve("127.0.0.1:0", 600, 1)
	require.NoError(t, err)
	defer server.Close()
	require.Error(t, server.WaitForReader(time.Minute, 0.5))
	require.Error(t, server.WaitForReader(time.Minute, math.NaN()))
	require.Error(t, server.WaitForReader(0, 600))
	require.NoError(t, server.WaitForReader(2*time.Minute, 6000))
	oven, err := device.Dial(server.Address)
	require.NoError(t, err)
	defer oven.Close()
	require.NoError(t, oven.Start(unit.Kelvin(80)))
	last, reads := 0.0, 0
	require.Eventually(t, func() bool {
		r, err := oven.Read()
		require.NoError(t, err)
		if r.Clock > last {
			require.LessOrEqual(t, r.Clock-last, 121.0)
			last, reads = r.Clock, reads+1
		}
		return reads > 5
	}, 20*time.Second, 100*time.Millisecond)
}
