package proof

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// document holds what is about the form as a whole to the draft.
func (p *proving) document() {
	p.script()
	f := p.out.form()
	var order []string
	for _, o := range p.out.array(f["CO"]) {
		order = append(order, p.out.fullName(o))
	}
	if n := len(order) - len(p.compiled.Order); n < 0 || !slices.Equal(order[n:], p.compiled.Order) {
		p.say("fields are calculated in the order %v, not %v", order, p.compiled.Order)
	}
	if len(p.rows) > 0 {
		if v, _ := p.out.resolve(f["NeedAppearances"]).(bool); v {
			p.say("appearances are asked to be made anew")
		}
		if f["XFA"] != nil {
			p.say("the form is also defined by XFA")
		}
		signed := slices.ContainsFunc(p.rows, func(x form.Field) bool { return x.Kind == form.Signature && x.Origin == nil })
		if signed && int(p.out.number(f["SigFlags"]))&1 == 0 {
			p.say("the form does not say that it has signature fields")
		}
	}
	if p.whole {
		p.details()
		p.events()
	}
	for n, s := range p.pages {
		if slices.ContainsFunc(p.rows, func(x form.Field) bool { return x.Page == n+1 && x.Origin == nil }) &&
			p.out.name(s.dict["Tabs"]) != "W" {
			p.say("page %d does not say that its tab order is that of its fields", n+1)
		}
	}
}

// atOnce lets a form be worked out when it is opened (ISO 21757-1, Doc.calculateNow).
const atOnce = "try { this.calculateNow(); } catch (e) { }"

// script holds the script of the document to what the rules come to, and its comment to the draft.
func (p *proving) script() {
	js := p.out.scripts()[rulesScript]
	for what, part := range map[string]string{"what formulas need": rules.Prelude(), "working out at the start": atOnce} {
		without := strings.Replace(js, part, "", 1)
		if has := without != js; has != p.compiled.Needs {
			p.say("in the script of the document, %s is %s, not %s", what, onOff(has), onOff(p.compiled.Needs))
		}
		js = without
	}
	if rest := strings.TrimSpace(comment.ReplaceAllString(js, "")); rest != "" {
		p.say("the script of the document also says %q", brief(rest))
	}
	names := map[string]bool{}
	for i := range p.rows {
		x := &p.rows[i]
		names[x.Name] = true
		if is, should := p.comment[x.Name], remarkOf(x); fmt.Sprint(is) != fmt.Sprint(should) {
			p.say("%s: the script of the document remembers %q of it, not %q", x.Name, brief(fmt.Sprint(is)), brief(fmt.Sprint(should)))
		}
	}
	for name := range p.comment {
		if name != "" && !names[name] {
			p.say("the script of the document remembers %s, which is not there", name)
		}
	}
}

// remarkOf is what is to be remembered of a field. Formats that readers know are told by their scripts.
func remarkOf(x *form.Field) remark {
	r := remark{Checks: x.Checks, Formula: x.Formula, ShowIf: x.ShowIf, RequireIf: x.RequireIf, Role: x.Role, Hint: x.Hint}
	if k := x.Format.Kind; k != form.Date && k != form.Number || len(x.Checks) > 0 {
		r.Format = x.Format
	}
	return r
}

// fullName is the name of the field that an object is.
func (f *file) fullName(o any) string {
	var parts []string
	for d, depth := f.dict(o), 0; d != nil && depth < 32; d, depth = f.dict(d["Parent"]), depth+1 {
		if d["T"] != nil {
			parts = append([]string{f.words(d["T"])}, parts...)
		}
	}
	return strings.Join(parts, ".")
}

// detail is where the details of a document stand: in the information dictionary (14.3.3), in the
// catalog, and in the XMP packet (14.3.2), by the keys of the registry.
var detail = map[string]func(f *file) (string, string){
	"title":  func(f *file) (string, string) { return f.words(f.dict(f.trailer["Info"])["Title"]), xmp(f, "title") },
	"author": func(f *file) (string, string) { return f.words(f.dict(f.trailer["Info"])["Author"]), xmp(f, "creator") },
	"subject": func(f *file) (string, string) {
		return f.words(f.dict(f.trailer["Info"])["Subject"]), xmp(f, "description")
	},
	"language": func(f *file) (string, string) { return f.words(f.root()["Lang"]), xmp(f, "language") },
}

// packet is the XMP packet, which is UTF-8.
func (f *file) packet() string {
	s, _ := f.resolve(f.root()["Metadata"]).(stream)
	b, err := f.decode(s)
	if err != nil {
		return ""
	}
	return string(b)
}

// xmp is an entry of the XMP packet.
func xmp(f *file, key string) string {
	says, _, _ := packetParts(f.packet())
	return says[key]
}

// emptyPart is a description of nothing, under whatever prefix.
var emptyPart = regexp.MustCompile(`<\w+:Description[^>]*></\w+:Description>`)

// packetParts reads a packet (ISO 16684-1, 7): the first item of each detail, or the one for any language, and what the packet says
// besides, as it is written. The bool is false when it is not XML.
func packetParts(packet string) (says map[string]string, besides string, ok bool) {
	says = map[string]string{}
	dec := xml.NewDecoder(strings.NewReader(packet))
	detail, item, first, from := "", "", true, 0
	for n := 0; ; n++ {
		at := int(dec.InputOffset())
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return says, emptyPart.ReplaceAllString(besides+packet[from:], ""), n > 0
		}
		switch tok := tok.(type) {
		case nil:
			return says, "", false
		case xml.StartElement:
			known := slices.Contains([]string{"title", "description", "creator", "language"}, tok.Name.Local)
			if detail == "" && tok.Name.Space == "http://purl.org/dc/elements/1.1/" && known {
				detail, first = tok.Name.Local, true
				besides += packet[from:at]
			}
			if item = ""; slices.ContainsFunc(tok.Attr, func(a xml.Attr) bool { return a.Name.Local == "lang" && a.Value == "x-default" }) {
				first = true
			}
		case xml.CharData:
			item += string(tok)
		case xml.EndElement:
			switch {
			case detail != "" && tok.Name.Local == "li" && first:
				says[detail], first = item, false
			case detail == tok.Name.Local:
				detail, from = "", int(dec.InputOffset())
			}
		}
	}
}

func (p *proving) details() {
	d := p.draft.Details
	plain := d.Equal(form.Details{Leave: d.Leave, Events: d.Events}) // nothing is said: what the file says stays
	for i := range form.DetailProperties {
		prop := &form.DetailProperties[i]
		of := detail[prop.Key]
		if of == nil || plain {
			continue
		}
		should := prop.Get(&d)
		is, packet := of(p.out)
		if is != should {
			p.say("the %s of the document is %q, not %q", prop.Key, brief(is), brief(should))
		}
		if before, _ := of(p.base); before != should && packet != should {
			p.say("the %s in the metadata is %q, not %q", prop.Key, brief(packet), brief(should))
		}
	}
	_, was, sound := packetParts(p.base.packet())
	if _, is, _ := packetParts(p.out.packet()); !plain && sound && was != is {
		p.say("the metadata has lost something, or says something new, besides the details of the document")
	}
	if d.Title != "" {
		if v, _ := p.out.resolve(p.out.dict(p.out.root()["ViewerPreferences"])["DisplayDocTitle"]).(bool); !v {
			p.say("the title of the document does not show in the window")
		}
	}
}

// events holds what the document and its pages do to the draft.
func (p *proving) events() {
	steps := p.draft.Details.Events
	if len(steps) == 0 {
		return
	}
	hold := func(what string, o any, on func(form.Step) bool) {
		is, should := strings.Join(p.out.chain(o, p.pages), "; "), asked(steps, on)
		if is != should && should != "" {
			p.say("when %s: %q, not %q", what, brief(is), brief(should))
		}
	}
	hold("the document opens", p.out.root()["OpenAction"], func(s form.Step) bool { return s.When == form.DocumentOpened })
	aa := p.out.dict(p.out.root()["AA"])
	for _, when := range []form.Trigger{form.BeforeClose, form.BeforeSave, form.AfterSave, form.BeforePrint, form.AfterPrint} {
		hold(string(when), aa[events[when]], func(s form.Step) bool { return s.When == when })
	}
	for n, page := range p.pages {
		aa := p.out.dict(page.dict["AA"])
		for _, when := range []form.Trigger{form.PageOpened, form.PageClosed} {
			hold(fmt.Sprintf("page %d, %s", n+1, when), aa[events[when]],
				func(s form.Step) bool { return s.When == when && s.OnPage == n+1 })
		}
	}
}

// rest holds what the draft does not say to the file before: links and other annotations.
func (p *proving) rest() {
	before := p.base.pages()
	for n, page := range p.pages {
		if n >= len(before) {
			return
		}
		if is, was := p.others(p.out, page), p.others(p.base, before[n]); is != was {
			p.say("links or other annotations of page %d were changed", n+1)
		}
		if page.box != before[n].box || page.rotate != before[n].rotate {
			p.say("page %d has another size or turn", n+1)
		}
	}
}

// others writes the annotations of a page that are no widgets.
func (p *proving) others(f *file, s sheet) string {
	var out strings.Builder
	for _, o := range s.annots {
		if d := f.dict(o); f.name(d["Subtype"]) != "Widget" {
			fmt.Fprintln(&out, d)
		}
	}
	return out.String()
}

// elements calls do for every element and attribute of a packet, with its name space and name, and the text that stands right in it.
func elements(packet string, do func(space, local, value string)) error {
	dec := xml.NewDecoder(strings.NewReader(packet))
	type open struct {
		name xml.Name
		text string
	}
	var stack []open
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			stack = append(stack, open{name: tok.Name})
			for _, a := range tok.Attr {
				if a.Name.Space != "xmlns" && a.Name.Local != "xmlns" && a.Name.Local != "about" && a.Name.Local != "xmptk" {
					do(a.Name.Space, a.Name.Local, a.Value)
				}
			}
		case xml.CharData:
			if len(stack) > 0 {
				stack[len(stack)-1].text += string(tok)
			}
		case xml.EndElement:
			top := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			do(top.name.Space, top.name.Local, strings.TrimSpace(top.text))
		}
	}
}
