package api

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Pages is the whole of a document's fields.
type Pages struct {
	Pages []Page `json:"pages"`
}

// Page is one page with its fields.
type Page struct {
	Page   int     `json:"page"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Fields []Field `json:"fields"`
}

// Field is one field, found or read from a file.
type Field struct {
	Type       form.Kind `json:"type"`
	Rect       geom.Rect `json:"rect"`
	Name       string    `json:"name"`
	Label      string    `json:"label"`
	Group      string    `json:"group"`
	Multiline  bool      `json:"multiline"`
	Comb       int       `json:"comb"`
	Format     string    `json:"format"`
	Confidence float64   `json:"confidence"`
	Export     string    `json:"export,omitempty"` // of a radio button
	// The rest is known of the fields of a file only.
	*Detail
}

// Detail is what inspect adds.
type Detail struct {
	Flags   int           `json:"flags"`
	Value   string        `json:"value"`
	Tooltip string        `json:"tooltip"`
	MaxLen  int           `json:"maxlen"`
	Options []form.Option `json:"options"`
	Actions []string      `json:"actions"`
}

// Detect finds the fields of a document of any kind that can be brought in and lists
// those that would be placed. Pages that are scans are made ready and recognised first,
// where Tesseract is installed; rectangles are on the page as it came.
func Detect(ctx context.Context, name string, b []byte) (Pages, error) {
	r, err := intake.Read(ctx, intake.Source{Name: name, Bytes: b, Look: true}, func(string, int, int) {})
	if err != nil {
		return Pages{}, err
	}
	out := Pages{Pages: []Page{}}
	taken := map[string]bool{}
	for i, came := range r.Pages {
		p := came
		if r.Ready != nil {
			p = r.Ready[i]
		}
		file := r.PDF
		if f := r.Files[p.File]; f != nil {
			file = f
		}
		ev, err := intake.Evidence(ctx, file, p, len(intake.Languages()) > 0)
		if err != nil {
			return Pages{}, err
		}
		page := Page{Page: i + 1, Width: came.Width, Height: came.Height, Fields: []Field{}}
		back := asItCame(came, p)
		groups := map[string]string{} // names of this page's radio groups
		for _, f := range detect.Page(ev) {
			if f.Confidence < form.LikelyFrom {
				continue
			}
			name, group := groups[f.Name], ""
			if f.Kind != form.Radio || name == "" {
				name = form.FreeName(f.Name, taken)
				taken[name] = true
			}
			if f.Kind == form.Radio {
				groups[f.Name], group = name, name
			}
			page.Fields = append(page.Fields, Field{
				Type: f.Kind, Rect: back(f.Rect), Name: name, Label: f.Label, Group: group, Multiline: f.Multiline,
				Comb: f.Comb, Format: f.Format, Confidence: f.Confidence, Export: f.Export,
			})
		}
		out.Pages = append(out.Pages, page)
	}
	return out, nil
}

// asItCame takes rectangles on a page made ready to the page as it came: turned and
// straightened back about their middles, so that they keep their sizes.
func asItCame(came, ready form.Page) func(geom.Rect) geom.Rect {
	if came == ready {
		return func(r geom.Rect) geom.Rect { return r }
	}
	undo, ok := ready.Placing().Inverse()
	if !ok {
		undo = geom.Identity
	}
	// A new picture stands upright; the one that came may lie by the quarters that were noted.
	up, _ := geom.Upright(ready.Width, ready.Height, ready.Rotate)
	quarters := 0
	for q := 1; q <= 3; q++ {
		if strings.Contains(ready.Notes, fmt.Sprintf("turned by %d°", 90*q)) {
			quarters = q
		}
	}
	vw, vh := geom.ViewSize(ready.Width, ready.Height, ready.Rotate)
	_, back := geom.Upright(came.Width, came.Height, 90*quarters)
	cw, ch := geom.ViewSize(came.Width, came.Height, 90*quarters)
	scale := geom.Matrix{cw / vw, 0, 0, ch / vh, 0, 0}
	return func(r geom.Rect) geom.Rect {
		m := undo.Apply(r.Mid())
		r = r.Shift(m.X-r.Mid().X, m.Y-r.Mid().Y)
		return r.Apply(up).Apply(scale).Apply(back).Clamp(came.Rect()).Rounded()
	}
}

// Inspect lists the fields that a PDF has.
func Inspect(ctx context.Context, b []byte) (Pages, error) {
	pages, err := engine.Pages(ctx, b)
	if err != nil {
		return Pages{}, err
	}
	ws, err := read.Widgets(b)
	if err != nil {
		return Pages{}, err
	}
	out := Pages{Pages: []Page{}}
	for i, p := range pages {
		page := Page{Page: i + 1, Width: p.Width, Height: p.Height, Fields: []Field{}}
		for _, w := range ws {
			if w.Page == i+1 {
				page.Fields = append(page.Fields, inspected(w))
			}
		}
		out.Pages = append(out.Pages, page)
	}
	return out, nil
}

func inspected(w read.Widget) Field {
	f := Field{
		Type: w.Kind, Rect: w.Rect, Name: w.Name, Label: w.Tooltip, Multiline: w.Kind == form.Text && w.Flags&object.FlagMultiline != 0,
		Comb: w.Comb(), Format: w.Format(), Confidence: 1,
		Detail: &Detail{Flags: w.Flags, Value: w.Value, Tooltip: w.Tooltip, MaxLen: w.MaxLen, Options: w.Options, Actions: w.Presses},
	}
	if w.Kind == form.Radio {
		f.Group = w.Name
	}
	if f.Options == nil {
		f.Options = []form.Option{}
	}
	if f.Actions == nil {
		f.Actions = []string{}
	}
	for _, k := range []string{"K", "F", "V", "C"} {
		if s := w.Scripts[k]; s != "" {
			f.Actions = append(f.Actions, k+": "+s)
		}
	}
	return f
}

// Template reads a template: {"fields": [{"page": 1, "rect": [...], "type":
// "text", "name": "..."}]}, or the output of detect, inspect or edit. Pages are those of
// the document that it is for. Missing ids and tab orders are filled in.
func Template(b []byte, pages []form.Page) (*form.Template, error) {
	t, err := Draft(b, pages)
	if err == nil && len(t.Fields) == 0 {
		err = fmt.Errorf("the template has no fields: it needs {\"fields\": [...]}")
	}
	return t, err
}

// Draft is [Template] for one that may have no fields yet. Without pages, those that it names are
// its own: {"pages": [{"page": 1, "width": 612, "height": 792}]}.
func Draft(b []byte, pages []form.Page) (*form.Template, error) {
	var in struct {
		Title    string            `json:"title"`
		Pictures map[string][]byte `json:"pictures"`
		Details  form.Details      `json:"details"`
		Fields   []json.RawMessage `json:"fields"`
		Pages    []struct {
			Page   int               `json:"page"`
			Width  float64           `json:"width"`
			Height float64           `json:"height"`
			Rotate int               `json:"rotate"`
			Fields []json.RawMessage `json:"fields"`
		} `json:"pages"`
	}
	if !json.Valid(b) {
		var v any
		return nil, fmt.Errorf("the template is not valid JSON: %w", json.Unmarshal(b, &v))
	}
	if err := strictly(b, &in); err != nil {
		return nil, fmt.Errorf("the template cannot be read: %w", err)
	}
	all, err := rows(in.Fields)
	if err != nil {
		return nil, err
	}
	own := pages == nil
	for i, p := range in.Pages {
		on, err := rows(p.Fields)
		if err != nil {
			return nil, err
		}
		for _, f := range on {
			f.Page = cmp.Or(p.Page, i+1)
			all = append(all, f)
		}
		if own {
			pages = append(pages, form.Page{ID: form.NewID(), Width: p.Width, Height: p.Height, Rotate: p.Rotate})
		}
	}
	if len(pages) == 0 {
		return nil, fmt.Errorf("the template does not say how large its pages are: name the document that it is for")
	}
	t := form.Template{Pages: pages, Details: in.Details}
	for i := range all {
		f := &all[i]
		f.ID = cmp.Or(f.ID, form.NewID())
		f.Page = cmp.Or(f.Page, 1)
		f.Order = cmp.Or(f.Order, float64(i+1))
		if f.Comb > 0 && f.MaxLen == 0 {
			f.MaxLen = f.Comb
		}
		f.Tooltip = cmp.Or(f.Tooltip, f.Label)
	}
	if err := t.Apply(form.Edit{After: all}); err != nil {
		return nil, err
	}
	t.Title, t.Pictures = in.Title, in.Pictures
	return &t, nil
}

// Write writes a draft so that [Draft] and [Template] read it.
func Write(t *form.Template) ([]byte, error) {
	type page struct {
		Page   int     `json:"page"`
		Width  float64 `json:"width"`
		Height float64 `json:"height"`
		Rotate int     `json:"rotate,omitempty"`
	}
	out := struct {
		Title    string            `json:"title,omitempty"`
		Details  form.Details      `json:"details,omitzero"`
		Pages    []page            `json:"pages"`
		Fields   []form.Field      `json:"fields"`
		Pictures map[string][]byte `json:"pictures,omitempty"`
	}{Title: t.Title, Details: t.Details, Fields: t.Fields, Pictures: t.Pictures}
	for i, p := range t.Pages {
		out.Pages = append(out.Pages, page{i + 1, p.Width, p.Height, p.Rotate})
	}
	if out.Fields == nil {
		out.Fields = []form.Field{}
	}
	return json.MarshalIndent(out, "", "  ")
}

// unknownMember is how encoding/json says that something has a member that it knows nothing of.
var unknownMember = regexp.MustCompile(`^json: unknown field "(.*)"$`)

// strictly reads JSON and refuses members that are not known, by name.
func strictly(b []byte, to any) error {
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	err := dec.Decode(to)
	if err == nil {
		return nil
	}
	if m := unknownMember.FindStringSubmatch(err.Error()); m != nil {
		return fmt.Errorf("it has a member %q, which is not known: correct or remove it (docs/template.schema.json has all)", m[1])
	}
	return err
}

// listed are the members that detect and inspect list and that a row of a draft does not have.
var listed = []string{"confidence", "group", "flags", "value", "actions"}

// rows reads fields of a template.
func rows(raw []json.RawMessage) ([]form.Field, error) {
	out := make([]form.Field, len(raw))
	for i, b := range raw {
		var v map[string]json.RawMessage
		if err := json.Unmarshal(b, &v); err != nil {
			return nil, fmt.Errorf("field %d of the template cannot be read: %w", i+1, err)
		}
		name := strings.Trim(string(v["name"]), `"`)
		_, found := v["confidence"] // a listing of detect or inspect: its formats are what the wording hints at
		if words := v["format"]; len(words) > 0 && words[0] == '"' {
			if !found && string(words) != `""` {
				return nil, fmt.Errorf("field %s: its format is the word %s: write an object, such as "+
					`{"kind": "date", "pattern": "dd.mm.yyyy"}`, cmp.Or(name, fmt.Sprint(i+1)), words)
			}
			delete(v, "format")
		}
		if found {
			for _, k := range listed {
				delete(v, k)
			}
		}
		known, err := json.Marshal(v)
		if err != nil {
			return nil, err
		}
		if err := strictly(known, &out[i]); err != nil {
			return nil, fmt.Errorf("field %s: %w", cmp.Or(name, fmt.Sprint(i+1)), err)
		}
	}
	return out, nil
}
