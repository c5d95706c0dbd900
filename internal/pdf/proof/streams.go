package proof

import (
	"bytes"
	"compress/zlib"
	"errors"
	"fmt"
	"io"
)

// decode gives the bytes of a stream, of those filters that a form is written with (7.4).
func (f *file) decode(s stream) ([]byte, error) {
	data := s.raw
	filters, ok := f.resolve(s.dict["Filter"]).(array)
	if !ok && s.dict["Filter"] != nil {
		filters = array{s.dict["Filter"]}
	}
	if len(filters) == 0 && s.dict["Type"] == name("Metadata") && bytes.HasPrefix(data, []byte("x")) {
		// PDFium drops the filter of the metadata of a locked file, and leaves it packed; XMP itself begins with "<" (ISO 16684-1, 7.3).
		filters = array{name("FlateDecode")}
	}
	parms, ok := f.resolve(s.dict["DecodeParms"]).(array)
	if !ok {
		parms = array{s.dict["DecodeParms"]}
	}
	for i, filter := range filters {
		if f.resolve(filter) != name("FlateDecode") {
			return nil, fmt.Errorf("a stream has the filter %v", filter)
		}
		r, err := zlib.NewReader(bytes.NewReader(data))
		if err != nil {
			return nil, err
		}
		if data, err = io.ReadAll(io.LimitReader(r, 48<<20)); err != nil && len(data) == 0 {
			return nil, err
		}
		if i < len(parms) {
			if data, err = unpredict(data, f.dict(parms[i])); err != nil {
				return nil, err
			}
		}
	}
	return data, nil
}

// unpredict takes back the PNG predictors (7.4.4.4).
func unpredict(data []byte, p dict) ([]byte, error) {
	kind, _ := p["Predictor"].(float64)
	if kind < 2 {
		return data, nil
	}
	if kind < 10 {
		return nil, errors.New("a stream has the TIFF predictor")
	}
	number := func(k name, otherwise int) int {
		if v, ok := p[k].(float64); ok {
			return int(v)
		}
		return otherwise
	}
	pixel := max(1, number("Colors", 1)*number("BitsPerComponent", 8)/8)
	width := (number("Columns", 1)*number("Colors", 1)*number("BitsPerComponent", 8) + 7) / 8
	above := make([]byte, width)
	var out []byte
	for len(data) > width {
		how, row := data[0], bytes.Clone(data[1:width+1])
		data = data[width+1:]
		for i := range row {
			var left, corner byte
			if i >= pixel {
				left, corner = row[i-pixel], above[i-pixel]
			}
			switch how {
			case 1:
				row[i] += left
			case 2:
				row[i] += above[i]
			case 3:
				row[i] += byte((int(left) + int(above[i])) / 2)
			case 4:
				row[i] += paeth(left, above[i], corner)
			}
		}
		out, above = append(out, row...), row
	}
	return out, nil
}

func paeth(a, b, c byte) byte {
	p := int(a) + int(b) - int(c)
	away := func(v byte) int { return max(p-int(v), int(v)-p) }
	switch {
	case away(a) <= away(b) && away(a) <= away(c):
		return a
	case away(b) <= away(c):
		return b
	}
	return c
}
