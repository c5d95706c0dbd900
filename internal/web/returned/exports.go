package returned

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/xuri/excelize/v2"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// table is what is taken out: the returns that are sought, with all columns.
type table struct {
	forms  *inbox.Forms
	sought store.Sought
	store  *store.Store
}

// heads are those of the columns that stand before the questions.
var heads = []string{"Number", "Received", "Came by", "Edition", "State", "From", "Against a rule"}

func (t *table) heads() []string {
	out := append([]string{}, heads...)
	for _, c := range t.forms.Columns {
		out = append(out, c.Name)
	}
	return out
}

// row is a return as text; answers are as they are kept, so that they can be read back.
func (t *table) row(r *store.Return) []string {
	out := []string{
		fmt.Sprint(r.ID), r.ReceivedAt.UTC().Format(time.RFC3339), r.Road, "", r.State, frame.Value(r.By), strconv.Itoa(len(r.Broken())),
	}
	if r.Edition != nil {
		out[3] = strconv.Itoa(*r.Edition)
	}
	answers := r.Answers()
	for _, c := range t.forms.Columns {
		out = append(out, answers[c.Key])
	}
	return out
}

// defused is a cell that no spreadsheet takes for a formula; a number stays one.
func defused(v string) string {
	if _, err := strconv.ParseFloat(v, 64); err == nil {
		return v
	}
	return frame.Defused(v)
}

// csv writes the table as RFC 4180 has it.
func (t *table) csv(ctx context.Context, out io.Writer) error {
	if _, err := io.WriteString(out, "\ufeff"); err != nil { // by which spreadsheets know that it is UTF-8
		return err
	}
	w := csv.NewWriter(out)
	w.UseCRLF = true
	if err := w.Write(t.heads()); err != nil {
		return err
	}
	err := t.store.EachReturn(ctx, t.sought, func(r store.Return) error {
		row := t.row(&r)
		for i := range row {
			row[i] = defused(row[i])
		}
		return w.Write(row)
	})
	if err != nil {
		return err
	}
	w.Flush()
	return w.Error()
}

// xlsx writes the table as a workbook (ISO/IEC 29500): numbers and times as such, everything else as text, so that nothing is a formula.
func (t *table) xlsx(ctx context.Context, out io.Writer) (err error) {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	const sheet = "Returns"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	w, err := f.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	day, err := f.NewStyle(&excelize.Style{NumFmt: 22}) // a date with a time (ISO/IEC 29500-1, 18.8.30)
	if err != nil {
		return err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	if err := w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	var cells []any
	for _, h := range t.heads() {
		cells = append(cells, excelize.Cell{StyleID: bold, Value: h})
	}
	if err := w.SetRow("A1", cells); err != nil {
		return err
	}
	n := 1
	err = t.store.EachReturn(ctx, t.sought, func(r store.Return) error {
		n++
		cells := []any{r.ID, excelize.Cell{StyleID: day, Value: r.ReceivedAt.Local()}}
		for i, v := range t.row(&r)[2:] {
			var number bool
			if k := i + 2 - len(heads); k >= 0 {
				format := t.forms.Columns[k].Field.Format.Kind
				number = format == form.Number || format == form.Percent
			} else {
				number = i == 1 || i == 4
			}
			if x, err := strconv.ParseFloat(v, 64); number && err == nil {
				cells = append(cells, x)
				continue
			}
			if r := []rune(v); len(r) > excelize.TotalCellChars {
				v = string(r[:excelize.TotalCellChars])
			}
			cells = append(cells, v)
		}
		at, err := excelize.CoordinatesToCellName(1, n)
		if err != nil {
			return err
		}
		return w.SetRow(at, cells)
	})
	if err != nil {
		return err
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Write(out)
}

// record is a return in JSON.
type record struct {
	Number   int64              `json:"number"`
	Received time.Time          `json:"received"`
	Road     string             `json:"road"`
	Edition  int                `json:"edition,omitempty"`
	State    string             `json:"state"`
	From     string             `json:"from,omitempty"`
	Answers  map[string]string  `json:"answers"` // by the names of the newest edition that has them
	Broken   map[string]string  `json:"broken,omitempty"`
	Unsure   map[string]float64 `json:"unsure,omitempty"`
}

func (t *table) record(r *store.Return) record {
	out := record{
		Number: r.ID, Received: r.ReceivedAt.UTC(), Road: r.Road, State: r.State, From: frame.Value(r.By), Answers: map[string]string{},
		Broken: map[string]string{}, Unsure: map[string]float64{},
	}
	if r.Edition != nil {
		out.Edition = *r.Edition
	}
	answers, broken, unsure := r.Answers(), r.Broken(), r.Unsure()
	for _, c := range t.forms.Columns {
		if v, ok := answers[c.Key]; ok {
			out.Answers[c.Name] = v
		}
		if v, ok := broken[c.Key]; ok {
			out.Broken[c.Name] = v
		}
		if v, ok := unsure[c.Key]; ok {
			out.Unsure[c.Name] = v
		}
	}
	return out
}

func (t *table) json(ctx context.Context, out io.Writer) error {
	first := true
	if _, err := io.WriteString(out, "["); err != nil {
		return err
	}
	err := t.store.EachReturn(ctx, t.sought, func(r store.Return) error {
		b, err := json.Marshal(t.record(&r))
		if err != nil {
			return err
		}
		if !first {
			b = append([]byte(",\n"), b...)
		}
		first = false
		_, err = out.Write(b)
		return err
	})
	if err == nil {
		_, err = io.WriteString(out, "]\n")
	}
	return err
}

// several tells whether the answer to a question is several choices.
func (t *table) several(name string) bool {
	for _, c := range t.forms.Columns {
		if c.Name == name {
			return c.Field.Kind == form.Choice && c.Field.List == form.ManyList
		}
	}
	return false
}

// xfdf writes one XFDF file (ISO 19444-1) for each return, all in one zip, named by the fields of its own edition.
func (t *table) xfdf(ctx context.Context, out io.Writer) error {
	z := zip.NewWriter(out)
	err := t.store.EachReturn(ctx, t.sought, func(r store.Return) error {
		b, err := t.oneXFDF(&r)
		if err != nil {
			return err
		}
		w, err := z.Create(fmt.Sprintf("return-%d.xfdf", r.ID))
		if err == nil {
			_, err = w.Write(b)
		}
		return err
	})
	if err != nil {
		return err
	}
	return z.Close()
}

func (t *table) oneXFDF(r *store.Return) ([]byte, error) {
	number, file := 0, ""
	if r.Edition != nil {
		number = *r.Edition
		file = t.forms.Edition(number).FileName
	}
	return returns.WriteXFDF(file, t.forms.Named(number, r.Answers()), t.several)
}

// exports are the ways in which returns are taken out.
var exports = map[string]struct {
	kind, end string
	write     func(*table, context.Context, io.Writer) error
}{
	"csv":  {"text/csv; charset=utf-8", "csv", (*table).csv},
	"xlsx": {"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "xlsx", (*table).xlsx},
	"json": {"application/json", "json", (*table).json},
	"xfdf": {"application/zip", "zip", (*table).xfdf},
}

// Export takes the returns that are sought out: as CSV, XLSX, JSON or XFDF.
func Export(s *frame.Frame, c *echo.Context) error {
	d, forms, err := formsOf(s, c)
	if err != nil {
		return err
	}
	how, ok := exports[c.QueryParam("as")]
	if !ok {
		return frame.Refuse(fmt.Errorf("returns can be taken out as csv, xlsx, json or xfdf"))
	}
	t := table{forms: forms, sought: soughtOf(c, d.ID, forms.Columns), store: s.Store}
	t.sought.Up = t.sought.Sort == "" && c.QueryParam("up") == "" // as they came
	ctx := c.Request().Context()
	about := fmt.Sprintf("returns of document %d as %s", d.ID, how.end)
	if err := s.Store.Note(ctx, frame.Account(c).ID, store.DeedDownload, about); err != nil {
		return err
	}
	var b bytes.Buffer
	if err := how.write(&t, ctx, &b); err != nil {
		return err
	}
	return frame.Download(c, frame.Slug(d.Title)+"-returns."+how.end, how.kind, b.Bytes())
}

// AsXFDF gives one return as XFDF.
func AsXFDF(s *frame.Frame, c *echo.Context) error {
	r, forms, err := returnOf(s, c)
	if err != nil {
		return err
	}
	t := table{forms: forms}
	b, err := t.oneXFDF(&r)
	if err != nil {
		return err
	}
	return frame.Download(c, fmt.Sprintf("return-%d.xfdf", r.ID), "application/vnd.adobe.xfdf", b)
}

// AsFDF gives one return as FDF, in which the states of buttons have the names that the form has for them.
func AsFDF(s *frame.Frame, c *echo.Context) error {
	r, forms, err := returnOf(s, c)
	if err != nil {
		return err
	}
	number, file := 0, ""
	if r.Edition != nil {
		number = *r.Edition
		file = forms.Edition(number).FileName
	}
	values := forms.Named(number, r.Answers())
	button := map[string]bool{}
	if t := forms.Form(number); t != nil {
		for _, f := range t.Placed() {
			if v, ok := values[f.Name]; ok && (f.Kind == form.CheckBox || f.Kind == form.Radio) && !button[f.Name] && v == f.Export {
				values[f.Name], button[f.Name] = f.OnState(), true
			}
		}
	}
	t := table{forms: forms}
	b := write.FDF(file, values, func(n string) bool { return button[n] }, t.several)
	return frame.Download(c, fmt.Sprintf("return-%d.fdf", r.ID), "application/vnd.fdf", b)
}

// AsPDF gives one return as PDF: as it came, or its answers in the form of its edition, as they stand now.
func AsPDF(s *frame.Frame, c *echo.Context) error {
	r, forms, err := returnOf(s, c)
	if err != nil {
		return err
	}
	number := 0
	if r.Edition != nil {
		number = *r.Edition
	}
	if forms.Form(number) == nil {
		return frame.Refuse(fmt.Errorf("the form that this belongs to is not known: take it as it came"))
	}
	src, err := s.File(c.Request().Context(), forms.Edition(number).File)
	if err != nil {
		return err
	}
	b, err := filled(src, forms.Form(number), forms.Named(number, r.Answers()))
	if err != nil {
		return frame.Refuse(err)
	}
	return frame.Download(c, fmt.Sprintf("return-%d.pdf", r.ID), "application/pdf", b)
}

// AFile gives a file that came with a return.
func AFile(s *frame.Frame, c *echo.Context) error {
	r, _, err := returnOf(s, c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	list, err := s.Store.Attached(ctx, r.ID)
	if err != nil {
		return err
	}
	for _, f := range list {
		if fmt.Sprint(f.ID) != c.Param("n") {
			continue
		}
		b, err := s.Store.File(ctx, f.File)
		if err != nil {
			return err
		}
		if strings.HasPrefix(f.Field, "@") { // of our own making, to be seen beside the answers
			return c.Blob(http.StatusOK, "image/png", b)
		}
		return frame.Download(c, f.Name, "application/octet-stream", b)
	}
	return store.ErrMissing
}
