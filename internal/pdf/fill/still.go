package fill

import (
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
)

// Still flattens a form and takes out what would do something by itself when it is opened or turned over: its scripts, and the actions of
// the document and of its pages. Links stay.
func Still(src []byte) (_ []byte, err error) {
	defer object.Recovered(&err)
	flat, err := Flatten(src)
	if err != nil {
		return nil, err
	}
	f, err := object.Parse(flat)
	if err != nil {
		return nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	cat.Delete("OpenAction")
	cat.Delete("AA")
	if o := object.Entry(cat, "Names"); o != nil {
		if names := f.Dict(o); names.HasEntry("JavaScript") {
			names.Delete("JavaScript")
			if ref, ok := o.(types.IndirectRef); ok {
				f.Touch(ref)
			}
		}
	}
	if err := f.TouchCatalog(); err != nil {
		return nil, err
	}
	for _, p := range f.Pages {
		if p.Dict.HasEntry("AA") {
			p.Dict.Delete("AA")
			f.Touch(p.Ref)
		}
	}
	return f.Increment()
}
