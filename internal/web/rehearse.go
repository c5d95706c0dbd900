package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/rehearsal"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store"
)

// rehearseView is the form as a recipient has it: live fields over the page. Nothing that is
// typed into it reaches the draft; the browser keeps it.
type rehearseView struct {
	shell
	Doc     store.Document
	Stage   string
	Tabs    []tab
	Page    int
	Thumbs  []thumb
	Zoom    int
	Picture string
	Width   int
	Height  int
	Fields  []liveField
	Roles   []string // of those who fill the form in, when there are several
	Problem string   // why the form cannot be filled in
	Snags   []snags.Snag
	Report  *rehearsal.Report
}

// liveField is a field with its control; Place is for the style sheet's script.
type liveField struct {
	form.Field
	X, Y, W, H float64 // CSS pixels
	Size       float64
}

func (s *Server) rehearseRoom(c *echo.Context) error {
	v, err := s.rehearseView(c, false)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "rehearse", "page", v)
}

// rehearseAlone lets the invented people fill the form in.
func (s *Server) rehearseAlone(c *echo.Context) error {
	v, err := s.rehearseView(c, true)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "rehearse", "page", v)
}

func (s *Server) rehearseView(c *echo.Context, alone bool) (rehearseView, error) {
	id, err := idOf(c)
	if err != nil {
		return rehearseView{}, err
	}
	ctx := c.Request().Context()
	d, err := s.store.Draft(ctx, id)
	if err != nil {
		return rehearseView{}, err
	}
	t := d.Template
	n := min(max(1, number(c.FormValue("page"), 1)), len(t.Pages))
	p := t.Pages[n-1]
	v := rehearseView{shell: s.shell(c, "Rehearse: "+d.Document.Title, "bench"), Doc: d.Document, Stage: "rehearse", Tabs: tabs("rehearse", d.Document.Doubtful), Page: n, Zoom: min(max(number(c.FormValue("zoom"), 75), 50), 200)}
	px := float64(v.Zoom) / 100 * 96 / 72
	w, h := p.ViewSize()
	v.Width, v.Height = int(math.Round(w*px)), int(math.Round(h*px))
	v.Picture = pictureURL(p, min(v.Width, maxPicture))
	for i, pg := range t.Pages {
		w, h := viewSize(pg)
		v.Thumbs = append(v.Thumbs, thumb{N: i + 1, W: 54, H: int(54 * h / w), On: i+1 == n, Count: t.CountOn(i + 1), Picture: pictureURL(pg, 108)})
	}
	if _, err := rules.NewSession(t.Fields, time.Now()); err != nil {
		v.Problem = sentence(err.Error())
	}
	for _, f := range t.Fields {
		if f.Role != "" && !slices.Contains(v.Roles, f.Role) {
			v.Roles = append(v.Roles, f.Role)
		}
	}
	m := geom.ToView(p.Width, p.Height, p.Rotate)
	for _, f := range t.OnPage(n) {
		if !f.Placed() || f.Shows() == form.ShowNone || f.Shows() == form.ShowPrint {
			continue
		}
		r := f.Rect.Apply(m)
		l := liveField{Field: f, X: r.X0 * px, Y: r.Y0 * px, W: r.W() * px, H: r.H() * px, Size: f.Look.Size * px}
		if l.Size == 0 {
			if l.Size = math.Min(12*px, (r.H()-1)*px/1.05); f.Multiline {
				l.Size = 10 * px
			}
		}
		v.Fields = append(v.Fields, l)
	}
	pages, err := s.evidenceOf(ctx, t)
	if err != nil {
		return v, err
	}
	v.Snags = snags.Find(&t, pages, time.Now())
	if alone && v.Problem == "" {
		r, err := rehearsal.Run(t.Fields, t.Pages, look.TextFits, time.Now())
		if err != nil {
			return v, refuse(err)
		}
		v.Report = &r
	}
	return v, nil
}

// evidenceOf reads what is printed on the first pages of a form: as many as are looked through
// without waiting.
func (s *Server) evidenceOf(ctx context.Context, t form.Template) (map[int]*evidence.Page, error) {
	out := map[int]*evidence.Page{}
	for i, p := range t.Pages {
		if i >= manyPages {
			break
		}
		if p.Scan && p.Text == "" {
			continue // nothing is known of it yet
		}
		ev, err := s.pageEvidence(ctx, p)
		if err != nil {
			return nil, err
		}
		out[i+1] = ev
	}
	return out, nil
}

// Control is the control that a recipient fills in.
func (l liveField) Control() template.HTML {
	var w strings.Builder
	name, tip := esc(l.Name), esc(l.Tooltip)
	at := fmt.Sprintf(`data-x="%.1f" data-y="%.1f" data-w="%.1f" data-h="%.1f" data-size="%.1f" data-id="%s" data-role="%s" data-align="%s" title="%s" aria-label="%s"`, l.X, l.Y, l.W, l.H, l.Size, esc(l.ID), esc(l.Role), esc(string(l.Look.Align)), tip, tip)
	off := ""
	if l.ReadOnly {
		off = " readonly"
	}
	long := ""
	if l.MaxLen > 0 {
		long = fmt.Sprintf(` maxlength="%d"`, l.MaxLen)
	}
	switch l.Kind {
	case form.Text:
		switch {
		case l.Multiline:
			put(&w, `<textarea class="live" data-name="`, name, `" placeholder="`, esc(l.Hint), `" `, at, off, long, `></textarea>`)
		case l.FilePath:
			put(&w, `<input type="file" class="live" data-file data-name="`, name, `" `, at, `>`)
		default:
			kind := "text"
			if l.Password {
				kind = "password"
			}
			put(&w, `<input type="`, kind, `" class="live" data-name="`, name, `" data-comb="`, strconv.Itoa(l.Comb), `" placeholder="`, esc(l.Hint), `" autocomplete="off" `, at, off, long, `>`)
		}
	case form.CheckBox, form.Radio:
		put(&w, `<input type="`, map[form.Kind]string{form.CheckBox: "checkbox", form.Radio: "radio"}[l.Kind], `" class="live" name="live-`, name, `" data-name="`, name, `" value="`, esc(onState(l.Field)), `" `, at, map[bool]string{true: " disabled"}[l.ReadOnly], `>`)
	case form.Choice:
		if l.List == form.ComboBox {
			put(&w, `<input class="live" list="list-`, esc(l.ID), `" data-name="`, name, `" placeholder="`, esc(l.Hint), `" `, at, off, `><datalist id="list-`, esc(l.ID), `">`)
			for _, o := range l.Options {
				put(&w, `<option value="`, esc(o.Label), `">`)
			}
			put(&w, `</datalist>`)
			break
		}
		several := map[form.ListStyle]string{form.ListBox: ` size="4"`, form.ManyList: ` size="4" multiple`}[l.List]
		put(&w, `<select class="live" data-name="`, name, `" `, at, several, map[bool]string{true: " disabled"}[l.ReadOnly], `>`)
		if l.List == form.Dropdown {
			put(&w, `<option value=""></option>`)
		}
		for _, o := range l.Options {
			v := o.Export
			if v == "" {
				v = o.Label
			}
			put(&w, `<option value="`, esc(v), `">`, esc(o.Label), `</option>`)
		}
		put(&w, `</select>`)
	case form.Signature:
		put(&w, `<button type="button" class="live sign" data-sign data-name="`, name, `" `, at, `>sign here</button>`)
	case form.Button:
		caption := l.Caption
		if caption == "" {
			caption = l.Name
		}
		steps := l.Sequence()
		if l.Action.Do == form.TakePicture {
			steps = append([]form.Step{{Do: form.TakePicture}}, steps...)
		}
		does, err := json.Marshal(steps)
		if err != nil {
			return ""
		}
		put(&w, `<button type="button" class="live press" data-press="`, esc(string(does)), `" data-name="`, name, `" `, at, `>`, esc(caption), `</button>`)
	}
	return template.HTML(w.String())
}

// rehearsalState is what the form comes to with the answers given so far.
type rehearsalState struct {
	Refused string            `json:"refused,omitempty"` // what the recipient is told
	Raw     map[string]string `json:"raw"`
	Shown   map[string]string `json:"shown"`
	Hidden  []string          `json:"hidden"`
	Must    []string          `json:"must"`
	Missing []string          `json:"missing"`
	Trouble map[string]string `json:"trouble"`
	Pages   map[string]int    `json:"pages"` // of the missing ones
}

// answer gives one answer in a rehearsal, with those that were given before it; the draft is
// not touched.
func (s *Server) answer(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	var answers map[string]string
	if err := json.Unmarshal([]byte(c.FormValue("answers")), &answers); err != nil {
		return refuse(errors.New("the answers cannot be read: load the page again"))
	}
	fields := d.Template.Fields
	in, err := rules.NewSession(fields, time.Now())
	if err != nil {
		return refuse(err)
	}
	if c.FormValue("clear") != "" { // all, these, or all but these
		s := form.Step{Fields: c.FormValue("clear")}
		if s.Fields == "*" {
			s.Fields = ""
		}
		for name := range answers {
			if named := slices.Contains(s.Named(), name); s.Fields == "" || named != (c.FormValue("except") != "") {
				delete(answers, name)
			}
		}
	}
	for range 2 { // an answer may wait for another one that it is held to
		for _, name := range in.Names() {
			if v, ok := answers[name]; ok && name != c.FormValue("name") && !in.Calculated(name) {
				_, _ = in.Set(name, v) // it was accepted once; if the draft refuses it now, it is left out
			}
		}
	}
	out := rehearsalState{Raw: map[string]string{}, Shown: map[string]string{}, Trouble: map[string]string{}, Pages: map[string]int{}, Hidden: []string{}, Must: []string{}}
	if name := c.FormValue("name"); name != "" {
		before := answers[name]
		if _, err := in.Set(name, c.FormValue("value")); err != nil {
			out.Refused = err.Error()
			_, _ = in.Set(name, before)
		}
	}
	for _, name := range in.Names() {
		out.Raw[name], out.Shown[name] = in.Value(name), in.Shown(name)
		if in.Required(name) {
			out.Must = append(out.Must, name)
		}
		if err := in.Trouble(name); err != nil {
			out.Trouble[name] = err.Error()
		}
	}
	out.Missing = append([]string{}, in.Missing()...)
	for _, f := range fields {
		out.Pages[f.Name] = f.Page
		if in.Hidden(f.Name) && !slices.Contains(out.Hidden, f.Name) {
			out.Hidden = append(out.Hidden, f.Name)
		}
	}
	return c.JSON(http.StatusOK, out)
}

// mendSnag mends one snag in one press.
func (s *Server) mendSnag(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	id := d.Document.ID
	pages, err := s.evidenceOf(ctx, d.Template)
	if err != nil {
		return err
	}
	d.Template.Title = d.Document.Title
	_, err = s.store.Change(ctx, id, d.Document.Revision, account(c).ID, "", func(t *form.Template) (form.Edit, error) {
		t.Title = d.Document.Title
		return snags.Mend(t, pages, time.Now(), c.FormValue("snag"))
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return refuse(err)
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/rehearse?page=%s#snags", id, c.FormValue("page")))
}
