package faults

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"image/color"
	"image/png"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/write"
)

// Specimen is a form with one property set, and the same form without it.
type Specimen struct {
	Property string // its key
	Kind     form.Kind
	Field    string // the name of the field that has it
	With     *form.Template
	Without  *form.Template
}

const (
	width, height = 300, 200
	called        = "specimen" // the field that has the property
	other         = "other"    // another field, for what needs one
)

// Source is the page that specimens are written on.
func Source() ([]byte, error) { return write.Blank(width, height) }

// spot is a small picture for buttons.
var spot, spotAddress = func() ([]byte, string) {
	img := image.NewRGBA(image.Rect(0, 0, 6, 4))
	for i := range 24 {
		img.Set(i%6, i/6, color.RGBA{uint8(40 * (i % 6)), uint8(60 * (i / 6)), 120, 255})
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err) // a picture in memory
	}
	sum := sha256.Sum256(b.Bytes())
	return b.Bytes(), hex.EncodeToString(sum[:])
}()

// values are what properties are set to, where the last of their choices, or yes, does not do.
var values = map[string]string{
	"rect": "30 90 130 120", "name": "renamed", "tooltip": "Spoken", "caption": "Press here", "options": "Ebb = e\nFlood = f\nSlack",
	"export": "aft deck",
	"maxlen": "7", "comb": "5", "pattern": "yyyy-mm-dd", "decimals": "3", "currency": "€", "message": "Please look again.",
	"default": "Gannet",
	"hint":    "as in the register", "role": "harbour master", "picture": spotAddress, "pressedcaption": "Going", "size": "11",
	"colour": "#a02030", "fill": "#d0e0c0",
	"border": "#204060", "borderwidth": "3", "turn": "90", "formula": "2 * 3", "requireif": `other = "x"`, "showif": `other <> ""`,
	"url":    "https://gannet-quay.example/in",
	"checks": `[{"test":"between","a":"1","b":"9","message":"From one to nine."}]`,
	"steps":  `[{"when":"entered","do":"set","fields":"other","value":"seen"}]`,
	"mark":   "check", "font": "Liberation-Serif", "show": "print", "deed": "print", "layout": "below", "align": "right",
}

// before are what a property needs to have a meaning, in the order in which they are set.
var before = map[string][][2]string{
	"pattern": {{"format", "date"}}, "decimals": {{"format", "number"}}, "style": {{"format", "number"}},
	"ungrouped": {{"format", "number"}}, "brackets": {{"format", "number"}},
	"currency": {{"format", "number"}}, "after": {{"format", "number"}, {"currency", "€"}}, "message": {{"format", "date"}},
	"url": {{"deed", "submit"}}, "sendas": {{"deed", "submit"}, {"url", "https://gannet-quay.example/in"}},
	"borderwidth": {{"border", "#204060"}}, "borderstyle": {{"border", "#204060"}}, "layout": {{"picture", spotAddress}},
	"colour": {{"default", "Gannet"}}, "font": {{"default", "Gannet"}}, "size": {{"default", "Gannet"}}, "align": {{"default", "Gannet"}},
	"password": {{"default", "ebb"}}, "sort": {{"options", "Flood\nEbb"}},
}

// apart are the properties that are not said of one field by itself: [Arranged] has them.
var apart = map[string]bool{
	"page": true, "kind": true, "order": true, "linked": true,
}

// Specimens makes a specimen for every property of the registry and every kind that has it.
func Specimens() ([]Specimen, error) {
	var out []Specimen
	for _, k := range form.Kinds {
		for i := range form.FieldProperties {
			p := &form.FieldProperties[i]
			if !p.Has(k) || apart[p.Key] || p.Draft != "" {
				continue
			}
			if f := base(k); p.Key == "default" && !p.Says(&f) {
				continue // what is on at the start is another property
			}
			s, err := specimen(k, p)
			if err != nil {
				return nil, fmt.Errorf("%s of a %s: %w", p.Key, k, err)
			}
			out = append(out, s)
		}
	}
	return out, nil
}

// specimen makes one: base fields, what the property needs, and the property.
func specimen(k form.Kind, p *form.Property[form.Field]) (Specimen, error) {
	without := base(k)
	if k == form.Choice && p.Group == form.OfFormat { // only an entry of one's own has a format
		without.List = form.ComboBox
	}
	set := func(f *form.Field, key, v string) error {
		q, ok := form.PropertyOf(form.FieldProperties, key)
		if !ok || !q.Has(k) || key == "default" && !q.Says(f) {
			return nil
		}
		return q.Set(f, v)
	}
	for _, need := range before[p.Key] {
		if err := set(&without, need[0], need[1]); err != nil {
			return Specimen{}, err
		}
	}
	with := without
	if err := p.Set(&with, valueOf(p, &with)); err != nil {
		return Specimen{}, err
	}
	if p.Key == "unison" {
		with.Export, without.Export = "port", "port"
	}
	s := Specimen{Property: p.Key, Kind: k, Field: with.Name, With: draft(with), Without: draft(without)}
	return s, nil
}

// valueOf is what a property of f is set to: something else than it is.
func valueOf(p *form.Property[form.Field], f *form.Field) string {
	if p.Key == "default" && f.Kind == form.Choice {
		return "two"
	}
	if v, ok := values[p.Key]; ok {
		return v
	}
	if offers := p.Offers(f); len(offers) > 0 {
		for i := len(offers) - 1; i >= 0; i-- {
			if offers[i].Value != p.Get(f) {
				return offers[i].Value
			}
		}
	}
	return "yes"
}

// base is a field of a kind with what every one has.
func base(k form.Kind) form.Field {
	f := form.Field{ID: "a", Page: 1, Order: 1, Kind: k, Name: called, Tooltip: "A specimen", Rect: geom.R(20, 100, 120, 124)}
	switch k {
	case form.CheckBox, form.Radio:
		f.Rect, f.Export = geom.R(20, 100, 32, 112), "fin"
	case form.Choice:
		f.Options = []form.Option{{Label: "One", Export: "one"}, {Label: "Two", Export: "two"}}
	case form.Button:
		f.Caption = "Go"
	}
	return f
}

// draft is a form of the field and another one.
func draft(f form.Field) *form.Template {
	o := form.Field{ID: "z", Page: 1, Order: 9, Kind: form.Text, Name: other, Tooltip: "Another field", Rect: geom.R(20, 20, 120, 40)}
	t := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: width, Height: height}}, Fields: []form.Field{f, o}}
	if f.Kind == form.Radio { // a group has two
		g := f
		g.ID, g.Order, g.Rect, g.Export, g.Default = "b", 2, geom.R(60, 100, 72, 112), "long", ""
		if f.Unison {
			g.Export = f.Export
		}
		t.Fields = append(t.Fields, g)
	}
	if f.Face.Picture != "" {
		t.Pictures = map[string][]byte{spotAddress: spot}
	}
	t.Sort()
	return t
}

// Arranged are specimens of what is not said of one field by itself: kinds, order, further places,
// and what is said of the document.
func Arranged() []Specimen {
	var out []Specimen
	add := func(property string, k form.Kind, field string, without, with *form.Template) {
		out = append(out, Specimen{Property: property, Kind: k, Field: field, With: with, Without: without})
	}
	for i, k := range form.Kinds { // each kind against the next
		next := form.Kinds[(i+1)%len(form.Kinds)]
		add("kind", k, called, draft(base(next)), draft(base(k)))
		ordered, turned := draft(base(k)), draft(base(k))
		for n := range turned.Fields {
			turned.Fields[n].Order = 20 - turned.Fields[n].Order
		}
		turned.Sort()
		add("order", k, called, turned, ordered)
		if !form.MayLink(k) {
			continue
		}
		linked, apart := draft(base(k)), draft(base(k))
		f, _ := linked.Field("a")
		f.Linked = true
		g := f
		g.ID, g.Order, g.Rect = "c", 5, g.Rect.Shift(0, 40)
		linked.Fields = append(linked.Fields[1:], f, g)
		linked.Sort()
		g.Name, g.Linked = "apart", false
		apart.Fields = append(apart.Fields, g)
		apart.Sort()
		add("linked", k, called, apart, linked)
	}
	plain := draft(base(form.Text))
	described := draft(base(form.Text))
	described.Details = form.Details{Title: "Berths", Author: "Gannet Quay", Subject: "Winter", Language: "en-GB"}
	for i := range form.DetailProperties {
		p := &form.DetailProperties[i]
		if p.Draft != "" || p.Key == "events" {
			continue
		}
		less := draft(base(form.Text))
		less.Details = described.Details
		p.Clear(&less.Details)
		add(p.Key, "", "the document", less, described)
	}
	for _, s := range []form.Step{
		{When: form.DocumentOpened, Do: form.GoToPage, Page: 1},
		{When: form.BeforePrint, Do: form.SetValue, Fields: other, Value: "printed"},
		{When: form.PageOpened, OnPage: 1, Do: form.ClearForm, Fields: other},
		{When: form.BeforeClose, Do: form.LockFields, Fields: called},
	} {
		happens := draft(base(form.Text))
		happens.Details.Events = []form.Step{s}
		add("events", "", "the document", plain, happens)
	}
	for _, s := range []form.Step{ // every deed of a button
		{Do: form.ClearForm, Fields: other},
		{Do: form.ClearForm, Fields: other, Except: true},
		{Do: form.SubmitForm, URL: "https://gannet-quay.example/in", As: "xfdf"},
		{Do: form.SubmitForm, URL: "mailto:quay@gannet-quay.example", As: "pdf", Fields: other},
		{Do: form.PrintForm},
		{Do: form.SaveForm},
		{Do: form.GoToPage, Page: 1},
		{Do: form.OpenLink, URL: "https://gannet-quay.example/"},
		{Do: form.OpenPDF, URL: "other.pdf"},
		{Do: form.ShowFields, Fields: other},
		{Do: form.HideFields, Fields: other},
		{Do: form.LockFields, Fields: other},
		{Do: form.FreeFields, Fields: other},
		{Do: form.SetValue, Fields: other, Value: "set"},
		{Do: form.BringIn, URL: "answers.fdf"},
		{Do: form.RunScript, Script: "app.beep(0);"},
		{Do: form.TakePicture},
	} {
		b := base(form.Button)
		if s.Do == form.TakePicture {
			b.Action.Do = s.Do
		} else {
			b.SetSequence([]form.Step{s})
		}
		add("deed "+string(s.Do), form.Button, called, draft(base(form.Button)), draft(b))
	}
	return out
}
