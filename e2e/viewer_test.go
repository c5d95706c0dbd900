package e2e_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// viewer is a form open in Chromium's own PDF viewer.
type viewer struct {
	*readers.Viewer
	t *testing.T
}

// values gives what stands in the fields now: the viewer saves the filled file.
func (v *viewer) values() map[string]string {
	v.t.Helper()
	out := map[string]string{}
	for _, w := range v.widgets() {
		out[w.Name] = w.Value
	}
	return out
}

func (v *viewer) widgets() []read.Widget {
	v.t.Helper()
	b, err := v.Save()
	require.NoError(v.t, err)
	ws, err := read.Widgets(b)
	require.NoError(v.t, err)
	return ws
}

func openViewer(t *testing.T, size form.Page, at string) *viewer {
	t.Helper()
	v, err := readers.OpenViewer(at+"/form.pdf", size)
	require.NoError(t, err)
	t.Cleanup(v.Close)
	return &viewer{Viewer: v, t: t}
}

func (v *viewer) messages() []string {
	told, err := v.Messages()
	require.NoError(v.t, err)
	return told
}

// press clicks the middle of a rectangle given in page space.
func (v *viewer) press(r geom.Rect) {
	v.t.Helper()
	require.NoError(v.t, v.ClickAt(v.On(r.Mid())))
	time.Sleep(150 * time.Millisecond)
}

func (v *viewer) write(r geom.Rect, text string) { v.writeAt(r, text, 25*time.Millisecond) }

// until writes an answer until it has come to something: on a busy machine the viewer loses keys
// while its scripts run.
func (v *viewer) until(r geom.Rect, text string, done func() bool) {
	v.t.Helper()
	for pause := 60 * time.Millisecond; pause < time.Second; pause *= 2 {
		v.writeAt(r, text, pause)
		if done() {
			return
		}
	}
	v.t.Errorf("%q was written and came to nothing", text)
}

func (v *viewer) writeAt(r geom.Rect, text string, pause time.Duration) {
	v.t.Helper()
	v.press(r)
	require.NoError(v.t, v.Key("a", browser.Ctrl))
	require.NoError(v.t, v.Type(text, pause))
	require.NoError(v.t, v.Key(browser.Tab))
	time.Sleep(200 * time.Millisecond)
}

// A released form at work in Chromium's own PDF viewer: the tab order is that of
// the draft, a date is checked, a number is formatted, the clear button clears and
// the send button sends.
func TestRulesOrderAndButtonsWorkInAnotherReader(t *testing.T) {
	berth, err := demo.Berth()
	require.NoError(t, err)
	var mu sync.Mutex
	var posted []string
	var file []byte
	mux := http.NewServeMux()
	mux.HandleFunc("/form.pdf", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/pdf")
		_, _ = w.Write(file)
	})
	mux.HandleFunc("/returns", func(w http.ResponseWriter, r *http.Request) {
		b, _ := io.ReadAll(r.Body)
		mu.Lock()
		posted = append(posted, string(b))
		mu.Unlock()
		w.WriteHeader(http.StatusNoContent)
	})
	srv := httptest.NewServer(mux)
	t.Cleanup(srv.Close)

	pages, err := engine.Pages(t.Context(), berth.Bytes)
	require.NoError(t, err)
	row := func(i int) geom.Rect { return geom.R(160, 700-float64(i)*26, 300, 716-float64(i)*26) }
	tpl := &form.Template{Pages: pages, Fields: []form.Field{
		{ID: "1", Page: 1, Order: 1, Kind: form.Text, Name: "first", Rect: row(0)},
		{ID: "2", Page: 1, Order: 2, Kind: form.Text, Name: "far_down", Rect: row(4)}, // out of reading order on purpose
		{
			ID: "3", Page: 1, Order: 3, Kind: form.Text, Name: "arrival", Rect: row(1),
			Format: form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"},
		},
		{ID: "4", Page: 1, Order: 4, Kind: form.Text, Name: "amount", Rect: row(2), Format: form.Format{Kind: form.Number, Decimals: 2}},
		{ID: "5", Page: 1, Order: 5, Kind: form.CheckBox, Name: "tick", Rect: geom.R(320, 660, 332, 672)},
		{
			ID: "6", Page: 1, Order: 6, Kind: form.Button, Name: "clear", Caption: "Clear", Rect: geom.R(400, 700, 480, 722),
			Action: form.Action{Do: form.ClearForm},
		},
		{
			ID: "7", Page: 1, Order: 7, Kind: form.Button, Name: "send", Caption: "Send", Rect: geom.R(400, 660, 480, 682),
			Action: form.Action{Do: form.SubmitForm, URL: srv.URL + "/returns"},
		},
		{
			ID: "8", Page: 1, Order: 8, Kind: form.Button, Name: "print", Caption: "Print", Rect: geom.R(400, 620, 480, 642),
			Action: form.Action{Do: form.PrintForm},
		},
	}}
	file, err = write.Build(berth.Bytes, tpl)
	require.NoError(t, err)
	require.NoError(t, proof.Prove(t.Context(), berth.Bytes, file, tpl))
	v := openViewer(t, pages[0], srv.URL)
	send := func() string {
		t.Helper()
		mu.Lock()
		before := len(posted)
		mu.Unlock()
		v.press(tpl.Fields[6].Rect)
		require.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return len(posted) > before }, 8*time.Second,
			50*time.Millisecond, "the send button sends")
		mu.Lock()
		defer mu.Unlock()
		return posted[len(posted)-1]
	}

	// tab order: type, tab, type
	v.press(row(0))
	require.NoError(t, v.Type("one", 25*time.Millisecond))
	require.NoError(t, v.Key(browser.Tab))
	require.NoError(t, v.Type("two", 25*time.Millisecond))
	require.NoError(t, v.Key(browser.Tab))
	require.NoError(t, v.Type("01.02.2027", 25*time.Millisecond))
	require.NoError(t, v.Key(browser.Tab))
	require.NoError(t, v.Type("1234.5", 25*time.Millisecond))
	require.NoError(t, v.Key(browser.Tab))
	v.press(tpl.Fields[4].Rect)
	fdf := send()
	assert.Contains(t, fdf, "%FDF-")
	assert.Equal(t, map[string]string{"first": "one", "far_down": "two", "arrival": "01.02.2027", "amount": "1234.5", "tick": "Yes"},
		fdfValues(fdf), fdf)

	// what comes back by the button and as a file is read as what was typed
	want := map[string][]string{"first": {"one"}, "far_down": {"two"}, "arrival": {"01.02.2027"}, "amount": {"1234.5"}, "tick": {"Yes"}}
	sent, err := read.FDF([]byte(fdf))
	require.NoError(t, err)
	assert.Equal(t, want, sent.Named)
	saved, err := v.Save()
	require.NoError(t, err)
	back, err := read.Answered(saved)
	require.NoError(t, err)
	assert.Equal(t, want, back.Named)

	// a word is no date: refused on leaving, the last good value stays
	v.write(row(1), "30.02.2027")
	assert.NotContains(t, fdfValues(send())["arrival"], "30.02")
	assert.Contains(t, strings.Join(v.messages(), "\n"), "Please write a date as DD.MM.YYYY.")

	// letters are refused in a number while typing
	v.write(row(2), "7x8")
	assert.NotContains(t, fdfValues(send())["amount"], "x")

	v.press(tpl.Fields[5].Rect) // clear
	after := fdfValues(send())
	assert.Empty(t, after["first"]+after["far_down"]+after["arrival"]+after["amount"])
	assert.NotEqual(t, "Yes", after["tick"])
}

var fdfField = regexp.MustCompile(`/T\s*\(([^)]*)\)\s*/V\s*(?:\(([^)]*)\)|/(\w+))`)

// fdfValues reads names and values of a plain FDF (ISO 32000-2, 12.7.8).
func fdfValues(s string) map[string]string {
	out := map[string]string{}
	for _, m := range fdfField.FindAllStringSubmatch(s, -1) {
		if v := m[2] + m[3]; v != "" && v != "Off" {
			out[m[1]] = v
		}
	}
	return out
}
