package sim

import (
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math"
	"net"
	"sync"
	"time"

	mqtt "github.com/mochi-mqtt/server/v2"
	"github.com/mochi-mqtt/server/v2/hooks/auth"
	"github.com/mochi-mqtt/server/v2/listeners"
)

// Fault is something that goes wrong with a simulated sensor.
type Fault string

// The faults of a sensor.
const (
	Silent  Fault = "silent"  // it sends nothing
	Drift   Fault = "drift"   // it reads 0.5 K more each minute
	Spikes  Fault = "spikes"  // every fifth reading is far off
	Garbage Fault = "garbage" // it sends what is no reading
	Warm    Fault = "warm"    // no fault of the sensor: the freezer itself warms
)

// Logger is a simulated climate logger with an MQTT broker of its own, as a
// small shop has on one box: it publishes one JSON reading a topic every so
// often, retained, with the temperature in °C and the humidity in %.
type Logger struct {
	Address string
	broker  *mqtt.Server
	quit    chan struct{}
	done    chan struct{}

	mu     sync.Mutex
	faults map[string]Fault
	since  map[string]time.Time
}

// Reading is the JSON that the logger publishes.
type Reading struct {
	At          time.Time `json:"at"`
	Temperature float64   `json:"temperature"`
	Humidity    *float64  `json:"humidity,omitempty"`
}

// ServeLogger starts the broker on address and publishes every so often on
// topics juxta/room, juxta/freezer-1 and juxta/freezer-2. speed makes the
// freezers, not the clock, run faster; now is the clock that it stamps its readings by.
func ServeLogger(
	address string,
	every time.Duration,
	speed float64,
	seed uint64,
	now func() time.Time,
) (*Logger, error) {
	broker := mqtt.New(&mqtt.Options{InlineClient: true, Logger: slog.New(slog.NewTextHandler(io.Discard, nil))})
	// The stand-in listens on loopback only and holds nothing but weather.
	if err := broker.AddHook(new(auth.AllowHook), nil); err != nil {
		return nil, fmt.Errorf("simulated logger: %w", err)
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("simulated logger: %w", err)
	}
	if err := broker.AddListener(listeners.NewNet("loopback", l)); err != nil {
		return nil, fmt.Errorf("simulated logger: %w", err)
	}
	if err := broker.Serve(); err != nil {
		return nil, fmt.Errorf("simulated logger: %w", err)
	}
	g := &Logger{
		Address: l.Addr().String(),
		broker:  broker,
		quit:    make(chan struct{}),
		done:    make(chan struct{}),
		faults:  map[string]Fault{},
		since:   map[string]time.Time{},
	}
	go g.run(every, speed, seed, now)
	return g, nil
}

// Fail gives a topic a fault; "" mends it.
func (g *Logger) Fail(topic string, fault Fault) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.faults[topic], g.since[topic] = fault, time.Now()
}

// Close stops the logger and its broker.
func (g *Logger) Close() error {
	close(g.quit)
	<-g.done
	return g.broker.Close()
}

func (g *Logger) run(every time.Duration, speed float64, seed uint64, now func() time.Time) {
	defer close(g.done)
	room := NewClimate(seed)
	freezers := map[string]*Freezer{
		"juxta/freezer-1": NewFreezer(-20.5, seed+1),
		"juxta/freezer-2": NewFreezer(-19.2, seed+2),
	}
	tick := time.NewTicker(every)
	defer tick.Stop()
	for count := 0; ; count++ {
		at := now()
		t, h := room.Step(at)
		g.publish("juxta/room", Reading{at, t, &h}, count)
		for topic, f := range freezers {
			g.mu.Lock()
			warm := g.faults[topic] == Warm
			g.mu.Unlock()
			g.publish(topic, Reading{At: at, Temperature: f.Step(time.Duration(float64(every)*speed), warm)}, count)
		}
		select {
		case <-g.quit:
			return
		case <-tick.C:
		}
	}
}

func (g *Logger) publish(topic string, r Reading, count int) {
	g.mu.Lock()
	fault, since := g.faults[topic], g.since[topic]
	g.mu.Unlock()
	payload := []byte("temperature: cold")
	switch fault {
	case Silent:
		return
	case Drift:
		r.Temperature += 0.5 * time.Since(since).Minutes()
	case Spikes:
		if count%5 == 0 {
			r.Temperature += 60 * math.Pow(-1, float64(count/5))
		}
	}
	if fault != Garbage {
		payload, _ = json.Marshal(r)
	}
	_ = g.broker.Publish(topic, payload, true, 0)
}
