package web

import (
	"cmp"
	"fmt"
	"html/template"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Shapes, closed notes and sentences are written by hand and not by a template: they make
// up most of what an edit answers with, a hundred and fifty times on a full page, and a
// template takes ten times as long. Everything that a person typed is escaped.

// esc escapes text for HTML, in and out of attributes.
func esc(s string) string { return template.HTMLEscapeString(s) }

func put(w *strings.Builder, parts ...string) {
	for _, s := range parts {
		w.WriteString(s)
	}
}

// shape draws the field over the page.
func (b *benchField) shape(w *strings.Builder) {
	name := esc(b.Name)
	add := func(ss ...string) { put(w, ss...) }
	add(`<g class="f k-`, esc(string(b.Kind)), b.sense(), `" id="f-`, esc(b.ID), `" data-id="`, esc(b.ID), `" data-name="`, name, `" `, string(b.Place),
		` tabindex="0" role="button" aria-label="`, name, `, `, esc(b.Badge))
	if b.Doubt {
		add(`, doubtful`)
	}
	if b.Required {
		add(`, must be filled in" data-required="yes`)
	}
	add(`"><title>`, esc(b.Tooltip), `</title><rect class="body" `, string(b.Body), `/><path class="spine" `, string(b.Spine), `/>`)
	num := func(v float64) string { return strconv.FormatFloat(v, 'f', 1, 64) }
	at := ` x="` + strconv.FormatFloat(b.X, 'f', -1, 64) + `" y="` + strconv.FormatFloat(b.Y, 'f', -1, 64) + `"`
	low := ` dy="` + num(b.H/2+3) + `"`
	if b.Face.Picture != "" {
		p := b.pictureArea()
		fmt.Fprintf(w, `<image href="/documents/%d/button-pictures/%s" x="%.1f" y="%.1f" width="%.1f" height="%.1f"/>`, b.Doc, esc(b.Face.Picture), p.X0, p.Y0, p.W(), p.H())
	}
	if b.Kind == form.Button && (b.Face.Picture == "" || b.Face.Layout != form.PictureOnly) {
		across, down := b.W/2, b.H/2
		if b.Face.Picture != "" {
			switch b.Face.Layout {
			case form.CaptionLeft:
				across = b.W / 4
			case form.CaptionRight:
				across = b.W * 3 / 4
			case form.CaptionAbove:
				down = b.H * 0.2
			case form.CaptionBelow:
				down = b.H * 0.8
			}
		}
		add(`<text class="cap"`, at, ` dx="`, num(across), `" dy="`, num(down+3), `">`, esc(b.Caption), `</text>`)
	}
	add(`<text class="nm"`, at, ` dx="4"`, low, `>`, name, `</text></g>`)
}

// pictureArea is about where a button shows its picture, as the page is shown: its upper
// left is at the upper left of the page.
func (b *benchField) pictureArea() geom.Rect {
	r := geom.R(b.X+2, b.Y+2, b.X+b.W-2, b.Y+b.H-2)
	switch b.Face.Layout {
	case form.CaptionBelow:
		r.Y1 -= r.H() * 0.4
	case form.CaptionAbove:
		r.Y0 += r.H() * 0.4
	case form.CaptionLeft:
		r.X0 += r.W() / 2
	case form.CaptionRight:
		r.X1 -= r.W() / 2
	}
	return r
}

// sense is the class that says how far a find can be trusted.
func (b *benchField) sense() string {
	switch {
	case b.Doubt:
		return " doubt"
	case b.IsOpen:
		return " found"
	}
	return ""
}

// Line is the closed note.
func (b benchField) Line() template.HTML {
	var w strings.Builder
	b.line(&w)
	return template.HTML(w.String())
}

func (b *benchField) line(w *strings.Builder) {
	add := func(ss ...string) { put(w, ss...) }
	id, name := esc(b.ID), esc(b.Name)
	add(`<li class="note`, b.sense())
	if b.Wrong != "" {
		add(` bad`)
	}
	add(`" id="n-`, id, `" data-id="`, id, `" `, string(b.Place), `><button class="line" tabindex="-1" data-open="`, id, `"><span class="n">`, name, `</span><span class="t">`)
	switch {
	case b.Doubt:
		add(esc(b.Find.Evidence), `</span><span class="b">doubtful</span></button><span class="quick"><button class="link" data-do="keep" data-field="`, id, `" aria-label="Keep `, name,
			`">keep</button> <button class="link" data-do="drop" data-field="`, id, `" aria-label="Drop `, name, `">drop</button></span>`)
	case b.Wrong != "":
		add(esc(b.Tooltip), `</span><span class="b">`, esc(b.Wrong), `</span></button>`)
	default:
		add(esc(b.Tooltip), `</span><span class="b">`, esc(b.Badge), `</span></button>`)
	}
	add(`</li>`)
}

// HTML is the sentences of the group.
func (g sayGroup) HTML() template.HTML {
	var w strings.Builder
	for i := range g.Say {
		g.Say[i].put(&w)
		w.WriteByte(' ')
	}
	return template.HTML(w.String())
}

// HTML is the sentence with its blank.
func (s saying) HTML() template.HTML {
	var w strings.Builder
	s.put(&w)
	return template.HTML(w.String())
}

func (s *saying) put(w *strings.Builder) {
	id, before := esc(s.ID), esc(s.Before)
	put(w, `<span class="saying">`, before, " ")
	switch {
	case s.Key == "": // a sentence without a blank
	case s.Choices != nil:
		s.writeChoices(w)
	default:
		if s.Colour {
			put(w, `<span class="together">`)
		}
		off, empty := "", cmp.Or(s.Empty, "nothing")
		if s.Value == "" {
			off = " off"
		}
		switch {
		case s.Mixed:
			empty = "mixed"
		case s.Key == "colour":
			empty = "black"
		case s.Colour:
			empty = "none"
		}
		put(w, `<input class="blank`, off, `" id="`, id, `" data-key="`, s.Key, `" value="`, esc(s.Value), `" aria-label="`, before, " ", esc(s.After), `" placeholder="`, esc(empty), `" autocomplete="off" spellcheck="false"`, map[bool]string{true: ` list="formula-fields" data-formula`}[s.Formula])
		if s.List != "" {
			put(w, ` list="`, s.List, `"`)
		}
		put(w, `>`)
		if s.Colour {
			put(w, `<input type="color" class="swatch" value="`, esc(cmp.Or(s.Value, "#ffffff")), `" data-for="`, id, `" aria-label="Pick: `, before, `" tabindex="-1">`)
		}
	}
	if s.After != "" {
		put(w, " ", esc(s.After))
	}
	put(w, s.Stop)
	if s.Colour {
		put(w, "</span>")
	}
	put(w, "</span>")
}

func (s *saying) writeChoices(w *strings.Builder) {
	off := ""
	if s.Mixed {
		off = " off"
	}
	put(w, `<select class="blank`, off, `" id="`, esc(s.ID), `" data-key="`, s.Key, `" aria-label="`, esc(s.Before), `">`)
	if s.Mixed {
		put(w, `<option value="" selected disabled>mixed</option>`)
	}
	for _, c := range s.Choices {
		on := ""
		if !s.Mixed && c[0] == s.Value {
			on = " selected"
		}
		put(w, `<option value="`, esc(c[0]), `"`, on, `>`, esc(c[1]), `</option>`)
	}
	put(w, "</select>")
}
