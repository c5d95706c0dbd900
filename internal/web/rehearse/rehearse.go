package rehearse

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/rehearsal"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
)

// rehearseView is the form as a recipient has it: live fields over the page. Nothing that is
// typed into it reaches the draft; the browser keeps it.
type rehearseView struct {
	frame.Shell
	Doc     store.Document
	Stage   string
	Tabs    []frame.Tab
	Page    int
	Thumbs  []frame.Thumb
	Zoom    int
	Picture string
	Width   int
	Height  int
	Fields  []markup.Live
	Roles   []string // of those who fill the form in, when there are several
	Out, In int      // the next zoom steps; 0 at the ends
	Events  string   // what the document does, as JSON
	Problem string   // why the form cannot be filled in
	Snags   []snags.Snag
	As      string          // whom it is seen as: the words that were looked for
	Person  *roster.Person  // who was found by them
	Given   string          // what the office fills in for that person, as JSON
	Refused []string        // what of it the form refuses
	People  []roster.Person // some to choose among
	Sourced bool            // the office fills something in
	Report  *rehearsal.Report
}

func Show(s *frame.Frame, c *echo.Context) error {
	v, err := gather(s, c, false)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "rehearse", "page", v)
}

// RehearseAlone lets the invented people fill the form in.
func RehearseAlone(s *frame.Frame, c *echo.Context) error {
	v, err := gather(s, c, true)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "rehearse", "page", v)
}

func gather(s *frame.Frame, c *echo.Context, alone bool) (rehearseView, error) {
	id, err := frame.IdOf(c)
	if err != nil {
		return rehearseView{}, err
	}
	ctx := c.Request().Context()
	d, err := s.Store.Draft(ctx, id)
	if err != nil {
		return rehearseView{}, err
	}
	t := d.Template
	n := min(max(1, frame.Number(c.FormValue("page"), 1)), len(t.Pages))
	p := t.Pages[n-1]
	v := rehearseView{
		Shell: s.Shell(c, "Rehearse: "+d.Document.Title, "bench"), Doc: d.Document, Stage: "rehearse",
		Tabs: frame.Tabs("rehearse", d.Document.Doubtful), Page: n, Zoom: frame.Zoom(frame.Number(c.FormValue("zoom"), 75)),
	}
	v.Out, v.In = frame.ZoomSteps(v.Zoom)
	does, err := json.Marshal(append([]form.Step{}, t.Details.Events...))
	if err != nil {
		return v, err
	}
	v.Events = string(does)
	px := float64(v.Zoom) / 100 * 96 / 72
	w, h := p.ViewSize()
	v.Width, v.Height = int(math.Round(w*px)), int(math.Round(h*px))
	v.Picture = frame.PictureURL(p, min(v.Width, frame.MaxPicture))
	for i, pg := range t.Pages {
		w, h := frame.ViewSize(pg)
		v.Thumbs = append(v.Thumbs, frame.Thumb{
			N: i + 1, W: 54, H: int(54 * h / w), On: i+1 == n, Count: t.CountOn(i + 1),
			Picture: frame.PictureURL(pg, 108),
		})
	}
	if _, err := rules.NewSession(t.Fields, time.Now()); err != nil {
		v.Problem = frame.Sentence(err.Error())
	}
	v.Roles = t.RoleOrder()
	m := geom.ToView(p.Width, p.Height, p.Rotate)
	for _, f := range t.OnPage(n) {
		if !f.Placed() {
			continue
		}
		r := f.Rect.Apply(m)
		l := markup.Live{Field: &f, X: r.X0 * px, Y: r.Y0 * px, W: r.W() * px, H: r.H() * px, Size: f.Look.Size * px, Scale: px}
		if l.Size == 0 {
			if l.Size = math.Min(12*px, (r.H()-1)*px/1.05); f.Multiline {
				l.Size = 10 * px
			}
		}
		v.Fields = append(v.Fields, l)
	}
	pages, err := s.EvidenceOf(ctx, t)
	if err != nil {
		return v, err
	}
	v.Snags = snags.Find(&t, pages, time.Now())
	if err := v.seenAs(ctx, s, &t, strings.TrimSpace(c.FormValue("as"))); err != nil {
		return v, err
	}
	if alone && v.Problem == "" {
		built := func(n int, on []form.Field) []string { return snags.Read(&t, pages, n, on) }
		r, err := rehearsal.Run(t.Fields, t.Pages, look.TextFits, built, time.Now())
		if err != nil {
			return v, frame.Refuse(err)
		}
		v.Report = &r
	}
	return v, nil
}

// mostOffered is how many people are offered to be seen as.
const mostOffered = 200

// seenAs fills in what the office fills in for a person.
func (v *rehearseView) seenAs(ctx context.Context, s *frame.Frame, t *form.Template, words string) error {
	v.Sourced = slices.ContainsFunc(t.Fields, func(f form.Field) bool { return f.Placed() && f.Source != form.NoSource })
	if !v.Sourced {
		return nil
	}
	var err error
	if v.People, _, err = s.Store.RosterPeople(ctx, "", 0, mostOffered); err != nil || words == "" {
		return err
	}
	v.As = words
	found, _, err := s.Store.RosterPeople(ctx, words, 0, 1)
	if err != nil || len(found) == 0 {
		return err
	}
	v.Person = &found[0]
	values, _ := roster.Values(t, found[0], roster.With{Today: time.Now(), Edition: 1, Serial: 1})
	in, err := rules.NewSession(t.Fields, time.Now())
	if err != nil {
		return nil // which the page says
	}
	refused := in.SetAll(values)
	for _, name := range slices.Sorted(maps.Keys(refused)) {
		v.Refused = append(v.Refused, name+": “"+values[name]+"”: "+refused[name].Error())
		delete(values, name)
	}
	b, err := json.Marshal(values)
	v.Given = string(b)
	return err
}

// Answer gives one answer in a rehearsal, with those that were given before it; the draft is not
// touched.
func Answer(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	a := rehearsal.Answer{
		Name: c.FormValue("name"), Value: c.FormValue("value"), Clear: c.FormValue("clear"),
		Except: c.FormValue("except") != "",
	}
	if err := json.Unmarshal([]byte(c.FormValue("answers")), &a.Given); err != nil {
		return frame.Refuse(errors.New("the answers cannot be read: load the page again"))
	}
	out, err := a.Follow(d.Template.Fields, time.Now())
	if err != nil {
		return frame.Refuse(err)
	}
	return c.JSON(http.StatusOK, out)
}

// MendSnag mends one snag in one press.
func MendSnag(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	id := d.Document.ID
	_, err = s.CarryOut(ctx, id, d.Document.Revision, frame.Account(c).ID, "", true, func(t *form.Template) ([]command.Command, error) {
		t.Title = d.Document.Title
		return []command.Command{command.Mend{Snag: c.FormValue("snag")}}, nil
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	if c.FormValue("back") == "release" { // where it was pressed
		return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/release#snags", id))
	}
	return c.Redirect(http.StatusSeeOther, fmt.Sprintf("/documents/%d/rehearse?page=%s#snags", id, c.FormValue("page")))
}
