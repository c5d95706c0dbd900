package pdf_test

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/pdftest"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// seeds are small files that nobody here made, and some of ours.
func seeds(f *testing.F) {
	f.Add(pdftest.Odd())
	f.Add(plain(""))
	f.Add(plain("/Rotate 90"))
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/pdfcpu/pdfcpu").Output()
	if err != nil {
		return
	}
	files, _ := filepath.Glob(filepath.Join(strings.TrimSpace(string(dir)), "pkg", "samples", "*", "*.pdf"))
	for _, name := range files {
		if b, err := os.ReadFile(name); err == nil && len(b) < 12_000 {
			f.Add(b)
		}
	}
}

// FuzzRooms feeds everything that reads or changes objects with broken files: each refuses in words or does its work, whatever stands in
// the file. What is written over a file begins with it.
func FuzzRooms(f *testing.F) {
	seeds(f)
	f.Fuzz(func(t *testing.T, b []byte) {
		dog := time.AfterFunc(3*time.Second, func() {
			_ = os.WriteFile("/tmp/hang.bin", b, 0o600)
			buf := make([]byte, 1<<16)
			n := runtime.Stack(buf, true)
			_ = os.WriteFile("/tmp/hang.txt", buf[:n], 0o600)
		})
		defer dog.Stop()
		file, err := object.Parse(b)
		if err != nil {
			return
		}
		_, _ = read.Widgets(b)
		_, _ = read.Leftovers(b)
		_, _ = read.Odds(b)
		_, _ = read.Signatures(b)
		a, err := read.Arrive(b)
		if err != nil {
			return
		}
		tpl := &form.Template{Fields: []form.Field{
			{ID: "zz", Page: 1, Kind: form.Text, Name: "zz", Rect: geom.R(20, 20, 90, 40), Order: 1},
		}}
		for i, p := range file.Pages {
			w, h := p.Box.W(), p.Box.H()
			if !(w > 0) || !(h > 0) {
				return
			}
			tpl.Pages = append(tpl.Pages, form.Page{ID: form.NewID(), File: "src", N: i + 1, Width: w, Height: h, Rotate: p.Rotate})
		}
		_ = tpl.Apply(form.Edit{After: a.Fields}) // refused where the file's own fields are no rows
		out, err := write.Release(b, tpl)
		if err == nil && !bytes.HasPrefix(out, b) {
			t.Fatal("the bytes of the file were changed")
		}
		if err == nil {
			_, _ = fill.With(out, map[string]any{"zz": "berth"}, fill.Options{Force: true})
		}
	})
}
