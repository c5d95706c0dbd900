package snags_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/snags"
)

var now = time.Date(2027, 6, 1, 9, 0, 0, 0, time.UTC)

// sound is a form without a snag, of some fields below each other.
func sound(fields ...form.Field) *form.Template {
	t := &form.Template{
		Title: "Berth application", Details: form.Details{Title: "Berth application", Language: "en-GB"},
		Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}},
	}
	for i, f := range fields {
		y := 560 - 30*float64(i)
		if f.ID == "" {
			f.ID = form.NewID()
		}
		if f.Rect == (geom.Rect{}) {
			f.Rect = geom.R(50, y, 200, y+18)
			if f.Kind == form.CheckBox || f.Kind == form.Radio {
				f.Rect = geom.R(50, y, 60, y+10)
			}
		}
		if f.Kind == "" {
			f.Kind = form.Text
		}
		if f.Tooltip == "" {
			f.Tooltip = "Asks for " + f.Name + " " + f.Export
		}
		if f.Tooltip == "-" {
			f.Tooltip = ""
		}
		f.Page, f.Order = 1, float64(i)
		t.Fields = append(t.Fields, f)
	}
	return t
}

func checksOf(t *form.Template, ev map[int]*evidence.Page) []string {
	var out []string
	for _, s := range snags.Find(t, ev, now) {
		out = append(out, s.Check)
	}
	return out
}

func TestASoundFormHasNoSnag(t *testing.T) {
	assert.Empty(t, snags.Find(sound(
		form.Field{Name: "vessel"}, form.Field{
			Name: "arrival", Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"},
			Required: true,
		},
		form.Field{Name: "keel", Kind: form.Radio, Export: "fin"}, form.Field{Name: "keel", Kind: form.Radio, Export: "long"},
		form.Field{Name: "flag", Kind: form.Choice, Options: []form.Option{{Label: "Gannet Land"}}},
		form.Field{
			Name: "send", Kind: form.Button, Caption: "Send",
			Action: form.Action{Do: form.SubmitForm, URL: "https://gannet-quay.example/in"},
		},
		form.Field{Name: "signature_owner", Kind: form.Signature}), nil, now))
}

// One form for every check, with how much it matters and whether it can be mended in one
// press; the mend leaves no such snag.
func TestEveryCheckFindsItsSnagAndMendsItWhereItCan(t *testing.T) {
	date := form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}
	found := func(looks string) *form.Find { return &form.Find{Kept: true, Confidence: 0.9, Looks: looks} }
	for _, c := range []struct {
		check string
		much  snags.Severity
		mend  bool
		form  *form.Template
	}{
		{"no-tooltip", snags.Risky, true, sound(form.Field{Name: "vessel", Tooltip: "-", Label: "Name of vessel"})},
		{"no-tooltip", snags.Risky, false, sound(form.Field{Name: "text_4", Tooltip: "-"})},
		{"machine-name", snags.Hint, false, sound(form.Field{Name: "Text12"})},
		{"off-page", snags.Serious, false, sound(form.Field{Name: "vessel", Rect: geom.R(350, 10, 460, 30)})},
		{"too-small", snags.Risky, true, sound(form.Field{Name: "vessel", Rect: geom.R(10, 10, 160, 20), Look: form.Look{Size: 14}})},
		{"too-small", snags.Risky, false, sound(form.Field{Name: "vessel", Rect: geom.R(10, 10, 160, 16)})},
		{"too-narrow", snags.Risky, false, sound(form.Field{Name: "vessel", Rect: geom.R(10, 10, 20, 26)})},
		{"too-small", snags.Hint, false, sound(form.Field{Name: "member", Kind: form.CheckBox, Rect: geom.R(10, 10, 15, 15)})},
		{"required-hidden", snags.Serious, true, sound(form.Field{Name: "vessel", Required: true, Show: form.ShowNone})},
		{"required-readonly", snags.Serious, true, sound(form.Field{Name: "vessel", Required: true, ReadOnly: true})},
		{"required-hidden", snags.Risky, true, sound(form.Field{Name: "vessel", Required: true, Show: form.ShowPrint})},
		{"never-seen", snags.Hint, false, sound(form.Field{Name: "vessel", Show: form.ShowNone})},
		{"calculated-editable", snags.Risky, true, sound(form.Field{Name: "sum", Formula: "1 + 1"})},
		{"password-default", snags.Serious, true, sound(form.Field{Name: "secret", Password: true, Default: "ebb"})},
		{"contrast", snags.Risky, true, sound(form.Field{Name: "vessel", Look: form.Look{Colour: "#cccccc"}})},
		{"contrast", snags.Risky, true, sound(form.Field{Name: "vessel", Look: form.Look{Fill: "#101010"}})},
		{"default-refused", snags.Serious, true, sound(form.Field{Name: "arrival", Format: date, Default: "soon"})},
		{"default-too-long", snags.Risky, true, sound(form.Field{Name: "code", MaxLen: 3, Default: "GANNET"})},
		{"default-unknown", snags.Risky, true, sound(form.Field{
			Name: "keel", Kind: form.Choice, Options: []form.Option{{Label: "fin"}},
			Default: "long",
		})},
		{"check-broken", snags.Serious, false, sound(form.Field{
			Name:   "vessel",
			Checks: []form.Check{{Test: form.Holds, A: "lost > 1"}},
		})},
		{"contradiction", snags.Serious, false, sound(form.Field{
			Name: "beam", Format: form.Format{Kind: form.Number},
			Checks: []form.Check{{Test: form.Between, A: "9", B: "2"}},
		})},
		{"contradiction", snags.Serious, false, sound(form.Field{
			Name: "beam", MaxLen: 2,
			Checks: []form.Check{{Test: form.Length, A: "3"}},
		})},
		{"contradiction", snags.Serious, false, sound(form.Field{
			Name: "arrival", Format: date,
			Checks: []form.Check{{Test: form.OneOf, A: "soon, later"}},
		})},
		{"contradiction", snags.Serious, false, sound(form.Field{
			Name:   "arrival",
			Checks: []form.Check{{Test: form.NotBefore, A: "today"}},
		})},
		{"plain-date", snags.Hint, true, sound(form.Field{Name: "arrival", Find: found("date")})},
		{"plain-email", snags.Hint, true, sound(form.Field{Name: "mail", Find: found("email")})},
		{"no-action", snags.Risky, false, sound(form.Field{Name: "go", Kind: form.Button, Caption: "Go"})},
		{"no-address", snags.Serious, false, sound(form.Field{
			Name: "go", Kind: form.Button, Caption: "Go",
			Action: form.Action{Do: form.SubmitForm, URL: "https://"},
		})},
		{"plain-http", snags.Risky, true, sound(form.Field{
			Name: "go", Kind: form.Button, Caption: "Go",
			Action: form.Action{Do: form.SubmitForm, URL: "http://gannet-quay.example/in"},
		})},
		{"step-lost", snags.Serious, false, sound(form.Field{
			Name: "go", Kind: form.Button, Caption: "Go",
			Steps: []form.Step{{Do: form.HideFields, Fields: "lost"}},
		})},
		{"step-lost", snags.Serious, false, sound(form.Field{
			Name: "go", Kind: form.Button, Caption: "Go",
			Steps: []form.Step{{Do: form.GoToPage, Page: 9}},
		})},
		{"script-broken", snags.Serious, false, sound(form.Field{
			Name: "go", Kind: form.Button, Caption: "Go",
			Steps: []form.Step{{Do: form.RunScript, Script: "if ("}},
		})},
		{"own-script", snags.Hint, false, sound(form.Field{
			Name: "go", Kind: form.Button, Caption: "Go",
			Steps: []form.Step{{Do: form.RunScript, Script: "this.dirty = false;"}},
		})},
		{"no-caption", snags.Hint, true, sound(form.Field{Name: "go", Kind: form.Button, Action: form.Action{Do: form.PrintForm}})},
		{"reader-unison", snags.Hint, false, sound(form.Field{Name: "lamp", Kind: form.Radio, Export: "red", Unison: true},
			form.Field{Name: "lamp", Kind: form.Radio, Export: "red", Unison: true},
			form.Field{Name: "lamp", Kind: form.Radio, Export: "green", Unison: true})},
		{"reader-free", snags.Hint, true, sound(form.Field{Name: "rate", ReadOnly: true}, form.Field{
			Name: "free", Kind: form.Button, Caption: "Free", Steps: []form.Step{{Do: form.FreeFields, Fields: "rate"}},
		})},
		{
			"reader-entry", snags.Hint, false,
			sound(form.Field{Name: "flag", Kind: form.Choice, List: form.ComboBox, Options: []form.Option{{Label: "Blue"}}}),
		},
		{"reader-required", snags.Hint, false, sound(form.Field{Name: "insured", Kind: form.CheckBox},
			form.Field{Name: "policy", RequireIf: "insured"})},
		{"reader-order", snags.Hint, false, sound(form.Field{Name: "a", Rect: geom.R(10, 500, 100, 518)},
			form.Field{Name: "c", Rect: geom.R(10, 300, 100, 318)}, form.Field{Name: "b", Rect: geom.R(10, 400, 100, 418)})},
		{"picture-script", snags.Hint, false, sound(form.Field{
			Name: "photo", Kind: form.Button, Caption: "Photo",
			Action: form.Action{Do: form.TakePicture},
		})},
		{"needs-scripts", snags.Hint, false, sound(form.Field{Name: "sum", Formula: "1 + 1", ReadOnly: true})},
		{"needs-scripts", snags.Risky, false, sound(form.Field{Name: "member", Kind: form.CheckBox},
			form.Field{Name: "club", ShowIf: "member", Required: true})},
		{"double-name", snags.Serious, false, sound(form.Field{Name: "vessel"}, form.Field{Name: "vessel", Kind: form.CheckBox})},
		{"same-tooltip", snags.Hint, false, sound(form.Field{Name: "a_name", Tooltip: "Name"},
			form.Field{Name: "b_name", Tooltip: "Name"})},
		{"overlap", snags.Serious, false, sound(form.Field{Name: "vessel", Rect: geom.R(10, 10, 100, 30)},
			form.Field{Name: "owner", Rect: geom.R(60, 10, 150, 30)})},
		{"empty-list", snags.Serious, false, sound(form.Field{Name: "keel", Kind: form.Choice})},
		{"option", snags.Risky, false, sound(form.Field{
			Name: "keel", Kind: form.Choice,
			Options: []form.Option{{Label: "fin", Export: "1"}, {Label: "long", Export: "1"}},
		})},
		{"lone-radio", snags.Serious, true, sound(form.Field{Name: "keel", Kind: form.Radio, Export: "fin"})},
		{"same-export", snags.Serious, false, sound(form.Field{Name: "keel", Kind: form.Radio, Export: "fin"},
			form.Field{Name: "keel", Kind: form.Radio, Export: "fin"})},
		{"formula-broken", snags.Serious, false, sound(form.Field{Name: "sum", Formula: "lost * 2", ReadOnly: true})},
		{"circle", snags.Serious, false, sound(form.Field{Name: "net", Formula: "gross - 1", ReadOnly: true},
			form.Field{Name: "gross", Formula: "net + 1", ReadOnly: true})},
		{"tab-order", snags.Risky, true, sound(form.Field{Name: "a", Rect: geom.R(10, 100, 100, 118)},
			form.Field{Name: "b", Rect: geom.R(10, 500, 100, 518)}, form.Field{Name: "c", Rect: geom.R(10, 200, 100, 218)},
			form.Field{Name: "d", Rect: geom.R(10, 400, 100, 418)})},
		{"signature-not-last", snags.Hint, false, sound(
			form.Field{Name: "signature_owner", Kind: form.Signature, Rect: geom.R(50, 60, 200, 80)},
			form.Field{Name: "vessel", Rect: geom.R(50, 500, 200, 518)}, form.Field{Name: "port", Rect: geom.R(50, 400, 200, 418)})},
		{"doubtful", snags.Risky, false, sound(form.Field{Name: "vessel", Find: &form.Find{Confidence: 0.2}})},
		{"no-title", snags.Risky, true, func() *form.Template { t := sound(form.Field{Name: "vessel"}); t.Details.Title = ""; return t }()},
		{"no-language", snags.Risky, false, func() *form.Template {
			t := sound(form.Field{Name: "vessel"})
			t.Details.Language = ""
			return t
		}()},
	} {
		all := snags.Find(c.form, nil, now)
		i := slices.IndexFunc(all, func(s snags.Snag) bool { return s.Check == c.check })
		if !assert.GreaterOrEqual(t, i, 0, "%s of %+v", c.check, c.form.Fields) {
			continue
		}
		s := all[i]
		assert.Equal(t, c.much, s.Severity, "%s: %s", c.check, s.Why)
		assert.NotEmpty(t, s.Why)
		assert.Equal(t, s.Mend == "", s.Unmended() != "", "%s has a mend, or says why not", c.check)
		if !assert.Equal(t, c.mend, s.Mend != "", c.check) || !c.mend {
			continue
		}
		e, err := snags.Mend(c.form, nil, now, s.Key())
		require.NoError(t, err, c.check)
		require.NoError(t, c.form.Apply(e), c.check)
		assert.NotContains(t, checksOf(c.form, nil), c.check, "mended")
		require.NoError(t, c.form.Apply(e.Inverse()), "and taken back")
		_, err = snags.Mend(sound(), nil, now, s.Key())
		assert.ErrorContains(t, err, "gone already")
	}
}

func TestWhatIsPrintedIsHeldToTheFields(t *testing.T) {
	b := evidence.NewBuilder(400, 600, 0)
	square := func(x0, y0, x1, y1 float64) {
		b.Path(evidence.Path{
			Stroke: true, Width: 0.7,
			Subpaths: []evidence.Subpath{{
				Closed: true,
				Points: []geom.Point{{X: x0, Y: y0}, {X: x1, Y: y0}, {X: x1, Y: y1}, {X: x0, Y: y1}},
			}},
		})
	}
	for i := range 8 { // a comb of eight cells
		square(50+20*float64(i), 300, 70+20*float64(i), 320)
	}
	for i, r := range "Registration" {
		b.Glyph(r, geom.R(50+5*float64(i), 330, 54.5+5*float64(i), 337))
	}
	ev := b.Page()
	draft := sound(form.Field{Name: "vessel", Rect: geom.R(40, 326, 160, 344)})
	pages := map[int]*evidence.Page{1: ev}
	assert.Contains(t, checksOf(draft, pages), "covers-words")
	comb := sound(form.Field{Name: "registration", Comb: 6, MaxLen: 6, Rect: geom.R(50, 300, 210, 320)})
	require.Contains(t, checksOf(comb, pages), "comb")
	for _, s := range snags.Find(comb, pages, now) {
		if s.Check == "comb" {
			e, err := snags.Mend(comb, pages, now, s.Key())
			require.NoError(t, err)
			require.NoError(t, comb.Apply(e))
		}
	}
	assert.Equal(t, 8, comb.Fields[0].Comb)
}

// WCAG 2.2, "contrast ratio": black on white is 21 to 1, and grey #767676 the lightest that
// still has 4.5 to 1 on white.
func TestContrast(t *testing.T) {
	assert.InDelta(t, 21, snags.Contrast("#000000", "#ffffff"), 0.01)
	assert.InDelta(t, 21, snags.Contrast("", ""), 0.01)
	assert.GreaterOrEqual(t, snags.Contrast("#767676", ""), 4.5)
	assert.Less(t, snags.Contrast("#777777", ""), 4.5)
	assert.InDelta(t, 1, snags.Contrast("#336699", "#336699"), 0.001)
}

// A document that does not say its language is proposed the one that its words are in.
func TestTheLanguageIsProposed(t *testing.T) {
	b := evidence.NewBuilder(400, 600, 0)
	for i, w := range strings.Fields("Name und Anschrift des Eigners oder der Eignerin, mit dem Namen des Schiffes und seiner Länge") {
		x, y := 20+60*float64(i%6), 560-20*float64(i/6)
		b.Word(evidence.Word{Text: w, Rect: geom.R(x, y, x+50, y+12)})
	}
	pages := map[int]*evidence.Page{1: b.Page()}
	draft := &form.Template{Title: "x", Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	all := snags.Find(draft, pages, now)
	i := slices.IndexFunc(all, func(s snags.Snag) bool { return s.Check == "no-language" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "say that it is in German", all[i].Mend)
	e, err := snags.Mend(draft, pages, now, all[i].Key())
	require.NoError(t, err)
	require.NoError(t, draft.Apply(e))
	assert.Equal(t, "de", draft.Details.Language)
}

// Formats that labels ask for are set at once, whatever they are, and each field gets its own.
func TestSnagsOfAKindAreMendedTogether(t *testing.T) {
	asks := func(name, what string) form.Field {
		return form.Field{Name: name, Find: &form.Find{Kept: true, Confidence: 1, Looks: what}}
	}
	draft := sound(asks("arrival", "date"), asks("mail", "email"), asks("fee", "money"), form.Field{Name: "vessel"})
	all := snags.InOnePress(snags.Find(draft, nil, now))
	i := slices.IndexFunc(all, func(x snags.Together) bool { return x.Words == "make all three what their labels ask" })
	require.GreaterOrEqual(t, i, 0, all)
	e, err := snags.Mend(draft, nil, now, all[i].Key)
	require.NoError(t, err)
	assert.Len(t, e.After, 3)
	require.NoError(t, draft.Apply(e))
	kinds := map[string]form.FormatKind{}
	for _, f := range draft.Fields {
		kinds[f.Name] = f.Format.Kind
	}
	want := map[string]form.FormatKind{"arrival": form.Date, "mail": form.Email, "fee": form.Number, "vessel": form.NoFormat}
	assert.Equal(t, want, kinds)
	require.NoError(t, draft.Apply(e.Inverse()), "and undone at once")
	_, err = snags.Mend(sound(form.Field{Name: "vessel"}), nil, now, all[i].Key)
	assert.ErrorIs(t, err, form.ErrNothing)
}
