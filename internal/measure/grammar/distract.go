package grammar

import (
	"fmt"
	"strings"
)

// distract writes what is on forms and is no field, and what fills pages without any.
func (p *page) distract(kind string) {
	w := p.words
	switch kind {
	case "letterhead":
		p.put(`<div style="display:flex;justify-content:space-between;border-bottom:1pt solid #456;margin-bottom:8pt;padding-bottom:3pt">` +
			`<b>Gannet Quay</b><span class="cap">1 Slip Lane · gannetquay.example</span></div>`)
	case "page frame":
		p.put(`<div style="height:4pt;border-top:2pt solid #000;border-bottom:.5pt solid #000;margin-bottom:8pt"></div>`)
	case "filled table":
		p.put(`<div style="margin-top:8pt"><b>%s</b></div><table style="margin-top:3pt"><tr>`, esc(w.statistics))
		for _, m := range w.months {
			p.put(`<th style="border:.5pt solid #555">%s</th>`, esc(m))
		}
		for r := range 3 {
			p.put(`</tr><tr>`)
			for c := range w.months {
				p.put(`<td style="border:.5pt solid #555;text-align:right">%s</td>`, figure(r, c))
			}
		}
		p.put(`</tr></table>`)
	case "note in a frame":
		p.put(`<div style="border:.75pt solid #000;padding:5pt 6pt 16pt;margin-top:8pt">%s</div>`, esc(w.prose[0]))
	case "price list":
		p.put(`<div style="margin-top:8pt">`)
		for i, r := range w.rows {
			p.put(`<div style="display:flex"><span>%s</span><span style="flex:1;overflow:hidden;white-space:nowrap">%s</span><span>%d,50</span></div>`,
				esc(r), strings.Repeat(" .", int(p.width()/(p.size*0.8))), 12+7*i)
		}
		p.put(`</div>`)
	case "small print":
		p.put(`<div style="margin-top:12pt;border-top:.5pt solid #000;padding-top:2pt" class="cap">%s</div>`, esc(strings.Join(w.prose, " ")))
	case "chart":
		p.put(`<div style="display:flex;align-items:flex-end;gap:6pt;height:60pt;margin-top:10pt;border-left:.75pt solid #000;border-bottom:.75pt solid #000;padding-left:5pt">`)
		for i := range 6 {
			p.put(`<span style="width:18pt;height:%dpt;background:%s"></span>`, 12+(i*37)%44, []string{"#9ab", "#fff;border:.5pt solid #345"}[i%2])
		}
		p.put(`</div><div class="cap">%s</div>`, esc(w.statistics))
	case "letter":
		for _, l := range w.letters {
			p.put(`<p>%s</p>`, esc(l))
		}
	case "article":
		p.put(`<div style="columns:2;column-gap:18pt;column-rule:.5pt solid #000;margin-top:8pt">`)
		for range 3 {
			for _, s := range w.prose {
				p.put(`<p>%s</p>`, esc(s))
			}
		}
		p.put(`</div>`)
	case "programme":
		for i, r := range w.rows {
			p.put(`<div style="display:flex;gap:12pt;border-bottom:.4pt solid #999;padding:3pt 0"><b>%d:%02d</b><span>%s</span></div>`, 9+i, 15*i%60, esc(r))
		}
	}
}

// figure is a number of a made-up table.
func figure(r, c int) string { return fmt.Sprint(17 + (r*41+c*23)%190) }
