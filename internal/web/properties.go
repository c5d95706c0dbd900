package web

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"net/http"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// property is something that can be set on a field beside what its note says first: a
// sentence with one blank in it.
type property struct {
	Key     string
	Before  string // the words before the blank
	After   string
	Title   string // what an edit of it is called: "changed the border of ..."
	Kinds   []form.Kind
	Choices [][2]string // value and words; none is typed
	Colour  bool
	Get     func(f form.Field) string
	Set     func(f *form.Field, v string) error
}

// propertyGroup is a run of sentences under one heading in a note.
type propertyGroup struct {
	Key, Title string
	Of         []property
}

var (
	allKinds  = form.Kinds
	textual   = []form.Kind{form.Text, form.Choice}
	tickable  = []form.Kind{form.CheckBox, form.Radio}
	withType  = []form.Kind{form.Text, form.Choice, form.Button}
	answering = []form.Kind{form.Text, form.Choice, form.CheckBox, form.Radio}
)

// yesNo is a choice between two wordings; yes stands for the property being set.
func yesNo(yes, no string) [][2]string { return [][2]string{{"no", no}, {"yes", yes}} }

// flag makes a property of one yes or no.
func flag(key, before, after, title string, kinds []form.Kind, words [][2]string, at func(f *form.Field) *bool) property {
	return property{
		Key: key, Before: before, After: after, Title: title, Kinds: kinds, Choices: words,
		Get: func(f form.Field) string { return map[bool]string{true: "yes", false: "no"}[*at(&f)] },
		Set: func(f *form.Field, v string) error { *at(f) = v == "yes"; return nil },
	}
}

// words makes a property that is one of some values, or typed when there are none.
func words[S ~string](key, before, after, title string, kinds []form.Kind, choices [][2]string, at func(f *form.Field) *S) property {
	return property{
		Key: key, Before: before, After: after, Title: title, Kinds: kinds, Choices: choices,
		Get: func(f form.Field) string { return string(*at(&f)) },
		Set: func(f *form.Field, v string) error { *at(f) = S(v); return nil },
	}
}

// colourOf makes a property that is a colour, or none.
func colourOf(key, before, title string, kinds []form.Kind, at func(f *form.Field) *string) property {
	return property{
		Key: key, Before: before, Title: title, Kinds: kinds, Colour: true,
		Get: func(f form.Field) string { return *at(&f) },
		Set: func(f *form.Field, v string) error {
			v = strings.ToLower(v)
			if v == "none" {
				v = ""
			}
			if !form.ValidColour(v) {
				return fmt.Errorf("%q is no colour: write it as #rrggbb, such as #5b2a55, or none", v)
			}
			*at(f) = v
			return nil
		},
	}
}

// points makes a property that is a length; zero says what 0 stands for.
func points(key, before, after, title string, kinds []form.Kind, at func(f *form.Field) *float64) property {
	return property{
		Key: key, Before: before, After: after, Title: title, Kinds: kinds,
		Get: func(f form.Field) string { return strconv.FormatFloat(*at(&f), 'f', -1, 64) },
		Set: func(f *form.Field, v string) error {
			n, err := length(v)
			if err == nil {
				*at(f) = n
			}
			return err
		},
	}
}

var lengthWords = regexp.MustCompile(`^\s*(-?[0-9]*[.,]?[0-9]+)\s*(pt|mm|cm|in|")?\s*$`)

// units are those that places and sizes can be shown and typed in, in points.
var units = map[string]float64{"pt": 1, "mm": 72 / 25.4, "in": 72}

// unitOf is the unit that a person wants to see: what their browser keeps, points otherwise.
func unitOf(c *echo.Context) string {
	if k, err := c.Cookie("zm_unit"); err == nil && units[k.Value] > 0 {
		return k.Value
	}
	return "pt"
}

// inUnit writes a length in points in a unit.
func inUnit(v float64, unit string) string {
	unit = cmp.Or(unit, "pt")
	places := map[string]float64{"pt": 10, "mm": 100, "in": 1000}[unit]
	return strconv.FormatFloat(math.Round(v/units[unit]*places)/places, 'f', -1, 64)
}

// length reads a length in points, "12", or with its unit: "4 mm", "0,5 in".
func length(s string) (float64, error) { return lengthIn(s, "pt") }

// lengthIn reads a length that is in the given unit when it names none.
func lengthIn(s, unit string) (float64, error) {
	if strings.EqualFold(strings.TrimSpace(s), "automatic") || strings.TrimSpace(s) == "" {
		return 0, nil
	}
	m := lengthWords.FindStringSubmatch(strings.ToLower(s))
	if m == nil {
		return 0, fmt.Errorf("%q is not a length: write points, or a unit behind it, such as 12, 4 mm or 0.5 in", s)
	}
	v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
	if err != nil {
		return 0, err
	}
	switch m[2] {
	case "":
		return v * units[unit], nil
	case "cm":
		return v * 10 * units["mm"], nil
	case `"`:
		return v * units["in"], nil
	}
	return v * units[m[2]], nil
}

var propertyGroups = []propertyGroup{
	{"answer", "the answer", []property{
		words("default", "It starts with", "", "what comes first in", textual, nil, func(f *form.Field) *string { return &f.Default }),
		words("hint", "While it is empty it says", "", "the hint of", textual, nil, func(f *form.Field) *string { return &f.Hint }),
		{
			Key: "checked", Before: "At the start it is", Title: "what comes first in", Kinds: tickable, Choices: yesNo("ticked", "not ticked"),
			Get: func(f form.Field) string { return map[bool]string{true: "yes", false: "no"}[f.Default != ""] },
			Set: func(f *form.Field, v string) error {
				f.Default = ""
				if v == "yes" {
					f.Default = onState(*f)
				}
				return nil
			},
		},
		{
			Key: "comb", Before: "It has", After: "cells, one for each sign (0 is none)", Title: "the cells of", Kinds: []form.Kind{form.Text},
			Get: func(f form.Field) string { return strconv.Itoa(f.Comb) },
			Set: func(f *form.Field, v string) error {
				n, err := strconv.Atoi(cmp.Or(v, "0"))
				if err != nil || n < 0 || n > 200 {
					return fmt.Errorf("%q is not a number of cells: type a whole number from 0 to 200", v)
				}
				if f.Comb = n; n > 0 { // as many signs as cells, on one line that hides nothing
					f.MaxLen, f.Multiline, f.Password, f.FilePath, f.NoScroll = n, false, false, false, false
				}
				return nil
			},
		},
		flag("noscroll", "When it is full it", "", "how much fits in", []form.Kind{form.Text}, yesNo("takes no more", "scrolls"), func(f *form.Field) *bool { return &f.NoScroll }),
		flag("nospell", "Its spelling is", "", "the spelling check of", textual, yesNo("not checked", "checked"), func(f *form.Field) *bool { return &f.NoSpell }),
		flag("password", "What is typed", "", "what shows of", []form.Kind{form.Text}, yesNo("is hidden", "shows"), func(f *form.Field) *bool { return &f.Password }),
		flag("filepath", "The answer is", "", "what is sent from", []form.Kind{form.Text}, yesNo("a file, which is sent", "text"), func(f *form.Field) *bool { return &f.FilePath }),
		words("role", "It is filled in by", "", "who fills in", []form.Kind{form.Text, form.Choice, form.CheckBox, form.Radio, form.Signature}, nil, func(f *form.Field) *string { return &f.Role }),
		flag("noexport", "With the form it is", "", "what is sent from", answering, yesNo("not sent", "sent"), func(f *form.Field) *bool { return &f.NoExport }),
	}},
	{"list", "the list", []property{
		words("list", "It is", "", "the list of", []form.Kind{form.Choice}, [][2]string{{"", "a dropdown"}, {"combo", "a dropdown with an entry of one's own"}, {"list", "a list box, for one"}, {"many", "a list box, for several"}}, func(f *form.Field) *form.ListStyle { return &f.List }),
		flag("blankfirst", "First comes", "", "the list of", []form.Kind{form.Choice}, yesNo("a blank", "the first option"), func(f *form.Field) *bool { return &f.BlankFirst }),
		{
			Key: "sort", Before: "The options stand", Title: "the order of the list of", Kinds: []form.Kind{form.Choice}, Choices: yesNo("in the order of the alphabet", "as they are written"),
			Get: func(f form.Field) string { return map[bool]string{true: "yes", false: "no"}[f.Sort] },
			Set: func(f *form.Field, v string) error { f.Sort = v == "yes"; f.SortOptions(alphabet()); return nil },
		},
	}},
	{"mark", "the mark", []property{
		words("mark", "Ticked, it shows", "", "the mark of", tickable, [][2]string{{"", "the usual mark"}, {"check", "a check mark"}, {"circle", "a disc"}, {"cross", "a cross"}, {"diamond", "a diamond"}, {"square", "a square"}, {"star", "a star"}}, func(f *form.Field) *string { return &f.Mark }),
		flag("unison", "Buttons that send the same", "", "the unison of", []form.Kind{form.Radio}, yesNo("go together", "go one by one"), func(f *form.Field) *bool { return &f.Unison }),
	}},
	{"face", "its picture and how it looks pressed", []property{
		words("layout", "It shows", "", "the layout of", []form.Kind{form.Button}, [][2]string{{"", "its words only"}, {"picture", "its picture only"}, {"below", "its words below the picture"}, {"above", "its words above the picture"}, {"right", "its words right of the picture"}, {"left", "its words left of the picture"}, {"over", "its words over the picture"}}, func(f *form.Field) *form.Layout { return &f.Face.Layout }),
		{
			Key: "pressed", Before: "While it is pressed it", Title: "the pressed look of", Kinds: []form.Kind{form.Button}, Choices: [][2]string{{"", "is pushed in"}, {"same", "looks the same"}, {"inverted", "has its colours reversed"}, {"outlined", "has its border reversed"}},
			Get: func(f form.Field) string { return string(f.Face.Pressed) },
			Set: func(f *form.Field, v string) error {
				if f.Face.Pressed = form.Pressed(v); f.Face.Pressed != form.PushedIn {
					f.Face.PressedCaption = ""
				}
				return nil
			},
		},
		words("pressedcaption", "pushed in it says", "", "the pressed words of", []form.Kind{form.Button}, nil, func(f *form.Field) *string { return &f.Face.PressedCaption }),
	}},
	{"show", "where it shows", []property{
		{
			Key: "show", Before: "It shows", Title: "where it shows:", Kinds: allKinds, Choices: [][2]string{{"", "on screen and in print"}, {"screen", "on screen only"}, {"print", "in print only"}, {"hidden", "nowhere"}},
			Get: func(f form.Field) string { return string(f.Shows()) },
			Set: func(f *form.Field, v string) error { f.Show = form.Show(v); return nil },
		},
		flag("locked", "In other editors it can", "", "the lock of", allKinds, yesNo("not be moved", "be moved"), func(f *form.Field) *bool { return &f.Locked }),
	}},
	{"look", "how it looks", []property{
		words("font", "It is written in", "", "the font of", withType, fontChoices(), func(f *form.Field) *string { return &f.Look.Font }),
		points("size", "of", "points (0 fits by itself)", "the size of the type of", withType, func(f *form.Field) *float64 { return &f.Look.Size }),
		colourOf("colour", "in the colour", "the colour of", []form.Kind{form.Text, form.Choice, form.Button, form.CheckBox, form.Radio}, func(f *form.Field) *string { return &f.Look.Colour }),
		words("align", "aligned", "", "the alignment of", textual, [][2]string{{"", "left"}, {"centre", "in the middle"}, {"right", "right"}}, func(f *form.Field) *form.Align { return &f.Look.Align }),
		colourOf("fill", "Its ground is", "the ground of", allKinds, func(f *form.Field) *string { return &f.Look.Fill }),
		colourOf("border", "its border", "the border of", allKinds, func(f *form.Field) *string { return &f.Look.Border }),
		points("borderwidth", "", "points wide (0 is 1)", "the border of", allKinds, func(f *form.Field) *float64 { return &f.Look.BorderWidth }),
		words("borderstyle", "and", "", "the border of", allKinds, [][2]string{{"", "solid"}, {"dashed", "dashed"}, {"bevelled", "bevelled"}, {"inset", "inset"}, {"underline", "an underline only"}}, func(f *form.Field) *form.BorderStyle { return &f.Look.BorderStyle }),
		{
			Key: "turn", Before: "It is read", Title: "the turn of", Kinds: withType, Choices: [][2]string{{"0", "upright"}, {"90", "upwards"}, {"180", "upside down"}, {"270", "downwards"}},
			Get: func(f form.Field) string { return strconv.Itoa(f.Look.Turn) },
			Set: func(f *form.Field, v string) error {
				n, err := strconv.Atoi(v)
				f.Look.Turn = n
				return err
			},
		},
	}},
}

func fontChoices() [][2]string {
	out := [][2]string{{"", "Helvetica"}}
	for _, f := range form.Fonts[1:] {
		out = append(out, [2]string{f, strings.ReplaceAll(f, "-", " ")})
	}
	for _, f := range form.EmbeddedFonts {
		out = append(out, [2]string{f, strings.ReplaceAll(f, "-", " ") + ", Greek and Cyrillic too"})
	}
	return out
}

func onState(f form.Field) string {
	if f.Export == "" || f.Export == "Off" {
		return "Yes"
	}
	return f.Export
}

// propertyOf finds a property by its key.
func propertyOf(key string) (property, bool) {
	for _, g := range propertyGroups {
		for _, p := range g.Of {
			if p.Key == key {
				return p, true
			}
		}
	}
	return property{}, false
}

// sayGroup is a group of sentences about one field, or about several.
type sayGroup struct {
	Key, Title string
	Say        []saying
}

// saying is a property with the value that it has; Mixed tells that the fields differ.
type saying struct {
	property
	ID    string // of the blank
	Value string
	Mixed bool
	Stop  string // what ends it: a full stop, or a comma where the next goes on
	Empty string // what an empty blank shows
	// Formula tells that the blank takes a formula.
	Formula bool
	List    string // of suggestions, by the id of a datalist
}

// sayingsOf gives what can be said of fields beyond the first sentences of a note: what
// every one of them has.
func sayingsOf(owner string, fields []form.Field) []sayGroup {
	var out []sayGroup
	for _, g := range propertyGroups {
		s := sayGroup{Key: g.Key, Title: g.Title}
		for _, p := range g.Of {
			if slices.ContainsFunc(fields, func(f form.Field) bool { return !slices.Contains(p.Kinds, f.Kind) }) {
				continue
			}
			v := saying{property: p, ID: "b-" + owner + "-" + p.Key, Value: p.Get(fields[0])}
			for _, f := range fields[1:] {
				v.Mixed = v.Mixed || p.Get(f) != v.Value
			}
			if v.Mixed {
				v.Value = ""
			}
			s.Say = append(s.Say, v)
		}
		if len(s.Say) > 0 { // what begins the sentence may be missing from some of the fields
			if r := []rune(s.Say[0].Before); len(r) > 0 {
				s.Say[0].Before = string(unicode.ToUpper(r[0])) + string(r[1:])
			}
		}
		for i := range s.Say {
			s.Say[i].Stop = "."
			if i+1 < len(s.Say) {
				if next := []rune(s.Say[i+1].Before + "x"); unicode.IsLower(next[0]) {
					s.Say[i].Stop = ","
				}
			}
		}
		if len(s.Say) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// Sayings are the further sentences of a note.
func (b benchField) Sayings() []sayGroup { return sayingsOf(b.ID, []form.Field{b.Field}) }

// many is the note of several chosen fields.
type many struct {
	N        int
	Doc      int64
	IDs      string
	Y, H     float64
	Required saying
	ReadOnly saying
	ShowIf   saying
	Sayings  []sayGroup
	Line     bool // they stand on one page and can be lined up
	// Favourites are the styles that they can be given.
	Favourites []store.Favourite
}

// manyOf describes several fields; nil when there are fewer than two.
func manyOf(doc int64, t form.Template, ids []string) *many {
	var fields []form.Field
	for _, id := range ids {
		if f, ok := t.Field(id); ok {
			fields = append(fields, f)
		}
	}
	if len(fields) < 2 {
		return nil
	}
	m := &many{N: len(fields), Doc: doc, Sayings: sayingsOf("many", fields), Line: true}
	var kept []string
	for _, f := range fields {
		kept = append(kept, f.ID)
		m.Line = m.Line && f.Page == fields[0].Page
	}
	m.IDs = strings.Join(kept, ",")
	p := t.Pages[fields[0].Page-1]
	r := fields[0].Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
	m.Y, m.H = geom.Round(r.Y0), geom.Round(r.H())
	both := func(key, before, after string, words [][2]string, get func(f form.Field) bool) saying {
		p := flag(key, before, after, "", allKinds, words, func(f *form.Field) *bool { v := get(*f); return &v })
		s := saying{property: p, ID: "b-many-" + key, Value: p.Get(fields[0])}
		for _, f := range fields[1:] {
			s.Mixed = s.Mixed || p.Get(f) != s.Value
		}
		return s
	}
	m.Required = both("required", "They", "be filled in", yesNo("must", "may"), func(f form.Field) bool { return f.Required })
	m.ReadOnly = both("readonly", "and", "be changed", yesNo("cannot", "can"), func(f form.Field) bool { return f.ReadOnly })
	m.Required.Stop, m.ReadOnly.Stop = ",", "."
	m.ShowIf = saying{property: property{Key: "showif", Before: "They show only if"}, ID: "b-many-showif", Value: fields[0].ShowIf, Empty: "always", Stop: ".", Formula: true}
	for _, f := range fields[1:] {
		m.ShowIf.Mixed = m.ShowIf.Mixed || f.ShowIf != m.ShowIf.Value
	}
	if m.ShowIf.Mixed {
		m.ShowIf.Value = ""
	}
	return m
}

// manyNote answers with the note of several chosen fields.
func (s *Server) manyNote(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	id := d.Document.ID
	m := manyOf(id, d.Template, chosen(c))
	if m == nil {
		return refuse(errors.New("choose two fields or more"))
	}
	if m.Favourites, err = s.store.Favourites(c.Request().Context()); err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "bench", "many", m)
}

// setPlace changes one number of the place of fields, as the page is shown: left, top,
// width or height.
func setPlace(t *form.Template, ids []string, who, key, value, unit string) (form.Edit, error) {
	v, err := lengthIn(value, unit)
	if err != nil {
		return form.Edit{}, err
	}
	rects := map[string]geom.Rect{}
	for _, id := range ids {
		f, ok := t.Field(id)
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		p := t.Pages[f.Page-1]
		r := f.Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
		switch key {
		case "left":
			r = r.Shift(v-r.X0, 0)
		case "top":
			r = r.Shift(0, v-r.Y0)
		case "width":
			r.X1 = r.X0 + v
		case "height":
			r.Y1 = r.Y0 + v
		}
		if r.W() < form.MinSide || r.H() < form.MinSide {
			return form.Edit{}, fmt.Errorf("a field is at least %g points wide and high", form.MinSide)
		}
		rects[id] = r.Apply(geom.FromView(p.Width, p.Height, p.Rotate))
	}
	if key == "left" || key == "top" {
		return t.Lay("moved "+who, rects)
	}
	return t.Lay("resized "+who, rects)
}

// copied answers with chosen fields as data, for pasting here or in another document.
func (s *Server) copied(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	fields := []form.Field{}
	for _, id := range chosen(c) {
		if f, ok := d.Template.Field(id); ok {
			fields = append(fields, f)
		}
	}
	return c.JSON(http.StatusOK, fields)
}
