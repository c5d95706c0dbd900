package bench

import (
	"cmp"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/arrange"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
	"zealousmargin.example/internal/web/notes"
)

// benchView is the working view of one page.
type benchView struct {
	frame.Shell
	Doc      store.Document
	Stage    string
	Tabs     []frame.Tab
	Page     int
	Thumbs   []frame.Thumb
	Zoom     int
	Out, In  int // the next zoom steps; 0 at the ends
	Picture  string
	Sharp    string // the picture for screens of two pixels a point
	Unread   bool   // the page is a scan whose text is not recognised
	Width    int    // of the page on screen, in CSS pixels
	Height   int
	ViewW    float64 // in points
	ViewH    float64
	Fields   []markup.Mark
	Shapes   template.HTML // of all fields
	Above    template.HTML // the closed notes before the open one, or all
	OpenNote *openNote
	Below    template.HTML // and those after it
	Beads    template.HTML
	Undo     string
	Redo     string
	Kit      []kitItem
	Data     []frame.Datum // of the roster, which fields can be placed for
	Finds    int           // open ones on this page
	Doubtful int           // on this page
	AllFinds int
	// FormatsSet is how many fields have the format that finding gave them.
	FormatsSet int
	Total      int // fields of the document, finds included
	Task       *store.Task
	Many       *many
	Handy      handyView
	Bare       string // fields without a tooltip: "id:page,id:page"
	Sweep      string // open finds in order of doubt: "id:page,id:page"
}

// openNote is the note that is open, or one that is asked for.
type openNote struct {
	markup.Mark
	Doc        int64
	Open       bool
	Place      template.HTMLAttr // its place as data for the script
	Sense      string            // "sure", "likely", "doubtful"
	Stage      string
	Places     []form.Field // all places of the field, when there are several
	MayLink    bool         // it could share its answer with another field
	Favourites []store.Favourite
	Unit       string               // that its place is shown in
	Word       *store.HouseProposal // what its correction could teach the office
	Learns     bool                 // the person may teach it
}

// Line is the note closed.
func (n openNote) Line() template.HTML {
	var b markup.Builder
	b.Line(&n.Mark)
	return b.HTML()
}

// Sections are the parts that fold.
func (n openNote) Sections() []notes.Section {
	u := cmp.Or(n.Unit, "pt")
	place := fmt.Sprintf("%s × %s %s", form.WriteLength(n.W, u), form.WriteLength(n.H, u), u)
	if len(n.Places) > 0 {
		place += fmt.Sprintf(", one of %d", len(n.Places))
	}
	return notes.Sections(*n.Field, n.Stage, place)
}

// openedNote is the note of a field that is open.
func openedNote(m markup.Mark, t *form.Template, doc int64, stage string) *openNote {
	n := &openNote{Mark: m, Doc: doc, Stage: stage, Open: true, Sense: string(m.Level()), Place: markup.Place(m.X, m.Y, m.W, m.H)}
	switch {
	case m.Origin != nil || !form.MayLink(m.Kind):
	case m.Linked:
		n.Places = t.Places(m.ID)
	default:
		n.MayLink = true
	}
	return n
}

type kitItem struct {
	Kind, Do, Name, Title, Icon string
}

func Document(s *frame.Frame, c *echo.Context) error {
	d, err := s.DocumentOf(c)
	if err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/%s", d.ID, d.Stage))
}

func Show(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if !slices.Contains(frame.BenchStages, c.Param("stage")) {
		return store.ErrMissing
	}
	v, err := gather(s, c, id, c.Param("stage"))
	if err != nil {
		return err
	}
	block := "page"
	if c.Request().Header.Get("HX-Request") != "" {
		block = "bench"
	}
	return s.Render(c, http.StatusOK, "bench", block, v)
}

// benchView gathers what the bench shows. The page, the zoom and the open note
// come from the request.
func gather(s *frame.Frame, c *echo.Context, id int64, stageKey string) (benchView, error) {
	d, err := s.Store.Draft(c.Request().Context(), id)
	if err != nil {
		return benchView{}, err
	}
	v := viewOf(s, c, d, stageKey)
	if t, err := s.Store.LastTask(c.Request().Context(), store.TaskFind, id); err == nil && (t.Running() || t.State == "failed") {
		v.Task = &t
	}
	ctx := c.Request().Context()
	if v.Handy, err = handyOf(s, ctx, frame.Account(c).ID); err != nil {
		return v, err
	}
	if v.OpenNote == nil && v.Many == nil {
		return v, nil
	}
	kept, err := s.Store.Favourites(ctx)
	if v.Many != nil {
		v.Many.Favourites = kept
	}
	if v.OpenNote != nil {
		v.OpenNote.Favourites, v.OpenNote.Unit, v.OpenNote.Learns = kept, frame.UnitOf(c), v.May.Administer
		if f := v.OpenNote.Field; f.Find != nil && f.Label != "" {
			p, there, err := s.Store.HouseProposal(c.Request().Context(), v.Doc.ID, f.Label)
			if err != nil {
				return v, err
			}
			if there {
				v.OpenNote.Word = &p
			}
		}
	}
	return v, err
}

func viewOf(s *frame.Frame, c *echo.Context, d store.Draft, stageKey string) benchView {
	t := d.Template
	n := min(max(1, frame.Number(c.FormValue("page"), 1)), len(t.Pages))
	p := t.Pages[n-1]
	v := benchView{
		Shell: s.Shell(c, d.Document.Title, "bench"), Doc: d.Document, Stage: stageKey, Page: n,
		Tabs: frame.Tabs(stageKey, d.Document.Doubtful), Undo: d.Undo, Redo: d.Redo, Kit: kits[stageKey], Total: len(t.Fields),
		AllFinds: d.Document.Open, FormatsSet: d.Template.FormatsSet(),
	}
	if stageKey == "fit" {
		v.Data, _ = s.Data(c.Request().Context()) // what cannot be told is not offered
	}
	v.Zoom = frame.Zoom(frame.Number(c.FormValue("zoom"), 75))
	v.Out, v.In = frame.ZoomSteps(v.Zoom)
	v.ViewW, v.ViewH = frame.ViewSize(p)
	px := float64(v.Zoom) / 100 * 96 / 72
	v.Width, v.Height = int(math.Round(v.ViewW*px)), int(math.Round(v.ViewH*px))
	v.Picture, v.Sharp = frame.PictureURL(p, min(v.Width, frame.MaxPicture)),
		frame.PictureURL(p, min(2*v.Width, max(v.Width, frame.MaxPicture)))
	v.Unread = p.Scan && p.Text == ""
	for i, pg := range t.Pages {
		w, h := frame.ViewSize(pg)
		th := frame.Thumb{N: i + 1, W: 54, H: int(54 * h / w), On: i+1 == n, Count: t.CountOn(i + 1), Picture: frame.PictureURL(pg, 108)}
		v.Thumbs = append(v.Thumbs, th)
	}
	m := geom.ToView(p.Width, p.Height, p.Rotate)
	open := c.FormValue("open")
	var ids []string
	var heights []float64
	v.Fields = make([]markup.Mark, 0, t.CountOn(n))
	for i := range t.Fields {
		f := &t.Fields[i]
		if f.Page != n {
			continue
		}
		r := f.Rect.Apply(m)
		mark := markOf(f, r, d.Document.ID)
		v.Fields = append(v.Fields, mark)
		ids, heights = append(ids, f.ID), append(heights, r.Mid().Y*px)
		if mark.Found {
			v.Finds++
		}
		if mark.Doubt {
			v.Doubtful++
		}
	}
	v.Sweep = sweepOf(t)
	var bare []string
	for i := range t.Fields {
		if f := &t.Fields[i]; f.Tooltip == "" && f.Placed() {
			bare = append(bare, f.ID+":"+strconv.Itoa(f.Page))
		}
	}
	v.Bare = strings.Join(bare, ",")
	v.Many = manyOf(d.Document.ID, t, strings.FieldsFunc(c.FormValue("many"), func(r rune) bool { return r == ',' }))
	beads := arrange.Beads(ids, heights)
	for i := range beads {
		if k := slices.IndexFunc(v.Fields, func(m markup.Mark) bool { return m.ID == beads[i].ID }); k >= 0 {
			beads[i].Name = v.Fields[k].Name
		}
	}
	v.Beads = markup.Beads(beads)
	v.draw(open, &t)
	return v
}

// markOf is a field as the bench draws it, at r of the page as shown.
func markOf(f *form.Field, r geom.Rect, doc int64) markup.Mark {
	m := notes.Mark(f)
	m.X, m.Y, m.W, m.H = geom.Round(r.X0), geom.Round(r.Y0), geom.Round(r.W()), geom.Round(r.H())
	if f.Face.Picture != "" {
		m.Picture = fmt.Sprintf("/documents/%d/button-pictures/%s", doc, f.Face.Picture)
	}
	return m
}

// draw writes the shapes and the notes of the fields; the note of the field that is named is open.
func (v *benchView) draw(open string, t *form.Template) {
	var shapes, above, below markup.Builder
	shapes.Grow(700 * len(v.Fields))
	list := &above
	for i := range v.Fields {
		m := &v.Fields[i]
		shapes.Shape(m)
		if m.ID == open {
			v.OpenNote, list = openedNote(*m, t, v.Doc.ID, v.Stage), &below
			continue
		}
		list.Line(m)
	}
	v.Shapes, v.Above, v.Below = shapes.HTML(), above.HTML(), below.HTML()
}

// sweepOf lists the open finds of all pages, the most doubtful first.
func sweepOf(t form.Template) string {
	var open []*form.Field
	for i := range t.Fields {
		if t.Fields[i].OpenFind() {
			open = append(open, &t.Fields[i])
		}
	}
	slices.SortStableFunc(open, func(a, b *form.Field) int { return cmp.Compare(a.Find.Confidence, b.Find.Confidence) })
	var out []string
	for _, f := range open {
		out = append(out, f.ID+":"+strconv.Itoa(f.Page))
	}
	return strings.Join(out, ",")
}

// kits are the strips along the bottom edge, by stage.
var kits = map[string][]kitItem{
	"fit": {
		{Kind: "text", Name: "text", Icon: "text", Title: "Text, one line"},
		{Kind: "lines", Name: "lines", Icon: "lines", Title: "Text, several lines"},
		{Kind: "checkbox", Name: "check box", Icon: "check", Title: "Check box"},
		{Kind: "radio", Name: "radio", Icon: "round", Title: "Radio button; those that you place one after the other are one group"},
		{Kind: "choice", Name: "dropdown", Icon: "steps", Title: "Dropdown"},
		{Kind: "list", Name: "list box", Icon: "steps", Title: "List box"},
		{Kind: "signature", Name: "signature", Icon: "wave", Title: "Signature"},
		{Kind: "button", Name: "button", Icon: "button", Title: "Button"},
		{Kind: "picture", Name: "picture", Icon: "frame", Title: "Picture field: a button that takes a picture"},
	},
	"rules": {
		{Do: "date", Name: "date", Title: "The chosen fields take a date"},
		{Do: "number", Name: "number", Title: "The chosen fields take a number"},
		{Do: "anything", Name: "anything", Title: "The chosen fields take anything"},
		{Kind: "clear", Name: "clear", Icon: "button", Title: "A button that clears the form"},
		{Kind: "print", Name: "print", Icon: "button", Title: "A button that prints the form"},
		{Kind: "save", Name: "save", Icon: "button", Title: "A button that saves the form"},
		{Kind: "trio", Name: "all three", Icon: "button", Title: "Clear, print and save, evenly spaced in the middle of the page"},
		{Kind: "submit", Name: "send", Icon: "button", Title: "A button that sends the answers"},
	},
}

// Note is one note, open or closed.
func Note(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	id := d.Document.ID
	f, ok := d.Template.Field(c.Param("field"))
	if !ok {
		return store.ErrMissing
	}
	p := d.Template.Pages[f.Page-1]
	r := f.Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
	n := openedNote(markOf(&f, r, id), &d.Template, id, c.FormValue("stage"))
	if n.Open = c.FormValue("closed") == ""; n.Open {
		may, err := s.May(c)
		if err != nil {
			return err
		}
		n.Unit, n.Learns = frame.UnitOf(c), may.Administer
		if n.Favourites, err = s.Store.Favourites(c.Request().Context()); err != nil {
			return err
		}
	}
	return s.Render(c, http.StatusOK, "bench", "note", n)
}

// SameAs lists the names of the fields that one could share its answer with.
func SameAs(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	me, ok := d.Template.Field(c.Param("field"))
	if !ok {
		return store.ErrMissing
	}
	names := []string{}
	for _, f := range d.Template.Fields {
		if f.Kind == me.Kind && f.ID != me.ID && f.Origin == nil {
			names = append(names, f.Name)
		}
	}
	slices.Sort(names)
	return c.JSON(http.StatusOK, slices.Compact(names))
}
