package ask

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Request is what is asked of a draft.
type Request struct {
	// Value gives a form value; empty when there is none.
	Value func(key string) string
	// Unit is that of lengths that name none: "pt", "mm" or "in".
	Unit string
	// Favourite is the favourite style that is named, where one is; Called is its name.
	Favourite form.Style
	Called    string
	// Here is the address at which this application takes the answers of the form, where it is asked for.
	Here string
}

// Reads tells whether a command of the bench goes by what is printed on its page.
func Reads(do string) bool {
	switch do {
	case "place", "again", "boxes", "extend", "find":
		return true
	}
	return false
}

// AsksHere tells whether a key asks for the address at which this application takes answers.
func AsksHere(key string) bool { return strings.HasSuffix(key, "url-here") }

// Strings reads values with commas between.
func Strings(s string) []string {
	return strings.FieldsFunc(s, func(r rune) bool { return r == ',' })
}

// Number reads a whole number.
func Number(s string, otherwise int) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return otherwise
	}
	return n
}

// Real reads a number; 0 when it is none.
func Real(s string) float64 {
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return v
}

// frame is the rectangle x0, y0, x1, y1 of the page as shown, in page space; nil when there is none.
func (r Request) frame(p form.Page) *command.Rect {
	if r.Value("x1") == "" {
		return nil
	}
	box := geom.R(Real(r.Value("x0")), Real(r.Value("y0")), Real(r.Value("x1")), Real(r.Value("y1")))
	return command.RectOf(box.Apply(geom.FromView(p.Width, p.Height, p.Rotate)))
}

// at is the point x0, y0 of the page as shown, in page space.
func (r Request) at(p form.Page) *command.Point {
	at := geom.FromView(p.Width, p.Height, p.Rotate).Apply(geom.Point{X: Real(r.Value("x0")), Y: Real(r.Value("y0"))})
	return &command.Point{at.X, at.Y}
}

// shift takes a shift on the page as shown to page space.
func shift(p form.Page, dx, dy float64) (x, y float64) {
	m := geom.FromView(p.Width, p.Height, p.Rotate)
	a, b := m.Apply(geom.Point{}), m.Apply(geom.Point{X: dx, Y: dy})
	return b.X - a.X, b.Y - a.Y
}

// copyShift is how far right and down a duplicate lies, in points.
const copyShift = 12

// Edit reads what the bench asks of a draft.
func (r Request) Edit(t *form.Template) ([]command.Command, error) {
	c, err := r.edit(t)
	if err != nil {
		return nil, err
	}
	return []command.Command{c}, nil
}

func (r Request) edit(t *form.Template) (command.Command, error) {
	do, ids, one := r.Value("do"), Strings(r.Value("ids")), r.Value("ids")
	page := Number(r.Value("page"), 1)
	if page < 1 || page > len(t.Pages) {
		return nil, fmt.Errorf("there is no page %d", page)
	}
	p, scope := t.Pages[page-1], page
	if r.Value("scope") == "all" {
		scope = 0
	}
	switch do {
	case "place":
		c := command.Place{Page: page, Kind: r.Value("kind"), At: r.at(p), Rect: r.frame(p), Group: r.Value("group")}
		if key := r.Value("datum"); key != "" {
			c.Datum = &command.Datum{
				Key: key, Title: r.Value("called"), Format: form.FormatKind(r.Value("format")), Signs: Number(r.Value("signs"), 0),
			}
		}
		return c, nil
	case "again":
		return command.Again{Field: one, Page: page, At: r.at(p), Rect: r.frame(p)}, nil
	case "move":
		dx, dy := shift(p, Real(r.Value("dx")), Real(r.Value("dy")))
		return command.Move{Fields: ids, DX: dx, DY: dy}, nil
	case "resize":
		box := r.frame(p)
		if box == nil {
			return nil, errors.New("say how large: x0, y0, x1 and y1")
		}
		return command.Resize{Field: one, Rect: *box}, nil
	case "duplicate":
		dx, dy := shift(p, copyShift, copyShift)
		return command.Duplicate{Fields: ids, DX: dx, DY: dy}, nil
	case "repeat":
		dx, dy := shift(p, Real(r.Value("dx")), Real(r.Value("dy")))
		return command.Repeat{Fields: ids, N: Number(r.Value("n"), 1), DX: dx, DY: dy}, nil
	case "copy-to":
		return command.CopyTo{Fields: ids, Pages: r.Value("pages")}, nil
	case "paste":
		var fields []form.Field
		if err := json.Unmarshal([]byte(r.Value("fields")), &fields); err != nil {
			fields = nil // the command says what to do
		}
		return command.Paste{Page: page, Copied: fields}, nil
	case "rows", "columns", "structure":
		return command.OrderBy{Page: page, By: do}, nil
	case "sequence":
		return command.Sequence{Page: page, Fields: ids}, nil
	case "order":
		return command.Order{Field: one, To: Number(r.Value("to"), 0) + 1}, nil
	case "keep-all":
		return command.KeepAll{Page: scope}, nil
	case "plain-finds":
		return command.PlainFinds{Page: scope}, nil
	case "drop-below":
		level, err := strconv.ParseFloat(r.Value("confidence"), 64)
		if err != nil {
			level = -1 // the command says what to do
		}
		return command.DropBelow{Page: scope, Confidence: level}, nil
	case "line-up":
		return command.LineUp{Fields: ids, How: r.Value("how")}, nil
	case "link":
		return command.Link{Field: one, To: r.Value("to")}, nil
	case "split":
		return command.Split{Field: one, N: Number(r.Value("n"), 2)}, nil
	case "dress":
		return command.Dress{Fields: ids, Name: r.Called, Style: r.Favourite}, nil
	case "set":
		return r.set(ids)
	}
	plain := map[string]command.Command{
		"remove": command.Remove{Fields: ids}, "join": command.Join{Fields: ids}, "radio-group": command.GroupRadio{Fields: ids},
		"ungroup": command.Ungroup{Fields: ids}, "keep": command.Keep{Fields: ids}, "drop": command.Drop{Fields: ids},
		"extend": command.Extend{Field: one}, "boxes": command.Boxes{Field: one}, "copy-formula": command.CopyFormula{Field: one},
		"unlink": command.Unlink{Field: one},
	}
	if c := plain[do]; c != nil {
		return c, nil
	}
	return nil, fmt.Errorf("%q is not something that the bench can do", do)
}

// set reads what a blank of a note asks for; its key names a property, a part of a check or of a
// step, or a number of the place.
func (r Request) set(ids []string) (command.Command, error) {
	key, value := r.Value("key"), r.Value("value")
	if bare, here := strings.CutSuffix(key, "url-here"); here { // answers are to come to this application
		key, value = bare+"url", r.Here
	}
	part := strings.Split(key, ":")
	switch part[0] {
	case "left", "top", "width", "height":
		v, err := form.ReadLength(value, r.Unit)
		if err != nil {
			return nil, err
		}
		c := command.Put{Fields: ids}
		*map[string]**float64{"left": &c.Left, "top": &c.Top, "width": &c.Width, "height": &c.Height}[key] = &v
		return c, nil
	case "check":
		return check(ids, part[1:], value)
	case "step":
		return step(ids, part[1:], value)
	}
	if key == "nopicture" {
		key, value = "picture", ""
	}
	return command.Set{Fields: ids, Key: key, Value: command.Words(value)}, nil
}

func check(ids, part []string, value string) (command.Command, error) {
	n, what, err := place(part)
	switch {
	case err != nil:
		return nil, err
	case n == 0:
		return command.CheckAdd{Fields: ids, Test: form.Test(value)}, nil
	case what == "drop":
		return command.CheckDrop{Fields: ids, N: n}, nil
	}
	return command.CheckSet{Fields: ids, N: n, Part: what, Value: value}, nil
}

func step(ids, part []string, value string) (command.Command, error) {
	if len(part) == 2 && part[0] == "action" {
		return command.StepSet{Fields: ids, N: 0, Part: part[1], Value: command.Words(value)}, nil
	}
	n, what, err := place(part)
	switch {
	case err != nil:
		return nil, err
	case n == 0:
		return command.StepAdd{Fields: ids, Do: form.Deed(value)}, nil
	case what == "drop":
		return command.StepDrop{Fields: ids, N: n}, nil
	case what == "up":
		return command.StepUp{Fields: ids, N: n}, nil
	}
	return command.StepSet{Fields: ids, N: n, Part: what, Value: command.Words(value)}, nil
}

// place reads "new", which is number 0, or a number from 0 and the name of a part; the number that
// it gives counts from 1.
func place(part []string) (n int, what string, err error) {
	if len(part) == 1 && part[0] == "new" {
		return 0, "", nil
	}
	if len(part) != 2 {
		return 0, "", fmt.Errorf("%q cannot be set", strings.Join(part, ":"))
	}
	if n, err = strconv.Atoi(part[0]); err != nil || n < 0 {
		return 0, "", form.ErrClash
	}
	return n + 1, part[1], nil
}

// Event reads what is asked of the steps of the document.
func (r Request) Event() ([]command.Command, error) {
	kind, rest, _ := strings.Cut(r.Value("key"), ":")
	if kind != "step" {
		return nil, fmt.Errorf("%q cannot be set", r.Value("key"))
	}
	c, err := step(nil, strings.Split(rest, ":"), r.Value("value"))
	return []command.Command{c}, err
}

// Find reads where fields are to be found: on a page, in a frame on it, or on all pages.
func (r Request) Find(t *form.Template) ([]command.Command, error) {
	page := min(max(1, Number(r.Value("page"), 1)), len(t.Pages))
	switch r.Value("scope") {
	case "all":
		return []command.Command{command.Find{}}, nil
	case "area":
		return []command.Command{command.Find{Page: page, Rect: r.frame(t.Pages[page-1])}}, nil
	}
	return []command.Command{command.Find{Page: page}}, nil
}

// Paper is a usual page size, in points.
type Paper struct {
	Name string
	W, H float64
}

// Papers are ISO 216 sizes, and Letter and Legal of ANSI/ASME Y14.1, to a point.
var Papers = []Paper{{"A4", 595, 842}, {"A5", 420, 595}, {"A3", 842, 1191}, {"Letter", 612, 792}, {"Legal", 612, 1008}}

// Pages reads a change of the pages that needs nothing but the draft. The bool is false when it is
// another.
func (r Request) Pages(t *form.Template) (command.Command, bool, error) {
	ids := Strings(r.Value("ids"))
	switch r.Value("do") {
	case "turn":
		return command.TurnPages{Pages: ids, Quarters: Number(r.Value("quarters"), 1)}, true, nil
	case "shows":
		return command.ShowPages{Pages: ids, Shows: r.Value("shows")}, true, nil
	case "move":
		return command.MovePages{Pages: ids, To: Number(r.Value("to"), 1)}, true, nil
	case "remove":
		return command.RemovePages{Pages: ids}, true, nil
	case "duplicate":
		return command.DuplicatePages{Pages: ids}, true, nil
	case "crop":
		p, _, ok := t.PageByID(r.Value("ids"))
		if !ok {
			return nil, true, form.ErrClash
		}
		box := r.frame(p)
		if box == nil {
			return nil, true, errors.New("draw a frame around what is to stay first")
		}
		return command.Crop{Page: p.ID, Rect: *box}, true, nil
	case "resize":
		w, h, err := r.size()
		return command.ResizePages{Pages: ids, Width: w, Height: h, Fit: r.Value("fit") != ""}, true, err
	}
	return nil, false, nil
}

// size reads a page size: a usual one, or sides in millimetres.
func (r Request) size() (w, h float64, err error) {
	for _, p := range Papers {
		if r.Value("size") == p.Name {
			w, h = p.W, p.H
		}
	}
	if w == 0 {
		w, h = Real(r.Value("width"))*form.Units["mm"], Real(r.Value("height"))*form.Units["mm"]
	}
	if w <= 0 || h <= 0 {
		return 0, 0, errors.New("give the width and the height of the page in millimetres")
	}
	if r.Value("lying") != "" {
		w, h = max(w, h), min(w, h)
	}
	return w, h, nil
}
