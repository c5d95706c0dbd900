package frame

import (
	"fmt"
	"html/template"
	"strings"
	"time"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/snags"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/notes"
	"zealousmargin.example/internal/web/static"
)

var functions = template.FuncMap{
	"ago":      ago,
	"asset":    static.Path,
	"sentence": Sentence,
	"together": snags.InOnePress,
	"add":      func(a, b int) int { return a + b },
	"count": func(n int, one, many string) string {
		if n == 1 {
			return "1 " + one
		}
		return fmt.Sprintf("%d %s", n, many)
	},
	"before": func(all []store.Edition, i int) *store.Edition { // the one before, where the two can be compared
		if i+1 < len(all) && all[i].Kept && all[i+1].Kept {
			return &all[i+1]
		}
		return nil
	},
	"short":   func(s string) string { return s[:min(12, len(s))] },
	"bytes":   bytesOf,
	"kb":      func(n int) string { return fmt.Sprintf("%d KB", (n+1023)/1024) },
	"lastday": func(t *time.Time) string { return t.Add(-time.Second).Local().Format("2 January 2006") }, // before a moment
	"date":    func(t time.Time) string { return t.Local().Format("2 January 2006, 15:04") },
	"value": func(p *string) string {
		if p == nil {
			return ""
		}
		return *p
	},
	"picture":    PictureURL,
	"running":    func(i store.Intake) IntakeView { return IntakeView{Intake: i} },
	"first":      func(name string) string { return strings.SplitN(name, " ", 2)[0] },
	"join":       strings.Join,
	"unit":       form.WriteLength,
	"ruled":      notes.Ruled,
	"rulesaid":   notes.Rules,
	"formatsaid": notes.Format,
	"fill":       notes.Fill,
	"pick":       notes.Pick,
	"events":     notes.Events,
	"whichof":    notes.ActionFields,
	"masks":      func() []form.Offer { return form.Masks },
	"rest":       func(why, name string) string { return strings.TrimPrefix(why, name+" ") },
	"units":      func() []string { return []string{"pt", "mm", "in"} },
	"readylists": func() []form.Offer { return command.ReadyLists },
	"options":    form.WriteOptions,
	"selected": func(m map[string]any) bool {
		if b, ok := m["B"].(bool); ok { // the second of two choices stands for true
			return b == (m["V"] == "yes" || m["V"] == "comma")
		}
		return fmt.Sprint(m["S"]) == fmt.Sprint(m["V"])
	},
	"dict": func(kv ...any) map[string]any {
		m := map[string]any{}
		for i := 0; i+1 < len(kv); i += 2 {
			m[fmt.Sprint(kv[i])] = kv[i+1]
		}
		return m
	},
}

// bytesOf writes a size for people.
func bytesOf(n int64) string {
	switch {
	case n >= 10<<30:
		return fmt.Sprintf("%d GB", n>>30)
	case n >= 1<<30:
		return fmt.Sprintf("%.1f GB", float64(n)/(1<<30))
	case n >= 1<<20:
		return fmt.Sprintf("%d MB", n>>20)
	}
	return fmt.Sprintf("%d KB", (n+1023)>>10)
}

// ago says how long a moment is past.
func ago(t time.Time) string {
	d := time.Since(t)
	switch {
	case d < 10*time.Second:
		return "just now"
	case d < time.Minute:
		return fmt.Sprintf("%d s ago", int(d.Seconds()))
	case d < time.Hour:
		return fmt.Sprintf("%d min ago", int(d.Minutes()))
	case d < 24*time.Hour:
		return fmt.Sprintf("%d h ago", int(d.Hours()))
	case d < 7*24*time.Hour:
		return "on " + t.Local().Weekday().String()
	}
	return "on " + t.Local().Format("2 January 2006")
}
