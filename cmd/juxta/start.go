package main

import (
	"context"
	"crypto/rand"
	_ "embed"
	"encoding/base32"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"juxta/core/cutpath"
	"juxta/demo"
	"juxta/device/sim"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/people"
	"juxta/store"
	"juxta/store/cluster"
	"juxta/work"
)

// startHelp is a file, so that ./start --help shows it before anything is fetched or built.
//
//go:embed start_help.txt
var startHelp string

type startOptions struct {
	port                  int
	fresh, empty          bool
	state, oven, ovenName string
	broker, table         string
	ovenSpeed, tableSpeed float64
	altitude              float64
}

func startCommand() *cobra.Command {
	var o startOptions
	cmd := &cobra.Command{
		Use:   "start",
		Short: "Start everything: database, demo, oven, work and web page",
		Args:  cobra.NoArgs,
		RunE:  func(cmd *cobra.Command, _ []string) error { return o.run(cmd.Context(), cmd.OutOrStdout()) },
	}
	cmd.SetHelpFunc(func(cmd *cobra.Command, _ []string) { fmt.Fprint(cmd.OutOrStdout(), startHelp) })
	f := cmd.Flags()
	f.IntVar(&o.port, "port", 8080, "port on 127.0.0.1")
	f.BoolVar(&o.fresh, "fresh", false, "discard what is there and start from scratch")
	f.BoolVar(
		&o.empty,
		"empty",
		false,
		"no demo: an empty shop, whose first administrator is entered with a one-time code",
	)
	f.StringVar(&o.state, "state", "var", "folder for the database and its password")
	f.StringVar(&o.oven, "oven", "", "address of a real oven (Modbus TCP); without it a simulated one is started")
	f.StringVar(&o.ovenName, "oven-name", "Oven 1", "what people call the oven")
	f.StringVar(
		&o.broker,
		"climate",
		"",
		"MQTT broker of the climate loggers, such as tcp://10.0.0.5:1883; without it a simulated logger is started",
	)
	f.Float64Var(&o.ovenSpeed, "oven-speed", 240, "clock of the simulated oven, times the wall's, at most 600")
	f.StringVar(
		&o.table,
		"table",
		"",
		"address of a real cutting table (docs/table.md); without it a simulated one is started",
	)
	f.Float64Var(&o.tableSpeed, "table-speed", 4, "clock of the simulated table, times the wall's, at most 1000")
	f.Float64Var(&o.altitude, "altitude", demo.Altitude, "of the shop above sea level, m")
	return cmd
}

func (o startOptions) run(ctx context.Context, out io.Writer) error {
	if o.port < 1 || o.port > 65535 {
		return errors.New("--port is a number from 1 to 65535")
	}
	l, err := listenOn(net.JoinHostPort("127.0.0.1", strconv.Itoa(o.port)))
	if err != nil {
		return err
	}
	defer l.Close()
	if err := os.MkdirAll(o.state, 0o711); err != nil {
		return fmt.Errorf("the folder %s cannot be made: %w", o.state, err)
	}
	release, err := only(o.state)
	if err != nil {
		return err
	}
	defer release()

	url, external := os.Getenv("JUXTA_DATABASE_URL"), true
	ownerURL := ownerOr(url)
	var open atomic.Pointer[store.DB]
	if url == "" {
		external = false
		if o.fresh {
			if err := discard(o.state); err != nil {
				return err
			}
		}
		c, err := cluster.Start(ctx, cluster.Options{Dir: o.state})
		if err != nil {
			return err
		}
		defer c.Stop()
		url, ownerURL = c.URL("juxta"), c.OwnerURL("juxta")
		watching, stop := context.WithCancel(context.WithoutCancel(ctx))
		defer stop() // before the server is stopped
		go c.Watch(watching, func(event string, err error) {
			slog.Error(event, "error", err)
			// Connections to the one before are of no use to anybody.
			if db := open.Load(); db != nil && err == nil {
				db.Pool.Reset()
			}
		})
	} else if o.fresh {
		return errors.New("--fresh never empties a database of JUXTA_DATABASE_URL: give an empty one instead")
	}
	if err := migrate(ctx, ownerURL, url); err != nil {
		return err
	}
	db, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	open.Store(db)
	if o.oven == "" {
		oven, err := sim.Serve("127.0.0.1:0", o.ovenSpeed, uint64(time.Now().UnixNano()))
		if err != nil {
			return err
		}
		defer oven.Close()
		o.oven, o.ovenName = oven.Address, o.ovenName+", simulated"
	}
	if o.table == "" {
		table, err := sim.ServeTable("127.0.0.1:0", cutpath.Usual(), o.tableSpeed)
		if err != nil {
			return err
		}
		defer table.Close()
		o.table = table.Address
	}
	s, err := newShop(db, o.oven, o.ovenName, o.table, o.altitude)
	if err != nil {
		return err
	}
	how, err := o.people(ctx, s, external)
	if err != nil {
		return err
	}
	if err := s.Settle(ctx); err != nil {
		return err
	}
	heads := filepath.Join(o.state, "heads")
	if err := checkHeads(ctx, s, heads, out); err != nil {
		return err
	}
	kept := make(chan struct{})
	go func() {
		defer close(kept)
		keepHeads(ctx, s, heads)
	}()
	defer func() { <-kept }()
	if o.broker == "" {
		logger, err := sim.ServeLogger("127.0.0.1:0", 20*time.Second, 1, uint64(time.Now().UnixNano()), time.Now)
		if err != nil {
			return err
		}
		defer logger.Close()
		o.broker = "tcp://" + logger.Address
	}
	deaf := work.Climate(context.WithoutCancel(ctx), s, o.broker)
	defer deaf()
	w, err := work.Start(context.WithoutCancel(ctx), db, s)
	if err != nil {
		return err
	}
	defer w.Stop()
	fmt.Fprintf(out, "Juxta is ready: http://127.0.0.1:%d\n%s\nCtrl-C stops everything.\n", o.port, how)
	return serveHTTP(ctx, l, s, serveOptions{})
}

// only makes sure that one juxta at a time runs on a state folder.
func only(state string) (func(), error) {
	f, err := os.OpenFile(filepath.Join(state, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the folder %s cannot be written: %w", state, err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		_ = f.Close()
		return nil, fmt.Errorf(
			"a Juxta already runs from the folder %s: stop it first, or give another with --state",
			state,
		)
	}
	return func() { _ = f.Close() }, nil
}

// discard removes the database and its password, stopping a server that was
// left running.
func discard(state string) error {
	data, err := filepath.EvalSymlinks(filepath.Join(state, "data"))
	if err == nil {
		if raw, err := os.ReadFile(filepath.Join(data, "postmaster.pid")); err == nil {
			if pid, err := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0]); err == nil && cluster.Alive(pid) {
				_ = syscall.Kill(pid, syscall.SIGQUIT)
				for range 100 {
					if !cluster.Alive(pid) {
						break
					}
					time.Sleep(50 * time.Millisecond)
				}
			}
		}
		if err := os.RemoveAll(data); err != nil {
			return fmt.Errorf("the old database cannot be removed: %w", err)
		}
	}
	for _, name := range []string{"data", "password", "password-owner", "password-app", "signin", "heads"} {
		if err := os.RemoveAll(filepath.Join(state, name)); err != nil {
			return fmt.Errorf("%s cannot be removed: %w", name, err)
		}
	}
	return nil
}

// people makes sure that somebody can sign in, and says how.
func (o startOptions) people(ctx context.Context, s *shop.Shop, external bool) (string, error) {
	there, err := s.People(ctx)
	if err != nil {
		return "", err
	}
	file := filepath.Join(o.state, "signin")
	if len(there) > 0 {
		if o.empty {
			return "", errors.New(
				"--empty asks for an empty shop, and this one has people in it: add --fresh to discard it",
			)
		}
		if raw, err := os.ReadFile(file); err == nil && !external {
			if secrets := strings.Fields(string(raw)); len(secrets) == 2 {
				return signInWith(there, demo.Secrets{PIN: secrets[0], Password: secrets[1]}), nil
			}
		}
		return "Sign in with your name and PIN or password.", nil
	}
	if o.empty {
		code, err := s.NewSetupCode(ctx)
		return "The shop is empty. The page asks for its first administrator and for this code, which works once and " +
			"for a day: " + code, err
	}
	secrets, err := newSecrets()
	if err != nil {
		return "", err
	}
	fmt.Fprintln(os.Stderr, "Loading the demo shop …")
	now := time.Now()
	if err := demo.Load(ctx, s.DB, secrets, now); err != nil {
		return "", err
	}
	if err := demo.Works(ctx, s.DB, secrets, now); err != nil {
		return "", err
	}
	if err := os.WriteFile(file, []byte(secrets.PIN+"\n"+secrets.Password+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("the PIN cannot be kept: %w", err)
	}
	if there, err = s.People(ctx); err != nil {
		return "", err
	}
	return signInWith(there, secrets), nil
}

func signInWith(people []people.PersonView, secrets demo.Secrets) string {
	with := map[string][]string{}
	for _, p := range people {
		with[p.Secret] = append(with[p.Secret], fmt.Sprintf("%s (%s)", p.Name, p.Role))
	}
	return fmt.Sprintf(
		"Sign in as %s\nwith the PIN %s, or as %s\nwith the password %s. Both were made for this machine; signatures "+
			"ask for the PIN.",
		strings.Join(with["PIN"], ", "),
		secrets.PIN,
		strings.Join(with["password"], ", "),
		secrets.Password,
	)
}

// newSecrets makes a PIN and a password for the demo's people.
func newSecrets() (demo.Secrets, error) {
	pin, err := newPIN()
	if err != nil {
		return demo.Secrets{}, err
	}
	raw := make([]byte, 10)
	_, _ = rand.Read(raw) // never fails
	return demo.Secrets{
		PIN:      pin,
		Password: strings.ToLower(base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(raw)),
	}, nil
}

// newPIN draws six digits that nobody tries first.
func newPIN() (string, error) {
	for {
		n, err := rand.Int(rand.Reader, big.NewInt(900000))
		if err != nil {
			return "", err
		}
		if pin := strconv.FormatInt(n.Int64()+100000, 10); !people.EasyPIN(pin) {
			return pin, nil
		}
	}
}

// checkHeads holds the log against the ends of it that were kept, and says loudly
// where it was rewritten: the shop goes on, for its records are needed more than
// ever.
func checkHeads(ctx context.Context, s *shop.Shop, dir string, out io.Writer) error {
	heads, err := readHeads(dir)
	if err != nil {
		return err
	}
	err = s.VerifyHeads(ctx, heads)
	var rewritten *book.RewrittenLog
	if errors.As(err, &rewritten) {
		slog.Error("the log was rewritten", "entry", rewritten.Head.Entry)
		fmt.Fprintf(out, "ATTENTION: %s. Keep the folder %s and ask who had access to the database.\n", rewritten, dir)
		return nil
	}
	return err
}
