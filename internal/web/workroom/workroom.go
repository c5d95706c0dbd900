package workroom

import (
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type workroomView struct {
	frame.Shell
	Rows     []documentRow
	Archived bool
	Lead     string
	MaxMB    int
	Accept   string
	Running  []store.Intake
	Folders  []store.Batch
	Scanner  bool
	ToSign   []store.Signing // what waits for the signature of whoever looks

	Listing  store.Listing
	Stages   []stageChoice
	Labels   []store.Label
	Sorts    []sortChoice
	Seeking  bool   // something is searched for or left out
	Query    string // what the list is asked for, for its address
	Next     string // addresses of the pages behind and before
	Previous string
}

type stageChoice struct{ Key, Name string }

type sortChoice struct{ Key, Words string }

var sorts = []sortChoice{{store.ByChange, "last changed first"}, {store.ByName, "by name"}, {store.ByStage, "by stage"}}

// stageWords are the stages and their names, by turns, as a listing wants them.
func stageWords() []string {
	var out []string
	for _, s := range frame.Stages {
		out = append(out, s.Key, s.Name)
	}
	return out
}

// listingOf reads what a request wants to see.
func listingOf(c *echo.Context) store.Listing {
	l := store.Listing{
		Archived: c.FormValue("archived") == "1", Search: strings.TrimSpace(c.FormValue("search")), Label: c.FormValue("label"),
		Stages: stageWords(), Sort: store.ByChange, After: c.FormValue("after"), Before: c.FormValue("before"),
	}
	if k := c.FormValue("stage"); slices.ContainsFunc(frame.Stages, func(s frame.Stage) bool { return s.Key == k }) {
		l.Stage = k
	}
	if k := c.FormValue("sort"); slices.ContainsFunc(sorts, func(s sortChoice) bool { return s.Key == k }) {
		l.Sort = k
	}
	if c.FormValue("mine") != "" {
		l.Mine = frame.Account(c).ID
	}
	return l
}

// queryOf writes what a request wants to see, without the page of the list.
func queryOf(l store.Listing) url.Values {
	q := url.Values{}
	for k, v := range map[string]string{"search": l.Search, "stage": l.Stage, "label": l.Label} {
		if v != "" {
			q.Set(k, v)
		}
	}
	if l.Archived {
		q.Set("archived", "1")
	}
	if l.Mine != 0 {
		q.Set("mine", "1")
	}
	if l.Sort != store.ByChange {
		q.Set("sort", l.Sort)
	}
	return q
}

// documentRow is a document as the workroom lists it.
type documentRow struct {
	store.Document
	ThumbW, ThumbH int
	Picture        string
	PageCount      int
	Scans, Unread  int // pages that are pictures of paper; of those, without recognised text
	Steps          []step
	State          string
	Doubt          string
	Go             string // what pressing it does
	To             string // the stage that it leads to
}

type step struct {
	Done, Now bool
}

func rowOf(d store.Document) documentRow {
	pages := d.Pages()
	w, h := frame.ViewSize(pages[0])
	r := documentRow{Document: d, PageCount: len(pages), ThumbW: 44, ThumbH: int(44 * h / w), Go: "carry on", To: d.Stage}
	if w > h {
		r.ThumbW, r.ThumbH = 58, int(58*h/w)
	}
	r.Picture = frame.PictureURL(pages[0], 2*r.ThumbW)
	for _, p := range pages {
		if p.Scan {
			r.Scans++
		}
		if p.Scan && p.Text == "" {
			r.Unread++
		}
	}
	now := frame.StageIndex(d.Stage)
	r.State = frame.StageName(d.Stage)
	switch {
	case d.Fields+d.Open == 0 && r.Unread > 0:
		r.State, r.Go, r.To = "Pages · text not recognised yet", "look at pages", "pages"
	case d.Fields+d.Open == 0:
		r.State, r.Go = "Find · no fields yet", "find fields"
	case d.Doubtful > 0:
		r.Doubt = strconv.Itoa(d.Doubtful) + " doubtful"
	case d.Settled && d.Came > 0:
		r.State, r.Go, r.To = "Returns · "+number(d.Came)+" came back", "look at them", "returns"
		now = frame.StageIndex("returns")
	case d.Settled && d.Edition != nil:
		r.State, r.Go = "Release · edition "+strconv.Itoa(*d.Edition)+" is out", "open"
	}
	for i := range frame.Stages {
		r.Steps = append(r.Steps, step{Done: i < now || d.Settled && i <= now, Now: i == now && !d.Settled})
	}
	return r
}

// lead says how much there is, and what comes next.
func lead(l store.Listing, total int, seeking bool, next *store.Document) string {
	n := number(total) + " documents in work."
	switch {
	case seeking && total == 0:
		return "Nothing is like that. Take something away of what you look for."
	case seeking && total == 1:
		return "One document is like that."
	case seeking:
		return number(total) + " documents are like that."
	case l.Archived && total == 0:
		return "Nothing is archived."
	case l.Archived:
		return "What is archived stays whole: bring it back at any time."
	case total == 0:
		return "Nothing here yet. Next: bring in a document, on the right."
	case total == 1:
		n = "One document in work."
	}
	if next != nil {
		return n + " Next: " + strconv.Itoa(next.Doubtful) + " doubtful fields on “" + next.Title + "”."
	}
	return n
}

// number writes a number with a blank between its thousands, as ISO 80000-1, 7.3.1, has it.
func number(n int) string {
	s := strconv.Itoa(n)
	for i := len(s) - 3; i > 0 && n >= 10000; i -= 3 {
		s = s[:i] + "\u202f" + s[i:]
	}
	return s
}

func Show(s *frame.Frame, c *echo.Context) error {
	v, err := gather(s, c)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "workroom", "page", v)
}

func gather(s *frame.Frame, c *echo.Context) (workroomView, error) {
	l := listingOf(c)
	ctx := c.Request().Context()
	listed, err := s.Store.List(ctx, l)
	if err != nil {
		return workroomView{}, frame.Refuse(err)
	}
	title := "Workroom"
	if l.Archived {
		title = "Archive"
	}
	v := workroomView{
		Shell:    s.Shell(c, title, map[bool]string{true: "archive", false: "workroom"}[l.Archived]),
		Archived: l.Archived, Listing: l, Sorts: sorts, Seeking: l.Search+l.Stage+l.Label != "" || l.Mine != 0,
		MaxMB: intake.MaxBytes >> 20, Accept: intake.Accept, Scanner: s.Scanner != nil,
	}
	if !l.Archived {
		if v.ToSign, err = s.Store.ToSign(ctx, frame.Account(c).ID); err != nil {
			return v, err
		}
	}
	for _, d := range listed.Documents {
		v.Rows = append(v.Rows, rowOf(d))
	}
	for _, st := range frame.Stages {
		v.Stages = append(v.Stages, stageChoice{st.Key, st.Name})
	}
	var next *store.Document
	if d, err := s.Store.NextDoubtful(ctx); err == nil {
		next = &d
	} else if !errors.Is(err, store.ErrMissing) {
		return v, err
	}
	v.Lead = lead(l, listed.Total, v.Seeking, next)
	q := queryOf(l)
	v.Query = q.Encode()
	to := func(key, cursor string) string {
		if cursor == "" {
			return ""
		}
		here := queryOf(l)
		here.Set(key, cursor)
		return "?" + here.Encode()
	}
	v.Next, v.Previous = to("after", listed.Next), to("before", listed.Previous)
	if v.Labels, err = s.Store.Labels(ctx); err != nil {
		return v, err
	}
	if v.Running, err = s.Store.RunningIntakes(ctx, frame.Account(c).ID); err != nil {
		return v, err
	}
	v.Folders, err = s.Store.Batches(ctx)
	return v, err
}

// DocumentList is the part of the workroom that changes.
func DocumentList(s *frame.Frame, c *echo.Context) error {
	v, err := gather(s, c)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "workroom", "documents", v)
}

func Describe(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := s.Store.Describe(c.Request().Context(), id, c.FormValue("title"), c.FormValue("description"),
		frame.Account(c).ID); err != nil {
		return frame.Refuse(err)
	}
	if err := s.Store.SetLabels(c.Request().Context(), id, strings.Split(c.FormValue("labels"), ",")); err != nil {
		return frame.Refuse(err)
	}
	return DocumentList(s, c)
}

func Archive(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := s.Store.Archive(c.Request().Context(), id, c.FormValue("away") == "1"); err != nil {
		return err
	}
	return DocumentList(s, c)
}
