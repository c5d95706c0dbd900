package letter_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/letter"
)

func TestWordsThatComeWithItAreGood(t *testing.T) {
	assert.NoError(t, letter.First.Check())
	assert.NoError(t, letter.Reminder.Check())
	assert.NoError(t, letter.Sign.Check())
	assert.NoError(t, letter.Finished.Check())
}

func TestALetterSaysWhatIsWrongWithIt(t *testing.T) {
	for words, w := range map[string]letter.Words{
		"needs a subject":       {Subject: " ", Text: "{link}"},
		"needs a text":          {Subject: "x"},
		"{nmae} stands for":     {Subject: "x", Text: "{nmae} {link}"},
		"{amount} stands for":   {Subject: "{amount}", Text: "{link}"},
		"write {link}":          {Subject: "{link}", Text: "without"},
		"the subject":           {Subject: "x\r\nBcc: all@office.example", Text: "{link}"},
		"the letter":            {Subject: "x", Text: "{link}" + strings.Repeat("long ", letter.LongestText)},
		"the subject is longer": {Subject: strings.Repeat("x", letter.LongestSubject+1), Text: "{link}"},
	} {
		assert.ErrorContains(t, w.Check(), words)
	}
}

// Somebody whose name has a blank or a line break in it gets no letter that says something else.
func TestWhatIsFilledInStaysWhatItIs(t *testing.T) {
	w := letter.Words{Subject: "For {name}", Text: "{name}: {link}"}.With(map[string]string{
		"name": "{link}\r\nBcc: all@office.example", "link": "https://forms.example/f/x",
	})
	assert.Equal(t, "For {link} Bcc: all@office.example", w.Subject)
	assert.Equal(t, "{link}\r\nBcc: all@office.example: https://forms.example/f/x", w.Text)
}
