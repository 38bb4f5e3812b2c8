package main

import (
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"juxta/core/cutpath"
	"juxta/device/sim"
)

// simulated is a command that runs one simulated device alone, until it is stopped: serve starts it on an address and
// says so in a sentence.
func simulated(use, short, address string, serve func(listen string) (io.Closer, string, error)) *cobra.Command {
	var listen string
	cmd := &cobra.Command{
		Use:   use,
		Short: short,
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			device, says, err := serve(listen)
			if err != nil {
				return err
			}
			fmt.Fprintln(cmd.OutOrStdout(), says)
			<-cmd.Context().Done()
			return device.Close()
		},
	}
	cmd.Flags().StringVar(&listen, "listen", address, "address to listen on")
	return cmd
}

// speedFlag is the clock of a simulated device.
func speedFlag(cmd *cobra.Command, speed *float64, most int) {
	cmd.Flags().Float64Var(speed, "speed", 1, fmt.Sprintf("clock, times the wall's, at most %d", most))
}

func loggerCommand() *cobra.Command {
	var fault string
	var every time.Duration
	cmd := simulated("sim-logger", "Run the simulated climate logger alone (an MQTT broker that publishes)",
		"127.0.0.1:1883", func(listen string) (io.Closer, string, error) {
			logger, err := sim.ServeLogger(listen, every, 1, uint64(time.Now().UnixNano()), time.Now)
			if err != nil {
				return nil, "", err
			}
			if topic, what, given := strings.Cut(fault, "="); given {
				logger.Fail(topic, sim.Fault(what))
			}
			return logger, fmt.Sprintf(
				"simulated logger on tcp://%s, a reading each %s on juxta/room, juxta/freezer-1 and juxta/freezer-2",
				logger.Address, every), nil
		})
	cmd.Flags().DurationVar(&every, "every", 20*time.Second, "time between readings")
	cmd.Flags().StringVar(&fault, "fault", "",
		"a fault from the start, such as juxta/freezer-1=warm; silent, drift, spikes, garbage and warm are known")
	return cmd
}

func tableCommand() *cobra.Command {
	var fault string
	var speed float64
	cmd := simulated("sim-table", "Run the simulated cutting table alone (docs/table.md)", "127.0.0.1:5030",
		func(listen string) (io.Closer, string, error) {
			fails, err := tableFault(fault)
			if err != nil {
				return nil, "", err
			}
			table, err := sim.ServeTable(listen, cutpath.Usual(), speed)
			if err != nil {
				return nil, "", err
			}
			if fails.Kind != "" {
				table.Fail(fails)
			}
			return table, fmt.Sprintf("simulated cutting table on %s, clock %g times the wall's", table.Address, speed),
				nil
		})
	speedFlag(cmd, &speed, 1000)
	cmd.Flags().StringVar(&fault, "fault", "",
		"a fault: corner=2 or stop=2 after two plies, line=40 lost once, sheet=1.2 its end in m")
	return cmd
}

// tableFault reads a fault such as corner=2; none where nothing is given.
func tableFault(text string) (sim.TableFault, error) {
	kind, at, given := strings.Cut(text, "=")
	if !given {
		return sim.TableFault{}, nil
	}
	v, err := strconv.ParseFloat(at, 64)
	if err != nil {
		return sim.TableFault{}, fmt.Errorf("--fault is such as corner=2, stop=1, line=40 or sheet=1.2, not %q", text)
	}
	return sim.TableFault{Kind: kind, After: int(v), Length: v}, nil
}

func ovenCommand() *cobra.Command {
	var speed float64
	cmd := simulated("sim-oven", "Run the simulated oven alone (Modbus TCP)", "127.0.0.1:5020",
		func(listen string) (io.Closer, string, error) {
			oven, err := sim.Serve(listen, speed, uint64(time.Now().UnixNano()))
			if err != nil {
				return nil, "", err
			}
			return oven, fmt.Sprintf("simulated oven on %s, clock %g times the wall's", oven.Address, speed), nil
		})
	speedFlag(cmd, &speed, 600)
	return cmd
}
