package returns_test

import (
	"bytes"
	"mime/multipart"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/returns"
)

func text(id, name string, order float64) form.Field {
	return form.Field{ID: id, Page: 1, Kind: form.Text, Name: name, Order: order, Rect: geom.R(50, 700-20*order, 250, 716-20*order)}
}

func edition(n int, fields ...form.Field) returns.Edition {
	return returns.Edition{Number: n, Form: &form.Template{Fields: fields, Pages: []form.Page{{Width: 400, Height: 800}}}}
}

// A column is a question, under whatever names: a field keeps its column when it is renamed, also when another takes its old name; one that
// is drawn anew under the same name goes on; one that goes is still there, last.
func TestColumnsFollowRenames(t *testing.T) {
	all := []returns.Edition{
		edition(1, text("a", "vessel", 1), text("b", "owner", 2), text("c", "phone", 3)),
		edition(2, text("a", "name_of_vessel", 1), text("d", "vessel", 2), text("b", "owner", 3), text("e", "phone", 4)),
		edition(3, text("b", "owner", 1), text("a", "name_of_vessel", 2), text("d", "vessel", 3)),
	}
	cols := returns.Columns(all)
	var names []string
	for _, c := range cols {
		names = append(names, c.Name)
	}
	assert.Equal(t, []string{"owner", "name_of_vessel", "vessel", "phone"}, names)
	keys := func(n int) map[string]string { return returns.Keys(cols, n) }
	assert.Equal(t, map[string]string{"vessel": "a", "owner": "b", "phone": "c"}, keys(1))
	assert.Equal(t, map[string]string{"name_of_vessel": "a", "vessel": "d", "owner": "b", "phone": "c"}, keys(2), "phone was drawn anew")
	assert.True(t, cols[3].Gone)
	assert.False(t, cols[0].Gone)
	number, share := returns.Match(map[string][]string{"name_of_vessel": {"Petrel"}, "phone": {"1"}}, all)
	assert.Equal(t, 2, number)
	assert.InDelta(t, 1.0, share, 0)
	number, _ = returns.Match(map[string][]string{"vessel": {"x"}, "owner": {"y"}, "phone": {"z"}}, all)
	assert.Equal(t, 1, number, "the one that misses least")
	number, _ = returns.Match(map[string][]string{"rent": {"x"}, "street": {"y"}, "owner": {"z"}}, all)
	assert.Zero(t, number, "most of it is of no edition")
}

// Readers name the button that is on in many ways (ISO 32000-2, 12.7.5.2; what was seen of readers).
func TestTicksAreReadHoweverTheyAreNamed(t *testing.T) {
	group := []form.Field{
		{ID: "a", Page: 1, Kind: form.Radio, Name: "keel", Export: "fin keel", Rect: geom.R(0, 0, 9, 9)},
		{ID: "b", Page: 1, Kind: form.Radio, Name: "keel", Export: "längs", Rect: geom.R(20, 0, 29, 9)},
		{ID: "c", Page: 1, Kind: form.CheckBox, Name: "ashore", Export: "Yes", Rect: geom.R(40, 0, 49, 9)},
		{
			ID: "d", Page: 1, Kind: form.Choice, Name: "flag", Rect: geom.R(60, 0, 99, 9),
			Options: []form.Option{{Label: "Norway", Export: "NO"}, {Label: "Sweden", Export: "SE"}},
		},
		{
			ID: "e", Page: 1, Kind: form.Choice, List: form.ManyList, Name: "extras", Rect: geom.R(100, 0, 199, 9),
			Options: []form.Option{{Label: "water"}, {Label: "power"}},
		},
	}
	tpl := &form.Template{Fields: group}
	read := func(name string, said ...string) string {
		a, err := returns.Read(tpl, returns.Came{Named: map[string][]string{name: said}}, time.Now())
		require.NoError(t, err)
		return a.Values[name]
	}
	for _, said := range []string{"fin keel", "fin%20keel", "fin#20keel", "0"} {
		assert.Equal(t, "fin keel", read("keel", said), said)
	}
	for _, said := range []string{"längs", "lÃ¤ngs", "l%C3%A4ngs", "1"} {
		assert.Equal(t, "längs", read("keel", said), said)
	}
	assert.Empty(t, read("keel", "Off"))
	for _, said := range []string{"Yes", "true", "on", "X"} {
		assert.Equal(t, "Yes", read("ashore", said), said)
	}
	assert.Equal(t, "SE", read("flag", "Sweden"))
	assert.Equal(t, "SE", read("flag", "SE"))
	assert.Equal(t, "water\npower", read("extras", "water", "power"))
	assert.Equal(t, "water\npower", read("extras", "water\npower"))
}

// What came is held to the rules of its edition: figures that do not add up, what is missing, what it does not ask.
func TestWhatCameIsHeldToTheRules(t *testing.T) {
	number := form.Format{Kind: form.Number, Decimals: 2}
	qty, rate, total := text("a", "days", 1), text("b", "rate", 2), text("c", "total", 3)
	qty.Format, rate.Format, total.Format = number, number, number
	rate.ReadOnly, rate.Default = true, "12.50"
	total.ReadOnly, total.Formula = true, "days * rate"
	name := text("d", "vessel", 4)
	name.Required = true
	tpl := &form.Template{Fields: []form.Field{qty, rate, total, name}}
	a, err := returns.Read(tpl, returns.Came{Named: map[string][]string{"days": {"3"}, "total": {"40"}, "berth": {"C 3"}}}, time.Now())
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"days": "3", "rate": "12.50", "total": "40"}, a.Values, "what came stays as it came")
	assert.Contains(t, a.Broken["total"], "it comes to 37.50")
	assert.Contains(t, a.Broken["vessel"], "must be filled in")
	assert.Equal(t, []string{"berth"}, a.Extra)
	a, err = returns.Read(
		tpl,
		returns.Came{Named: map[string][]string{"days": {"3"}, "total": {"37.5"}, "vessel": {"Petrel"}}},
		time.Now(),
	)
	require.NoError(t, err)
	assert.Empty(t, a.Broken)
	assert.Equal(t, returns.Digest(map[string]string{"a": "1", "b": ""}), returns.Digest(map[string]string{"a": "1"}))
	assert.NotEqual(t, returns.Digest(map[string]string{"a": "1b"}), returns.Digest(map[string]string{"a": "1", "b": "x"}))
}

// Bodies are told by looking at them, and read: URL-encoded, in parts, JSON, CSV, XFDF (ISO 19444-1, 6.4; its example has nested fields and
// several values).
func TestBodiesAreToldAndRead(t *testing.T) {
	var parts bytes.Buffer
	w := multipart.NewWriter(&parts)
	require.NoError(t, w.WriteField("vessel", "Petrel & Sons"))
	f, err := w.CreateFormFile("photo", `C:\pictures\quay.jpg`)
	require.NoError(t, err)
	_, _ = f.Write([]byte("\xff\xd8\xff"))
	require.NoError(t, w.Close())
	xfdf := `<?xml version="1.0" encoding="UTF-8"?><xfdf xmlns="http://ns.adobe.com/xfdf/" xml:space="preserve"><f href="berth.pdf"/>
<fields><field name="owner"><field name="name"><value>Łucja &amp; Bo</value></field></field><field name="vessel"><value>Petrel &amp; Sons</value></field>
<field name="extras"><value>water</value><value>power</value></field></fields></xfdf>`
	utf16, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(strings.Replace(xfdf, "UTF-8", "UTF-16", 1))
	require.NoError(t, err)
	for name, c := range map[string]struct{ kind, body string }{
		"form":    {returns.Form, "vessel=Petrel+%26+Sons&ashore=Yes"},
		"latin 1": {returns.Form, "vessel=Petrel+%26+Sons&owner=M%FCller"},
		"plain":   {returns.Form, "vessel=Petrel %26 Sons\r\nashore=Yes\r\n"},
		"parts":   {returns.Form, parts.String()},
		"json":    {returns.JSON, `{"vessel": "Petrel & Sons", "length": 9.4, "ashore": true, "extras": ["water", "power"]}`},
		"within":  {returns.JSON, `{"answers": {"vessel": "Petrel & Sons"}}`},
		"csv":     {returns.CSV, "\ufeffvessel;owner\r\n\"Petrel & Sons\";Bo\r\n"},
		"xfdf":    {returns.XFDF, xfdf},
		"utf16":   {returns.XFDF, utf16},
	} {
		kind := returns.KindOf([]byte(c.body))
		assert.Equal(t, c.kind, kind, name)
		all, err := returns.Data(kind, []byte(c.body))
		require.NoError(t, err, name)
		require.NotEmpty(t, all, name)
		assert.Equal(t, []string{"Petrel & Sons"}, all[0].Named["vessel"], name)
	}
	all, err := returns.Data(returns.Form, parts.Bytes())
	require.NoError(t, err)
	require.Len(t, all[0].Files, 1)
	assert.Equal(t, "quay.jpg", returns.FileName(all[0].Files[0].Name))
	x, err := returns.Data(returns.XFDF, []byte(xfdf))
	require.NoError(t, err)
	assert.Equal(t, []string{"Łucja & Bo"}, x[0].Named["owner.name"])
	assert.Equal(t, []string{"water", "power"}, x[0].Named["extras"])
	many, err := returns.Data(returns.CSV, []byte("vessel,owner\nPetrel,'=Bo\nCurlew,Ida\n\n"))
	require.NoError(t, err)
	require.Len(t, many, 2)
	assert.Equal(t, []string{"=Bo"}, many[0].Named["owner"], "the apostrophe was against formulas")
	for want, body := range map[string]string{
		"cannot be read": "<xfdf><fields><field name='a'>", "no fields": "<xfdf></xfdf>",
		"by name": "[1, 2]", "no answers": "vessel,owner\n",
	} {
		_, err := returns.Data(returns.KindOf([]byte(body)), []byte(body))
		assert.ErrorContains(t, err, want)
	}
	for body, kind := range map[string]string{
		"%FDF-1.2\n": returns.FDF, "\n%PDF-1.7": returns.PDF, "PK\x03\x04": returns.Zip,
		"\x89PNG\r\n": returns.Picture, "\x00\x01\x02": returns.Unknown,
	} {
		assert.Equal(t, kind, returns.KindOf([]byte(body)))
	}
}

// What is written as XFDF is read back the same: names with full stops, line ends, several values, signs of XML.
func TestXFDFComesBackTheSame(t *testing.T) {
	values := map[string]string{
		"owner.name":           "Łucja <Bo>",
		"owner.address.street": "Mill\nLane",
		"owner":                "both",
		"extras":               "water\npower",
	}
	b, err := returns.WriteXFDF("berth & co.pdf", values, func(n string) bool { return n == "extras" })
	require.NoError(t, err)
	all, err := returns.Data(returns.XFDF, b)
	require.NoError(t, err)
	for name, v := range values {
		assert.Equal(t, v, strings.Join(all[0].Named[name], "\n"), name)
	}
	assert.Len(t, all[0].Named["extras"], 2)
	assert.Len(t, all[0].Named["owner.address.street"], 1)
}
