package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/png"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// state is what the rehearsal answers.
type state struct {
	Refused      string
	Raw, Shown   map[string]string
	Hidden, Must []string
	Missing      []string
	Trouble      map[string]string
}

func (o *office) answer(v url.Values) state {
	o.t.Helper()
	code, body := o.post("/documents/1/answers", v)
	require.Equal(o.t, http.StatusOK, code, body)
	var s state
	require.NoError(o.t, json.Unmarshal([]byte(body), &s))
	return s
}

func TestRulesAreSetInNotesAndWrongOnesRefused(t *testing.T) {
	o := found(t)
	for _, c := range []struct{ field, key, value, say string }{
		{"length_overall", "formula", "beam_m * * 2", "nothing before"},
		{"length_overall", "formula", "beam * 2", "did you mean beam_m?"},
		{"length_overall", "showif", "beam_m >", "breaks off"},
		{"length_overall", "requireif", "if(", "not closed"},
		{"length_overall", "check:7:a", "3", "somebody else"},
		{"length_overall", "style-of-tides", "x", "cannot be set"},
		{"length_overall", "step:new", "sail", ""}, // nothing that can be done: nothing is changed
	} {
		rev := o.draft(1).Document.Revision
		code, body := o.set(c.field, c.key, c.value)
		if c.say != "" {
			assert.NotEqual(t, http.StatusOK, code, c.value)
			assert.Contains(t, strings.ToLower(body), strings.ToLower(c.say))
		}
		assert.Equal(t, rev, o.draft(1).Document.Revision, "nothing is changed by %s", c.value)
	}
	for _, c := range [][3]string{
		{"length_overall", "format", "number"},
		{"length_overall", "check:new", "between"},
		{"length_overall", "check:0:b", "30"},
		{"length_overall", "check:0:message", "Our berths end at thirty."},
		{"beam_m", "format", "number"},
		{"draught_m", "formula", "round(length_overall / 8, 1)"},
		{"draught_m", "format", "number"},
		{"port_registry", "showif", "length_overall > 10"},
		{"postal_address", "requireif", "blank(e_mail)"},
	} {
		code, body := o.set(c[0], c[1], c[2])
		require.Equal(t, http.StatusOK, code, "%v: %s", c, body)
	}
	assert.Equal(t, []form.Check{{Test: form.Between, A: "1", B: "30", Message: "Our berths end at thirty."}},
		o.field("length_overall").Checks)
	assert.True(t, o.field("draught_m").ReadOnly)

	s := o.answer(url.Values{"answers": {"{}"}})
	assert.Contains(t, s.Hidden, "port_registry")
	assert.Contains(t, s.Missing, "postal_address")
	s = o.answer(url.Values{"answers": {"{}"}, "name": {"length_overall"}, "value": {"12"}})
	assert.Equal(t, "1.50", s.Shown["draught_m"])
	assert.NotContains(t, s.Hidden, "port_registry")
	s = o.answer(url.Values{"answers": {`{"length_overall":"12","e_mail":"a@tern.example"}`}, "name": {"length_overall"}, "value": {"31"}})
	assert.Equal(t, "Our berths end at thirty.", s.Refused)
	assert.Equal(t, "12", s.Raw["length_overall"], "the last good answer stays")
	assert.NotContains(t, s.Missing, "postal_address")
	s = o.answer(url.Values{"answers": {`{"length_overall":"12","e_mail":"a@tern.example"}`}, "clear": {"length_overall"}, "except": {"yes"}})
	assert.Equal(t, []string{"12", ""}, []string{s.Raw["length_overall"], s.Raw["e_mail"]}, "all but this one")
	code, _ := o.post("/documents/1/answers", url.Values{"answers": {"half"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)

	code, body := o.post("/documents/1/rehearse", url.Values{})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "20 invented people gave")
	o.set("length_overall", "name", "length")
	assert.Equal(t, "round(length / 8, 1)", o.field("draught_m").Formula)
	assert.Equal(t, "length > 10", o.field("port_registry").ShowIf)
}

func TestWhatIsAtHandAndStylesAreKeptWithinReason(t *testing.T) {
	o := found(t)
	code, body := o.post("/handy", url.Values{"actions": {"undo,redo,copy,paste,like,all,keep,drop"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "room for 7")
	code, body = o.post("/handy", url.Values{"actions": {"undo,sail"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, `data-deed="undo"`)
	assert.NotContains(t, body, "sail")
	code, body = o.post("/handy", url.Values{"actions": {""}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "put actions at hand", "an empty strip was chosen, too")

	for _, c := range []struct{ kind, key, value, say string }{
		{"text", "width", "2", "from 4 to 2000"},
		{"text", "height", "tall", "is not a length"},
		{"text", "colour", "green", "no colour"},
		{"text", "font", "Gannet Sans", "standard 14"},
		{"text", "mark", "check", "not part of a style"},
		{"text", "name", "x", "not part of a style"},
	} {
		code, body := o.post("/house-style/"+c.kind, url.Values{"key": {c.key}, "value": {c.value}})
		assert.Equal(t, http.StatusUnprocessableEntity, code, c.key)
		assert.Contains(t, body, c.say)
	}
	code, _ = o.post("/house-style/sextant", url.Values{"key": {"width"}, "value": {"9"}})
	assert.Equal(t, http.StatusNotFound, code)
	id := o.names()["telephone"]
	code, body = o.post("/documents/1/styles", url.Values{"field": {id}, "as": {"keep"}, "name": {" "}, "stage": {"fit"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "Type a name")
}

func TestAPictureForAButtonMustBeOne(t *testing.T) {
	o := found(t)
	code, _ := o.edit("place", url.Values{"kind": {"button"}, "x0": {"300"}, "y0": {"740"}, "page": {"1"}})
	require.Equal(t, http.StatusOK, code)
	send := func(ids string, b []byte) (int, string) {
		var buf bytes.Buffer
		w := multipart.NewWriter(&buf)
		for k, v := range map[string]string{"ids": ids, "base": "-1", "stage": "fit", "page": "1"} {
			require.NoError(t, w.WriteField(k, v))
		}
		f, err := w.CreateFormFile("picture", "p.png")
		require.NoError(t, err)
		_, err = f.Write(b)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		req, err := http.NewRequest(http.MethodPost, o.url+"/documents/1/button-pictures", &buf)
		require.NoError(t, err)
		req.Header.Set("Content-Type", w.FormDataContentType())
		req.Header.Set("X-CSRF-Token", o.token)
		req.Header.Set("HX-Request", "true")
		code, body, _ := o.do(req)
		return code, body
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 8))))
	button := o.names()["button"]
	code, body := send(button, []byte("no picture"))
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "choose a PNG")
	code, body = send(o.names()["telephone"], b.Bytes())
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "cannot have a picture")
	code, _ = send(button, b.Bytes())
	require.Equal(t, http.StatusOK, code)
	sha := o.field("button").Face.Picture
	code, body = o.get("/documents/1/button-pictures/" + sha)
	assert.Equal(t, http.StatusOK, code)
	assert.Equal(t, b.String(), body)
	code, _ = o.get("/documents/1/button-pictures/" + strings.Repeat("0", 64))
	assert.Equal(t, http.StatusNotFound, code, "only pictures of this document's buttons are shown")
}

func TestWhatADocumentDoesIsRefusedWhenItCannotBeDone(t *testing.T) {
	o := found(t)
	say := func(key, value string) (int, string) {
		return o.post("/documents/1/events", url.Values{"key": {key}, "value": {value}})
	}
	code, body := say("step:new", "print")
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "step:0:when")
	for _, c := range [][3]string{
		{"step:0:when", "high-tide", "nothing that happens"},
		{"step:3:do", "print", "somebody else"},
		{"step:0:fields", "nobody", "no field called"},
	} {
		code, body := say(c[0], c[1])
		assert.NotEqual(t, http.StatusOK, code)
		assert.Contains(t, strings.ToLower(body), c[2])
	}
	code, _ = say("step:0:do", "page")
	require.Equal(t, http.StatusOK, code)
	code, body = say("step:0:page", "9")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "pages 1 to 2")
	code, _ = say("step:0:do", "script")
	require.Equal(t, http.StatusOK, code)
	code, body = say("step:0:script", "if (")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "breaks off at its end")
	code, _ = say("step:0:drop", "")
	require.Equal(t, http.StatusOK, code)
	assert.Empty(t, o.draft(1).Template.Details.Events)
	code, _ = o.post("/documents/1/undo", url.Values{"stage": {"fit"}})
	require.Equal(t, http.StatusOK, code)
	assert.Len(t, o.draft(1).Template.Details.Events, 1, "what the document does is taken back like all else")
}

// Snags of a kind are mended in one press, and who pressed stays where the press was.
func TestSnagsAreMendedTogetherWhereTheyStand(t *testing.T) {
	o := open(t)
	o.signIn()
	asks := func(name, what string, y float64) form.Field {
		return form.Field{
			ID: form.NewID(), Page: 1, Order: 900 - y, Kind: form.Text, Name: name, Tooltip: name, Rect: geom.R(300, y, 380, y+18),
			Find: &form.Find{Kept: true, Confidence: 1, Looks: what},
		}
	}
	_, err := o.store.Change(context.Background(), 1, -1, 1, "", func(*form.Template) (form.Edit, error) {
		return form.Edit{
			Title: "placed two fields", After: []form.Field{asks("arrival_day", "date", 20), asks("mail_address", "email", 50)},
		}, nil
	})
	require.NoError(t, err)
	_, body := o.get("/documents/1/release")
	require.Contains(t, body, "make both what their labels ask")
	_, body = o.post("/documents/1/snags", url.Values{"snag": {"all:plain"}, "back": {"release"}, "page": {"1"}})
	assert.Contains(t, body, "<h1>Release</h1>", "where it was pressed")
	assert.NotContains(t, body, "what their labels ask")
	assert.Equal(t, form.Date, o.field("arrival_day").Format.Kind)
	assert.Equal(t, form.Email, o.field("mail_address").Format.Kind)
}
