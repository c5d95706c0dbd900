package read

import (
	"fmt"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// Odd is a field of a file that is not quite as a draft can have it: it is released as it came.
type Odd struct {
	Name   string
	Page   int // from 1; 0 is no page
	Kind   form.Kind
	Object int    // of the widget, as [form.Origin] has it
	Why    string // in words
	Row    bool   // it is a row of the draft all the same
}

// Odds lists the fields of a file that no row can be, with the reason, and those that reach off their page.
func Odds(b []byte) (_ []Odd, err error) {
	defer object.Recovered(&err)
	f, ws, err := parsed(b)
	if err != nil {
		return nil, err
	}
	var out []Odd
	for _, w := range ws {
		o := Odd{Name: w.Name, Page: w.Page, Kind: w.Kind}
		if len(w.Refs) > 0 {
			o.Object = w.Refs[0].ObjectNumber.Value()
		}
		_, o.Row = arrives(f, w)
		if o.Why = oddly(f, w); o.Row && !reachesOff(f, w) {
			continue
		}
		out = append(out, o)
	}
	return out, nil
}

// oddly tells what is odd about a widget.
func oddly(f *object.File, w Widget) string {
	switch {
	case w.Page == 0:
		return "it stands on no page"
	case w.Rect.W() == 0 || w.Rect.H() == 0:
		return "it has no size: it shows nowhere"
	case !pageOf(f, w).Overlaps(w.Rect):
		return "it stands off the page"
	case reachesOff(f, w):
		return "it reaches off the page: it shows at the edge"
	case w.Rect.W() < form.MinSide || w.Rect.H() < form.MinSide:
		return fmt.Sprintf("it is smaller than %g points", form.MinSide)
	case w.Name == "":
		return "it has no name"
	case w.MaxLen > 32767:
		return fmt.Sprintf("it takes %d signs", w.MaxLen)
	case len(w.Name) > 127:
		return fmt.Sprintf("its name has %d bytes", len(w.Name))
	}
	return "it says what a row cannot"
}

// reachesOff tells whether a part of a widget is off its page.
func reachesOff(f *object.File, w Widget) bool {
	return w.Page > 0 && !pageOf(f, w).Covers(w.Rect, 0.5)
}

// pageOf is the area of the page of a widget, from its lower left corner.
func pageOf(f *object.File, w Widget) geom.Rect {
	box := f.Pages[w.Page-1].Box
	return geom.R(0, 0, box.W(), box.H())
}
