package web

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// edit carries out one change to the draft and answers with the bench as it is
// then. Everything that the bench does to fields comes through here.
func (s *Server) edit(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	var ev *evidence.Page
	if do := c.FormValue("do"); do == "place" || do == "extend" || do == "again" || do == "boxes" {
		doc, err := s.store.Document(ctx, id)
		if err != nil {
			return err
		}
		n := number(c.FormValue("page"), 1)
		pages := doc.Pages()
		if n < 1 || n > len(pages) {
			return store.ErrMissing
		}
		if ev, err = s.pageEvidence(ctx, pages[n-1]); err != nil {
			return err
		}
	}
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return refuse(errors.New("this page is out of date: load it again"))
	}
	e, err := s.store.Change(ctx, id, base, account(c).ID, stageOf(c), func(t *form.Template) (form.Edit, error) {
		return plan(c, t, ev)
	})
	if errors.Is(err, form.ErrNothing) {
		return s.benchAgain(c, id, nil)
	}
	var taken *form.TakenError
	if errors.As(err, &taken) { // the bench asks: link, or the free name
		b, err := json.Marshal(map[string]any{"zm:taken": map[string]string{"id": taken.ID, "name": taken.Name, "free": taken.Free}})
		if err != nil {
			return err
		}
		c.Response().Header().Set("HX-Trigger", string(b))
	}
	if err != nil {
		return refuse(err)
	}
	if err := s.store.Learn(ctx, e, account(c).ID); err != nil {
		return err
	}
	var added []string
	for _, f := range e.After {
		if !slices.ContainsFunc(e.Before, func(b form.Field) bool { return b.ID == f.ID }) {
			added = append(added, f.ID)
		}
	}
	return s.benchAgain(c, id, added)
}

// benchAgain answers with the bench; fields that were added become the chosen ones.
func (s *Server) benchAgain(c *echo.Context, id int64, added []string) error {
	if len(added) > 0 {
		b, err := json.Marshal(map[string]any{"zm:added": map[string]any{"ids": added}})
		if err != nil {
			return err
		}
		c.Response().Header().Set("HX-Trigger-After-Swap", string(b))
		if len(added) == 1 {
			q := c.Request()
			if err := q.ParseForm(); err == nil {
				q.Form.Set("open", added[0])
			}
		}
	}
	v, err := s.benchView(c, id, stageOf(c))
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "bench", "bench", v)
}

// plan works out the edit that a request asks for.
func plan(c *echo.Context, t *form.Template, ev *evidence.Page) (form.Edit, error) {
	ids := chosen(c)
	page := number(c.FormValue("page"), 1)
	if page < 1 || page > len(t.Pages) {
		return form.Edit{}, fmt.Errorf("there is no page %d", page)
	}
	p := t.Pages[page-1]
	scope := page
	if c.FormValue("scope") == "all" {
		scope = 0
	}
	toPage := geom.FromView(p.Width, p.Height, p.Rotate)
	switch c.FormValue("do") {
	case "place":
		return place(c, t, ev, toPage)
	case "move":
		a, b := toPage.Apply(geom.Point{}), toPage.Apply(geom.Point{X: real(c, "dx"), Y: real(c, "dy")})
		return t.Move(ids, b.X-a.X, b.Y-a.Y)
	case "resize":
		r := geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(toPage)
		return t.Resize(c.FormValue("ids"), r)
	case "remove":
		return t.Remove(ids)
	case "duplicate":
		a, b := toPage.Apply(geom.Point{}), toPage.Apply(geom.Point{X: 12, Y: 12})
		return t.Duplicate(ids, b.X-a.X, b.Y-a.Y)
	case "split":
		return t.Split(c.FormValue("ids"), number(c.FormValue("n"), 2))
	case "join":
		return t.Join(withNext(t, ids))
	case "radio-group":
		return t.GroupRadio(sameQuestion(t, ids))
	case "extend":
		f, ok := t.Field(c.FormValue("ids"))
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return extend(t, f, ev)
	case "keep":
		return t.Keep(ids)
	case "drop":
		return t.Drop(ids)
	case "keep-all":
		return t.KeepAll(scope)
	case "drop-below":
		level, err := strconv.ParseFloat(c.FormValue("confidence"), 64)
		if err != nil || level < 0 || level > 1 {
			return form.Edit{}, errors.New("choose a confidence below which finds are dropped")
		}
		return t.DropBelow(scope, level)
	case "order":
		return t.MoveInOrder(c.FormValue("ids"), number(c.FormValue("to"), 0))
	case "rows", "columns", "structure":
		how := c.FormValue("do")
		title := map[string]string{"rows": "ordered by rows", "columns": "ordered by columns", "structure": "ordered as the page is built"}[how]
		return t.Reorder(page, title, arrange.Order(t.OnPage(page), how, geom.ToView(p.Width, p.Height, p.Rotate)))
	case "sequence":
		return t.Reorder(page, "ordered by hand", inSequence(t.OnPage(page), ids))
	case "again":
		f, ok := t.Field(c.FormValue("ids"))
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return again(c, t, f, ev, toPage)
	case "link":
		to := c.FormValue("to")
		for _, f := range t.Fields {
			if f.Name == to {
				return t.Link(c.FormValue("ids"), f.ID)
			}
		}
		return form.Edit{}, fmt.Errorf("there is no field called %q", to)
	case "boxes":
		f, ok := t.Field(c.FormValue("ids"))
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		return boxesIn(t, f, ev)
	case "unlink":
		return t.Unlink(c.FormValue("ids"))
	case "line-up":
		return lineUp(t, ids, c.FormValue("how"))
	case "repeat":
		a, b := toPage.Apply(geom.Point{}), toPage.Apply(geom.Point{X: real(c, "dx"), Y: real(c, "dy")})
		return t.Repeat(ids, number(c.FormValue("n"), 1), b.X-a.X, b.Y-a.Y)
	case "copy-to":
		pages, err := pagesOf(c.FormValue("pages"), len(t.Pages))
		if err != nil {
			return form.Edit{}, err
		}
		return t.CopyToPages(ids, pages)
	case "paste":
		var fields []form.Field
		if err := json.Unmarshal([]byte(c.FormValue("fields")), &fields); err != nil || len(fields) == 0 {
			return form.Edit{}, errors.New("there are no copied fields: choose some and press Ctrl C first")
		}
		return t.Paste(fields, page)
	case "set":
		return set(t, ids, c.FormValue("key"), c.FormValue("value"))
	}
	return form.Edit{}, fmt.Errorf("%q is not something that the bench can do", c.FormValue("do"))
}

// inSequence puts the fields that were pressed first, in that order, and then the others.
func inSequence(on []form.Field, pressed []string) []string {
	out := slices.DeleteFunc(slices.Clone(pressed), func(id string) bool {
		return !slices.ContainsFunc(on, func(f form.Field) bool { return f.ID == id })
	})
	for _, f := range on {
		if !slices.Contains(out, f.ID) {
			out = append(out, f.ID)
		}
	}
	return out
}

func lineUp(t *form.Template, ids []string, how string) (form.Edit, error) {
	var fields []form.Field
	for _, id := range ids {
		f, ok := t.Field(id)
		if !ok {
			return form.Edit{}, form.ErrClash
		}
		fields = append(fields, f)
	}
	if len(fields) == 0 {
		return form.Edit{}, errors.New("choose the fields to line up first")
	}
	rects, err := arrange.LineUp(fields, how, t.Pages[fields[0].Page-1])
	if err != nil {
		return form.Edit{}, err
	}
	return t.Lay(fmt.Sprintf("lined up %d fields", len(fields)), rects)
}

// pagesOf reads page numbers and ranges: "2, 4-6", or "all".
func pagesOf(s string, last int) ([]int, error) {
	var out []int
	if strings.EqualFold(strings.TrimSpace(s), "all") {
		s = fmt.Sprintf("1-%d", last)
	}
	for part := range strings.SplitSeq(s, ",") {
		from, to, ranged := strings.Cut(strings.TrimSpace(part), "-")
		a, err := strconv.Atoi(strings.TrimSpace(from))
		b := a
		if ranged && err == nil {
			b, err = strconv.Atoi(strings.TrimSpace(to))
		}
		if err != nil || a < 1 || b > last || a > b {
			return nil, fmt.Errorf("%q is not a page of this document: write numbers from 1 to %d, such as 2, 4-6, or all", strings.TrimSpace(part), last)
		}
		for n := a; n <= b; n++ {
			if !slices.Contains(out, n) {
				out = append(out, n)
			}
		}
	}
	return out, nil
}

// Sizes in points of a field that is placed where nothing is printed.
var plainSize = map[form.Kind][2]float64{
	form.Text: {150, 16}, form.CheckBox: {10, 10}, form.Radio: {10, 10}, form.Choice: {150, 16}, form.Signature: {180, 24}, form.Button: {90, 22},
}

// place adds a field: dragged to a size, or pressed, and then it takes the shape of
// the cell, rule or box under the pointer and the name of its label.
func place(c *echo.Context, t *form.Template, ev *evidence.Page, toPage geom.Matrix) (form.Edit, error) {
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
		return placeTrio(c, t, toPage)
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
	if c.FormValue("x1") != "" {
		f.Rect = geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(toPage)
		if !f.Multiline && (f.Kind == form.Text || f.Kind == form.CheckBox || f.Kind == form.Choice) {
			if cells := detect.Cells(ev, f.Rect, f.Kind); len(cells) > 1 {
				return fillCells(t, f, cells)
			}
		}
		if found, ok := detect.At(ev, f.Rect.Mid(), f.Kind); ok && f.Kind != form.Button {
			take(&f, found, false)
		}
	} else {
		at := toPage.Apply(geom.Point{X: real(c, "x0"), Y: real(c, "y0")})
		found, ok := detect.At(ev, at, f.Kind)
		if ok && f.Kind != form.Button {
			take(&f, found, true)
		} else {
			size := plainSize[f.Kind]
			if f.Multiline || f.List == form.ListBox {
				size[1] = 60
			}
			f.Rect = geom.Rect{X0: at.X, Y0: at.Y - size[1]/2, X1: at.X + size[0], Y1: at.Y + size[1]/2}
			if f.Kind == form.CheckBox || f.Kind == form.Radio {
				f.Rect = f.Rect.Shift(-size[0]/2, 0)
			}
		}
	}
	if f.Kind == form.Radio {
		return placeRadio(t, f, c.FormValue("group"))
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
func placeTrio(c *echo.Context, t *form.Template, toPage geom.Matrix) (form.Edit, error) {
	const width, height, gap = 90.0, 22.0, 30.0
	page := number(c.FormValue("page"), 1)
	w, _ := t.Pages[page-1].ViewSize()
	x, y := (w-3*width-2*gap)/2, real(c, "y0")-height/2
	var fields []form.Field
	for _, k := range []string{"clear", "print", "save"} {
		fields = append(fields, form.Field{
			Page: page, Kind: form.Button, Name: k, Caption: buttonWords[k][0], Tooltip: buttonWords[k][1], Action: form.Action{Do: form.Deed(k)},
			Show: form.ShowScreen, Rect: geom.R(x, y, x+width, y+height).Apply(toPage).Clamp(t.Pages[page-1].Rect()),
		})
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
// label is its answer.
func placeRadio(t *form.Template, f form.Field, group string) (form.Edit, error) {
	f.Export = cmp.Or(f.Name, "1")
	for _, o := range t.Fields {
		if o.Kind == form.Radio && o.Name == group {
			f.Name, f.Tooltip = group, cmp.Or(o.Tooltip, f.Tooltip)
			f.Export = t.FreeExport(f)
			return t.Place(f)
		}
	}
	f.Name = t.FreeName("choice")
	return t.Place(f)
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

// set changes one property of fields; the key is the name of the blank in the note.
func set(t *form.Template, ids []string, key, value string) (form.Edit, error) {
	if len(ids) == 0 {
		return form.Edit{}, errors.New("choose a field first")
	}
	who := strconv.Itoa(len(ids)) + " fields"
	if f, ok := t.Field(ids[0]); ok && len(ids) == 1 {
		who = f.Name
	}
	value = strings.TrimSpace(value)
	yes := value == "yes"
	switch key {
	case "name":
		if len(ids) != 1 {
			return form.Edit{}, errors.New("give one field a name at a time")
		}
		return t.Rename(ids[0], value)
	case "tooltip":
		return t.Set("changed the tooltip of "+who, ids, func(f *form.Field) error { f.Tooltip = value; return nil })
	case "required":
		return t.Set(map[bool]string{true: "made " + who + " required", false: "made " + who + " optional"}[yes], ids, func(f *form.Field) error { f.Required = yes; return nil })
	case "readonly":
		return t.Set(map[bool]string{true: "made " + who + " read-only", false: "made " + who + " fillable"}[yes], ids, func(f *form.Field) error { f.ReadOnly = yes; return nil })
	case "multiline":
		return t.Set("changed the lines of "+who, ids, func(f *form.Field) error {
			f.Multiline = yes
			if yes {
				f.Comb = 0
			}
			return nil
		})
	case "maxlen":
		n, err := strconv.Atoi(cmp.Or(value, "0"))
		if err != nil {
			return form.Edit{}, fmt.Errorf("%q is not a number of signs: type a whole number, 0 for no limit", value)
		}
		return t.Set("changed the length of "+who, ids, func(f *form.Field) error {
			f.MaxLen = n
			if f.Comb > 0 {
				f.Comb = n
			}
			return nil
		})
	case "options":
		return t.Set("changed the list of "+who, ids, func(f *form.Field) error {
			f.Options = optionsFrom(value)
			f.SortOptions(alphabet())
			return nil
		})
	case "ready":
		options, err := readyList(value)
		if err != nil {
			return form.Edit{}, err
		}
		return t.Set("changed the list of "+who, ids, func(f *form.Field) error { f.Options = options; return nil })
	case "export":
		return t.Set("changed the value of "+who, ids, func(f *form.Field) error { f.Export = value; return nil })
	case "format", "pattern", "decimals", "style", "message":
		return setFormat(t, ids, who, key, value)
	case "caption":
		return t.Set("changed the caption of "+who, ids, func(f *form.Field) error { f.Caption = value; return nil })
	case "deed":
		return t.Set("changed what "+who+" does", ids, func(f *form.Field) error {
			f.Action.Do = form.Deed(value)
			if f.Action.Do != form.SubmitForm {
				f.Action.URL = ""
			} else if f.Action.URL == "" {
				f.Action.URL = "https://"
			}
			return nil
		})
	case "url":
		return t.Set("changed where "+who+" sends", ids, func(f *form.Field) error { f.Action.URL = value; return nil })
	case "left", "top", "width", "height":
		return setPlace(t, ids, who, key, value)
	case "kind":
		return t.Set("changed the kind of "+who, ids, func(f *form.Field) error { return changeKind(f, value) })
	}
	if p, ok := propertyOf(key); ok {
		return t.Set("changed "+p.Title+" "+who, ids, func(f *form.Field) error {
			if !slices.Contains(p.Kinds, f.Kind) {
				return nil // of several fields, those that have it
			}
			return p.Set(f, value)
		})
	}
	return form.Edit{}, fmt.Errorf("%q cannot be set", key)
}

func setFormat(t *form.Template, ids []string, who, key, value string) (form.Edit, error) {
	return t.Set("changed what "+who+" accepts", ids, func(f *form.Field) error {
		switch key {
		case "format":
			f.Format.Kind = form.FormatKind(value)
			switch f.Format.Kind {
			case form.Date:
				f.Format.Pattern = cmp.Or(f.Format.Pattern, "dd.mm.yyyy")
			case form.Number:
				if f.Format.Pattern == "" && f.Format.Decimals == 0 {
					f.Format.Decimals = 2
				}
				f.Format.Pattern = ""
			default:
				f.Format = form.Format{}
			}
		case "pattern":
			f.Format.Pattern = value
		case "decimals":
			n, err := strconv.Atoi(value)
			if err != nil {
				return fmt.Errorf("%q is not a number of decimal places: type 0 to 6", value)
			}
			f.Format.Decimals = n
		case "style":
			f.Format.Comma = value == "comma"
		case "message":
			f.Format.Message = value
		}
		return nil
	})
}

// changeKind turns a field into another kind, and drops what the new one cannot have.
func changeKind(f *form.Field, to string) error {
	switch to {
	case "text", "lines", "password", "file":
		f.Kind, f.Multiline = form.Text, to == "lines"
		if to != "text" {
			f.Comb = 0
		}
		f.Password, f.FilePath = to == "password", to == "file"
	case "choice", "combo", "list", "many":
		f.Kind, f.List = form.Choice, map[string]form.ListStyle{"combo": form.ComboBox, "list": form.ListBox, "many": form.ManyList}[to]
		f.Multiline, f.Comb, f.MaxLen, f.Format = false, 0, 0, form.Format{}
	case "checkbox", "signature", "button", "radio":
		f.Kind = form.Kind(to)
		f.Multiline, f.Comb, f.MaxLen, f.Format = false, 0, 0, form.Format{}
	default:
		return fmt.Errorf("%q is not a kind of field here", to)
	}
	if f.Kind == form.Button {
		f.Caption = cmp.Or(f.Caption, "Button")
	} else {
		f.Caption, f.Action = "", form.Action{}
	}
	if f.Kind != form.Choice {
		f.Options, f.List, f.Sort, f.BlankFirst = nil, form.Dropdown, false, false
	}
	if f.Kind != form.Text {
		f.Password, f.FilePath, f.NoScroll = false, false, false
	}
	if f.Kind != form.Text && f.Kind != form.Choice {
		f.NoSpell, f.Hint = false, ""
	}
	if f.Kind != form.CheckBox && f.Kind != form.Radio {
		f.Export, f.Mark = "", ""
	}
	f.Unison = f.Unison && f.Kind == form.Radio
	return nil
}

// manyPages is from how many pages on finding goes to the queue.
const manyPages = 12

// find runs detection over a page or the whole document and adds what is new. It
// leaves alone what is there: a find that overlaps a field is not proposed again.
func (s *Server) find(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	doc, err := s.store.Document(ctx, id)
	if err != nil {
		return err
	}
	pages := doc.Pages()
	first, last := 1, len(pages)
	if c.FormValue("scope") != "all" {
		first = min(max(1, number(c.FormValue("page"), 1)), last)
		last = first
	}
	if last-first >= manyPages { // so many take their time: on the queue, with progress
		if t, err := s.store.LastTask(ctx, store.TaskFind, id); err == nil && t.Running() {
			return refuse(errors.New("fields are being found already: wait for it, or cancel it"))
		}
		if err := s.queue.Find(ctx, id, account(c).ID); err != nil {
			return err
		}
		return s.benchAgain(c, id, nil)
	}
	house, err := s.store.Dictionary(ctx)
	if err != nil {
		return err
	}
	var found []form.Field
	for n := first; n <= last; n++ {
		ev, err := s.pageEvidence(ctx, pages[n-1])
		if err != nil {
			return err
		}
		for _, f := range detect.PageWith(ev, house) {
			found = append(found, f.Field(n))
		}
	}
	had := doc.Fields+doc.Open > 0
	done, err := s.store.Change(ctx, id, doc.Revision, account(c).ID, "find", func(t *form.Template) (form.Edit, error) {
		return t.AddNew(within(c, t, found))
	})
	if errors.Is(err, form.ErrNothing) {
		c.Response().Header().Set("HX-Trigger", `{"zm:say":{"text":"Nothing new was found: the writing areas on this page have their fields."}}`)
		return s.benchAgain(c, id, nil)
	}
	if err != nil {
		return refuse(err)
	}
	if had {
		c.Response().Header().Set("HX-Trigger", fmt.Sprintf(`{"zm:say":{"text":"New: %s. What was there is as it was."}}`, done.Title))
	}
	return s.benchAgain(c, id, nil)
}

// within keeps the finds in the frame that was drawn, if one was.
func within(c *echo.Context, t *form.Template, found []form.Field) []form.Field {
	if c.FormValue("scope") != "area" {
		return found
	}
	n := number(c.FormValue("page"), 1)
	if n < 1 || n > len(t.Pages) {
		return nil
	}
	p := t.Pages[n-1]
	frame := geom.R(real(c, "x0"), real(c, "y0"), real(c, "x1"), real(c, "y1")).Apply(geom.FromView(p.Width, p.Height, p.Rotate))
	return slices.DeleteFunc(found, func(f form.Field) bool { return f.Page != n || !frame.Contains(f.Rect.Mid()) })
}

// withNext adds the next field in tab order to a single one.
func withNext(t *form.Template, ids []string) []string {
	if len(ids) != 1 {
		return ids
	}
	f, ok := t.Field(ids[0])
	if !ok {
		return ids
	}
	on := t.OnPage(f.Page)
	if i := slices.IndexFunc(on, func(o form.Field) bool { return o.ID == f.ID }); i+1 < len(on) {
		return []string{f.ID, on[i+1].ID}
	}
	return ids
}

// sameQuestion adds to a single box those that stand in one line or column with it.
func sameQuestion(t *form.Template, ids []string) []string {
	if len(ids) != 1 {
		return ids
	}
	f, ok := t.Field(ids[0])
	if !ok {
		return ids
	}
	out := []string{f.ID}
	chain := []form.Field{f}
	for grown := true; grown; {
		grown = false
		for _, o := range t.OnPage(f.Page) {
			if o.Kind == f.Kind && !slices.Contains(out, o.ID) && slices.ContainsFunc(chain, func(x form.Field) bool { return form.Row(x.Rect, o.Rect) }) {
				out, chain, grown = append(out, o.ID), append(chain, o), true
			}
		}
	}
	return out
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

func (s *Server) undo(c *echo.Context) error { return s.takeBack(c, false) }
func (s *Server) redo(c *echo.Context) error { return s.takeBack(c, true) }

func (s *Server) takeBack(c *echo.Context, redo bool) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	if _, err := s.store.Undo(c.Request().Context(), id, account(c).ID, redo); err != nil {
		return refuse(err)
	}
	if c.FormValue("stage") == "pages" {
		return s.pagesAgain(c, id)
	}
	return s.benchAgain(c, id, nil)
}
