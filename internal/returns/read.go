package returns

import (
	"cmp"
	"crypto/sha256"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/encoding/charmap"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// Came is what came back, by the names of fields: several answers where several are chosen.
type Came struct {
	Named map[string][]string
	Files []File
	Sure  map[string]float64 // how sure the answer is read, from 0 to 1, where it was read from a picture
}

// File is one that came with answers.
type File struct {
	Name  string
	Bytes []byte
}

// Match tells which of the editions answers belong to: the one that knows most of their names, and of those the one that misses least
// of its own; the newest when several are alike. The share is how many of the names it knows, from 0 to 1; below a half it is none of them
// (0).
func Match(named map[string][]string, editions []Edition) (number int, share float64) {
	best := -1
	for _, e := range editions {
		qs := questions(e.Form)
		known := 0
		for _, q := range qs {
			if _, ok := named[q.name]; ok {
				known++
			}
		}
		if len(named) == 0 || known == 0 {
			continue
		}
		s := float64(known) / float64(len(named))
		score := known*10_000 - (len(qs)-known)*100 + min(e.Number, 99)
		if s >= 0.5 && score > best {
			best, number, share = score, e.Number, s
		}
	}
	return number, share
}

// Answers are those of an edition, held to its rules.
type Answers struct {
	Values map[string]string // by the names of its fields; what is empty is left out. Several choices stand one a line
	Broken map[string]string // what the rules refuse, or must be filled in and is not
	Extra  []string          // names that it does not know
}

// Read makes what came answers of an edition, and holds them to its rules as they were at a time.
func Read(t *form.Template, came Came, now time.Time) (Answers, error) {
	out := Answers{Values: map[string]string{}, Broken: map[string]string{}}
	qs := questions(t)
	all := map[string]string{}
	known := map[string]bool{}
	for _, q := range qs {
		known[q.name] = true
		all[q.name] = normal(q.rows, came.Named[q.name])
		if _, said := came.Named[q.name]; !said && q.rows[0].ReadOnly {
			all[q.name] = q.rows[0].Default // which nobody could change
		}
	}
	for _, name := range slices.Sorted(maps.Keys(came.Named)) {
		if !known[name] && strings.Join(came.Named[name], "") != "" {
			out.Extra = append(out.Extra, name)
		}
	}
	broken, err := Check(t, all, now)
	if err != nil {
		return out, err
	}
	maps.Copy(out.Broken, broken)
	for name, v := range all {
		if v != "" {
			out.Values[name] = v
		}
	}
	return out, nil
}

// Check holds answers to the rules of a form: what is refused, and what must be filled in and is not, by name.
func Check(t *form.Template, answers map[string]string, now time.Time) (map[string]string, error) {
	in, err := rules.NewSession(t.Fields, now)
	if err != nil {
		return nil, err
	}
	all := map[string]string{}
	for _, name := range in.Names() {
		all[name] = answers[name]
	}
	broken := map[string]string{}
	for name, why := range in.SetAll(all) {
		broken[name] = why.Error()
	}
	for _, name := range in.Missing() {
		if broken[name] == "" {
			broken[name] = "This must be filled in."
		}
	}
	return broken, nil
}

// normal is an answer as the form keeps it: of boxes what they export, however a reader has put it.
func normal(rows []form.Field, came []string) string {
	f := rows[0]
	switch f.Kind {
	case form.CheckBox, form.Radio:
		if len(came) == 0 {
			return ""
		}
		return ticked(rows, came[len(came)-1])
	case form.Choice:
		var out []string
		for _, v := range came {
			for one := range strings.SplitSeq(v, "\n") {
				if v := chosen(&f, one); v != "" {
					out = append(out, v)
				}
			}
		}
		if f.List != form.ManyList && len(out) > 1 {
			out = out[:1]
		}
		return strings.Join(out, "\n")
	}
	v := strings.ReplaceAll(strings.ReplaceAll(strings.Join(came, "\n"), "\r\n", "\n"), "\r", "\n")
	if !f.Multiline {
		v = strings.TrimSpace(v)
	}
	return v
}

func chosen(f *form.Field, v string) string {
	for _, o := range f.Options {
		if export := cmp.Or(o.Export, o.Label); v == export || v == o.Label {
			return export
		}
	}
	return v
}

// ticked is the export value of the button that is on. Readers name it by what it exports, by the name of its state, by its place, or by
// either of them encoded once more.
func ticked(rows []form.Field, v string) string {
	if v == "" || v == "Off" {
		return ""
	}
	ways := []string{v}
	if u, err := url.PathUnescape(v); err == nil {
		ways = append(ways, u)
	}
	if u, err := url.PathUnescape(strings.ReplaceAll(v, "#", "%")); err == nil {
		ways = append(ways, u)
	}
	if b, err := charmap.Windows1252.NewEncoder().String(v); err == nil {
		ways = append(ways, b) // UTF-8 that was taken for Latin-1
	}
	for _, w := range ways {
		for _, f := range rows {
			if w == exportOf(&f) || w == f.OnState() {
				return exportOf(&f)
			}
		}
	}
	if n, err := strconv.Atoi(v); err == nil && n >= 0 && n < len(rows) {
		return exportOf(&rows[n])
	}
	if len(rows) == 1 && slices.Contains([]string{"true", "yes", "on", "1", "x"}, strings.ToLower(v)) {
		return exportOf(&rows[0])
	}
	return v
}

// Digest is the same for the same answers: doubles are known by it.
func Digest(values map[string]string) []byte {
	h := sha256.New()
	for _, k := range slices.Sorted(maps.Keys(values)) {
		if values[k] != "" {
			fmt.Fprintf(h, "%d:%s=%d:%s\n", len(k), k, len(values[k]), values[k])
		}
	}
	return h.Sum(nil)
}
