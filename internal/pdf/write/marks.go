package write

import (
	"bytes"
	"fmt"
	"math"
	"strconv"

	"zealousmargin.example/internal/geom"
)

// Marked content (ISO 32000-2, 14.6): every piece of text on a page gets a number, by which the structure names it; all else that is
// drawn is said to be an artifact.

// operation is one operator of a content stream with its operands (ISO 32000-2, 7.8.2).
type operation struct {
	from, to int // in the stream
	name     string
	args     [][]byte
}

// operations takes a content stream apart. What cannot be read ends it.
func operations(b []byte) []operation {
	var out []operation
	var args [][]byte
	from := -1
	for i := 0; i < len(b); {
		c := b[i]
		if isWhite(c) {
			i++
			continue
		}
		if c == '%' {
			for i < len(b) && b[i] != '\n' && b[i] != '\r' {
				i++
			}
			continue
		}
		if from < 0 {
			from = i
		}
		end := operandEnd(b, i)
		if end > i {
			args = append(args, b[i:end])
			i = end
			continue
		}
		for end = i; end < len(b) && !isWhite(b[end]) && bytes.IndexByte([]byte("()<>[]{}/%"), b[end]) < 0; end++ {
		}
		if end == i {
			return out
		}
		name := string(b[i:end])
		if name == "BI" { // an image with its data, up to EI between white space (8.9.7)
			at := imageEnd(b, end)
			if at < 0 {
				return out
			}
			end = at
		}
		out = append(out, operation{from, end, name, args})
		args, from, i = nil, -1, end
	}
	return out
}

func isWhite(c byte) bool {
	return c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == '\f' || c == 0
}

// operandEnd is where the operand at i ends; i when there is an operator.
func operandEnd(b []byte, i int) int {
	switch c := b[i]; {
	case c == '(':
		depth := 0
		for ; i < len(b); i++ {
			switch b[i] {
			case '\\':
				i++
			case '(':
				depth++
			case ')':
				if depth--; depth == 0 {
					return i + 1
				}
			}
		}
		return len(b)
	case c == '<' && i+1 < len(b) && b[i+1] == '<', c == '[':
		opens, closes := []byte("<<"), []byte(">>")
		if c == '[' {
			opens, closes = []byte("["), []byte("]")
		}
		i += len(opens)
		for i < len(b) {
			switch {
			case bytes.HasPrefix(b[i:], closes):
				return i + len(closes)
			case isWhite(b[i]):
				i++
			default:
				next := operandEnd(b, i)
				if next == i { // a word, such as true
					next++
				}
				i = next
			}
		}
		return len(b)
	case c == '<':
		if n := bytes.IndexByte(b[i:], '>'); n >= 0 {
			return i + n + 1
		}
		return len(b)
	case c == '/':
		for i++; i < len(b) && !isWhite(b[i]) && bytes.IndexByte([]byte("()<>[]{}/%"), b[i]) < 0; i++ {
		}
		return i
	case c == '+' || c == '-' || c == '.' || c >= '0' && c <= '9':
		for i++; i < len(b) && (b[i] == '.' || b[i] == '-' || b[i] >= '0' && b[i] <= '9'); i++ {
		}
		return i
	}
	return i
}

func imageEnd(b []byte, from int) int {
	id := bytes.Index(b[from:], []byte("ID"))
	if id < 0 {
		return -1
	}
	for i := from + id + 3; i+2 < len(b)+1; i++ {
		if i+2 <= len(b) && b[i] == 'E' && b[i+1] == 'I' && isWhite(b[i-1]) && (i+2 == len(b) || isWhite(b[i+2])) {
			return i + 2
		}
	}
	return -1
}

func (o operation) number(i int) float64 {
	if i >= len(o.args) {
		return 0
	}
	v, _ := strconv.ParseFloat(string(o.args[i]), 64)
	return v
}

// What an XObject is, as far as marking goes.
const (
	xNothing = iota // that matters: an artifact
	xText
	xPicture
)

// numbered is where a number begins, in the space of the page, and what it is set in.
type numbered struct {
	at   geom.Point
	size float64 // in points; 0 is not known
	font string  // its name among the resources

	picture bool
}

// marked is a content stream whose text is numbered.
type marked struct {
	content []byte
	at      []numbered
}

// leader says of a number that it is no text but a line of dots or strokes to write on: an artifact. Its number is not used then.
func (m *marked) leader(n int) {
	tag := fmt.Appendf(nil, "/P <</MCID %d>> BDC\n", n)
	m.content = bytes.Replace(m.content, tag, []byte("/Artifact BMC\n"), 1)
}

// marker numbers text, and pictures that say something. What tells what an XObject is, by its name.
type marker struct {
	out     bytes.Buffer
	at      []numbered
	font    string
	size    float64
	what    func(name string) int
	ctm     geom.Matrix
	stack   []geom.Matrix
	tm, lm  geom.Matrix // of the text and of its line
	leading float64
	open    bool   // a number has begun
	path    bool   // a path has begun
	theirs  []bool // marked content of the file; true is an artifact or has a number already
}

// mark numbers the text of a content stream.
func mark(b []byte, what func(string) int) marked {
	m := marker{what: what, ctm: geom.Matrix{1, 0, 0, 1, 0, 0}}
	last := 0
	for _, o := range operations(b) {
		m.out.Write(b[last:o.from])
		m.operation(o, b[o.from:o.to])
		last = o.to
	}
	m.shut()
	m.endPath()
	m.out.Write(b[last:])
	return marked{m.out.Bytes(), m.at}
}

func (m *marker) skips() bool {
	for _, t := range m.theirs {
		if t {
			return true
		}
	}
	return false
}

// begin begins a number where the text is now.
func (m *marker) begin() {
	if m.open || m.skips() {
		return
	}
	fmt.Fprintf(&m.out, "/P <</MCID %d>> BDC\n", len(m.at))
	to := m.tm.Then(m.ctm)
	m.at = append(m.at, numbered{at: to.Apply(geom.Point{}), size: m.size * to.Scale(), font: m.font})
	m.open = true
}

func (m *marker) shut() {
	if m.open {
		m.out.WriteString("\nEMC\n")
		m.open = false
	}
}

func (m *marker) artifact(raw []byte) {
	if m.skips() {
		m.out.Write(raw)
		return
	}
	m.out.WriteString("/Artifact BMC\n")
	m.out.Write(raw)
	m.out.WriteString("\nEMC\n")
}

// endPath ends a path that is never painted: nothing but operators of paths may stand between its begin and its end, so it has ended before
// anything else comes (ISO 32000-2, 8.2).
func (m *marker) endPath() {
	if m.path {
		m.out.WriteString("\nEMC\n")
		m.path = false
	}
}

// ofPaths are the operators that a path is made, clipped and painted with.
var ofPaths = map[string]bool{
	"m": true, "l": true, "c": true, "v": true, "y": true, "h": true, "re": true, "W": true, "W*": true, "S": true, "s": true, "f": true,
	"F": true, "f*": true, "B": true, "B*": true, "b": true, "b*": true, "n": true,
}

func (m *marker) nextLine(x, y float64) {
	m.shut()
	m.lm = geom.Matrix{1, 0, 0, 1, x, y}.Then(m.lm)
	m.tm = m.lm
}

func (m *marker) operation(o operation, raw []byte) {
	if !ofPaths[o.name] {
		m.endPath()
	}
	switch o.name {
	case "q":
		m.stack = append(m.stack, m.ctm)
	case "Q":
		if n := len(m.stack); n > 0 {
			m.ctm, m.stack = m.stack[n-1], m.stack[:n-1]
		}
	case "cm":
		m.ctm = geom.Matrix{o.number(0), o.number(1), o.number(2), o.number(3), o.number(4), o.number(5)}.Then(m.ctm)
	case "BT":
		m.tm, m.lm = geom.Matrix{1, 0, 0, 1, 0, 0}, geom.Matrix{1, 0, 0, 1, 0, 0}
	case "ET":
		m.shut()
	case "Tf":
		if len(o.args) == 2 {
			m.font, m.size = string(o.args[0]), o.number(1)
		}
	case "TL":
		m.leading = o.number(0)
	case "Td":
		m.nextLine(o.number(0), o.number(1))
	case "TD":
		m.leading = -o.number(1)
		m.nextLine(o.number(0), o.number(1))
	case "T*":
		m.nextLine(0, -m.leading)
	case "Tm":
		m.shut()
		m.lm = geom.Matrix{o.number(0), o.number(1), o.number(2), o.number(3), o.number(4), o.number(5)}
		m.tm = m.lm
	case "Tj", "TJ":
		m.begin()
	case "'", "\"":
		m.nextLine(0, -m.leading)
		m.begin()
	case "BMC", "BDC":
		m.shut()
		tag := ""
		if len(o.args) > 0 {
			tag = string(o.args[0])
		}
		m.theirs = append(m.theirs, tag == "/Artifact" || len(o.args) > 1 && bytes.Contains(o.args[1], []byte("/MCID")))
	case "EMC":
		m.shut()
		if n := len(m.theirs); n > 0 {
			m.theirs = m.theirs[:n-1]
		}
	case "m", "re":
		if !m.path && !m.skips() {
			m.out.WriteString("/Artifact BMC\n")
			m.path = true
		}
	case "S", "s", "f", "F", "f*", "B", "B*", "b", "b*", "n":
		m.out.Write(raw)
		if m.path {
			m.out.WriteString("\nEMC\n")
			m.path = false
		}
		return
	case "sh", "BI":
		m.artifact(raw)
		return
	case "Do":
		if name := ""; len(o.args) == 1 {
			name = string(o.args[0])
			switch what := m.what(name); {
			case m.skips():
			case what == xPicture:
				fmt.Fprintf(&m.out, "/Figure <</MCID %d>> BDC\n", len(m.at))
				m.at = append(m.at, numbered{picture: true, at: m.ctm.Apply(geom.Point{X: 0.5, Y: 0.5})})
				m.out.Write(raw)
				m.out.WriteString("\nEMC\n")
				return
			case what == xText:
				at, size := m.tm, m.size
				m.tm, m.size = geom.Matrix{1, 0, 0, 1, 0, 0}, 0
				m.begin()
				m.tm, m.size = at, size
				m.out.Write(raw)
				m.shut()
				return
			}
		}
		m.artifact(raw)
		return
	}
	m.out.Write(raw)
}

// nearest finds the line in which text begins; -1 is none.
func nearest(at geom.Point, lines []geom.Rect, bases []float64) int {
	best, dist := -1, math.Inf(1)
	for i, r := range lines {
		if at.X < r.X0-4 || at.X > r.X1+1 {
			continue
		}
		if d := math.Abs(at.Y - bases[i]); d < dist && d < math.Max(3, r.H()*0.6) {
			best, dist = i, d
		}
	}
	return best
}
