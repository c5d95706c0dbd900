package returned

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// opened is one return, beside its page.
type opened struct {
	store.Return
	Mark, Words   string
	Road          string
	Pages         []leaf
	Doubtful      []entry // what is against a rule, or was read with doubt
	Entries       []entry // everything that was answered or asked
	Changes       []change
	Files         []store.Attached
	Before, After int64
	Accounts      []store.Person
	Readable      bool // its edition is known
}

// leaf is a page of the form with the answers on it; lengths are hundredths of its width.
type leaf struct {
	N       int
	Picture string
	High    float64
	Paper   string // the picture that came, cut to the page; empty for none
	Notes   []mapped
}

// mapped is something at the place of a field, in parts of the width of its page.
type mapped struct {
	Key        string
	X, Y, W, H float64
	Text       string
	Size       float64
	Wrong      bool
	Unsure     bool
	Tick       bool
	Share      float64 // of the map: how often it is left empty
	Label      string
}

// TextX and TextY are where the words of a field begin: near its edge, a single line in its middle.
func (m mapped) TextX() float64 { return m.X + 0.3 }

// TextY is the base line.
func (m mapped) TextY() float64 {
	if m.H > 2.4*m.Size {
		return m.Y + m.Size
	}
	return m.Y + m.H/2 + 0.35*m.Size
}

// Line is the first line of the words.
func (m mapped) Line() string { line, _, _ := strings.Cut(m.Text, "\n"); return line }

// AssignedTo is whose it is; 0 is nobody's.
func (o *opened) AssignedTo() int64 {
	if o.Assigned == nil {
		return 0
	}
	return *o.Assigned
}

// entry is an answer that can be put right.
type entry struct {
	Key, Label, Value, Shown, Why string
	Unsure                        string // how sure it is, in words
	Choice                        []form.Option
	Many, Long                    bool
	Gone                          bool
}

type change struct {
	store.Change
	Label string
}

// open reads a return with all that stands beside it.
func open(ctx context.Context, s *frame.Frame, forms *inbox.Forms, document, id int64) (*opened, error) {
	r, err := s.Store.Return(ctx, id)
	if err != nil {
		return nil, err
	}
	if r.DocumentID != document {
		return nil, store.ErrMissing
	}
	o := &opened{Return: r, Road: roadWords(r.Road)}
	answers, broken, unsure := r.Answers(), r.Broken(), r.Unsure()
	o.Mark, o.Words = stateOf(&r, len(broken), len(unsure))
	number := 0
	if r.Edition != nil {
		number = *r.Edition
	}
	keys := returns.Keys(forms.Columns, number)
	asked := map[string]bool{}
	for _, k := range keys {
		asked[k] = true
	}
	for i := range forms.Columns {
		col := &forms.Columns[i]
		v, has := answers[col.Key]
		if !has && !asked[col.Key] {
			continue
		}
		e := entry{
			Key: col.Key, Label: col.Label, Value: v, Shown: shown(col, v), Why: broken[col.Key], Choice: col.Choice, Gone: col.Gone,
			Many: col.Field.List == form.ManyList && col.Field.Kind == form.Choice, Long: col.Field.Multiline || strings.Contains(v, "\n"),
		}
		if sure, doubt := unsure[col.Key]; doubt {
			e.Unsure = fmt.Sprintf("read with doubt, %.0f %% sure", 100*sure)
		}
		o.Entries = append(o.Entries, e)
		if e.Why != "" || e.Unsure != "" {
			o.Doubtful = append(o.Doubtful, e)
		}
	}
	if t := forms.Form(number); t != nil {
		o.Readable = true
		o.Pages = leaves(t, keys, func(key string) (string, bool, bool) {
			_, doubt := unsure[key]
			return answers[key], broken[key] != "", doubt
		})
	}
	list, err := s.Store.Changes(ctx, id)
	if err != nil {
		return nil, err
	}
	for _, c := range list {
		one := change{Change: c}
		for _, col := range forms.Columns {
			if col.Key == c.Field {
				one.Label = col.Label
			}
		}
		o.Changes = append(o.Changes, one)
	}
	files, err := s.Store.Attached(ctx, id)
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		page, laid := strings.CutPrefix(f.Field, "@")
		if n := frame.Number(page, 0); laid && n >= 1 && n <= len(o.Pages) {
			o.Pages[n-1].Paper = fmt.Sprintf("/returns/%d/files/%d", id, f.ID)
			continue
		}
		o.Files = append(o.Files, f)
	}
	if o.Accounts, err = s.Store.People(ctx); err != nil {
		return nil, err
	}
	o.Before, o.After, err = s.Store.Beside(ctx, document, id)
	return o, err
}

// leavesOf lays something over the fields of every page of a form that are questions; as says what, and whether.
func leavesOf(t *form.Template, keys map[string]string, as func(*form.Field, mapped) (mapped, bool)) []leaf {
	var out []leaf
	for i, p := range t.Pages {
		w, h := p.ViewSize()
		l := leaf{N: i + 1, Picture: frame.PictureURL(p, 820), High: 100 * h / w}
		to := geom.ToView(p.Width, p.Height, p.Rotate)
		for _, f := range t.OnPage(i + 1) {
			key := keys[f.Name]
			if key == "" || !f.Placed() {
				continue
			}
			r := f.Rect.Apply(to)
			size := f.Look.Size
			if size == 0 {
				if size = math.Min(11, r.H()*0.72); f.Multiline {
					size = 9
				}
			}
			m := mapped{
				Key: key, X: 100 * r.X0 / w, Y: 100 * r.Y0 / w, W: 100 * r.W() / w, H: 100 * r.H() / w, Label: f.Tooltip,
				Size: 100 * size / w,
			}
			if m, ok := as(&f, m); ok {
				l.Notes = append(l.Notes, m)
			}
		}
		out = append(out, l)
	}
	return out
}

// leaves lays answers over the pages of a form.
func leaves(t *form.Template, keys map[string]string, of func(key string) (answer string, wrong, unsure bool)) []leaf {
	return leavesOf(t, keys, func(f *form.Field, m mapped) (mapped, bool) {
		v, wrong, unsure := of(m.Key)
		m.Wrong, m.Unsure = wrong, unsure
		switch f.Kind {
		case form.CheckBox, form.Radio:
			m.Tick = v != "" && (v == f.Export || v == f.OnState())
			return m, m.Tick || wrong || unsure
		case form.Choice:
			for _, o := range f.Options {
				if o.Export == v {
					v = o.Label
				}
			}
		}
		m.Text = v
		return m, v != "" || wrong || unsure
	})
}

// returnOf is the return of a request with the forms of its document.
func returnOf(s *frame.Frame, c *echo.Context) (store.Return, *inbox.Forms, error) {
	id, err := frame.IdOf(c)
	if err != nil {
		return store.Return{}, nil, err
	}
	ctx := c.Request().Context()
	r, err := s.Store.Return(ctx, id)
	if err != nil {
		return r, nil, err
	}
	forms, err := s.Inbox.FormsOf(ctx, r.DocumentID)
	return r, forms, err
}

// back is the page that a deed was done from.
func back(c *echo.Context, r *store.Return) error {
	q, _ := url.ParseQuery(c.FormValue("query")) // what cannot be read is left out
	if q == nil {
		q = url.Values{}
	}
	q.Set("open", fmt.Sprint(r.ID))
	if to := frame.Number(c.FormValue("then"), 0); to > 0 {
		q.Set("open", fmt.Sprint(to))
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/returns?%s#return", r.DocumentID, q.Encode()))
}

// Correct puts one answer right.
func Correct(s *frame.Frame, c *echo.Context) error {
	r, forms, err := returnOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	number := 0
	if r.Edition != nil {
		number = *r.Edition
	}
	key := c.FormValue("key")
	if !slices.ContainsFunc(forms.Columns, func(col returns.Column) bool { return col.Key == key }) {
		return frame.Refuse(errors.New("this form does not ask that: load the page again"))
	}
	is := strings.ReplaceAll(c.FormValue("is"), "\r\n", "\n")
	if all := c.Request().PostForm["is"]; len(all) > 1 {
		is = strings.Join(all, "\n")
	}
	check := func(answers map[string]string) (map[string]string, []byte, error) {
		broken, err := forms.Check(number, answers, r.ReceivedAt)
		return broken, returns.Digest(answers), err
	}
	was := strings.ReplaceAll(c.FormValue("was"), "\r\n", "\n")
	if err := s.Store.CorrectReturn(ctx, r.ID, frame.Account(c).ID, key, was, is, check); err != nil {
		return frame.Refuse(err)
	}
	return back(c, &r)
}

// Deed sets the state of a return, gives it to somebody, or keeps a note of it.
func Deed(s *frame.Frame, c *echo.Context) error {
	r, _, err := returnOf(s, c)
	if err != nil {
		return err
	}
	ctx, by := c.Request().Context(), frame.Account(c).ID
	switch do := c.FormValue("do"); do {
	case "assign":
		err = s.Store.AssignReturn(ctx, r.ID, by, int64(frame.Number(c.FormValue("to"), 0)))
	case "note":
		err = s.Store.NoteReturn(ctx, r.ID, by, c.FormValue("words"))
	case "again":
		err = s.Store.Reread(ctx, r.ID)
	default:
		err = s.Store.SetReturnState(ctx, []int64{r.ID}, by, do)
	}
	if err != nil {
		return frame.Refuse(err)
	}
	return back(c, &r)
}

// Delete takes returns away for good: one, or those that were sought.
func Delete(s *frame.Frame, c *echo.Context) error {
	d, forms, err := formsOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	ids := []int64{int64(frame.Number(c.FormValue("return"), 0))}
	if ids[0] == 0 {
		q := soughtOf(c, d.ID, forms.Columns)
		if q.Words = strings.TrimSpace(c.FormValue("search")); q.Words == "" {
			return frame.Refuse(errors.New("search for the person first: only what is found can be deleted at once"))
		}
		list, n, err := s.Store.FindReturns(ctx, store.Sought{Document: d.ID, Words: q.Words, Most: 1000})
		if err != nil {
			return err
		}
		if fmt.Sprint(n) != c.FormValue("number") {
			return frame.Refuse(errors.New("others have come since the page was loaded: load it again"))
		}
		ids = nil
		for _, r := range list {
			ids = append(ids, r.ID)
		}
	}
	n, err := s.Store.DeleteReturns(ctx, d.ID, ids, frame.Account(c).ID, c.FormValue("reason"))
	if err != nil {
		return frame.Refuse(err)
	}
	return page(s, c, http.StatusOK, view{Said: fmt.Sprintf("%d deleted for good, %s.", n, time.Now().Format("15:04"))})
}
