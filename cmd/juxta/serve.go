package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"juxta/api"
	"juxta/device/sim"
	"juxta/shop"
	"juxta/store"
	"juxta/work"
)

// databaseURL is where the database is, for the commands that do not start
// one.
func databaseURL() (string, error) {
	url := os.Getenv("JUXTA_DATABASE_URL")
	if url == "" {
		return "", errors.New("set JUXTA_DATABASE_URL to the PostgreSQL database, or use juxta start")
	}
	return url, nil
}

// openShop opens the database named by the environment and the shop on it.
func openShop(ctx context.Context, oven string, altitude float64) (*shop.Shop, error) {
	url, err := databaseURL()
	if err != nil {
		return nil, err
	}
	db, err := store.Open(ctx, url)
	if err != nil {
		return nil, err
	}
	return newShop(db, oven, altitude)
}

func newShop(db *store.DB, oven string, altitude float64) (*shop.Shop, error) {
	queue, err := work.NewInserter(db)
	if err != nil {
		db.Close()
		return nil, err
	}
	return &shop.Shop{DB: db, Queue: queue, Oven: oven, Altitude: altitude, Now: time.Now}, nil
}

// serveHTTP answers until ctx is done, then lets running requests end.
func serveHTTP(ctx context.Context, l net.Listener, s *shop.Shop, secure bool) error {
	api.Unhurried()
	server := api.New(s, secure)
	defer server.Close()
	streams, end := context.WithCancel(context.Background())
	defer end()
	h := &http.Server{Handler: server.Handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 60 * time.Second, WriteTimeout: 3 * time.Minute, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
		BaseContext: func(net.Listener) context.Context { return streams },
		ErrorLog:    slog.NewLogLogger(slog.Default().Handler(), slog.LevelWarn)}
	failed := make(chan error, 1)
	go func() { failed <- h.Serve(l) }()
	select {
	case err := <-failed:
		return fmt.Errorf("serve: %w", err)
	case <-ctx.Done():
	}
	end() // event streams would never end by themselves
	stop, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	return h.Shutdown(stop)
}

func serveCommand() *cobra.Command {
	var listen, oven string
	var altitude float64
	var secure bool
	cmd := &cobra.Command{Use: "serve", Short: "Answer HTTP on an existing database (JUXTA_DATABASE_URL)", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		s, err := openShop(cmd.Context(), oven, altitude)
		if err != nil {
			return err
		}
		defer s.DB.Close()
		if err := s.Settle(cmd.Context()); err != nil {
			return err
		}
		empty, err := s.Empty(cmd.Context())
		if err != nil {
			return err
		}
		if empty {
			code, err := s.NewSetupCode(cmd.Context())
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "The shop is empty. The page asks for its first administrator and for this code, which works once and for a day: %s\n", code)
		}
		l, err := listenOn(listen)
		if err != nil {
			return err
		}
		return serveHTTP(cmd.Context(), l, s, secure)
	}}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:8080", "address to listen on")
	cmd.Flags().StringVar(&oven, "oven", "127.0.0.1:5020", "address of the oven (Modbus TCP)")
	cmd.Flags().Float64Var(&altitude, "altitude", 0, "of the shop above sea level, m")
	cmd.Flags().BoolVar(&secure, "secure", false, "session cookies for HTTPS only (behind TLS)")
	return cmd
}

func listenOn(address string) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		_, port, _ := net.SplitHostPort(address)
		return nil, fmt.Errorf("port %s is taken or not allowed: choose another with --port, or stop what uses it", port)
	}
	return l, nil
}

func workCommand() *cobra.Command {
	var oven, broker string
	cmd := &cobra.Command{Use: "work", Short: "Do queued work on an existing database (JUXTA_DATABASE_URL)", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		s, err := openShop(cmd.Context(), oven, 0)
		if err != nil {
			return err
		}
		defer s.DB.Close()
		w, err := work.Start(context.WithoutCancel(cmd.Context()), s.DB, s)
		if err != nil {
			return err
		}
		if broker != "" {
			defer work.Climate(context.WithoutCancel(cmd.Context()), s, broker)()
		}
		<-cmd.Context().Done()
		w.Stop()
		return nil
	}}
	cmd.Flags().StringVar(&oven, "oven", "127.0.0.1:5020", "address of the oven (Modbus TCP)")
	cmd.Flags().StringVar(&broker, "climate", "", "MQTT broker of the climate loggers, such as tcp://10.0.0.5:1883")
	return cmd
}

func migrateCommand() *cobra.Command {
	return &cobra.Command{Use: "migrate", Short: "Bring a database to the present schema (JUXTA_DATABASE_URL)", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		url, err := databaseURL()
		if err != nil {
			return err
		}
		db, err := store.Open(cmd.Context(), url)
		if err != nil {
			return err
		}
		defer db.Close()
		return db.Migrate(cmd.Context())
	}}
}

func verifyCommand() *cobra.Command {
	return &cobra.Command{Use: "verify-log", Short: "Check the hash chain of the log and the clocks of the rolls (JUXTA_DATABASE_URL)", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		s, err := openShop(cmd.Context(), "", 0)
		if err != nil {
			return err
		}
		defer s.DB.Close()
		n, err := s.VerifyLog(cmd.Context())
		if err != nil {
			return err
		}
		rolls, err := s.VerifyClocks(cmd.Context())
		if err != nil {
			return err
		}
		fmt.Fprintf(cmd.OutOrStdout(), "%d entries, the chain holds; %d rolls, every clock is that of its ledger\n", n, rolls)
		return nil
	}}
}

func loggerCommand() *cobra.Command {
	var listen, fault string
	var every time.Duration
	cmd := &cobra.Command{Use: "sim-logger", Short: "Run the simulated climate logger alone (an MQTT broker that publishes)", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		logger, err := sim.ServeLogger(listen, every, 1, uint64(time.Now().UnixNano()))
		if err != nil {
			return err
		}
		if topic, what, given := strings.Cut(fault, "="); given {
			logger.Fail(topic, sim.Fault(what))
		}
		fmt.Fprintf(cmd.OutOrStdout(), "simulated logger on tcp://%s, a reading each %s on juxta/room, juxta/freezer-1 and juxta/freezer-2\n", logger.Address, every)
		<-cmd.Context().Done()
		return logger.Close()
	}}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:1883", "address to listen on")
	cmd.Flags().DurationVar(&every, "every", 20*time.Second, "time between readings")
	cmd.Flags().StringVar(&fault, "fault", "", "a fault from the start, such as juxta/freezer-1=warm; silent, drift, spikes, garbage and warm are known")
	return cmd
}

func ovenCommand() *cobra.Command {
	var listen string
	var speed float64
	cmd := &cobra.Command{Use: "sim-oven", Short: "Run the simulated oven alone (Modbus TCP)", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		oven, err := sim.Serve(listen, speed, uint64(time.Now().UnixNano()))
		if err != nil {
			return err
		}
		fmt.Fprintf(cmd.OutOrStdout(), "simulated oven on %s, clock %g times the wall's\n", oven.Address, speed)
		<-cmd.Context().Done()
		return oven.Close()
	}}
	cmd.Flags().StringVar(&listen, "listen", "127.0.0.1:5020", "address to listen on")
	cmd.Flags().Float64Var(&speed, "speed", 1, "clock, times the wall's, at most 600")
	return cmd
}
