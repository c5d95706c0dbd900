package evidence_test

import (
	"image"
	"image/color"
	"image/draw"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// sheet is a picture of a page of 360 by 144 points at 200 dpi; y is counted from its foot.
type sheet struct{ *image.Gray }

func newSheet() sheet {
	g := image.NewGray(image.Rect(0, 0, 1000, 400))
	draw.Draw(g, g.Rect, image.White, image.Point{}, draw.Src)
	return sheet{g}
}

func (s sheet) bar(x0, y0, x1, y1 float64) sheet {
	const k = 200.0 / 72
	r := image.Rect(int(x0*k), int((144-y1)*k), max(int(x0*k)+2, int(x1*k)), max(int((144-y1)*k)+2, int((144-y0)*k)))
	draw.Draw(s, r, image.NewUniform(color.Gray{Y: 20}), image.Point{}, draw.Src)
	return s
}

func (s sheet) read(words ...evidence.Word) *evidence.Page {
	b := evidence.NewBuilder(360, 144, 0)
	b.Pixels(s.Gray)
	for _, w := range words {
		b.Word(w.Settled())
	}
	return b.Page()
}

func recognised(text string, x0, y0, x1, y1, doubt float64) evidence.Word {
	return evidence.Word{Text: text, Rect: geom.R(x0, y0, x1, y1), Doubt: doubt}
}

func texts(p *evidence.Page) (out []string) {
	for _, w := range p.Words {
		out = append(out, w.Text)
	}
	return out
}

// comb draws five open cells on a line.
func (s sheet) comb() sheet {
	s.bar(100, 60, 170.7, 60.7)
	for i := range 6 {
		s.bar(100+14*float64(i), 60, 100.7+14*float64(i), 72)
	}
	return s
}

func TestWordsThatWereReadOutOfCellsAreDropped(t *testing.T) {
	p := newSheet().comb().bar(60, 60, 64, 67).bar(66, 60, 70, 65).
		read(recognised("No", 60, 60, 70, 67, 0.05), recognised("LLI", 100, 60, 142, 72, 0.45), recognised("|", 155, 60, 157, 72, 0.3))
	assert.Equal(t, []string{"No"}, texts(p))
	assert.Len(t, p.V, 6, "the uprights of the cells stay")
	require.Len(t, p.H, 1)
	assert.InDelta(t, 100, p.H[0].From, 1)
	assert.InDelta(t, 170.5, p.H[0].To, 1)
}

// The stems of l and d are as long and straight as the uprights of a comb.
func TestWordsOfUprightLettersStayAndAreNoLines(t *testing.T) {
	s := newSheet().bar(60, 60, 64, 65).bar(66, 60, 70, 65) // "no"
	s.bar(74, 60, 74.8, 70).bar(77, 60, 80, 65)             // "le"
	s.bar(84, 60, 84.8, 70)                                 // "l"
	p := s.read(recognised("no", 60, 60, 70, 65, 0.04), recognised("le", 74, 60, 80, 70, 0.2), recognised("l", 84, 60, 84.8, 70, 0.2))
	assert.ElementsMatch(t, []string{"no", "le", "l"}, texts(p))
	assert.Empty(t, p.V)
}

func TestWhatCouldNotBeReadIsSeen(t *testing.T) {
	s := newSheet()
	for i := range 6 { // letters
		s.bar(60+6*float64(i), 60, 64+6*float64(i), 66)
	}
	p := s.read(recognised("Berth", 60, 100, 90, 108, 0.03))
	assert.Equal(t, []string{"Berth", evidence.Unread}, texts(p))
	assert.InDelta(t, 94, p.Words[1].Rect.X1, 1)
}

// Dots on the baseline of the word before them were typed, though together they look like a line.
func TestDotsOnTheBaselineOfAWordAreALeader(t *testing.T) {
	dotted := func(y float64) *evidence.Page {
		s := newSheet().bar(60, 60, 64, 67).bar(66, 60, 70, 65).bar(72, 60, 76, 65)
		for i := range 60 {
			s.bar(80+3*float64(i), y, 81.8+3*float64(i), y+0.8)
		}
		return s.read(recognised("Name", 60, 60, 76, 67, 0.04))
	}
	typed := dotted(60)
	require.Len(t, typed.Words, 2)
	assert.True(t, evidence.IsLeader(typed.Words[1].Text))
	assert.InDelta(t, 259, typed.Words[1].Rect.X1, 2)
}

// Ends of lines stray; frames are closed, and rows of one extent stay rows of one extent.
func TestTheEndsOfLinesMeet(t *testing.T) {
	s := newSheet()
	for i, stray := range []float64{0, 1.4, 0.7} {
		y := 40 + 30*float64(i)
		s.bar(60+stray, y, 300-stray, y+0.8)
	}
	s.bar(60, 40, 60.8, 98).bar(299.5, 42, 300.3, 100)
	p := s.read()
	require.Len(t, p.H, 3)
	for _, h := range p.H {
		assert.InDelta(t, p.H[0].From, h.From, 0.01)
		assert.InDelta(t, p.H[0].To, h.To, 0.01)
	}
	require.Len(t, p.V, 2)
	for _, v := range p.V {
		assert.InDelta(t, p.H[2].At, v.From, 0.01)
		assert.InDelta(t, p.H[0].At, v.To, 0.01)
	}
}

// What was read out of the edge of a bar is a word as wide as the bar and hardly higher than a line.
func TestAnEdgeReadAsAWordIsNone(t *testing.T) {
	s := newSheet().bar(60, 60, 64, 67).bar(66, 60, 70, 65).bar(40, 100, 300, 112)
	p := s.read(recognised("No", 60, 60, 70, 67, 0.05), recognised("mn", 38, 111, 302, 113.4, 0.7))
	assert.Equal(t, []string{"No"}, texts(p))
}

func TestLettersThatRunTogetherAreAnUnreadWord(t *testing.T) {
	s := newSheet().bar(60, 60, 64, 67).bar(120, 60, 150, 66)
	p := s.read(recognised("l", 60, 60, 64, 67, 0.05))
	assert.Contains(t, texts(p), evidence.Unread)
}

// Frames that look sunken show their dark sides only: above and left.
func TestSunkenFramesBelowEachOtherAreClosed(t *testing.T) {
	s := newSheet()
	for _, y := range []float64{110, 84, 58, 32} {
		s.bar(100, y, 260, y+0.8).bar(100, y-14, 100.8, y)
	}
	p := s.read(recognised("Name", 20, 100, 60, 108, 0.03))
	feet, sides := 0, 0
	for _, h := range p.H {
		for _, y := range []float64{96, 70, 44, 18} {
			if h.At > y-1.5 && h.At < y+1.5 && h.Len() > 150 {
				feet++
			}
		}
	}
	for _, v := range p.V {
		if v.At > 258 && v.At < 262 {
			sides++
		}
	}
	assert.Equal(t, [2]int{4, 4}, [2]int{feet, sides})
}
