package write

import (
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
)

// AsPDF20 says that a file is one of PDF 2.0, in an update behind it (ISO 32000-2, 7.5.2: the version of the catalog goes before that of
// the header). The entry that asks readers to draw all fields anew is deprecated there, and goes (12.7.3).
func AsPDF20(src []byte) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	cat.Update("Version", types.Name("2.0"))
	if err := f.TouchCatalog(); err != nil {
		return nil, err
	}
	if o := object.Entry(cat, "AcroForm"); o != nil {
		if d := f.Dict(o); d != nil && d.HasEntry("NeedAppearances") {
			d.Delete("NeedAppearances")
			if ref, ok := o.(types.IndirectRef); ok {
				f.Touch(ref)
			}
		}
	}
	return f.Increment()
}
