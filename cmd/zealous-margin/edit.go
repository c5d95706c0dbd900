package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/api"
	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/read"
)

func editCommand() *cobra.Command {
	var commands, template, out string
	c := &cobra.Command{
		Use: "edit --commands C.json --template T.json [SOURCE.pdf] -o T2.json", Short: "Carry out commands on a template",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, a []string) error {
			if commands == "" || template == "" || out == "" {
				return usageError{errors.New("edit needs --commands C.json, --template T.json and -o T2.json")}
			}
			var list command.List
			b, err := readFile(commands)
			if err != nil {
				return err
			}
			if err := json.Unmarshal(b, &list); err != nil {
				return fmt.Errorf("%s: %w", commands, err)
			}
			source := ""
			if len(a) > 0 {
				source = a[0]
			}
			if b, err = edited(c.Context(), list, template, source); err != nil {
				return err
			}
			return writeFile(out, append(b, '\n'))
		},
	}
	c.Flags().StringVar(&commands, "commands", "", "the commands, JSON")
	c.Flags().StringVar(&template, "template", "", "the template, JSON")
	c.Flags().StringVarP(&out, "output", "o", "", "the file to write")
	return c
}

// edited carries commands out on a template; source is the document that it is for, or empty.
func edited(ctx context.Context, list command.List, template, source string) ([]byte, error) {
	tb, err := readFile(template)
	if err != nil {
		return nil, err
	}
	var file []byte
	var pages []form.Page
	if source != "" {
		src, err := readFile(source)
		if err != nil {
			return nil, err
		}
		h, err := read.Check(ctx, src)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", source, err)
		}
		file, pages = h.Bytes, h.Pages
	}
	t, err := api.Draft(tb, pages)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", template, err)
	}
	desk := command.Desk{Draft: t, Pages: map[int]*evidence.Page{}, Now: time.Now()}
	if needs := command.Reads(t, list...); len(needs) > 0 {
		if file == nil {
			return nil, usageError{errors.New("these commands go by what is printed: name the document, SOURCE.pdf")}
		}
		err := engine.Use(ctx, file, func(d *engine.Doc) (err error) {
			for _, n := range needs {
				if desk.Pages[n], err = d.Evidence(n); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	e, err := desk.Do(list...)
	if err == nil {
		err = t.Apply(e)
	}
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return nil, err
	}
	return api.Write(t)
}
