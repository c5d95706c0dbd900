package detect_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/geom"
)

// ruled draws rows with words at the left, a rule across below each, and nothing else.
func ruled(rise float64, words ...string) drawing {
	d := draw()
	for i, s := range words {
		y := 700 - 30*float64(i)
		d = d.text(64, y+rise, s).rule(60, y, 540)
	}
	return d
}

func TestTheRestOfARuledRowIsAField(t *testing.T) {
	fs := placed(ruled(12, "Vessel:", "Name of the owner:", "Home port:", "Sail number:").find())
	require.Len(t, fs, 4)
	stop := fs[0].Rect.X0
	for i, f := range fs {
		assert.Equal(t, []string{"vessel", "name_owner", "home_port", "sail_number"}[i], f.Name)
		assert.InDelta(t, stop, f.Rect.X0, 0.1, "from one tab stop")
		assert.Greater(t, f.Rect.X0, 64+5*18.0, "right of the longest label")
		assert.InDelta(t, 540, f.Rect.X1, 2)
		assert.Greater(t, f.Rect.H(), 22.0, "with its label half way up, the row is the field")
	}
	low := placed(ruled(3, "Vessel:", "Owner:", "Home port:", "Sail number:").find())
	require.Len(t, low, 4)
	assert.Less(t, low[0].Rect.H(), 18.0, "a label that stands on the rule asks for a line of type")
}

func TestRowsOfAPrintedListAreNoFields(t *testing.T) {
	d := draw()
	for i, row := range [][2]string{{"First tide:", "06:12"}, {"Second tide:", "18:40"}, {"Sunrise:", "05:20"}, {"Sunset:", "21:03"}} {
		y := 700 - 30*float64(i)
		d = d.text(64, y+12, row[0]).text(300, y+12, row[1]).rule(60, y, 540)
	}
	assert.Empty(t, placed(d.find()), "what stands there is the answer")
	assert.Empty(t, placed(ruled(12, "Notices",
		"The harbour is closed to all craft while the dredger lies in the fairway and until the buoys are out",
		"Fees", "Fees are those of the schedule and are due before the berth is taken, whatever the length of the stay").find()),
		"sections between rules")
}

func TestGroupsOfACombAreOneField(t *testing.T) {
	d := draw().text(60, 722, "Insurance number").rule(60, 700, 240)
	for i := range 13 {
		x, top := 60+15*float64(i), 705.0
		if i == 0 || i == 2 || i == 8 || i == 9 || i == 12 { // where a group begins
			top = 715
		}
		d = d.box(x, 700, x, top)
	}
	fs := placed(d.find())
	require.Len(t, fs, 1)
	assert.Equal(t, 12, fs[0].Comb)
	assert.InDelta(t, 180, fs[0].Rect.W(), 1)
	assert.Equal(t, "insurance_number", fs[0].Name)
}

func TestTheEdgesOfABoxToTickAreNoLinesToWriteOn(t *testing.T) {
	d := draw().text(60, 716, "Are you the owner of the vessel, or do you keep it for").text(60, 704, "somebody else?")
	for i, s := range []string{"no", "yes"} {
		x := 60 + 60*float64(i)
		for _, y := range []float64{684, 698} {
			d = d.rule(x, y, x+14)
		}
		d = d.box(x, 684, x, 698).box(x+14, 684, x+14, 698).text(x+18, 687, s)
	}
	for _, f := range placed(d.find()) {
		assert.InDelta(t, 14, f.Rect.H(), 0.5, f.Evidence)
	}
	assert.Len(t, placed(d.find()), 2)
}

func TestNoFindLiesOverPrintedWords(t *testing.T) {
	d := draw().box(60, 600, 300, 640).text(150, 620, "for the office").text(64, 632, "Stamp")
	for _, f := range d.find() {
		over := f.Rect.Intersect(geom.R(150, 620, 220, 627))
		assert.False(t, over.W() > 0 && over.H() > 2, "%v %s", f.Rect, f.Evidence)
	}
}

func TestGuideTextIsOfAPatternAndNoWord(t *testing.T) {
	for _, s := range []string{"DD", "DD.MM.YYYY", "TT", "JJJJ", "dd/mm/yy", "MM-YY", "/", "-"} {
		assert.True(t, detect.IsGuide(s), s)
	}
	for _, s := range []string{"Dory", "1900", "D.M", "", "need"} {
		assert.False(t, detect.IsGuide(s), s)
	}
}

func TestCaptionsInARowDivideTheirCell(t *testing.T) {
	d := draw().box(60, 600, 540, 630).text(64, 603, "House and land").
		text(240, 620, "Value in crowns").text(390, 620, "Debt in crowns")
	fs := placed(d.find())
	require.Len(t, fs, 2)
	for i, f := range fs {
		assert.Equal(t, []string{"value_crowns", "debt_crowns"}[i], f.Name)
		assert.InDelta(t, []float64{240, 390}[i], f.Rect.X0, 3)
	}
	ticks := draw().box(60, 600, 540, 640).text(64, 632, "Is it insured?").box(64, 615, 74, 625).
		text(78, 617, "yes").box(124, 615, 134, 625).
		text(138, 617, "no")
	for _, f := range placed(ticks.find()) {
		assert.InDelta(t, 10, f.Rect.W(), 0.5, "words beside boxes to tick are no captions")
	}
}

func TestARuleUnderAQuestionIsForItsAnswer(t *testing.T) {
	page := func(question string) []detect.Find {
		return placed(draw().
			text(60, 722, "What the harbour office has to know of the vessel and of those who sail in her, when she comes in").
			text(60, 636, question).rule(60, 612, 542).find())
	}
	assert.Len(t, page("My address for letters of the office is:"), 1)
	assert.Empty(t, page("My address for letters of the office"), "without a colon a rule as wide as the text parts it")
}

func TestALeaderWithinASentenceIsABlank(t *testing.T) {
	count := func(lines ...string) int {
		d := draw()
		for i, s := range lines {
			d = d.text(60, 700-24*float64(i), s)
		}
		return len(placed(d.find()))
	}
	assert.Equal(t, 1, count("Weight of the load: .................... kg"))
	assert.Equal(t, 2, count("between .................... and ...................."))
	assert.Zero(t, count("Herring, smoked .................... 4.50", "Mackerel .......................... 6.20"), "a price")
	assert.Zero(t, count("Morning .................... Welcome by the harbour", "Noon ....................... Dinner in the sail loft",
		"Evening .................... Lanterns on the quay"), "a programme")
}

// asScan gives the page as if it were a picture of white paper.
func asScan(d drawing) *evidence.Page {
	p := d.b.Page()
	p.Ground = &evidence.Ground{Cell: 600, W: 1, H: 2, Tone: []uint8{255, 255}}
	return p
}

// The bar over a table and its rules differ by what a scan strays.
func TestRowsHangFromABarOfHardlyAnotherWidth(t *testing.T) {
	d := draw().area(61.7, 700, 539.6, 716, false, 0.17).text(64, 704, "Guest").text(220, 704, "Nights").text(400, 704, "Notes")
	for i := range 4 {
		d = d.rule(61.3, 682-18*float64(i), 540.1)
	}
	fs := placed(detect.Page(asScan(d)))
	require.Len(t, fs, 12)
	assert.InDelta(t, 61.5, fs[0].Rect.X0, 1)
	assert.InDelta(t, 216, fs[0].Rect.X1, 2)
}

func TestAColumnWhoseHeadCouldNotBeReadIsThere(t *testing.T) {
	table := func(head string) int {
		d := draw().text(64, 504, "Guest").text(224, 504, head)
		for i := range 4 {
			for _, x := range []float64{60, 220} {
				d = d.box(x, 482-18*float64(i), x+160, 500-18*float64(i))
			}
		}
		return len(placed(detect.Page(asScan(d.box(60, 500, 220, 518).box(220, 500, 380, 518)))))
	}
	assert.Equal(t, 8, table("Nights"))
	assert.Equal(t, 8, table("?"))
}

func TestTheWordsOfABarCaptionNothingBelowIt(t *testing.T) {
	d := draw().area(50, 700, 550, 718, false, 0.9).text(54, 705, "Fees").text(140, 705, "payment").rule(50, 680, 330).
		text(50, 668, "Postcode")
	fs := placed(d.find())
	require.Len(t, fs, 1)
	assert.Equal(t, "postcode", fs[0].Name)
}

// White rows between tinted ones: on paper the tint spreads a little.
func TestStripesThatSpreadAreRowsLikeTheirGaps(t *testing.T) {
	d := draw().text(64, 706, "Guest").text(220, 706, "Nights").text(400, 706, "Notes")
	for i := range 3 {
		y := 700 - 34*float64(i)
		d = d.area(60, y-19.5, 540, y+2.5, false, 0.93)
	}
	fs := placed(detect.Page(asScan(d)))
	require.Len(t, fs, 15)
	for _, f := range fs {
		assert.InDelta(t, 17, f.Rect.H(), 2.5)
	}
}
