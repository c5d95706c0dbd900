package evidence_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// Words of one line stand on one baseline and have one size, whatever their letters:
// the ink of the words is as high as a face of 10 pt draws it.
func TestRecognisedWordsStandOnOneLine(t *testing.T) {
	for word, ink := range map[string][2]float64{
		"owner": {0, 5.2}, "Signature": {-2.1, 7.2}, "of": {0, 7.2}, "years": {-2.1, 5.2},
		"2027": {0, 7.2},
	} {
		w := evidence.Word{Text: word, Rect: geom.R(50, 100+ink[0], 80, 100+ink[1])}.Settled()
		assert.InDelta(t, 100, w.Base, 0.01, word)
		assert.InDelta(t, 10, w.Size, 0.01, word)
	}
}
