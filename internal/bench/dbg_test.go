package bench

import (
	"fmt"
	"os"
	"testing"

	"zealousmargin.example/internal/bench/sheets"
	"zealousmargin.example/internal/form"
)

func TestDbg(t *testing.T) {
	all, _ := sheets.All()
	empty, _ := sheets.Empty()
	for _, s := range append(all, empty...) {
		fs, _ := typeset(s)
		for _, f := range fs {
			for _, x := range f.finds {
				ok := false
				for _, w := range f.truth {
					if w.Rect.IoU(x.Rect) > .5 {
						ok = true
					}
				}
				if (!ok && x.Confidence >= form.LikelyFrom) || (ok && x.Confidence < .5 && x.Rect.X0 < 70) {
					fmt.Println(s.Style, ok, x.Rect, x.Kind, x.Confidence, x.Name, x.Evidence)
				}
			}
		}
	}
	_ = os.Args
	for _, n := range []string{"f1040", "f1040a", "f1040ez", "f1040ezt"} {
		b, _ := os.ReadFile("../../node_modules/pdf2json/test/data/" + n + ".pdf")
		s, _ := Form(b)
		fmt.Println(n, s.Wanted, s.Found, s.Hit, s.F1())
	}
}
