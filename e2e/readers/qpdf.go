package readers

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	_ "image/png" // what the other readers draw
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"zealousmargin.example/internal/geom"
)

// run gives a file to a program of another make; IN among its arguments is the file.
func run(b []byte, program string, args ...string) (string, error) {
	dir, err := os.MkdirTemp("", "readers")
	if err != nil {
		return "", err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	in := filepath.Join(dir, "in.pdf")
	if err := os.WriteFile(in, b, 0o600); err != nil {
		return "", err
	}
	for i := range args {
		args[i] = strings.ReplaceAll(args[i], "IN", in)
	}
	cmd := exec.Command(program, args...)
	var out, said bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &said
	var gone *exec.ExitError
	if err := cmd.Run(); err != nil && !(errors.As(err, &gone) && gone.ExitCode() == 3) { // 3: qpdf has warnings
		_ = os.WriteFile("/tmp/failed.pdf", b, 0o644)
		return "", fmt.Errorf("%s: %w: %s", program, err, said.String())
	}
	return out.String(), nil
}

// qpdfField is a field as qpdf reads it.
type qpdfField struct {
	value, kind, tooltip string
	flags                int
	states               []string // of its widgets, in their order
}

// qpdfFields are the fields of a form by their names, as qpdf reads them.
func qpdfFields(b []byte) (map[string]qpdfField, error) {
	said, err := run(b, "qpdf", "--json", "--json-key=acroform", "IN")
	if err != nil {
		return nil, err
	}
	var in struct {
		Acroform struct {
			Fields []struct {
				Fullname, Fieldtype, Alternativename string
				Fieldflags                           int
				Value                                any
				Annotation                           struct{ Appearancestate string }
				Isradiobutton, Ischeckbox, Istext    bool
			}
		}
	}
	if err := json.Unmarshal([]byte(said), &in); err != nil {
		return nil, err
	}
	kinds := map[string]string{"/Tx": "text", "/Ch": "choice", "/Sig": "signature", "/Btn": "button"}
	out := map[string]qpdfField{}
	for _, f := range in.Acroform.Fields {
		q := out[f.Fullname]
		q.value, q.kind, q.tooltip, q.flags = plainOf(f.Value), kinds[f.Fieldtype], f.Alternativename, f.Fieldflags
		switch {
		case f.Isradiobutton:
			q.kind = "radio"
		case f.Ischeckbox:
			q.kind = "checkbox"
		}
		q.states = append(q.states, plainOf(f.Annotation.Appearancestate))
		out[f.Fullname] = q
	}
	return out, nil
}

// plainOf reads what qpdf writes of a value: a name, a text, or several.
func plainOf(v any) string {
	switch v := v.(type) {
	case string:
		s := strings.TrimPrefix(strings.TrimPrefix(v, "u:"), "/")
		return strings.ReplaceAll(strings.ReplaceAll(s, "\r\n", "\n"), "\r", "\n")
	case []any:
		var out []string
		for _, x := range v {
			out = append(out, plainOf(x))
		}
		return strings.Join(out, ", ")
	}
	return ""
}

// qpdf reads and does nothing else.
type qpdf struct {
	unable
	file []byte
}

func (q *qpdf) Save() ([]byte, error) { return q.file, nil }

func (q *qpdf) Told() (map[string]Told, error) {
	all, err := qpdfFields(q.file)
	if err != nil {
		return nil, err
	}
	out := map[string]Told{}
	for name, f := range all {
		is := func(bit int) *bool { on := f.flags>>(bit-1)&1 == 1; return &on }
		out[f.tooltip] = Told{
			Kind: &f.kind, Name: &name, Tooltip: &f.tooltip, Value: &f.value, Required: is(2), ReadOnly: is(1),
			Multiline: is(13), Password: is(14), NoSpell: is(23), Comb: is(25), // ISO 32000-2, tables 226, 228 and 231
		}
	}
	return out, nil
}

// textAt is the text that poppler finds in a part of the first page, in points.
func textAt(b []byte, r geom.Rect) (string, error) {
	n := func(v float64) string { return fmt.Sprint(int(v)) }
	s, err := run(b, "pdftotext", "-r", "72", "-f", "1", "-l", "1",
		"-x", n(r.X0-1), "-y", n(height-r.Y1-1), "-W", n(r.W()+2), "-H", n(r.H()+2),
		"-layout", "IN", "-")
	return strings.TrimSpace(strings.Trim(s, "\f")), err
}

const perPoint = 2 // pixels, of what is drawn

func byPoppler(b []byte) (image.Image, error) {
	return picture(run(b, "pdftoppm", "-r", "144", "-f", "1", "-l", "1", "-png", "IN"))
}

func byMutool(b []byte) (image.Image, error) {
	return picture(run(b, "mutool", "draw", "-r", "144", "-F", "png", "-o", "-", "IN", "1"))
}

func picture(s string, err error) (image.Image, error) {
	if err != nil {
		return nil, err
	}
	img, _, err := image.Decode(strings.NewReader(s))
	return img, err
}

// filledIn tells whether the ground of a field shows in a picture of the page.
func filledIn(img image.Image, r geom.Rect, at func(geom.Point) (int, int)) bool {
	x, y := at(geom.Point{X: r.X1 - 4, Y: r.Y0 + 4})
	cr, _, cb, _ := img.At(x, y).RGBA()
	return cr > 0xc000 && cb < 0x9000
}

// onPage is where a point of the page is in what is drawn of it.
func onPage(p geom.Point) (x, y int) { return int(p.X * perPoint), int((height - p.Y) * perPoint) }

// inkAt is how much of the width of a field has ink, from 0 to 1.
func inkAt(draw func([]byte) (image.Image, error), b []byte, r geom.Rect) (float64, error) {
	img, err := draw(b)
	if err != nil {
		return 0, err
	}
	x0, y0 := onPage(geom.Point{X: r.X0 + 1, Y: r.Y1 - 1})
	x1, y1 := onPage(geom.Point{X: r.X1 - 1, Y: r.Y0 + 1})
	first, last := x1, x0
	for x := x0; x < x1; x++ {
		for y := y0; y < y1; y++ {
			if c, _, _, _ := img.At(x, y).RGBA(); c < 0x8000 {
				first, last = min(first, x), max(last, x)
			}
		}
	}
	return float64(max(last-first, 0)) / float64(x1-x0), nil
}
