package readers

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Aspects are what is compared of a form before and after a release without a change.
var Aspects = []string{
	"fields", "values", "options", "flags", "scripts", "order", "poppler's list", "drawn by poppler", "drawn by mutool", "signatures",
}

// Kept is a form that came with fields and what a release without a change left as it was.
type Kept struct {
	Name   string
	Fields int
	// Differs is what was not the same, by aspect; Anew tells that the file asks for its appearances to be made anew.
	Differs map[string]string
	Anew    bool
	Drawn   int    // fields without an appearance, which get one
	Refused string // why it could not be released
}

// folders hold the forms among the files that packages of other makers bring: samples of a PDF library among the Go modules, and test
// data among those of npm. What else they bring has no fields.
func folders(root string) (base, inside []string, err error) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/pdfcpu/pdfcpu").Output()
	if err != nil {
		return nil, nil, err
	}
	samples, data := filepath.Join(strings.TrimSpace(string(dir)), "pkg"), filepath.Join(root, "node_modules")
	return []string{samples, samples, data}, []string{"samples/form", "samples/signatures", "pdf2json/test/data"}, nil
}

// FormOfOthers is one of [FormsOfOthers] by its name.
func FormOfOthers(root, name string) ([]byte, error) {
	base, inside, err := folders(root)
	if err != nil {
		return nil, err
	}
	for i := range base {
		if strings.HasPrefix(name, inside[i]+"/") {
			return os.ReadFile(filepath.Join(base[i], filepath.FromSlash(name)))
		}
	}
	return nil, fmt.Errorf("there is no form %s", name)
}

// FormsOfOthers are the files with fields among those that packages of other makers bring, by their names.
func FormsOfOthers(root string) (map[string][]byte, error) {
	base, inside, err := folders(root)
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	seen := map[string]bool{}
	for i := range base {
		err := filepath.WalkDir(filepath.Join(base[i], inside[i]), func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() || filepath.Ext(path) != ".pdf" {
				return err
			}
			b, err := os.ReadFile(path)
			if err != nil || seen[string(b)] {
				return err
			}
			seen[string(b)] = true
			if h, err := read.Check(context.Background(), b); err == nil {
				if ws, err := read.Widgets(h.Bytes); err == nil && len(ws) > 0 {
					name, err := filepath.Rel(base[i], path)
					out[filepath.ToSlash(name)] = b
					return err
				}
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Variants are other ways to write a form down that qpdf knows, by what was done: locked in four ways, with object streams or without,
// linearised, turned, cut off.
func Variants(b []byte) (map[string][]byte, error) {
	out := map[string][]byte{"cut off": b[:len(b)-len(b)/50-8]}
	for what, args := range map[string][]string{
		"locked, 40 bits": {"--allow-weak-crypto", "--encrypt", "", "quay", "40", "--"}, "locked, 128 bits": {
			"--allow-weak-crypto", "--encrypt", "", "quay", "128", "--use-aes=n", "--",
		},
		"locked, AES of 128 bits": {"--allow-weak-crypto", "--encrypt", "", "quay", "128", "--use-aes=y", "--"},
		"locked, AES of 256 bits": {"--encrypt", "", "quay", "256", "--"}, "object streams": {"--object-streams=generate"},
		"no object streams": {"--object-streams=disable"}, "linearised": {"--linearize"}, "turned": {"--rotate=+90"},
		"uncompressed": {"--qdf"},
	} {
		s, err := run(b, "qpdf", append(args, "IN", "-")...)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", what, err)
		}
		out[what] = []byte(s)
	}
	return out, nil
}

// QPDFMends tells whether qpdf can make a whole file of a damaged one.
func QPDFMends(b []byte) bool {
	_, err := run(b, "qpdf", "IN", "-")
	return err == nil
}

// Released brings a file in and releases it without a change, with its proof; before is the file as it is worked on.
func Released(b []byte) (before, after []byte, err error) {
	h, err := read.Check(context.Background(), b)
	if err != nil {
		return nil, nil, err
	}
	a, err := read.Arrive(h.Bytes)
	if err != nil {
		return nil, nil, err
	}
	draft := &form.Template{Pages: h.Pages, Details: a.Details}
	for i := range draft.Pages {
		draft.Pages[i].ID, draft.Pages[i].File, draft.Pages[i].N = form.NewID(), "source", i+1
	}
	if err := draft.Apply(form.Edit{After: a.Fields}); err != nil {
		return nil, nil, err
	}
	base, as, err := write.Base(draft, write.Sources{File: func(string) ([]byte, error) { return h.Bytes, nil }})
	if err != nil {
		return nil, nil, err
	}
	out, err := write.Release(base, as)
	if err != nil {
		return nil, nil, err
	}
	return h.Bytes, out, proof.ProveRelease(context.Background(), base, out, as)
}

// Keep compares forms before and after a release without a change. Pages is how many pages of each are drawn at most.
func Keep(forms map[string][]byte, pages int) []Kept {
	var names []string
	for name := range forms {
		names = append(names, name)
	}
	slices.Sort(names)
	out := make([]Kept, len(names))
	var wait sync.WaitGroup
	gate := make(chan struct{}, 2)
	for i, name := range names {
		wait.Go(func() {
			gate <- struct{}{}
			defer func() { <-gate }()
			out[i] = keep(name, forms[name], pages)
		})
	}
	wait.Wait()
	return out
}

func keep(name string, b []byte, pages int) Kept {
	k := Kept{Name: name, Differs: map[string]string{}}
	before, after, err := Released(b)
	if err != nil {
		k.Refused = err.Error()
		return k
	}
	was, err := acroForm(before)
	if err == nil {
		var is formByQPDF
		if is, err = acroForm(after); err == nil {
			k.Fields, k.Anew = len(was.aspects["fields"]), was.anew
			for _, aspect := range Aspects {
				for field, said := range was.aspects[aspect] {
					if is.aspects[aspect][field] != said {
						k.Differs[aspect] = fmt.Sprintf("%s: %s, not %s", field, is.aspects[aspect][field], said)
					}
				}
				if len(was.aspects[aspect]) != len(is.aspects[aspect]) {
					k.Differs[aspect] = fmt.Sprintf("%d, not %d", len(is.aspects[aspect]), len(was.aspects[aspect]))
				}
			}
		}
	}
	if err != nil {
		k.Refused = err.Error()
		return k
	}
	for aspect, of := range map[string]func([]byte) (string, error){"poppler's list": listedByPoppler, "signatures": signaturesByPoppler} {
		was, err := of(before)
		is, err2 := of(after)
		if err := errors.Join(err, err2); err != nil {
			k.Differs[aspect] = err.Error()
		} else if was != is {
			k.Differs[aspect] = "not the same"
		}
	}
	bare, err := bareFields(before)
	if err != nil {
		k.Refused = err.Error()
		return k
	}
	for _, list := range bare {
		k.Drawn += len(list)
	}
	for n := 1; n <= min(pages, was.pages); n++ {
		for aspect, draw := range map[string]func([]byte, int) (image.Image, error){
			"drawn by poppler": popplerPage, "drawn by mutool": mutoolPage,
		} {
			was, err := draw(before, n)
			is, err2 := draw(after, n)
			if err := errors.Join(err, err2); err != nil {
				k.Differs[aspect] = err.Error()
			} else if d := pixels(was, is, bare[n]); d > 0 {
				k.Differs[aspect] = fmt.Sprintf("%d pixels of page %d", d, n)
			}
		}
	}
	return k
}

const perInch = 50 // pixels, of what is compared

func popplerPage(b []byte, n int) (image.Image, error) {
	return picture(run(b, "pdftoppm", "-r", fmt.Sprint(perInch), "-f", fmt.Sprint(n), "-l", fmt.Sprint(n), "-png", "IN"))
}

func mutoolPage(b []byte, n int) (image.Image, error) {
	return picture(run(b, "mutool", "draw", "-r", fmt.Sprint(perInch), "-F", "png", "-o", "-", "IN", fmt.Sprint(n)))
}

// bareFields are the places of fields without an appearance of their own, in pixels of what is drawn, by page: those get one.
func bareFields(b []byte) (map[int][]image.Rectangle, error) {
	ws, err := read.Widgets(b)
	if err != nil {
		return nil, err
	}
	pages, err := engine.Pages(context.Background(), b)
	if err != nil {
		return nil, err
	}
	out := map[int][]image.Rectangle{}
	for _, w := range ws {
		if w.HasLooks || w.Page == 0 {
			continue
		}
		p := pages[w.Page-1]
		r := w.Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
		const scale = perInch / 72.0
		const around = 4 // pixels, for letters that reach out of a field
		out[w.Page] = append(out[w.Page], image.Rect(int(r.X0*scale), int(r.Y0*scale), int(r.X1*scale)+1, int(r.Y1*scale)+1).Inset(-around))
	}
	return out, nil
}

// pixels is how many pixels of two pictures are not the same to the eye, but for some places.
func pixels(a, b image.Image, but []image.Rectangle) int {
	if a.Bounds() != b.Bounds() {
		return a.Bounds().Dx() * a.Bounds().Dy()
	}
	n := 0
	for y := a.Bounds().Min.Y; y < a.Bounds().Max.Y; y++ {
		for x := a.Bounds().Min.X; x < a.Bounds().Max.X; x++ {
			r, g, bl, _ := a.At(x, y).RGBA()
			r2, g2, b2, _ := b.At(x, y).RGBA()
			if (off(r, r2) || off(g, g2) || off(bl, b2)) &&
				!slices.ContainsFunc(but, func(r image.Rectangle) bool { return image.Pt(x, y).In(r) }) {
				n++
			}
		}
	}
	return n
}

func off(a, b uint32) bool { return max(a, b)-min(a, b) > 0x2000 }

var (
	popplerObject = regexp.MustCompile(`"Rect": \[[^\]]*\]`)
	verdict       = regexp.MustCompile(`(?m)^\s+- (Signature Field Name|Signature Validation|Signer Certificate Common Name):.*$`)
)

// listedByPoppler is what poppler says of the fields: kinds, names, values, limits.
func listedByPoppler(b []byte) (string, error) {
	t, err := start(b, nil, nil, "/usr/bin/python3", popplerScript)
	if err != nil {
		return "", err
	}
	defer t.Close()
	all, err := t.Told()
	if err != nil {
		return "", err
	}
	said, err := json.Marshal(all)
	return popplerObject.ReplaceAllString(string(said), ""), err
}

// signaturesByPoppler is what poppler says of the signatures. A file without any is none.
func signaturesByPoppler(b []byte) (string, error) {
	if !bytes.Contains(b, []byte("ByteRange")) {
		return "", nil
	}
	said, err := run(b, "sh", "-c", "pdfsig -nocert IN 2>/dev/null || true")
	return strings.Join(verdict.FindAllString(said, -1), "\n"), err
}

// formByQPDF is an interactive form as qpdf reads it: what each field says, by aspect and full name.
type formByQPDF struct {
	aspects map[string]map[string]string
	anew    bool
	pages   int
}

// The entries of a field by aspect (ISO 32000-2, tables 226, 228, 231, 232 and 234).
var entries = map[string][]string{
	"values": {"V", "DV", "RV", "I", "AS"}, "options": {"Opt", "TI"},
	"flags":   {"FT", "Ff", "F", "MaxLen", "Q", "DA", "DS", "TU", "TM", "MK", "BS", "Border", "Lock", "SV", "Rect", "H"},
	"scripts": {"AA", "A"},
}

// acroForm reads the form of a file through qpdf's JSON.
func acroForm(b []byte) (formByQPDF, error) {
	out := formByQPDF{aspects: map[string]map[string]string{}}
	for _, a := range Aspects {
		out.aspects[a] = map[string]string{}
	}
	said, err := run(b, "qpdf", "--json=2", "--json-key=qpdf", "--json-stream-data=none", "IN")
	if err != nil {
		return out, err
	}
	var in struct{ Qpdf []json.RawMessage }
	if err := json.Unmarshal([]byte(said), &in); err != nil || len(in.Qpdf) < 2 {
		return out, fmt.Errorf("qpdf's JSON cannot be read: %w", err)
	}
	q := qpdfObjects{}
	var raw map[string]struct {
		Value  any
		Stream struct{ Dict any }
	}
	if err := json.Unmarshal(in.Qpdf[1], &raw); err != nil {
		return out, err
	}
	for k, o := range raw {
		if q[strings.TrimPrefix(k, "obj:")] = o.Value; o.Value == nil {
			q[strings.TrimPrefix(k, "obj:")] = o.Stream.Dict
		}
	}
	root := q.dict(q.dict(raw["trailer"].Value)["/Root"])
	acro := q.dict(root["/AcroForm"])
	out.anew, _ = acro["/NeedAppearances"].(bool)
	count, _ := q.dict(root["/Pages"])["/Count"].(float64)
	out.pages = int(count)
	var walk func(o any, prefix string, depth int)
	walk = func(o any, prefix string, depth int) {
		d := q.dict(o)
		if d == nil || depth > 20 {
			return
		}
		name := prefix
		if t, ok := d["/T"].(string); ok {
			name = strings.TrimPrefix(prefix+"."+plainOf(t), ".")
		}
		kids, _ := q.of(d["/Kids"]).([]any)
		key := name
		for n := 2; out.aspects["fields"][key] != ""; n++ { // the widgets of one field
			key = fmt.Sprintf("%s #%d", name, n)
		}
		out.aspects["fields"][key] = fmt.Sprint(len(kids), " kids")
		for aspect, keys := range entries {
			var says []string
			for _, k := range keys {
				if v, ok := d["/"+k]; ok {
					says = append(says, k+" "+q.words(v, 0))
				}
			}
			if len(says) > 0 {
				out.aspects[aspect][key] = strings.Join(says, "; ")
			}
		}
		for _, kid := range kids {
			walk(kid, name, depth+1)
		}
	}
	fields, _ := q.of(acro["/Fields"]).([]any)
	for _, o := range fields {
		walk(o, "", 0)
	}
	order, _ := q.of(acro["/CO"]).([]any)
	for i, o := range order {
		out.aspects["order"][fmt.Sprint(i)] = q.words(q.dict(o)["/T"], 0)
	}
	return out, nil
}

// qpdfObjects are the objects of a file by their references, "4 0 R".
type qpdfObjects map[string]any

var reference = regexp.MustCompile(`^\d+ \d+ R$`)

func (q qpdfObjects) of(o any) any {
	for range 20 {
		s, ok := o.(string)
		if !ok || !reference.MatchString(s) {
			return o
		}
		o = q[s]
	}
	return nil
}

func (q qpdfObjects) dict(o any) map[string]any {
	d, _ := q.of(o).(map[string]any)
	return d
}

// words writes an object with what it refers to, so that two files compare whatever their objects are numbered.
func (q qpdfObjects) words(o any, depth int) string {
	if depth > 8 {
		return "…"
	}
	switch o := q.of(o).(type) {
	case map[string]any:
		var keys []string
		for k := range o {
			if !slices.Contains([]string{"/P", "/Parent", "/Kids", "/Page", "/Data"}, k) { // these lead to other parts of the file
				keys = append(keys, k)
			}
		}
		slices.Sort(keys)
		var out []string
		for _, k := range keys {
			out = append(out, k+" "+q.words(o[k], depth+1))
		}
		return "<<" + strings.Join(out, " ") + ">>"
	case []any:
		var out []string
		for _, v := range o {
			out = append(out, q.words(v, depth+1))
		}
		return "[" + strings.Join(out, " ") + "]"
	default:
		return fmt.Sprint(o)
	}
}
