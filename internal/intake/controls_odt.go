package intake

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/beevik/etree"

	"zealousmargin.example/internal/form"
)

// Controls of OpenDocument text (ODF 1.3, part 3, 13).

// markODT marks the content controls and input fields of an ODT (OASIS OpenDocument
// 1.3 part 3, 7.4 and 7.7; content controls are an extension of LibreOffice's).
func markODT(b []byte) ([]byte, []control, error) {
	var found []control
	out, err := rewritten(b, map[string]func(*etree.Document) error{
		"content.xml": func(d *etree.Document) error {
			if d.Root() == nil {
				return fmt.Errorf("the content is missing")
			}
			for _, e := range d.FindElements("//loext:content-control") {
				found = append(found, odtControl(e, len(found)))
			}
			for _, e := range d.FindElements("//text:text-input") {
				c := control{kind: form.Text, tooltip: e.SelectAttrValue("text:description", ""), value: strings.Trim(e.Text(), "<> ")}
				if c.value == c.tooltip || strings.Contains(e.Text(), "<") {
					c.value = ""
				}
				linkODT(e, blanks(e.Text(), 20), len(found))
				found = append(found, c)
			}
			for _, e := range d.FindElements("//text:drop-down") {
				c := control{kind: form.Choice, name: e.SelectAttrValue("text:name", ""), value: e.Text()}
				least := 12
				for _, l := range e.SelectElements("text:label") {
					v := l.SelectAttrValue("text:value", "")
					c.options = append(c.options, form.Option{Label: v})
					least = max(least, utf8.RuneCountInString(v)+3)
				}
				linkODT(e, blanks("", least), len(found))
				found = append(found, c)
			}
			if len(found) > 0 {
				plainStyle(d)
			}
			return nil
		},
	})
	return out, found, err
}

func odtControl(e *etree.Element, n int) control {
	shown := textOfAll(e)
	c := control{kind: form.Text, name: e.SelectAttrValue("loext:tag", ""), tooltip: e.SelectAttrValue("loext:alias", "")}
	is := func(attr string) bool { return e.SelectAttrValue("loext:"+attr, "false") == "true" }
	if !is("showing-place-holder") {
		c.value = shown
	} else if c.tooltip == "" {
		c.tooltip = shown
	}
	blank, least := "", 20
	switch {
	case is("checkbox"):
		c.kind, c.value, blank = form.CheckBox, "", "☐"
		if is("checked") {
			c.value = "Yes"
		}
	case is("date"):
		c.format = dateFormat(e.SelectAttrValue("loext:date-format", ""))
	case is("dropdown"), is("combobox"), len(e.SelectElements("loext:list-item")) > 0:
		c.kind = form.Choice
		for _, i := range e.SelectElements("loext:list-item") {
			label := i.SelectAttrValue("loext:display-text", "")
			c.options = append(c.options, option(label, i.SelectAttrValue("loext:value", "")))
			least = max(least, utf8.RuneCountInString(label))
		}
	}
	linkODT(e, cmp.Or(blank, blanks(shown, least)), n)
	return c
}

func textOfAll(e *etree.Element) string {
	var b strings.Builder
	for _, t := range e.Child {
		switch t := t.(type) {
		case *etree.CharData:
			b.WriteString(t.Data)
		case *etree.Element:
			b.WriteString(textOfAll(t))
		}
	}
	return b.String()
}

func linkODT(e *etree.Element, blank string, n int) {
	link := etree.NewElement("text:a")
	link.CreateAttr("xlink:type", "simple")
	link.CreateAttr("xlink:href", controlLink+strconv.Itoa(n))
	link.CreateAttr("text:style-name", controlStyle)
	link.CreateAttr("text:visited-style-name", controlStyle)
	span := link.CreateElement("text:span")
	span.CreateAttr("text:style-name", controlStyle)
	span.SetText(blank)
	parent, at := e.Parent(), e.Index()
	parent.RemoveChild(e)
	parent.InsertChildAt(at, link)
}

// plainStyle adds a text style that takes the look of a link off.
func plainStyle(d *etree.Document) {
	root := d.Root()
	for prefix, uri := range map[string]string{
		"xmlns:style": "urn:oasis:names:tc:opendocument:xmlns:style:1.0",
		"xmlns:fo":    "urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0",
		"xmlns:xlink": "http://www.w3.org/1999/xlink",
	} {
		if root.SelectAttr(prefix) == nil {
			root.CreateAttr(prefix, uri)
		}
	}
	auto := root.SelectElement("office:automatic-styles")
	if auto == nil {
		auto = etree.NewElement("office:automatic-styles")
		root.InsertChildAt(0, auto)
	}
	s := auto.CreateElement("style:style")
	s.CreateAttr("style:name", controlStyle)
	s.CreateAttr("style:family", "text")
	p := s.CreateElement("style:text-properties")
	p.CreateAttr("style:text-underline-style", "none")
	p.CreateAttr("fo:color", "#000000")
}

// dateFormat turns a date picture of a word processor into a pattern, where it is one
// of day, month and year in figures.
func dateFormat(f string) form.Format {
	p := strings.ToLower(strings.Trim(f, "'\" "))
	for _, r := range [][2]string{{"mmmm", "mm"}, {"mmm", "mm"}, {"dddd", ""}, {"ddd", ""}} {
		p = strings.ReplaceAll(p, r[0], r[1])
	}
	single := func(p, letter string) string {
		if strings.Count(p, letter) == 1 {
			return strings.Replace(p, letter, letter+letter, 1)
		}
		return p
	}
	p = single(single(p, "d"), "m")
	p = strings.Trim(strings.ReplaceAll(p, ", ", " "), " ,")
	if !form.ValidDatePattern(p) {
		return form.Format{}
	}
	return form.Format{Kind: form.Date, Pattern: p}
}
