package readers

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
)

// Same tells whether an aspect of a form is the same after its release. Where the file asks for its appearances to be made anew, or brings
// none, they are drawn: that is no loss.
func (k Kept) Same(aspect string) bool {
	return k.Refused == "" && (k.Differs[aspect] == "" || k.Anew && strings.HasPrefix(aspect, "drawn"))
}

// Whole tells whether all of a form is the same after its release.
func (k Kept) Whole() bool {
	return k.Refused == "" && !slices.ContainsFunc(Aspects, func(a string) bool { return !k.Same(a) })
}

// KeptMarkdown writes the table of what was kept, a line for each folder that forms came from, and below it what was not.
func KeptMarkdown(all []Kept) string {
	var s strings.Builder
	s.WriteString(keptHead)
	s.WriteString("| forms from | " + strings.Join(Aspects, " | ") + " |\n|---|" + strings.Repeat("---|", len(Aspects)) + "\n")
	folders := map[string][]Kept{}
	for _, k := range all {
		folders[filepath.Dir(k.Name)] = append(folders[filepath.Dir(k.Name)], k)
	}
	var names []string
	for f := range folders {
		names = append(names, f)
	}
	slices.Sort(names)
	var list []string
	whole := 0
	for _, f := range names {
		s.WriteString("| " + f)
		for _, a := range Aspects {
			same := 0
			for _, k := range folders[f] {
				if k.Same(a) {
					same++
				} else if k.Refused == "" {
					list = append(list, fmt.Sprintf("- %s, %s: %s", k.Name, a, k.Differs[a]))
				}
			}
			fmt.Fprintf(&s, " | %d of %d", same, len(folders[f]))
		}
		s.WriteString(" |\n")
	}
	for _, k := range all {
		if k.Refused != "" {
			list = append(list, "- "+k.Name+" is not released: "+k.Refused)
			continue
		}
		if k.Whole() {
			whole++
		}
	}
	drawn, anew := 0, 0
	for _, k := range all {
		drawn += k.Drawn
		if k.Anew {
			anew++
		}
	}
	fmt.Fprintf(&s, "\n%d of %d forms are kept whole. %d fields had no appearance and got one; %d files ask for all of theirs to be made "+
		"anew, which is done.\n", whole, len(all), drawn, anew)
	if len(list) > 0 {
		s.WriteString("\n" + strings.Join(list, "\n") + "\n")
	}
	return s.String()
}

const keptHead = `
# What a release without a change keeps of forms that nobody here made

Forms among the samples and test data of packages of other makers (pdfcpu among the Go modules, pdf2json among those of npm) are
brought in, released without a change, and compared before and after: every field with its entries as qpdf reads them, the list of
fields as poppler has it, the pages as poppler and mutool draw them, the signatures as poppler judges them.

`
