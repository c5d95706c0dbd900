package house

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type houseView struct {
	frame.Shell
	Words   []store.HouseWord
	Asked   []store.HouseProposal
	Kinds   []form.Offer
	Formats []string
	Problem string
	Said    string
}

// houseFormats are the formats that a house word can name.
var houseFormats = []string{"date", "time", "number", "money", "percent", "phone", "email", "postcode"}

func HouseWords(s *frame.Frame, c *echo.Context) error { return housePage(s, c, http.StatusOK, "", "") }

func housePage(s *frame.Frame, c *echo.Context, code int, problem, said string) error {
	words, err := s.Store.HouseWords(c.Request().Context())
	if err != nil {
		return err
	}
	asked, err := s.Store.HouseProposals(c.Request().Context())
	if err != nil {
		return err
	}
	v := houseView{
		Shell: s.Shell(c, "House words", "house"), Words: words, Asked: asked, Formats: houseFormats, Problem: problem,
		Said: said,
	}
	for _, k := range form.KindWords {
		if k.Value != "button" && k.Value != "choice" {
			v.Kinds = append(v.Kinds, k)
		}
	}
	return s.Render(c, code, "housewords", "page", v)
}

// houseWordFrom reads a word from its parts as people write them.
func houseWordFrom(wording, name, kind, format string) (detect.HouseWord, error) {
	w := detect.HouseWord{Wording: strings.TrimSpace(wording), Name: strings.TrimSpace(name), Format: strings.TrimSpace(format)}
	switch kind = strings.TrimSpace(kind); kind {
	case "":
	case "lines":
		w.Kind, w.Lines = form.Text, true
	default:
		w.Kind = form.Kind(kind)
		if !slices.Contains(form.Kinds, w.Kind) {
			return w, fmt.Errorf("%q is not a kind: use text, lines, checkbox, radio or signature", kind)
		}
	}
	if w.Format != "" && !slices.Contains(houseFormats, w.Format) {
		return w, fmt.Errorf("%q is not a format: use one of %s", w.Format, strings.Join(houseFormats, ", "))
	}
	return w, store.CheckHouseWord(w)
}

func PutHouseWord(s *frame.Frame, c *echo.Context) error {
	w, err := houseWordFrom(c.FormValue("wording"), c.FormValue("name"), c.FormValue("kind"), c.FormValue("format"))
	if err == nil {
		err = s.Store.PutHouseWord(c.Request().Context(), w, frame.Account(c).ID, false)
	}
	if err != nil {
		return housePage(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()), "")
	}
	return housePage(s, c, http.StatusOK, "", "Kept: “"+w.Wording+"”.")
}

func DropHouseWord(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := s.Store.DropHouseWord(c.Request().Context(), id); err != nil {
		return err
	}
	return housePage(s, c, http.StatusOK, "", "Taken out.")
}

// LearnProposal makes a word of the office of a correction.
func LearnProposal(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	w, err := s.Store.AcceptProposal(c.Request().Context(), id, frame.Account(c).ID)
	if err != nil {
		return err
	}
	return housePage(s, c, http.StatusOK, "", "Learnt: “"+w.Wording+"”.")
}

// LeaveProposal leaves a correction to its document.
func LeaveProposal(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := s.Store.DropProposal(c.Request().Context(), id); err != nil {
		return err
	}
	return housePage(s, c, http.StatusOK, "", "Left to its document.")
}

// houseHeader is the first line of the CSV (RFC 4180).
var houseHeader = []string{"wording", "name", "kind", "format"}

func HouseCSV(s *frame.Frame, c *echo.Context) error {
	words, err := s.Store.HouseWords(c.Request().Context())
	if err != nil {
		return err
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	_ = w.Write(houseHeader) // a strings.Builder takes everything
	for _, x := range words {
		kind := x.Kind
		if x.Lines {
			kind = "lines"
		}
		_ = w.Write([]string{frame.Defused(x.Wording), frame.Defused(x.Name), kind, x.Format})
	}
	w.Flush()
	return frame.Download(c, "house-words.csv", "text/csv; charset=utf-8", []byte(b.String()))
}

// TakeHouseCSV reads words from a CSV file: all of them, or none when a line is wrong.
func TakeHouseCSV(s *frame.Frame, c *echo.Context) error {
	in, err := c.FormFile("file")
	if err != nil {
		return housePage(s, c, http.StatusUnprocessableEntity, "Choose a CSV file first.", "")
	}
	f, err := in.Open()
	if err != nil {
		return err
	}
	defer f.Close()
	words, err := houseWordsFrom(io.LimitReader(f, 4<<20))
	if err == nil {
		err = s.Store.PutHouseWords(c.Request().Context(), words, frame.Account(c).ID)
	}
	if err != nil {
		return housePage(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()), "")
	}
	return housePage(s, c, http.StatusOK, "", fmt.Sprintf("Took in %d words.", len(words)))
}

func houseWordsFrom(r io.Reader) ([]detect.HouseWord, error) {
	in := csv.NewReader(r)
	in.FieldsPerRecord = -1
	in.TrimLeadingSpace = true
	var out []detect.HouseWord
	for n := 1; ; n++ {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("this is not a CSV file of wording, name, kind and format: %w", err)
		}
		for len(row) < 4 {
			row = append(row, "")
		}
		row[0] = strings.TrimPrefix(row[0], "\ufeff")
		if n == 1 && strings.EqualFold(row[0], houseHeader[0]) {
			continue
		}
		w, err := houseWordFrom(frame.Plainly(row[0]), frame.Plainly(row[1]), row[2], row[3])
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", n, err)
		}
		out = append(out, w)
	}
	if len(out) == 0 {
		return nil, errors.New("the file has no words: write lines of wording, name, kind and format")
	}
	return out, nil
}
