package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
)

func (o *office) field(name string) form.Field {
	o.t.Helper()
	d, err := o.store.Draft(context.Background(), 1)
	require.NoError(o.t, err)
	f, ok := d.Template.Field(o.names()[name])
	require.True(o.t, ok, "there is no field %s", name)
	return f
}

func (o *office) set(name, key, value string) (int, string) {
	return o.edit("set", url.Values{"ids": {o.names()[name]}, "key": {key}, "value": {value}})
}

func found(t *testing.T) *office {
	t.Helper()
	o := open(t)
	o.signIn()
	code, _ := o.post("/documents/1/find", url.Values{"scope": {"all"}})
	require.Equal(t, http.StatusOK, code)
	return o
}

func TestFormatsAreSetAndSpoiltOnesRefused(t *testing.T) {
	o := found(t)
	code, body := o.set("date_birth", "format", "date")
	require.Equal(t, http.StatusOK, code, body)
	assert.Equal(t, form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}, o.field("date_birth").Format)
	assert.False(t, o.field("date_birth").OpenFind(), "what is changed is kept")
	o.set("date_birth", "pattern", "mm/dd/yyyy")
	o.set("date_birth", "message", "When were you born?")
	f := o.field("date_birth").Format
	assert.Equal(t, []string{"mm/dd/yyyy", "When were you born?"}, []string{f.Pattern, f.Message})
	code, body = o.set("date_birth", "pattern", "every day")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "date pattern")
	o.set("length_overall", "format", "number")
	o.set("length_overall", "decimals", "1")
	o.set("length_overall", "style", "comma")
	assert.Equal(t, form.Format{Kind: form.Number, Decimals: 1, Comma: true}, o.field("length_overall").Format)
	code, body = o.set("length_overall", "decimals", "lots")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "0 to 6")
	o.set("length_overall", "format", "")
	assert.Equal(t, form.Format{}, o.field("length_overall").Format)
}

func TestAKindIsChangedWithAllThatBelongsToIt(t *testing.T) {
	o := found(t)
	require.Equal(t, 8, o.field("registration_no").Comb)
	o.set("registration_no", "kind", "lines")
	f := o.field("registration_no")
	assert.True(t, f.Multiline)
	assert.Zero(t, f.Comb)
	o.set("registration_no", "kind", "button")
	o.set("registration_no", "deed", "submit")
	code, body := o.set("registration_no", "url", "gopher://x")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "address")
	code, _ = o.set("registration_no", "url", "https://office.example/in")
	assert.Equal(t, http.StatusOK, code)
	assert.Equal(t, form.Action{Do: form.SubmitForm, URL: "https://office.example/in"}, o.field("registration_no").Action)
	o.set("registration_no", "kind", "checkbox")
	f = o.field("registration_no")
	assert.Equal(t, form.Action{}, f.Action)
	assert.Empty(t, f.Caption)
	code, _ = o.set("registration_no", "kind", "hologram")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
}

func TestMovingResizingAndOrdering(t *testing.T) {
	o := found(t)
	before := o.field("telephone").Rect
	// The page as shown has y downwards, the field is kept with y upwards.
	o.edit("move", url.Values{"ids": {o.names()["telephone"]}, "dx": {"3"}, "dy": {"5"}})
	assert.Equal(t, before.Shift(3, -5).Rounded(), o.field("telephone").Rect)
	o.edit("resize", url.Values{"ids": {o.names()["telephone"]}, "x0": {"100"}, "y0": {"100"}, "x1": {"200"}, "y1": {"120"}})
	r := o.field("telephone").Rect
	assert.InDelta(t, 100, r.W(), 0.01)
	assert.InDelta(t, 841.89-120, r.Y0, 0.01)
	first := o.names()["name_applicant"]
	o.edit("order", url.Values{"ids": {first}, "to": {"5"}})
	d, err := o.store.Draft(context.Background(), 1)
	require.NoError(t, err)
	assert.Equal(t, first, d.Template.OnPage(1)[5].ID)
	code, _ := o.edit("levitate", url.Values{"ids": {first}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, _ = o.edit("move", url.Values{"ids": {"nobody"}, "dx": {"1"}})
	assert.Equal(t, http.StatusConflict, code, "somebody has removed it meanwhile")
}

func TestTheDoubtfulAreShownAndNotReleased(t *testing.T) {
	o := found(t)
	_, body := o.get("/documents/1/release")
	assert.Contains(t, body, "doubtful finds are not part of the form")
	var doubtful string
	for name := range o.names() {
		if f := o.field(name); f.Level() == form.Doubtful {
			doubtful = name
		}
	}
	require.NotEmpty(t, doubtful)
	assert.False(t, o.field(doubtful).Placed())
	o.edit("keep", url.Values{"ids": {o.names()[doubtful]}})
	assert.True(t, o.field(doubtful).Placed())
	_, body = o.get(fmt.Sprintf("/documents/1/find?page=%d", o.field(doubtful).Page))
	assert.Contains(t, body, "no tooltip", "a kept find without a label is called wrong")
}

func TestPicturesAreDrawnAsAskedAndKept(t *testing.T) {
	o := open(t)
	o.signIn()
	_, body := o.get("/documents/1/fit?zoom=200")
	m := regexp.MustCompile(`id="picture" src="([^"]+)"`).FindStringSubmatch(body)
	require.NotNil(t, m)
	req, err := http.NewRequest(http.MethodGet, o.url+m[1], nil)
	require.NoError(t, err)
	code, b, h := o.do(req)
	assert.Equal(t, http.StatusOK, code)
	assert.True(t, strings.HasPrefix(b, "\x89PNG"))
	assert.Contains(t, h.Get("Cache-Control"), "immutable")
	sha := strings.Split(m[1], "/")[2]
	for path, want := range map[string]int{
		"/pictures/" + sha + "/9/100.png": http.StatusNotFound, "/pictures/" + sha + "/1/99999.png": http.StatusUnprocessableEntity,
		"/pictures/unknown/1/100.png": http.StatusNotFound,
		"/documents/1/nothing":        http.StatusNotFound, "/documents/x/fit": http.StatusNotFound,
		"/editions/1/other.pdf": http.StatusNotFound, "/nowhere": http.StatusNotFound,
	} {
		code, _ := o.get(path)
		assert.Equal(t, want, code, path)
	}
}

// A second person at the same draft sees a clash, and what the first did stays.
func TestAClashIsShownAndNothingIsLost(t *testing.T) {
	o := found(t)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	other := &office{t: t, store: o.store, url: o.url, http: &http.Client{Jar: jar}}
	other.get("/sign-in")
	p := demo.People[1]
	code, _ := other.post("/sign-in", url.Values{"email": {p.Email}, "password": {p.Password}})
	require.Equal(t, http.StatusOK, code)
	d, err := o.store.Document(context.Background(), 1)
	require.NoError(t, err)
	base := fmt.Sprint(d.Revision)
	id := o.names()["telephone"]
	o.set("telephone", "tooltip", "Telephone with country code")
	code, body := other.post("/documents/1/edits",
		url.Values{"do": {"set"}, "ids": {id}, "key": {"tooltip"}, "value": {"Phone"}, "base": {base}, "page": {"1"}})
	assert.Equal(t, http.StatusConflict, code)
	assert.Contains(t, body, "Somebody else has changed the same field")
	code, _ = other.post("/documents/1/edits", url.Values{
		"do": {"set"}, "ids": {o.names()["e_mail"]}, "key": {"required"},
		"value": {"yes"}, "base": {base}, "page": {"1"},
	})
	assert.Equal(t, http.StatusOK, code, "another field is free")
	assert.Equal(t, "Telephone with country code", o.field("telephone").Tooltip)
	assert.True(t, o.field("e_mail").Required)
	code, body = o.post("/documents/1/redo", url.Values{"page": {"1"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "nothing more")
}
