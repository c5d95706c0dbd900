package measure

import (
	"fmt"
	"io"
	"slices"
	"strconv"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/rehearsal"
	"zealousmargin.example/internal/rules"
)

// Rules measures how fast a form of 500 fields with 200 formulas calculates after one answer, and
// how long the automatic rehearsal of a form of 60 fields takes.
func Rules(w io.Writer) error {
	fields := calculating(500, 200)
	s, err := rules.NewSession(fields, time.Now())
	if err != nil {
		return err
	}
	var took []time.Duration
	for i := range 400 {
		start := time.Now()
		changed, err := s.Set("line_1_count", strconv.Itoa(1+i%7)) // all sums follow
		if err != nil {
			return err
		}
		if i > 0 && len(changed) == 0 {
			return fmt.Errorf("nothing was calculated")
		}
		took = append(took, time.Since(start))
	}
	took = took[50:]
	slices.Sort(took)
	ms := func(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
	fmt.Fprintf(w, "\nRules: %d fields, 200 formulas, all after one answer: median %.2f ms, p95 %.2f ms (wanted <= 2 ms)\n",
		len(fields), ms(took[len(took)/2]), ms(took[len(took)*95/100]))
	start := time.Now()
	r, err := rehearsal.Run(calculating(60, 20), nil, look.TextFits, nil, time.Now())
	if err != nil {
		return err
	}
	fmt.Fprintf(w, "Automatic rehearsal of 60 fields, %d people, %d answers: %.0f ms (wanted <= 3000 ms)\n", r.People, r.Answers,
		ms(time.Since(start)))
	return nil
}

// calculating is a form of n fields of which some are calculated, all from the first.
func calculating(n, formulas int) []form.Field {
	var out []form.Field
	add := func(name, formula string) {
		out = append(out, form.Field{
			ID: name, Page: 1, Order: float64(len(out)), Kind: form.Text, Name: name, Tooltip: name,
			Rect: geom.R(0, 0, 200, 18), Format: form.Format{Kind: form.Number, Decimals: 2}, Formula: formula, ReadOnly: formula != "",
		})
	}
	for i := 1; i <= formulas-1; i++ {
		add(fmt.Sprintf("line_%d_count", i), "")
		add(fmt.Sprintf("line_%d_amount", i), fmt.Sprintf("round(line_1_count * 1.5 + line_%d_count * if(line_1_count > 3, 0.9, 1), 2)",
			i))
	}
	add("total", "sum(line_*_amount)")
	for i := len(out); i < n; i++ {
		add(fmt.Sprintf("other_%d", i), "")
	}
	return out
}
