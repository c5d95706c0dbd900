package proof

import (
	"context"
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
func Pages(ctx context.Context, base []byte, t *form.Template, file func(sha string) ([]byte, error),
	text func(sha string) (evidence.Text, error),
) error {
	sum := sha256.Sum256(base)
	whole := true
	for i, p := range t.Pages {
		whole = whole && p.File == hex.EncodeToString(sum[:]) && p.N == i+1 && p.Text == ""
	}
	if whole {
		return nil
	}
	var wrong []string
	var right []int // the pages that are as large as they should be, from 0
	has, err := engine.Pages(ctx, base)
	if err != nil {
		return fmt.Errorf("the pages that were put together do not open: %w", err)
	}
	if len(has) != len(t.Pages) {
		return fmt.Errorf("%d pages were put together, %d are wanted", len(has), len(t.Pages))
	}
	for i, p := range t.Pages {
		const most = 0.02 // points
		if math.Abs(has[i].Width-p.Width) > most || math.Abs(has[i].Height-p.Height) > most || has[i].Rotate != p.Rotate {
			wrong = append(wrong, fmt.Sprintf("page %d is %g by %g points, turned by %d", i+1, has[i].Width, has[i].Height,
				has[i].Rotate))
			continue
		}
		right = append(right, i)
	}
	for len(right) > 0 { // pages of one file that follow each other, drawn while it is open once
		const atOnce = 24
		n := 1
		for n < min(len(right), atOnce) && t.Pages[right[n]].File == t.Pages[right[0]].File {
			n++
		}
		differ, err := compare(ctx, base, t.Pages, right[:n], file, text)
		if err != nil {
			return err
		}
		wrong, right = append(wrong, differ...), right[n:]
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

// compare says which pages of a file that was put together, those at the places which, from 0, differ from the pages that they come
// from: all of one file.
func compare(ctx context.Context, base []byte, pages []form.Page, which []int, file func(sha string) ([]byte, error),
	text func(sha string) (evidence.Text, error),
) (wrong []string, err error) {
	b, err := file(pages[which[0]].File)
	if err != nil {
		return nil, err
	}
	was := make([]*image.RGBA, len(which))
	err = engine.Use(ctx, b, func(d *engine.Doc) (err error) {
		for k, i := range which {
			if was[k], err = d.RenderPage(pages[i], 0.5); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	words := make([]evidence.Text, len(which))
	for k, i := range which {
		if pages[i].Text != "" {
			if words[k], err = text(pages[i].Text); err != nil {
				return nil, err
			}
		}
	}
	err = engine.Use(ctx, base, func(is *engine.Doc) error {
		for k, i := range which {
			img, err := is.Render(i+1, 0.5)
			if err != nil {
				return err
			}
			if err := sameLook(img, was[k]); err != nil {
				wrong = append(wrong, fmt.Sprintf("page %d: %v", i+1, err))
			}
			if err := sameWords(is, i+1, pages[i], words[k]); err != nil {
				wrong = append(wrong, fmt.Sprintf("page %d: %v", i+1, err))
			}
		}
		return nil
	})
	return wrong, err
}

func sameLook(a, b *image.RGBA) error {
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
// sameWords tells whether the words that were recognised on a page stand in the file.
func sameWords(is *engine.Doc, n int, p form.Page, want evidence.Text) error {
	if len(want.Words) == 0 {
		return nil
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
