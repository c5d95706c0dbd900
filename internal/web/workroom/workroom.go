package workroom

import (
	"net/http"
	"strconv"

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

func rows(s *frame.Frame, c *echo.Context, archived bool) ([]documentRow, error) {
	docs, err := s.Store.Documents(c.Request().Context(), archived)
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
	case d.Settled && d.Edition != nil:
		r.State, r.Go = "Release · edition "+strconv.Itoa(*d.Edition)+" is out", "open"
	}
	for i := range frame.Stages {
		r.Steps = append(r.Steps, step{Done: i < now || d.Settled && i <= now, Now: i == now && !d.Settled})
	}
	return r
}

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

func Show(s *frame.Frame, c *echo.Context) error {
	v, err := gather(s, c)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "workroom", "page", v)
}

func gather(s *frame.Frame, c *echo.Context) (workroomView, error) {
	archived := c.FormValue("archived") == "1"
	rows, err := rows(s, c, archived)
	title := "Workroom"
	if archived {
		title = "Archive"
	}
	if err != nil {
		return workroomView{}, err
	}
	v := workroomView{
		Shell: s.Shell(c, title, map[bool]string{true: "archive", false: "workroom"}[archived]), Rows: rows,
		Archived: archived, Lead: lead(rows, archived), MaxMB: intake.MaxBytes >> 20, Accept: intake.Accept, Scanner: s.Scanner != nil,
	}
	if v.Running, err = s.Store.RunningIntakes(c.Request().Context(), frame.Account(c).ID); err != nil {
		return v, err
	}
	v.Folders, err = s.Store.Batches(c.Request().Context())
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
