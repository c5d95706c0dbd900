package evidence_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

func line(x0, y0, x1, y1 float64) evidence.Path {
	return evidence.Path{Stroke: true, Width: 0.7, Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: x0, Y: y0}, {X: x1, Y: y1}}}}}
}

func rect(r geom.Rect) evidence.Subpath {
	return evidence.Subpath{Closed: true, Points: []geom.Point{
		{X: r.X0, Y: r.Y0},
		{X: r.X1, Y: r.Y0},
		{X: r.X1, Y: r.Y1},
		{X: r.X0, Y: r.Y1},
	}}
}

// word adds glyphs of a monospaced typeface, 5 points wide and 7 high.
func word(b *evidence.Builder, x, y float64, s string) {
	for _, r := range s {
		switch r {
		case ' ':
			b.Glyph(r, geom.R(x, y, x, y))
		case '_':
			b.Glyph(r, geom.R(x, y-1, x+5, y-0.5))
		default:
			b.Glyph(r, geom.R(x, y, x+4.5, y+7))
		}
		x += 5
	}
	b.Glyph('\n', geom.Rect{})
}

func TestAThinFilledRectangleIsTheRuleItIsMeantToBe(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	b.Path(evidence.Path{Fill: true, Subpaths: []evidence.Subpath{rect(geom.R(100, 500, 300, 501))}})
	p := b.Page()
	require.Len(t, p.H, 1)
	assert.InDelta(t, 500.5, p.H[0].At, 1e-9)
	assert.InDelta(t, 200, p.H[0].Len(), 1e-9)
	assert.Empty(t, p.Boxes)
}

func TestPiecesOfOneLineAreJoined(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	for i := range 10 {
		b.Path(line(100+float64(i)*20, 500, 120+float64(i)*20, 500))
	}
	b.Path(line(340, 500, 400, 500)) // 40 points further: another line
	p := b.Page()
	require.Len(t, p.H, 2)
	assert.False(t, p.H[0].Dashed)
	assert.InDelta(t, 200, p.H[0].Len(), 1e-9)
}

func TestARowOfDashesIsOneDashedRule(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	for i := range 30 {
		b.Path(line(100+float64(i)*6, 500, 103+float64(i)*6, 500))
	}
	p := b.Page()
	require.Len(t, p.H, 1)
	assert.True(t, p.H[0].Dashed)
}

func TestAStrokedRectangleGivesABoxAndItsFourRules(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	b.Path(evidence.Path{Stroke: true, Width: 1, Subpaths: []evidence.Subpath{rect(geom.R(50, 50, 150, 90))}})
	p := b.Page()
	require.Len(t, p.Boxes, 1)
	assert.True(t, p.Boxes[0].Stroked)
	assert.Negative(t, p.Boxes[0].Tone)
	assert.Len(t, p.H, 2)
	assert.Len(t, p.V, 2)
}

func TestWhiteStrokesAndSpecksAreNothing(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	white := line(10, 10, 200, 10)
	white.Ink = 1
	b.Path(white)
	b.Path(line(10, 20, 11, 20))
	b.Path(line(10, 30, 60, 55)) // a slant
	p := b.Page()
	assert.Empty(t, p.H)
	assert.Empty(t, p.V)
}

func TestGlyphsBecomeWordsAndLines(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	word(b, 50, 700, "Name of vessel")
	word(b, 300, 700, "Beam")
	word(b, 50, 680, "Port____")
	p := b.Page()
	var texts []string
	for _, l := range p.Lines {
		texts = append(texts, l.Text())
	}
	assert.Equal(t, []string{"Name of vessel", "Beam", "Port", "____"}, texts)
	assert.InDelta(t, 10, p.Lines[0].Size, 0.01, "capitals 7 points high are type of 10 points")
}

func TestLeadersAndTicks(t *testing.T) {
	for s, want := range map[string]bool{"____": true, "_": true, "....": true, "…": false, "..": false, "a__": false, "………": true} {
		assert.Equal(t, want, evidence.IsLeader(s), s)
	}
	for s, want := range map[string]bool{"☐": true, "□": true, "○": true, "[]": true, "\uf0a8": true, "x": false, "■": false} {
		assert.Equal(t, want, evidence.IsTick(s), s)
	}
}

func TestALineOfSpecksIsALine(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	for x := 60.0; x < 500; x += 0.4 { // each higher than it is wide
		b.Path(evidence.Path{Fill: true, Subpaths: []evidence.Subpath{rect(geom.R(x, 500, x+0.1, 501.1))}})
	}
	p := b.Page()
	require.Len(t, p.H, 1)
	assert.InDelta(t, 440, p.H[0].Len(), 1)
	assert.InDelta(t, 500.55, p.H[0].At, 0.1)
	assert.Empty(t, p.V)
}
