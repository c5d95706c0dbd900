package pdf_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/pdftest"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
)

// fieldsByQPDF is what another reader says of the fields of a file: names, kinds, flags, values, options.
func fieldsByQPDF(t *testing.T, b []byte) map[string][]string {
	t.Helper()
	var in struct {
		Acroform struct {
			Fields []map[string]any `json:"fields"`
		} `json:"acroform"`
	}
	require.NoError(t, json.Unmarshal([]byte(tool(t, b, "qpdf", "--json", "--json-key=acroform", "IN")), &in))
	out := map[string][]string{}
	for _, f := range in.Acroform.Fields {
		if notes, ok := f["annotation"].(map[string]any); ok {
			delete(notes, "object")
		}
		for _, k := range []string{"object", "parent", "defaultvalue"} {
			delete(f, k)
		}
		if v, ok := f["value"].(string); ok && strings.HasSuffix(v, " R") { // the dictionary of a signature
			f["value"] = "signed"
		}
		said, err := json.Marshal(f)
		require.NoError(t, err)
		name, _ := f["fullname"].(string)
		out[name] = append(out[name], string(said))
	}
	return out
}

// A release without a change keeps every field of forms that nobody here made, as another reader tells it: also those that no row of a
// draft can be, such as signatures that do not show.
func TestFormsOfOtherProgramsStayWhole(t *testing.T) {
	forms, err := readers.FormsOfOthers("../..")
	require.NoError(t, err)
	require.Greater(t, len(forms), 150)
	sample := readers.NewSample()
	t.Log("ZM_SEED=" + strconv.FormatUint(sample.Seed, 10))
	for _, name := range sample.Of(slices.Sorted(maps.Keys(forms)), 15) {
		t.Run(name, func(t *testing.T) {
			b := forms[name]
			h, err := read.Check(t.Context(), b)
			require.NoError(t, err)
			b = h.Bytes
			out := releaseOf(t, b, draftOf(t, b))
			assert.Equal(t, fieldsByQPDF(t, b), fieldsByQPDF(t, out))
			before, err := read.Widgets(b)
			require.NoError(t, err)
			after, err := read.Widgets(out)
			require.NoError(t, err)
			require.Len(t, after, len(before))
			for i := range before {
				assert.Equal(t, said(before[i]), said(after[i]))
			}
		})
	}
}

// Nothing that a file brought is lost, moved or cut on the way: fields without a size, with long names, with more signs than a row takes,
// off the page.
func TestOddFieldsStayAsTheyCame(t *testing.T) {
	src := pdftest.Odd()
	out := releaseOf(t, src, draftOf(t, src))
	sound(t, out)
	assert.Equal(t, fieldsByQPDF(t, src), fieldsByQPDF(t, out))
	rects := func(b []byte) map[string][4]float64 {
		ws, err := read.Widgets(b)
		require.NoError(t, err)
		out := map[string][4]float64{}
		for _, w := range ws {
			out[w.Name] = [4]float64{w.Rect.X0, w.Rect.Y0, w.Rect.X1, w.Rect.Y1}
		}
		return out
	}
	assert.Equal(t, rects(src), rects(out))
	assert.Len(t, rects(out), 6)

	draft := draftOf(t, src) // on pages that are assembled anew, too
	draft.Pages[0].Rotate = 90
	turned := releaseOf(t, src, draft)
	sound(t, turned)
	assert.Equal(t, slices.Sorted(maps.Keys(rects(src))), slices.Sorted(maps.Keys(rects(turned))))
}

// Scripts of other makers stay byte for byte where nobody changes what they say: formats that a row tells and formats that it cannot.
func TestScriptsOfOthersStay(t *testing.T) {
	number := func(args string) [2]string {
		return [2]string{"AFNumber_Keystroke(" + args + ");", "AFNumber_Format(" + args + ");"}
	}
	cases := map[string][2]string{ // keystroke and format
		"kr":         number(`2, 1, 0, 0, "kr.", false`),
		"fr":         number(`2, 0, 0, 0, "Fr. ", true`),
		"escaped":    number(`2, 1, 0, 0, "\u20ac", true`),
		"bracketed":  number(`2, 0, 2, 0, "(net)", false`),
		"figures":    number(`0, 0, 0, 0, " m2", false`),
		"quoted":     number(`2, 0, 0, 0, "\"", false`),
		"red":        number(`2, 0, 3, 0, "", false`),
		"swiss":      number(`2, 4, 0, 0, "", false`),
		"plain":      number(`2, 0, 0, 0, "", false`),
		"no_keys":    {"", `AFNumber_Format(2, 0, 0, 0, "", false);`},
		"no_format":  {`AFNumber_Keystroke(2, 0, 0, 0, "", false);`, ""},
		"date_alone": {"", `AFDate_FormatEx("dd.mm.yyyy");`},
		"date_odd":   {`AFDate_KeystrokeEx("yyyy/dd/mm HH:MM");`, `AFDate_FormatEx("yyyy/dd/mm HH:MM");`},
		"percent":    {`AFPercent_Keystroke(1, 0);`, `AFPercent_Format(1, 0);`},
		"special":    {`AFSpecial_Keystroke(2);`, `AFSpecial_Format(2);`},
		"mask":       {`AFSpecial_KeystrokeEx("99-AA");`, ""},
		"own":        {`if (event.willCommit) { event.rc = event.value.length < 9; }`, `event.value = "<" + event.value + ">";`},
		"spaced":     {"AFNumber_Keystroke( 2,0,0,0,'',false )", "  AFNumber_Format( 2,0,0,0,'',false )  "},
	}
	names := slices.Sorted(maps.Keys(cases))
	objects := []string{"", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>", ""}
	refs := ""
	for i, name := range names {
		aa := ""
		for k, js := range map[string]string{"K": cases[name][0], "F": cases[name][1]} {
			if js != "" {
				aa += "/" + k + " << /S /JavaScript /JS (" + strings.NewReplacer(`\`, `\\`, "(", `\(`, ")", `\)`).Replace(js) + ") >> "
			}
		}
		y := 570 - 25*i
		objects = append(objects, fmt.Sprintf("<< /Type /Annot /Subtype /Widget /FT /Tx /T (%s) /TU (Asks) /F 4 /Rect [40 %d 240 %d] "+
			"/DA (/Helv 10 Tf 0 g) /P 3 0 R /AA << %s>> >>", name, y, y+18, aa))
		refs += fmt.Sprintf("%d 0 R ", len(objects))
	}
	objects = append(objects, "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>")
	objects[0] = "<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [" + refs + "] /DA (/Helv 10 Tf 0 g) /DR << /Font << /Helv " +
		fmt.Sprint(len(objects)) + " 0 R >> >> >> >>"
	objects[2] = "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [" + refs + "] >>"
	src := assembled(objects...)
	scripts := func(b []byte) map[string]map[string]string {
		ws, err := read.Widgets(b)
		require.NoError(t, err)
		out := map[string]map[string]string{}
		for _, w := range ws {
			out[w.Name] = w.Scripts
		}
		return out
	}
	want := scripts(src)
	require.Len(t, want, len(cases))
	assert.Equal(t, want, scripts(releaseOf(t, src, draftOf(t, src))), "without a change")
	draft := draftOf(t, src)
	for i := range draft.Fields {
		f := &draft.Fields[i]
		f.Tooltip, f.Required, f.Rect = "Another", true, f.Rect.Shift(20, 0)
	}
	assert.Equal(t, want, scripts(releaseOf(t, src, draft)), "with changes of something else")
	draft.Fields = append(draft.Fields, form.Field{
		ID: form.NewID(), Page: 1, Order: 99, Kind: form.Text, Name: "sum", Tooltip: "Sum", Rect: geom.R(300, 40, 380, 58),
		Formula: "plain + no_keys", Format: form.Format{Kind: form.Number, Decimals: 2},
	})
	assert.Equal(t, want["kr"], scripts(releaseOf(t, src, draft))["kr"], "beside fields of ours")
}

// What is legal is no fault: several fields of one name, a format without a keystroke script, buttons with tooltips of their own, fields
// without a name.
func TestWhatIsLegalIsReleased(t *testing.T) {
	src := assembled(
		"<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [4 0 R 5 0 R 6 0 R 9 0 R 10 0 R] /DA (/Helv 10 Tf 0 g) "+
			"/DR << /Font << /Helv 11 0 R >> >> >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R 5 0 R 7 0 R 8 0 R 9 0 R 10 0 R] >>",
		"<< /Type /Annot /Subtype /Widget /FT /Tx /T (vessel) /TU (First) /F 4 /Rect [40 500 200 520] /V (Gannet) >>",
		"<< /Type /Annot /Subtype /Widget /FT /Tx /T (vessel) /TU (Second) /F 4 /Rect [40 460 200 480] /V (Gannet) >>",
		"<< /FT /Btn /Ff 49152 /T (quay) /TU (Which) /Kids [7 0 R 8 0 R] >>",
		"<< /Type /Annot /Subtype /Widget /Parent 6 0 R /TU (North) /F 4 "+
			"/Rect [40 420 56 436] /AS /Off /AP << /N << /n 12 0 R /Off 12 0 R >> >> >>",
		"<< /Type /Annot /Subtype /Widget /Parent 6 0 R /TU (South) /F 4 "+
			"/Rect [80 420 96 436] /AS /Off /AP << /N << /s 12 0 R /Off 12 0 R >> >> >>",
		"<< /Type /Annot /Subtype /Widget /FT /Tx /F 4 /Rect [40 380 200 400] /V (nameless) >>",
		"<< /Type /Annot /Subtype /Widget /FT /Tx /T (length) /F 4 /Rect [40 340 200 360] "+
			"/AA << /F << /S /JavaScript /JS (AFNumber_Format\\(2, 0, 0, 0, \"\", false\\);) >> >> >>",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
		"<< /Type /XObject /Subtype /Form /BBox [0 0 16 16] /Length 0 >>\nstream\n\nendstream",
	)
	out := releaseOf(t, src, draftOf(t, src))
	sound(t, out)
	assert.Equal(t, fieldsByQPDF(t, src), fieldsByQPDF(t, out))
	draft := draftOf(t, src)
	draft.Fields[0].Rect = draft.Fields[0].Rect.Shift(30, 0)
	moved := releaseOf(t, src, draft)
	assert.Len(t, fieldsByQPDF(t, moved)["vessel"], 2)
	assert.Contains(t, tool(t, moved, "qpdf", "--qdf", "--object-streams=disable", "IN", "-"), "(nameless)")
}

// Forms that nobody here made are tagged, and look as before, with the same fields: what may be missing then is only what the office has to
// say, and what a file with tags of its own says wrongly.
func TestFormsOfOtherProgramsAreTagged(t *testing.T) {
	forms, err := readers.FormsOfOthers("../..")
	require.NoError(t, err)
	sample := readers.NewSample()
	t.Log("ZM_SEED=" + strconv.FormatUint(sample.Seed, 10))
	for _, name := range sample.Of(slices.Sorted(maps.Keys(forms)), 15) {
		t.Run(name, func(t *testing.T) {
			h, err := read.Check(t.Context(), forms[name])
			require.NoError(t, err)
			draft := draftOf(t, h.Bytes)
			draft.Details.Title, draft.Details.Language = "A form", "en"
			for i := range draft.Fields {
				if draft.Fields[i].Tooltip == "" {
					draft.Fields[i].Tooltip = "A field"
				}
			}
			src := releaseOf(t, h.Bytes, draft)
			own := strings.Contains(told(t, "qpdf", "--json", "--json-key=qpdf", stored(t, src)), `"/StructTreeRoot"`)
			out := tagged(t, src)
			broken, err := proof.Accessible(out)
			require.NoError(t, err)
			for _, b := range broken {
				assert.True(t, own || b.Clause == "7.18.1", "%v", b) // fields that no row can be have no tooltip
			}
			var looks [2][][]byte
			for i, b := range [][]byte{src, out} {
				require.NoError(t, engine.Use(t.Context(), b, func(d *engine.Doc) (err error) {
					looks[i], err = d.Prints()
					return err
				}))
			}
			assert.Equal(t, looks[0], looks[1], "it looks as before")
			assert.Equal(t, fieldsByQPDF(t, src), fieldsByQPDF(t, out))
		})
	}
}
