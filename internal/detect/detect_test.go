package detect_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// drawing makes evidence by drawing on a page of 600 by 800 points.
type drawing struct{ b *evidence.Builder }

func draw() drawing { return drawing{evidence.NewBuilder(600, 800, 0)} }

func (d drawing) rule(x0, y, x1 float64) drawing {
	d.b.Path(evidence.Path{Stroke: true, Width: 0.7, Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: x0, Y: y}, {X: x1, Y: y}}}}})
	return d
}

func (d drawing) area(x0, y0, x1, y1 float64, stroke bool, tone float64) drawing {
	d.b.Path(evidence.Path{
		Stroke: stroke, Fill: tone >= 0, Tone: tone, Width: 0.7,
		Subpaths: []evidence.Subpath{{
			Closed: true,
			Points: []geom.Point{{X: x0, Y: y0}, {X: x1, Y: y0}, {X: x1, Y: y1}, {X: x0, Y: y1}},
		}},
	})
	return d
}

func (d drawing) box(x0, y0, x1, y1 float64) drawing { return d.area(x0, y0, x1, y1, true, -1) }

// triangle draws a small filled triangle that points down.
func (d drawing) triangle(x0, y0, x1, y1 float64) drawing {
	d.b.Path(evidence.Path{Fill: true, Subpaths: []evidence.Subpath{{
		Closed: true, Points: []geom.Point{{X: x0, Y: y1}, {X: x1, Y: y1}, {X: (x0 + x1) / 2, Y: y0}},
	}}})
	return d
}

// text sets monospaced type, 5 points a sign and 7 high, on a baseline.
func (d drawing) text(x, y float64, s string) drawing {
	for _, r := range s {
		switch r {
		case ' ':
			d.b.Glyph(r, geom.R(x, y, x, y))
		case '_':
			d.b.Glyph(r, geom.R(x, y-1.5, x+5, y-1))
		case '.':
			d.b.Glyph(r, geom.R(x+1, y, x+2, y+1))
		default:
			d.b.Glyph(r, geom.R(x, y, x+4.5, y+7))
		}
		x += 5
	}
	d.b.Glyph('\n', geom.Rect{})
	return d
}

func (d drawing) find() []detect.Find { return detect.Page(d.b.Page()) }

func placed(fs []detect.Find) []detect.Find {
	var out []detect.Find
	for _, f := range fs {
		if f.Confidence >= form.LikelyFrom {
			out = append(out, f)
		}
	}
	return out
}

func one(t *testing.T, d drawing) detect.Find {
	t.Helper()
	fs := placed(d.find())
	require.Len(t, fs, 1, "%+v", fs)
	return fs[0]
}

func TestLabelAndRule(t *testing.T) {
	f := one(t, draw().text(50, 702, "Name of vessel").rule(130, 700, 342))
	assert.Equal(t, form.Text, f.Kind)
	assert.Equal(t, "name_vessel", f.Name)
	assert.Equal(t, "Name of vessel", f.Tooltip)
	assert.Equal(t, "rule 212 pt long, right of “Name of vessel”", f.Evidence)
	assert.InDelta(t, 700, f.Rect.Y0, 0.01, "it sits on the rule")
	assert.InDelta(t, 212, f.Rect.W(), 0.01)
	assert.GreaterOrEqual(t, f.Rect.H(), 11.0)
	assert.LessOrEqual(t, f.Rect.H(), 18.0)
}

func TestLabelAndUnderscores(t *testing.T) {
	f := one(t, draw().text(50, 700, "Wanted from "+strings.Repeat("_", 20)))
	assert.Equal(t, "wanted_from", f.Name)
	assert.InDelta(t, 100, f.Rect.W(), 1)
	assert.Contains(t, f.Evidence, "row of underscores")
}

func TestADottedLeaderThatLeadsToNothingIsALineToWriteOn(t *testing.T) {
	f := one(t, draw().text(50, 700, "Insured with "+strings.Repeat(".", 40)))
	assert.Contains(t, f.Evidence, "dotted leader")
	assert.Equal(t, form.Likely, form.LevelOf(f.Confidence))
	assert.Empty(t, placed(draw().text(50, 700, "Contents "+strings.Repeat(".", 40)+" 12").find()),
		"one that leads to a page number is none")
}

func TestACellWithItsCaptionKeepsTheFieldBelowIt(t *testing.T) {
	f := one(t, draw().box(50, 600, 200, 634).text(53, 623, "Port of registry"))
	assert.InDelta(t, 50, f.Rect.X0, 0.01)
	assert.InDelta(t, 200, f.Rect.X1, 0.01)
	assert.InDelta(t, 600, f.Rect.Y0, 0.01)
	assert.LessOrEqual(t, f.Rect.Y1, 623.0, "never over the caption")
	assert.Equal(t, form.Sure, form.LevelOf(f.Confidence))
}

func TestALargeBoxTakesSeveralLines(t *testing.T) {
	f := one(t, draw().text(50, 706, "Remarks").box(50, 600, 500, 700))
	assert.True(t, f.Multiline)
	assert.Equal(t, "remarks", f.Name)
}

func TestCheckBoxesAreAsDrawnAndNamedByTheWordsAfterThem(t *testing.T) {
	fs := placed(draw().box(50, 700, 60, 710).text(65, 701, "fin").box(120, 700, 130, 710).text(135, 701, "bilge").find())
	require.Len(t, fs, 2)
	assert.Equal(t, geom.R(50, 700, 60, 710), fs[0].Rect)
	assert.Equal(t, []string{"fin", "bilge"}, []string{fs[0].Name, fs[1].Name})
	for _, f := range fs {
		assert.Equal(t, form.CheckBox, f.Kind)
	}
}

func TestFourStrokesAreABoxToo(t *testing.T) {
	d := draw().rule(50, 700, 60).rule(50, 710, 60).text(65, 701, "agreed")
	for _, x := range []float64{50, 60} {
		d.b.Path(evidence.Path{
			Stroke: true, Width: 0.7,
			Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: x, Y: 700}, {X: x, Y: 710}}}},
		})
	}
	assert.Equal(t, form.CheckBox, one(t, d).Kind)
}

func TestAdjoiningCellsAreOneComb(t *testing.T) {
	d := draw().text(50, 706, "Registration no.")
	for i := range 8 {
		d.box(150+float64(i)*18, 700, 168+float64(i)*18, 720)
	}
	f := one(t, d)
	assert.Equal(t, 8, f.Comb)
	assert.Equal(t, geom.R(150, 700, 294, 720), f.Rect)
}

func TestSignatureAndDateBelowTheirLines(t *testing.T) {
	fs := placed(draw().rule(50, 200, 250).text(50, 189, "Signature of applicant").rule(300, 200, 420).text(300, 189, "Date").find())
	require.Len(t, fs, 2)
	assert.Equal(t, form.Signature, fs[0].Kind)
	assert.Greater(t, fs[0].Rect.H(), 16.0, "a hand needs room")
	assert.Equal(t, form.Text, fs[1].Kind)
	assert.Equal(t, "date", fs[1].Format)
}

func TestEmptyTableCellsAreNamedByTheirColumn(t *testing.T) {
	d := draw()
	for r := range 4 {
		for c := range 3 {
			d.box(50+float64(c)*100, 600-float64(r)*20, 150+float64(c)*100, 620-float64(r)*20)
		}
	}
	for c, h := range []string{"Crew name", "Nationality", "Cabin"} {
		d.text(55+float64(c)*100, 606, h)
	}
	fs := placed(d.find())
	require.Len(t, fs, 9)
	assert.Equal(t, []string{"crew_name_1", "nationality_1", "cabin_1", "crew_name_2"},
		[]string{fs[0].Name, fs[1].Name, fs[2].Name, fs[3].Name})
}

func TestWhiteOnTintedGround(t *testing.T) {
	f := one(t, draw().area(40, 500, 400, 600, false, 0.9).text(60, 556, "Berth no.").area(60, 530, 170, 548, false, 1))
	assert.Equal(t, geom.R(60, 530, 170, 548), f.Rect)
}

func TestWhatOnlyLooksLikeAField(t *testing.T) {
	for name, d := range map[string]drawing{
		"underlined heading": draw().text(50, 700, "Particulars of the vessel").rule(50, 697, 175),
		"page-wide divider": draw().text(50, 740, "Harbour office of the quay and its long quiet mole, in the town").
			rule(40, 720, 560).text(50, 600, strings.Repeat("words ", 17)),
		"paragraph": draw().text(50, 700, strings.Repeat("plain words ", 8)).text(50, 688, strings.Repeat("more words ", 8)),
		"grey cell": draw().area(50, 600, 200, 620, true, 0.6).text(55, 626, "Total"),
		"logo":      draw().box(500, 700, 512, 712).box(514, 700, 526, 712),
		"note in a box": draw().box(50, 600, 300, 640).text(55, 625, strings.Repeat("mind the gap ", 3)).
			text(55, 606, strings.Repeat("mind the step ", 3)),
	} {
		assert.Empty(t, placed(d.find()), name)
	}
	table := draw()
	for r := range 5 {
		for c := range 4 {
			table.box(50+float64(c)*100, 600-float64(r)*18, 150+float64(c)*100, 618-float64(r)*18).
				text(55+float64(c)*100, 605-float64(r)*18, "11.50")
		}
	}
	assert.Empty(t, placed(table.find()), "filled table")
}

func TestNamesAreUniqueAndPlain(t *testing.T) {
	d := draw()
	for i, s := range []string{"Länge über alles", "1. Née le", "Name", "Name", "Tél. / phone"} {
		y := 700 - float64(i)*40
		d.text(50, y+2, s).rule(150, y, 300)
	}
	fs := placed(d.find())
	require.Len(t, fs, 5)
	seen := map[string]bool{}
	for _, f := range fs {
		assert.Regexp(t, `^[a-z][a-z0-9_]*$`, f.Name)
		assert.False(t, seen[f.Name], f.Name)
		seen[f.Name] = true
	}
	assert.True(t, seen["name_2"])
	assert.Equal(t, "phone", fs[4].Format)
}

func TestAPressTakesTheShapeAndTheNameOfWhatIsThere(t *testing.T) {
	ev := draw().box(50, 600, 200, 634).text(53, 623, "Port of registry").text(50, 502, "Beam").rule(130, 500, 300).
		box(400, 600, 410, 610).text(415, 601, "yes").b.Page()
	f, ok := detect.At(ev, geom.Point{X: 120, Y: 606}, form.Text)
	require.True(t, ok)
	assert.Equal(t, "port_registry", f.Name)
	assert.InDelta(t, 150, f.Rect.W(), 0.01)
	f, ok = detect.At(ev, geom.Point{X: 200, Y: 507}, form.Text)
	require.True(t, ok)
	assert.Equal(t, "beam", f.Name)
	f, ok = detect.At(ev, geom.Point{X: 405, Y: 605}, form.CheckBox)
	require.True(t, ok)
	assert.Equal(t, geom.R(400, 600, 410, 610), f.Rect)
	_, ok = detect.At(ev, geom.Point{X: 300, Y: 300}, form.Text)
	assert.False(t, ok, "nothing is printed there")
}
