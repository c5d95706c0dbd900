package returned

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// perPage is how many rows of the table stand on a page; usualColumns is how many columns are shown until somebody chooses.
const (
	perPage      = 50
	usualColumns = 4
)

// roads are the ways by which a return comes, in words.
var roads = []form.Offer{
	{Value: "web", Words: "link"},
	{Value: "button", Words: "send button"},
	{Value: "link", Words: "send button of a link"},
	{Value: "file", Words: "returned PDF"},
	{Value: "paper", Words: "paper"},
	{Value: "data", Words: "data file"},
	{Value: "round", Words: "signed by all"},
}

func roadWords(road string) string {
	for _, r := range roads {
		if r.Value == road {
			return r.Words
		}
	}
	return road
}

// stateOffers are what the table can be narrowed to.
var stateOffers = []form.Offer{
	{Value: "", Words: "all"},
	{Value: "new", Words: "what is new"},
	{Value: "broken", Words: "what breaks a rule"},
	{Value: "unsure", Words: "what was read with doubt"},
	{Value: "waits", Words: "what waits for a person"},
	{Value: "double", Words: "what came twice"},
	{Value: "mine", Words: "what is mine"},
	{Value: "checked", Words: "what is checked"},
	{Value: "refused", Words: "what is refused"},
	{Value: "done", Words: "what is done"},
}

// view is the page of returns.
type view struct {
	frame.Shell
	Doc      store.Document
	Tabs     []frame.Tab
	Sums     store.Sums
	Editions []returns.Edition
	Sought   store.Sought
	Columns  []returns.Column // all
	Shown    []returns.Column // those that are shown
	Rows     []row
	All      int // that are found
	Page     int
	Pages    int
	Next     int64 // a return that needs a person
	NextWhy  string
	Days     []bar
	Charts   []chart
	Empty    *chart
	Open     *opened
	Map      []leaf // of what is left empty, when none is open
	States   []form.Offer
	Roads    []form.Offer
	Problem  string
	Said     string
	Query    string // what is sought, for links; without the page and what is open
	Chart    string // the key of the question that is drawn
	Released bool
}

type row struct {
	store.Return
	Cells []cell
	Mark  string // how its state is shown
	Words string
}

type cell struct {
	Text   string
	Wrong  bool
	Unsure bool
	Number bool
}

// Link is an address of the page with something else sought.
func (v view) Link(pairs ...any) string {
	q, _ := url.ParseQuery(v.Query) // we have written it
	for i := 0; i+1 < len(pairs); i += 2 {
		if value := fmt.Sprint(pairs[i+1]); value == "" || value == "0" {
			q.Del(fmt.Sprint(pairs[i]))
		} else {
			q.Set(fmt.Sprint(pairs[i]), value)
		}
	}
	return fmt.Sprintf("/documents/%d/returns?%s", v.Doc.ID, q.Encode())
}

// OpenID is the number of the return that stands beside the table; 0 is none.
func (v view) OpenID() int64 {
	if v.Open == nil {
		return 0
	}
	return v.Open.ID
}

// RoadWords is how a return came, in words.
func (r row) RoadWords() string { return roadWords(r.Road) }

// SortLink is the address at which the table is sorted by a question, the other way when it is already.
func (v view) SortLink(key string) string {
	up := ""
	if v.Sought.Sort == key && !v.Sought.Up {
		up = "1"
	}
	return v.Link("sort", key, "up", up)
}

// IsShown tells whether a column is shown.
func (v view) IsShown(key string) bool {
	return slices.ContainsFunc(v.Shown, func(c returns.Column) bool { return c.Key == key })
}

// Show is the page of returns.
func Show(s *frame.Frame, c *echo.Context) error {
	if c.QueryParam("part") == "charts" {
		return Charts(s, c)
	}
	return page(s, c, http.StatusOK, view{})
}

func page(s *frame.Frame, c *echo.Context, code int, v view) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	v.Shell, v.Doc, v.Tabs = s.Shell(c, "Returns: "+d.Title, "bench"), d, frame.Tabs("returns", d.Doubtful)
	v.States, v.Roads = stateOffers, roads
	forms, err := s.Inbox.FormsOf(ctx, d.ID)
	if err != nil {
		return err
	}
	v.Editions, v.Columns, v.Released = forms.Editions, forms.Columns, len(forms.Editions) > 0
	v.seek(c, d.ID)
	now := time.Now()
	if v.Sums, err = s.Store.SumReturns(ctx, d.ID, midnight(now)); err != nil {
		return err
	}
	v.choose(c)
	list, all, err := s.Store.FindReturns(ctx, v.Sought)
	if err != nil {
		return err
	}
	v.All, v.Pages = all, (all+perPage-1)/perPage
	for i := range list {
		v.Rows = append(v.Rows, rowOf(&list[i], v.Shown))
	}
	if err := v.next(ctx, s); err != nil {
		return err
	}
	if id := int64(frame.Number(c.QueryParam("open"), 0)); id != 0 {
		if v.Open, err = open(ctx, s, forms, d.ID, id); err != nil && !errors.Is(err, store.ErrMissing) {
			return err
		}
	}
	return s.Render(c, code, "returned", "page", v)
}

func midnight(t time.Time) time.Time {
	t = t.Local()
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, t.Location())
}

// seek reads what is sought from the address.
func (v *view) seek(c *echo.Context, document int64) {
	v.Sought = soughtOf(c, document, v.Columns)
	v.Page = max(1, frame.Number(c.QueryParam("page"), 1))
	v.Sought.Offset, v.Sought.Most = (v.Page-1)*perPage, perPage
	q := url.Values{}
	for _, k := range []string{"edition", "road", "state", "search", "key", "answer", "sort", "up", "columns", "chart"} {
		if all := c.QueryParams()[k]; len(all) > 0 && strings.Join(all, "") != "" {
			q[k] = all
		}
	}
	v.Query = q.Encode()
	v.Chart = c.QueryParam("chart")
}

// soughtOf is what an address seeks.
func soughtOf(c *echo.Context, document int64, columns []returns.Column) store.Sought {
	q := store.Sought{
		Document: document, Edition: frame.Number(c.QueryParam("edition"), 0), Road: c.QueryParam("road"), State: c.QueryParam("state"),
		Words: strings.TrimSpace(
			c.QueryParam("search"),
		), Account: frame.Account(c).ID, Sort: c.QueryParam("sort"), Up: c.QueryParam("up") != "",
	}
	if !slices.ContainsFunc(stateOffers, func(o form.Offer) bool { return o.Value == q.State }) {
		q.State = ""
	}
	for _, col := range columns {
		if col.Key == c.QueryParam("key") && c.QueryParam("answer") != "" {
			q.Key, q.Answer = col.Key, c.QueryParam("answer")
		}
		if col.Key == q.Sort {
			q.Number = col.Field.Format.Kind == form.Number || col.Field.Format.Kind == form.Percent
		}
	}
	return q
}

// choose takes the columns that are asked for, or the telling ones: texts and choices that people fill in, not what stands in the form.
func (v *view) choose(c *echo.Context) {
	asked := c.QueryParams()["columns"]
	for _, col := range v.Columns {
		if slices.Contains(asked, col.Key) {
			v.Shown = append(v.Shown, col)
		}
	}
	if len(v.Shown) > 0 {
		return
	}
	for _, rank := range []func(f *form.Field) bool{
		func(f *form.Field) bool { return !f.ReadOnly && f.Kind == form.Text && !inTable(f) },
		func(f *form.Field) bool { return f.Kind == form.Radio || f.Kind == form.Choice },
		func(f *form.Field) bool { return strings.Contains(f.Name, "total") },
		func(f *form.Field) bool { return !f.ReadOnly && f.Kind == form.Text },
	} {
		for _, col := range v.Columns {
			if len(v.Shown) < usualColumns && !col.Gone && rank(&col.Field) && !v.IsShown(col.Key) {
				v.Shown = append(v.Shown, col)
			}
		}
	}
	slices.SortStableFunc(v.Shown, func(a, b returns.Column) int { return v.place(a.Key) - v.place(b.Key) })
}

func (v *view) place(key string) int {
	return slices.IndexFunc(v.Columns, func(c returns.Column) bool { return c.Key == key })
}

// inTable tells whether a field is a cell of a table, by the words that it is called by.
func inTable(f *form.Field) bool { return strings.Contains(f.Tooltip, ": ") }

func rowOf(r *store.Return, columns []returns.Column) row {
	out := row{Return: *r}
	answers, broken, unsure := r.Answers(), r.Broken(), r.Unsure()
	for _, col := range columns {
		_, doubt := unsure[col.Key]
		out.Cells = append(out.Cells, cell{
			Text: strings.ReplaceAll(shown(&col, answers[col.Key]), "\n", ", "), Wrong: broken[col.Key] != "", Unsure: doubt,
			Number: col.Field.Format.Kind == form.Number || col.Field.Format.Kind == form.Percent,
		})
	}
	out.Mark, out.Words = stateOf(r, len(broken), len(unsure))
	return out
}

// shown is an answer as it stands in the table: a tick for a box that stands by itself.
func shown(col *returns.Column, answer string) string {
	if col.Field.Kind == form.CheckBox && len(col.Choice) == 1 && answer == col.Choice[0].Export {
		return "✓"
	}
	return col.Shown(answer)
}

// stateOf is how a return stands, in a word or two, and how that is marked.
func stateOf(r *store.Return, broken, unsure int) (mark, words string) {
	switch {
	case r.State == "unread":
		return "fresh", "being read"
	case r.State == "waiting":
		return "wrong", "needs a person"
	case r.State == "new" && unsure > 0:
		return "doubt", fmt.Sprintf("%d unsure", unsure)
	case r.State == "new" && broken > 0:
		return "wrong", fmt.Sprintf("%d against a rule", broken)
	case r.State == "new" && r.DoubleOf != nil:
		return "doubt", fmt.Sprintf("as %d", *r.DoubleOf)
	case r.State == "checked", r.State == "done":
		return "good", r.State
	case r.State == "refused":
		return "wrong", "refused"
	}
	return "fresh", r.State
}

// next finds a return that a person should look at first.
func (v *view) next(ctx context.Context, s *frame.Frame) error {
	for _, one := range []struct {
		state, why string
		n          int
	}{
		{"waits", "one that could not be read", v.Sums.Waiting},
		{"broken", "one that breaks a rule", v.Sums.Broken},
		{"unsure", "one that was read with doubt", v.Sums.Unsure},
		{"new", "one that nobody has looked at", v.Sums.Fresh},
	} {
		if one.n == 0 {
			continue
		}
		list, _, err := s.Store.FindReturns(ctx, store.Sought{Document: v.Doc.ID, State: one.state, Most: 1, Up: true, Some: true})
		if err != nil {
			return err
		}
		if len(list) > 0 {
			v.Next, v.NextWhy = list[0].ID, one.why
			return nil
		}
	}
	return nil
}

// formsOf are the document of a request and its forms.
func formsOf(s *frame.Frame, c *echo.Context) (store.Document, *inbox.Forms, error) {
	d, err := s.DocumentOf(c)
	if err != nil {
		return d, nil, err
	}
	forms, err := s.Inbox.FormsOf(c.Request().Context(), d.ID)
	return d, forms, err
}
