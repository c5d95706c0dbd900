package main

import (
	"context"
	"fmt"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
)

// accountCommand makes accounts without the application being started.
func accountCommand() *cobra.Command {
	c := &cobra.Command{Use: "account", Short: "Make accounts"}
	var s settings
	var name, email, role string
	add := &cobra.Command{
		Use: "add", Short: "Make an account, and print the link with which its person sets a password",
		Args: args(0, "--name NAME --email ADDRESS [--role preparer|administrator] [--database URL]"),
		RunE: func(*cobra.Command, []string) error {
			return s.run(func(ctx context.Context, st *store.Store, _ *jobs.Queue) error {
				at, err := st.Setting(ctx, store.PublicAddress)
				if err != nil {
					return err
				}
				if at == "" {
					at, err = store.CheckAddress(s.public)
				}
				if err != nil {
					return usageError{fmt.Errorf("--public-address: %w", err)}
				}
				id, err := st.AddPerson(ctx, name, email, role)
				if err != nil {
					return err
				}
				token, err := st.Link(ctx, id)
				if err != nil {
					return err
				}
				fmt.Printf("%s/set-password/%s\n", at, token)
				return nil
			})
		},
	}
	s.flags(add, 0)
	s.pageFlags(add)
	add.Flags().StringVar(&name, "name", "", "the name of the person")
	add.Flags().StringVar(&email, "email", "", "the e-mail address")
	add.Flags().StringVar(&role, "role", store.Preparer, "preparer or administrator")
	c.AddCommand(add)
	return c
}
