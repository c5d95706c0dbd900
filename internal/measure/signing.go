package measure

import (
	"context"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/standin"
)

// Signing prints how long it takes to sign a document of a hundred pages against qpdf's check of it.
func Signing(ctx context.Context, w io.Writer) error {
	blank, err := write.Blank(595, 842)
	if err != nil {
		return err
	}
	t := &form.Template{}
	for i := range 100 {
		t.Pages = append(t.Pages, form.Page{ID: fmt.Sprint("p", i), File: "blank", N: 1, Width: 595, Height: 842})
		for k := range 5 {
			t.Fields = append(t.Fields, form.Field{
				ID: fmt.Sprintf("f%d-%d", i, k), Page: i + 1, Order: float64(k), Kind: form.Text, Name: fmt.Sprintf("field_%d_%d", i, k),
				Rect: geom.R(60, 100+float64(k)*60, 300, 118+float64(k)*60),
			})
		}
	}
	t.Fields = append(t.Fields, form.Field{
		ID: "sig", Page: 100, Order: 9, Kind: form.Signature, Name: "office", Rect: geom.R(60, 600, 260, 660),
	})
	base, draft, err := write.Base(t, write.Sources{File: func(string) ([]byte, error) { return blank, nil }})
	if err != nil {
		return err
	}
	src, err := write.Release(base, draft)
	if err != nil {
		return err
	}
	a, err := standin.NewAuthority("Gannet Quay test authority", time.Now().AddDate(0, -1, 0))
	if err != nil {
		return err
	}
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	if err != nil {
		return err
	}
	c, err := a.Issue("The harbour master", key.Public(), time.Now().AddDate(0, -1, 0), time.Now().AddDate(1, 0, 0))
	if err != nil {
		return err
	}
	who := sign.Identity{Key: key, Chain: []*x509.Certificate{c, a.Certificate()}}
	dir, err := os.MkdirTemp("", "zm-signing")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	name := filepath.Join(dir, "form.pdf")
	if err := os.WriteFile(name, src, 0o600); err != nil {
		return err
	}
	var ours, theirs []float64
	for range 9 {
		start := time.Now()
		if _, err := sign.Sign(src, who, sign.Options{Field: "office", At: start}); err != nil {
			return err
		}
		ours = append(ours, time.Since(start).Seconds())
		start = time.Now()
		if out, err := exec.CommandContext(ctx, "qpdf", "--check", name).CombinedOutput(); err != nil {
			return fmt.Errorf("qpdf: %w: %s", err, out)
		}
		theirs = append(theirs, time.Since(start).Seconds())
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	fmt.Fprintf(w, "\nSigning a document of 100 pages (%d fields): %.0f ms; qpdf --check of it: %.0f ms; %.2f times\n", len(t.Fields),
		1000*ours[4], 1000*theirs[4], ours[4]/theirs[4])
	return nil
}
