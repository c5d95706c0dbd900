package read

import (
	"bytes"
	"errors"
	"regexp"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/returns"
)

var (
	errFDF    = errors.New("the FDF cannot be read: it is damaged, or has no fields")
	fdfObject = regexp.MustCompile(`(?:^|[\r\n\s])(\d{1,9})[ \t\r\n]+(\d{1,5})[ \t\r\n]+obj\b`)
)

// fdf is a file of form data: its objects follow each other and are found by their heads, since it need have no cross-reference table
// (ISO 32000-2, 12.7.8.2).
type fdf struct {
	objects map[int]types.Object
	seen    map[int]bool // fields that were read: each has one place
}

// FDF reads the answers of a file of form data (ISO 32000-2, 12.7.8). An FDF that carries changes to a PDF is not looked into further.
func FDF(b []byte) (c returns.Came, err error) {
	defer object.Recovered(&err)
	c = returns.Came{Named: map[string][]string{}}
	d := fdf{map[int]types.Object{}, map[int]bool{}}
	heads := fdfObject.FindAllSubmatchIndex(b, 20_000)
	for _, h := range heads {
		n, err := strconv.Atoi(string(b[h[2]:h[3]]))
		if err != nil {
			continue
		}
		body := string(b[h[1]:])
		if o, err := model.ParseObject(&body); err == nil {
			d.objects[n] = o
		}
	}
	root := d.root(b)
	if root == nil {
		return c, errFDF
	}
	fields, ok := d.follow(root["Fields"]).(types.Array)
	if !ok {
		return c, errFDF
	}
	for _, f := range fields {
		d.field(f, "", nil, &c, 0)
	}
	return c, nil
}

// root is the dictionary of the data: by the trailer, or the first object that has one.
func (d fdf) root(b []byte) types.Dict {
	if i := bytes.LastIndex(b, []byte("trailer")); i >= 0 {
		rest := string(b[i+len("trailer"):])
		if o, err := model.ParseObject(&rest); err == nil {
			if t, ok := o.(types.Dict); ok {
				if cat, ok := d.follow(t["Root"]).(types.Dict); ok {
					if root, ok := d.follow(cat["FDF"]).(types.Dict); ok {
						return root
					}
				}
			}
		}
	}
	for _, o := range d.objects {
		if cat, ok := o.(types.Dict); ok {
			if root, ok := d.follow(cat["FDF"]).(types.Dict); ok {
				return root
			}
		}
	}
	return nil
}

func (d fdf) follow(o types.Object) types.Object {
	for range 32 {
		ref, ok := o.(types.IndirectRef)
		if !ok {
			return o
		}
		o = d.objects[ref.ObjectNumber.Value()]
	}
	return nil
}

// field reads a field and those below it, whose names are joined by full stops (12.7.4.2).
func (d fdf) field(o types.Object, above string, value types.Object, c *returns.Came, depth int) {
	if ref, ok := o.(types.IndirectRef); ok {
		n := ref.ObjectNumber.Value()
		if d.seen[n] {
			return
		}
		d.seen[n] = true
	}
	f, ok := d.follow(o).(types.Dict)
	if !ok || depth > 32 || len(c.Named) > 20_000 {
		return
	}
	name := above
	if t := d.text(f["T"]); t != "" {
		name = strings.TrimPrefix(above+"."+t, ".")
	}
	if v, has := f["V"]; has {
		value = v
	}
	if kids, ok := d.follow(f["Kids"]).(types.Array); ok {
		for _, k := range kids {
			d.field(k, name, value, c, depth+1)
		}
		return
	}
	if name == "" {
		return
	}
	if list, ok := d.follow(value).(types.Array); ok {
		c.Named[name] = []string{}
		for _, v := range list {
			c.Named[name] = append(c.Named[name], d.text(v))
		}
		return
	}
	c.Named[name] = []string{d.text(value)}
}

// text is a text string or a name in words.
func (d fdf) text(o types.Object) string {
	switch o := d.follow(o).(type) {
	case types.Name:
		if s, err := types.DecodeName(string(o)); err == nil {
			return s
		}
		return string(o)
	case types.StringLiteral, types.HexLiteral:
		return object.StringText(o)
	case types.Integer, types.Float:
		return strings.TrimSpace(o.String())
	}
	return ""
}

// Came reads answers from whatever came back as text or data; one file may have several sets of them. A PDF is read by [Answered].
func Came(kind string, b []byte) ([]returns.Came, error) {
	switch kind {
	case returns.FDF:
		c, err := FDF(b)
		return []returns.Came{c}, err
	case returns.PDF:
		c, err := Answered(b)
		return []returns.Came{c}, err
	}
	return returns.Data(kind, b)
}

// Answered are the answers in a filled form, by the names of fields. Signatures and buttons have none.
func Answered(src []byte) (returns.Came, error) {
	c := returns.Came{Named: map[string][]string{}}
	ws, err := Widgets(src)
	if err != nil {
		return c, err
	}
	for _, w := range ws {
		switch w.Kind {
		case form.Signature, form.Button:
		case form.CheckBox, form.Radio:
			if w.Checked {
				c.Named[w.Name] = []string{w.Export}
			} else if c.Named[w.Name] == nil {
				c.Named[w.Name] = []string{""}
			}
		case form.Choice:
			c.Named[w.Name] = strings.Split(w.Value, "\n")
		default:
			c.Named[w.Name] = []string{w.Value}
		}
	}
	return c, nil
}
