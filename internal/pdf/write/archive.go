package write

import (
	"fmt"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// The name space of what says which PDF/A a file is (ISO 19005-2, 6.6.4).
const archiveID = "http://www.aiim.org/pdfa/ns/id/"

// AsArchive says of a file that it is PDF/A-2u (ISO 19005-2), in an update behind it: by its metadata, with an output intent that says what
// its colours mean, and links that are printed. Whether it is one is for others to tell: proof.Archive does.
func AsArchive(src []byte, d form.Details) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	packet := []byte(f.Text(object.Entry(cat, "Metadata")))
	p, err := partsOf(packet)
	if err != nil {
		packet = newPacket(d)
		if p, err = partsOf(packet); err != nil {
			return nil, err
		}
	}
	says := fmt.Sprintf(`<rdf:Description xmlns:rdf="%s" rdf:about="" xmlns:pdfaid="%s"><pdfaid:part>2</pdfaid:part>`+
		`<pdfaid:conformance>U</pdfaid:conformance></rdf:Description>`, rdf, archiveID)
	meta, err := f.Stream(
		splice(packet, span{p.root, p.root}, says),
		types.Dict{"Type": types.Name("Metadata"), "Subtype": types.Name("XML")},
	)
	if err != nil {
		return nil, err
	}
	cat.Update("Metadata", meta)
	if !cat.HasEntry("OutputIntents") {
		profile, err := f.Stream(sRGB(), types.Dict{"N": types.Integer(3)})
		if err != nil {
			return nil, err
		}
		intent, err := f.Add(types.Dict{
			"Type": types.Name("OutputIntent"), "S": types.Name("GTS_PDFA1"), "DestOutputProfile": profile,
			"OutputConditionIdentifier": object.Str("sRGB IEC61966-2.1"), "Info": object.Str("sRGB IEC61966-2.1"),
		})
		if err != nil {
			return nil, err
		}
		cat.Update("OutputIntents", types.Array{intent})
	}
	if err := f.TouchCatalog(); err != nil {
		return nil, err
	}
	for _, page := range f.Pages {
		for _, o := range f.Array(object.Entry(page.Dict, "Annots")) {
			link := f.Dict(o)
			flags := f.Integer(link["F"])
			if link == nil || f.Name(link["Subtype"]) != "Link" || flags&object.AnnotPrint != 0 {
				continue
			}
			link.Update("F", types.Integer(flags|object.AnnotPrint))
			if ref, ok := o.(types.IndirectRef); ok {
				f.Touch(ref)
			} else {
				f.Touch(page.Ref)
			}
		}
	}
	return f.Increment()
}
