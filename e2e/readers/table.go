package readers

import (
	"errors"
	"fmt"
	"strings"
	"sync"

	"zealousmargin.example/internal/form"
)

// Names are the readers, in the order of the table.
var Names = []string{"Chromium", "pdf.js", "mutool", "poppler", "qpdf"}

// Cell is what became of a property in a reader.
type Cell struct {
	Got     string
	Cannot  bool
	Untried bool // it was not in the sample
}

// word is what the table says of a cell.
func (c Cell) word(p Property, reader string) string {
	switch {
	case c.Cannot:
		return "–"
	case c.Bare(p, reader):
		return "no scripts"
	case !c.Same(p):
		return "**differs**"
	}
	return "same"
}

// way is the line below the table about a cell that differs.
func (c Cell) way(p Property, reader string) string {
	return fmt.Sprintf("- **%s**, %s: %q instead of %q. %s", p.Title, reader, c.Got, p.Want, rounds[p.Title][reader])
}

// Same tells whether a reader does what the property says.
func (c Cell) Same(p Property) bool { return !c.Cannot && c.Got == p.Want }

// Bare tells whether a reader that runs no scripts lets the form be filled in all the same.
func (c Cell) Bare(p Property, reader string) bool {
	return reader == "poppler" && !c.Cannot && p.Scripted && c.Got == p.Bare
}

// Row is a property and what became of it, by the names of the readers.
type Row struct {
	Property
	Cells map[string]Cell
}

// Try opens the specimen in every reader and tries the chosen properties. Scripts is the folder of pdfjs-dist's legacy build; only names
// the readers that are asked, none is all.
func Try(scripts string, chosen func(Property) bool, only ...string) ([]Row, error) {
	screens := map[string]*Desk{"Chromium": NewDesk("", ""), "pdf.js": NewDesk(scripts, PDFJSPage)}
	var (
		rows []Row
		wait sync.WaitGroup
		mu   sync.Mutex
		errs []error
	)
	for _, d := range screens {
		defer d.Close()
	}
	for _, p := range Properties("") {
		rows = append(rows, Row{Property: p, Cells: map[string]Cell{}})
	}
	var browsers sync.Mutex // one at a time: on a busy machine they lose keys
	for _, name := range Names {
		if len(only) > 0 && !strings.Contains(strings.Join(only, " "), name) {
			continue
		}
		wait.Go(func() {
			if screens[name] != nil {
				browsers.Lock()
				defer browsers.Unlock()
			}
			cells, err := tried(name, screens[name], chosen)
			mu.Lock()
			defer mu.Unlock()
			if err != nil {
				errs = append(errs, fmt.Errorf("%s: %w", name, err))
				return
			}
			for i, c := range cells {
				rows[i].Cells[name] = c
			}
		})
	}
	wait.Wait()
	return rows, errors.Join(errs...)
}

// tried tries every property in one reader.
func tried(name string, desk *Desk, chosen func(Property) bool) ([]Cell, error) {
	address := "http://127.0.0.1:1"
	if desk != nil {
		address = desk.URL
	}
	b, draft, err := Specimen(address)
	if err != nil {
		return nil, err
	}
	if desk != nil {
		desk.Offer(b)
	}
	r, err := opened(name, desk, b, draft)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	t := &Trial{Reader: r, Draft: draft}
	if desk != nil {
		t.Sent = desk.Sent
	}
	return t.cells(address, chosen)
}

// cells tries the chosen properties and tells what became of them.
func (t *Trial) cells(address string, chosen func(Property) bool) ([]Cell, error) {
	var out []Cell
	for _, p := range Properties(address) {
		if !chosen(p) {
			out = append(out, Cell{Untried: true})
			continue
		}
		got, err := p.Try(t)
		if slow, ok := t.Reader.(interface{ Slow(bool) }); ok && err == nil && got != p.Want && p.typed() { // keys may be lost: once more
			slow.Slow(true)
			got, err = p.Try(t)
			slow.Slow(false)
		}
		switch {
		case errors.Is(err, ErrCannot):
			out = append(out, Cell{Cannot: true})
		case err != nil:
			return nil, fmt.Errorf("%s: %w", p.Title, err)
		default:
			out = append(out, Cell{Got: got})
		}
	}
	return out, nil
}

func opened(name string, desk *Desk, b []byte, draft *form.Template) (Reader, error) {
	switch name {
	case "Chromium":
		return openChromium(desk, draft)
	case "pdf.js":
		return openPDFJS(desk, draft)
	case "mutool":
		return openMutool(b, draft)
	case "poppler":
		return openPoppler(b, draft)
	}
	return &qpdf{file: b}, nil
}

// Unexplained lists what differs without a way round, and the ways round what does not differ any more.
func Unexplained(rows []Row) []string {
	var out []string
	for _, r := range rows {
		for _, name := range Names {
			c, tried := r.Cells[name]
			tried = tried && !c.Untried
			differs := tried && !c.Cannot && !c.Same(r.Property) && !c.Bare(r.Property, name)
			switch round := rounds[r.Title][name]; {
			case differs && round == "":
				out = append(out, fmt.Sprintf("%s: %q instead of %q in %s", r.Title, c.Got, r.Want, name))
			case !differs && tried && round != "":
				out = append(out, r.Title+": the same in "+name)
			}
		}
	}
	return out
}

// Markdown writes the table, and below it each way round.
func Markdown(rows []Row) string {
	var s strings.Builder
	s.WriteString(head)
	s.WriteString("| property | " + strings.Join(Names, " | ") + " |\n|---|" + strings.Repeat("---|", len(Names)) + "\n")
	var list []string
	same := 0
	for _, r := range rows {
		s.WriteString("| " + r.Title)
		all := true
		for _, name := range Names {
			c := r.Cells[name]
			word := c.word(r.Property, name)
			if word == "**differs**" {
				all = false
				list = append(list, c.way(r.Property, name))
			}
			s.WriteString(" | " + word)
		}
		if all {
			same++
		}
		s.WriteString(" |\n")
	}
	fmt.Fprintf(&s, "\n%d of %d properties are the same in every reader that can do them.\n", same, len(rows))
	if len(list) > 0 {
		s.WriteString("\n## Where a reader differs, and the way round\n\n" + strings.Join(list, "\n") + "\n")
	}
	return s.String()
}

// Contradictions lists where a table written by [Markdown] says something else than what was tried now, of what was tried.
func Contradictions(table string, rows []Row) []string {
	lines := map[string][]string{}
	for _, l := range strings.Split(table, "\n") {
		if cells := strings.Split(strings.Trim(l, "| "), " | "); len(cells) == len(Names)+1 {
			lines[cells[0]] = cells[1:]
		}
	}
	var out []string
	for _, r := range rows {
		line := lines[r.Title]
		if line == nil {
			out = append(out, r.Title+" is not in the table")
			continue
		}
		for i, name := range Names {
			c := r.Cells[name]
			word := c.word(r.Property, name)
			switch {
			case c.Untried:
			case line[i] != word:
				out = append(out, fmt.Sprintf("%s in %s: %s in the table, and now %s", r.Title, name, line[i], word))
			case word == "**differs**" && !strings.Contains(table, c.way(r.Property, name)):
				out = append(out, r.Title+" in "+name+": the table tells another difference")
			}
		}
	}
	return out
}

const head = `# What readers do with a form

Made by ` + "`make readers`" + `: one form with every kind of field, property, rule and step is opened in five readers that share no code with
the application, filled in as a recipient would, saved, and read back by a sixth party (qpdf; the drawn text by poppler). The tests
make this table again and hold it.

**same**: it comes to what the form says. **differs**: see below. **–**: the reader has no way to do it, or none that a program can
drive: qpdf does not fill in, mutool has no screen. **no scripts**: what rests on scripts is not at work in poppler, and the form can be
filled in all the same: answers stay as they are typed, what would show and hide shows, totals stay blank. What comes back is held to the
rules by the application.

`
