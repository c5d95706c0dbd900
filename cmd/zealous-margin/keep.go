package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/store"
)

// backupCommand writes all that an office has into one file, or reads such a file through.
func backupCommand() *cobra.Command {
	var database, out, check string
	c := &cobra.Command{
		Use: "backup -o FILE [--database URL] | --check FILE", Short: "Write all of the office into one file, while the application runs",
		Args: args(0, "-o FILE [--database URL], or --check FILE"),
		RunE: func(c *cobra.Command, _ []string) error {
			if check != "" {
				m, err := store.CheckBackup(check, "")
				if err != nil {
					return fmt.Errorf("%s: %w", check, err)
				}
				fmt.Printf("%s is whole: %s\n", check, inWords(m))
				return nil
			}
			if out == "" || database == "" {
				return usageError{errors.New("backup needs -o FILE and --database postgres://... or ZM_DATABASE_URL")}
			}
			m, err := store.BackUp(c.Context(), database, out)
			if err != nil {
				return err
			}
			if _, err := store.CheckBackup(out, ""); err != nil {
				return fmt.Errorf("%s: %w", out, err)
			}
			fmt.Printf("%s is written and read through: %s\n", out, inWords(m))
			return nil
		},
	}
	c.Flags().StringVar(&database, "database", os.Getenv("ZM_DATABASE_URL"), "PostgreSQL address (or ZM_DATABASE_URL)")
	c.Flags().StringVarP(&out, "output", "o", "", "the file to write")
	c.Flags().StringVar(&check, "check", "", "a backup to be read through instead")
	return c
}

// restoreCommand puts a backup into an empty database.
func restoreCommand() *cobra.Command {
	var database string
	c := &cobra.Command{
		Use: "restore FILE [--database URL]", Short: "Put a backup into an empty database", Args: args(1, "FILE [--database URL]"),
		RunE: func(c *cobra.Command, a []string) error {
			if database == "" {
				return usageError{errors.New("name the empty database: --database postgres://... or ZM_DATABASE_URL")}
			}
			m, err := store.Restore(c.Context(), database, a[0])
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			fmt.Printf("restored and compared: %s\n", inWords(m))
			return nil
		},
	}
	c.Flags().StringVar(&database, "database", os.Getenv("ZM_DATABASE_URL"), "PostgreSQL address of an empty database (or ZM_DATABASE_URL)")
	return c
}

func inWords(m store.Manifest) string {
	return fmt.Sprintf("made %s, %d documents, %d editions, %d people", m.Made.Local().Format("2 January 2006, 15:04"), m.Rows["documents"],
		m.Rows["editions"], m.Rows["accounts"])
}
