package pdf_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/rules"
)

// charges is a form that calculates: two lines of quantity and rate, a discount for members,
// and a field that shows for members only.
func charges() *form.Template {
	t := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	money := form.Format{Kind: form.Number, Decimals: 2}
	add := func(f form.Field) {
		f.ID, f.Page, f.Order, f.Tooltip = form.NewID(), 1, float64(len(t.Fields)), f.Name
		f.Rect = geom.R(40, 560-25*float64(len(t.Fields)), 200, 578-25*float64(len(t.Fields)))
		if f.Kind == "" {
			f.Kind = form.Text
		}
		t.Fields = append(t.Fields, f)
	}
	add(form.Field{Name: "total", Formula: "net * if(member, 0.9, 1)", Format: money})
	add(form.Field{Name: "net", Formula: "sum(line_*_amount)", Format: money})
	for i := 1; i <= 2; i++ {
		n := fmt.Sprintf("line_%d_", i)
		add(form.Field{
			Name: n + "count", Format: form.Format{Kind: form.Number},
			Checks: []form.Check{{Test: form.Between, A: "0", B: "40", Message: "At most forty."}},
		})
		add(form.Field{Name: n + "rate", Format: money})
		add(form.Field{Name: n + "amount", Formula: n + "count * " + n + "rate", Format: money})
	}
	add(form.Field{Name: "member", Kind: form.CheckBox, Export: "Yes"})
	add(form.Field{Name: "club", ShowIf: "member", RequireIf: "member"})
	return t
}

// run fills fields in with mutool, a reader of another make that runs scripts, one after the
// other, and gives what stands in all fields then.
func run(t *testing.T, b []byte, answers [][2]string) map[string]string {
	t.Helper()
	dir := t.TempDir()
	in, js := filepath.Join(dir, "in.pdf"), filepath.Join(dir, "fill.js")
	require.NoError(t, os.WriteFile(in, b, 0o600))
	list, err := json.Marshal(answers)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(js, []byte(`
var doc = new PDFDocument(scriptArgs[0]); doc.enableJS();
var answers = `+string(list)+`, i, k, page, ws, out = {};
for (i = 0; i < answers.length; i++) {
  page = doc.loadPage(0); ws = page.getWidgets();
  for (k = 0; k < ws.length; k++) if (ws[k].getLabel() === answers[i][0]) { if (ws[k].getFieldType() === "checkbox") ws[k].toggle(); else ws[k].setTextValue(answers[i][1]); ws[k].update(); }
  page.update();
}
ws = doc.loadPage(0).getWidgets();
for (k = 0; k < ws.length; k++) out[ws[k].getLabel()] = ws[k].getValue();
print("VALUES " + JSON.stringify(out));`), 0o600))
	out := tool(t, b, "mutool", "run", js, in)
	_, said, ok := strings.Cut(out, "VALUES ")
	require.True(t, ok, out)
	var values map[string]string
	require.NoError(t, json.Unmarshal([]byte(strings.TrimSpace(strings.Split(said, "\n")[0])), &values))
	return values
}

func TestAReleasedFormCalculates(t *testing.T) {
	draft := charges()
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	sound(t, out)
	require.NoError(t, proof.Prove(t.Context(), plain(""), out, draft))
	answers := [][2]string{
		{"line_1_count", "3"},
		{"line_1_rate", "19.99"},
		{"line_2_count", "2"},
		{"line_2_rate", "0.1"},
		{"member", "Yes"},
		{"line_2_count", "41"},
	}
	got := run(t, out, answers)
	s, err := rules.NewSession(draft.Fields, time.Now())
	require.NoError(t, err)
	for _, a := range answers[:5] {
		_, err := s.Set(a[0], a[1])
		require.NoError(t, err)
	}
	_, err = s.Set("line_2_count", "41")
	require.EqualError(t, err, "At most forty.")
	assert.Equal(t, "54.15", s.Value("total"), "60.17 less a tenth is 54.153")
	for _, name := range []string{"line_1_amount", "line_2_amount", "net", "total"} {
		assert.Equal(t, s.Value(name), got[name], "a reader comes to the same %s", name)
	}
	qdf := tool(t, out, "qpdf", "--qdf", "--object-streams=disable", "IN", "-")
	assert.Contains(t, qdf, "/CO [", "the order of calculation: ISO 32000-2, table 224")
	assert.Contains(t, qdf, "/JavaScript", "the script of the document: ISO 32000-2, table 32")
}

func TestRulesComeBackWithTheirForm(t *testing.T) {
	draft := charges()
	draft.Fields = append(draft.Fields, form.Field{
		ID: "t", Page: 1, Order: 90, Kind: form.Text, Name: "tide", Tooltip: "Tide",
		Rect: geom.R(220, 100, 300, 120), Format: form.Format{Kind: form.Time, Pattern: "HH:MM", Message: `So: "17:45" */`},
	})
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	again := draftOf(t, out)
	require.Len(t, again.Fields, len(draft.Fields))
	for i, f := range again.Fields {
		want := draft.Fields[i]
		assert.Equal(t, want.Formula, f.Formula, f.Name)
		assert.Equal(t, want.Checks, f.Checks, f.Name)
		assert.Equal(t, want.ShowIf+want.RequireIf, f.ShowIf+f.RequireIf, f.Name)
		assert.Equal(t, want.Format, f.Format, f.Name)
		assert.Empty(t, f.Origin.Keeps, f.Name)
	}
	again.Fields[1].Formula = "sum(line_*_amount) + 1"
	mended := releaseOf(t, out, again)
	got := run(t, mended, [][2]string{{"line_1_count", "2"}, {"line_1_rate", "5"}})
	assert.Equal(t, "11.00", got["net"], "a formula is changed in a form that came with it")
	assert.Equal(t, "11.00", got["total"])
	for i := range again.Fields { // and taken away
		again.Fields[i].Formula, again.Fields[i].Checks, again.Fields[i].ShowIf, again.Fields[i].RequireIf = "", nil, "", ""
	}
	bare := releaseOf(t, out, again)
	assert.False(t, strings.Contains(tool(t, bare, "qpdf", "--qdf", "--object-streams=disable", "IN", "-"), "/CO ["),
		"nothing is calculated any more")
}

func TestAFormThatCannotBeCalculatedIsNotWritten(t *testing.T) {
	draft := charges()
	draft.Fields[1].Formula = "total / 2"
	_, err := write.Build(plain(""), draft)
	require.ErrorContains(t, err, "circle")
	draft.Fields[1].Formula = "sum(lime_*_amount)"
	_, err = write.Build(plain(""), draft)
	assert.ErrorContains(t, err, "no field called lime_*_amount")
}

// A reader of another make keeps what was meant: dates and times of a calendar and a clock in their patterns, letters as they are shown.
func TestAReaderOfAnotherMakeTakesCalendarDates(t *testing.T) {
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	formats := map[string]form.Format{
		"arrival": {Kind: form.Date, Pattern: "dd.mm.yyyy"}, "survey": {Kind: form.Date, Pattern: "d mmm yyyy"},
		"tide": {Kind: form.Time, Pattern: "h:MM tt"}, "flag": {Kind: form.Upper}, "share": {Kind: form.Percent, Decimals: 1},
		"depth": {Kind: form.Number, Decimals: 1},
	}
	for _, name := range slices.Sorted(maps.Keys(formats)) {
		n := float64(len(draft.Fields))
		draft.Fields = append(draft.Fields, form.Field{
			ID: form.NewID(), Page: 1, Order: n, Kind: form.Text, Name: name, Tooltip: name, Rect: geom.R(40, 540-40*n, 240, 562-40*n),
			Format: formats[name],
		})
	}
	out, err := write.Build(plain(""), draft)
	require.NoError(t, err)
	got := run(t, out, [][2]string{
		{"arrival", "2027-04-03"}, {"survey", "2027-04-03"}, {"tide", "17:45"}, {"flag", "gq"}, {"share", "7.25"}, {"depth", "7,25"},
	})
	assert.Equal(t, map[string]string{
		"arrival": "03.04.2027", "survey": "3 Apr 2027", "tide": "5:45 pm", "flag": "GQ", "share": "7.25", "depth": "7,25",
	}, got)
	assert.Equal(t, "", run(t, out, [][2]string{{"arrival", "2027-02-29"}})["arrival"], "no day of the calendar")
}
