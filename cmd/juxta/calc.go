package main

import (
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"juxta/calc"
)

// maxInput bounds what calc reads.
const maxInput = 64 << 20

func calcCommand() *cobra.Command {
	var example, schema bool
	cmd := &cobra.Command{Use: "calc [NAME]", Short: "Compute: JSON on standard input, JSON on standard output",
		Long: "Without a name it lists the computations. Exit status 2 with one line naming the field for bad input.",
		Args: cobra.MaximumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			out := cmd.OutOrStdout()
			if len(args) == 0 {
				for _, c := range calc.All() {
					fmt.Fprintf(out, "%-10s %s\n", c.Name, c.About)
				}
				return nil
			}
			c, err := calc.Find(args[0])
			if err != nil {
				return err
			}
			switch {
			case example:
				_, err = out.Write(c.Example())
				return err
			case schema:
				_, err = out.Write(c.Schema())
				return err
			}
			raw, err := io.ReadAll(io.LimitReader(cmd.InOrStdin(), maxInput+1))
			if err != nil {
				return fmt.Errorf("read the input: %w", err)
			}
			if len(raw) > maxInput {
				return &calc.InputError{Message: "the input is larger than 64 MiB"}
			}
			result, err := c.Run(cmd.Context(), raw)
			if err != nil {
				return err
			}
			_, err = out.Write(result)
			return err
		}}
	cmd.Flags().BoolVar(&example, "example", false, "print an input that runs")
	cmd.Flags().BoolVar(&schema, "schema", false, "print the JSON Schema of the input")
	return cmd
}
