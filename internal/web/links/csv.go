package links

import (
	"encoding/csv"
	"fmt"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/web/frame"
)

// CSV gives the personal links of an edition with how far they are, as a table (RFC 4180).
func CSV(s *frame.Frame, c *echo.Context) error {
	e, err := editionOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	list, err := s.Store.FormLinks(ctx, e.ID)
	if err != nil {
		return err
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	rows := [][]string{{"Number", "Name", "E-mail", "Letter", "Why", "Sent", "Opened", "Form got", "Answered", "Answers"}}
	for _, l := range list {
		if !l.Personal() {
			continue
		}
		row := []string{l.Person().Key, l.Name, frame.Value(l.Recipient), stateWords[frame.Value(l.State)], frame.Value(l.Problem)}
		for _, t := range []*time.Time{l.SentAt, l.Opened, l.Fetched, l.Answered} {
			at := ""
			if t != nil {
				at = t.Local().Format("2006-01-02 15:04")
			}
			row = append(row, at)
		}
		rows = append(rows, append(row, fmt.Sprint(l.Answers)))
	}
	for _, row := range rows {
		for i := range row {
			row[i] = frame.Defused(row[i])
		}
		if err := w.Write(row); err != nil {
			return err
		}
	}
	w.Flush()
	return frame.Download(c, strings.TrimSuffix(e.FileName, ".pdf")+"-links.csv", "text/csv; charset=utf-8", []byte(b.String()))
}

// stateWords are the states of letters in words.
var stateWords = map[string]string{"": "", "waiting": "waits", "sent": "sent", "returned": "came back", "failed": "not sent"}
