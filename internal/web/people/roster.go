package people

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// perPage is how many people a page of the roster shows.
const perPage = 25

type rosterView struct {
	frame.Shell
	Columns       []roster.Column // that the table shows
	More          int             // that it does not
	People        []roster.Person
	All           int
	Words         string
	From, To      int
	Before, Next  int // where the pages around begin; -1 is none
	Said, Problem string
	Refused       []error
}

// Roster lists the people whom the office knows.
func Roster(s *frame.Frame, c *echo.Context) error {
	return rosterPage(s, c, http.StatusOK, rosterView{})
}

func rosterPage(s *frame.Frame, c *echo.Context, code int, v rosterView) error {
	ctx := c.Request().Context()
	v.Shell = s.Shell(c, "Roster", "roster")
	v.Words = strings.TrimSpace(c.QueryParam("search"))
	from := max(0, frame.Number(c.QueryParam("from"), 0))
	var err error
	if v.Columns, err = s.Store.RosterColumns(ctx); err != nil {
		return err
	}
	if v.People, v.All, err = s.Store.RosterPeople(ctx, v.Words, from, perPage); err != nil {
		return err
	}
	const shown = 7
	if len(v.Columns) > shown {
		v.Columns, v.More = v.Columns[:shown], len(v.Columns)-shown
	}
	v.From, v.To, v.Before, v.Next = from+1, from+len(v.People), -1, -1
	if from > 0 {
		v.Before = max(0, from-perPage)
	}
	if v.To < v.All {
		v.Next = from + perPage
	}
	return s.Render(c, code, "roster", "page", v)
}

// BringRoster takes a table of people over.
func BringRoster(s *frame.Frame, c *echo.Context) error {
	refuse := func(err error, lines []error) error {
		return rosterPage(s, c, http.StatusUnprocessableEntity, rosterView{Problem: frame.Sentence(err.Error()), Refused: lines})
	}
	b, err := tableOf(c)
	if err != nil {
		return refuse(err, nil)
	}
	rows, err := intake.Table(b)
	if err != nil {
		return refuse(err, nil)
	}
	for _, row := range rows {
		for i := range row {
			row[i] = frame.Plainly(row[i])
		}
	}
	columns, people, refused, err := roster.Read(rows)
	if err != nil {
		return refuse(err, refused)
	}
	may, err := s.May(c)
	if err != nil {
		return err
	}
	whole := c.FormValue("whole") != "" && may.Administer && len(refused) == 0 // a line that cannot be read may be somebody who is there
	got, err := s.Store.BringRoster(c.Request().Context(), frame.Account(c).ID, columns, people, whole)
	if err != nil {
		return frame.Refuse(err)
	}
	v := rosterView{Said: wordsOf(got), Refused: refused}
	if len(refused) > 0 {
		v.Problem = fmt.Sprintf("%d lines were not taken; nobody was taken out.", len(refused))
		if len(refused) == 1 {
			v.Problem = "1 line was not taken; nobody was taken out."
		}
	}
	return rosterPage(s, c, http.StatusOK, v)
}

// tableOf is the table that was sent with a request.
func tableOf(c *echo.Context) ([]byte, error) {
	_, b, err := frame.Upload(c, intake.MaxTable, "choose a CSV or XLSX file first")
	return b, err
}

func wordsOf(b store.Brought) string {
	return fmt.Sprintf("%d new, %d changed, %d as they were, %d taken out.", b.New, b.Changed, b.Same, b.Gone)
}

// DropPerson takes one person out of the roster.
func DropPerson(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := s.Store.DropPerson(c.Request().Context(), id, frame.Account(c).ID); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/roster")
}

// RosterCSV gives the roster as a table (RFC 4180). What a spreadsheet would take for a formula has an apostrophe before it.
func RosterCSV(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	columns, err := s.Store.RosterColumns(ctx)
	if err != nil {
		return err
	}
	people, _, err := s.Store.RosterPeople(ctx, c.QueryParam("search"), 0, roster.MostPeople)
	if err != nil {
		return err
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	row := make([]string, len(columns))
	for i, col := range columns {
		row[i] = col.Title
	}
	_ = w.Write(row)
	for _, p := range people {
		for i, col := range columns {
			row[i] = frame.Defused(p.Data[col.Key])
		}
		_ = w.Write(row)
	}
	w.Flush()
	s.Noted(ctx, frame.Account(c).ID, store.DeedDownload, "roster.csv")
	return frame.Download(c, "roster.csv", "text/csv; charset=utf-8", []byte(b.String()))
}
