package sheets

func hairlines(l *language) *pen {
	p := newPen(419.53, 595.28, "Helvetica", 8.5, l) // A5
	p.SetLineWidth(0.2)
	y := 84.0
	p.text(margin, 56, 14, "B", l.title)
	for i, f := range l.fields {
		if i >= 13 {
			break
		}
		p.text(margin, y, p.size, "", f.label)
		p.onRule(f, 170, y+2, p.w-margin-170)
		y += 23
	}
	p.paragraph(margin, y, p.w-2*margin, 8, 1)
	return p
}

func labelsLeftBoxes(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 9.5, l)
	p.title(l.title)
	y := 94.0
	for i, f := range l.fields {
		p.text(margin, y+12, p.size, "", f.label)
		p.Rect(190, y, p.w-margin-190-float64(i%3)*80, 18, "D")
		p.want(f.truth(), 190, y, p.w-margin-190-float64(i%3)*80, 18)
		y += 28
	}
	p.closing(p.h - 70)
	return p
}

func tickedLines(l *language) *pen {
	p := newPen(a4w, a4h, "Times", 10.5, l)
	p.title(l.title)
	y := 112.0
	for i, f := range l.fields {
		p.text(margin, y, p.size, "", f.label)
		n := []int{8, 14, 20, 6}[i%4]
		w := float64(n) * 14
		p.Line(190, y+3, 190+w, y+3)
		for k := range n + 1 {
			x := 190 + float64(k)*14
			p.Line(x, y+3, x, y-2)
		}
		t := f.truth()
		t.Comb = n
		p.want(t, 190, y+3-14, w, 14)
		y += 27
	}
	p.foot()
	return p
}

func twoColumns(l *language) *pen {
	p := newPen(ltw, lth, "Times", 10, l)
	p.title(l.title)
	half := (p.w - 2*margin - 30) / 2
	p.Line(p.w/2, 84, p.w/2, p.h-120) // parts the columns
	for k := range 2 {
		x, y := margin+float64(k)*(half+30), 100.0
		for i := k; i < len(l.fields); i += 2 {
			f := l.fields[i]
			end := p.text(x, y, p.size, "", f.label+": ")
			p.onRule(f, end+2, y+2, x+half-end-2)
			y += 28
		}
		p.paragraph(x, y, half, 8.5, 1)
	}
	p.closing(p.h - 80)
	return p
}

func dashes(l *language) *pen {
	p := newPen(a4w, a4h, "Helvetica", 10, l)
	p.title(l.title)
	y := 106.0
	for i, f := range l.fields {
		p.text(margin, y, p.size, "", f.label)
		switch i % 3 {
		case 0:
			p.SetDashPattern([]float64{1, 2}, 0)
			p.onRule(f, 190, y+2, 260)
			p.SetDashPattern([]float64{}, 0)
		case 1: // a thin area that is meant for a rule
			p.SetFillColor(40, 40, 40)
			p.Rect(190, y+1.6, 260, 0.7, "F")
			p.want(f.truth(), 190, y+2-13, 260, 13)
		default:
			p.SetDashPattern([]float64{4, 2}, 0)
			p.onRule(f, 190, y+2, 260)
			p.SetDashPattern([]float64{}, 0)
		}
		y += 27
	}
	p.foot()
	return p
}
