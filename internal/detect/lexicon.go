package detect

import (
	"bufio"
	"embed"
	"fmt"
	"strings"
	"sync"
)

// Data files, one a language: what words ask for. See lexicon/en.txt for how they are
// written; a new language is a new file.
//
//go:embed lexicon/*.txt
var lexiconFiles embed.FS

// lexicon is the wording of all languages together: a form may be in any, or in two.
type lexicon struct {
	words    map[string]map[string]bool // by sense: "date" -> "datum"
	phrases  map[string][]string        // of several words, with a space between
	prefixes map[string][]string
	suffixes map[string][]string
	small    map[string]map[string]bool // by language: the small words by which it is known
}

var loadLexicon = sync.OnceValue(func() *lexicon {
	l := &lexicon{
		words: map[string]map[string]bool{}, phrases: map[string][]string{}, prefixes: map[string][]string{},
		suffixes: map[string][]string{}, small: map[string]map[string]bool{},
	}
	files, err := lexiconFiles.ReadDir("lexicon")
	if err != nil {
		panic(err) // the files are part of the program
	}
	for _, f := range files {
		b, err := lexiconFiles.ReadFile("lexicon/" + f.Name())
		if err != nil {
			panic(err)
		}
		if err := l.read(f.Name(), string(b)); err != nil {
			panic(err)
		}
	}
	return l
})

// read adds a data file.
func (l *lexicon) read(name, content string) error {
	lines := bufio.NewScanner(strings.NewReader(content))
	for n := 1; lines.Scan(); n++ {
		line := strings.TrimSpace(lines.Text())
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		sense, rest, ok := strings.Cut(line, ":")
		if !ok {
			return fmt.Errorf("%s, line %d: write what the words stand for, a colon, and the words", name, n)
		}
		for _, w := range strings.Fields(strings.ToLower(rest)) {
			l.put(sense, w)
			if language := strings.TrimSuffix(name, ".txt"); sense == "stop" {
				if l.small[language] == nil {
					l.small[language] = map[string]bool{}
				}
				l.small[language][w] = true
			}
		}
	}
	return lines.Err()
}

func (l *lexicon) put(sense, w string) {
	switch {
	case strings.HasPrefix(w, "*"):
		l.suffixes[sense] = append(l.suffixes[sense], strings.TrimPrefix(w, "*"))
	case strings.HasSuffix(w, "*"):
		l.prefixes[sense] = append(l.prefixes[sense], strings.TrimSuffix(w, "*"))
	case strings.Contains(w, "-") && !strings.HasPrefix(w, "e-"):
		l.phrases[sense] = append(l.phrases[sense], strings.ReplaceAll(w, "-", " "))
		fallthrough // some write it with the hyphen
	default:
		if l.words[sense] == nil {
			l.words[sense] = map[string]bool{}
		}
		l.words[sense][w] = true
	}
}

// is tells whether one word has a sense.
func (l *lexicon) is(w, sense string) bool {
	if l.words[sense][w] {
		return true
	}
	for _, s := range l.suffixes[sense] {
		if len(w) > len(s) && strings.HasSuffix(w, s) {
			return true
		}
	}
	for _, p := range l.prefixes[sense] {
		if strings.HasPrefix(w, p) {
			return true
		}
	}
	return false
}

// speaks tells whether words have a sense anywhere in them.
func (l *lexicon) speaks(ws []string, sense string) bool {
	for _, w := range ws {
		if l.is(w, sense) {
			return true
		}
	}
	if len(l.phrases[sense]) == 0 {
		return false
	}
	joined := " " + strings.ReplaceAll(strings.Join(ws, " "), "-", " ") + " "
	for _, p := range l.phrases[sense] {
		if strings.Contains(joined, " "+p+" ") {
			return true
		}
	}
	return false
}
