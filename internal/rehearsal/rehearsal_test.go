package rehearsal_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rehearsal"
)

var now = time.Date(2027, 6, 1, 9, 0, 0, 0, time.UTC)

// roomy is a measure by which a letter is 6 points wide at 12 points.
func roomy(f form.Field, text string) (bool, float64) {
	if w := 6 * float64(len([]rune(text))); w > f.Rect.W() {
		size := 12 * f.Rect.W() / w
		return size >= 4, size
	}
	return true, 12
}

func rehearse(t *testing.T, fields ...form.Field) map[string]string {
	t.Helper()
	for i := range fields {
		f := &fields[i]
		f.ID, f.Page, f.Order = form.NewID(), 1, float64(i)
		if f.Kind == "" {
			f.Kind = form.Text
		}
		if f.Rect == (geom.Rect{}) {
			f.Rect = geom.R(0, 0, 300, 16)
		}
	}
	r, err := rehearsal.Run(fields, nil, roomy, nil, now)
	require.NoError(t, err)
	assert.Equal(t, 20, r.People)
	out := map[string]string{}
	for _, l := range r.Lines {
		assert.NotEmpty(t, l.Field, "each line leads to its field")
		out[l.What+" "+l.Name] = l.Why
	}
	return out
}

func TestAGoodFormIsRehearsedWithoutAWord(t *testing.T) {
	assert.Empty(t, rehearse(t,
		form.Field{Name: "vessel", Tooltip: "Name of vessel", Required: true},
		form.Field{
			Name: "arrival", Tooltip: "Date of arrival", Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"},
			Checks: []form.Check{{Test: form.NotBefore, A: "today"}},
		},
		form.Field{
			Name: "nights", Tooltip: "Nights", Format: form.Format{Kind: form.Number},
			Checks: []form.Check{{Test: form.Between, A: "1", B: "30"}},
		},
		form.Field{Name: "fee", Formula: "nights * 12.5", Format: form.Format{Kind: form.Number, Decimals: 2}, ReadOnly: true},
		form.Field{Name: "keel", Kind: form.Radio, Export: "fin"}, form.Field{Name: "keel", Kind: form.Radio, Export: "long"},
		form.Field{Name: "member", Kind: form.CheckBox, Export: "Yes"},
		form.Field{Name: "club", Tooltip: "Club", ShowIf: "member", Required: true},
		form.Field{Name: "mail", Tooltip: "E-mail", Format: form.Format{Kind: form.Email}}))
}

func TestWhatWouldGoWrongForRecipientsIsReported(t *testing.T) {
	number := form.Format{Kind: form.Number, Decimals: 2}
	for what, fields := range map[string][]form.Field{
		"fit family_name": {{Name: "family_name", Tooltip: "Family name", Rect: geom.R(0, 0, 40, 16)}},
		"fit fee": {
			{Name: "nights", Format: number, Tooltip: "Nights"},
			{Name: "fee", Formula: "nights * 1000000", Format: number, ReadOnly: true, Rect: geom.R(0, 0, 30, 16)},
		},
		"refused arrival": {{
			Name: "arrival", Tooltip: "Date of arrival",
			Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}, Checks: []form.Check{{Test: form.NotAfter, A: "01.01.1900"}},
		}},
		"refused owner_name":  {{Name: "owner_name", Tooltip: "Name of owner", MaxLen: 12}},
		"accepted date_birth": {{Name: "date_birth", Tooltip: "Date of birth"}},
		"accepted quantity":   {{Name: "quantity", Tooltip: "Quantity"}},
		"trouble share": {
			{Name: "nights", Tooltip: "Nights", Format: number},
			{Name: "share", Formula: "100 / (nights - nights)", Format: number, ReadOnly: true},
		},
		"reach club": {
			{Name: "member", Kind: form.CheckBox, Export: "Yes"},
			{Name: "club", Tooltip: "Club", ShowIf: `member = "never"`, Required: true},
		},
		"total until": {
			{Name: "from", Tooltip: "From", Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}},
			{
				Name: "until", Tooltip: "Until", Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"},
				Checks: []form.Check{{Test: form.Holds, A: "until >= from"}},
			},
		},
	} {
		got := rehearse(t, fields...)
		assert.Contains(t, got, what)
		assert.NotEmpty(t, got[what])
	}
}

func TestAFormThatCannotBeWorkedOutIsNotRehearsed(t *testing.T) {
	_, err := rehearsal.Run([]form.Field{{ID: "1", Name: "sum", Kind: form.Text, Formula: "lost + 1"}}, nil, roomy, nil, now)
	assert.ErrorContains(t, err, "no field called lost")
}

func TestWhereTabJumpsIsReported(t *testing.T) {
	var fields []form.Field
	for i, y := range []float64{500, 100, 460, 420, 380} {
		fields = append(fields, form.Field{
			ID: string(rune('a' + i)), Page: 1, Order: float64(i), Kind: form.Text,
			Name: string(rune('a' + i)), Rect: geom.R(50, y, 200, y+18),
		})
	}
	r, err := rehearsal.Run(fields, []form.Page{{Width: 400, Height: 600}}, roomy, nil, now)
	require.NoError(t, err)
	require.NotEmpty(t, r.Lines)
	assert.Equal(t, "tab", r.Lines[0].What)
}
