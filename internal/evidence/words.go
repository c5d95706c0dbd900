package evidence

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"zealousmargin.example/internal/geom"
)

// words groups glyphs, given in reading order, into words: white space, a jump
// to another line, or a gap wider than a third of the type ends one.
func words(in []glyph) []Word {
	var out []Word
	var cur []glyph
	flush := func() {
		if len(cur) > 0 {
			out = append(out, word(cur))
			cur = nil
		}
	}
	for _, g := range in {
		if unicode.IsSpace(g.r) || g.r == 0 || g.r == 0xFFFE || unicode.IsControl(g.r) {
			flush()
			continue
		}
		if n := len(cur); n > 0 {
			last := cur[n-1]
			tall := math.Max(last.rect.H(), g.rect.H())
			switch { // letters without ascenders are measured as if they were higher
			case isLow(last.r) && isLow(g.r):
				tall *= lowLetters
			case isLow(last.r) && unicode.IsPunct(g.r) || unicode.IsPunct(last.r) && isLow(g.r):
				tall *= lowSigns
			}
			tall = math.Max(tall, 4)
			gap := g.rect.X0 - last.rect.X1
			leader := isLeader(g.r) && isLeader(last.r)
			apart := gap > tall*0.45 && !leader || gap > tall*3 || gap < -tall*3
			if apart || !sameRow(last.rect, g.rect) || isLeader(g.r) != isLeader(last.r) && (run(cur) >= 3 || g.r == '_') {
				flush()
			}
		}
		cur = append(cur, g)
	}
	flush()
	return joinBrackets(out)
}

// isLow tells whether a letter has neither ascender nor descender.
func isLow(r rune) bool {
	return strings.ContainsRune("acemnorsuvwxzıαεικνοπστυωагезикмнопстхчшэюя", r)
}

// joinBrackets makes one word of brackets around a gap: "[ ]" and "( )" are boxes to
// tick.
func joinBrackets(in []Word) []Word {
	out := in[:0:0]
	for i := 0; i < len(in); i++ {
		if i+1 < len(in) {
			a, b := in[i], in[i+1]
			pair := a.Text == "[" && b.Text == "]" || a.Text == "(" && b.Text == ")"
			if gap := b.Rect.X0 - a.Rect.X1; pair && gap > 0 && gap < 2.2*math.Max(a.Size, 6) && math.Abs(a.Rect.Y0-b.Rect.Y0) < 3 {
				out = append(out, Word{Text: a.Text + " " + b.Text, Rect: a.Rect.Union(b.Rect), Base: a.Base, Size: a.Size})
				i++
				continue
			}
		}
		out = append(out, in[i])
	}
	return out
}

func run(cur []glyph) int {
	n := 0
	for i := len(cur) - 1; i >= 0 && isLeader(cur[i].r); i-- {
		n++
	}
	return n
}

// isLeader tells whether a sign is used to draw a line to write on.
func isLeader(r rune) bool { return r == '_' || r == '.' || r == '…' || r == '·' }

func sameRow(a, b geom.Rect) bool {
	if a.H() < 1.5 || b.H() < 1.5 { // dots and strokes sit anywhere in the line
		return math.Abs(a.Y0-b.Y0) < 8
	}
	return a.OverlapY(b) > -1
}

func word(gs []glyph) Word {
	var s strings.Builder
	r := gs[0].rect
	base, seen := 0.0, false
	tall := 0.0
	for _, g := range gs {
		s.WriteRune(g.r)
		r = r.Union(g.rect)
		if !strings.ContainsRune("gjpqyçąęQĄĘ,;_()[]{}|/@$§\"'’‘“”*^°-–—·.…"+descendGreek+descendCyrillic, g.r) && (!seen ||
			g.rect.Y0 < base) {
			base, seen = g.rect.Y0, true
		}
		tall = math.Max(tall, g.rect.H())
	}
	if !seen {
		base = r.Y0
		if strings.ContainsRune("_gjpqy,;()[]", gs[0].r) {
			base = r.Y0 + tall*0.22
		}
		if gs[0].r == '_' {
			base = r.Y1 + 0.5
		}
	}
	// capitals and figures are about 0.7 of the em high, small letters with
	// neither ascender nor descender about half (common practice, no source)
	size := (r.Y1 - base) / 0.7
	if !strings.ContainsFunc(s.String(), isTall) {
		size = (r.Y1 - base) / 0.5
	}
	return Word{Text: s.String(), Rect: r, Base: base, Size: math.Max(4, math.Min(size, 72))}
}

// isTall tells whether a sign is about as high as a capital: by an ascender, or by a mark over it.
func isTall(r rune) bool {
	if unicode.IsUpper(r) || unicode.IsDigit(r) || strings.ContainsRune("bdfhklßtβδζθλξφψбф", r) {
		return true
	}
	marks := norm.NFD.PropertiesString(string(r)).Decomposition()
	return len(marks) > 0 && strings.ContainsAny(string(marks), "\u0300\u0301\u0302\u0303\u0306\u0307\u0308\u030a\u030c")
}

// lines groups words into rows that read on: same baseline, gaps of less than
// one and a half of the type.
func lines(in []Word) []Line {
	ws := slices.Clone(in)
	slices.SortFunc(ws, func(a, b Word) int { return cmp.Or(cmp.Compare(b.Base, a.Base), cmp.Compare(a.Rect.X0, b.Rect.X0)) })
	var rows [][]Word
	for _, w := range ws {
		placed := false
		for i := len(rows) - 1; i >= 0 && i >= len(rows)-6; i-- {
			if math.Abs(rows[i][0].Base-w.Base) <= math.Max(1.2, 0.18*math.Min(rows[i][0].Size, w.Size)) {
				rows[i] = append(rows[i], w)
				placed = true
				break
			}
		}
		if !placed {
			rows = append(rows, []Word{w})
		}
	}
	var out []Line
	for _, row := range rows {
		slices.SortFunc(row, func(a, b Word) int { return cmp.Compare(a.Rect.X0, b.Rect.X0) })
		start := 0
		for i := 1; i <= len(row); i++ {
			if i < len(row) {
				gap := row[i].Rect.X0 - row[i-1].Rect.X1
				if gap <= 1.3*math.Max(row[i].Size, row[i-1].Size) && IsLeader(row[i].Text) == IsLeader(row[i-1].Text) &&
					!IsTick(row[i].Text) && !IsTick(row[i-1].Text) {
					continue
				}
			}
			out = append(out, makeLine(row[start:i]))
			start = i
		}
	}
	slices.SortFunc(out, func(a, b Line) int { return cmp.Or(cmp.Compare(b.Base, a.Base), cmp.Compare(a.Rect.X0, b.Rect.X0)) })
	return out
}

func makeLine(ws []Word) Line {
	l := Line{Words: slices.Clone(ws), Rect: ws[0].Rect, Base: ws[0].Base}
	for _, w := range ws {
		l.Rect = l.Rect.Union(w.Rect)
		l.Size = math.Max(l.Size, w.Size)
	}
	return l
}

// IsLeader tells whether a word is nothing but a line to write on, or to lead
// the eye: underscores, or three dots and more.
func IsLeader(s string) bool {
	if strings.Trim(s, "_") == "" {
		return true
	}
	return len([]rune(s)) >= 3 && strings.Trim(s, ".…·") == ""
}

// IsTick tells whether a word is a printed box or circle to be ticked: U+2610,
// U+25A1, U+25CB and their kin, a box from the private area that symbol fonts
// use, or brackets around nothing.
func IsTick(s string) bool {
	switch s {
	case "☐", "□", "▢", "◻", "⬜", "❏", "❐", "❑", "❒", "○", "◯", "⃞", "\uf0a8", "\uf06f", "\uf071", "\uf072", "\uf0a3", "\uf0a1", "[]",
		"[ ]", "()", "( )":
		return true
	}
	return false
}
