// Command zealous-margin turns static PDFs into fillable forms: as a web
// application (serve, demo, work), and on the command line (detect, inspect,
// build, edit, fill, protect, sign, check, bench).
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/pdf/fill"
)

// usageError is a wrong use of the command line: exit status 2.
type usageError struct{ error }

func main() {
	root := &cobra.Command{
		Use:           "zealous-margin",
		Short:         "Turn static documents into fillable PDF forms",
		SilenceUsage:  true,
		SilenceErrors: true,
		Args:          cobra.ArbitraryArgs,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usageError{fmt.Errorf("there is no command %q: see zealous-margin help", args[0])}
			}
			return cmd.Help()
		},
	}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usageError{err} })
	root.AddCommand(detectCommand(), inspectCommand(), buildCommand(), editCommand(), fillCommand(), protectCommand(), signCommand(),
		checkCommand(), benchCommand(), serveCommand(), workCommand(), demoCommand(), accountCommand(), backupCommand(), restoreCommand())
	if err := root.ExecuteContext(context.Background()); err != nil {
		said := err.Error()
		if refused := (*fill.RefusedError)(nil); !errors.As(err, &refused) { // they have a line each
			said = strings.ReplaceAll(said, "\n", " ")
		}
		fmt.Fprintln(os.Stderr, "zealous-margin: "+said)
		var usage usageError
		if errors.As(err, &usage) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}

// args holds a command to exactly n arguments.
func args(n int, what string) cobra.PositionalArgs {
	return func(cmd *cobra.Command, got []string) error {
		if len(got) != n {
			return usageError{fmt.Errorf("use: zealous-margin %s %s", cmd.Name(), what)}
		}
		return nil
	}
}
