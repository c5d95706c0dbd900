package release

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
)

// editionOf reads the edition that the address names.
func editionOf(s *frame.Frame, c *echo.Context) (store.Edition, error) {
	id, err := frame.IdOf(c)
	if err != nil {
		return store.Edition{}, err
	}
	return s.Store.Edition(c.Request().Context(), id)
}

// Edition gives a released PDF.
func Edition(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	if c.Param("name") != e.FileName {
		return store.ErrMissing
	}
	b, err := s.Store.File(ctx, e.File)
	if err != nil {
		return err
	}
	s.Noted(ctx, frame.Account(c).ID, store.DeedDownload, e.FileName)
	return frame.Download(c, e.FileName, "application/pdf", b)
}

// Withdraw takes an edition out of use, and says why.
func Withdraw(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	if err := s.Store.Withdraw(ctx, e.ID, frame.Account(c).ID, c.FormValue("reason")); err != nil {
		return frame.Refuse(err)
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/release#editions", e.DocumentID))
}

// BringBack makes the draft what it was when an edition was released; it is an edit like any other.
func BringBack(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	kept, err := s.Store.EditionForm(ctx, e.ID)
	if err != nil {
		return frame.Refuse(err)
	}
	_, err = s.Store.Change(ctx, e.DocumentID, -1, frame.Account(c).ID, "", func(t *form.Template) (form.Edit, error) {
		return t.BringBack(fmt.Sprintf("brought back to edition %d", e.Number), &kept)
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/fit", e.DocumentID))
}

// state is one of the two states that are compared: an edition or the draft.
type state struct {
	ID    int64 // of the edition; 0 is the draft
	Words string
	Gone  bool // withdrawn
}

// numbered is a change with the number that it has beside its marks.
type numbered struct {
	form.Change
	N int
}

// side is a page as it was or is, with what differs marked.
type side struct {
	Alt     string
	Picture string
	Place   template.HTMLAttr // viewBox of the marks
	Marks   template.HTML
}

type compareView struct {
	frame.Shell
	Doc      store.Document
	Tabs     []frame.Tab
	States   []state
	From, To int64
	Was, Is  string
	Lists    []changeList
	Pages    []comparedPage
	Same     []int // pages without a change
	Problem  string
}

type changeList struct {
	Title   string
	Changes []numbered
}

type comparedPage struct {
	N       int
	Was, Is *side // nil where there is no such page
}

var sortTitles = map[form.Sort]string{
	form.Added: "Added", form.Removed: "Taken out", form.Renamed: "Renamed", form.Moved: "Moved", form.KindChanged: "Of another kind",
	form.RuleChanged: "Other rules", form.OptsChanged: "Other options and values", form.StepsChanged: "Other steps",
	form.LookChanged: "Another look", form.SaidChanged: "Other wording", form.TabChanged: "Another tab order", form.PageChanged: "Pages",
}

// Compare shows in what two editions differ, or an edition and the draft.
func Compare(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return err
	}
	all, err := s.Store.Editions(ctx, id)
	if err != nil {
		return err
	}
	v := compareView{
		Shell: s.Shell(c, "What changed: "+d.Document.Title, "bench"), Doc: d.Document, Tabs: frame.Tabs("release", d.Document.Doubtful),
		States: []state{{Words: "the draft"}},
	}
	for _, e := range all {
		v.States = append(v.States, state{e.ID, "edition " + strconv.Itoa(e.Number), e.WithdrawnAt != nil})
	}
	v.From, v.To = int64(frame.Number(c.QueryParam("from"), 0)), int64(frame.Number(c.QueryParam("to"), 0))
	if v.From == 0 && v.To == 0 && len(all) > 0 {
		v.From = all[0].ID
	}
	forms := [2]form.Template{}
	for i, at := range []int64{v.From, v.To} {
		k := slices.IndexFunc(v.States, func(x state) bool { return x.ID == at })
		if k < 0 {
			return store.ErrMissing
		}
		words := &v.Was
		if i == 1 {
			words = &v.Is
		}
		*words = v.States[k].Words
		forms[i] = d.Template
		if at != 0 {
			forms[i], err = s.Store.EditionForm(ctx, at)
		}
		switch {
		case errors.Is(err, store.ErrNotKept):
			v.Problem = frame.Sentence(v.Was + ": " + err.Error())
			return s.Render(c, http.StatusOK, "compare", "page", v)
		case err != nil:
			return err
		}
	}
	forms[0].Details.Title = cmp.Or(forms[0].Details.Title, d.Document.Title) // as a release writes it
	forms[1].Details.Title = cmp.Or(forms[1].Details.Title, d.Document.Title)
	v.tell(&forms[0], &forms[1])
	return s.Render(c, http.StatusOK, "compare", "page", v)
}

// tell puts the changes into lists, and draws the pages that have any.
func (v *compareView) tell(was, is *form.Template) {
	changes := form.Compare(was, is)
	on := map[int][]numbered{}
	for i, x := range changes {
		n := numbered{x, i + 1}
		if len(v.Lists) == 0 || v.Lists[len(v.Lists)-1].Title != sortTitles[x.Sort] {
			v.Lists = append(v.Lists, changeList{Title: sortTitles[x.Sort]})
		}
		l := &v.Lists[len(v.Lists)-1]
		l.Changes = append(l.Changes, n)
		for _, p := range []int{x.Page, x.WasPage} {
			if p > 0 && !slices.Contains(on[p], n) {
				on[p] = append(on[p], n)
			}
		}
	}
	for p := 1; p <= max(len(was.Pages), len(is.Pages)); p++ {
		if len(on[p]) == 0 && p <= min(len(was.Pages), len(is.Pages)) {
			v.Same = append(v.Same, p)
			continue
		}
		v.Pages = append(v.Pages, comparedPage{
			N: p, Was: sideOf(was, p, v.Was, on[p], func(x *form.Change) (int, geom.Rect) { return x.WasPage, x.Was }),
			Is: sideOf(is, p, v.Is, on[p], func(x *form.Change) (int, geom.Rect) { return x.Page, x.Is }),
		})
	}
}

const pictureWidth = 900 // pixels: sharp at half the width of the screen

func sideOf(t *form.Template, n int, words string, changes []numbered, at func(*form.Change) (int, geom.Rect)) *side {
	if n > len(t.Pages) {
		return nil
	}
	p := t.Pages[n-1]
	w, h := p.ViewSize()
	view := geom.ToView(p.Width, p.Height, p.Rotate)
	var b markup.Builder
	marked := map[string]bool{}
	for _, f := range t.OnPage(n) {
		if f.Placed() {
			b.Box("still", f.Rect.Apply(view), "")
		}
	}
	for i := range changes {
		x := &changes[i]
		page, r := at(&x.Change)
		if page != n || r.Empty() {
			continue
		}
		words := strconv.Itoa(x.N)
		if key := fmt.Sprint(r); marked[key] {
			words = ""
		} else {
			marked[key] = true
		}
		class := "other"
		if x.Sort == form.Added || x.Sort == form.Removed {
			class = string(x.Sort)
		}
		b.Box(class, r.Apply(view), words)
	}
	return &side{
		Alt: fmt.Sprintf("Page %d of %s", n, words), Picture: frame.PictureURL(p, pictureWidth),
		Place: template.HTMLAttr(`viewBox="0 0 ` + markup.Number(w) + " " + markup.Number(h) + `"`), Marks: b.HTML(),
	}
}
