package web_test

import (
	"context"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

var (
	snagLine = regexp.MustCompile(`(?s)<li class="(?:hint|risky|serious)">.*?</li>`)
	tags     = regexp.MustCompile(`<[^>]*>`)
)

// snags are those that the rehearsal of a document lists: their words, and whether each has a mend or says why not.
func (o *office) snags(id int64) (said []string) {
	o.t.Helper()
	_, body := o.get("/documents/" + itoa(id) + "/rehearse")
	for _, li := range snagLine.FindAllString(body, -1) {
		words := strings.Join(strings.Fields(tags.ReplaceAllString(li, " ")), " ")
		said = append(said, words)
		assert.True(o.t, strings.Contains(li, "<form") || strings.Contains(li, "No mend in one press: "), words)
	}
	return said
}

// Where nobody has done anything but take what the application proposes, nothing is blamed on anybody: what is left are
// proposals, each mended in a press, and what only a person can know.
func TestASnagNeverBlamesWhatTheApplicationDid(t *testing.T) {
	o := open(t)
	o.signIn()
	all, err := demo.Documents()
	require.NoError(t, err)
	fine := regexp.MustCompile(`call it |say that it is in |name the language in Bring in|but its label asks for`)
	for _, d := range all {
		before := o.documents()
		o.upload(d.File, d.Bytes)
		require.Eventually(t, func() bool { return o.documents() == before+1 }, 60*time.Second, 100*time.Millisecond, d.File)
		id := o.newest().Document.ID
		_, _ = o.post("/documents/"+itoa(id)+"/find", url.Values{"scope": {"all"}, "page": {"1"}, "stage": {"find"}})
		_, _ = o.store.Change(context.Background(), id, -1, 1, "", func(tpl *form.Template) (form.Edit, error) {
			return tpl.DropBelow(0, 0.5) // on some there is nothing doubtful
		})
		for _, said := range o.snags(id) {
			assert.Regexp(t, fine, said, d.File)
		}
	}
	// what is placed by hand and duplicated is no worse
	ask := func(do string, v url.Values) {
		code, body := o.edit(do, v)
		require.Equal(t, http.StatusOK, code, body)
	}
	ask("place", url.Values{"kind": {"trio"}, "x0": {"200"}, "y0": {"790"}})
	for i, kind := range []string{"text", "lines", "checkbox", "signature"} {
		ask("place", url.Values{
			"kind": {kind}, "x0": {strconv.Itoa(60 + 120*i)}, "y0": {"750"}, "x1": {strconv.Itoa(100 + 120*i)}, "y1": {"764"},
		})
	}
	draft, err := o.store.Draft(context.Background(), 1)
	require.NoError(t, err)
	for _, f := range draft.Template.Fields {
		if f.Kind == form.Button {
			continue
		}
		_, _ = o.edit("set", url.Values{"ids": {f.ID}, "key": {"tooltip"}, "value": {"Said of " + f.Name}})
		ask("repeat", url.Values{"ids": {f.ID}, "n": {"1"}, "dx": {"45"}, "dy": {"0"}})
	}
	for _, said := range o.snags(1) {
		assert.NotRegexp(t, `same tooltip|no tooltip|shows its name|does nothing|covers|jumps|comes before`, said)
	}
}

func TestSeveralFieldsOfDifferentLengthsAreGivenAFormatInOneSentence(t *testing.T) {
	o := open(t)
	o.signIn()
	var ids []string
	_, err := o.store.Change(context.Background(), 1, -1, 1, "", func(*form.Template) (form.Edit, error) {
		var e form.Edit
		for i, n := range []int{4, 6, 8} {
			f := form.Field{
				ID: form.NewID(), Page: 1, Order: float64(i), Kind: form.Text, Name: "code_" + strconv.Itoa(n), MaxLen: n, Comb: n % 8,
				Rect: geom.R(60, 60+float64(i)*40, 200, 80+float64(i)*40),
			}
			ids, e.After = append(ids, f.ID), append(e.After, f)
		}
		return e, nil
	})
	require.NoError(t, err)
	chosen := strings.Join(ids, ",")
	_, body := o.get("/documents/1/chosen?ids=" + chosen)
	assert.Contains(t, body, "They accept")
	for _, k := range []string{"date", "number", "phone", "email", "postcode", "upper", "mask"} {
		assert.Contains(t, body, `value="`+k+`"`)
		code, said := o.edit("set", url.Values{"ids": {chosen}, "key": {"format"}, "value": {k}})
		require.Equal(t, http.StatusOK, code, said)
		for _, n := range []string{"code_4", "code_6", "code_8"} {
			assert.Equal(t, form.FormatKind(k), o.field(n).Format.Kind)
		}
	}
	code, said := o.edit("set", url.Values{"ids": {chosen}, "key": {"pattern"}, "value": {"#…"}})
	require.Equal(t, http.StatusOK, code, said)
	for name, want := range map[string]string{"code_4": "####", "code_6": "######", "code_8": "########"} {
		assert.Equal(t, want, o.field(name).Format.Pattern)
	}
	_, body = o.get("/documents/1/chosen?ids=" + chosen)
	assert.Contains(t, body, "mixed", "they are written differently, and it says so")
}

func TestAnOwnEntryListHasAFormatAndChecks(t *testing.T) {
	o := open(t)
	o.signIn()
	_, err := o.store.Change(context.Background(), 1, -1, 1, "", func(*form.Template) (form.Edit, error) {
		return form.Edit{After: []form.Field{{
			ID: "c", Page: 1, Kind: form.Choice, Name: "length", Tooltip: "Length", List: form.ComboBox, Rect: geom.R(60, 60, 200, 80),
			Options: []form.Option{{Label: "6.50"}, {Label: "8.00"}},
		}}}, nil
	})
	require.NoError(t, err)
	for _, v := range []url.Values{
		{"key": {"format"}, "value": {"number"}},
		{"key": {"check:new"}, "value": {"between"}},
		{"key": {"check:0:a"}, "value": {"3"}},
		{"key": {"check:0:b"}, "value": {"20"}},
		{"key": {"check:0:message"}, "value": {"From 3 to 20 m."}},
	} {
		v["ids"] = []string{"c"}
		code, said := o.edit("set", v)
		require.Equal(t, http.StatusOK, code, said)
	}
	_, body := o.get("/documents/1/notes/c?stage=rules")
	assert.Contains(t, body, "It accepts")
	given := func(v string) state { return o.answer(url.Values{"answers": {"{}"}, "name": {"length"}, "value": {v}}) }
	assert.Equal(t, "7.25", given("7.25").Raw["length"])
	assert.Equal(t, "From 3 to 20 m.", given("40").Refused)
	assert.NotEmpty(t, given("long").Refused, "the format holds too")
	// a list that takes no entry of one's own has no format
	code, _ := o.edit("set", url.Values{"ids": {"c"}, "key": {"list"}, "value": {""}})
	require.Equal(t, http.StatusOK, code)
	assert.Equal(t, form.NoFormat, o.field("length").Format.Kind)
}
