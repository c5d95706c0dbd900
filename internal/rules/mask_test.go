package rules_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

func TestAMaskIsSaidInWordsWithAnExampleThatFits(t *testing.T) {
	for pattern, want := range map[string]string{
		"#####":       "five digits, such as 12345",
		"#":           "one digit, such as 1",
		"@@-###":      "two letters, a hyphen and three digits, such as AB-123",
		"GQ ####/@":   "“GQ”, a space, four digits, a slash and one letter, such as GQ 1234/A",
		"??":          "two signs of any kind, such as AB",
		"###.###.###": "three digits, a full stop, three digits, a full stop and three digits, such as 123.456.789",
	} {
		said := rules.MaskWords(pattern)
		assert.Equal(t, want, said, pattern)
		f := form.Format{Kind: form.Mask, Pattern: pattern}
		assert.Equal(t, "Please write "+want+".", rules.Message(f))
		_, example, _ := strings.Cut(want, ", such as ")
		session, err := rules.NewSession([]form.Field{{ID: "1", Name: "a", Kind: form.Text, Format: f}}, time.Now())
		require.NoError(t, err)
		_, err = session.Set("a", example)
		assert.NoError(t, err, example)
	}
}
