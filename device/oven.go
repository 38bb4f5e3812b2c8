package device

import (
	"errors"
	"fmt"
	"math"
	"time"

	"github.com/simonvetter/modbus"

	"juxta/core/unit"
)

// The register layout. Temperatures are tenths of a degree Celsius, signed;
// a sensor that failed reads [FailedSensor].
const (
	// Input registers, read only.
	RegAir     = 0
	RegTool    = 1
	RegLead    = 2 // leading part sensor
	RegLag     = 3 // lagging part sensor
	RegVacuum  = 4 // hundredths of a kPa below the air outside; may read as failed
	RegClockHi = 5 // oven clock since the run began, seconds, 32 bit
	RegClockLo = 6
	RegState   = 7
	inputs     = 8
	// RegPressure is the pressure above the air outside in tenths of a kPa, of a vessel that has one.
	RegPressure = 8
	// Holding registers.
	RegSetPoint = 0
	RegCommand  = 1
	// What a vessel is told besides: pressure, and vacuum under the bag, in tenths of a kPa.
	RegPressureSet = 2
	RegVacuumSet   = 3

	FailedSensor = 0x8000
)

// Values of the state and command registers.
const (
	StateIdle    = 0
	StateRunning = 1
	CommandStop  = 0
	CommandStart = 1
)

// Reading is what the oven says at one moment, in SI; a failed sensor is NaN.
type Reading struct {
	Clock                        float64 // s since the run began, by the oven's clock
	Air, Tool, Lead, Lag, Vacuum float64
	Running                      bool
}

// Oven is a connection to one oven.
type Oven struct{ client *modbus.ModbusClient }

// Dial connects to the oven at host:port.
func Dial(address string) (*Oven, error) {
	client, err := modbus.NewClient(&modbus.ClientConfiguration{URL: "tcp://" + address, Timeout: 2 * time.Second})
	if err != nil {
		return nil, fmt.Errorf("oven at %s: %w", address, err)
	}
	if err := client.Open(); err != nil {
		return nil, fmt.Errorf("the oven at %s does not answer: %w", address, err)
	}
	return &Oven{client}, nil
}

// Close ends the connection; the oven keeps doing what it was last told.
func (o *Oven) Close() error { return o.client.Close() }

// Read asks for everything in one request, so that it belongs together.
func (o *Oven) Read() (Reading, error) {
	regs, err := o.client.ReadRegisters(0, inputs, modbus.INPUT_REGISTER)
	if err != nil {
		return Reading{}, fmt.Errorf("read the oven: %w", err)
	}
	return readingOf(regs)
}

// readingOf reads the input registers.
func readingOf(regs []uint16) (Reading, error) {
	if len(regs) != inputs {
		return Reading{}, fmt.Errorf("read the oven: %d registers came instead of %d", len(regs), inputs)
	}
	return Reading{
		Clock: float64(uint32(regs[RegClockHi])<<16 | uint32(regs[RegClockLo])),
		Air: kelvin(
			regs[RegAir],
		), Tool: kelvin(regs[RegTool]), Lead: kelvin(regs[RegLead]), Lag: kelvin(regs[RegLag]),
		Vacuum: vacuum(regs[RegVacuum]), Running: regs[RegState] == StateRunning,
	}, nil
}

func vacuum(reg uint16) float64 {
	if reg == FailedSensor {
		return math.NaN()
	}
	return float64(reg) * 10
}

// ErrNoPressure says that an oven has no registers for pressure.
var ErrNoPressure = errors.New("it takes no pressure")

// Pressure reads the pressure of a vessel, Pa above the air outside; [ErrNoPressure] where it has none.
func (o *Oven) Pressure() (float64, error) {
	reg, err := o.client.ReadRegister(RegPressure, modbus.INPUT_REGISTER)
	if err != nil {
		return math.NaN(), pressureless("read the pressure", err)
	}
	if reg == FailedSensor {
		return math.NaN(), nil
	}
	return float64(reg) * 100, nil
}

// Press tells a vessel its pressure, and the vacuum under the bag, in Pa; [ErrNoPressure] where it takes none.
func (o *Oven) Press(pressure, vacuum float64) error {
	tenths := func(pa float64) uint16 { return uint16(math.Round(math.Min(math.Max(pa, 0), 3e6) / 100)) }
	if err := o.client.WriteRegisters(RegPressureSet, []uint16{tenths(pressure), tenths(vacuum)}); err != nil {
		return pressureless("tell the pressure", err)
	}
	return nil
}

func pressureless(what string, err error) error {
	if errors.Is(err, modbus.ErrIllegalDataAddress) || errors.Is(err, modbus.ErrIllegalFunction) {
		return ErrNoPressure
	}
	return fmt.Errorf("%s: %w", what, err)
}

// Start begins a run: the oven sets its clock to zero and heats to setPoint.
func (o *Oven) Start(setPoint float64) error { return o.write(setPoint, CommandStart) }

// SetPoint moves the set point of a running oven, in K.
func (o *Oven) SetPoint(setPoint float64) error { return o.write(setPoint, CommandStart) }

// Stop turns the heat off.
func (o *Oven) Stop() error {
	if err := o.client.WriteRegister(RegCommand, CommandStop); err != nil {
		return fmt.Errorf("stop the oven: %w", err)
	}
	return nil
}

func (o *Oven) write(setPoint float64, command uint16) error {
	if err := o.client.WriteRegisters(RegSetPoint, []uint16{RegisterTemperature(setPoint), command}); err != nil {
		return fmt.Errorf("write to the oven: %w", err)
	}
	return nil
}

// RegisterTemperature is a temperature in K as the registers carry it; NaN as failed.
func RegisterTemperature(temperature float64) uint16 {
	if math.IsNaN(temperature) {
		return FailedSensor
	}
	return uint16(int16(math.Round(unit.Celsius(temperature) * 10)))
}

func kelvin(reg uint16) float64 {
	if reg == FailedSensor {
		return math.NaN()
	}
	return unit.Kelvin(float64(int16(reg)) / 10)
}
