package pdfium

import (
	"github.com/klippa-app/go-pdfium/requests"

	"zealousmargin.example/internal/geom"
)

// Press presses a point of page 1, as a viewer would, and lists the named actions that the form asks for.
func (d *Doc) Press(at geom.Point) (asked []string, err error) {
	info := quietForm()
	info.FFI_ExecuteNamedAction = func(name string) { asked = append(asked, name) }
	env, err := d.in.FPDFDOC_InitFormFillEnvironment(&requests.FPDFDOC_InitFormFillEnvironment{Document: d.ref, FormFillInfo: info})
	if err != nil {
		return nil, err
	}
	page := d.page(0)
	if _, err := d.in.FORM_OnAfterLoadPage(&requests.FORM_OnAfterLoadPage{Page: page, FormHandle: env.FormHandle}); err != nil {
		return nil, err
	}
	// These report an error when an event was merely not consumed.
	_, _ = d.in.FORM_OnMouseMove(&requests.FORM_OnMouseMove{FormHandle: env.FormHandle, Page: page, PageX: at.X, PageY: at.Y})
	_, _ = d.in.FORM_OnLButtonDown(&requests.FORM_OnLButtonDown{FormHandle: env.FormHandle, Page: page, PageX: at.X, PageY: at.Y})
	_, _ = d.in.FORM_OnLButtonUp(&requests.FORM_OnLButtonUp{FormHandle: env.FormHandle, Page: page, PageX: at.X, PageY: at.Y})
	_, err = d.in.FPDFDOC_ExitFormFillEnvironment(&requests.FPDFDOC_ExitFormFillEnvironment{FormHandle: env.FormHandle})
	return asked, err
}
