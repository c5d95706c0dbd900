package markup

import (
	"cmp"
	"encoding/json"
	"html/template"
	"slices"
	"strconv"

	"zealousmargin.example/internal/form"
)

// Live is a field as a recipient has it: X, Y, W, H and Size are CSS pixels from the upper left of
// the page as shown.
type Live struct {
	*form.Field
	X, Y, W, H float64
	Size       float64 // of its type
	Scale      float64 // CSS pixels per point
}

// Control is the control that a recipient fills in.
func (l Live) Control() template.HTML {
	var b Builder
	at := slices.Concat([]string{
		"data-name", l.Name, "data-x", tenth(l.X), "data-y", tenth(l.Y), "data-w", tenth(l.W), "data-h", tenth(l.H), "data-size",
		tenth(l.Size), "data-id", l.ID,
		"data-role", l.Role, "data-align", string(l.Look.Align), "title", l.Tooltip, "aria-label", l.Tooltip,
	}, when(max(l.MaxLen, l.Comb) > 0 && l.Kind == form.Text, "maxlength", strconv.Itoa(max(l.MaxLen, l.Comb))),
		when(l.NoScroll && l.Kind == form.Text, "data-noscroll", ""), when(l.NoSpell, "spellcheck", "false"),
		l.looks(), when(l.Shows() == form.ShowNone || l.Shows() == form.ShowPrint, "data-away", ""), when(l.ReadOnly, "data-fixed", ""))
	if steps := l.presses(); len(steps) > 0 {
		does, err := json.Marshal(steps)
		if err != nil {
			return ""
		}
		at = append(at, "data-steps", string(does))
	}
	typed := slices.Concat(at, []string{"class", "live", "placeholder", l.Hint, "autocomplete", "off"}, when(l.ReadOnly, "readonly", ""))
	switch l.Kind {
	case form.Text:
		l.text(&b, at, typed)
	case form.CheckBox, form.Radio:
		kind := map[form.Kind]string{form.CheckBox: "checkbox", form.Radio: "radio"}[l.Kind]
		b.Open("input", slices.Concat(at, []string{"type", kind, "class", "live", "name", "live-" + l.Name, "value", l.OnState()},
			when(l.ReadOnly, "disabled", ""))...)
	case form.Choice:
		l.list(&b, at, typed)
	case form.Signature:
		b.Element("button", "sign here", slices.Concat(at, []string{"type", "button", "class", "live sign", "data-sign", ""})...)
	case form.Button:
		b.Element("button", cmp.Or(l.Caption, l.Name), slices.Concat(at, []string{"type", "button", "class", "live press"})...)
	}
	return b.HTML()
}

// looks is how the field looks, as data for the script: lengths in CSS pixels.
func (l Live) looks() []string {
	k := l.Look
	var out []string
	for _, one := range [][2]string{
		{"colour", k.Colour}, {"fill", k.Fill}, {"border", k.Border}, {"borderstyle", string(k.BorderStyle)}, {"font", k.Font},
	} {
		out = append(out, when(one[1] != "", "data-"+one[0], one[1])...)
	}
	out = append(out, when(k.Border != "", "data-borderwidth", tenth(cmp.Or(k.BorderWidth, 1)*l.Scale))...)
	return append(out, when(k.Turn != 0, "data-turn", strconv.Itoa(k.Turn))...)
}

func (l Live) text(b *Builder, at, typed []string) {
	switch {
	case l.Multiline:
		b.Open("textarea", typed...).Close("textarea")
	case l.FilePath:
		b.Open("input", slices.Concat(at, []string{"type", "file", "class", "live", "data-file", ""})...)
	default:
		kind := "text"
		if l.Password {
			kind = "password"
		}
		b.Open("input", slices.Concat(typed, []string{"type", kind, "data-comb", strconv.Itoa(l.Comb)})...)
	}
}

func (l Live) list(b *Builder, at, typed []string) {
	if l.List == form.ComboBox {
		id := "list-" + l.ID
		b.Open("input", append(slices.Clone(typed), "list", id)...).Open("datalist", "id", id)
		for _, o := range l.Options {
			b.Open("option", "value", o.Label)
		}
		b.Close("datalist")
		return
	}
	several := map[form.ListStyle][]string{form.ListBox: {"size", "4"}, form.ManyList: {"size", "4", "multiple", ""}}[l.List]
	b.Open("select", slices.Concat(at, []string{"class", "live"}, several, when(l.ReadOnly, "disabled", ""))...)
	if l.List == form.Dropdown {
		b.Element("option", "", "value", "")
	}
	for _, o := range l.Options {
		b.Element("option", o.Label, "value", cmp.Or(o.Export, o.Label))
	}
	b.Close("select")
}

// presses are the steps of a field; a button that takes a picture does that first.
func (l Live) presses() []form.Step {
	steps := l.Sequence()
	if l.Kind == form.Signature {
		return nil
	}
	if l.Action.Do == form.TakePicture {
		steps = append([]form.Step{{Do: form.TakePicture}}, steps...)
	}
	return steps
}
