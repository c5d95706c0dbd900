package roster_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/roster"
)

func template(fields ...form.Field) *form.Template {
	t := &form.Template{Pages: []form.Page{{Width: 595, Height: 842}}}
	for i, f := range fields {
		f.ID, f.Page, f.Rect, f.Order = fmt.Sprint("f", i), 1, geom.R(50, 50, 150, 66), float64(i+1)
		if f.Kind == "" {
			f.Kind = form.Text
		}
		if f.Name == "" {
			f.Name = fmt.Sprint("field_", i)
		}
		t.Fields = append(t.Fields, f)
	}
	return t
}

var columns = []roster.Column{
	{Key: "number", Title: "Customer number"},
	{Key: "name", Title: "Name"},
	{Key: "birth_date", Title: "Date of birth", Kind: form.Date},
	{Key: "street", Title: "Street"},
	{Key: "postcode", Title: "Postcode"},
	{Key: "town", Title: "Town"},
	{Key: "email", Title: "E-mail"},
	{Key: "vessel_name", Title: "Name of vessel"},
	{Key: "length", Title: "Length overall (m)", Kind: form.Number},
	{Key: "gate_code", Title: "Code of the gate"},
	{Key: "lifejacket", Title: "Life jacket"},
}

func TestSourcesAreProposedFromWhatFieldsAskFor(t *testing.T) {
	for label, want := range map[string]string{
		"Name of vessel": "person vessel_name", "Vessel's name": "", "Name of the applicant": "person name", "Name:": "person name",
		"Date of birth": "person birth_date", "Born": "person birth_date", "E-mail": "person email", "E-mail address": "person email",
		"Length overall (m)": "person length", "Code of the gate": "person gate_code", "Date": "today", "Edition no.": "edition",
		"Serial number": "serial", "Name of the crew": "", "Name of skipper": "", "Arrival": "", "Vehicle registration": "", "Beam (m)": "",
		"Geburtsdatum": "person birth_date", "Your name, please": "person name", "Postal address": "person address",
	} {
		got := roster.Propose(template(form.Field{Label: label}), columns)
		if want == "" {
			assert.Empty(t, got, label)
			continue
		}
		if assert.Len(t, got, 1, label) {
			assert.Equal(t, want, strings.TrimSpace(string(got[0].Source)+" "+got[0].Datum), label)
		}
	}
	got := roster.Propose(template(form.Field{Name: "vessel_name"}, form.Field{Label: "Name", Formula: "1 + 1"}, form.Field{
		Label:  "Name",
		Source: form.FromText, Datum: "x",
	}, form.Field{Label: "Name", Kind: form.Signature}), columns)
	assert.Len(t, got, 1, "by its name where there is no label; what is worked out, has a source or is signed is left alone")
}

func TestTheRowsOfATableAreForOthers(t *testing.T) {
	got := roster.Propose(template(form.Field{Label: "Name of applicant"}, form.Field{Label: "Full name", Name: "crew_1"},
		form.Field{Label: "Full name", Name: "crew_2"}), columns)
	require.Len(t, got, 1)
	assert.Equal(t, "Name of applicant", got[0].Why)
}

func TestProposalsAreAcceptedInOneEdit(t *testing.T) {
	tpl := template(form.Field{Label: "Name"}, form.Field{Label: "Arrival"}, form.Field{Label: "Date of birth"})
	e, err := roster.Accept(tpl, roster.Propose(tpl, columns))
	require.NoError(t, err)
	assert.Equal(t, "took the sources of 2 fields", e.Title)
	require.NoError(t, tpl.Apply(e))
	assert.Equal(t, form.FromPerson, tpl.Fields[0].Source)
	assert.Equal(t, "birth_date", tpl.Fields[2].Datum)
	assert.Empty(t, roster.Propose(tpl, columns))
	_, err = roster.Accept(tpl, nil)
	require.ErrorIs(t, err, form.ErrNothing)
}

func TestAFormIsFilledInForAPerson(t *testing.T) {
	date := form.FormatFor(form.Date)
	date.Pattern = "mm/dd/yyyy"
	comma := form.Format{Kind: form.Number, Decimals: 1, Comma: true}
	person := func(datum string) form.Field { return form.Field{Name: datum, Source: form.FromPerson, Datum: datum} }
	birth, length := person("birth_date"), person("length")
	birth.Format, length.Format = date, comma
	tick, keel, other := person("lifejacket"), person("keel"), person("keel")
	tick.Kind, keel.Kind, other.Kind, keel.Export, other.Export = form.CheckBox, form.Radio, form.Radio, "fin", "long"
	tpl := template(person("name"), birth, length, person("address"), person("policy"), tick, keel, other,
		form.Field{Name: "on", Source: form.FromToday}, form.Field{Name: "ed", Source: form.FromEdition},
		form.Field{Name: "no", Source: form.FromSerial}, form.Field{Name: "season", Source: form.FromText, Datum: "2027"},
		form.Field{Name: "pier", Source: form.FromLink, Datum: "pier"}, form.Field{Name: "arrival"})
	p := roster.Person{Key: "7", Data: map[string]string{
		"name": "Ilse Brandt", "birth_date": "1958-03-07", "length": "9.4", "street": "1 Slip Lane", "postcode": "0123", "town": "Ö",
		"lifejacket": "yes", "keel": "long",
	}}
	values, missing := roster.Values(tpl, p, roster.With{
		Today: time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC), Edition: 3, Serial: 41, Link: map[string]string{"pier": "B"},
	})
	assert.Equal(t, map[string]string{
		"name": "Ilse Brandt", "birth_date": "03/07/1958", "length": "9,4", "address": "1 Slip Lane, 0123 Ö", "lifejacket": "Yes",
		"keel": "long", "on": "26.11.2026", "ed": "3", "no": "41", "season": "2027", "pier": "B",
	}, values)
	assert.Equal(t, []string{"policy"}, missing)
}

func TestATableBecomesPeople(t *testing.T) {
	columns, people, refused, err := roster.Read([][]string{
		{},
		{"\ufeffMember no.", "Full name", "Born", "Pier", "Pier", ""},
		{"007", "Ilse Brandt", "1958-03-07", "A", "left", "x"},
		{"", "Nobody"},
		{"7", "Åse Ek", "", "B"},
		{"007", "Again"},
		{},
		{"8", "Too", "many", "cells", "in", "it", "here"},
		{"9", "a\x00b"},
	})
	require.NoError(t, err)
	var keys []string
	for _, c := range columns {
		keys = append(keys, c.Key)
	}
	assert.Equal(t, []string{"number", "name", "birth_date", "pier", "pier_2", "column_6"}, keys)
	require.Len(t, people, 2)
	assert.Equal(t, "007", people[0].Key)
	assert.Equal(t, "left", people[0].Data["pier_2"])
	require.Len(t, refused, 4)
	for i, says := range []string{
		"line 3: it has nothing", "line 5: its Member no., 007, is that of line 2 too", "line 7: it has 7 cells", "line 8",
	} {
		assert.ErrorContains(t, refused[i], says)
	}
	for _, rows := range [][][]string{nil, {{"Name"}}, {make([]string, 100), {"x"}}, {{"Number"}, {""}, {" "}}} {
		_, _, _, err := roster.Read(rows)
		require.Error(t, err)
	}
}
