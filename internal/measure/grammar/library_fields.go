package grammar

import (
	"slices"
	"strings"
)

func (s *sheet) fields(b block) {
	shares := s.shares()
	onTint := s.plan.at("mark") == "white on tint"
	for row := range slices.Chunk(b.items, len(shares)) {
		s.room(s.size*5 + s.gap + 8)
		deepest := 1
		if l := s.plan.at("label"); strings.HasPrefix(l, "left") && (l != "left" || s.plan.at("mark") == "ruled rows") {
			for i, it := range row {
				deepest = max(deepest, len(s.lines(it.label+" "+it.hint+s.colon(), s.size, max(0.42*shares[i][1]-5, 20))))
			}
		}
		s.y += float64(deepest-1) * 1.05 * s.size
		top := s.y
		s.stop = 0
		for _, it := range b.items {
			s.stop = max(s.stop, shares[0][0]+min(0.42*shares[0][1], s.width(it.label+s.colon(), "", s.size))+6)
		}
		if onTint {
			s.tint(227, 233, 226, s.x-4, top, s.wide+8, s.rowHeight())
		}
		for i, it := range row {
			s.y = top
			s.field(it, shares[i][0], shares[i][1])
		}
		s.y = top + s.rowHeight()
	}
	s.y += 4
}

func (s *sheet) rowHeight() float64 {
	switch s.plan.at("label") {
	case "above":
		return 2.7*s.size + 5 + s.gap
	case "below":
		return 2.4*s.size + 5 + s.gap
	case "inside":
		return 2.3*s.size + 4
	}
	if s.plan.at("guide") == "small print below" && s.plan.at("mark") != "ruled rows" {
		return 2.5*s.size + 4 + s.gap
	}
	return 1.4*s.size + 5 + s.gap
}

// field draws one with its label, at s.y and below.
func (s *sheet) field(it item, x, w float64) {
	line := s.size*1.3 + 3
	text := it.label
	if it.hint != "" {
		text += " " + it.hint
	}
	text += s.colon()
	if it.unit != "" {
		w -= 3*s.size + 2
		defer func(y float64) { s.say(x+w+3, y, s.size, "", it.unit) }(s.y + s.unitBase(line))
	}
	switch s.plan.at("label") {
	case "above":
		s.say(x, s.y+s.size, s.size, "", text)
		s.mark(it, x, s.y+1.3*s.size, w, line)
	case "below":
		s.mark(it, x, s.y+1, w, line)
		s.say(x, s.y+line+1.1*s.size, 0.78*s.size, "", text)
	case "inside":
		s.inside(it, text, x, w)
	default:
		from := x + s.width(text, "", s.size) + 5
		if l := s.plan.at("label"); l != "left" || s.plan.at("mark") == "ruled rows" {
			from = x + 0.42*w
		}
		words := s.lines(text, s.size, max(0.42*w-5, 20))
		if s.plan.at("label") == "left" && s.plan.at("mark") != "ruled rows" {
			words = []string{text}
			if from > x+0.75*w { // too long for one line
				words, from = s.lines(text, s.size, 0.6*w), x+0.65*w
			}
		}
		for i, l := range words {
			at := x
			if s.plan.at("label") == "left, ragged" {
				at = from - 5 - s.width(l, "", s.size)
			}
			base := s.y + line - 0.3*s.size - 1
			if s.plan.at("mark") == "ruled rows" {
				base = s.y + s.rowHeight() - 0.4*s.size - 2
			}
			s.say(at, base+float64(i-len(words)+1)*s.size*1.05, s.size, "", l)
		}
		if s.plan.at("mark") == "ruled rows" {
			s.pen()
			s.SetDashPattern(map[string][]float64{"dotted": {0.8, 1.8}, "dashed": {4, 3}}[s.ruledStyle()], 0)
			bottom := s.y + s.rowHeight() - 1
			s.Line(s.x, bottom, s.x+s.wide, bottom)
			s.put(it.id, s.stop, bottom-line, x+w-s.stop, line)
			return
		}
		s.mark(it, from, s.y, x+w-from, line)
		if it.below != "" {
			s.say(from, s.y+line+0.8*s.size, 0.7*s.size, "", it.below)
		}
	}
}

func (s *sheet) unitBase(line float64) float64 {
	if s.plan.at("label") == "above" {
		return 1.3*s.size + line - 0.3*s.size
	}
	return line - 0.3*s.size
}

func (p *plan) ruledStyle() string {
	return []string{"solid", "dotted", "dashed"}[len(p.words.locale+p.at("size"))%3]
}

// inside draws a cell with its caption.
func (s *sheet) inside(it item, text string, x, w float64) {
	h := s.rowHeight()
	cap := 0.72 * s.size
	switch m := s.plan.at("mark"); m {
	case "rule", "dotted rule", "dashed rule":
		s.pen()
		s.SetDashPattern(map[string][]float64{"dotted rule": {0.8, 1.8}, "dashed rule": {4, 3}}[m], 0)
		s.Line(x, s.y+h, x+w+14, s.y+h)
		s.SetDashPattern(nil, 0)
		s.Line(x, s.y+h-5, x, s.y+h) // only short ticks part the cells
		s.Line(x+w+14, s.y+h-5, x+w+14, s.y+h)
		x += 1
	default:
		s.frame(m, x, s.y+1, w, h-2)
	}
	s.say(x+2, s.y+cap+2, cap, "", text)
	s.put(it.id, x+1, s.y+cap+4, w-2, h-cap-5)
	s.guide(it, x+3, s.y+h-4)
}

func (s *sheet) guide(it item, x, base float64) {
	if it.guide == "" {
		return
	}
	s.SetTextColor(150, 150, 150)
	s.say(x, base, 0.9*s.size, "", it.guide)
	s.SetTextColor(0, 0, 0)
}

// frame draws the mark of a place that is closed on all sides, or tinted.
func (s *sheet) frame(mark string, x, y, w, h float64) {
	s.pen()
	switch mark {
	case "rounded box":
		s.RoundedRect(x, y, w, h, 4, "1234", "D")
	case "double box":
		s.Rect(x, y, w, h, "D")
		s.Rect(x+2, y+2, w-4, h-4, "D")
	case "bevel", "ridge":
		s.SetLineWidth(1.2)
		s.SetDrawColor(120, 120, 120)
		s.Line(x, y+h, x, y)
		s.Line(x, y, x+w, y)
		s.SetDrawColor(215, 215, 215)
		s.Line(x+w, y, x+w, y+h)
		s.Line(x+w, y+h, x, y+h)
		if mark == "ridge" {
			s.Line(x+1.2, y+h-1.2, x+1.2, y+1.2)
			s.Line(x+1.2, y+1.2, x+w-1.2, y+1.2)
			s.SetDrawColor(120, 120, 120)
			s.Line(x+w-1.2, y+1.2, x+w-1.2, y+h-1.2)
			s.Line(x+w-1.2, y+h-1.2, x+1.2, y+h-1.2)
		}
	case "tint":
		s.tint(230, 236, 243, x, y, w, h)
	case "tint and rule":
		s.tint(238, 241, 244, x, y, w, h)
		s.Line(x, y+h, x+w, y+h)
	case "white on tint":
		s.tint(255, 255, 255, x, y, w, h)
	default:
		s.Rect(x, y, w, h, "D")
	}
}

// mark draws what says: write here, h points high from y down.
func (s *sheet) mark(it item, x, y, w, h float64) {
	if w < 24 {
		w = 24
	}
	switch m := s.plan.at("mark"); m {
	case "rule", "dotted rule", "dashed rule", "ruled rows":
		s.pen()
		s.SetDashPattern(map[string][]float64{"dotted rule": {0.8, 1.8}, "dashed rule": {4, 3}}[m], 0)
		s.Line(x, y+h, x+w, y+h)
		s.SetDashPattern(nil, 0)
	case "typed dots", "underscores":
		c := map[string]string{"typed dots": ".", "underscores": "_"}[m]
		n := int(w / s.width(c, "", s.size))
		end := s.say(x, y+h-0.3*s.size-1, s.size, "", strings.Repeat(c, max(6, n)))
		w = end - x
	default:
		s.frame(m, x, y, w, h)
		s.guide(it, x+3, y+h-0.35*s.size)
	}
	s.put(it.id, x, y, w, h)
}

func (s *sheet) long(it item) {
	line := s.size*1.3 + 5
	s.room(float64(it.lines+2) * line)
	s.y += s.gap + 1.4*s.size
	s.say(s.x, s.y, s.size, "", it.label)
	s.y += 3
	switch m := s.plan.at("mark"); m {
	case "rule", "dotted rule", "dashed rule", "ruled rows", "typed dots", "underscores":
		for range it.lines {
			s.mark(it, s.x, s.y, s.wide, line)
			s.y += line
		}
	default:
		if m == "white on tint" {
			s.tint(227, 233, 226, s.x-4, s.y, s.wide+8, float64(it.lines)*line+8)
		}
		s.frame(m, s.x, s.y+4, s.wide, float64(it.lines)*line)
		s.put(it.id, s.x, s.y+4, s.wide, float64(it.lines)*line)
		s.y += float64(it.lines)*line + 8
	}
}

// comb is a row of cells with a label where the form sets it.
func (s *sheet) comb(it item) {
	side := 1.25*s.size + 4
	x, y := s.x, s.y
	switch l := s.plan.at("label"); l {
	case "above", "inside", "below":
		s.say(x, y+s.size, s.size, "", it.label)
		y += 1.4 * s.size
	default:
		x = s.say(x, y+side-0.3*s.size, s.size, "", it.label+s.colon()) + 6
	}
	from := x
	for g, n := range it.comb {
		if g > 0 {
			switch s.plan.at("comb group") {
			case "gap":
				x += 7
			case "stroke":
				s.say(x+2, y+side-3, s.size, "", "/")
				x += 8
			case "stop":
				s.say(x+2, y+side-3, s.size, "", ".")
				x += 8
			}
		}
		if g > 0 && s.plan.at("comb") == "apart" && s.plan.at("comb group") == "heavy line" {
			x += 3
		}
		begin := x
		x = s.cells(n, x, y, side, g < len(it.comb)-1)
		if it.parts != nil {
			s.put(it.parts[g], begin, y, x-begin, side)
		}
	}
	s.put(it.id, from, y, x-from, side)
	s.y = y + side + 2
}

// cells draws one group of a comb and gives where it ends.
func (s *sheet) cells(n int, x, y, side float64, more bool) float64 {
	s.pen()
	w := float64(n) * side
	kind := s.plan.at("comb")
	switch kind {
	case "typed":
		return s.say(x, y+side-4, s.size, "", "|"+strings.Repeat("__|", n))
	case "apart":
		for i := range n {
			s.Rect(x+float64(i)*(side+3), y, side, side, "D")
		}
		return x + float64(n)*(side+3) - 3
	case "ticks", "tall ticks":
		s.Line(x, y+side, x+w, y+side)
		for i := range n + 1 {
			tall := 5.0
			if kind == "tall ticks" && (i == 0 || i == n) {
				tall = 10
			}
			s.Line(x+float64(i)*side, y+side, x+float64(i)*side, y+side-tall)
		}
	case "dots", "dashed":
		s.SetDashPattern(map[string][]float64{"dots": {0.7, 1.7}, "dashed": {2.5, 2}}[kind], 0)
		s.Rect(x, y, w, side, "D")
		for i := 1; i < n; i++ {
			s.Line(x+float64(i)*side, y, x+float64(i)*side, y+side)
		}
	default:
		for i := range n {
			s.Rect(x+float64(i)*side, y, side, side, "D")
		}
	}
	s.SetDashPattern(nil, 0)
	if more && s.plan.at("comb group") == "heavy line" {
		s.SetLineWidth(2)
		s.Line(x+w, y, x+w, y+side)
	}
	return x + w
}

// box draws a box to tick with its foot on a baseline and gives where it ends.
func (s *sheet) box(id int, x, base float64) float64 {
	side := 0.95 * s.size
	y := base - side + 1
	s.black(0.75)
	w, h := side, side
	switch s.plan.at("tick") {
	case "rounded":
		s.RoundedRect(x, y, side, side, 2, "1234", "D")
	case "circle":
		s.Circle(x+side/2, y+side/2, side/2, "D")
	case "heavy":
		s.SetLineWidth(1.8)
		s.Rect(x, y, side, side, "D")
	case "coloured":
		s.SetDrawColor(176, 58, 46)
		s.Rect(x, y, side, side, "D")
	case "bevel":
		s.SetDrawColor(110, 110, 110)
		s.Line(x, y+side, x, y)
		s.Line(x, y, x+side, y)
		s.SetDrawColor(200, 200, 200)
		s.Line(x+side, y, x+side, y+side)
		s.Line(x, y+side, x+side, y+side)
	case "several shapes":
		s.SetFillColor(200, 200, 200)
		s.Circle(x+side/2, y+side/2, side/2, "F")
		s.SetFillColor(255, 255, 255)
		s.Circle(x+side/2, y+side/2, side/2-1, "FD")
	case "brackets":
		end := s.say(x, base, s.size, "", "[  ]")
		s.put(id, x, base-s.size*0.8, end-x, s.size)
		return end
	case "cell":
		w, h = 1.6*side, 1.25*side
		s.Rect(x, y-0.25*side, w, h, "D")
		y -= 0.25 * side
	default:
		s.Rect(x, y, side, side, "D")
	}
	s.put(id, x, y, w, h)
	return x + w
}

func (s *sheet) ticks(b block) {
	line := 1.5*s.size + 2
	s.room(line * float64(len(b.ticks)+2))
	s.y += s.gap + 4 + s.size
	x := s.x
	place := s.plan.at("tick place")
	if place == "beside the question" {
		x = max(s.say(x, s.y, s.size, "", b.text)+14, s.x+0.45*s.wide)
		need := 0.0
		for _, c := range b.ticks {
			need += s.width(c.text, "", s.size) + 3*s.size + 8
		}
		if x+need > s.x+s.wide {
			s.y, x = s.y+line, s.x
		}
	} else {
		s.say(x, s.y, s.size, "", b.text)
		s.y += line
	}
	stacked := strings.Contains(place, "stacked")
	for _, c := range b.ticks {
		if !stacked && x > s.x && x+s.width(c.text, "", s.size)+3*s.size > s.x+s.wide {
			s.y, x = s.y+line, s.x
		}
		if strings.HasPrefix(place, "after") {
			x = s.box(c.id, s.say(x, s.y, s.size, "", c.text)+4, s.y)
		} else {
			x = s.say(s.box(c.id, x, s.y)+4, s.y, s.size, "", c.text)
		}
		x += 16
		if stacked {
			s.y, x = s.y+line, s.x
		}
	}
	if !stacked {
		s.y += 5
	}
}
