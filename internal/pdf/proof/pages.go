package proof

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"math"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
)

// Pages compares a file that was put together of pages with the draft that says which pages those
// are and how they lie: their number, size and turn, how each looks beside the page that it comes
// from, and the words that were recognised on it. File and text give what the draft's pages name.
// A file that is one of those, unchanged, needs no comparison.
func Pages(base []byte, t *form.Template, file func(sha string) ([]byte, error), text func(sha string) (evidence.Text, error)) error {
	sum := sha256.Sum256(base)
	whole := true
	for i, p := range t.Pages {
		whole = whole && p.File == hex.EncodeToString(sum[:]) && p.N == i+1 && p.Text == ""
	}
	if whole {
		return nil
	}
	is, err := engine.Open(base)
	if err != nil {
		return fmt.Errorf("the pages that were put together do not open: %w", err)
	}
	defer is.Close()
	var wrong []string
	has := is.Pages()
	if len(has) != len(t.Pages) {
		return fmt.Errorf("%d pages were put together, %d are wanted", len(has), len(t.Pages))
	}
	from := map[string]*engine.Doc{}
	defer func() {
		for _, d := range from {
			d.Close()
		}
	}()
	for i, p := range t.Pages {
		const most = 0.02 // points
		if math.Abs(has[i].Width-p.Width) > most || math.Abs(has[i].Height-p.Height) > most || has[i].Rotate != p.Rotate {
			wrong = append(wrong, fmt.Sprintf("page %d is %g by %g points, turned by %d", i+1, has[i].Width, has[i].Height,
				has[i].Rotate))
			continue
		}
		d := from[p.File]
		if d == nil {
			b, err := file(p.File)
			if err != nil {
				return err
			}
			if d, err = engine.Open(b); err != nil {
				return err
			}
			from[p.File] = d
		}
		if err := sameLook(is, i+1, d, p); err != nil {
			wrong = append(wrong, fmt.Sprintf("page %d: %v", i+1, err))
		}
		if err := sameWords(is, i+1, p, text); err != nil {
			wrong = append(wrong, fmt.Sprintf("page %d: %v", i+1, err))
		}
	}
	if len(wrong) > 0 {
		return errors.New("the pages differ from the draft: " + strings.Join(wrong, "; "))
	}
	return nil
}

// How much a page may look otherwise than the one that it comes from: where it lies askew, its pixels
// are drawn by another way of smoothing.
const (
	farOff  = 90    // of 255: a part of a pixel that differs by more is another
	mostOff = 0.005 // of all
)

func sameLook(is *engine.Doc, n int, from *engine.Doc, p form.Page) error {
	a, err := is.Render(n, 0.5)
	if err != nil {
		return err
	}
	b, err := from.RenderPage(p, 0.5)
	if err != nil {
		return err
	}
	if a.Bounds() != b.Bounds() {
		return fmt.Errorf("it is drawn %v large, not %v", a.Bounds().Max, b.Bounds().Max)
	}
	if share := differ(a, b); share > mostOff {
		return fmt.Errorf("%.1f %% of it look otherwise than where it comes from", 100*share)
	}
	return nil
}

func differ(a, b *image.RGBA) float64 {
	n := 0
	for i := range a.Pix {
		if d := int(a.Pix[i]) - int(b.Pix[i]); d > farOff || d < -farOff {
			n++
		}
	}
	return float64(n) / float64(max(1, len(a.Pix)))
}

// sameWords finds the words that were recognised on a page in the written one. Signs that no typeface
// of ours has are written as a question mark.
func sameWords(is *engine.Doc, n int, p form.Page, text func(sha string) (evidence.Text, error)) error {
	if p.Text == "" {
		return nil
	}
	want, err := text(p.Text)
	if err != nil {
		return err
	}
	said, err := is.Words(n)
	if err != nil {
		return err
	}
	has := strings.Join(strings.Fields(said), "")
	for _, w := range want.At(p.Placing()) {
		for part := range strings.FieldsSeq(w.Text) {
			if !p.Rect().Contains(w.Rect.Mid()) || w.Rect.Empty() || strings.Contains(has, part) ||
				strings.ContainsFunc(part, func(r rune) bool { return r > 0x24f }) {
				continue
			}
			return fmt.Errorf("the recognised word %q is missing", part)
		}
	}
	return nil
}
