package sim

import (
	"fmt"
	"math"
	"net"
	"sync"
	"time"

	"github.com/simonvetter/modbus"

	"juxta/core/unit"
	"juxta/device"
)

// Server is a simulated oven that speaks Modbus TCP. Its clock runs Speed
// times as fast as the wall's, at most 600.
type Server struct {
	Address string
	server  *modbus.ModbusServer
	quit    chan struct{}
	done    chan struct{}

	mu       sync.Mutex
	oven     *Oven
	setPoint float64
	pressure float64 // that it is told, Pa
	vacuum   float64 // that it draws, Pa
	running  bool
	clock    float64
	speed    float64
	failed   bool
	ahead    float64 // of the last reading, that its clock may be at the most, s; 0: as far as it runs
	unread   float64 // since the last reading, s
	airless  bool    // it is an oven: it has no registers for pressure
}

// mostPressure that the simulated oven takes, tenths of a kPa.
const mostPressure = 10_000

// Serve starts a simulated oven on address (host:port; port 0 picks a free
// one). Close it when done.
func Serve(address string, speed float64, seed uint64) (*Server, error) {
	if speed <= 0 || speed > 600 {
		return nil, fmt.Errorf("the simulated oven runs at 1 to 600 times the wall clock, not %g", speed)
	}
	s := &Server{
		quit:   make(chan struct{}),
		done:   make(chan struct{}),
		oven:   NewOven(unit.Kelvin(21), seed),
		speed:  speed,
		vacuum: 91e3,
	}
	for tries := 5; ; tries-- {
		err := s.listen(address)
		if err == nil {
			go s.run()
			return s, nil
		}
		// A port that was free a moment ago may be taken; there are others.
		if s.Address == address || tries == 0 {
			return nil, err
		}
	}
}

func (s *Server) listen(address string) (err error) {
	if s.Address, err = freePort(address); err != nil {
		s.Address = address
		return err
	}
	s.server, err = modbus.NewServer(&modbus.ServerConfiguration{URL: "tcp://" + s.Address, MaxClients: 16}, s)
	if err != nil {
		return fmt.Errorf("simulated oven: %w", err)
	}
	if err := s.server.Start(); err != nil {
		return fmt.Errorf("simulated oven on %s: %w", s.Address, err)
	}
	return nil
}

// freePort turns port 0 into a port that is free now.
func freePort(address string) (string, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return "", fmt.Errorf("the simulated oven cannot listen on %s: %w", address, err)
	}
	defer l.Close()
	return l.Addr().String(), nil
}

// Close stops the oven's clock and its server.
func (s *Server) Close() error {
	close(s.quit)
	<-s.done
	return s.server.Stop()
}

// FailLagSensor makes the lagging part sensor read as failed, or heals it.
func (s *Server) FailLagSensor(failed bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.failed = failed
}

// WithoutPressure makes it an oven that has no registers for pressure.
func (s *Server) WithoutPressure() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.airless = true
}

// WaitForReader lets its clock run no further than this past the last reading: whoever
// records it on a machine that is busy misses nothing. It may then run faster, 1 to 6000
// times as fast as the wall's clock; any other speed and no time ahead are errors.
func (s *Server) WaitForReader(ahead time.Duration, speed float64) error {
	if !(speed >= 1 && speed <= 6000) || ahead <= 0 {
		return fmt.Errorf(
			"an oven that waits for its reader runs ahead of it at 1 to 6000 times the wall clock, not %v at %g",
			ahead,
			speed,
		)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.ahead, s.speed = ahead.Seconds(), speed
	return nil
}

func (s *Server) run() {
	defer close(s.done)
	const tick = 20 * time.Millisecond
	ticker := time.NewTicker(tick)
	defer ticker.Stop()
	last := time.Now()
	for {
		select {
		case <-s.quit:
			return
		case now := <-ticker.C:
			s.mu.Lock()
			dt := now.Sub(last).Seconds() * s.speed
			last = now
			if s.ahead > 0 {
				dt = min(dt, s.ahead-s.unread)
				s.unread += dt
			}
			s.oven.Step(s.setPoint, s.running, dt)
			s.oven.Press(s.pressure, s.vacuum, dt)
			if s.running {
				s.clock += dt
			}
			s.mu.Unlock()
		}
	}
}

// HandleInputRegisters answers with the oven's readings.
func (s *Server) HandleInputRegisters(req *modbus.InputRegistersRequest) ([]uint16, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.unread = 0
	lag := s.oven.Noisy(s.oven.Lag)
	if s.failed {
		lag = math.NaN()
	}
	state := uint16(device.StateIdle)
	if s.running {
		state = device.StateRunning
	}
	clock := uint32(s.clock)
	all := []uint16{
		device.RegAir: device.RegisterTemperature(
			s.oven.Noisy(s.oven.Air),
		), device.RegTool: device.RegisterTemperature(s.oven.Noisy(s.oven.Tool)),
		device.RegLead:    device.RegisterTemperature(s.oven.Noisy(s.oven.Lead)),
		device.RegLag:     device.RegisterTemperature(lag),
		device.RegVacuum:  uint16(math.Max(0, s.oven.NoisyVacuum()/10)),
		device.RegClockHi: uint16(clock >> 16), device.RegClockLo: uint16(clock), device.RegState: state,
		device.RegPressure: uint16(math.Round(s.oven.Pressure / 100)),
	}
	if s.airless {
		all = all[:device.RegPressure]
	}
	if int(req.Addr)+int(req.Quantity) > len(all) {
		return nil, modbus.ErrIllegalDataAddress
	}
	return all[req.Addr : req.Addr+req.Quantity], nil
}

// HandleHoldingRegisters takes set point, command, pressure and vacuum, and tells them.
func (s *Server) HandleHoldingRegisters(req *modbus.HoldingRegistersRequest) ([]uint16, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if end := int(req.Addr) + int(req.Quantity); end > 4 || s.airless && end > device.RegPressureSet {
		return nil, modbus.ErrIllegalDataAddress
	}
	for i, v := range req.Args {
		if !req.IsWrite {
			break
		}
		switch int(req.Addr) + i {
		case device.RegSetPoint:
			target := unit.Kelvin(float64(int16(v)) / 10)
			if target > unit.Kelvin(250) {
				return nil, modbus.ErrIllegalDataValue // the oven's own interlock
			}
			s.setPoint = target
		case device.RegPressureSet:
			if v > mostPressure {
				return nil, modbus.ErrIllegalDataValue // its safety valve
			}
			s.pressure = float64(v) * 100
		case device.RegVacuumSet:
			s.vacuum = math.Min(float64(v)*100, 91e3)
		case device.RegCommand:
			if start := v == device.CommandStart; start != s.running {
				s.running = start
				if start {
					s.clock = 0
				} else {
					s.pressure, s.vacuum = 0, 91e3
				}
			}
		}
	}
	command := uint16(device.CommandStop)
	if s.running {
		command = device.CommandStart
	}
	all := []uint16{
		device.RegSetPoint: device.RegisterTemperature(s.setPoint), device.RegCommand: command,
		device.RegPressureSet: uint16(s.pressure / 100), device.RegVacuumSet: uint16(s.vacuum / 100)}
	return all[req.Addr : req.Addr+req.Quantity], nil
}

// HandleCoils refuses: the oven has none.
func (s *Server) HandleCoils(*modbus.CoilsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}

// HandleDiscreteInputs refuses: the oven has none.
func (s *Server) HandleDiscreteInputs(*modbus.DiscreteInputsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}
