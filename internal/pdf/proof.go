package pdf

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"github.com/klippa-app/go-pdfium/enums"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"
	"github.com/klippa-app/go-pdfium/structs"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/rules"
)

// Prove opens a written form again with a reader other than the writer and
// compares what it finds with the draft: every field, its place, kind, name,
// tooltip, flags, length, order, scripts and button action. It also compares
// what must not have changed: the bytes of src, and how each page looks. The
// error lists every difference.
func Prove(src, out []byte, t *form.Template) error { return prove(src, out, t, false) }

// ProveRelease is [Prove] for what [Release] wrote: the file's own fields belong to
// the draft. Of those, it compares what a row can say.
func ProveRelease(src, out []byte, t *form.Template) error { return prove(src, out, t, true) }

func prove(src, out []byte, t *form.Template, whole bool) error {
	if len(out) < len(src) || !bytes.Equal(out[:len(src)], src) {
		return errors.New("the original bytes were changed")
	}
	was, err := Open(src)
	if err != nil {
		return err
	}
	before, err := was.readBack()
	if err == nil {
		err = was.prints(func(n int, img *image.RGBA) { before.pages = append(before.pages, img) })
	}
	was.Close()
	if err != nil {
		return err
	}
	is, err := Open(out)
	if err != nil {
		return fmt.Errorf("the written file does not open: %w", err)
	}
	defer is.Close()
	after, err := is.readBack()
	if err != nil {
		return err
	}
	var wrong []string
	err = is.prints(func(n int, img *image.RGBA) {
		if n > len(before.pages) || !bytes.Equal(before.pages[n-1].Pix, img.Pix) {
			wrong = append(wrong, fmt.Sprintf("page %d does not look as before", n))
		}
	})
	if err != nil {
		return err
	}
	ours := slices.DeleteFunc(after.widgets, func(w seen) bool {
		return whole && w.rect.Empty() || !whole && slices.ContainsFunc(before.widgets, func(o seen) bool { return o.name == w.name })
	})
	compiled, err := rules.CompileForm(t.Placed())
	if err != nil {
		return err
	}
	wrong = append(wrong, compare(t.Placed(), ours, compiled.Fields)...)
	parsed, err := Widgets(out)
	if err != nil {
		return fmt.Errorf("the written file cannot be parsed: %w", err)
	}
	wrong = append(wrong, compareActions(t.Placed(), parsed)...)
	wrong = append(wrong, compareShown(t.Placed(), parsed)...)
	wrong = append(wrong, compareOrder(out, compiled)...)
	if len(wrong) > 0 {
		return errors.New("the written form differs from the draft: " + strings.Join(wrong, "; "))
	}
	return nil
}

type reading struct {
	widgets []seen
	pages   []*image.RGBA
}

// seen is a widget as PDFium tells it.
type seen struct {
	page    int
	rect    geom.Rect
	kind    form.Kind
	name    string
	tooltip string
	flags   int
	maxlen  int
	scripts map[string]string
}

// prints draws every page small, without fields.
func (d *Doc) prints(each func(int, *image.RGBA)) error {
	for n := range d.pages {
		img, err := d.Render(n+1, 0.5)
		if err != nil {
			return err
		}
		each(n+1, img)
	}
	return nil
}

// readBack lists the widgets of the file in the order of the annotations.
func (d *Doc) readBack() (reading, error) {
	res, err := d.in.FPDFDOC_InitFormFillEnvironment(&requests.FPDFDOC_InitFormFillEnvironment{Document: d.ref, FormFillInfo: quietForm()})
	if err != nil {
		return reading{}, fmt.Errorf("the form cannot be read back: %w", err)
	}
	defer func() {
		_, _ = d.in.FPDFDOC_ExitFormFillEnvironment(&requests.FPDFDOC_ExitFormFillEnvironment{FormHandle: res.FormHandle})
	}()
	var out reading
	for i, p := range d.pages {
		ref := d.page(i)
		n, err := d.in.FPDFPage_GetAnnotCount(&requests.FPDFPage_GetAnnotCount{Page: ref})
		if err != nil {
			return reading{}, err
		}
		for k := range n.Count {
			a, err := d.in.FPDFPage_GetAnnot(&requests.FPDFPage_GetAnnot{Page: ref, Index: k})
			if err != nil {
				continue
			}
			sub, err := d.in.FPDFAnnot_GetSubtype(&requests.FPDFAnnot_GetSubtype{Annotation: a.Annotation})
			if err == nil && sub.Subtype == enums.FPDF_ANNOT_SUBTYPE_WIDGET {
				w, err := d.seen(res.FormHandle, a.Annotation, p)
				if err != nil {
					return reading{}, fmt.Errorf("page %d, annotation %d: %w", i+1, k+1, err)
				}
				w.page = i + 1
				out.widgets = append(out.widgets, w)
			}
			_, _ = d.in.FPDFPage_CloseAnnot(&requests.FPDFPage_CloseAnnot{Annotation: a.Annotation})
		}
	}
	return out, nil
}

func (d *Doc) seen(h references.FPDF_FORMHANDLE, a references.FPDF_ANNOTATION, p page) (seen, error) {
	w := seen{scripts: map[string]string{}}
	rect, err := d.in.FPDFAnnot_GetRect(&requests.FPDFAnnot_GetRect{Annotation: a})
	if err != nil {
		return w, err
	}
	r := rect.Rect
	w.rect = geom.R(float64(r.Left), float64(r.Bottom), float64(r.Right), float64(r.Top)).Shift(-p.origin.X, -p.origin.Y).Rounded()
	name, err := d.in.FPDFAnnot_GetFormFieldName(&requests.FPDFAnnot_GetFormFieldName{FormHandle: h, Annotation: a})
	if err != nil {
		return w, err
	}
	w.name = name.FormFieldName
	if alt, err := d.in.FPDFAnnot_GetFormFieldAlternateName(&requests.FPDFAnnot_GetFormFieldAlternateName{FormHandle: h, Annotation: a}); err == nil {
		w.tooltip = alt.FormFieldAlternateName
	}
	kind, err := d.in.FPDFAnnot_GetFormFieldType(&requests.FPDFAnnot_GetFormFieldType{FormHandle: h, Annotation: a})
	if err != nil {
		return w, err
	}
	w.kind = kindOfPDFium(kind.FormFieldType)
	flags, err := d.in.FPDFAnnot_GetFormFieldFlags(&requests.FPDFAnnot_GetFormFieldFlags{FormHandle: h, Annotation: a})
	if err != nil {
		return w, err
	}
	w.flags = int(flags.Flags)
	if n, err := d.in.FPDFAnnot_GetNumberValue(&requests.FPDFAnnot_GetNumberValue{Annotation: a, Key: "MaxLen"}); err == nil {
		w.maxlen = int(n.Value)
	}
	for trigger, event := range map[string]enums.FPDF_ANNOT_AACTION{
		"K": enums.FPDF_ANNOT_AACTION_KEY_STROKE, "F": enums.FPDF_ANNOT_AACTION_FORMAT,
		"V": enums.FPDF_ANNOT_AACTION_VALIDATE, "C": enums.FPDF_ANNOT_AACTION_CALCULATE,
	} {
		js, err := d.in.FPDFAnnot_GetFormAdditionalActionJavaScript(&requests.FPDFAnnot_GetFormAdditionalActionJavaScript{FormHandle: h, Annotation: a, Event: event})
		if err == nil && js.FormAdditionalActionJavaScript != "" {
			w.scripts[trigger] = js.FormAdditionalActionJavaScript
		}
	}
	return w, nil
}

func kindOfPDFium(k enums.FPDF_FORMFIELD_TYPE) form.Kind {
	switch k {
	case enums.FPDF_FORMFIELD_TYPE_PUSHBUTTON:
		return form.Button
	case enums.FPDF_FORMFIELD_TYPE_CHECKBOX:
		return form.CheckBox
	case enums.FPDF_FORMFIELD_TYPE_RADIOBUTTON:
		return form.Radio
	case enums.FPDF_FORMFIELD_TYPE_COMBOBOX, enums.FPDF_FORMFIELD_TYPE_LISTBOX:
		return form.Choice
	case enums.FPDF_FORMFIELD_TYPE_SIGNATURE:
		return form.Signature
	}
	return form.Text
}

// compare holds the widgets of the file, in annotation order, to the draft's
// fields, in tab order.
func compare(want []form.Field, got []seen, compiled map[string]rules.Scripts) []string {
	want = slices.Clone(want)
	slices.SortStableFunc(want, func(a, b form.Field) int { return cmp.Or(cmp.Compare(a.Page, b.Page), cmp.Compare(a.Order, b.Order)) })
	var wrong []string
	say := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	if len(want) != len(got) {
		say("%d fields were written, %d are wanted", len(got), len(want))
		return wrong
	}
	tooltips := map[string]string{}
	for i, x := range want {
		g := got[i]
		if x.Name != g.name || x.Page != g.page {
			say("field %d on page %d is %s, not %s", i+1, g.page, g.name, x.Name)
			continue
		}
		if x.Kind != g.kind {
			say("%s is a %s, not a %s", x.Name, g.kind, x.Kind)
		}
		if !near(x.Rect, g.rect) {
			say("%s lies at %v, not %v", x.Name, g.rect, x.Rect)
		}
		if tooltips[x.Name] == "" { // a radio group has the tooltip of its first button
			tooltips[x.Name] = x.Tooltip
		}
		if tooltips[x.Name] != g.tooltip {
			say("%s has the tooltip %q, not %q", x.Name, g.tooltip, x.Tooltip)
		}
		if x.Origin != nil { // of the rest, what a row can say
			const said = FlagReadOnly | FlagRequired
			if Flags(x)&said != g.flags&said && x.Kind != form.Button {
				say("%s has the flags %b, not %b", x.Name, g.flags, Flags(x))
			}
			for trigger, js := range compiled[x.Name] {
				if g.scripts[trigger] == "" && trigger != "V" {
					say("%s has no %s script, it should be %s", x.Name, trigger, js)
				}
			}
			continue
		}
		if Flags(x) != g.flags {
			say("%s has the flags %b, not %b", x.Name, g.flags, Flags(x))
		}
		if n := cmp.Or(x.Comb, x.MaxLen); x.Kind == form.Text && n != g.maxlen && !x.Linked { // of several widgets PDFium does not tell
			say("%s takes %d signs, not %d", x.Name, g.maxlen, n)
		}
		for trigger, js := range compiled[x.Name] {
			if g.scripts[trigger] != js {
				say("%s has another %s script", x.Name, trigger)
			}
		}
		if len(compiled[x.Name]) == 0 && len(g.scripts) > 0 {
			say("%s has a script that nobody asked for", x.Name)
		}
	}
	return wrong
}

// near tells whether two rectangles are the same within the 0.01 point to which they are written.
func near(a, b geom.Rect) bool {
	return math.Abs(a.X0-b.X0) < 0.02 && math.Abs(a.Y0-b.Y0) < 0.02 && math.Abs(a.X1-b.X1) < 0.02 && math.Abs(a.Y1-b.Y1) < 0.02
}

// compareActions holds the press actions of buttons to the draft. PDFium does not
// tell them, so the written file is parsed afresh.
func compareActions(want []form.Field, got []Widget) []string {
	var wrong []string
	for _, x := range want {
		if x.Kind != form.Button && len(x.Steps) == 0 || x.Origin != nil && x.Action.Do == "" && len(x.Steps) == 0 {
			continue
		}
		i := slices.IndexFunc(got, func(w Widget) bool { return w.Name == x.Name && near(w.Rect, x.Rect) })
		if i < 0 {
			wrong = append(wrong, x.Name+" is missing")
			continue
		}
		asked := pressWords(x)
		if has := strings.Join(got[i].Presses, ", "); has != asked {
			wrong = append(wrong, fmt.Sprintf("%s does %q when pressed, not %q", x.Name, has, asked))
		}
	}
	return wrong
}

// compareShown holds where the widgets of new fields show, and the options that they
// offer, to the draft: of the written file parsed afresh.
func compareShown(want []form.Field, got []Widget) []string {
	var wrong []string
	for _, x := range want {
		if x.Origin != nil {
			continue
		}
		i := slices.IndexFunc(got, func(w Widget) bool { return w.Name == x.Name && w.Page == x.Page && near(w.Rect, x.Rect) })
		if i < 0 {
			wrong = append(wrong, x.Name+" is missing from the file")
			continue
		}
		if annot := annotFlags(x); got[i].Annot != annot {
			wrong = append(wrong, fmt.Sprintf("%s has the annotation flags %b, not %b", x.Name, got[i].Annot, annot))
		}
		if face := x.Face; x.Kind == form.Button {
			if face.Picture = ""; got[i].Face != face || got[i].HasIcon != (x.Face.Picture != "") {
				wrong = append(wrong, x.Name+" has another picture, layout or pressed look")
			}
		}
		if x.Kind == form.Choice && len(got[i].Options) != len(listed(x)) {
			wrong = append(wrong, fmt.Sprintf("%s offers %d options, not %d", x.Name, len(got[i].Options), len(listed(x))))
		}
	}
	return wrong
}

// quietForm is a form environment that shows nothing. Every callback must be set.
func quietForm() structs.FPDF_FORMFILLINFO {
	return structs.FPDF_FORMFILLINFO{
		Release:                func() {},
		FFI_Invalidate:         func(references.FPDF_PAGE, float64, float64, float64, float64) {},
		FFI_OutputSelectedRect: func(references.FPDF_PAGE, float64, float64, float64, float64) {},
		FFI_SetCursor:          func(enums.FXCT) {},
		FFI_SetTimer:           func(int, func(int)) int { return 1 },
		FFI_KillTimer:          func(int) {},
		FFI_GetLocalTime:       func() structs.FPDF_SYSTEMTIME { return structs.FPDF_SYSTEMTIME{} },
		FFI_OnChange:           func() {},
		FFI_GetPage:            func(references.FPDF_DOCUMENT, int) *references.FPDF_PAGE { return nil },
		FFI_GetCurrentPage:     func(references.FPDF_DOCUMENT) *references.FPDF_PAGE { return nil },
		FFI_GetRotation:        func(references.FPDF_PAGE) enums.FPDF_PAGE_ROTATION { return 0 },
		FFI_ExecuteNamedAction: func(string) {},
		FFI_SetTextFieldFocus:  func(string, bool) {},
		FFI_DoURIAction:        func(string) {},
		FFI_DoGoToAction:       func(int, enums.FPDF_ZOOM_MODE, []float32) {},
	}
}
