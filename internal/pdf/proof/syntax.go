package proof

import (
	"bytes"
	"errors"
	"io"
	"strconv"
	"strings"
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
