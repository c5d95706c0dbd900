package read

import (
	"time"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// Signature is one that a file carries (ISO 32000-2, 12.8).
type Signature struct {
	Field string
	By    string    // whom the signature names, or empty
	At    time.Time // when it says that it was made; zero when it does not
	// Certifies tells that it holds the form itself, too: adding or changing fields breaks it, whatever way it is written (12.8.2.2).
	Certifies bool
}

// Words names the signature: by whom and when, as far as it says.
func (s Signature) Words() string {
	out := "the signature in " + s.Field
	if s.Certifies {
		out = "the certifying signature in " + s.Field
	}
	if s.By != "" {
		out += " by " + s.By
	}
	if !s.At.IsZero() {
		out += " of " + s.At.Format("2 January 2006")
	}
	return out
}

// Signatures lists the signatures of a file, in the order of its pages.
func Signatures(b []byte) (_ []Signature, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	return SignaturesOf(f)
}

// SignaturesOf lists the signatures of an open file.
func SignaturesOf(f *object.File) ([]Signature, error) {
	ws, err := WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	var out []Signature
	for _, w := range ws {
		if w.Kind != form.Signature || w.Value == "" {
			continue
		}
		v := SignatureOf(f, w)
		s := Signature{Field: w.Name, By: f.Text(object.Entry(v, "Name")), At: object.ReadDate(f.Text(object.Entry(v, "M")))}
		for _, o := range f.Array(object.Entry(v, "Reference")) {
			s.Certifies = s.Certifies || f.Name(object.Entry(f.Dict(o), "TransformMethod")) == "DocMDP"
		}
		out = append(out, s)
	}
	return out, nil
}

// SignatureOf is the signature dictionary of a widget or of the field above it; nil when it has none.
func SignatureOf(f *object.File, w Widget) types.Dict {
	for _, ref := range w.Refs {
		if v := f.Dict(object.Entry(f.Dict(ref), "V")); v != nil {
			return v
		}
	}
	return nil
}
