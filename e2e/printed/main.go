// Command printed writes forms as a word processor or a web page would: Chromium prints
// pages of HTML to PDF, and the elements that stand for places to write in give the
// truth about them. The measurements take them from the folder that is named.
package main

import (
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure"
	"zealousmargin.example/internal/measure/sheets"
	"zealousmargin.example/internal/pdf/engine"
)

//go:embed pages
var pages embed.FS

// place is an element marked as a place to write in, in CSS pixels from the upper left.
type place struct {
	X, Y, W, H         float64
	Kind, Words, Group string
	Comb               int
	Multiline          bool
}

const places = `[...document.querySelectorAll("[data-f]")].map(e => {
	const r = e.getBoundingClientRect(), d = e.dataset;
	return {X: r.x, Y: r.y, W: r.width, H: r.height, Kind: d.f, Words: d.w || "", Group: d.g || "", Comb: +(d.c || 0), Multiline: d.m !== undefined};
})`

// px is a CSS pixel in points.
const px = 0.75

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: printed FOLDER")
		os.Exit(2)
	}
	if err := run(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(folder string) error {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	b, err := browser.Start(browser.Options{Viewer: true, Width: 794, Height: 1123})
	if err != nil {
		return err
	}
	defer b.Close()
	files, err := pages.ReadDir("pages")
	if err != nil {
		return err
	}
	for _, f := range files {
		html, err := pages.ReadFile("pages/" + f.Name())
		if err != nil {
			return err
		}
		src := filepath.Join(folder, f.Name())
		if err := os.WriteFile(src, html, 0o644); err != nil {
			return err
		}
		abs, err := filepath.Abs(src)
		if err != nil {
			return err
		}
		if err := b.Open("file://" + abs); err != nil {
			return err
		}
		var found []place
		if err := b.Eval(places, &found); err != nil {
			return err
		}
		s := sheets.Sheet{Style: strings.TrimSuffix(f.Name(), ".html"), Empty: len(found) == 0}
		if s.PDF, err = b.PDF(); err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(folder, s.Style+".pdf"), s.PDF, 0o644); err != nil {
			return err
		}
		height, err := pageHeight(s.PDF)
		if err != nil {
			return fmt.Errorf("%s: %w", f.Name(), err)
		}
		for _, p := range found {
			s.Truth = append(s.Truth, sheets.Truth{
				Page: 1, Kind: form.Kind(p.Kind), Words: p.Words, Group: p.Group, Comb: p.Comb, Multiline: p.Multiline,
				Rect: geom.R(p.X*px, height-(p.Y+p.H)*px, (p.X+p.W)*px, height-p.Y*px),
			})
		}
		out, err := json.Marshal(s)
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(folder, s.Style+measure.PrintedSuffix), out, 0o644); err != nil {
			return err
		}
	}
	return nil
}

// pageHeight is the height, in points, of the one page of a file.
func pageHeight(b []byte) (float64, error) {
	pages, err := engine.Pages(context.Background(), b)
	if err != nil {
		return 0, err
	}
	if len(pages) != 1 {
		return 0, fmt.Errorf("it takes %d pages, not one", len(pages))
	}
	return pages[0].Height, nil
}
