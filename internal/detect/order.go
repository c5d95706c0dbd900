package detect

import (
	"math"
	"slices"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// order is that in which a reader takes the finds of a page, each with its label.
func (f *finder) order(found []Find) []int {
	down := geom.ToView(f.ev.Width, f.ev.Height, 0)
	fields, around := make([]geom.Rect, len(found)), make([]geom.Rect, len(found))
	for i, one := range found {
		fields[i] = one.Rect.Apply(down)
		around[i] = one.labelled().Apply(down)
	}
	plain := slices.DeleteFunc(slices.Clone(found), func(one Find) bool { // the rule at a heading may be a field as well
		return one.Confidence > 0 && one.Confidence < form.LikelyFrom
	})
	var printed arrange.Printed
	for _, l := range f.lines {
		r := l.Rect.Apply(down)
		printed.Text = append(printed.Text, r)
		if !f.isLabel(l, plain) && !hangsUnder(l, plain) && !besideFind(l, plain) {
			printed.Heads = append(printed.Heads, r)
		}
	}
	return arrange.Read(fields, around, printed)
}

// labelled is the area of a find with its label, where that is printed by itself.
func (one Find) labelled() geom.Rect {
	if one.label.Empty() {
		return one.Rect
	}
	return one.Rect.Union(one.label)
}

// besideFind tells whether a line of words stands in the row of a find, next to it: a unit, or a part of its label.
func besideFind(l evidence.Line, found []Find) bool {
	return slices.ContainsFunc(found, func(one Find) bool {
		r := one.labelled()
		gap := math.Max(l.Rect.X0-r.X1, r.X0-l.Rect.X1)
		return gap < 2*l.Size && l.Rect.OverlapY(r) > 0.5*l.Rect.H()
	})
}

// hangsUnder tells whether a line of words stands right under a find, from where it begins: small print about it.
func hangsUnder(l evidence.Line, found []Find) bool {
	return slices.ContainsFunc(found, func(one Find) bool {
		r := one.labelled()
		d := r.Y0 - l.Rect.Y1
		return d > -2 && d < maxHang+3 && l.Rect.X0 > r.X0-6 && l.Rect.X0 < r.X1
	})
}

// isLabel tells whether a line of words is about one of the finds: its label, the head of its column or row, or within it.
func (f *finder) isLabel(l evidence.Line, found []Find) bool {
	text := clean(l.Text())
	return text == "" || slices.ContainsFunc(found, func(one Find) bool {
		return one.label.Inset(-1).Covers(l.Rect, 0.5) || one.Rect.Inset(-1).Contains(l.Rect.Mid()) || one.Label == text ||
			one.Group == text
	})
}

// Order gives the ids of the fields of a page in the order in which a reader takes them: by what is printed about them.
// The fields are those of the page that the evidence is of.
func Order(ev *evidence.Page, fields []form.Field) []string {
	f := examine(ev)
	_, fromPage := ev.ToPage()
	finds := make([]Find, len(fields))
	for i, field := range fields {
		r := field.Rect.Apply(fromPage)
		c := candidate{kind: form.Text, rect: r, area: r, how: fromRule, comb: field.Comb}
		if field.Kind == form.CheckBox || field.Kind == form.Radio {
			c.kind, c.how = form.CheckBox, fromTick
		}
		l := f.labelFor(c)
		finds[i] = Find{Rect: r, Label: l.text}
		if l.where != header {
			finds[i].label = l.rect
		}
	}
	var out []string
	for _, i := range f.order(finds) {
		out = append(out, fields[i].ID)
	}
	return out
}
