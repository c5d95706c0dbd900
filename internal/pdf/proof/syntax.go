package proof

import (
	"bytes"
	"compress/zlib"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf16"

	"golang.org/x/text/encoding/charmap"
)

// A small reader of PDF syntax (ISO 32000-2, 7.2 to 7.5), with no code of the writer in it. It reads
// the newest state of every object, from cross-reference tables and streams alike.

type (
	name   string
	text   []byte // a string, decoded to its bytes
	ref    int    // the number of an object
	array  []any
	dict   map[name]any
	stream struct {
		dict
		raw []byte
	}
	keyword string
)

var errSyntax = errors.New("the written file cannot be read")

// lexer reads objects from bytes.
type lexer struct {
	b  []byte
	at int
}

func white(c byte) bool {
	return c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == '\f' || c == 0
}
func limiter(c byte) bool { return strings.IndexByte("()<>[]{}/%", c) >= 0 }

func (l *lexer) skip() {
	for l.at < len(l.b) {
		switch c := l.b[l.at]; {
		case white(c):
			l.at++
		case c == '%':
			for l.at < len(l.b) && l.b[l.at] != '\n' && l.b[l.at] != '\r' {
				l.at++
			}
		default:
			return
		}
	}
}

// next reads one object or keyword; io.EOF at the end.
func (l *lexer) next() (any, error) {
	l.skip()
	if l.at >= len(l.b) {
		return nil, io.EOF
	}
	c := l.b[l.at]
	switch {
	case c == '/':
		return l.name(), nil
	case c == '(':
		return l.literal()
	case bytes.HasPrefix(l.b[l.at:], []byte("<<")):
		l.at += 2
		return l.dict()
	case c == '<':
		return l.hex()
	case c == '[':
		l.at++
		return l.array()
	case c == ']' || c == '}' || c == '{' || c == ')':
		l.at++
		return keyword(c), nil
	case bytes.HasPrefix(l.b[l.at:], []byte(">>")):
		l.at += 2
		return keyword(">>"), nil
	}
	from := l.at
	for l.at < len(l.b) && !white(l.b[l.at]) && !limiter(l.b[l.at]) {
		l.at++
	}
	if l.at == from {
		return nil, errSyntax
	}
	word := string(l.b[from:l.at])
	switch word {
	case "true":
		return true, nil
	case "false":
		return false, nil
	case "null":
		return nil, nil
	}
	if v, err := strconv.ParseFloat(word, 64); err == nil {
		return v, nil
	}
	return keyword(word), nil
}

// name reads a name; # and two figures stand for a byte, once (7.3.5).
func (l *lexer) name() name {
	l.at++
	var out []byte
	for l.at < len(l.b) && !white(l.b[l.at]) && !limiter(l.b[l.at]) {
		if c := l.b[l.at]; c == '#' && l.at+2 < len(l.b) {
			if v, err := strconv.ParseUint(string(l.b[l.at+1:l.at+3]), 16, 8); err == nil {
				out, l.at = append(out, byte(v)), l.at+3
				continue
			}
		}
		out, l.at = append(out, l.b[l.at]), l.at+1
	}
	return name(out)
}

func (l *lexer) literal() (any, error) {
	l.at++
	var out text
	for depth := 1; l.at < len(l.b); l.at++ {
		switch c := l.b[l.at]; c {
		case '(':
			depth++
			out = append(out, c)
		case ')':
			if depth--; depth == 0 {
				l.at++
				return out, nil
			}
			out = append(out, c)
		case '\\':
			out = l.escape(out)
		case '\r':
			out = append(out, '\n')
			if l.at+1 < len(l.b) && l.b[l.at+1] == '\n' {
				l.at++
			}
		default:
			out = append(out, c)
		}
	}
	return nil, errSyntax
}

// escape reads what stands behind a backslash (7.3.4.2).
func (l *lexer) escape(out text) text {
	l.at++
	if l.at >= len(l.b) {
		return out
	}
	c := l.b[l.at]
	if i := strings.IndexByte("nrtbf", c); i >= 0 {
		return append(out, "\n\r\t\b\f"[i])
	}
	switch {
	case c == '\r' && l.at+1 < len(l.b) && l.b[l.at+1] == '\n':
		l.at++
		return out
	case c == '\n' || c == '\r':
		return out
	case c >= '0' && c <= '7':
		v, n := 0, 0
		for ; n < 3 && l.at+n < len(l.b) && l.b[l.at+n] >= '0' && l.b[l.at+n] <= '7'; n++ {
			v = v*8 + int(l.b[l.at+n]-'0')
		}
		l.at += n - 1
		return append(out, byte(v))
	}
	return append(out, c)
}

func (l *lexer) hex() (any, error) {
	l.at++
	var digits []byte
	for l.at < len(l.b) && l.b[l.at] != '>' {
		if !white(l.b[l.at]) {
			digits = append(digits, l.b[l.at])
		}
		l.at++
	}
	l.at++
	if len(digits)%2 == 1 {
		digits = append(digits, '0')
	}
	out := make(text, len(digits)/2)
	for i := range out {
		v, err := strconv.ParseUint(string(digits[2*i:2*i+2]), 16, 8)
		if err != nil {
			return nil, errSyntax
		}
		out[i] = byte(v)
	}
	return out, nil
}

// values reads objects up to a closing word; references become one.
func (l *lexer) values(end keyword) ([]any, error) {
	var out []any
	for {
		v, err := l.next()
		if err != nil {
			return nil, errSyntax
		}
		switch {
		case v == end:
			return out, nil
		case v == keyword("R") && len(out) >= 2:
			n, ok := out[len(out)-2].(float64)
			if !ok {
				return nil, errSyntax
			}
			out = append(out[:len(out)-2], ref(n))
		default:
			out = append(out, v)
		}
	}
}

func (l *lexer) array() (any, error) {
	v, err := l.values("]")
	return array(v), err
}

func (l *lexer) dict() (any, error) {
	v, err := l.values(">>")
	if err != nil || len(v)%2 == 1 {
		return nil, errSyntax
	}
	d := dict{}
	for i := 0; i < len(v); i += 2 {
		k, ok := v[i].(name)
		if !ok {
			return nil, errSyntax
		}
		d[k] = v[i+1]
	}
	return d, nil
}

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

// decode gives the bytes of a stream, of those filters that a form is written with (7.4).
func (f *file) decode(s stream) ([]byte, error) {
	data := s.raw
	filters, ok := f.resolve(s.dict["Filter"]).(array)
	if !ok && s.dict["Filter"] != nil {
		filters = array{s.dict["Filter"]}
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
		if data, err = io.ReadAll(io.LimitReader(r, 256<<20)); err != nil && len(data) == 0 {
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
