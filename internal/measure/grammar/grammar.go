package grammar

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"golang.org/x/image/font/gofont/goregular"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/measure/sheets"
)

// Form is a form of the grammar with its truth, in reading order.
type Form struct {
	sheets.Sheet
	Of map[string]string // the values of its factors
}

// Factors are the names of all factors.
func Factors() []string {
	out := []string{"writer"}
	for _, f := range factors {
		out = append(out, f.name)
	}
	return out
}

// Make draws count forms from a seed.
//
// Errors: Chromium, LibreOffice or mutool is missing or fails; a place to write is not on the page.
func Make(ctx context.Context, seed uint64, count int) ([]Form, error) {
	by := map[string][]*plan{}
	var all []*plan
	for n := range count {
		p, err := newPlan(seed, n)
		if err != nil {
			return nil, err
		}
		by[p.at("writer")] = append(by[p.at("writer")], p)
		all = append(all, p)
	}
	dir, err := os.MkdirTemp("", "forms")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	made := map[string]Form{}
	for writer, write := range map[string]func(context.Context, string, []*plan) ([]Form, error){
		library: fromLibrary, browser: fromBrowser, office: fromOffice,
	} {
		forms, err := write(ctx, dir, by[writer])
		if err != nil {
			return nil, fmt.Errorf("%s: %w", writer, err)
		}
		for _, f := range forms {
			made[f.Style] = f
		}
	}
	var out []Form
	for _, p := range all {
		out = append(out, made[p.name])
	}
	return out, nil
}

// form puts a plan and its places together.
func (p *plan) form(pdf []byte, at map[int]area, firstPage int) (Form, error) {
	f := Form{Of: p.of, Sheet: sheets.Sheet{Style: p.name, PDF: pdf, Empty: p.empty, Language: tesseract[p.words.locale]}}
	for i, t := range p.truth {
		if parts := p.parts[i]; parts != nil {
			t.Alt = [][]geom.Rect{nil}
			for n, id := range parts {
				a, there := at[id]
				if !there {
					return f, fmt.Errorf("form %s: group %d of %q is not on the page", p.name, n+1, t.Words)
				}
				if n > 0 {
					a.rect = a.rect.Union(at[i].rect)
				}
				t.Alt[0] = append(t.Alt[0], at[id].rect)
				at[i] = a
			}
		}
		a, there := at[i]
		if !there {
			return f, fmt.Errorf("form %s: the place of %q is not on the page", p.name, t.Words)
		}
		t.Page, t.Rect = a.page-firstPage+1, a.rect
		f.Truth = append(f.Truth, t)
	}
	return f, nil
}

// tesseract are the languages that can be recognised, as Tesseract names them.
var tesseract = map[string]string{
	"en": "eng", "de": "deu", "fr": "fra", "es": "spa", "it": "ita", "nl": "nld", "pl": "pol", "pt": "por", "sv": "swe",
}

// run runs a program and gives what it complains about as the error.
func run(ctx context.Context, name string, args ...string) error {
	var said bytes.Buffer
	c := exec.CommandContext(ctx, name, args...)
	c.Stderr, c.Stdout = &said, &said
	if err := c.Run(); err != nil {
		return fmt.Errorf("%s failed; run scripts/install test if it is missing: %w: %s", name, err, said.String())
	}
	return nil
}

// fromBrowser prints all plans as one document of HTML, once as they are and once with colours.
func fromBrowser(ctx context.Context, dir string, plans []*plan) ([]Form, error) {
	if len(plans) == 0 {
		return nil, nil
	}
	if err := os.WriteFile(filepath.Join(dir, roundFile), goregular.TTF, 0o644); err != nil {
		return nil, err
	}
	plain, coloured := filepath.Join(dir, "plain.pdf"), filepath.Join(dir, "coloured.pdf")
	for _, to := range []string{plain, coloured} {
		src := to[:len(to)-len(".pdf")] + ".html"
		if err := os.WriteFile(src, []byte(htmlOf(plans, to == coloured)), 0o644); err != nil {
			return nil, err
		}
		err := run(ctx, "chromium", "--headless=new", "--no-sandbox", "--disable-gpu", "--no-pdf-header-footer",
			"--allow-file-access-from-files", "--user-data-dir="+filepath.Join(dir, "profile"), "--print-to-pdf="+to, src)
		if err != nil {
			return nil, err
		}
	}
	seen, err := readColours(ctx, coloured)
	if err != nil {
		return nil, err
	}
	if len(seen.starts) != len(plans) {
		return nil, fmt.Errorf("%d forms begin, not %d", len(seen.starts), len(plans))
	}
	whole, err := os.ReadFile(plain)
	if err != nil {
		return nil, err
	}
	var out []Form
	for i, p := range plans {
		to := len(seen.height)
		if i+1 < len(plans) {
			to = seen.starts[i+1] - 1
		}
		var b bytes.Buffer
		conf := model.NewDefaultConfiguration()
		pages := strconv.Itoa(seen.starts[i]) + "-" + strconv.Itoa(to)
		if err := api.Trim(bytes.NewReader(whole), &b, []string{pages}, conf); err != nil {
			return nil, err
		}
		f, err := p.form(b.Bytes(), seen.areas[i], seen.starts[i])
		if err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, nil
}

// fromOffice has a word processor make PDF of all plans, once as they are and once with colours. Every third goes by way of ODT, which
// the word processor lays out in its own manner.
func fromOffice(ctx context.Context, dir string, plans []*plan) ([]Form, error) {
	if len(plans) == 0 {
		return nil, nil
	}
	var files, open []string // open are those that become ODT first
	for i, p := range plans {
		for _, twin := range []bool{false, true} {
			b, err := p.docx(twin)
			if err != nil {
				return nil, err
			}
			name := filepath.Join(dir, p.name+map[bool]string{true: "-coloured"}[twin])
			if err := os.WriteFile(name+".docx", b, 0o644); err != nil {
				return nil, err
			}
			if i%3 == 2 {
				open = append(open, name+".docx")
				files = append(files, name+".odt")
				continue
			}
			files = append(files, name+".docx")
		}
	}
	convert := func(to string, files []string) error {
		for part := range slices.Chunk(files, 40) {
			args := append([]string{
				"--headless", "-env:UserInstallation=file://" + filepath.Join(dir, "office"), "--convert-to", to, "--outdir", dir,
			}, part...)
			if err := run(ctx, "soffice", args...); err != nil {
				return err
			}
		}
		return nil
	}
	if err := convert("odt", open); err != nil {
		return nil, err
	}
	if err := convert("pdf", files); err != nil {
		return nil, err
	}
	var out []Form
	for _, p := range plans {
		seen, err := readColours(ctx, filepath.Join(dir, p.name+"-coloured.pdf"))
		if err != nil {
			return nil, err
		}
		if len(seen.starts) != 1 {
			return nil, fmt.Errorf("form %s begins %d times", p.name, len(seen.starts))
		}
		b, err := os.ReadFile(filepath.Join(dir, p.name+".pdf"))
		if err != nil {
			return nil, err
		}
		f, err := p.form(b, seen.areas[0], 1)
		if err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, nil
}

// inPage turns a rectangle with y from the top into one with y from the bottom.
func inPage(x, y, w, h, height float64) geom.Rect { return geom.R(x, height-y-h, x+w, height-y) }
