package write

import (
	"bytes"
	"maps"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// FDF writes answers as form data (ISO 32000-2, 12.7.8), file naming the form that they belong to. Names with full stops become nested
// fields; buttons says which answers are the states of buttons, and several which are lists, one a line.
func FDF(file string, values map[string]string, buttons, several func(name string) bool) []byte {
	value := func(name string) types.Object {
		switch {
		case buttons(name):
			return object.NameOf(values[name])
		case several(name):
			list := types.Array{}
			for v := range strings.SplitSeq(values[name], "\n") {
				list = append(list, object.Str(v))
			}
			return list
		}
		return object.Str(values[name])
	}
	var fields func(in []*form.Branch) types.Array
	fields = func(in []*form.Branch) types.Array {
		var out types.Array
		for _, k := range in {
			d := types.Dict{"T": object.Str(k.Part)}
			if k.Ends {
				d["V"] = value(k.Name)
			}
			if len(k.Kids) > 0 {
				d["Kids"] = fields(k.Kids)
			}
			out = append(out, d)
		}
		return out
	}
	data := types.Dict{"Fields": fields(form.Branches(slices.Collect(maps.Keys(values))))}
	if file != "" {
		data["F"] = object.Str(file)
	}
	var b bytes.Buffer
	b.WriteString("%FDF-1.2\n%\xe2\xe3\xcf\xd3\n1 0 obj\n" + types.Dict{"FDF": data}.PDFString() +
		"\nendobj\ntrailer\n<< /Root 1 0 R >>\n%%EOF\n")
	return b.Bytes()
}
