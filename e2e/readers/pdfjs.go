package readers

import (
	"bytes"
	_ "embed"
	"encoding/base64"
	"fmt"
	"image"
	"slices"
	"time"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// PDFJSPage is the page of a desk that shows its form in pdf.js, with scripts at work.
//
//go:embed pdfjs.html
var PDFJSPage string

// OpenPDFJS shows the form of a desk in pdf.js and waits until its scripts are at work.
func OpenPDFJS(d *Desk) (*browser.Browser, error) {
	br, err := browser.Start(browser.Options{Width: 1300, Height: 1500})
	if err != nil {
		return nil, err
	}
	if err = br.Open(d.URL + "/"); err == nil {
		err = br.Wait("window.loaded && window.sandbox && document.querySelectorAll('.annotationLayer input').length > 0")
	}
	if err != nil {
		br.Close()
		return nil, err
	}
	time.Sleep(500 * time.Millisecond) // the sandbox opens the document
	return br, nil
}

// pdfjs is a reader that runs in a page of a browser.
type pdfjs struct {
	*browser.Browser
	draft *form.Template
	ids   map[string][]string // of the elements, by the names of their fields
	pause time.Duration       // between keys
}

// Slow types more slowly, or as before.
func (p *pdfjs) Slow(on bool) {
	p.pause = map[bool]time.Duration{false: 60, true: 150}[on] * time.Millisecond
}

func openPDFJS(d *Desk, draft *form.Template) (Reader, error) {
	br, err := OpenPDFJS(d)
	if err != nil {
		return nil, err
	}
	p := &pdfjs{Browser: br, draft: draft, ids: map[string][]string{}}
	p.Slow(false)
	var all []struct{ ID, Name string }
	if err := br.Eval("window.widgets().then(all => all.map(a => ({id: a.id, name: a.fieldName})))", &all); err != nil {
		return nil, err
	}
	for _, a := range all {
		p.ids[a.Name] = append(p.ids[a.Name], a.ID)
	}
	return p, nil
}

func (p *pdfjs) Close() { p.Browser.Close() }

// at is the CSS selector of the nth place of a field.
func (p *pdfjs) at(name string, nth int) (string, error) {
	ids := p.ids[name]
	if nth >= len(ids) {
		return "", fmt.Errorf("pdf.js shows no %s", name)
	}
	return "[data-annotation-id='" + ids[nth] + "']", nil
}

// element is the part of a field that takes answers.
func (p *pdfjs) element(name string) string {
	css, err := p.at(name, 0)
	if err != nil {
		return "null"
	}
	return "(document.querySelector(" + quoted(css+" :is(input,textarea,select)") + ") || document.querySelector(" + quoted(css) + "))"
}

func (p *pdfjs) Told() (map[string]Told, error) {
	var all []struct {
		FieldName, FieldType, AlternativeText         string
		FieldValue                                    any
		Rect                                          [4]float64
		MaxLen                                        int
		Required, ReadOnly, MultiLine, Comb, Password bool
		CheckBox, RadioButton, PushButton             bool
		Options                                       []struct{ DisplayValue string }
	}
	if err := p.Eval("window.widgets()", &all); err != nil {
		return nil, err
	}
	out := map[string]Told{}
	for _, a := range all {
		kind := map[string]string{"Tx": "text", "Ch": "choice", "Sig": "signature"}[a.FieldType]
		switch {
		case a.CheckBox:
			kind = "checkbox"
		case a.RadioButton:
			kind = "radio"
		case a.PushButton:
			kind = "button"
		}
		value, _ := a.FieldValue.(string)
		var options []string
		for _, o := range a.Options {
			options = append(options, o.DisplayValue)
		}
		out[a.AlternativeText] = Told{
			Kind: &kind, Name: &a.FieldName, Tooltip: &a.AlternativeText, Value: &value, Rect: &a.Rect, MaxLen: &a.MaxLen,
			Required: &a.Required,
			ReadOnly: &a.ReadOnly, Multiline: &a.MultiLine, Comb: &a.Comb, Password: &a.Password, Options: &options,
		}
	}
	return out, nil
}

// settle waits until the sandbox has done what was asked of it.
func settle() { time.Sleep(400 * time.Millisecond) }

func (p *pdfjs) Write(name, text string) error {
	css, err := p.at(name, 0)
	if err != nil {
		return err
	}
	var can bool
	if err := p.Eval("(e => !!e && !e.disabled && !e.readOnly && e.tagName !== 'SECTION')("+p.element(name)+")", &can); err != nil || !can {
		return err
	}
	var list bool
	if err := p.Eval(p.element(name)+".tagName === 'SELECT'", &list); err != nil {
		return err
	}
	if list { // an entry of one's own has no place there
		return nil
	}
	if err := p.Click(css); err != nil {
		return err
	}
	time.Sleep(100 * time.Millisecond)
	if err := typed(p.Browser, text, p.pause); err != nil {
		return err
	}
	if err := p.leave(); err != nil {
		return err
	}
	settle()
	return nil
}

// leave goes to another field: what was written is taken then.
func (p *pdfjs) leave() error { return p.Key(browser.Tab) }

func (p *pdfjs) Press(name string, nth int) error {
	css, err := p.at(name, nth)
	if err != nil {
		return err
	}
	if err := p.Click(css); err != nil {
		return err
	}
	settle()
	return nil
}

func (p *pdfjs) Choose(name string, labels ...string) error {
	var found int
	list := "["
	for _, l := range labels {
		list += quoted(l) + ","
	}
	err := p.Eval("(e => { e.focus(); let n = 0; "+
		"for (const o of e.options) { o.selected = "+list+"].includes(o.textContent); if (o.selected) n++ } "+
		"e.dispatchEvent(new Event('input', {bubbles: true})); e.dispatchEvent(new Event('change', {bubbles: true})); return n })("+
		p.element(name)+")", &found)
	settle()
	return err
}

func (p *pdfjs) Do(name string, what form.Trigger) error {
	css, err := p.at(name, 0)
	if err != nil {
		return err
	}
	x, y, w, h, err := p.Rect(css)
	if err != nil {
		return err
	}
	switch what {
	case form.FieldEntered:
		err = p.Click(css)
	case form.FieldLeft:
		if err = p.Click(css); err == nil {
			time.Sleep(200 * time.Millisecond)
			err = p.leave()
		}
	case form.PointerIn:
		err = p.Hover(x+w/2, y+h/2)
	case form.PointerOut:
		if err = p.Hover(x+w/2, y+h/2); err == nil {
			time.Sleep(200 * time.Millisecond)
			err = p.Hover(2, 2)
		}
	default:
		return ErrCannot
	}
	settle()
	return err
}

func (p *pdfjs) Walk(from string) (string, error) {
	css, err := p.at(from, 0)
	if err != nil {
		return "", err
	}
	if err := p.Click(css); err != nil {
		return "", err
	}
	if err := p.Key(browser.Tab); err != nil {
		return "", err
	}
	var id string
	if err := p.Eval("document.activeElement.closest('[data-annotation-id]')?.dataset.annotationId || ''", &id); err != nil {
		return "", err
	}
	for name, ids := range p.ids {
		if slices.Contains(ids, id) {
			return name, nil
		}
	}
	return "nothing", nil
}

func (p *pdfjs) Save() ([]byte, error) {
	var s string
	if err := p.Eval("window.save()", &s); err != nil {
		return nil, err
	}
	return base64.StdEncoding.DecodeString(s)
}

func (p *pdfjs) Shown(name string) (string, error) {
	var s string
	err := p.Eval("(e => e.type === 'password' ? '' : e.value ?? '')("+p.element(name)+")", &s)
	return s, err
}

func (p *pdfjs) Required(name string) (bool, error) {
	var on bool
	err := p.Eval("(e => e.required || e.getAttribute('aria-required') === 'true')("+p.element(name)+")", &on)
	return on, err
}

func (p *pdfjs) Seen(name string) (bool, error) {
	var on bool
	err := p.Eval("(e => !!e && e.getClientRects().length > 0 && getComputedStyle(e).visibility !== 'hidden')("+p.element(name)+")", &on)
	return on, err
}

func (p *pdfjs) Printed(name string) (bool, error) {
	var s string
	if err := p.Eval("window.paper()", &s); err != nil {
		return false, err
	}
	b, err := base64.StdEncoding.DecodeString(s)
	if err != nil {
		return false, err
	}
	img, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		return false, err
	}
	f, err := nth(p.draft, name, 0)
	return filledIn(img, f.Rect, func(at geom.Point) (int, int) { return onPage(at) }), err
}

func (p *pdfjs) Page() (int, error) {
	var n int
	err := p.Eval("window.viewer.currentPageNumber", &n)
	return n, err
}

func (p *pdfjs) Messages() ([]string, error) {
	var out []string
	err := p.Eval("window.told", &out)
	return out, err
}
