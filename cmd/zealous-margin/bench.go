package main

import (
	"context"
	"io"
	"os"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/measure"
)

func benchCommand() *cobra.Command {
	var forms, database, samples, only, alone string
	var sets measure.Sets
	var drawn measure.Drawn
	c := &cobra.Command{
		Use: "bench", Short: "Print the measurements", Args: args(0, "[--forms FOLDER] [--samples FOLDER] [--database URL]"),
		RunE: func(c *cobra.Command, _ []string) error {
			if work := measure.Alone[alone]; work != nil {
				return work(c.Context(), os.Stdout)
			}
			if c.Flags().Changed("forms") && measure.HasTruth(forms) {
				return measure.Marked(os.Stdout, forms, sets.Overlays)
			}
			if (only == "finding" || only == "typeset") && drawn.Count > 0 {
				drawn.Overlays = sets.Overlays
				return measure.FindingDrawn(c.Context(), os.Stdout, drawn)
			}
			if only == "finding" || only == "typeset" {
				sets.Forms, sets.Scans = forms, only == "finding"
				return measure.Finding(c.Context(), os.Stdout, sets)
			}
			if only == "forms" {
				return measure.Forms(os.Stdout, forms)
			}
			if only == "rules" {
				return measure.Rules(os.Stdout)
			}
			if only == "copies" {
				return measure.Copies(c.Context(), os.Stdout)
			}
			if only == "signing" {
				return measure.Signing(c.Context(), os.Stdout)
			}
			if only == "proof" {
				if err := measure.Proof(os.Stdout); err != nil {
					return err
				}
				return measure.Faults(os.Stdout)
			}
			if only == "returns" {
				return measure.Returns(c.Context(), os.Stdout, database, os.Args[0])
			}
			if only == "trust" {
				if err := measure.Trust(c.Context(), os.Stdout, database, os.Args[0]); err != nil {
					return err
				}
				return measure.Journal(c.Context(), os.Stdout, database)
			}
			if only == "edits" {
				return measure.Edits(c.Context(), os.Stdout, database)
			}
			if samples == "" {
				samples = measure.Samples("github.com/pdfcpu/pdfcpu", "pkg/testdata")
			}
			for _, step := range []func(context.Context, io.Writer) error{
				func(_ context.Context, w io.Writer) error { return measure.Forms(w, forms) },
				func(ctx context.Context, w io.Writer) error {
					sets.Forms, sets.Scans = forms, true
					return measure.Finding(ctx, w, sets)
				},
				func(_ context.Context, w io.Writer) error { return measure.Rules(w) },
				func(_ context.Context, w io.Writer) error { return measure.Proof(w) },
				func(_ context.Context, w io.Writer) error { return measure.Faults(w) },
				measure.Copies,
				measure.Signing,
				func(ctx context.Context, w io.Writer) error { return measure.Edits(ctx, w, database) },
				func(ctx context.Context, w io.Writer) error { return measure.FirstPage(ctx, w, database) },
				func(_ context.Context, w io.Writer) error { return measure.Memory(w, os.Args[0]) },
				func(ctx context.Context, w io.Writer) error { return measure.Returns(ctx, w, database, os.Args[0]) },
				measure.OCR,
				func(ctx context.Context, w io.Writer) error { return measure.Foreign(ctx, w, samples) },
			} {
				if err := step(c.Context(), os.Stdout); err != nil {
					return err
				}
			}
			return nil
		},
	}
	c.Flags().StringVar(&forms, "forms", "node_modules/pdf2json/test/data",
		"a folder of PDF forms with fields, or of static ones, each with its truth beside it as NAME.truth.json")
	c.Flags().StringVar(&samples, "samples", "", "a folder of PDF files that other programs made (default: those of a Go module)")
	c.Flags().StringVar(&database, "database", os.Getenv("ZM_DATABASE_URL"), "PostgreSQL address (or ZM_DATABASE_URL)")
	c.Flags().StringVar(&sets.Printed, "printed", "", "a folder of forms that a browser printed, with their truth")
	c.Flags().Uint64Var(&drawn.Seed, "seed", 1, "draw forms from this seed")
	c.Flags().IntVar(&drawn.Count, "count", 0, "measure finding on so many forms drawn at random (with --only finding)")
	c.Flags().IntVar(&drawn.Pictures, "pictures", 20, "how many of the worst drawn forms get a picture (with --overlays)")
	c.Flags().BoolVar(&drawn.Scans, "scans", false, "measure the drawn forms as scans")
	c.Flags().StringVar(&sets.Overlays, "overlays", "", "a folder for pictures of truth and finds, worst first")
	c.Flags().StringVar(&only, "only", "", "measure one thing only: forms, finding, typeset (without the scans), edits, proof, rules, "+
		"copies, signing, or trust (attacks on a server of its own)")
	c.Flags().StringVar(&alone, "alone", "", "only a piece of work of which the memory is measured")
	_ = c.Flags().MarkHidden("alone") // fails for unknown flags only
	return c
}
