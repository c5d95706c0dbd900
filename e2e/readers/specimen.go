package readers

import (
	"slices"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/write"
)

// The page of the specimen, in points, and its columns and rows.
const (
	width, height = 800.0, 1000.0
	columns       = 5
	pitchX        = 156.0
	pitchY        = 24.0
)

// ground is that of a field whose being seen is looked at.
const ground = "#ffd700"

// Specimen is a form with everything that the application writes; address is where its buttons send. Every field is called as its
// tooltip is, for readers that tell only that.
func Specimen(address string) ([]byte, *form.Template, error) {
	sheet := form.Page{ID: "p1", N: 1, File: "blank", Width: width, Height: height}
	second := sheet
	second.ID = "p2"
	t := &form.Template{Pages: []form.Page{sheet, second}}
	t.Details.Title, t.Details.Language = "Every kind of field", "en"
	place := 0
	next := func() geom.Rect {
		rows := int((height - 40) / pitchY)
		x, y := 16+pitchX*float64(place/rows), height-20-pitchY*float64(place%rows)
		place++
		return geom.R(x, y-16, x+140, y)
	}
	for _, f := range fieldsOf(Properties(address)) {
		f.ID, f.Page, f.Order = form.NewID(), 1, float64(len(t.Fields))
		if f.Kind == "" {
			f.Kind = form.Text
		}
		if f.Tooltip == "" {
			f.Tooltip = f.Name
		}
		f.Rect = next()
		switch {
		case f.Kind == form.CheckBox || f.Kind == form.Radio:
			f.Rect.X1 = f.Rect.X0 + 16
		case f.Multiline || f.List == form.ListBox || f.List == form.ManyList:
			next()
			f.Rect.Y0 -= pitchY
		}
		t.Fields = append(t.Fields, f)
	}
	order(t)
	t.Details.Events = []form.Step{
		{When: form.DocumentOpened, Do: form.RunScript, Script: `var f = this.getField("opened"); if (f) { f.value = "opened"; }`},
	}
	b, laid, err := sheets(t.Pages)
	if err != nil {
		return nil, nil, err
	}
	laid.Fields, laid.Details = t.Fields, t.Details
	out, err := write.Release(b, laid)
	return out, laid, err
}

// Sheets are the pages of the specimen before there is a field on them.
func Sheets() ([]byte, error) {
	sheet := form.Page{ID: "p1", N: 1, File: "blank", Width: width, Height: height}
	second := sheet
	second.ID = "p2"
	b, _, err := sheets([]form.Page{sheet, second})
	return b, err
}

func sheets(pages []form.Page) ([]byte, *form.Template, error) {
	blank, err := write.Blank(width, height)
	if err != nil {
		return nil, nil, err
	}
	return write.Base(&form.Template{Pages: pages}, write.Sources{File: func(string) ([]byte, error) { return blank, nil }})
}

func fieldsOf(rows []Property) []form.Field {
	var out []form.Field
	for _, p := range rows {
		out = append(out, p.Fields...)
	}
	return out
}

// order puts the three fields of the order by hand into the order first, third, second.
func order(t *form.Template) {
	at := func(name string) *form.Field {
		return &t.Fields[slices.IndexFunc(t.Fields, func(f form.Field) bool { return f.Name == name })]
	}
	at("order_2").Order, at("order_3").Order = at("order_3").Order, at("order_2").Order
}
