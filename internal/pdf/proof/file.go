package proof

import (
	"bytes"
	"strings"
	"unicode/utf16"

	"golang.org/x/text/encoding/charmap"
)

// place is where an object stands: at an offset, or in an object stream.
type place struct {
	offset   int
	inStream int // the number of the object stream; 0 when it stands by itself
	index    int
	free     bool
}

// file is a PDF file whose objects can be looked up.
type file struct {
	b       []byte
	places  map[int]place
	read    map[int]any
	trailer dict
	streams map[int][]any // the objects of object streams
	// displays are where fields show when scripts show them, by their names, as ISO 21757-1 numbers it; 0 is everywhere.
	displays map[string]int
	programs map[string]*glyphs // of fonts
}

// open reads the cross-reference of a file.
func open(b []byte) (*file, error) {
	f := &file{b: b, places: map[int]place{}, read: map[int]any{}, trailer: dict{}, streams: map[int][]any{}}
	i := bytes.LastIndex(b, []byte("startxref"))
	if i < 0 {
		return nil, errSyntax
	}
	l := lexer{b: b, at: i + len("startxref")}
	v, err := l.next()
	if err != nil {
		return nil, errSyntax
	}
	at, ok := v.(float64)
	head := max(0, bytes.Index(b[:min(len(b), 1024)], []byte("%PDF-"))) // offsets count from the header
	for seen := map[int]bool{}; ok && !seen[int(at)]; {
		seen[int(at)] = true
		d, err := f.section(int(at) + head)
		if err != nil {
			return nil, err
		}
		for k, v := range d {
			if _, had := f.trailer[k]; !had {
				f.trailer[k] = v
			}
		}
		if hybrid, has := d["XRefStm"].(float64); has {
			if _, err := f.section(int(hybrid) + head); err != nil {
				return nil, err
			}
		}
		at, ok = d["Prev"].(float64)
	}
	if head > 0 {
		for n, p := range f.places {
			p.offset += head
			f.places[n] = p
		}
	}
	if f.dict(f.trailer["Root"]) == nil {
		return nil, errSyntax
	}
	return f, nil
}

// section reads one cross-reference section and gives its trailer.
func (f *file) section(at int) (dict, error) {
	if at < 0 || at >= len(f.b) {
		return nil, errSyntax
	}
	l := lexer{b: f.b, at: at}
	v, err := l.next()
	if err != nil {
		return nil, errSyntax
	}
	if v == keyword("xref") {
		return f.table(&l)
	}
	o, _, err := f.object(at)
	s, ok := o.(stream)
	if err != nil || !ok {
		return nil, errSyntax
	}
	return s.dict, f.table15(s)
}

// table reads a cross-reference table (7.5.4) and its trailer.
func (f *file) table(l *lexer) (dict, error) {
	for {
		v, err := l.next()
		if err != nil {
			return nil, errSyntax
		}
		if v == keyword("trailer") {
			d, err := l.next()
			t, ok := d.(dict)
			if err != nil || !ok {
				return nil, errSyntax
			}
			return t, nil
		}
		first, ok := v.(float64)
		count, err := l.next()
		n, isNumber := count.(float64)
		if !ok || err != nil || !isNumber {
			return nil, errSyntax
		}
		for i := range int(n) {
			offset, err1 := l.next()
			_, err2 := l.next()
			kind, err3 := l.next()
			o, ok := offset.(float64)
			if err1 != nil || err2 != nil || err3 != nil || !ok {
				return nil, errSyntax
			}
			f.put(int(first)+i, place{offset: int(o), free: kind != keyword("n")})
		}
	}
}

func (f *file) put(n int, p place) {
	if _, newer := f.places[n]; !newer {
		f.places[n] = p
	}
}

// table15 reads a cross-reference stream (7.5.8).
func (f *file) table15(s stream) error {
	data, err := f.decode(s)
	w, ok := s.dict["W"].(array)
	if err != nil || !ok || len(w) != 3 {
		return errSyntax
	}
	var width [3]int
	total := 0
	for i := range w {
		v, _ := w[i].(float64)
		width[i] = int(v)
		total += int(v)
	}
	index, ok := s.dict["Index"].(array)
	if !ok {
		index = array{0.0, s.dict["Size"]}
	}
	for i := 0; i+1 < len(index); i += 2 {
		first, _ := index[i].(float64)
		count, _ := index[i+1].(float64)
		for n := range int(count) {
			if len(data) < total || total <= 0 {
				return errSyntax
			}
			field := func(k, otherwise int) int {
				if width[k] == 0 {
					return otherwise
				}
				v := 0
				for _, c := range data[:width[k]] {
					v = v<<8 | int(c)
				}
				data = data[width[k]:]
				return v
			}
			kind, a, b := field(0, 1), field(1, 0), field(2, 0)
			switch kind {
			case 0:
				f.put(int(first)+n, place{free: true})
			case 1:
				f.put(int(first)+n, place{offset: a})
			case 2:
				f.put(int(first)+n, place{inStream: a, index: b})
			}
		}
	}
	return nil
}

// object reads the indirect object at an offset.
func (f *file) object(at int) (o any, n int, err error) {
	l := lexer{b: f.b, at: at}
	number, err1 := l.next()
	_, err2 := l.next()
	word, err3 := l.next()
	v, ok := number.(float64)
	if err1 != nil || err2 != nil || err3 != nil || !ok || word != keyword("obj") {
		return nil, 0, errSyntax
	}
	body, err := l.values("endobj")
	if err == nil && len(body) == 1 {
		return body[0], int(v), nil
	}
	// A stream: read its dictionary alone, and then its bytes.
	l = lexer{b: f.b, at: at}
	for range 3 {
		_, _ = l.next()
	}
	head, err := l.next()
	d, isDict := head.(dict)
	if err != nil || !isDict {
		return nil, 0, errSyntax
	}
	l.skip()
	if !bytes.HasPrefix(l.b[l.at:], []byte("stream")) {
		return head, int(v), nil
	}
	l.at += len("stream")
	if l.at < len(l.b) && l.b[l.at] == '\r' {
		l.at++
	}
	if l.at < len(l.b) && l.b[l.at] == '\n' {
		l.at++
	}
	length := -1
	if v, ok := f.resolve(d["Length"]).(float64); ok {
		length = int(v)
	}
	if length < 0 || l.at+length > len(l.b) {
		end := bytes.Index(l.b[l.at:], []byte("endstream"))
		if end < 0 {
			return nil, 0, errSyntax
		}
		length = end
	}
	return stream{d, l.b[l.at : l.at+length]}, int(v), nil
}

// resolve follows references to the object that they stand for.
func (f *file) resolve(o any) any {
	for depth := 0; depth < 32; depth++ {
		n, ok := o.(ref)
		if !ok {
			return o
		}
		v, had := f.read[int(n)]
		if !had {
			v = f.load(int(n))
			f.read[int(n)] = v
		}
		o = v
	}
	return nil
}

func (f *file) load(n int) any {
	p, ok := f.places[n]
	if !ok || p.free {
		return nil
	}
	if p.inStream == 0 {
		o, number, err := f.object(p.offset)
		if err != nil || number != n {
			return nil
		}
		return o
	}
	list, had := f.streams[p.inStream]
	if !had {
		list = f.unpack(p.inStream)
		f.streams[p.inStream] = list
	}
	if p.index >= len(list) {
		return nil
	}
	return list[p.index]
}

// unpack reads the objects of an object stream (7.5.7).
func (f *file) unpack(n int) []any {
	s, ok := f.resolve(ref(n)).(stream)
	if !ok {
		return nil
	}
	data, err := f.decode(s)
	if err != nil {
		return nil
	}
	first, _ := f.resolve(s.dict["First"]).(float64)
	count, _ := f.resolve(s.dict["N"]).(float64)
	head := lexer{b: data}
	var out []any
	for range int(count) {
		_, _ = head.next()
		at, err := head.next()
		v, ok := at.(float64)
		if err != nil || !ok || int(first+v) > len(data) {
			return out
		}
		body := lexer{b: data, at: int(first + v)}
		o, err := body.next()
		if err != nil {
			return out
		}
		out = append(out, o)
	}
	return out
}

func (f *file) dict(o any) dict {
	switch o := f.resolve(o).(type) {
	case dict:
		return o
	case stream:
		return o.dict
	}
	return nil
}

func (f *file) array(o any) array {
	a, _ := f.resolve(o).(array)
	return a
}

func (f *file) number(o any) float64 {
	v, _ := f.resolve(o).(float64)
	return v
}

func (f *file) name(o any) string {
	n, _ := f.resolve(o).(name)
	return string(n)
}

// pdfDoc are the signs of PDFDocEncoding that are not those of Latin-1 (annex D.3), from 0x80 on.
const pdfDoc = "•†‡…—–ƒ⁄‹›−‰„“”‘’‚™ﬁﬂŁŒŠŸŽıłœšž"

// words decodes a text string (7.9.2.2), or the stream that stands in for one.
func (f *file) words(o any) string {
	switch o := f.resolve(o).(type) {
	case text:
		return decodeText(o)
	case stream:
		b, err := f.decode(o)
		if err == nil {
			return decodeText(b)
		}
	}
	return ""
}

func decodeText(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte{0xfe, 0xff}):
		var u []uint16
		for i := 2; i+1 < len(b); i += 2 {
			u = append(u, uint16(b[i])<<8|uint16(b[i+1]))
		}
		return string(utf16.Decode(u))
	case bytes.HasPrefix(b, []byte{0xef, 0xbb, 0xbf}):
		return string(b[3:])
	}
	other := []rune(pdfDoc)
	var out strings.Builder
	for _, c := range b {
		switch i := int(c) - 0x80; {
		case i >= 0 && i < len(other):
			out.WriteRune(other[i])
		case c == 0xa0:
			out.WriteRune('€')
		default:
			out.WriteRune(rune(c))
		}
	}
	return out.String()
}

// winAnsi decodes text that is shown in a font with WinAnsiEncoding (annex D.2).
func winAnsi(b []byte) string {
	s, err := charmap.Windows1252.NewDecoder().Bytes(b)
	if err != nil {
		return string(b)
	}
	return string(s)
}
