package write

import (
	"bytes"
	"crypto/md5"
	"fmt"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// What stands above the pages of an assembled file: its catalog and its form.

// catalog copies the base's catalog, with the page tree and the form of the new file.
func (a *assembler) catalog(base *object.File, tree int, forms []*object.File) (types.Dict, error) {
	from, err := base.Catalog()
	if err != nil {
		return nil, err
	}
	cat := types.Dict{}
	for k, v := range from {
		switch {
		case k == "Pages", k == "AcroForm", k == "Perms", k == "DSS", // signatures of the old bytes hold no more
			k == "Metadata" && a.leave[read.LeaveMetadata], k == "PieceInfo" && a.leave[read.LeaveMetadata],
			a.harms(base, k, v, false), k == "AF" && a.leave[read.LeaveAttachments], k == "Collection" && a.leave[read.LeaveAttachments]:
		case k == "Names":
			names := types.Dict{}
			for nk, nv := range base.Dict(v) {
				if nk == "EmbeddedFiles" && a.leave[read.LeaveAttachments] || nk == "JavaScript" && a.leave[read.LeaveActions] {
					continue
				}
				names[nk] = a.copy(base, nv)
			}
			cat[k] = names
		case k == "AA" && a.leave[read.LeaveActions]:
			cat[k] = a.harmless(base, v, false)
		default:
			cat[k] = a.copy(base, v)
		}
	}
	cat["Type"] = types.Name("Catalog")
	cat["Pages"] = *types.NewIndirectRef(tree, 0)
	if acro := a.acroForm(base, forms); acro != nil {
		cat["AcroForm"] = a.add(acro)
	}
	return cat, nil
}

// acroForm joins the forms of the files: the fields that are left, and the
// resources that their appearances name.
func (a *assembler) acroForm(base *object.File, forms []*object.File) types.Dict {
	out := types.Dict{}
	fields, co := types.Array{}, types.Array{}
	fonts := types.Dict{}
	for _, f := range forms {
		cat, err := f.Catalog()
		if err != nil {
			continue
		}
		d := f.Dict(object.Entry(cat, "AcroForm"))
		if d == nil {
			continue
		}
		fields = append(fields, a.onlyKept(f, f.Array(object.Entry(d, "Fields")))...)
		co = append(co, a.onlyKept(f, f.Array(object.Entry(d, "CO")))...)
		for k, v := range f.Dict(object.Entry(f.Dict(object.Entry(d, "DR")), "Font")) {
			if !fonts.HasEntry(k) {
				fonts[k] = a.copy(f, v)
			}
		}
		if f != base {
			continue
		}
		for k, v := range d {
			switch k {
			case "Fields", "CO", "XFA", "SigFlags":
			case "DR":
				dr := types.Dict{}
				for rk, rv := range f.Dict(v) {
					if rk != "Font" {
						dr[rk] = a.copy(f, rv)
					}
				}
				out["DR"] = dr
			default:
				out[k] = a.copy(f, v)
			}
		}
	}
	if len(fields) == 0 {
		return nil
	}
	out["Fields"] = fields
	if len(co) > 0 {
		out["CO"] = co
	}
	dr, _ := out["DR"].(types.Dict)
	if dr == nil {
		dr = types.Dict{}
	}
	dr["Font"] = fonts
	out["DR"] = dr
	return out
}

// bytes writes the file (ISO 32000-2, 7.5).
func (a *assembler) bytes(root int, info types.IndirectRef) []byte {
	var b bytes.Buffer
	version := "1.7"
	for _, f := range a.files {
		if bytes.HasPrefix(f.Src[max(0, bytes.Index(f.Src[:min(1024, len(f.Src))], []byte("%PDF-"))):], []byte("%PDF-2")) {
			version = "2.0"
		}
	}
	fmt.Fprintf(&b, "%%PDF-%s\n%%\xe2\xe3\xcf\xd3\n", version)
	offsets := make([]int, len(a.objects))
	for n := 1; n < len(a.objects); n++ {
		o := a.objects[n]
		if o == nil {
			o = []byte("null")
		}
		offsets[n] = b.Len()
		fmt.Fprintf(&b, "%d 0 obj\n", n)
		b.Write(o)
		b.WriteString("\nendobj\n")
	}
	at := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f\r\n", len(offsets))
	for _, o := range offsets[1:] {
		fmt.Fprintf(&b, "%010d 00000 n\r\n", o)
	}
	id := md5.Sum(b.Bytes()) //nolint:gosec // see above
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root %d 0 R /Info %s /ID [<%x> <%x>] >>\nstartxref\n%d\n%%%%EOF\n", len(offsets), root,
		info.PDFString(), id, id, at)
	return b.Bytes()
}
