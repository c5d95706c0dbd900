package write

import (
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Sign says that the form has signatures, and is changed from here on by updates behind them only (ISO 32000-2, table 225).
func (b *Builder) Sign() {
	b.form.Update("SigFlags", types.Integer(object.SigFlagSignaturesExist|object.SigFlagAppendOnly))
}

// Signatures tells which signatures of a draft's files hold after a release, and which end with it: an update behind the signed bytes
// leaves a signature as valid as it was (ISO 32000-2, 12.8.1), pages that are assembled anew do not, and one that certifies the document
// allows no changed form.
func Signatures(t *form.Template, src Sources) (hold, end []read.Signature, err error) {
	seen := map[string]bool{}
	for _, p := range t.Pages {
		if seen[p.File] || p.File == "" {
			continue
		}
		seen[p.File] = true
		b, err := src.File(p.File)
		if err != nil {
			return nil, nil, err
		}
		f, err := object.Parse(b)
		if err != nil {
			return nil, nil, err
		}
		all, err := read.SignaturesOf(f)
		if err != nil {
			return nil, nil, err
		}
		for _, s := range all {
			if whole(f, t) && !s.Certifies {
				hold = append(hold, s)
			} else {
				end = append(end, s)
			}
		}
	}
	return hold, end, nil
}
