package intake

import (
	"archive/zip"
	"bytes"
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/beevik/etree"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Content controls and form fields of a word-processor file are found on the printed
// page by marking them with a link before the file is converted: the converter says
// where each link lies. What they showed is replaced by blanks of the same length,
// so that the field has room and nothing shows through it.

// controlLink begins the addresses of those links. The top-level domain "invalid"
// leads nowhere (RFC 2606, 2).
const controlLink = "http://control.invalid/"

// control is a content control or form field.
type control struct {
	name, tooltip, value string
	kind                 form.Kind
	options              []form.Option
	maxlen               int
	multiline            bool
	format               form.Format
}

// rewritten changes parts of a zipped document, copies the others, and adds new ones.
func rewritten(b []byte, change map[string]func(*etree.Document) error, added ...[2]string) ([]byte, error) {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range z.File {
		edit := change[f.Name]
		if edit == nil {
			if err := w.Copy(f); err != nil {
				return nil, err
			}
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, err
		}
		raw, err := object.Read(r, maxXML)
		_ = r.Close()
		if err != nil {
			return nil, err
		}
		doc := etree.NewDocument()
		if err := doc.ReadFromBytes(raw); err != nil {
			return nil, err
		}
		if err := edit(doc); err != nil {
			return nil, err
		}
		part, err := w.Create(f.Name)
		if err != nil {
			return nil, err
		}
		if _, err := doc.WriteTo(part); err != nil {
			return nil, err
		}
	}
	for _, a := range added {
		part, err := w.Create(a[0])
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(part, a[1]); err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// hasOldFields tells whether a DOC or RTF file speaks of form fields.
func hasOldFields(b []byte) bool {
	for _, s := range []string{"FORMTEXT", "FORMCHECKBOX", "FORMDROPDOWN"} {
		wide := make([]byte, 0, 2*len(s))
		for _, c := range []byte(s) {
			wide = append(wide, c, 0)
		}
		if bytes.Contains(b, []byte(s)) || bytes.Contains(b, wide) {
			return true
		}
	}
	return false
}

// blanks is room for a value: no-break spaces, at least so many.
func blanks(shown string, least int) string {
	return strings.Repeat("\u00a0", max(least, utf8.RuneCountInString(shown)))
}

// markDOCX marks the content controls (ISO/IEC 29500-1, 17.5.2) and the form fields
// (17.16) of a DOCX.
func markDOCX(b []byte) ([]byte, []control, error) {
	var found []control
	out, err := rewritten(b, map[string]func(*etree.Document) error{
		"word/document.xml": func(d *etree.Document) error {
			found = append(found, markSDT(d)...)
			found = append(found, markFormFields(d, len(found))...)
			return nil
		},
	})
	if err != nil || len(found) == 0 {
		return b, nil, err
	}
	// The links need targets, and a character style of their own: the converter
	// forgets links that have none.
	const kinds = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/"
	relate := func(root *etree.Element, id, kind, target string) *etree.Element {
		e := root.CreateElement("Relationship")
		e.CreateAttr("Id", id)
		e.CreateAttr("Type", kinds+kind)
		e.CreateAttr("Target", target)
		return e
	}
	styled := hasPart(out, "word/styles.xml")
	change := map[string]func(*etree.Document) error{
		"word/_rels/document.xml.rels": func(d *etree.Document) error {
			root := d.Root()
			if root == nil {
				return fmt.Errorf("the relationships are missing")
			}
			for i := range found {
				relate(root, relID(i), "hyperlink", controlLink+strconv.Itoa(i)).CreateAttr("TargetMode", "External")
			}
			if !styled {
				relate(root, "zmStyles", "styles", "styles.xml")
			}
			return nil
		},
	}
	const style = `<w:style w:type="character" w:customStyle="1" w:styleId="` + controlStyle + `"><w:name w:val="` + controlStyle +
		`"/></w:style>`
	if styled {
		change["word/styles.xml"] = func(d *etree.Document) error {
			one := etree.NewDocument()
			if err := one.ReadFromString(`<w:styles xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main">` + style +
				`</w:styles>`); err != nil {
				return err
			}
			d.Root().AddChild(one.Root().ChildElements()[0].Copy())
			return nil
		}
		out, err = rewritten(out, change)
		return out, found, err
	}
	change["[Content_Types].xml"] = func(d *etree.Document) error {
		e := d.Root().CreateElement("Override")
		e.CreateAttr("PartName", "/word/styles.xml")
		e.CreateAttr("ContentType", "application/vnd.openxmlformats-officedocument.wordprocessingml.styles+xml")
		return nil
	}
	out, err = rewritten(out, change, [2]string{
		"word/styles.xml",
		`<?xml version="1.0" encoding="UTF-8"?><w:styles xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main">` +
			style + `</w:styles>`,
	})
	return out, found, err
}

// controlStyle is the character style of the links that mark controls.
const controlStyle = "ZmControl"

func hasPart(b []byte, name string) bool {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	return err == nil && slices.ContainsFunc(z.File, func(f *zip.File) bool { return f.Name == name })
}

func relID(i int) string { return "zmControl" + strconv.Itoa(i) }

// wVal reads the w:val of a child.
func wVal(e *etree.Element, child string) (string, bool) {
	c := e.SelectElement(child)
	if c == nil {
		return "", false
	}
	return c.SelectAttrValue("w:val", c.SelectAttrValue("w14:val", "true")), true
}

func on(v string, present bool) bool { return present && v != "0" && v != "false" && v != "off" }

// markSDT marks structured document tags.
func markSDT(d *etree.Document) []control {
	var out []control
	for _, sdt := range d.FindElements("//w:sdt") {
		pr, content := sdt.SelectElement("w:sdtPr"), sdt.SelectElement("w:sdtContent")
		if pr == nil || content == nil || len(content.FindElements(".//w:sdt")) > 0 || pr.SelectElement("w:picture") != nil ||
			pr.SelectElement("w:docPartObj") != nil || pr.SelectElement("w:docPartList") != nil || pr.SelectElement("w:group") != nil {
			continue
		}
		shown := textOf(content, "w:t")
		c := control{kind: form.Text}
		c.tooltip, _ = wVal(pr, "w:alias")
		c.name, _ = wVal(pr, "w:tag")
		if p := pr.SelectElement("w:showingPlcHdr"); p == nil || !on(wVal(pr, "w:showingPlcHdr")) {
			c.value = shown
		} else if c.tooltip == "" {
			c.tooltip = shown
		}
		glyph, least := "", 20
		if box := pr.SelectElement("w14:checkbox"); box != nil {
			c.kind, c.value = form.CheckBox, ""
			if on(wVal(box, "w14:checked")) {
				c.value = "Yes"
			}
			glyph = "☐"
			if v, ok := wVal(box, "w14:uncheckedState"); ok {
				if n, err := strconv.ParseInt(v, 16, 32); err == nil && n != 0x2612 && n != 0x2611 {
					glyph = string(rune(n))
				}
			}
			if c.tooltip == shown {
				c.tooltip = ""
			}
		}
		for _, list := range []string{"w:dropDownList", "w:comboBox"} {
			if l := pr.SelectElement(list); l != nil {
				c.kind = form.Choice
				for _, item := range l.SelectElements("w:listItem") {
					label, value := item.SelectAttrValue("w:displayText", ""), item.SelectAttrValue("w:value", "")
					c.options = append(c.options, option(label, value))
					least = max(least, utf8.RuneCountInString(label))
				}
			}
		}
		if date := pr.SelectElement("w:date"); date != nil {
			f, _ := wVal(date, "w:dateFormat")
			c.format = dateFormat(f)
		}
		if t := pr.SelectElement("w:text"); t != nil {
			c.multiline = on(t.SelectAttrValue("w:multiLine", "0"), true)
		}
		blank := blanks(shown, least)
		if glyph != "" {
			blank = glyph
		}
		if !wrapRuns(content, blank, len(out)) {
			continue
		}
		unwrap(sdt, content)
		out = append(out, c)
	}
	return out
}

func option(label, value string) form.Option {
	o := form.Option{Label: cmp.Or(label, value)}
	if value != o.Label {
		o.Export = value
	}
	return o
}

func textOf(e *etree.Element, tag string) string {
	var b strings.Builder
	for _, t := range e.FindElements(".//" + tag) {
		b.WriteString(t.Text())
	}
	return b.String()
}

// wrapRuns puts a link with blanks in the place of the first run, and takes the other
// runs of the content out.
func wrapRuns(content *etree.Element, blank string, n int) bool {
	runs := content.FindElements(".//w:r")
	if len(runs) == 0 {
		return false
	}
	first := runs[0]
	parent := first.Parent()
	at := first.Index()
	look := first.SelectElement("w:rPr")
	for _, r := range runs {
		r.Parent().RemoveChild(r)
	}
	parent.InsertChildAt(at, linkedRun(look, blank, n))
	return true
}

// linkedRun is a run of blanks inside a link, with the look of the text around it
// and no look of a link.
func linkedRun(look *etree.Element, blank string, n int) *etree.Element {
	link := etree.NewElement("w:hyperlink")
	link.CreateAttr("r:id", relID(n))
	run := link.CreateElement("w:r")
	pr := run.CreateElement("w:rPr")
	pr.CreateElement("w:rStyle").CreateAttr("w:val", controlStyle)
	if look != nil {
		for _, c := range look.ChildElements() {
			if c.FullTag() != "w:rStyle" {
				pr.AddChild(c.Copy())
			}
		}
	}
	if pr.SelectElement("w:u") == nil {
		pr.CreateElement("w:u").CreateAttr("w:val", "none")
	}
	if pr.SelectElement("w:color") == nil {
		pr.CreateElement("w:color").CreateAttr("w:val", "000000")
	}
	t := run.CreateElement("w:t")
	t.CreateAttr("xml:space", "preserve")
	t.SetText(blank)
	return link
}

// unwrap puts the content of a control in its place.
func unwrap(sdt, content *etree.Element) {
	parent, at := sdt.Parent(), sdt.Index()
	for i, c := range content.ChildElements() {
		parent.InsertChildAt(at+i, c)
	}
	parent.RemoveChild(sdt)
}

// placeControls reads where the links lie and makes fields of the controls.
func placeControls(ctx context.Context, made []byte, controls []control) ([]form.Field, error) {
	links, err := read.Links(made, controlLink)
	if err != nil {
		return nil, err
	}
	type spot struct {
		page int
		rect geom.Rect
	}
	spots := map[int]spot{}
	for _, l := range links {
		n, err := strconv.Atoi(strings.TrimPrefix(l.URI, controlLink))
		if err != nil || n < 0 || n >= len(controls) {
			continue
		}
		r := geom.R(l.Rect[0], l.Rect[1], l.Rect[2], l.Rect[3])
		if s, there := spots[n]; !there {
			spots[n] = spot{l.Page, r}
		} else if s.page == l.Page { // it runs over several lines
			spots[n] = spot{l.Page, s.rect.Union(r)}
		}
	}
	printed := map[int]*evidence.Page{} // what is on the pages, read when it is asked for
	var out []form.Field
	taken := map[string]bool{}
	for n, c := range controls {
		s, ok := spots[n]
		if !ok || s.rect.W() < form.MinSide || s.rect.H() < form.MinSide {
			continue
		}
		f := form.Field{
			ID: form.NewID(), Page: s.page, Rect: s.rect.Rounded(), Kind: c.kind, Tooltip: c.tooltip, Label: c.tooltip, MaxLen: c.maxlen,
			Options: c.options, Default: c.value, Format: c.format, Multiline: c.multiline && s.rect.H() > 24, Order: float64(n + 1),
		}
		if c.kind == form.CheckBox {
			side := min(s.rect.W(), s.rect.H())
			m := s.rect.Mid()
			f.Rect = geom.Rect{X0: m.X - side/2, Y0: m.Y - side/2, X1: m.X + side/2, Y1: m.Y + side/2}.Rounded()
		}
		if f.Kind == form.Choice {
			for _, o := range f.Options {
				if o.Label == f.Default && o.Export != "" {
					f.Default = o.Export
				}
			}
		}
		name := strings.NewReplacer(".", "_", " ", "_").Replace(c.name) // names that were given stay
		if form.CheckName(name) != nil {
			name = detect.NameOf(c.tooltip)
		}
		if name == "" || f.Tooltip == "" { // called by the printed words beside it
			ev, read := printed[f.Page]
			if !read {
				ev, _ = engine.ReadPage(ctx, made, f.Page) // without it the field has a plain name
				printed[f.Page] = ev
			}
			if ev != nil {
				label := detect.LabelOf(ev, f.Rect, f.Kind)
				name, f.Tooltip = cmp.Or(name, label.Name), cmp.Or(f.Tooltip, label.Tooltip)
				f.Label = cmp.Or(f.Label, label.Label)
			}
		}
		if name == "" {
			name = map[form.Kind]string{form.CheckBox: "check", form.Choice: "choice"}[c.kind]
		}
		f.Name = form.FreeName(cmp.Or(name, "text"), taken)
		taken[f.Name] = true
		out = append(out, f)
	}
	return out, nil
}
