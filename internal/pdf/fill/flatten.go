package fill

import (
	"fmt"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

// Strip takes every field out of a PDF: the form dictionary and all widgets. The
// pages stay as they are.
func Strip(src []byte) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	if err := dropFields(f, func(read.Widget) (string, error) { return "", nil }); err != nil {
		return nil, err
	}
	return f.Increment()
}

// dropFields removes the form and its widgets. The function gives the content
// that takes the place of a widget on its page; empty for none.
func dropFields(f *object.File, instead func(read.Widget) (string, error)) error {
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return err
	}
	content := map[int]string{}
	for _, w := range ws {
		if w.Page == 0 {
			continue
		}
		s, err := instead(w)
		if err != nil {
			return err
		}
		content[w.Page-1] += s
	}
	for i, p := range f.Pages {
		annots := f.Array(object.Entry(p.Dict, "Annots"))
		kept := slices.DeleteFunc(slices.Clone(annots), func(o types.Object) bool {
			return f.Name(object.Entry(f.Dict(o), "Subtype")) == "Widget"
		})
		if len(kept) == len(annots) && content[i] == "" {
			continue
		}
		if len(kept) == 0 {
			p.Dict.Delete("Annots")
		} else {
			p.Dict.Update("Annots", kept)
		}
		if content[i] != "" {
			if err := f.AppendContent(p, content[i]); err != nil {
				return err
			}
		}
		f.Touch(p.Ref)
	}
	cat, err := f.Catalog()
	if err != nil {
		return err
	}
	if cat.HasEntry("AcroForm") {
		cat.Delete("AcroForm")
		return f.TouchCatalog()
	}
	return nil
}

// Flatten turns every field into page content: what a printer prints stays, nothing can be filled in any more. Fields that are not
// meant for paper, and hints in fields without an answer, disappear; those that show on paper only are drawn (ISO 32000-2, table 167: what
// is printed has Print set and Hidden not).
func Flatten(src []byte) (_ []byte, err error) {
	defer object.Recovered(&err)
	src, err = withoutHints(src)
	if err != nil {
		return nil, err
	}
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	n := 0
	err = dropFields(f, func(w read.Widget) (string, error) {
		n++
		return onPaper(f, w, fmt.Sprintf("ZmFlat%d", n))
	})
	if err != nil {
		return nil, err
	}
	return f.Increment()
}

// onPaper is the content that shows what a printer prints of a widget; empty when that is nothing.
func onPaper(f *object.File, w read.Widget, name string) (string, error) {
	if w.Annot&object.AnnotHidden != 0 || w.Annot&object.AnnotPrint == 0 {
		return "", nil
	}
	ap := currentAppearance(f, w)
	if ap == nil {
		return "", nil
	}
	return paste(f, w, *ap, name)
}

// withoutHints draws fields anew that have no answer and show a hint instead: those that are named, or all.
func withoutHints(src []byte, only ...string) ([]byte, error) {
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	said, err := read.RulesSaid(f)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	var hinted []read.Widget
	for _, w := range ws {
		if len(only) > 0 && !slices.Contains(only, w.Name) {
			continue
		}
		if said[w.Name].Hint != "" && w.Value == "" && (w.Kind == form.Text || w.Kind == form.Choice) {
			hinted = append(hinted, w)
		}
	}
	if len(hinted) == 0 {
		return src, nil
	}
	b := write.NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	if err := b.SetText(hinted, ""); err != nil {
		return nil, err
	}
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

// currentAppearance is the appearance stream that a widget shows now.
func currentAppearance(f *object.File, w read.Widget) *types.IndirectRef {
	ap := f.Dict(object.Entry(w.Dict, "AP"))
	if ap == nil {
		return nil
	}
	o := object.Entry(ap, "N")
	ref, ok := o.(types.IndirectRef)
	resolved, err := f.Ctx.Dereference(o)
	if err != nil {
		return nil
	}
	if states, isDict := resolved.(types.Dict); isDict {
		ref, ok = object.Entry(states, f.Name(object.Entry(w.Dict, "AS"))).(types.IndirectRef)
	}
	if !ok {
		return nil
	}
	return &ref
}

// paste makes the content that draws an appearance in the place of its widget, by
// the algorithm of ISO 32000-2, 12.5.5, and adds it to the resources of the page.
func paste(f *object.File, w read.Widget, ap types.IndirectRef, name string) (string, error) {
	d := f.Dict(ap)
	box, ok := f.Rect(object.Entry(d, "BBox"))
	if !ok || box.Empty() {
		return "", nil
	}
	m := f.Matrix(object.Entry(d, "Matrix"))
	box = box.Apply(m)
	p := f.Pages[w.Page-1]
	r := w.Rect.Shift(p.Origin.X, p.Origin.Y)
	if box.Empty() || r.Empty() {
		return "", nil
	}
	sx, sy := r.W()/box.W(), r.H()/box.H()
	if err := f.PageXObject(w.Page-1, name, ap); err != nil {
		return "", err
	}
	return fmt.Sprintf("q\n%s 0 0 %s %s %s cm\n%s Do\nQ\n", object.Dec(sx), object.Dec(sy), object.Dec(r.X0-box.X0*sx),
		object.Dec(r.Y0-box.Y0*sy), object.ContentName(name)), nil
}
