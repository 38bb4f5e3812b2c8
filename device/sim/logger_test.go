package sim

import (
	"encoding/json"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/device"
)

func TestAFreezerKeepsItsColdAndLosesItWithItsDoorOpen(t *testing.T) {
	f := NewFreezer(-20, 1)
	for range 12 * 24 {
		got := f.Step(5*time.Minute, false)
		require.InDelta(t, -20, got, 3)
	}
	last := f.Step(5*time.Minute, true)
	for range 12 {
		now := f.Step(5*time.Minute, true)
		require.Greater(t, now, last)
		last = now
	}
	assert.Greater(t, last, -10.0, "an hour with the door open")
	assert.Less(t, last, 21.0)
	for range 24 {
		last = f.Step(5*time.Minute, false)
	}
	assert.InDelta(t, -20, last, 3, "cold again in two hours")
}

func TestARoomStaysARoom(t *testing.T) {
	c := NewClimate(3)
	for at := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC); at.Month() == 3; at = at.Add(5 * time.Minute) {
		temperature, humidity := c.Step(at)
		require.InDelta(t, 21, temperature, 4)
		require.InDelta(t, 45, humidity, 20)
	}
}

// heard keeps what a listener got, by topic.
type heard struct {
	mu  sync.Mutex
	got map[string][]string
}

func (h *heard) hear(topic string, payload []byte) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.got[topic] = append(h.got[topic], string(payload))
}

func (h *heard) of(topic string) []string {
	h.mu.Lock()
	defer h.mu.Unlock()
	return append([]string(nil), h.got[topic]...)
}

// The logger over real MQTT, with every fault that it knows.
func TestLoggerSpeaksMQTTAndItsFaults(t *testing.T) {
	logger, err := ServeLogger("127.0.0.1:0", 20*time.Millisecond, 1, 7, time.Now)
	require.NoError(t, err)
	h := &heard{got: map[string][]string{}}
	client := device.ListenClimate("tcp://"+logger.Address, "test", h.hear)
	defer client.Close()
	wait := func(what string, state func() bool) {
		t.Helper()
		require.Eventually(t, state, 20*time.Second, 5*time.Millisecond, what)
	}
	topics := []string{"juxta/room", "juxta/freezer-1", "juxta/freezer-2"}
	wait(
		"all topics",
		func() bool { return len(h.of(topics[0])) > 3 && len(h.of(topics[1])) > 3 && len(h.of(topics[2])) > 3 },
	)
	r, err := device.ReadClimate([]byte(h.of("juxta/room")[0]))
	require.NoError(t, err)
	assert.InDelta(t, 21, *r.Temperature, 4)
	require.NotNil(t, r.Humidity)

	value := func(raw string) float64 {
		var v Reading
		require.NoError(t, json.Unmarshal([]byte(raw), &v))
		return v.Temperature
	}
	logger.Fail("juxta/freezer-1", Spikes)
	from := len(h.of("juxta/freezer-1"))
	wait("a spike", func() bool {
		for _, raw := range h.of("juxta/freezer-1")[from:] {
			if v := value(raw); v > 10 || v < -60 {
				return true
			}
		}
		return false
	})
	logger.Fail("juxta/freezer-1", Garbage)
	wait("garbage", func() bool {
		all := h.of("juxta/freezer-1")
		_, err := device.ReadClimate([]byte(all[len(all)-1]))
		return err != nil
	})
	logger.Fail("juxta/freezer-1", "")
	logger.Fail("juxta/freezer-2", Silent)
	// What was under way has arrived once the mended one has spoken twice more.
	again := func(n int) {
		t.Helper()
		from := len(h.of("juxta/freezer-1"))
		wait("the mended sensor", func() bool { return len(h.of("juxta/freezer-1")) >= from+n })
	}
	again(3)
	silent := len(h.of("juxta/freezer-2"))
	again(6)
	assert.Len(t, h.of("juxta/freezer-2"), silent)
	assert.NoError(t, logger.Close())
}

func TestReadingsThatAreNone(t *testing.T) {
	for _, raw := range []string{
		"", "null", "{}", `{"temperature":"cold"}`, `{"at":"yesterday","temperature":1}`, "temperature: 3",
	} {
		_, err := device.ReadClimate([]byte(raw))
		assert.Error(t, err, raw)
	}
	_, err := device.ReadClimate(make([]byte, 5000))
	assert.ErrorContains(t, err, "5000 bytes")
	r, err := device.ReadClimate([]byte(`{"temperature":-18.5}`))
	require.NoError(t, err)
	assert.Nil(t, r.At, "it counts from its arrival")
}
