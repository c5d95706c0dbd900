package form

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

// How long texts may be, in bytes: longer ones are a slip, or meant to do harm.
const (
	longText  = 10_000  // what is shown: tooltips, hints, first values
	shortText = 500     // what is part of a rule: patterns, signs of money, messages
	dataText  = 400_000 // options, checks and steps together, as JSON
)

// CheckText refuses a text that is too long, or that has signs which no file and no table keeps: bytes that are no UTF-8,
// and control signs but line breaks and tabs.
func CheckText(what, s string, most int) error {
	switch {
	case len(s) > most:
		return fmt.Errorf("%s is longer than %d signs: shorten it", what, most)
	case !utf8.ValidString(s):
		return fmt.Errorf("%s has signs that cannot be read: type it anew", what)
	}
	if i := strings.IndexFunc(s, isControl); i >= 0 {
		r, _ := utf8.DecodeRuneInString(s[i:])
		return fmt.Errorf("%s has a control sign (U+%04X), which no reader shows: type it anew", what, r)
	}
	return nil
}

func isControl(r rune) bool {
	return r < 0x20 && r != '\n' && r != '\r' && r != '\t' || r >= 0x7f && r < 0xa0
}

// CheckLine is [CheckText] for what stands in one line: a line break of any kind is refused, too.
func CheckLine(what, s string, most int) error {
	if i := strings.IndexAny(s, "\n\r\t\u2028\u2029"); i >= 0 {
		r, _ := utf8.DecodeRuneInString(s[i:])
		return fmt.Errorf("%s has a line break or a tab in it (U+%04X): write it in one line", what, r)
	}
	return CheckText(what, s, most)
}

// lines are the properties that stand in one line, since scripts are made of them.
var lines = map[string]bool{"pattern": true, "currency": true, "name": true}

// checkTexts holds all the words of a field to [CheckText].
func (f *Field) checkTexts() error {
	for i := range FieldProperties {
		p := &FieldProperties[i]
		if p.Plain(f) {
			continue
		}
		s, what := p.Get(f), "what "+f.Name+" has as "+p.Key
		var err error
		switch {
		case p.Type == AsData && len(s) > dataText:
			err = fmt.Errorf("%s is longer than %d signs: shorten it", what, dataText)
		case p.Type == AsData: // written as JSON, in which control signs are escaped
			if i := strings.Index(s, `\u00`); i >= 0 && !strings.HasPrefix(s[i:], `\u003`) && !strings.HasPrefix(s[i:], `\u0026`) {
				err = fmt.Errorf("%s has a control sign, which no reader shows: type it anew", what)
			}
		case lines[p.Key]:
			err = CheckLine(what, s, shortText)
		case p.Type == AsText || p.Type == AsWord:
			err = CheckText(what, s, longText)
		}
		if err != nil {
			return err
		}
	}
	for i := range f.Checks {
		if c := &f.Checks[i]; c.Test == MatchesMask {
			if err := CheckLine("a pattern of "+f.Name, c.A, shortText); err != nil {
				return err
			}
		}
	}
	return nil
}
