package main

import (
	"os"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/bench"
)

func benchCommand() *cobra.Command {
	var forms, database string
	c := &cobra.Command{
		Use: "bench", Short: "Print the measurements", Args: args(0, "[--forms FOLDER] [--database URL]"),
		RunE: func(c *cobra.Command, _ []string) error {
			if err := bench.Forms(os.Stdout, forms); err != nil {
				return err
			}
			return bench.Edits(c.Context(), os.Stdout, database)
		},
	}
	c.Flags().StringVar(&forms, "forms", "node_modules/pdf2json/test/data", "a folder of PDF forms with fields")
	c.Flags().StringVar(&database, "database", os.Getenv("ZM_DATABASE_URL"), "PostgreSQL address (or ZM_DATABASE_URL)")
	return c
}
