package detect

import (
	"strconv"
	"strings"
	"unicode"

	"github.com/mozillazg/go-unidecode"
	"golang.org/x/text/unicode/norm"

	"zealousmargin.example/internal/form"
)

// wordsOf splits a label into lower-case words without marks.
func wordsOf(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '-' && r != '\'' && r != '’'
	})
}

// speaks tells whether a label has words of a sense, in any language.
func speaks(label, sense string) bool { return loadLexicon().speaks(wordsOf(label), sense) }

// isSignature tells whether the words ask for a signature, not merely speak of one.
func isSignature(label string) bool {
	ws := wordsOf(label)
	l := loadLexicon()
	return len(ws) <= 9 && !l.speaks(ws, "date") && (l.speaks(ws, "signature") || l.speaks(ws, "signed"))
}

// maxInitials is how many signs a field for initials takes, stops between them included.
const maxInitials = 8

// isInitials tells whether a short label asks for initials.
func isInitials(label string) bool {
	ws := wordsOf(label)
	return len(ws) <= 4 && loadLexicon().speaks(ws, "initials")
}

// maxNameWords keeps names short enough to read in a list.
const maxNameWords = 5

// nameFrom makes a short lower_snake name of a label.
func nameFrom(l label) string {
	words := significant(l.text, maxNameWords)
	if len(words) == 1 { // "wanted from" says more than "wanted"
		if all := wordsOf(l.text); (len(all) == 2 || len(all) == 3) && ascii(strings.Trim(all[0], "-'’")) == words[0] {
			words = nil
			for _, w := range all {
				if w = ascii(strings.Trim(w, "-'’")); w != "" {
					words = append(words, w)
				}
			}
		}
	}
	if l.row == "" && l.n > 0 { // a row without words of its own goes by its number
		head := significant(l.text, 3)
		if title := significant(l.title, 2); len(title) > 0 {
			return strings.Join(title, "_") + "_" + strconv.Itoa(l.n) + "_" + strings.Join(head, "_")
		}
		return strings.Join(head, "_") + "_" + strconv.Itoa(l.n)
	}
	if l.row != "" {
		row := significant(l.row, 3)
		head := significant(l.text, 3)
		words = append(row, head...)
	}
	if len(words) == 0 {
		return ""
	}
	return strings.Join(words, "_")
}

func significant(s string, most int) []string {
	var out []string
	if i := strings.IndexAny(s, ".;("); i > 8 { // the first sentence says what it is
		s = s[:i]
	}
	for _, raw := range wordsOf(s) {
		w := ascii(strings.Trim(raw, "-'’"))
		if w == "" || stop(raw, w) || len(w) == 1 && !unicode.IsDigit(rune(w[0])) {
			continue
		}
		out = append(out, w)
		if len(out) == most {
			break
		}
	}
	if len(out) == 0 && len(s) > 0 { // nothing but small words: they must do
		for _, w := range wordsOf(s) {
			if w = ascii(strings.Trim(w, "-'’")); w != "" && len(out) < most {
				out = append(out, w)
			}
		}
	}
	return out
}

// stop tells whether a word adds nothing to a name.
func stop(raw, folded string) bool {
	l := loadLexicon()
	return l.words["stop"][raw] || l.words["stop"][folded]
}

// unusual letters have no base letter in Unicode's decomposition.
var unusual = strings.NewReplacer("ß", "ss", "ø", "o", "ł", "l", "æ", "ae", "œ", "oe", "'", "", "’", "")

// ascii folds letters to a-z, 0-9 and underscores, which every reader and every
// script can address. Letters that are not Latin are written as they sound.
func ascii(s string) string {
	s = unusual.Replace(s)
	var b strings.Builder
	for _, r := range norm.NFD.String(s) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			b.WriteRune(r)
		case r == '-':
			b.WriteByte('_')
		case unicode.IsLetter(r) && !unicode.Is(unicode.Latin, r):
			for _, c := range strings.ToLower(unidecode.Unidecode(string(r))) {
				if c >= 'a' && c <= 'z' {
					b.WriteRune(c)
				}
			}
		}
	}
	return strings.Trim(b.String(), "_")
}

// tooltip is the label as a person would say it.
func tooltip(l label) string {
	t := l.text
	if l.row != "" && l.row != l.text {
		t = l.row + ": " + l.text
	}
	if l.row == "" && l.n > 0 {
		t = l.text + ", line " + strconv.Itoa(l.n)
		if l.title != "" {
			t = l.title + ": " + t
		}
	}
	t = shorten(t, 180)
	if r := []rune(t); len(r) > 0 && unicode.IsLower(r[0]) {
		r[0] = unicode.ToUpper(r[0])
		t = string(r)
	}
	return t
}

// nameAll gives every find a name of its own, in reading order.
func nameAll(finds []Find) {
	taken, exports, groups := map[string]bool{}, map[string]bool{}, map[string]string{}
	for i := range finds {
		f := &finds[i]
		base := f.Name
		if base == "" {
			base = map[form.Kind]string{form.CheckBox: "tick", form.Signature: "signature"}[f.Kind]
			if base == "" {
				base = "field"
			}
			base += "_1"
		}
		if base[0] >= '0' && base[0] <= '9' {
			base = "n" + base
		}
		if f.Kind == form.Radio { // buttons of one group share a name
			if name, there := groups[f.Group]; there && !exports[f.Group+"/"+f.Export] {
				f.Name = name
				exports[f.Group+"/"+f.Export] = true
				continue
			}
		}
		f.Name = form.FreeName(base, taken)
		taken[f.Name] = true
		if f.Kind == form.Radio {
			groups[f.Group] = f.Name
			for k := range exports { // the question is asked once more
				if strings.HasPrefix(k, f.Group+"/") {
					delete(exports, k)
				}
			}
			exports[f.Group+"/"+f.Export] = true
		}
	}
}

// NameOf makes a field name of any words: short, lower_snake, in letters and figures
// that every reader can address. It is empty when the words have none.
func NameOf(words string) string {
	spaced := strings.Map(func(r rune) rune {
		if r == '_' || r == '.' {
			return ' '
		}
		return r
	}, words)
	name := strings.Join(significant(spaced, maxNameWords), "_")
	if name != "" && name[0] >= '0' && name[0] <= '9' {
		name = "n" + name
	}
	return name
}
