package measure

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"zealousmargin.example/internal/measure/sheets"
)

// PrintedSuffix ends the names of files that hold a sheet made by another program.
const PrintedSuffix = ".sheet.json"

// printedSheets reads the sheets of a folder.
func printedSheets(folder string) ([]sheets.Sheet, error) {
	files, err := filepath.Glob(filepath.Join(folder, "*"+PrintedSuffix))
	if err != nil {
		return nil, err
	}
	var out []sheets.Sheet
	for _, f := range files {
		b, err := os.ReadFile(f)
		if err != nil {
			return nil, err
		}
		var s sheets.Sheet
		if err := json.Unmarshal(b, &s); err != nil {
			return nil, fmt.Errorf("%s: %w", f, err)
		}
		out = append(out, s)
	}
	return out, nil
}

// printed measures forms that were laid out and printed to PDF by a browser.
func printed(w io.Writer, folder string, head func(string)) ([]found, error) {
	all, err := printedSheets(folder)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	head("Finding fields on forms that a browser laid out and printed")
	var total tally
	var pages []found
	for _, s := range all {
		fs, err := typeset(s)
		if err != nil {
			return nil, err
		}
		for _, f := range fs {
			f.score.print(w, strings.TrimSuffix(f.name, PrintedSuffix))
			total.add(f.score)
			f.name = "printed-" + f.name
			pages = append(pages, f)
		}
	}
	total.print(w, "all printed")
	total.reliability(w)
	return pages, nil
}
