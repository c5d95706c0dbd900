package sheets

import (
	"math"
)

// Empty draws pages on which there is nothing to fill in.
func Empty() ([]Sheet, error) {
	var out []Sheet
	for name, draw := range map[string]func(*pen){
		"paragraphs": func(p *pen) {
			p.title("Rules of the quay")
			y := 84.0
			for range 4 {
				x := p.text(margin, y+14, 12, "B", "Of lines and fenders")
				p.Line(margin, y+16, x, y+16) // an underlined heading
				y = p.paragraph(margin, y+24, p.w-2*margin, 10, 4) + 6
			}
			p.foot()
		},
		"prices": func(p *pen) {
			p.title("Charges 2027")
			p.priceTable(110)
			p.priceTable(220)
			p.paragraph(margin, 320, p.w-2*margin, 10, 3)
			p.foot()
		},
		"chart": func(p *pen) {
			p.title("Free berths by month")
			p.Line(margin, 300, 400, 300)
			p.Line(margin, 120, margin, 300)
			for i := range 12 {
				h := 30 + 120*math.Abs(math.Sin(float64(i)))
				p.SetFillColor(120, 140, 130)
				p.Rect(margin+10+float64(i)*28, 300-h, 18, h, "FD")
				p.text(margin+12+float64(i)*28, 312, 7, "", string("JFMAMJJASOND"[i]))
			}
			for i := range 5 {
				p.Line(margin-4, 300-float64(i)*40, margin, 300-float64(i)*40)
			}
			p.paragraph(margin, 340, p.w-2*margin, 10, 3)
		},
		"plan": func(p *pen) {
			p.title("Plan of the harbour")
			for i := range 14 {
				a := float64(i) * 0.7
				p.Line(120+200*math.Abs(math.Cos(a)), 140+float64(i)*20, 160+240*math.Abs(math.Sin(a)), 150+float64(i)*22)
				p.Circle(140+float64(i)*22, 480, 7, "D")
			}
			for i := range 6 {
				p.Rect(100+float64(i)*60, 520, 44, 22, "D")
				p.text(108+float64(i)*60, 534, 8, "", "quay "+string(rune('A'+i)))
			}
			p.foot()
		},
		"framed-note": func(p *pen) {
			p.Rect(24, 24, p.w-48, p.h-48, "D") // a frame around the page
			p.title("Notice to visitors")
			p.Rect(margin, 90, p.w-2*margin, 120, "D")
			p.paragraph(margin+10, 100, p.w-2*margin-20, 10, 3)
			half := (p.w - 2*margin - 24) / 2
			p.Line(p.w/2, 240, p.w/2, 600)
			p.paragraph(margin, 240, half, 9.5, 6)
			p.paragraph(margin+half+24, 240, half, 9.5, 6)
			x := p.text(margin, 640, 10, "", "See gannet-quay.example/rules")
			p.Line(margin, 641.5, x, 641.5) // an underlined link
		},
		"letter": func(p *pen) {
			for i := range 3 {
				p.Rect(p.w-margin-60+float64(i)*16, 40, 14, 14, "D") // a mark of boxes
			}
			p.text(margin, 60, 14, "B", "Gannet Quay Harbour Office")
			p.SetLineWidth(2)
			p.Line(margin, 70, p.w-margin, 70)
			p.SetLineWidth(0.4)
			p.Line(margin, 73, p.w-margin, 73)
			p.paragraph(margin, 130, p.w-2*margin, 11, 6)
			p.foot()
		},
	} {
		p := newPen(a4w, a4h, "Helvetica", 10, languages["en"])
		draw(p)
		s, err := p.done("empty/" + name)
		if err != nil {
			return nil, err
		}
		s.Empty = true
		s.Truth = nil
		out = append(out, s)
	}
	return out, nil
}
