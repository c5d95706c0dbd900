package markup

import (
	"html/template"
	"strconv"
	"strings"
)

// Builder writes elements. Tags and attribute names are those of the program; values and text are
// escaped.
type Builder struct{ w strings.Builder }

// Grow makes room for n bytes.
func (b *Builder) Grow(n int) { b.w.Grow(n) }

// HTML is what was written.
func (b *Builder) HTML() template.HTML { return template.HTML(b.w.String()) }

// Open begins an element with attributes, in pairs of name and value.
func (b *Builder) Open(tag string, attributes ...string) *Builder {
	b.w.WriteByte('<')
	b.w.WriteString(tag)
	for i := 0; i+1 < len(attributes); i += 2 {
		b.w.WriteByte(' ')
		b.w.WriteString(attributes[i])
		b.w.WriteString(`="`)
		b.escaped(attributes[i+1])
		b.w.WriteByte('"')
	}
	b.w.WriteByte('>')
	return b
}

// Close ends elements.
func (b *Builder) Close(tags ...string) *Builder {
	for _, tag := range tags {
		b.w.WriteString("</")
		b.w.WriteString(tag)
		b.w.WriteByte('>')
	}
	return b
}

// Empty writes an element of SVG that has nothing inside.
func (b *Builder) Empty(tag string, attributes ...string) *Builder {
	return b.Open(tag, attributes...).Close(tag)
}

// Text writes text.
func (b *Builder) Text(parts ...string) *Builder {
	for _, s := range parts {
		b.escaped(s)
	}
	return b
}

// Element writes an element with text in it.
func (b *Builder) Element(tag, text string, attributes ...string) *Builder {
	return b.Open(tag, attributes...).Text(text).Close(tag)
}

func (b *Builder) escaped(s string) {
	for i := range len(s) {
		switch s[i] {
		case '&', '<', '>', '"', '\'', 0:
			b.w.WriteString(template.HTMLEscapeString(s))
			return
		}
	}
	b.w.WriteString(s)
}

// when gives attributes only if on.
func when(on bool, attributes ...string) []string {
	if on {
		return attributes
	}
	return nil
}

// Number writes a number without an exponent.
func Number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func short(v float64) string { return strconv.FormatFloat(v, 'f', 2, 64) }
