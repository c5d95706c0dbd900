package grammar

import (
	"fmt"
	"slices"
	"strings"
)

// shares are the widths of the columns of fields.
func (w *word) shares() []float64 {
	switch w.at("columns") {
	case "two by rows":
		return []float64{w.inner / 2, w.inner / 2}
	case "three by rows":
		return []float64{w.inner / 3, w.inner / 3, w.inner / 3}
	case "wide and narrow":
		return []float64{w.inner * 2 / 3, w.inner / 3}
	}
	return []float64{w.inner}
}

func (w *word) label(it item, l look) string {
	s := it.label
	if it.hint != "" {
		s += " " + it.hint
	}
	return w.run(s+w.colon(), l)
}

// borders are the edges that mark the place of a cell.
func (w *word) borders() (edges, tint string) {
	all := func(style string) string {
		return w.edge("top", style) + w.edge("left", style) + w.edge("bottom", style) + w.edge("right", style)
	}
	switch w.at("mark") {
	case "rule":
		return w.edge("bottom", "single"), ""
	case "dotted rule":
		return w.edge("bottom", "dotted"), ""
	case "dashed rule":
		return w.edge("bottom", "dashed"), ""
	case "double box":
		return all("double"), ""
	case "bevel":
		return all("inset"), ""
	case "tint":
		return "", "E6ECF3"
	case "tint and rule":
		return w.edge("bottom", "single"), "EEF1F4"
	case "white on tint":
		return "", "FFFFFF"
	}
	return all("single"), ""
}

// typed is what stands for a blank in running text, and whether the mark is one.
func (w *word) typed(it item, room float64) (string, bool) {
	place := look{place: it.id + 1}
	wide := map[string]float64{"sans": 1, "serif": 1, "typewriter": 1.9, "round": 1, "narrow": 0.9}[w.at("typeface")]
	n := func(em float64) int { return max(8, int(room/(em*wide*w.size))) }
	switch w.at("mark") {
	case "typed dots":
		return w.run(strings.Repeat(".", n(0.33)), place), true
	case "underscores":
		return w.run(strings.Repeat("_", n(0.52)), place), true
	case "leader tab":
		return w.run("\t", place), true
	case "underlined tab":
		place.under = true
		return w.run("\t", place), true
	}
	return "", false
}

// stop is a tab stop at the right end.
func (w *word) stop(at float64) string {
	leader := ""
	if w.at("mark") == "leader tab" {
		leader = ` w:leader="` + []string{"dot", "underscore"}[len(w.at("head"))%2] + `"`
	}
	return fmt.Sprintf(`<w:tabs><w:tab w:val="right"%s w:pos="%d"/></w:tabs>`, leader, twips(at))
}

// fields sets fields in rows of the columns.
func (w *word) fields(b block) {
	gap := gaps[w.at("spacing")]
	shares := w.shares()
	for row := range slices.Chunk(b.items, len(shares)) {
		_, typed := w.typed(row[0], 10)
		switch {
		case w.at("mark") == "ruled rows":
			w.ruled(row)
		case typed:
			w.typedRow(row, shares)
		case w.at("label") == "inside" && w.ground() == "": // else captions stand on the tint
			w.insideRow(row, shares)
		case strings.HasPrefix(w.at("label"), "left"):
			w.leftRow(row, shares)
		default:
			w.stackedRow(row, shares)
		}
		if w.at("label") != "inside" && w.at("mark") != "ruled rows" {
			w.WriteString(para(fmt.Sprintf(`<w:spacing w:before="0" w:after="0" w:line="%d" w:lineRule="exact"/>`, twips(1+gap/2))))
		}
	}
}

// unit is what stands behind a place.
func (w *word) unitOf(it item) string {
	if it.unit == "" {
		return ""
	}
	return w.run(" "+it.unit, look{})
}

func (w *word) typedRow(row []item, shares []float64) {
	cellOf := func(it item, width float64) string {
		room := width - 16
		props := space(1, 1) + w.stop(room-8)
		words := w.label(it, look{})
		if strings.HasPrefix(w.at("label"), "left") {
			left := room - 0.62*w.size*float64(len([]rune(it.label+it.hint))+2)
			if it.unit != "" {
				left -= 4 * w.size
			}
			if left < 30 { // the blank goes to a line of its own
				t, _ := w.typed(it, room*0.8)
				return para(space(1, 0), words) + para(props, t, w.unitOf(it))
			}
			if w.at("mark") == "leader tab" || w.at("mark") == "underlined tab" {
				props = space(1, 1) + w.stop(room-8-3*w.size*float64(len(it.unit))/2)
			}
			t, _ := w.typed(it, left)
			return para(props, words, w.run(" ", look{}), t, w.unitOf(it))
		}
		t, _ := w.typed(it, room*0.8)
		if w.at("label") == "below" {
			return para(props, t) + para(space(0, 1), w.label(it, look{size: 0.78 * w.size}))
		}
		return para(space(1, 0), words) + para(props, t, w.unitOf(it))
	}
	if len(shares) == 1 {
		for _, it := range row {
			w.WriteString(cellOf(it, w.inner+10))
		}
		return
	}
	var cells []box
	for i, it := range row {
		cells = append(cells, box{width: shares[i], body: cellOf(it, shares[i])})
	}
	w.WriteString(w.tableOf(shares, [][]box{cells}, 10))
}

func (w *word) height() float64 { return 1.3*w.size + 3 }

// ground is the tint of the cells around a white place.
func (w *word) ground() string {
	if w.at("mark") == "white on tint" {
		return "E3E9E2"
	}
	return ""
}

func (w *word) guided(it item) string {
	if it.guide == "" {
		return ""
	}
	return para(space(0, 0), w.run(it.guide, look{colour: "999999", size: 0.85 * w.size}))
}

func (w *word) leftRow(row []item, shares []float64) {
	edges, tint := w.borders()
	var widths []float64
	var cells []box
	for i, it := range row {
		l := 0.42 * shares[i]
		if w.at("label") == "left" {
			l = min(0.6*shares[i], 0.66*w.size*float64(len([]rune(it.label+it.hint))+2)+8)
		}
		unit := 0.0
		if it.unit != "" {
			unit = 3.2 * w.size
		}
		align := ""
		if w.at("label") == "left, ragged" {
			align = `<w:jc w:val="right"/>`
		}
		cells = append(cells, box{width: l, tint: w.ground(), body: para(space(1, 0)+align, w.label(it, look{}))},
			box{width: shares[i] - l - unit - 8, edges: edges, tint: tint, place: it.id + 1, body: w.guided(it), height: w.height()})
		widths = append(widths, l, shares[i]-l-unit-8)
		if unit > 0 {
			cells, widths = append(cells, box{width: unit, tint: w.ground(), body: para(space(1, 0), w.unitOf(it))}), append(widths, unit)
		}
		cells, widths = append(cells, box{width: 8, tint: w.ground()}), append(widths, 8)
	}
	w.WriteString(w.tableOf(widths, [][]box{cells}, 10))
}

// stackedRow sets labels above or below the places.
func (w *word) stackedRow(row []item, shares []float64) {
	edges, tint := w.borders()
	var widths []float64
	var places, labels []box
	for i, it := range row {
		size := w.size
		if w.at("label") == "below" {
			size *= 0.78
		}
		places = append(places, box{
			width: shares[i] - 10, edges: edges, tint: tint, place: it.id + 1, body: w.guided(it), height: w.height(),
		}, box{width: 10, tint: w.ground()})
		labels = append(labels, box{width: shares[i] - 10, tint: w.ground(), body: para(space(0, 0), w.label(it, look{size: size}))},
			box{width: 10, tint: w.ground()})
		widths = append(widths, shares[i]-10, 10)
	}
	rows := [][]box{labels, places}
	if w.at("label") == "below" {
		rows = [][]box{places, labels}
	}
	w.WriteString(w.tableOf(widths, rows, 9))
}

// insideRow is a row of cells with captions in them.
func (w *word) insideRow(row []item, shares []float64) {
	edges, tint := w.borders()
	var cells []box
	for i, it := range row {
		props := space(0, 0)
		if w.twin {
			props = fmt.Sprintf(`<w:shd w:val="clear" w:color="auto" w:fill="%s"/>`, fill(colourOf(it.id))) + props
		}
		cells = append(cells, box{
			width: shares[i], edges: edges, tint: tint, height: 2.2 * w.size,
			body: para(space(0, 0), w.label(it, look{size: 0.72 * w.size})) + para(props, w.run(it.guide, look{colour: "999999"})),
		})
	}
	w.WriteString(strings.TrimSuffix(w.tableOf(shares, [][]box{cells}, 10),
		para(`<w:spacing w:before="0" w:after="0" w:line="40" w:lineRule="exact"/>`)) +
		para(`<w:spacing w:before="0" w:after="0" w:line="20" w:lineRule="exact"/>`))
}

// ruled is a row with a line below it and nothing else.
func (w *word) ruled(row []item) {
	style := []string{"single", "dotted", "dashed"}[len(w.words.locale+w.at("size"))%3]
	for _, it := range row {
		l := 0.45 * w.inner
		e := w.edge("bottom", style)
		w.WriteString(strings.TrimSuffix(w.tableOf([]float64{l, w.inner - l}, [][]box{{
			{width: l, edges: e, middle: true, body: para(space(2, 1), w.label(it, look{}))}, {
				width: w.inner - l, edges: e,
				place: it.id + 1,
			},
		}}, w.height()+gaps[w.at("spacing")]), para(`<w:spacing w:before="0" w:after="0" w:line="40" w:lineRule="exact"/>`)) +
			para(`<w:spacing w:before="0" w:after="0" w:line="20" w:lineRule="exact"/>`))
	}
}

// long is room for several lines.
func (w *word) long(it item) {
	edges, tint := w.borders()
	if t, ok := w.typed(it, w.inner-24); ok {
		for range it.lines {
			w.WriteString(para(space(2, 2)+w.stop(w.inner-6), t))
		}
		return
	}
	switch w.at("mark") {
	case "rule", "dotted rule", "dashed rule", "ruled rows":
		style := map[string]string{"dotted rule": "dotted", "dashed rule": "dashed"}[w.at("mark")]
		if style == "" {
			style = "single"
		}
		var rows [][]box
		for range it.lines {
			rows = append(rows, []box{{width: w.inner, edges: w.edge("bottom", style), place: it.id + 1}})
		}
		w.WriteString(w.tableOf([]float64{w.inner}, rows, w.height()+3))
		return
	}
	w.WriteString(w.tableOf([]float64{w.inner}, [][]box{{{width: w.inner, edges: edges, tint: tint, place: it.id + 1}}},
		float64(it.lines)*(w.height()+3)))
}

// combs are rows of small cells, or typed ones.
func (w *word) combs(b block) {
	side := 1.25*w.size + 4
	for _, it := range b.items {
		w.WriteString(para(space(gaps[w.at("spacing")]+2, 0), w.run(it.label+":", look{})))
		if w.at("comb") == "typed" {
			s := "|"
			for _, n := range it.comb {
				s += strings.Repeat("__|", n)
			}
			if len(it.label)%2 == 0 && it.date {
				s = "__.__.____"
			}
			w.WriteString(para(space(0, 2), w.run(s, look{place: it.id + 1})))
			continue
		}
		style := map[string]string{"dashed": "dashed", "dots": "dotted"}[w.at("comb")]
		if style == "" {
			style = "single"
		}
		all := w.edge("top", style) + w.edge("left", style) + w.edge("bottom", style) + w.edge("right", style)
		var row []box
		var widths []float64
		put := func(c box) { row, widths = append(row, c), append(widths, c.width) }
		for g, n := range it.comb {
			place, between := it.id+1, it.id+1
			if it.parts != nil {
				place, between = it.parts[g]+1, 0
			}
			if g > 0 {
				text := map[string]string{"gap": "", "stroke": "/", "stop": "."}
				if s, ok := text[w.at("comb group")]; ok {
					put(box{width: 11, body: para(space(0, 0), w.run(s, look{})), place: between})
				}
			}
			for i := range n {
				e := all
				switch w.at("comb") {
				case "ticks", "tall ticks":
					e = w.edge("bottom", style) + w.edge("left", style) + w.edge("right", style)
				case "apart":
					if i > 0 || g > 0 {
						put(box{width: 4, place: between})
					}
				}
				if w.at("comb group") == "heavy line" && i == n-1 && g < len(it.comb)-1 {
					e += `<w:right w:val="single" w:sz="18" w:space="0" w:color="000000"/>`
				}
				put(box{width: side, edges: e, place: place, height: side + 1})
			}
		}
		w.WriteString(w.tableOf(widths, [][]box{row}, side+1))
	}
}

func (w *word) tick(id int) string {
	switch w.at("tick") {
	case "brackets":
		return w.run("[  ]", look{place: id + 1})
	case "coloured":
		return w.run("☐", look{place: id + 1, colour: "B03A2E", face: "DejaVu Sans"})
	case "heavy":
		return w.run("☐", look{place: id + 1, bold: true, size: 1.3 * w.size, face: "DejaVu Sans"})
	case "glyph":
		return w.run("○", look{place: id + 1, face: "DejaVu Sans"})
	}
	return w.run("☐", look{place: id + 1, face: "DejaVu Sans"})
}

func (w *word) ticks(b block) {
	gap := gaps[w.at("spacing")]
	stacked := strings.Contains(w.at("tick place"), "stacked")
	after := strings.HasPrefix(w.at("tick place"), "after")
	if w.at("tick") == "cell" {
		w.tickCells(b, after)
		return
	}
	one := func(c choice) []string {
		if after {
			return []string{w.run(c.text+" ", look{}), w.tick(c.id)}
		}
		return []string{w.tick(c.id), w.run(" "+c.text, look{})}
	}
	if stacked {
		w.WriteString(para(space(gap+3, 1), w.run(b.text, look{})))
		for _, c := range b.ticks {
			w.WriteString(para(space(0, 1), one(c)...))
		}
		return
	}
	var runs []string
	props := space(gap+3, 2)
	if w.at("tick place") == "beside the question" {
		runs = append(runs, w.run(b.text+"   ", look{}))
	} else {
		w.WriteString(para(space(gap+3, 1), w.run(b.text, look{})))
		props = space(0, 2)
	}
	for _, c := range b.ticks {
		runs = append(runs, one(c)...)
		runs = append(runs, w.run("     ", look{}))
	}
	w.WriteString(para(props, runs...))
}

// tickCells are small cells with a border as boxes to tick, below each other without a gap.
func (w *word) tickCells(b block, after bool) {
	w.WriteString(para(space(gaps[w.at("spacing")]+3, 1), w.run(b.text, look{})))
	all := ""
	for _, side := range []string{"top", "left", "bottom", "right"} {
		all += fmt.Sprintf(`<w:%s w:val="single" w:sz="4" w:space="0" w:color="000000"/>`, side)
	}
	side := 1.3 * w.size
	var rows [][]box
	for _, c := range b.ticks {
		mark := box{width: side * 1.4, edges: all, place: c.id + 1, height: side}
		words := box{width: 0.5 * w.inner, body: para(space(0, 0), w.run(c.text, look{}))}
		if after {
			rows = append(rows, []box{words, mark})
		} else {
			rows = append(rows, []box{mark, words})
		}
	}
	widths := []float64{side * 1.4, 0.5 * w.inner}
	if after {
		slices.Reverse(widths)
	}
	w.WriteString(w.tableOf(widths, rows, side))
}
