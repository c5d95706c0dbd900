package pdfium

import (
	"fmt"

	"github.com/klippa-app/go-pdfium/enums"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"
	"github.com/klippa-app/go-pdfium/structs"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Seen is a widget as PDFium tells it.
type Seen struct {
	Page    int
	Rect    geom.Rect
	Kind    form.Kind
	Name    string
	Tooltip string
	Flags   int
	Maxlen  int
	Scripts map[string]string
}

// ReadBack lists the widgets of the file in the order of the annotations.
func (d *Doc) ReadBack() ([]Seen, error) {
	res, err := d.in.FPDFDOC_InitFormFillEnvironment(&requests.FPDFDOC_InitFormFillEnvironment{
		Document:     d.ref,
		FormFillInfo: quietForm(),
	})
	if err != nil {
		return nil, fmt.Errorf("the form cannot be read back: %w", err)
	}
	defer func() {
		_, _ = d.in.FPDFDOC_ExitFormFillEnvironment(&requests.FPDFDOC_ExitFormFillEnvironment{FormHandle: res.FormHandle})
	}()
	var out []Seen
	for i, p := range d.pages {
		ref := d.page(i)
		n, err := d.in.FPDFPage_GetAnnotCount(&requests.FPDFPage_GetAnnotCount{Page: ref})
		if err != nil {
			return nil, err
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
					return nil, fmt.Errorf("page %d, annotation %d: %w", i+1, k+1, err)
				}
				w.Page = i + 1
				out = append(out, w)
			}
			_, _ = d.in.FPDFPage_CloseAnnot(&requests.FPDFPage_CloseAnnot{Annotation: a.Annotation})
		}
	}
	return out, nil
}

func (d *Doc) seen(h references.FPDF_FORMHANDLE, a references.FPDF_ANNOTATION, p page) (Seen, error) {
	w := Seen{Scripts: map[string]string{}}
	rect, err := d.in.FPDFAnnot_GetRect(&requests.FPDFAnnot_GetRect{Annotation: a})
	if err != nil {
		return w, err
	}
	r := rect.Rect
	w.Rect = geom.R(float64(r.Left), float64(r.Bottom), float64(r.Right), float64(r.Top)).Shift(-p.origin.X, -p.origin.Y).Rounded()
	name, err := d.in.FPDFAnnot_GetFormFieldName(&requests.FPDFAnnot_GetFormFieldName{FormHandle: h, Annotation: a})
	if err != nil { // it is no field to PDFium: one without a name
		return w, nil
	}
	w.Name = name.FormFieldName
	if alt, err := d.in.FPDFAnnot_GetFormFieldAlternateName(&requests.FPDFAnnot_GetFormFieldAlternateName{
		FormHandle: h,
		Annotation: a,
	}); err == nil {
		w.Tooltip = alt.FormFieldAlternateName
	}
	kind, err := d.in.FPDFAnnot_GetFormFieldType(&requests.FPDFAnnot_GetFormFieldType{FormHandle: h, Annotation: a})
	if err != nil {
		return w, err
	}
	w.Kind = kindOfPDFium(kind.FormFieldType)
	flags, err := d.in.FPDFAnnot_GetFormFieldFlags(&requests.FPDFAnnot_GetFormFieldFlags{FormHandle: h, Annotation: a})
	if err != nil {
		return w, err
	}
	w.Flags = int(flags.Flags)
	if n, err := d.in.FPDFAnnot_GetNumberValue(&requests.FPDFAnnot_GetNumberValue{Annotation: a, Key: "MaxLen"}); err == nil {
		w.Maxlen = int(n.Value)
	}
	for trigger, event := range map[string]enums.FPDF_ANNOT_AACTION{
		"K": enums.FPDF_ANNOT_AACTION_KEY_STROKE, "F": enums.FPDF_ANNOT_AACTION_FORMAT,
		"V": enums.FPDF_ANNOT_AACTION_VALIDATE, "C": enums.FPDF_ANNOT_AACTION_CALCULATE,
	} {
		js, err := d.in.FPDFAnnot_GetFormAdditionalActionJavaScript(&requests.FPDFAnnot_GetFormAdditionalActionJavaScript{
			FormHandle: h,
			Annotation: a, Event: event,
		})
		if err == nil && js.FormAdditionalActionJavaScript != "" {
			w.Scripts[trigger] = js.FormAdditionalActionJavaScript
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
