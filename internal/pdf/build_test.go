package pdf_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Bit positions as the tables of ISO 32000-2 print them, counted from 1.
func TestFlagsAreThoseOfTheStandard(t *testing.T) {
	for name, c := range map[string]struct{ got, bit int }{
		"table 227 ReadOnly": {object.FlagReadOnly, 1}, "table 227 Required": {object.FlagRequired, 2},
		"table 227 NoExport":      {object.FlagNoExport, 3},
		"table 229 NoToggleToOff": {object.FlagNoToggleToOff, 15}, "table 229 Radio": {object.FlagRadio, 16},
		"table 229 Pushbutton": {object.FlagPushbutton, 17}, "table 229 RadiosInUnison": {object.FlagRadiosInUnison, 26},
		"table 231 Multiline": {object.FlagMultiline, 13}, "table 231 Password": {object.FlagPassword, 14},
		"table 231 FileSelect":      {object.FlagFileSelect, 21},
		"table 231 DoNotSpellCheck": {object.FlagDoNotSpellCheck, 23}, "table 231 DoNotScroll": {object.FlagDoNotScroll, 24},
		"table 231 Comb":  {object.FlagComb, 25},
		"table 233 Combo": {object.FlagCombo, 18}, "table 233 Edit": {object.FlagEdit, 19}, "table 233 Sort": {object.FlagSort, 20},
		"table 233 MultiSelect": {object.FlagMultiSelect, 22},
		"table 167 Hidden":      {object.AnnotHidden, 2}, "table 167 Print": {object.AnnotPrint, 3},
		"table 167 NoView":          {object.AnnotNoView, 6},
		"table 225 SignaturesExist": {object.SigFlagSignaturesExist, 1}, "table 225 AppendOnly": {object.SigFlagAppendOnly, 2},
	} {
		assert.Equal(t, 1<<(c.bit-1), c.got, name)
	}
}

func built(t *testing.T, src []byte) ([]byte, *form.Template, []read.Widget) {
	t.Helper()
	pages, err := engine.Pages(t.Context(), src)
	require.NoError(t, err)
	tpl := every(pages)
	out, err := write.Build(src, tpl)
	require.NoError(t, err)
	ws, err := read.Widgets(out)
	require.NoError(t, err)
	return out, tpl, ws
}

func TestEveryKindIsWrittenAsTheStandardHasIt(t *testing.T) {
	src := plain("")
	out, tpl, ws := built(t, src)
	sound(t, out)
	assert.True(t, bytes.HasPrefix(out, src), "the original bytes stay (ISO 32000-2, 7.5.6)")
	require.NoError(t, proof.Prove(t.Context(), src, out, tpl))
	require.Len(t, ws, len(tpl.Fields))
	by := map[string]read.Widget{}
	for i, w := range ws {
		assert.Equal(t, tpl.Fields[i].Name, w.Name, "annotations stand in tab order")
		assert.Equal(t, tpl.Fields[i].Rect, w.Rect)
		assert.Equal(t, tpl.Fields[i].Kind, w.Kind)
		assert.Equal(t, tpl.Fields[i].Tooltip, w.Tooltip)
		assert.True(t, w.HasLooks, "%s brings its own appearance", w.Name)
		by[w.Name] = w
	}
	// Flags per field: bits of tables 227, 229, 231 and 233, written out.
	assert.Equal(t, 1<<1, by["vessel_name"].Flags)
	assert.Equal(t, 1<<12, by["remarks"].Flags)
	assert.Equal(t, 1<<23|1<<24, by["registration_no"].Flags)
	assert.Equal(t, 8, by["registration_no"].MaxLen, "a comb needs MaxLen (table 231, bit 25)")
	assert.Equal(t, 1<<0, by["owner"].Flags)
	assert.Equal(t, "Office", by["owner"].Value)
	assert.Equal(t, 1<<14|1<<15, by["keel"].Flags)
	assert.Equal(t, 1<<17, by["berth"].Flags)
	assert.Equal(t, 1<<16, by["send"].Flags)
	assert.Equal(t, 4, by["vessel_name"].Annot, "prints (table 167, bit 3)")
	assert.Zero(t, by["send"].Annot, "a button stays off paper")
	assert.Equal(t, []string{"ResetForm"}, by["clear"].Presses)
	assert.Equal(t, []string{"Named Print"}, by["print"].Presses)
	assert.Equal(t, []string{"SubmitForm https://office.example/returns?a=(b)"}, by["send"].Presses)
	assert.Contains(t, by["arrival"].Scripts["K"], `AFDate_KeystrokeEx("dd.mm.yyyy")`)
	assert.Contains(t, by["length"].Scripts["F"], "AFNumber_Format(2, 0,")
	assert.Equal(t, "Yes", by["shore_power"].Export)
	assert.Equal(t, "größe 2", by["keel"].Export)
	assert.Equal(t, []form.Option{{Label: "North pier", Export: "N"}, {Label: "South pier"}}, by["berth"].Options)

	// The same through poppler, as an outside reader of the dictionary: no field
	// depends on NeedAppearances, and the form is there.
	assert.Contains(t, tool(t, out, "pdfinfo", "IN"), "AcroForm")
	json := tool(t, out, "qpdf", "--json", "IN")
	assert.Contains(t, json, `"/Tabs": "/W"`)
	assert.NotContains(t, json, "NeedAppearances\": true")
	assert.Contains(t, json, `"/SigFlags": 1`)
}

func TestOtherWritersFilesTakeAnIncrementToo(t *testing.T) {
	base := plain("", "")
	for name, args := range map[string][]string{
		"object streams": {"--object-streams=generate", "IN", "OUT"},
		"linearised":     {"--linearize", "IN", "OUT"},
		"owner password": {"--encrypt", "", "owner", "256", "--modify=none", "--form=y", "--annotate=n", "--", "IN", "OUT"},
	} {
		t.Run(name, func(t *testing.T) {
			src := []byte(tool(t, base, "qpdf", args...))
			out, tpl, _ := built(t, src)
			sound(t, out)
			require.NoError(t, proof.Prove(t.Context(), src, out, tpl))
		})
	}
}

// A turned page and one whose visible box does not start at the origin: rectangles
// are in page space and must come back as they went in.
func TestTurnedAndCroppedPages(t *testing.T) {
	for name, extra := range map[string]string{
		"90": "/Rotate 90", "180": "/Rotate 180", "270": "/Rotate 270",
		"cropped": "/MediaBox [-50 -30 400 600] /CropBox [-20 10 380 590]", "cropped and turned": "/CropBox [20 10 400 600] /Rotate 90",
	} {
		t.Run(name, func(t *testing.T) {
			src := plain(extra)
			out, tpl, ws := built(t, src)
			sound(t, out)
			require.NoError(t, proof.Prove(t.Context(), src, out, tpl))
			assert.Equal(t, tpl.Fields[0].Rect, ws[0].Rect)
			ev, err := engine.ReadPage(t.Context(), src, 1)
			require.NoError(t, err)
			rules := ev.H // evidence is of the page as shown
			if ev.Rotate%180 != 0 {
				rules = ev.V
			}
			require.NotEmpty(t, rules)
			assert.InDelta(t, 200, rules[0].Len(), 0.1, "the rule is as long as it was drawn")
			assert.True(t, geom.R(0, 0, ev.Width, ev.Height).Covers(rules[0].Rect(), 1))
		})
	}
}

func TestProofFindsWhatDiffers(t *testing.T) {
	src := plain("")
	out, tpl, _ := built(t, src)
	for want, spoil := range map[string]func(*form.Field){
		"tooltip is":     func(f *form.Field) { f.Tooltip += "!" },
		"rect is":        func(f *form.Field) { f.Rect = f.Rect.Shift(1, 0) },
		"required is":    func(f *form.Field) { f.Required = false },
		"maxlen is":      func(f *form.Field) { f.MaxLen = 5 },
		"is vessel_name": func(f *form.Field) { f.Name = "other" },
		"K script":       func(f *form.Field) { f.Format = form.Format{Kind: form.Number} },
	} {
		other := *tpl
		other.Fields = append([]form.Field(nil), tpl.Fields...)
		spoil(&other.Fields[0])
		assert.ErrorContains(t, proof.Prove(t.Context(), src, out, &other), want)
	}
	other := *tpl
	other.Fields = tpl.Fields[1:]
	assert.ErrorContains(t, proof.Prove(t.Context(), src, out, &other), "fields were written")
	assert.ErrorContains(t, proof.Prove(t.Context(), []byte("something else"), out, tpl), "original bytes")
}

func TestANameThatTheFileHasAlreadyIsRefused(t *testing.T) {
	out, tpl, _ := built(t, plain(""))
	_, err := write.Build(out, tpl)
	assert.ErrorContains(t, err, "already has a field called vessel_name")
}

func TestStripTakesEveryFieldAndNothingElse(t *testing.T) {
	src := plain("/Annots [<< /Type /Annot /Subtype /Link /Rect [10 10 60 30] /Border [0 0 0] >>]")
	out, _, _ := built(t, src)
	bare, err := fill.Strip(out)
	require.NoError(t, err)
	sound(t, bare)
	ws, err := read.Widgets(bare)
	require.NoError(t, err)
	assert.Empty(t, ws)
	assert.Contains(t, tool(t, bare, "qpdf", "--json", "IN"), `"/Link"`)
}

// Pressed in PDFium, the engine of a widely used viewer, the print button asks for
// the named action that the viewer answers by printing.
func TestThePrintButtonAsksToPrint(t *testing.T) {
	out, tpl, _ := built(t, plain(""))
	for _, f := range tpl.Fields {
		if f.Kind != form.Button {
			continue
		}
		asked, err := engine.Press(t.Context(), out, f.Rect.Mid())
		require.NoError(t, err)
		if f.Name == "print" {
			assert.Equal(t, []string{"Print"}, asked)
		} else {
			assert.Empty(t, asked, f.Name)
		}
	}
}
