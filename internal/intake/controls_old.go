package intake

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/beevik/etree"

	"zealousmargin.example/internal/form"
)

// Form fields as word processors had them before content controls (ECMA-376 part 1, 17.16).

// markFormFields marks the form fields that are made of complex field characters.
func markFormFields(d *etree.Document, n int) []control {
	var out []control
	for _, data := range d.FindElements("//w:ffData") {
		begin := data.Parent().Parent() // w:fldChar, w:r
		parent := begin.Parent()
		if parent == nil || begin.FullTag() != "w:r" {
			continue
		}
		c := control{kind: form.Text}
		c.name, _ = wVal(data, "w:name")
		if strings.HasPrefix(c.name, "__Fieldmark__") { // made up by a converter
			c.name = ""
		}
		c.tooltip, _ = wVal(data, "w:statusText")
		if c.tooltip == "" {
			c.tooltip, _ = wVal(data, "w:helpText")
		}
		blank, picked := "", 0
		switch {
		case data.SelectElement("w:checkBox") != nil:
			box := data.SelectElement("w:checkBox")
			c.kind, blank = form.CheckBox, "☐"
			v, present := wVal(box, "w:checked")
			if !present {
				v, present = wVal(box, "w:default")
			}
			if on(v, present) {
				c.value = "Yes"
			}
		case data.SelectElement("w:ddList") != nil:
			list := data.SelectElement("w:ddList")
			c.kind = form.Choice
			longest := 12
			for _, e := range list.SelectElements("w:listEntry") {
				v := e.SelectAttrValue("w:val", "")
				c.options = append(c.options, form.Option{Label: v})
				longest = max(longest, utf8.RuneCountInString(v)+3)
			}
			if v, ok := wVal(list, "w:result"); ok {
				picked, _ = strconv.Atoi(v)
			} else if v, ok := wVal(list, "w:default"); ok {
				picked, _ = strconv.Atoi(v)
			}
			if picked >= 0 && picked < len(c.options) {
				c.value = c.options[picked].Label
			}
			blank = blanks("", longest)
		default:
			if in := data.SelectElement("w:textInput"); in != nil {
				c.value, _ = wVal(in, "w:default")
				if v, ok := wVal(in, "w:maxLength"); ok {
					c.maxlen, _ = strconv.Atoi(v)
				}
				if kind, _ := wVal(in, "w:type"); kind == "date" {
					f, _ := wVal(in, "w:format")
					c.format = dateFormat(f)
				}
			}
		}
		shown, look, ok := takeField(begin)
		if !ok {
			continue
		}
		if c.kind == form.Text {
			if s := strings.TrimFunc(shown, func(r rune) bool { return r == '\u2002' || r == ' ' || r == '\u00a0' }); s != "" {
				c.value = shown
			}
			blank = blanks(cmp.Or(shown, c.value), max(12, min(c.maxlen, 60)))
		}
		parent.InsertChildAt(begin.Index(), linkedRun(look, blank, n+len(out)))
		parent.RemoveChild(begin)
		out = append(out, c)
	}
	return out
}

// takeField removes what follows the begin mark of a field up to its end mark, in one
// paragraph, and gives what it showed and how.
func takeField(begin *etree.Element) (shown string, look *etree.Element, ok bool) {
	parent := begin.Parent()
	look = begin.SelectElement("w:rPr")
	var gone []*etree.Element
	for _, e := range parent.ChildElements()[indexOf(parent, begin)+1:] {
		gone = append(gone, e)
		if e.FullTag() != "w:r" {
			continue
		}
		if mark := e.SelectElement("w:fldChar"); mark != nil {
			switch mark.SelectAttrValue("w:fldCharType", "") {
			case "end":
				for _, g := range gone {
					if g.FullTag() == "w:r" {
						parent.RemoveChild(g)
					}
				}
				return shown, look, true
			case "begin":
				return "", nil, false // a field within a field
			}
		}
		shown += textOf(e, "w:t")
	}
	return "", nil, false
}

func indexOf(parent, child *etree.Element) int { return slices.Index(parent.ChildElements(), child) }
