package e2e_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
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
