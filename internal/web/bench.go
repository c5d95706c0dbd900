package web

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
)

// zooms are the steps of the zoom, in percent of 96 pixels an inch.
var zooms = []int{50, 75, 100, 125, 150, 200, 300, 400}

// benchView is the working view of one page.
type benchView struct {
	shell
	Doc      store.Document
	Stage    string
	Tabs     []tab
	Page     int
	Thumbs   []thumb
	Zoom     int
	Out, In  int // the next zoom steps; 0 at the ends
	Picture  string
	Sharp    string // the picture for screens of two pixels a point
	Unread   bool   // the page is a scan whose text is not recognised
	Width    int    // of the page on screen, in CSS pixels
	Height   int
	ViewW    float64 // in points
	ViewH    float64
	Fields   []benchField
	Shapes   template.HTML // of all fields
	Above    template.HTML // the closed notes before the open one, or all
	OpenNote *benchField
	Below    template.HTML // and those after it
	Beads    template.HTML
	Undo     string
	Redo     string
	Kit      []kitItem
	Finds    int // open ones on this page
	Doubtful int // on this page
	AllFinds int
	Total    int // fields of the document, finds included
	Task     *store.Task
	Many     *many
	Handy    handyView
	Bare     string // fields without a tooltip: "id:page,id:page"
	Sweep    string // open finds in order of doubt: "id:page,id:page"
}

type thumb struct {
	N, W, H, Count int
	On             bool
	Picture        string
}

// benchField is a field as the bench draws and describes it. X, Y, W and H are in
// points of the page as shown, from its upper left.
type benchField struct {
	form.Field
	X, Y, W, H float64
	Doc        int64
	Open       bool // its note is open
	Doubt      bool
	IsOpen     bool // an open find
	Badge      string
	Wrong      string
	Place      template.HTMLAttr // its place as data for the script
	Body       template.HTMLAttr // and as the attributes of a rectangle
	Spine      template.HTMLAttr // path of the kind's mark
	Sense      string            // "sure", "likely", "doubtful"
	Stage      string
	Places     []form.Field // of an open note: all places of the field, when there are several
	MayLink    bool         // of an open note: it could share its answer with another field
	Favourites []store.Favourite
	Unit       string // of an open note: that its place is shown in
}

// links fills in what an open note says of other places.
func (b *benchField) links(t form.Template) {
	if b.Origin != nil || b.Kind != form.Text && b.Kind != form.CheckBox && b.Kind != form.Choice {
		return
	}
	if b.Linked {
		b.Places = t.Places(b.ID)
		return
	}
	b.MayLink = true
}

type kitItem struct {
	Kind, Do, Name, Title, Icon string
}

func (s *Server) document(c *echo.Context) error {
	d, err := s.documentOf(c)
	if err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/%s", d.ID, d.Stage))
}

func (s *Server) bench(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	if !slices.Contains(benchStages, c.Param("stage")) {
		return store.ErrMissing
	}
	v, err := s.benchView(c, id, c.Param("stage"))
	if err != nil {
		return err
	}
	block := "page"
	if c.Request().Header.Get("HX-Request") != "" {
		block = "bench"
	}
	return s.render(c, http.StatusOK, "bench", block, v)
}

// benchView gathers what the bench shows. The page, the zoom and the open note
// come from the request.
func (s *Server) benchView(c *echo.Context, id int64, stageKey string) (benchView, error) {
	d, err := s.store.Draft(c.Request().Context(), id)
	if err != nil {
		return benchView{}, err
	}
	v := s.viewOf(c, d, stageKey)
	if t, err := s.store.LastTask(c.Request().Context(), store.TaskFind, id); err == nil && (t.Running() || t.State == "failed") {
		v.Task = &t
	}
	ctx := c.Request().Context()
	if v.Handy, err = s.handyOf(ctx, account(c).ID); err != nil {
		return v, err
	}
	open := slices.IndexFunc(v.Fields, func(f benchField) bool { return f.Open })
	if open < 0 && v.Many == nil {
		return v, nil
	}
	kept, err := s.store.Favourites(ctx)
	if v.Many != nil {
		v.Many.Favourites = kept
	}
	if open >= 0 {
		v.Fields[open].Favourites, v.Fields[open].Unit = kept, unitOf(c)
	}
	return v, err
}

func (s *Server) viewOf(c *echo.Context, d store.Draft, stageKey string) benchView {
	t := d.Template
	n := min(max(1, number(c.FormValue("page"), 1)), len(t.Pages))
	p := t.Pages[n-1]
	v := benchView{
		shell: s.shell(c, d.Document.Title, "bench"), Doc: d.Document, Stage: stageKey, Page: n,
		Tabs: tabs(stageKey, d.Document.Doubtful), Undo: d.Undo, Redo: d.Redo, Kit: kits[stageKey], Total: len(t.Fields), AllFinds: d.Document.Open,
	}
	v.zoom(number(c.FormValue("zoom"), 75))
	v.ViewW, v.ViewH = viewSize(p)
	px := float64(v.Zoom) / 100 * 96 / 72
	v.Width, v.Height = int(math.Round(v.ViewW*px)), int(math.Round(v.ViewH*px))
	v.Picture, v.Sharp = pictureURL(p, min(v.Width, maxPicture)), pictureURL(p, min(2*v.Width, max(v.Width, maxPicture)))
	v.Unread = p.Scan && p.Text == ""
	for i, pg := range t.Pages {
		w, h := viewSize(pg)
		th := thumb{N: i + 1, W: 54, H: int(54 * h / w), On: i+1 == n, Count: t.CountOn(i + 1), Picture: pictureURL(pg, 108)}
		v.Thumbs = append(v.Thumbs, th)
	}
	m := geom.ToView(p.Width, p.Height, p.Rotate)
	open := c.FormValue("open")
	var ids []string
	var heights []float64
	v.Fields = make([]benchField, 0, t.CountOn(n))
	for _, f := range t.OnPage(n) {
		r := f.Rect.Apply(m)
		bf := describeField(f)
		bf.X, bf.Y, bf.W, bf.H = geom.Round(r.X0), geom.Round(r.Y0), geom.Round(r.W()), geom.Round(r.H())
		bf.place()
		bf.Spine = template.HTMLAttr(`d="` + spine(f, r) + `"`)
		bf.Doc, bf.Stage, bf.Open = d.Document.ID, stageKey, f.ID == open
		if bf.Open {
			bf.links(t)
		}
		v.Fields = append(v.Fields, bf)
		ids, heights = append(ids, f.ID), append(heights, r.Mid().Y*px)
		if bf.IsOpen {
			v.Finds++
		}
		if bf.Doubt {
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
	v.Beads = beads(arrange.Beads(ids, heights))
	v.write()
	return v
}

// write writes the shapes and the notes of the fields.
func (v *benchView) write() {
	var shapes, above, below strings.Builder
	shapes.Grow(700 * len(v.Fields))
	notes := &above
	for i := range v.Fields {
		f := &v.Fields[i]
		f.shape(&shapes)
		shapes.WriteByte('\n')
		if f.Open {
			v.OpenNote, notes = f, &below
			continue
		}
		f.line(notes)
		notes.WriteByte('\n')
	}
	v.Shapes, v.Above, v.Below = template.HTML(shapes.String()), template.HTML(above.String()), template.HTML(below.String())
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

// place writes the numbers of the field as attributes, once; they are numbers and
// need no escaping.
func (b *benchField) place() {
	x, y, w, h := plainNumber(b.X), plainNumber(b.Y), plainNumber(b.W), plainNumber(b.H)
	b.Place = template.HTMLAttr(`data-x="` + x + `" data-y="` + y + `" data-w="` + w + `" data-h="` + h + `"`)
	b.Body = template.HTMLAttr(`x="` + x + `" y="` + y + `" width="` + w + `" height="` + h + `"`)
}

func plainNumber(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func (v *benchView) zoom(want int) {
	v.Zoom = max(25, min(want, zooms[len(zooms)-1]))
	for _, z := range zooms {
		if z < v.Zoom {
			v.Out = z
		}
		if z > v.Zoom && v.In == 0 {
			v.In = z
		}
	}
}

func number(s string, otherwise int) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return otherwise
	}
	return n
}

// beads draws the thread through the beads in their order, and the beads. Ids are
// made by [form.NewID]: letters and figures only.
func beads(all []arrange.Bead) template.HTML {
	var path, b strings.Builder
	for i, k := range all {
		x, y, n, id := plainNumber(k.X), plainNumber(k.Y), strconv.Itoa(k.N), esc(k.ID)
		to := "L"
		if i == 0 {
			to = "M"
		}
		put(&path, to, x, " ", y)
		put(&b, `<g class="bead" id="bead-`, id, `" data-id="`, id, `" data-n="`, n, `" role="listitem" tabindex="-1" aria-label="Number `, n, `" transform="translate(`, x, ` `, y, `)"><circle r="9"/><text y="4">`, n, `</text></g>`)
	}
	return template.HTML(`<path class="thread" d="` + path.String() + `"/>` + b.String())
}

var formatBadges = map[form.FormatKind]string{
	form.Time: "time", form.Number: "number", form.Percent: "per cent", form.Phone: "telephone", form.Email: "e-mail", form.Postcode: "postcode", form.Mask: "pattern", form.Upper: "capitals", form.Lower: "small letters",
}

var deedWords = map[form.Deed]string{"": "does nothing yet", form.ClearForm: "clears the form", form.PrintForm: "prints the form", form.SaveForm: "saves the form", form.SubmitForm: "sends the answers", form.TakePicture: "takes a picture"}

// describeField puts into a few words what a closed note says.
func describeField(f form.Field) benchField {
	b := benchField{Field: f, Sense: string(f.Level()), IsOpen: f.OpenFind()}
	b.Doubt = b.IsOpen && f.Level() == form.Doubtful
	var says []string
	switch {
	case f.Kind == form.Button:
		says = append(says, deedWords[f.Action.Do])
	case f.Required:
		says = append(says, "must be filled")
	case f.ReadOnly:
		says = append(says, "cannot be changed")
	}
	if f.Linked {
		says = append(says, "at several places")
	}
	switch {
	case f.Formula != "":
		says = append(says, "calculated")
	case f.Format.Kind == form.Date:
		says = append(says, "date, "+f.Format.Pattern)
	case f.Format.Kind != form.NoFormat:
		says = append(says, formatBadges[f.Format.Kind])
	case f.Comb > 0:
		says = append(says, strconv.Itoa(f.Comb)+" cells")
	case f.Multiline:
		says = append(says, "several lines")
	case f.Kind == form.CheckBox:
		says = append(says, "check box")
	case f.Kind == form.Radio:
		says = append(says, "radio button")
	case f.Kind == form.Choice:
		says = append(says, strconv.Itoa(len(f.Options))+" to choose from")
	case f.Kind == form.Signature:
		says = append(says, "signature")
	case f.MaxLen > 0:
		says = append(says, "at most "+strconv.Itoa(f.MaxLen))
	}
	if b.IsOpen && !b.Doubt {
		says = append(says, b.Sense)
	}
	b.Badge = strings.Join(says, ", ")
	if f.Tooltip == "" && f.Placed() {
		b.Wrong = "no tooltip"
	}
	return b
}

// spine is the mark on the leading edge that tells the kind without colour.
func spine(f form.Field, r geom.Rect) string {
	x, y0, y1 := r.X0, r.Y0, r.Y1
	switch {
	case f.Kind == form.CheckBox:
		n := math.Min(r.W(), r.H()) * 0.35
		return fmt.Sprintf("M%.2f %.2fh%.2fl%.2f %.2fz", x, y0, n, -n, n)
	case f.Kind == form.Signature:
		var b strings.Builder
		fmt.Fprintf(&b, "M%.2f %.2f", x+1, y0)
		for y, side := y0, 2.4; y < y1-1; y, side = y+3, -side {
			fmt.Fprintf(&b, "q%.2f 1.5 0 3", side)
		}
		return b.String()
	case f.Kind == form.Button:
		return fmt.Sprintf("M%.2f %.2fH%.2fV%.2fH%.2fz", x, y0, r.X1, y1, x)
	case f.Kind == form.Radio:
		return fmt.Sprintf("M%.2f %.2fa4 4 0 0 0 4 -4h-4z", x, y0+4)
	case f.Kind == form.Choice:
		h := r.H() / 3
		return fmt.Sprintf("M%.2f %.2fh6v%.2fh-2v%.2fh-2v%.2fh-2z", x, y0, h, h, h)
	case f.Comb > 0:
		var b strings.Builder
		for y := y0; y < y1; y += 4 {
			fmt.Fprintf(&b, "M%.2f %.2fh3v2h-3z", x, y)
		}
		return b.String()
	case f.Multiline:
		return fmt.Sprintf("M%.2f %.2fh1.6V%.2fh-1.6zM%.2f %.2fh1.6V%.2fh-1.6z", x, y0, y1, x+3.2, y0, y1)
	}
	return "M" + tidy(x) + " " + tidy(y0) + "h3V" + tidy(y1) + "h-3z"
}

func tidy(v float64) string { return strconv.FormatFloat(v, 'f', 2, 64) }

// kindName is a kind of field as the note names it.
type kindName struct{ Key, Name string }

var kindNames = []kindName{{"text", "text field"}, {"lines", "text field of several lines"}, {"checkbox", "check box"}, {"radio", "radio button"}, {"choice", "dropdown"}, {"combo", "dropdown with own entry"}, {"list", "list box, one"}, {"many", "list box, several"}, {"password", "password field"}, {"file", "field for a file"}, {"signature", "signature field"}, {"button", "button"}, {"picture", "picture field"}}

// optionLines writes the options of a choice one a line, "label = value" where another
// value is sent than is shown.
func optionLines(options []form.Option) string {
	var out []string
	for _, o := range options {
		if o.Export != "" && o.Export != o.Label {
			out = append(out, o.Label+" = "+o.Export)
		} else {
			out = append(out, o.Label)
		}
	}
	return strings.Join(out, "\n")
}

// optionsFrom reads what optionLines writes.
func optionsFrom(s string) []form.Option {
	var out []form.Option
	for line := range strings.SplitSeq(s, "\n") {
		label, export, _ := strings.Cut(line, " = ")
		if label = strings.TrimSpace(label); label != "" {
			out = append(out, form.Option{Label: label, Export: strings.TrimSpace(export)})
		}
	}
	return out
}

func kindKey(f form.Field) string {
	switch {
	case f.Kind == form.Text && f.Multiline:
		return "lines"
	case f.Kind == form.Text && f.Password:
		return "password"
	case f.Kind == form.Text && f.FilePath:
		return "file"
	case f.Action.Do == form.TakePicture:
		return "picture"
	case f.Kind == form.Choice && f.List != form.Dropdown:
		return string(f.List)
	}
	return string(f.Kind)
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

// note is one note, open or closed.
func (s *Server) note(c *echo.Context) error {
	d, err := s.draftOf(c)
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
	b := describeField(f)
	b.X, b.Y, b.W, b.H = geom.Round(r.X0), geom.Round(r.Y0), geom.Round(r.W()), geom.Round(r.H())
	b.place()
	b.Doc, b.Stage, b.Open = id, c.FormValue("stage"), c.FormValue("closed") == ""
	if b.Open {
		b.links(d.Template)
		b.Unit = unitOf(c)
		if b.Favourites, err = s.store.Favourites(c.Request().Context()); err != nil {
			return err
		}
	}
	return s.render(c, http.StatusOK, "bench", "note", b)
}

// sameAs lists the names of the fields that one could share its answer with.
func (s *Server) sameAs(c *echo.Context) error {
	d, err := s.draftOf(c)
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

// chosen is the ids that a request names.
func chosen(c *echo.Context) []string {
	return strings.FieldsFunc(c.FormValue("ids"), func(r rune) bool { return r == ',' })
}

// real reads a number in points from the request.
func real(c *echo.Context, key string) float64 {
	v, err := strconv.ParseFloat(c.FormValue(key), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return v
}

func stageOf(c *echo.Context) string {
	k := c.FormValue("stage")
	if !slices.Contains(benchStages, k) {
		return "fit"
	}
	return cmp.Or(k, "fit")
}
