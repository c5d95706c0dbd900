package command

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Place adds a field where something is to be written. At a point it takes the shape of the cell,
// rule or box that is printed there, and the name of its label; in a rectangle it takes that, and
// fills each of several cells in it.
type Place struct {
	Page int `json:"page"`
	// Kind is one of [form.KindWords], or a button that is ready made: clear, print, save or submit;
	// trio is the first three of them.
	Kind string `json:"kind"`
	At   *Point `json:"at,omitempty"`
	Rect *Rect  `json:"rect,omitempty"`
	// Group is the radio group that a radio button joins; one that is not there is begun.
	Group string `json:"group,omitempty"`
	// Datum is what the office fills a text field in with.
	Datum *Datum `json:"datum,omitempty"`
}

// Datum is something that the office knows of people: a field that is placed for it has its name, says so, takes its format, and is as wide
// as it needs where nothing is printed.
type Datum struct {
	Key    string          `json:"key"`
	Title  string          `json:"title"`
	Format form.FormatKind `json:"format,omitempty"`
	Signs  int             `json:"signs,omitempty"` // that it usually has
}

// dress makes a field one for the datum.
func (x *Datum) dress(f *form.Field) {
	f.Source, f.Datum = form.FromPerson, x.Key
	f.Tooltip, f.Name = x.Title, detect.NameOf(x.Title)
	f.Label = cmp.Or(f.Label, x.Title)
	if x.Format != form.NoFormat && f.Comb == 0 {
		f.Format = form.FormatFor(x.Format)
	}
}

// Widths of a field for a datum where nothing is printed, in points (common practice, no source).
const (
	perSign   = 5.6
	leastWide = 40
	mostWide  = 300
)

// Reads is the page of the field.
func (c Place) Reads(*form.Template) []int { return []int{c.Page} }

// buttonWords are the caption and the tooltip of the buttons that are ready made.
var buttonWords = map[string][2]string{
	"clear": {"Clear", "Clear the form"}, "print": {"Print", "Print the form"}, "save": {"Save", "Save the form"},
	"submit": {"Send", "Send the answers"},
}

// Heights and widths in points of fields where nothing is printed, where their kind has no size of
// its own in the house style (common practice, no source).
const (
	leastLines   = 60  // of a field of several lines, and of a list
	pictureWidth = 90  // of a picture field
	pictureTall  = 110 // of a picture field
	buttonGap    = 30  // between buttons that are placed together
)

func (c Place) plan(d *Desk) (form.Edit, error) {
	if _, err := d.page(c.Page); err != nil {
		return form.Edit{}, err
	}
	if c.At == nil && c.Rect == nil {
		return form.Edit{}, errors.New("say where: at a point, or in a rectangle")
	}
	if c.Kind == "trio" {
		return c.trio(d)
	}
	f, err := c.field()
	if err != nil {
		return form.Edit{}, err
	}
	if c.Datum != nil && f.Kind != form.Text {
		return form.Edit{}, errors.New("what the office knows is filled into text fields: place one")
	}
	d.House.Dress(&f)
	ev := d.evidence(c.Page)
	takes := f.Kind != form.Button || f.Action.Do == form.TakePicture // shape and name from what is printed
	if c.Rect != nil {
		f.Rect = c.Rect.rect()
		if !f.Multiline && slices.Contains([]form.Kind{form.Text, form.CheckBox, form.Choice}, f.Kind) {
			if cells := detect.Cells(ev, f.Rect, f.Kind); len(cells) > 1 && c.Datum == nil {
				return fillCells(d.Draft, f, cells)
			}
		}
		if found, ok := detect.At(ev, f.Rect.Mid(), f.Kind); ok && takes {
			take(&f, found, false)
		}
	} else if found, ok := detect.At(ev, c.At.at(), f.Kind); ok && takes {
		take(&f, found, true)
	} else {
		f.Rect = c.freely(d, f)
	}
	if f.Kind == form.Radio {
		return c.radio(d, f)
	}
	if c.Datum != nil {
		c.Datum.dress(&f)
	}
	plain := map[form.Kind]string{form.CheckBox: "check", form.Choice: "choice", form.Signature: "signature", form.Button: "button"}
	f.Name = cmp.Or(f.Name, plain[f.Kind], "text")
	if f.Kind == form.Button {
		f.Caption = cmp.Or(f.Caption, "Button")
	}
	return d.Draft.Place(f)
}

// field is a field of the kind that is asked for, without a place.
func (c Place) field() (form.Field, error) {
	f := form.Field{Page: c.Page, Kind: form.Text}
	if words, ready := buttonWords[c.Kind]; ready {
		f.Kind, f.Action.Do, f.Name = form.Button, form.Deed(c.Kind), c.Kind
		f.Caption, f.Tooltip = words[0], words[1]
		if f.Action.Do == form.SubmitForm {
			f.Action.URL = "https://"
		}
		return f, nil
	}
	kind, _ := form.PropertyOf(form.FieldProperties, "kind")
	if err := kind.Set(&f, c.Kind); err != nil {
		return f, fmt.Errorf("%q is not in the kit", c.Kind)
	}
	switch {
	case c.Kind == "picture":
		f.Name, f.Tooltip = "picture", "Picture"
	case f.Kind == form.Button:
		f.Caption = ""
	}
	return f, nil
}

// freely is the rectangle of a field where nothing is printed.
func (c Place) freely(d *Desk, f form.Field) geom.Rect {
	w, h := d.House.Size(f.Kind)
	if c.Datum != nil && c.Datum.Signs > 0 {
		w = min(max(float64(c.Datum.Signs)*perSign+8, leastWide), mostWide)
	}
	switch {
	case f.Multiline, f.List == form.ListBox, f.List == form.ManyList:
		h = max(h, leastLines)
	case f.Action.Do == form.TakePicture:
		w, h = max(w, pictureWidth), max(h, pictureTall)
	}
	at := c.At.at()
	r := geom.Rect{X0: at.X, Y0: at.Y - h/2, X1: at.X + w, Y1: at.Y + h/2}
	if f.Kind == form.CheckBox || f.Kind == form.Radio {
		r = r.Shift(-w/2, 0)
	}
	return r
}

// trio places a clear, a print and a save button at one height, evenly spaced in the middle of the
// page as it is shown.
func (c Place) trio(d *Desk) (form.Edit, error) {
	width, height := d.House.Size(form.Button)
	p := d.Draft.Pages[c.Page-1]
	at := geom.Point{}
	if c.At != nil {
		at = c.At.at()
	} else {
		at = c.Rect.rect().Mid()
	}
	view := geom.ToView(p.Width, p.Height, p.Rotate)
	w, _ := p.ViewSize()
	x, y := (w-3*width-2*buttonGap)/2, view.Apply(at).Y-height/2
	var fields []form.Field
	for _, k := range []string{"clear", "print", "save"} {
		f := form.Field{
			Page: c.Page, Kind: form.Button, Name: k, Caption: buttonWords[k][0], Tooltip: buttonWords[k][1],
			Action: form.Action{Do: form.Deed(k)}, Show: form.ShowScreen,
			Rect: geom.R(x, y, x+width, y+height).Apply(geom.FromView(p.Width, p.Height, p.Rotate)).Clamp(p.Rect()),
		}
		d.House.Dress(&f)
		fields = append(fields, f)
		x += width + buttonGap
	}
	return d.Draft.Add("placed three buttons", fields)
}

// fillCells places a field in each of several cells.
func fillCells(t *form.Template, like form.Field, cells []detect.Find) (form.Edit, error) {
	var fields []form.Field
	for _, x := range cells {
		g := x.Field(like.Page)
		g.Find = nil
		g.Kind, g.List = like.Kind, like.List
		form.StyleOf(like).Dress(&g)
		forget(&g)
		fields = append(fields, g)
	}
	e, err := t.AddNew(fields)
	if errors.Is(err, form.ErrNothing) {
		return e, errors.New("these cells have their fields already")
	}
	e.Title = fmt.Sprintf("placed %d fields over cells", len(e.After))
	return e, err
}

// forget takes from a field that was found as another kind what its own cannot have.
func forget(f *form.Field) {
	if f.Kind != form.Text {
		f.Multiline, f.Comb, f.MaxLen, f.Format = false, 0, 0, form.Format{}
	}
	if f.Kind != form.CheckBox && f.Kind != form.Radio {
		f.Export = ""
	}
}

// radio adds a radio button to the group that is being placed, or begins one. Its label is its
// answer; the question that is printed with its box gives a new group its name.
func (c Place) radio(d *Desk, f form.Field) (form.Edit, error) {
	t := d.Draft
	f.Export = cmp.Or(f.Name, "1")
	question, asked := d.questionAt(f.Page, f.Rect)
	if asked {
		f.Export, f.Tooltip = question.Export, question.Tooltip
	}
	for _, o := range t.Fields {
		if o.Kind == form.Radio && o.Name == c.Group {
			f.Name, f.Tooltip = c.Group, cmp.Or(o.Tooltip, f.Tooltip)
			f.Export = t.FreeExport(f)
			return t.Place(f)
		}
	}
	f.Name = t.FreeName("choice")
	if asked {
		f.Name = t.FreeName(question.Name)
	}
	return t.Place(f)
}

// questionAt finds the printed question whose answers are boxes or circles, one of them at r.
func (d *Desk) questionAt(page int, r geom.Rect) (detect.Find, bool) {
	for _, x := range detect.Page(d.evidence(page)) {
		if x.Kind == form.Radio && x.Group != "" && x.Rect.Inset(-1).Contains(r.Mid()) {
			return x, true
		}
	}
	return detect.Find{}, false
}

// take gives a field the name, and the shape, of the writing area under it.
func take(f *form.Field, found detect.Find, shape bool) {
	f.Name, f.Tooltip, f.Label = found.Name, found.Tooltip, found.Label
	if shape {
		f.Rect = found.Rect
		if f.Kind == form.Text && !f.Multiline {
			f.Comb, f.MaxLen = found.Comb, found.Comb
			f.Multiline = found.Multiline
		}
	}
}

// Add adds fields as they are given.
type Add struct {
	Fields []form.Field `json:"fields"`
}

func (c Add) plan(d *Desk) (form.Edit, error) {
	for _, f := range c.Fields {
		if _, err := d.page(f.Page); err != nil {
			return form.Edit{}, err
		}
	}
	title := fmt.Sprintf("added %d fields", len(c.Fields))
	if len(c.Fields) == 1 {
		title = "added " + c.Fields[0].Name
	}
	return d.Draft.Add(title, c.Fields)
}

// Again shows the answer of a field at a further place: in the cell that is printed at a point, or
// as large as the first.
type Again struct {
	Field string `json:"field"`
	Page  int    `json:"page"`
	At    *Point `json:"at,omitempty"`
	Rect  *Rect  `json:"rect,omitempty"`
}

// Reads is the page of the further place.
func (c Again) Reads(*form.Template) []int { return []int{c.Page} }

func (c Again) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	if _, err := d.page(c.Page); err != nil {
		return form.Edit{}, err
	}
	if c.Rect != nil {
		return d.Draft.PlaceAgain(f.ID, c.Page, c.Rect.rect())
	}
	if c.At == nil {
		return form.Edit{}, errors.New("say where: at a point, or in a rectangle")
	}
	at := c.At.at()
	if found, ok := detect.At(d.evidence(c.Page), at, f.Kind); ok {
		return d.Draft.PlaceAgain(f.ID, c.Page, found.Rect)
	}
	return d.Draft.PlaceAgain(f.ID, c.Page, geom.Rect{X0: at.X, Y0: at.Y - f.Rect.H()/2, X1: at.X + f.Rect.W(), Y1: at.Y + f.Rect.H()/2})
}

// pageOf is the page of a field, for commands that read it.
func pageOf(t *form.Template, ref string) []int {
	for i := range t.Fields {
		if f := &t.Fields[i]; f.ID == ref || f.Name == ref {
			return []int{f.Page}
		}
	}
	return nil
}

// Boxes makes check boxes of a field where boxes to tick are printed; where none are, of its two
// halves.
type Boxes struct {
	Field string `json:"field"`
}

// Reads is the page of the field.
func (c Boxes) Reads(t *form.Template) []int { return pageOf(t, c.Field) }

// halfBox is the longest side in points of a check box that is made of half a field.
const halfBox = 12

func (c Boxes) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	t := d.Draft
	var fields []form.Field
	for _, x := range detect.Cells(d.evidence(f.Page), f.Rect.Inset(-form.MinSide), form.CheckBox) {
		g := x.Field(f.Page)
		g.Find, g.Kind, g.Export = nil, form.CheckBox, ""
		fields = append(fields, g)
	}
	if len(fields) == 0 {
		kind, _ := form.PropertyOf(form.FieldProperties, "kind")
		e, err := t.Split(f.ID, 2)
		taken := map[string]bool{} // the answer that it shared stays where else it stands
		for _, o := range slices.Concat(t.Fields, e.After) {
			taken[o.Name] = taken[o.Name] || o.ID != f.ID
		}
		for i := range e.After {
			g := &e.After[i]
			if g.ID == f.ID {
				g.Linked, g.Name = false, form.FreeName(g.Name, taken)
			}
			if err := kind.Set(g, "checkbox"); err != nil {
				return e, err
			}
			side := min(g.Rect.H(), g.Rect.W(), halfBox)
			g.Rect = geom.R(g.Rect.X0, g.Rect.Mid().Y-side/2, g.Rect.X0+side, g.Rect.Mid().Y+side/2).Rounded()
		}
		e.Title = "made check boxes of " + f.Name
		return e, err
	}
	rest := *t
	rest.Fields = slices.DeleteFunc(slices.Clone(t.Fields), func(o form.Field) bool { return o.ID == f.ID })
	e, err := rest.AddNew(fields)
	if err != nil {
		return e, err
	}
	e.Before = append(e.Before, f)
	e.Title = "made check boxes of " + f.Name
	return e, nil
}

// Extend fills the other empty cells of the column that a field stands in.
type Extend struct {
	Field string `json:"field"`
}

// Reads is the page of the field.
func (c Extend) Reads(t *form.Template) []int { return pageOf(t, c.Field) }

func (c Extend) plan(d *Desk) (form.Edit, error) {
	f, err := d.one(c.Field)
	if err != nil {
		return form.Edit{}, err
	}
	var fields []form.Field
	for _, x := range detect.Column(d.evidence(f.Page), f.Rect) {
		g := x.Field(f.Page)
		g.Find.Kept = true
		if g.Name == "" || strings.HasPrefix(g.Name, "field_") {
			g.Name, g.Tooltip, g.Label = f.Name, f.Tooltip, f.Label
		}
		g.Kind, g.Multiline, g.Format = f.Kind, f.Multiline, f.Format
		if g.Kind != form.Text {
			g.Comb, g.MaxLen = 0, 0
		}
		fields = append(fields, g)
	}
	e, err := d.Draft.AddNew(fields)
	if errors.Is(err, form.ErrNothing) {
		return e, errors.New("there are no more empty cells in this column")
	}
	e.Title = fmt.Sprintf("extended %s over %d cells", f.Name, len(e.After))
	return e, err
}

// Find adds a field at every place of a page that looks as if something were to be written there
// and has none yet, as the office calls and dresses them.
type Find struct {
	Page int   `json:"page,omitempty"` // from 1; 0 is all pages
	Rect *Rect `json:"rect,omitempty"` // of the page: only what is in it
}

// Reads is the page, or all of them.
func (c Find) Reads(t *form.Template) []int {
	if c.Page > 0 {
		return []int{c.Page}
	}
	out := make([]int, len(t.Pages))
	for i := range out {
		out[i] = i + 1
	}
	return out
}

func (c Find) plan(d *Desk) (form.Edit, error) {
	var found []form.Field
	for _, n := range c.Reads(d.Draft) {
		if _, err := d.page(n); err != nil {
			return form.Edit{}, err
		}
		for _, f := range Finds(d.evidence(n), n, d.Words, d.House) {
			if c.Rect == nil || c.Rect.rect().Contains(f.Rect.Mid()) {
				found = append(found, f)
			}
		}
	}
	return d.Draft.AddNew(found)
}

// Finds are the fields that are found on page n, from 1, as the office calls and dresses them.
func Finds(ev *evidence.Page, n int, words detect.HouseWords, house form.House) []form.Field {
	var out []form.Field
	for _, x := range detect.PageWith(ev, words) {
		f := x.Field(n)
		house.Dress(&f)
		out = append(out, f)
	}
	return out
}
