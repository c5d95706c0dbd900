package e2e_test

import (
	"encoding/base64"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// pdfjsDist is where npm puts pdf.js.
const pdfjsDist = "../node_modules/pdfjs-dist/legacy"

// pdfjsPage reads a form with pdf.js.
const pdfjsPage = `<!doctype html><script type="module">
	import * as pdfjs from "/js/build/pdf.mjs";
	pdfjs.GlobalWorkerOptions.workerSrc = "/js/build/pdf.worker.mjs";
	window.read = async () => {
		const doc = await pdfjs.getDocument("/form.pdf").promise;
		const out = [];
		for (let n = 1; n <= doc.numPages; n++) {
			for (const a of await (await doc.getPage(n)).getAnnotations()) {
				if (a.subtype !== "Widget") continue;
				out.push({page: n, name: a.fieldName, type: a.fieldType || "", tooltip: a.alternativeText || "", rect: a.rect, multiLine: !!a.multiLine,
					comb: !!a.comb, checkBox: !!a.checkBox, radio: !!a.radioButton, button: !!a.pushButton, required: !!a.required, readOnly: !!a.readOnly});
			}
		}
		return out;
	};
	window.loaded = true;
</script>`

// pdfjsServer offers pdf.js and one file.
func pdfjsServer(t *testing.T, b []byte) string {
	t.Helper()
	d := readers.NewDesk(pdfjsDist, pdfjsPage)
	t.Cleanup(d.Close)
	d.Offer(b)
	return d.URL
}

// readByPDFJS has pdf.js read a released form and compares it with the draft:
// names, kinds, rectangles, tooltips, flags, and the order.
func readByPDFJS(t *testing.T, o *office, b []byte, draft form.Template) {
	t.Helper()
	o.must(o.Open(pdfjsServer(t, b)))
	o.must(o.Wait("window.loaded"))
	var got []struct {
		Page                    int
		Name, Type, Tooltip     string
		Rect                    geom.Rect
		MultiLine, Comb         bool
		CheckBox, Radio, Button bool
		Required, ReadOnly      bool
	}
	var raw json.RawMessage
	o.must(o.Eval("window.read()", &raw))
	require.NoError(t, json.Unmarshal(raw, &got))
	want := draft.Placed()
	require.Len(t, got, len(want))
	for i, f := range want {
		g := got[i]
		assert.Equal(t, f.Name, g.Name)
		assert.Equal(t, f.Page, g.Page, f.Name)
		assert.Equal(t, f.Tooltip, g.Tooltip, f.Name)
		assert.Greater(t, f.Rect.IoU(g.Rect), 0.999, f.Name)
		assert.Equal(t, map[form.Kind]string{
			form.Text: "Tx", form.CheckBox: "Btn", form.Radio: "Btn", form.Button: "Btn",
			form.Signature: "Sig",
		}[f.Kind], g.Type, f.Name)
		assert.Equal(t, f.Kind == form.CheckBox, g.CheckBox, f.Name)
		assert.Equal(t, f.Kind == form.Button, g.Button, f.Name)
		assert.Equal(t, f.Multiline, g.MultiLine, f.Name)
		assert.Equal(t, f.Comb > 0, g.Comb, f.Name)
		assert.Equal(t, f.Required, g.Required, f.Name)
	}
	assert.NotEmpty(t, strings.TrimSpace(want[0].Name))
}

// fillingPage has pdf.js fill a form in by its own store, and save it.
const fillingPage = `<!doctype html><script type="module">
	import * as pdfjs from "/js/build/pdf.mjs";
	pdfjs.GlobalWorkerOptions.workerSrc = "/js/build/pdf.worker.mjs";
	window.fill = async (values) => {
		const doc = await pdfjs.getDocument("/form.pdf").promise;
		const all = await doc.getFieldObjects();
		for (const [name, value] of Object.entries(values)) {
			for (const f of all[name]) {
				const on = f.exportValues;
				doc.annotationStorage.setValue(f.id, { value: f.type === "checkbox" ? value === on : f.type === "radiobutton" ? value === on : value });
			}
		}
		let s = "";
		for (const b of await doc.saveDocument()) s += String.fromCharCode(b);
		return btoa(s);
	};
	window.loaded = true;
</script>`

// What pdf.js fills in and saves comes back as it was given.
func TestAFormFilledByPDFJSComesBack(t *testing.T) {
	o := openOffice(t)
	berth, err := demo.Berth()
	require.NoError(t, err)
	pages, err := engine.Pages(t.Context(), berth.Bytes)
	require.NoError(t, err)
	row := func(i int) geom.Rect { return geom.R(160, 700-float64(i)*26, 300, 716-float64(i)*26) }
	file, err := write.Build(berth.Bytes, &form.Template{Pages: pages, Fields: []form.Field{
		{ID: "1", Page: 1, Order: 1, Kind: form.Text, Name: "vessel", Rect: row(0)},
		{ID: "2", Page: 1, Order: 2, Kind: form.Text, Name: "remarks", Multiline: true, Rect: geom.R(160, 600, 400, 660)},
		{ID: "3", Page: 1, Order: 3, Kind: form.CheckBox, Name: "ashore", Export: "Yes", Rect: geom.R(320, 660, 332, 672)},
		{ID: "4", Page: 1, Order: 4, Kind: form.Radio, Name: "keel", Export: "fin", Rect: geom.R(340, 660, 352, 672)},
		{ID: "5", Page: 1, Order: 5, Kind: form.Radio, Name: "keel", Export: "bilge", Rect: geom.R(360, 660, 372, 672)},
	}})
	require.NoError(t, err)
	d := readers.NewDesk(pdfjsDist, fillingPage)
	t.Cleanup(d.Close)
	d.Offer(file)
	o.must(o.Open(d.URL))
	o.must(o.Wait("window.loaded"))
	var saved string
	o.must(o.Eval(`window.fill({ vessel: "Petrel & Sons", remarks: "one\ntwo", ashore: "Yes", keel: "bilge" })`, &saved))
	b, err := base64.StdEncoding.DecodeString(saved)
	require.NoError(t, err)
	c, err := read.Answered(b)
	require.NoError(t, err)
	assert.Equal(
		t,
		map[string][]string{"vessel": {"Petrel & Sons"}, "remarks": {"one\ntwo"}, "ashore": {"Yes"}, "keel": {"bilge"}},
		c.Named,
	)
}
