package web

import (
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/store"
)

type workroomView struct {
	shell
	Rows     []documentRow
	Archived bool
	Lead     string
	MaxMB    int
	Accept   string
	Running  []store.Intake
	Folders  []store.Batch
	Scanner  bool
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

func (s *Frame) rows(c *echo.Context, archived bool) ([]documentRow, error) {
	docs, err := s.store.Documents(c.Request().Context(), archived)
	if err != nil {
		return nil, err
	}
	out := make([]documentRow, len(docs))
	for i, d := range docs {
		out[i] = rowOf(d)
	}
	return out, nil
}

func rowOf(d store.Document) documentRow {
	pages := d.Pages()
	w, h := viewSize(pages[0])
	r := documentRow{Document: d, PageCount: len(pages), ThumbW: 44, ThumbH: int(44 * h / w), Go: "carry on", To: d.Stage}
	if w > h {
		r.ThumbW, r.ThumbH = 58, int(58*h/w)
	}
	r.Picture = pictureURL(pages[0], 2*r.ThumbW)
	for _, p := range pages {
		if p.Scan {
			r.Scans++
		}
		if p.Scan && p.Text == "" {
			r.Unread++
		}
	}
	now := stageIndex(d.Stage)
	r.State = stageName(d.Stage)
	switch {
	case d.Fields+d.Open == 0 && r.Unread > 0:
		r.State, r.Go, r.To = "Pages · text not recognised yet", "look at pages", "pages"
	case d.Fields+d.Open == 0:
		r.State, r.Go = "Find · no fields yet", "find fields"
	case d.Doubtful > 0:
		r.Doubt = strconv.Itoa(d.Doubtful) + " doubtful"
	case d.Settled && d.Edition != nil:
		r.State, r.Go = "Release · edition "+strconv.Itoa(*d.Edition)+" is out", "open"
	}
	for i := range stages {
		r.Steps = append(r.Steps, step{Done: i < now || d.Settled && i <= now, Now: i == now && !d.Settled})
	}
	return r
}

func viewSize(p form.Page) (w, h float64) { return geom.ViewSize(p.Width, p.Height, p.Rotate) }

func lead(rows []documentRow, archived bool) string {
	if archived {
		if len(rows) == 0 {
			return "Nothing is archived."
		}
		return "What is archived stays whole: bring it back at any time."
	}
	doubtful, next := 0, ""
	for _, r := range rows {
		if r.Doubtful > 0 && next == "" {
			doubtful, next = r.Doubtful, r.Title
		}
	}
	n := strconv.Itoa(len(rows)) + " documents in work."
	switch {
	case len(rows) == 0:
		return "Nothing here yet. Next: bring in a document, on the right."
	case len(rows) == 1:
		n = "One document in work."
	}
	if next != "" {
		return n + " Next: " + strconv.Itoa(doubtful) + " doubtful fields on “" + next + "”."
	}
	return n
}

func (s *Frame) workroom(c *echo.Context) error {
	v, err := s.workroomView(c)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "workroom", "page", v)
}

func (s *Frame) workroomView(c *echo.Context) (workroomView, error) {
	archived := c.FormValue("archived") == "1"
	rows, err := s.rows(c, archived)
	title := "Workroom"
	if archived {
		title = "Archive"
	}
	if err != nil {
		return workroomView{}, err
	}
	v := workroomView{shell: s.shell(c, title, map[bool]string{true: "archive", false: "workroom"}[archived]), Rows: rows, Archived: archived, Lead: lead(rows, archived), MaxMB: intake.MaxBytes >> 20, Accept: intake.Accept, Scanner: s.scanner != nil}
	if v.Running, err = s.store.RunningIntakes(c.Request().Context(), account(c).ID); err != nil {
		return v, err
	}
	v.Folders, err = s.store.Batches(c.Request().Context())
	return v, err
}

// documentList is the part of the workroom that changes.
func (s *Frame) documentList(c *echo.Context) error {
	v, err := s.workroomView(c)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "workroom", "documents", v)
}

func idOf(c *echo.Context) (int64, error) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		return 0, store.ErrMissing
	}
	return id, nil
}

// documentOf reads the document that a request is about.
func (s *Frame) documentOf(c *echo.Context) (store.Document, error) {
	id, err := idOf(c)
	if err != nil {
		return store.Document{}, err
	}
	return s.store.Document(c.Request().Context(), id)
}

// draftOf reads the draft that the address names.
func (s *Frame) draftOf(c *echo.Context) (store.Draft, error) {
	id, err := idOf(c)
	if err != nil {
		return store.Draft{}, err
	}
	return s.store.Draft(c.Request().Context(), id)
}

func (s *Frame) describe(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	if err := s.store.Describe(c.Request().Context(), id, c.FormValue("title"), c.FormValue("description"), account(c).ID); err != nil {
		return refuse(err)
	}
	return s.documentList(c)
}

func (s *Frame) archive(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	if err := s.store.Archive(c.Request().Context(), id, c.FormValue("away") == "1"); err != nil {
		return err
	}
	return s.documentList(c)
}
