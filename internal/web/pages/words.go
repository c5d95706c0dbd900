package pages

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// doubtFrom is the doubt from which a recognised word is worth a look: Tesseract's
// confidence below 75 (common practice, no source).
const doubtFrom = 0.25

// doubts counts the doubtful words of a page.
func doubts(s *frame.Frame, ctx context.Context, p form.Page) (int, error) {
	t, err := s.Text(ctx, p.Text)
	if err != nil {
		return 0, err
	}
	n := 0
	for _, w := range t.Words {
		if doubtful(w) {
			n++
		}
	}
	return n, nil
}

// doubtful tells whether a word is worth a look: signs without a letter or figure are not.
func doubtful(w evidence.Word) bool {
	return w.Doubt > doubtFrom && strings.ContainsFunc(w.Text, func(r rune) bool { return r >= '0' && r <= '9' || r > 64 })
}

// wordsView shows one doubtful word after the other beside its picture.
type wordsView struct {
	frame.Shell
	Doc    store.Document
	Tabs   []frame.Tab
	Page   form.Page
	Number int
	Word   evidence.Word
	Index  int
	Left   int // doubtful words from here on
	Done   bool
	Around string // the line that it stands in
	// The picture of the page, moved so that the word is in the middle: sizes in CSS
	// pixels, the frame around the word in the same.
	Picture        string
	PicW, PicH     int
	DX, DY         int
	X, Y, W, H     int
	FrameW, FrameH int
	Sure           int // percent
	Undo           string
	Skipped        int // doubtful words that were passed over
	Unread         int // scans without recognised text
}

const (
	lookWidth  = 1500 // pixels of the page's picture while words are looked at
	frameWidth = 640
	frameTall  = 200
)

// Words shows the next doubtful word at or after a place.
func Words(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	return wordsFrom(s, c, id, c.FormValue("page"), frame.Number(c.FormValue("word"), 0))
}

func wordsFrom(s *frame.Frame, c *echo.Context, id int64, page string, from int) error {
	ctx := c.Request().Context()
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return err
	}
	v := wordsView{
		Shell: s.Shell(c, "Words: "+d.Document.Title, "words"), Doc: d.Document,
		Tabs: frame.Tabs("pages", d.Document.Doubtful), Undo: d.Undo, Done: true, FrameW: frameWidth, FrameH: frameTall,
	}
	begun := page == ""
	if page != "" { // from a place on: those before it may have been passed over
		for _, p := range d.Template.Pages {
			if p.Text == "" {
				continue
			}
			n, err := doubts(s, ctx, p)
			if err != nil {
				return err
			}
			v.Skipped += n
		}
	}
	for i, p := range d.Template.Pages {
		start := 0
		if p.ID == page {
			begun, start = true, from
		}
		if !begun || p.Text == "" {
			continue
		}
		t, err := s.Text(ctx, p.Text)
		if err != nil {
			return err
		}
		words := t.At(p.Placing())
		for k := start; k < len(words); k++ {
			if !doubtful(words[k]) {
				continue
			}
			v.Left++
			if v.Done {
				v.Done = false
				v.Page, v.Number, v.Word, v.Index = p, i+1, words[k], k
				v.Around = lineOf(words, k)
			}
		}
	}
	v.Skipped = max(0, v.Skipped-v.Left)
	if v.Unread = unread(d.Template.Pages); !v.Done {
		v.frame()
	}
	block := "page"
	if c.Request().Header.Get("HX-Request") != "" {
		block = "word"
	}
	return s.Render(c, http.StatusOK, "words", block, v)
}

// unread counts the scans whose text is not recognised yet.
func unread(pages []form.Page) int {
	n := 0
	for _, p := range pages {
		if p.Scan && p.Text == "" {
			n++
		}
	}
	return n
}

// frame works out which part of the page's picture shows the word.
func (v *wordsView) frame() {
	w, h := v.Page.ViewSize()
	k := lookWidth / w
	v.PicW, v.PicH = lookWidth, int(h*k)
	v.Picture = frame.PictureURL(v.Page, lookWidth)
	r := v.Word.Rect.Apply(geom.ToView(v.Page.Width, v.Page.Height, v.Page.Rotate))
	x, y := r.Mid().X*k, r.Mid().Y*k
	v.DX = min(0, max(frameWidth-v.PicW, int(frameWidth/2-x)))
	v.DY = min(0, max(frameTall-v.PicH, int(frameTall/2-y)))
	v.X, v.Y = int(r.X0*k)+v.DX-4, int(r.Y0*k)+v.DY-4
	v.W, v.H = int(r.W()*k)+8, int(r.H()*k)+8
	v.Sure = int(100 * (1 - v.Word.Doubt))
}

// lineOf is the words before and after one on its line.
func lineOf(words []evidence.Word, k int) string {
	same := func(i int) bool {
		return i >= 0 && i < len(words) && words[i].Rect.OverlapY(words[k].Rect) > 0.4*min(words[i].Rect.H(), words[k].Rect.H())
	}
	first, last := k, k
	for same(first-1) && k-first < 5 {
		first--
	}
	for same(last+1) && last-k < 5 {
		last++
	}
	var out []string
	for i := first; i <= last; i++ {
		out = append(out, words[i].Text)
	}
	return strings.Join(out, " ")
}

// CorrectWord keeps a word as it was typed, without doubt, and goes on to the next.
// Empty takes the word out.
func CorrectWord(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	page, k := c.FormValue("page"), frame.Number(c.FormValue("word"), -1)
	if c.FormValue("skip") != "" {
		return wordsFrom(s, c, id, page, k+1)
	}
	text := strings.Join(strings.Fields(c.FormValue("text")), " ")
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return err
	}
	p, _, ok := d.Template.PageByID(page)
	if !ok || p.Text == "" {
		return frame.Refuse(form.ErrClash)
	}
	t, err := s.Text(ctx, p.Text)
	if err != nil {
		return err
	}
	if k < 0 || k >= len(t.Words) || t.Words[k].Text != c.FormValue("was") {
		return frame.Refuse(errors.New("this word has changed in the meantime: look at it again"))
	}
	t.Words = slices.Clone(t.Words)
	title := fmt.Sprintf("corrected “%s” to “%s”", t.Words[k].Text, text)
	next := k + 1
	switch {
	case text == "":
		title = fmt.Sprintf("took out “%s”", t.Words[k].Text)
		t.Words = slices.Delete(t.Words, k, k+1)
		next = k
	case text == t.Words[k].Text:
		title = "confirmed “" + text + "”"
		t.Words[k].Doubt = 0
	default:
		t.Words[k].Text, t.Words[k].Doubt = text, 0
	}
	b, err := json.Marshal(t)
	if err != nil {
		return err
	}
	sha, err := s.Store.KeepFile(ctx, b)
	if err != nil {
		return err
	}
	_, err = s.CarryOut(ctx, id, d.Document.Revision, frame.Account(c).ID, "", false, func(*form.Template) ([]command.Command, error) {
		return []command.Command{command.Reread{Title: title, Page: page, Text: sha}}, nil
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	return wordsFrom(s, c, id, page, next)
}

// ExportText gives the text of a page, or of the whole document, as plain text:
// recognised words and typeset ones alike, columns and lines in the order in which they are read.
func ExportText(s *frame.Frame, c *echo.Context) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	pages := d.Pages()
	name := frame.Slug(d.Title)
	if n := frame.Number(c.FormValue("page"), 0); n > 0 {
		if n > len(pages) {
			return store.ErrMissing
		}
		pages = pages[n-1 : n]
		name += fmt.Sprintf("-page-%d", n)
	}
	var b strings.Builder
	for i, p := range pages {
		if i > 0 {
			b.WriteString("\f")
		}
		ev, err := s.PageEvidence(c.Request().Context(), p)
		if err != nil {
			return err
		}
		b.WriteString(ev.Text())
	}
	return frame.Download(c, name+".txt", "text/plain; charset=utf-8", []byte(b.String()))
}
