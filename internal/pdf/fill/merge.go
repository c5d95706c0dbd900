package fill

import (
	"bytes"
	"fmt"
	"io"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"

	"zealousmargin.example/internal/pdf/object"
)

// Merge puts files one after the other into one. Forms should be flattened first: fields of one name would become one field.
func Merge(files [][]byte) (_ []byte, err error) {
	defer object.Recovered(&err)
	in := make([]io.ReadSeeker, len(files))
	for i, b := range files {
		in[i] = bytes.NewReader(b)
	}
	conf := model.NewDefaultConfiguration()
	conf.Offline = true
	var out bytes.Buffer
	if err := api.MergeRaw(in, &out, false, conf); err != nil {
		return nil, fmt.Errorf("the copies could not be put into one file: %w", err)
	}
	return out.Bytes(), nil
}
