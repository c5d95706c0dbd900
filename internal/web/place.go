package web

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// place adds a field: dragged to a size, or pressed, and then it takes the shape of
// the cell, rule or box under the pointer and the name of its label.
func place(c *echo.Context, t *form.Template, with means, toPage geom.Matrix) (form.Edit, error) {
	ev := with.ev
	f := form.Field{Page: number(c.FormValue("page"), 1), Kind: form.Text}
	switch k := c.FormValue("kind"); k {
	case "text":
	case "lines":
		f.Multiline = true
	case "checkbox", "signature", "button", "radio", "choice":
		f.Kind = form.Kind(k)
	case "list":
		f.Kind, f.List = form.Choice, form.ListBox
	case "trio":
		return placeTrio(c, t, with.house, toPage)
	case "picture":
		f.Kind, f.Action.Do, f.Face.Layout = form.Button, form.TakePicture, form.PictureOnly
		f.Name, f.Caption, f.Tooltip = "picture", "Press to choose a picture", "Picture"
	case "clear", "print", "submit", "save":
		f.Kind, f.Action.Do = form.Button, form.Deed(k)
		f.Name = k
		f.Caption = buttonWords[k][0]
		f.Tooltip = buttonWords[k][1]
		if k == "submit" {
			f.Action.URL = "https://"
		}
	default:
		return form.Edit{}, fmt.Errorf("%q is not in the kit", k)
	}
	with.house.Dress(&f)
	takes := f.Kind != form.Button || f.Action.Do == form.TakePicture // shape and name from what is printed
	if c.FormValue("x1") != "" {
		f.Rect = geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(toPage)
		if !f.Multiline && (f.Kind == form.Text || f.Kind == form.CheckBox || f.Kind == form.Choice) {
			if cells := detect.Cells(ev, f.Rect, f.Kind); len(cells) > 1 {
				return fillCells(t, f, cells)
			}
		}
		if found, ok := detect.At(ev, f.Rect.Mid(), f.Kind); ok && takes {
			take(&f, found, false)
		}
	} else {
		at := toPage.Apply(geom.Point{X: real(c, "x0"), Y: real(c, "y0")})
		found, ok := detect.At(ev, at, f.Kind)
		if ok && takes {
			take(&f, found, true)
		} else {
			w, h := with.house.Size(f.Kind)
			switch {
			case f.Multiline, f.List == form.ListBox:
				h = max(h, 60)
			case f.Action.Do == form.TakePicture:
				w, h = max(w, 90), max(h, 110)
			}
			f.Rect = geom.Rect{X0: at.X, Y0: at.Y - h/2, X1: at.X + w, Y1: at.Y + h/2}
			if f.Kind == form.CheckBox || f.Kind == form.Radio {
				f.Rect = f.Rect.Shift(-w/2, 0)
			}
		}
	}
	if f.Kind == form.Radio {
		return placeRadio(t, f, c.FormValue("group"), ev)
	}
	f.Name = cmp.Or(f.Name, map[form.Kind]string{form.CheckBox: "check", form.Choice: "choice", form.Signature: "signature", form.Button: "button"}[f.Kind], "text")
	if f.Kind == form.Button {
		f.Caption = cmp.Or(f.Caption, "Button")
	}
	return t.Place(f)
}

// buttonWords are the caption and the tooltip of the buttons that are ready made.
var buttonWords = map[string][2]string{
	"clear": {"Clear", "Clear the form"}, "print": {"Print", "Print the form"}, "save": {"Save", "Save the form"}, "submit": {"Send", "Send the answers"},
}

// placeTrio places a clear, a print and a save button at one height, evenly spaced in the
// middle of the page as it is shown.
func placeTrio(c *echo.Context, t *form.Template, house form.House, toPage geom.Matrix) (form.Edit, error) {
	const gap = 30.0
	width, height := house.Size(form.Button)
	page := number(c.FormValue("page"), 1)
	w, _ := t.Pages[page-1].ViewSize()
	x, y := (w-3*width-2*gap)/2, real(c, "y0")-height/2
	var fields []form.Field
	for _, k := range []string{"clear", "print", "save"} {
		f := form.Field{
			Page: page, Kind: form.Button, Name: k, Caption: buttonWords[k][0], Tooltip: buttonWords[k][1], Action: form.Action{Do: form.Deed(k)},
			Show: form.ShowScreen, Rect: geom.R(x, y, x+width, y+height).Apply(toPage).Clamp(t.Pages[page-1].Rect()),
		}
		house.Dress(&f)
		fields = append(fields, f)
		x += width + gap
	}
	return t.Add("placed three buttons", fields)
}

// boxesIn makes check boxes of a field that was found or placed where boxes to tick are
// printed; where none are, of its two halves.
func boxesIn(t *form.Template, f form.Field, ev *evidence.Page) (form.Edit, error) {
	var fields []form.Field
	for _, x := range detect.Cells(ev, f.Rect.Inset(-4), form.CheckBox) {
		g := x.Field(f.Page)
		g.Find, g.Kind, g.Export = nil, form.CheckBox, ""
		fields = append(fields, g)
	}
	if len(fields) == 0 {
		e, err := t.Split(f.ID, 2)
		for i := range e.After {
			g := &e.After[i]
			if err := changeKind(g, "checkbox"); err != nil {
				return e, err
			}
			side := min(g.Rect.H(), g.Rect.W(), 12)
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

// fillCells places a field in each of several cells.
func fillCells(t *form.Template, like form.Field, cells []detect.Find) (form.Edit, error) {
	var fields []form.Field
	for _, x := range cells {
		g := x.Field(like.Page)
		g.Find = nil
		g.Kind, g.List = like.Kind, like.List
		form.StyleOf(like).Dress(&g)
		if g.Kind != form.Text {
			g.Multiline, g.Comb, g.MaxLen, g.Format = false, 0, 0, form.Format{}
		}
		if g.Kind != form.CheckBox {
			g.Export = ""
		}
		fields = append(fields, g)
	}
	e, err := t.AddNew(fields)
	if errors.Is(err, form.ErrNothing) {
		return e, errors.New("these cells have their fields already")
	}
	e.Title = fmt.Sprintf("placed %d fields over cells", len(e.After))
	return e, err
}

// again adds a further place of a field: in the cell under the pointer, or as large as the
// first.
func again(c *echo.Context, t *form.Template, f form.Field, ev *evidence.Page, toPage geom.Matrix) (form.Edit, error) {
	page := number(c.FormValue("page"), 1)
	if c.FormValue("x1") != "" {
		return t.PlaceAgain(f.ID, page, geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(toPage))
	}
	at := toPage.Apply(geom.Point{X: real(c, "x0"), Y: real(c, "y0")})
	if found, ok := detect.At(ev, at, f.Kind); ok {
		return t.PlaceAgain(f.ID, page, found.Rect)
	}
	return t.PlaceAgain(f.ID, page, geom.Rect{X0: at.X, Y0: at.Y - f.Rect.H()/2, X1: at.X + f.Rect.W(), Y1: at.Y + f.Rect.H()/2})
}

// placeRadio adds a radio button to the group that is being placed, or begins one. Its
// label is its answer; the question that is printed with its box gives a new group its name.
func placeRadio(t *form.Template, f form.Field, group string, ev *evidence.Page) (form.Edit, error) {
	f.Export = cmp.Or(f.Name, "1")
	question, asked := questionAt(ev, f.Rect)
	if asked {
		f.Export, f.Tooltip = question.Export, question.Tooltip
	}
	for _, o := range t.Fields {
		if o.Kind == form.Radio && o.Name == group {
			f.Name, f.Tooltip = group, cmp.Or(o.Tooltip, f.Tooltip)
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
func questionAt(ev *evidence.Page, r geom.Rect) (detect.Find, bool) {
	for _, x := range detect.Page(ev) {
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

// extend fills the other empty cells of the column that a field stands in.
func extend(t *form.Template, f form.Field, ev *evidence.Page) (form.Edit, error) {
	var fields []form.Field
	for _, x := range detect.Column(ev, f.Rect) {
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
	e, err := t.AddNew(fields)
	if errors.Is(err, form.ErrNothing) {
		return e, errors.New("there are no more empty cells in this column")
	}
	e.Title = fmt.Sprintf("extended %s over %d cells", f.Name, len(e.After))
	return e, err
}
