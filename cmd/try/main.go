package main

import (
	"context"
	"fmt"
	"os"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf"
)

func main() {
	for _, n := range os.Args[1:] {
		b, _ := os.ReadFile(n)
		t := time.Now()
		ctx, c := context.WithTimeout(context.Background(), 60*time.Second)
		r, err := intake.Read(ctx, intake.Source{Name: n, Bytes: b}, func(string, int, int) {})
		c()
		el := time.Since(t)
		rel := ""
		if err == nil {
			tpl := &form.Template{Pages: r.Pages, Details: r.Details}
			if e := tpl.Apply(form.Edit{After: r.Fields}); e != nil {
				rel = "APPLY " + e.Error()
			} else {
				src := pdf.Sources{File: func(s string) ([]byte, error) { return r.PDF, nil }}
				e, _ := tpl.Place(form.Field{Page: 1, Kind: form.Text, Name: "zm_new", Rect: tpl.Pages[0].Rect().Inset(20)})
				tpl.Apply(e)
				for pass := 0; pass < 2; pass++ {
					if pass == 1 {
						if len(tpl.Pages) < 2 {
							tpl.Details.Leave = "metadata"
						} else {
							e, _ := tpl.MovePages([]string{tpl.Pages[0].ID}, len(tpl.Pages)+1)
							if err := tpl.Apply(e); err != nil {
								rel += " MOVE " + err.Error()
							}
						}
					}
					base, as, e2 := pdf.Base(tpl, src)
					if e2 != nil {
						rel += " BASE " + e2.Error()
						continue
					}
					out, e3 := pdf.Release(base, as)
					if e3 != nil {
						rel += " RELEASE " + e3.Error()
						continue
					}
					if e4 := pdf.ProveRelease(base, out, as); e4 != nil {
						s := e4.Error()
						rel += " PROVE " + s[:min(len(s), 200)]
					}
					os.WriteFile(fmt.Sprintf("/tmp/try/rel%d.pdf", pass), out, 0o644)
				}
			}
		}
		fmt.Printf("%-40s %6.2fs %3d pages %3d fields scans %d | %v | %s | %s | total %.1fs\n", n[max(0, len(n)-40):], el.Seconds(), len(r.Pages), len(r.Fields), r.Scans, err, r.Notice, rel, time.Since(t).Seconds())
	}
}
