package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"time"

	"github.com/spf13/cobra"

	"juxta/api"
	"juxta/shop"
	"juxta/shop/book"
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
func openShop(ctx context.Context, oven, ovenName, table string, altitude float64) (*shop.Shop, error) {
	url, err := databaseURL()
	if err != nil {
		return nil, err
	}
	db, err := store.Open(ctx, url)
	if err != nil {
		return nil, err
	}
	return newShop(db, oven, ovenName, table, altitude)
}

func newShop(db *store.DB, oven, ovenName, table string, altitude float64) (*shop.Shop, error) {
	queue, err := work.NewInserter(db)
	if err != nil {
		db.Close()
		return nil, err
	}
	return shop.New(
		&book.Book{
			DB:       db,
			Queue:    queue,
			Oven:     oven,
			OvenName: ovenName,
			Table:    table,
			Altitude: altitude,
			Now:      time.Now,
		},
	), nil
}

// serveOptions are how a server is reached.
type serveOptions struct {
	api.Options
	metrics string // address of their own listener; empty: none
}

// serveHTTP answers until ctx is done, then lets running requests end.
func serveHTTP(ctx context.Context, l net.Listener, s *shop.Shop, o serveOptions) error {
	api.Unhurried()
	server, err := api.New(s, o.Options)
	if err != nil {
		return err
	}
	defer server.Close()
	streams, end := context.WithCancel(context.Background())
	defer end()
	h := &http.Server{
		Handler:           server.Handler,
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       60 * time.Second,
		WriteTimeout:      3 * time.Minute,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    64 << 10,
		BaseContext:       func(net.Listener) context.Context { return streams },
		ErrorLog:          slog.NewLogLogger(slog.Default().Handler(), slog.LevelWarn),
	}
	failed := make(chan error, 2)
	go func() { failed <- h.Serve(l) }()
	go s.KeepReady(streams)
	if o.metrics != "" {
		ml, err := listenOn(o.metrics)
		if err != nil {
			return err
		}
		m := &http.Server{Handler: server.Metrics, ReadHeaderTimeout: 10 * time.Second, WriteTimeout: time.Minute}
		defer m.Close()
		go func() { failed <- m.Serve(ml) }()
	}
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

// loopback says whether an address can be reached from this machine only.
func loopback(address string) bool {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return false
	}
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

func serveCommand() *cobra.Command {
	var listen, oven, ovenName, table, heads string
	var altitude float64
	var o serveOptions
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Answer HTTP on an existing database (JUXTA_DATABASE_URL)",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if !loopback(listen) && !o.Secure {
				return fmt.Errorf(
					"%s can be reached from other machines: put TLS before the server and give --secure, or listen "+
						"on 127.0.0.1",
					listen,
				)
			}
			s, err := openShop(cmd.Context(), oven, ovenName, table, altitude)
			if err != nil {
				return err
			}
			defer s.DB.Close()
			if err := s.Settle(cmd.Context()); err != nil {
				return err
			}
			if err := tellSetupCode(cmd.Context(), s, cmd.OutOrStdout()); err != nil {
				return err
			}
			if heads != "" {
				if err := checkHeads(cmd.Context(), s, heads, cmd.OutOrStdout()); err != nil {
					return err
				}
				go keepHeads(cmd.Context(), s, heads)
			}
			l, err := listenOn(listen)
			if err != nil {
				return err
			}
			return serveHTTP(cmd.Context(), l, s, o)
		},
	}
	f := cmd.Flags()
	f.StringVar(&listen, "listen", "127.0.0.1:8080", "address to listen on; beyond loopback only with --secure")
	ovenFlag(cmd, &oven)
	f.StringVar(&ovenName, "oven-name", "Oven 1", "what people call the oven")
	f.StringVar(&table, "table", "", "address of the cutting table (docs/table.md); empty: there is none")
	f.Float64Var(&altitude, "altitude", 0, "of the shop above sea level, m")
	f.BoolVar(&o.Secure, "secure", false, "behind TLS: session cookies for HTTPS only, and HSTS")
	f.StringSliceVar(
		&o.Hosts,
		"host",
		nil,
		"names under which browsers reach the server, such as juxta.example; those of loopback always",
	)
	f.StringSliceVar(
		&o.Proxies,
		"trust-proxy",
		nil,
		"addresses of the proxy whose X-Forwarded-For is believed, such as 10.0.0.0/8",
	)
	f.StringVar(
		&o.metrics,
		"metrics",
		"",
		"address on which metrics are told (Prometheus), such as 127.0.0.1:9090; without it nowhere",
	)
	f.StringVar(&heads, "heads", "", "folder in which ends of the log are kept, a file a day")
	return cmd
}

// tellSetupCode tells the code by which an empty shop gets its first administrator.
func tellSetupCode(ctx context.Context, s *shop.Shop, out io.Writer) error {
	empty, err := s.Empty(ctx)
	if err != nil {
		return err
	}
	if empty {
		code, err := s.NewSetupCode(ctx)
		if err != nil {
			return err
		}
		fmt.Fprintf(
			out,
			"The shop is empty. The page asks for its first administrator and for this code, which works once and for "+
				"a day: %s\n",
			code,
		)
	}
	return nil
}

func listenOn(address string) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		_, port, _ := net.SplitHostPort(address)
		return nil, fmt.Errorf(
			"port %s is taken or not allowed: choose another with --port, or stop what uses it",
			port,
		)
	}
	return l, nil
}

// ovenFlag is where the oven answers.
func ovenFlag(cmd *cobra.Command, oven *string) {
	cmd.Flags().StringVar(oven, "oven", "127.0.0.1:5020", "address of the oven (Modbus TCP)")
}

func workCommand() *cobra.Command {
	var oven, broker string
	cmd := &cobra.Command{
		Use:   "work",
		Short: "Do queued work on an existing database (JUXTA_DATABASE_URL)",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			s, err := openShop(cmd.Context(), oven, "", "", 0)
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
		},
	}
	ovenFlag(cmd, &oven)
	cmd.Flags().StringVar(&broker, "climate", "", "MQTT broker of the climate loggers, such as tcp://10.0.0.5:1883")
	return cmd
}

// ownerOr is the address of the database as the role that owns its tables
// (JUXTA_OWNER_URL), or what is given: one role for both works, and can then do
// more than it needs.
func ownerOr(url string) string {
	if owner := os.Getenv("JUXTA_OWNER_URL"); owner != "" {
		return owner
	}
	return url
}

// migrate brings a database forward as its owner, and lets the application's role
// work with it.
func migrate(ctx context.Context, ownerURL, url string) error {
	db, err := store.Open(ctx, ownerURL)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	role, err := store.Role(url)
	if err != nil {
		return err
	}
	return db.Grant(ctx, role)
}

func migrateCommand() *cobra.Command {
	return &cobra.Command{
		Use: "migrate",
		Short: "Bring a database to the present schema (JUXTA_OWNER_URL) and grant the application's role " +
			"(JUXTA_DATABASE_URL) what it needs",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			url, err := databaseURL()
			if err != nil {
				return err
			}
			return migrate(cmd.Context(), ownerOr(url), url)
		},
	}
}

func verifyCommand() *cobra.Command {
	var dir string
	cmd := &cobra.Command{
		Use:   "verify-log",
		Short: "Check the hash chain of the log, its kept ends, and the clocks of the rolls (JUXTA_DATABASE_URL)",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			url, err := databaseURL()
			if err != nil {
				return err
			}
			heads, err := readHeads(dir)
			if err != nil {
				return err
			}
			return verify(cmd.Context(), addresses{ownerOr(url), url}, heads, cmd.OutOrStdout())
		},
	}
	cmd.Flags().StringVar(&dir, "heads", "var/heads", "folder with the ends of the log that were kept")
	return cmd
}
