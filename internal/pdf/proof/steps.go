package proof

import (
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/look"
)

// pressWords is what [Widget] says of what a press of a written field does.
func pressWords(x form.Field) string {
	var out []string
	if x.Action.Do == form.TakePicture {
		out = append(out, "JavaScript "+look.TakePicture)
	}
	for _, s := range x.Sequence() {
		if s.When != form.WhenPressed {
			continue
		}
		switch s.Do {
		case form.ClearForm:
			out = append(out, "ResetForm")
		case form.PrintForm:
			out = append(out, "Named Print")
		case form.SaveForm:
			out = append(out, "Named SaveAs")
		case form.SubmitForm:
			out = append(out, "SubmitForm "+s.URL)
		case form.OpenLink:
			out = append(out, "URI "+s.URL)
		case form.LockFields, form.FreeFields, form.SetValue, form.RunScript:
			out = append(out, "JavaScript "+look.StepScript(s))
		default:
			out = append(out, map[form.Deed]string{form.GoToPage: "GoTo", form.OpenPDF: "GoToR", form.ShowFields: "Hide", form.HideFields: "Hide", form.BringIn: "ImportData"}[s.Do])
		}
	}
	return strings.Join(out, ", ")
}
