package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/api"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

func readFile(name string) ([]byte, error) {
	b, err := os.ReadFile(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("%s does not exist: check the name", name)
	}
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", name, err)
	}
	return b, nil
}

// writeFile writes the whole file or none of it.
func writeFile(name string, b []byte) error {
	tmp, err := os.CreateTemp(filepath.Dir(name), ".zealous-margin-*")
	if err != nil {
		return fmt.Errorf("%s cannot be written: %w", name, err)
	}
	defer os.Remove(tmp.Name())
	if _, err := tmp.Write(b); err != nil {
		return fmt.Errorf("%s cannot be written: %w", name, err)
	}
	if err := tmp.Close(); err != nil {
		return fmt.Errorf("%s cannot be written: %w", name, err)
	}
	if err := os.Chmod(tmp.Name(), 0o644); err != nil {
		return err
	}
	return os.Rename(tmp.Name(), name)
}

// listing makes a command that prints the fields of a file as JSON.
func listing(name, short, file string, list func(context.Context, string, []byte) (api.Pages, error)) *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: name + " --json " + file, Short: short, Args: args(1, "--json "+file),
		RunE: func(c *cobra.Command, a []string) error {
			b, err := readFile(a[0])
			if err != nil {
				return err
			}
			pages, err := list(c.Context(), filepath.Base(a[0]), b)
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			if asJSON {
				enc := json.NewEncoder(os.Stdout)
				enc.SetEscapeHTML(false)
				return enc.Encode(pages)
			}
			for _, p := range pages.Pages {
				for _, f := range p.Fields {
					fmt.Printf("%d\t%s\t%s\t%s\n", p.Page, f.Type, f.Name, f.Label)
				}
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return c
}

func detectCommand() *cobra.Command {
	return listing("detect", "Find the field areas of a document", "FILE", api.Detect)
}

func inspectCommand() *cobra.Command {
	return listing("inspect", "List the fields that a PDF has", "FILE.pdf",
		func(ctx context.Context, _ string, b []byte) (api.Pages, error) { return api.Inspect(ctx, b) })
}

const passwordHelp = "the password of the file: its owner's, where the owner forbids changes"

func buildCommand() *cobra.Command {
	var template, out, password string
	c := &cobra.Command{
		Use: "build --template T.json SOURCE -o OUT.pdf", Short: "Place a template's fields on a document",
		Args: args(1, "--template T.json SOURCE -o OUT.pdf"),
		RunE: func(c *cobra.Command, a []string) error {
			if template == "" || out == "" {
				return usageError{errors.New("build needs --template T.json and -o OUT.pdf")}
			}
			src, err := readFile(a[0])
			if err != nil {
				return err
			}
			tb, err := readFile(template)
			if err != nil {
				return err
			}
			h, err := read.CheckWith(c.Context(), src, password)
			if err == nil {
				err = h.Change()
			}
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			src = h.Bytes
			t, err := api.Template(tb, h.Pages)
			if err != nil {
				return fmt.Errorf("%s: %w", template, err)
			}
			b, err := write.Build(src, t)
			if err != nil {
				return err
			}
			if err := proof.Prove(c.Context(), src, b, t); err != nil {
				return err
			}
			return writeFile(out, b)
		},
	}
	c.Flags().StringVar(&template, "template", "", "the template, JSON")
	c.Flags().StringVar(&password, "password", "", passwordHelp)
	c.Flags().StringVarP(&out, "output", "o", "", "the file to write")
	return c
}

func fillCommand() *cobra.Command {
	var data, out, password string
	var flatten, force bool
	var some []string
	c := &cobra.Command{
		Use: "fill --data D.json [--flatten] [--force] IN.pdf -o OUT.pdf", Short: "Fill a form with answers",
		Args: args(1, "--data D.json [--flatten] IN.pdf -o OUT.pdf"),
		RunE: func(c *cobra.Command, a []string) error {
			if data == "" || out == "" {
				return usageError{errors.New("fill needs --data D.json and -o OUT.pdf")}
			}
			src, err := readFile(a[0])
			if err != nil {
				return err
			}
			db, err := readFile(data)
			if err != nil {
				return err
			}
			answers := map[string]any{}
			dec := json.NewDecoder(bytes.NewReader(db))
			dec.UseNumber()
			if err := dec.Decode(&answers); err != nil {
				return fmt.Errorf("%s is not a JSON object of names and answers: %w", data, err)
			}
			h, err := read.CheckWith(c.Context(), src, password)
			if err == nil {
				err = h.Fill()
			}
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			b, err := fill.With(h.Bytes, answers, fill.Options{Force: force})
			switch {
			case err == nil && flatten:
				b, err = fill.Flatten(b)
			case err == nil:
				b, err = fill.FlattenFields(b, some)
			}
			var refused *fill.RefusedError
			if errors.As(err, &refused) {
				return fmt.Errorf("%s: the form refuses (--force writes it all the same)\n%w", a[0], err)
			}
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			return writeFile(out, b)
		},
	}
	c.Flags().StringVar(&password, "password", "", passwordHelp)
	c.Flags().BoolVar(&force, "force", false, "write answers that the form's rules refuse")
	c.Flags().StringVar(&data, "data", "", "the answers, JSON")
	c.Flags().StringVarP(&out, "output", "o", "", "the file to write")
	c.Flags().BoolVar(&flatten, "flatten", false, "turn the fields into page content")
	c.Flags().StringSliceVar(&some, "flatten-fields", nil, "turn these fields into page content, by name, with commas between")
	return c
}
