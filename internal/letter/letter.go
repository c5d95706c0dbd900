package letter

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
)

// How long letters may be, in signs.
const (
	LongestSubject = 200
	LongestText    = 10_000
)

// Blank is a word in braces that a letter may have, with what stands in its place.
type Blank struct{ Word, Means string }

// Blanks are those that a letter may have.
var Blanks = []Blank{
	{"name", "the person's name"},
	{"form", "the title of the form"},
	{"link", "the person's own link"},
	{"office", "the name of the office"},
	{"until", "the day until which the link is good"},
}

// Words are those of a letter, with blanks in braces. Lines of the text end with a line feed.
type Words struct{ Subject, Text string }

// First is what is sent with a form as long as the office has no words of its own.
var First = Words{
	Subject: "{form}",
	Text: "Good day {name},\n\nplease fill in this form and send it back to us: {form}.\n\n{link}\n\n" +
		"The link is yours alone, and is good {until}. What we know of you already is filled in.\n\nWith kind regards\n{office}\n",
}

// Reminder is what is sent to those who have not answered, as long as the office has no words of its own.
var Reminder = Words{
	Subject: "Not yet here: {form}",
	Text: "Good day {name},\n\nwe have not had your answers yet: {form}. " +
		"The link is the same as before, and is good {until}.\n\n{link}\n\n" +
		"If they are on their way, there is nothing left to do.\n\nWith kind regards\n{office}\n",
}

// Sign is what is sent to somebody whose turn it is to fill in their part and sign.
var Sign = Words{
	Subject: "For you to sign: {form}",
	Text: "Good day {name},\n\nit is your turn to fill in your part and to sign: {form}.\n\n{link}\n\n" +
		"The passcode is the one that the office has told you.\n\nWith kind regards\n{office}\n",
}

// Finished is what is sent when everybody has signed.
var Finished = Words{
	Subject: "Signed by all: {form}",
	Text:    "Good day {name},\n\nall have signed: {form}. Your copy lies here.\n\n{link}\n\nWith kind regards\n{office}\n",
}

var inBraces = regexp.MustCompile(`\{([^{}\n]*)\}`)

// Check refuses words that are empty or too long, that would break the head of a message, that have a blank which is none, or no link.
func (w Words) Check() error {
	switch {
	case strings.TrimSpace(w.Subject) == "":
		return fmt.Errorf("a letter needs a subject: type one")
	case strings.TrimSpace(w.Text) == "":
		return fmt.Errorf("a letter needs a text: type one")
	}
	if err := form.CheckLine("the subject", w.Subject, LongestSubject); err != nil {
		return err
	}
	if err := form.CheckText("the letter", w.Text, LongestText); err != nil {
		return err
	}
	for _, m := range inBraces.FindAllStringSubmatch(w.Subject+"\n"+w.Text, -1) {
		if !slices.ContainsFunc(Blanks, func(b Blank) bool { return b.Word == m[1] }) {
			return fmt.Errorf("{%s} stands for nothing: a letter may have %s", m[1], all())
		}
	}
	if !strings.Contains(w.Text, "{link}") {
		return fmt.Errorf("nobody could open the form: write {link} where its link is to stand")
	}
	return nil
}

func all() string {
	var list []string
	for _, b := range Blanks {
		list = append(list, "{"+b.Word+"}")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}

// With are the words with their blanks filled in. What is filled in has no blanks of its own, and no line breaks in the subject.
func (w Words) With(values map[string]string) Words {
	put := func(s string) string {
		return inBraces.ReplaceAllStringFunc(s, func(b string) string { return values[b[1:len(b)-1]] })
	}
	return Words{Subject: strings.Join(strings.Fields(put(w.Subject)), " "), Text: put(w.Text)}
}
