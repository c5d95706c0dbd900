package pages

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/ask"
	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/frame"
)

// pagesView is the room where pages are made ready.
type pagesView struct {
	frame.Shell
	Doc       store.Document
	Tabs      []frame.Tab
	Sheets    []sheet
	Undo      string
	Redo      string
	Languages []language
	Language  string
	Task      *store.Task
	Unread    int // scans without recognised text
	Read      int // pages with recognised text
	Doubtful  int // words to look at
	Scanner   bool
	Running   []store.Intake // pages on their way into the document
	Accept    string
	Paper     []ask.Paper
}

// sheet is a page as the room shows it.
type sheet struct {
	form.Page
	Number  int
	W, H    int // of the picture, in CSS pixels
	Picture string
	Large   string
	LW, LH  int
	Fields  int
	Size    string // in words
	State   string
	Doubts  int
}

type language struct{ Code, Name string }

// sizeOf says how large a page is.
func sizeOf(w, h float64) string {
	way := "upright"
	if w > h {
		way = "lying"
	}
	for _, p := range ask.Papers {
		if math.Abs(min(w, h)-p.W) < 3 && math.Abs(max(w, h)-p.H) < 3 {
			return p.Name + " " + way
		}
	}
	return fmt.Sprintf("%.0f × %.0f mm", w/72*25.4, h/72*25.4)
}

const sheetSide = 150 // pixels; the longer side of a thumbnail

func Show(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	return again(s, c, id)
}

// pagesAgain answers with the room as it is now.
func again(s *frame.Frame, c *echo.Context, id int64) error {
	ctx := c.Request().Context()
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return err
	}
	v := pagesView{
		Shell: s.Shell(c, "Pages: "+d.Document.Title, "pages"), Doc: d.Document, Tabs: frame.Tabs("pages", d.Document.Doubtful),
		Undo: d.Undo, Redo: d.Redo,
		Scanner: s.Scanner != nil, Accept: intake.Accept, Paper: ask.Papers,
		Language: cmp.Or(d.Document.Language, intake.TesseractFor(d.Template.Details.Language)),
	}
	for _, l := range intake.Languages() {
		v.Languages = append(v.Languages, language{l, intake.LanguageName(l)})
	}
	slices.SortFunc(v.Languages, func(a, b language) int { return cmp.Compare(a.Name, b.Name) })
	for i, p := range d.Template.Pages {
		sh := describePage(p, i+1, len(d.Template.OnPage(i+1)))
		switch {
		case p.Text != "":
			v.Read++
			n, err := doubts(s, ctx, p)
			if err != nil {
				return err
			}
			sh.Doubts = n
			v.Doubtful += n
		case p.Scan:
			v.Unread++
		}
		v.Sheets = append(v.Sheets, sh)
	}
	if t, err := s.Store.LastTask(ctx, store.TaskRecognise, id); err == nil && (t.Running() || t.State == "failed") {
		v.Task = &t
	} else if err != nil && !errors.Is(err, store.ErrMissing) {
		return err
	}
	if v.Running, err = s.Store.IntakesInto(ctx, frame.Account(c).ID, id); err != nil {
		return err
	}
	block := "page"
	if c.Request().Header.Get("HX-Request") != "" {
		block = "pagesroom"
	}
	return s.Render(c, http.StatusOK, "pages", block, v)
}

func describePage(p form.Page, n, fields int) sheet {
	w, h := p.ViewSize()
	k := sheetSide / max(w, h)
	lk := min(620/h, 520/w)
	out := sheet{
		Page: p, Number: n, Fields: fields, W: int(w * k), H: int(h * k), Size: sizeOf(w, h),
		LW: int(w * lk), LH: int(h * lk), State: "typeset",
	}
	out.Picture, out.Large = frame.PictureURL(p, 2*out.W), frame.PictureURL(p, 2*out.LW)
	switch {
	case p.Text != "":
		out.State = "text recognised"
	case p.Scan:
		out.State = "a scan, text not recognised"
	}
	return out
}

// EditPages carries out one change of the pages.
func EditPages(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if c.FormValue("do") == "take-out" {
		if err := takeOut(s, c, id); err != nil {
			return frame.Refuse(err)
		}
		return again(s, c, id)
	}
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return frame.Refuse(errors.New("this page is out of date: load it again"))
	}
	work, err := planPages(s, c, id)
	if err != nil {
		return frame.Refuse(err)
	}
	_, err = s.CarryOut(c.Request().Context(), id, base, frame.Account(c).ID, "pages", false, work)
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	return again(s, c, id)
}

// planPages works out what a request asks for. What needs the pictures of pages is measured first,
// outside the transaction.
func planPages(s *frame.Frame, c *echo.Context, id int64) (frame.Asked, error) {
	ids := frame.Chosen(c)
	switch do := c.FormValue("do"); do {
	case "straighten":
		angles, err := angles(s, c, id, ids)
		return func(*form.Template) ([]command.Command, error) {
			return []command.Command{command.Straighten{Angles: angles}}, nil
		}, err
	case "insert-blank":
		return blankPage(s, c)
	}
	r, err := s.Asking(c, id)
	return func(t *form.Template) ([]command.Command, error) {
		one, known, err := r.Pages(t)
		if !known {
			err = fmt.Errorf("%q is not something that can be done to pages", c.FormValue("do"))
		}
		return []command.Command{one}, err
	}, err
}

// angles gives by how much each page is straightened: the angle that was typed, or the
// skew that is measured.
func angles(s *frame.Frame, c *echo.Context, id int64, ids []string) (map[string]float64, error) {
	out := map[string]float64{}
	if typed := strings.TrimSpace(strings.ReplaceAll(c.FormValue("angle"), ",", ".")); typed != "" {
		a, err := strconv.ParseFloat(typed, 64)
		if err != nil {
			return nil, fmt.Errorf("%q is not an angle: type degrees such as 1.4, with a minus to the left", typed)
		}
		for _, p := range ids {
			out[p] = a
		}
		return out, nil
	}
	doc, err := s.Store.Document(c.Request().Context(), id)
	if err != nil {
		return nil, err
	}
	for _, p := range doc.Pages() {
		if !slices.Contains(ids, p.ID) {
			continue
		}
		file, err := s.File(c.Request().Context(), p.File)
		if err != nil {
			return nil, err
		}
		skew, err := intake.MeasureSkew(c.Request().Context(), file, p)
		if err != nil {
			return nil, err
		}
		if skew != 0 {
			out[p.ID] = -skew
		}
	}
	if len(out) == 0 {
		return nil, errors.New("no skew is to be seen on these pages: type an angle to turn them by")
	}
	return out, nil
}

// Place says before which page something is inserted: after the last chosen one,
// before the first chosen one, or at the end.
func Place(s *frame.Frame, c *echo.Context, t *form.Template) int {
	first, last := len(t.Pages)+1, 0
	for _, id := range frame.Chosen(c) {
		if _, n, ok := t.PageByID(id); ok {
			first, last = min(first, n), max(last, n)
		}
	}
	switch {
	case c.FormValue("where") == "before" && last > 0:
		return first
	case c.FormValue("where") == "after" && last > 0:
		return last + 1
	}
	return len(t.Pages) + 1
}

// blankPage inserts an empty page of the size of the page in hand.
func blankPage(s *frame.Frame, c *echo.Context) (frame.Asked, error) {
	ctx := c.Request().Context()
	id, err := frame.IdOf(c)
	if err != nil {
		return nil, err
	}
	doc, err := s.Store.Document(ctx, id)
	if err != nil {
		return nil, err
	}
	like := doc.Pages()[0]
	for _, p := range doc.Pages() {
		if slices.Contains(frame.Chosen(c), p.ID) {
			like = p
		}
	}
	w, h := like.ViewSize()
	b, err := write.Blank(w, h)
	if err != nil {
		return nil, err
	}
	sha, err := s.Store.KeepFile(ctx, b)
	if err != nil {
		return nil, err
	}
	page := form.Page{File: sha, N: 1, Width: geom.Round(w), Height: geom.Round(h)}
	return func(t *form.Template) ([]command.Command, error) {
		return []command.Command{command.InsertPages{Title: "inserted a blank page", At: Place(s, c, t), Pages: []form.Page{page}}}, nil
	}, nil
}

// takeOut makes a new document of pages, with their fields, and takes them out of
// this one.
func takeOut(s *frame.Frame, c *echo.Context, id int64) error {
	ctx := c.Request().Context()
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return err
	}
	ids := frame.Chosen(c)
	n := store.NewDocument{
		Title: d.Document.Title + ", taken out", Description: "Pages of “" + d.Document.Title + "”",
		Details: d.Template.Details, By: frame.Account(c).ID,
	}
	fresh := form.Template{}
	for _, p := range d.Template.Pages {
		if !slices.Contains(ids, p.ID) {
			continue
		}
		e, err := fresh.InsertPages("", len(fresh.Pages)+1, []form.Page{p}, fieldsOn(&d.Template, p.ID))
		if err != nil {
			return err
		}
		if err := fresh.Apply(e); err != nil {
			return err
		}
	}
	if len(fresh.Pages) == 0 {
		return errors.New("choose the pages to take out first")
	}
	if _, err := d.Template.RemovePages(ids); err != nil {
		return errors.New("these are all the pages of the document: leave one in it")
	}
	n.Pages, n.Fields = fresh.Pages, fresh.Fields
	originals, err := s.Store.Originals(ctx, id)
	if err != nil {
		return err
	}
	for _, o := range originals {
		b, err := s.File(ctx, o.File)
		if err != nil {
			return err
		}
		n.Originals = append(n.Originals, store.NamedFile{Name: o.FileName, Bytes: b})
	}
	if _, err := s.Store.AddDocument(ctx, n); err != nil {
		return err
	}
	_, err = s.CarryOut(ctx, id, d.Document.Revision, frame.Account(c).ID, "pages", false,
		func(*form.Template) ([]command.Command, error) {
			return []command.Command{command.RemovePages{Pages: ids}}, nil
		})
	c.Response().Header().Set("HX-Trigger", `{"zm:say":{"text":"The pages are a document of their own now: find it in the workroom."}}`)
	return err
}

// fieldsOn gives the fields of a page as rows of page 1, as they are.
func fieldsOn(t *form.Template, id string) []form.Field {
	_, n, _ := t.PageByID(id)
	var out []form.Field
	for _, f := range t.OnPage(n) {
		f.Page = 1
		out = append(out, f)
	}
	return out
}

// Recognise queues the recognition of pages: those chosen, or all scans.
func Recognise(s *frame.Frame, c *echo.Context) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	lang := c.FormValue("language")
	if !slices.Contains(intake.Languages(), lang) {
		return frame.Refuse(fmt.Errorf("choose a language that is installed: %s", strings.Join(intake.Languages(), ", ")))
	}
	ids, err := pagesToRead(d.Pages(), frame.Chosen(c), c.FormValue("range"))
	if err != nil {
		return frame.Refuse(err)
	}
	if t, err := s.Store.LastTask(ctx, store.TaskRecognise, d.ID); err == nil && t.Running() {
		return frame.Refuse(errors.New("the text of this document is being recognised already: wait for it, or cancel it"))
	}
	if err := s.Store.SetLanguage(ctx, d.ID, lang); err != nil {
		return err
	}
	if _, err := s.Store.AddTask(ctx, store.TaskRecognise, d.ID, frame.Account(c).ID, ids, lang); err != nil {
		return err
	}
	return again(s, c, d.ID)
}

// pagesToRead picks pages by a range such as "1-3, 5", or those chosen, or all scans.
func pagesToRead(pages []form.Page, chosen []string, span string) ([]string, error) {
	var out []string
	if span = strings.TrimSpace(span); span != "" {
		numbers, err := command.Numbers(span, len(pages))
		for _, n := range numbers {
			out = append(out, pages[n-1].ID)
		}
		return out, err
	}
	for _, p := range pages {
		if slices.Contains(chosen, p.ID) {
			out = append(out, p.ID)
		}
	}
	if len(out) > 0 {
		return out, nil
	}
	for _, p := range pages {
		if p.Scan && p.Text == "" {
			out = append(out, p.ID)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("no page is a scan whose text is not recognised: choose pages, or name a range")
	}
	return out, nil
}

// Task shows how far the work on a document is: recognising, or finding.
func Task(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	t, err := s.Store.LastTask(c.Request().Context(), taskKind(c), id)
	if err != nil {
		return err
	}
	if !t.Running() {
		c.Response().Header().Set("HX-Trigger", map[string]string{
			store.TaskRecognise: "pages-changed",
			store.TaskFind:      "finds-changed",
		}[t.Kind])
	}
	return s.Render(c, http.StatusOK, "pages", "task", t)
}

func taskKind(c *echo.Context) string {
	if c.FormValue("kind") == store.TaskFind {
		return store.TaskFind
	}
	return store.TaskRecognise
}

func CancelTask(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	t, err := s.Store.LastTask(c.Request().Context(), taskKind(c), id)
	if err != nil {
		return err
	}
	if err := s.Queue.CancelTask(c.Request().Context(), t); err != nil {
		return err
	}
	if t.Kind == store.TaskFind {
		return bench.Again(s, c, id, nil)
	}
	return again(s, c, id)
}
