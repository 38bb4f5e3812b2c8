package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	"juxta/api"
	"juxta/calc"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := root().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, err)
		var input *calc.InputError
		if errors.As(err, &input) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}

func root() *cobra.Command {
	var verbose bool
	cmd := &cobra.Command{
		Use:           "juxta",
		Short:         "Plans and records composite parts, from a frozen roll to a signed-off part",
		SilenceUsage:  true,
		SilenceErrors: true,
		Version:       api.Version(),
		PersistentPreRun: func(*cobra.Command, []string) {
			level := slog.LevelWarn
			if verbose {
				level = slog.LevelDebug
			}
			slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level})))
		},
	}
	cmd.PersistentFlags().BoolVarP(&verbose, "verbose", "v", false, "log every request")
	cmd.AddCommand(
		startCommand(),
		serveCommand(),
		workCommand(),
		migrateCommand(),
		backupCommand(),
		restoreCommand(),
		upgradeCommand(),
		calcCommand(),
		verifyCommand(),
		ovenCommand(),
		tableCommand(),
		loggerCommand(),
		openAPICommand(),
	)
	return cmd
}

func openAPICommand() *cobra.Command {
	return &cobra.Command{
		Use:   "openapi",
		Short: "Print the HTTP contract as OpenAPI 3.1",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			doc, err := api.OpenAPI()
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(append(doc, '\n'))
			return err
		},
	}
}
