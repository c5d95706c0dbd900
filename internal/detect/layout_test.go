package detect_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func namesOf(fs []detect.Find) []string {
	var out []string
	for _, f := range fs {
		out = append(out, f.Name)
	}
	return out
}

func TestBoxesThatStandApartAtOneDistanceAreAComb(t *testing.T) {
	row := func(n int, captions ...string) []detect.Find {
		d := draw().text(60, 604, "Badge number")
		for i := range n {
			x := 200 + float64(i)*18
			d = d.box(x, 600, x+14, 616)
			if i < len(captions) {
				d = d.text(x+4, 618, captions[i])
			}
		}
		return placed(d.find())
	}
	fs := row(6)
	require.Len(t, fs, 1)
	assert.Equal(t, 6, fs[0].Comb)
	assert.InDelta(t, 198, fs[0].Rect.X0, 0.1, "its cells are as wide as the boxes are apart")
	assert.InDelta(t, 306, fs[0].Rect.X1, 0.1)
	for _, f := range row(5, "1", "2", "3", "4", "5") {
		assert.Zero(t, f.Comb, "a scale of answers is none")
	}
}

func TestTheGroupsOfADateAreACombEach(t *testing.T) {
	d := draw().text(60, 604, "Date of arrival")
	x := 200.0
	for _, n := range []int{2, 2, 4} { // DD MM YYYY
		for range n {
			d = d.box(x, 600, x+14, 616)
			x += 14
		}
		x += 10
	}
	fs := placed(d.find())
	require.Len(t, fs, 3)
	for i, n := range []int{2, 2, 4} {
		assert.Equal(t, n, fs[i].Comb)
		assert.InDelta(t, float64(n)*14, fs[i].Rect.W(), 0.1)
		assert.Contains(t, fs[i].Name, "date_arrival")
	}
}

func TestTintedAreasAreThePlacesToWriteWhenTheyAreEmpty(t *testing.T) {
	area := func(d drawing, y float64) drawing { return d.area(200, y, 400, y+16, false, 0.92) }
	d := draw()
	for i, s := range []string{"Vessel", "Home port", "Flag"} {
		y := 600 - float64(i)*24
		d = area(d.text(60, y+4, s), y)
	}
	fs := placed(d.find())
	assert.Equal(t, []string{"vessel", "home_port", "flag"}, namesOf(fs))
	assert.InDelta(t, 200, fs[0].Rect.W(), 0.1)
	assert.Empty(t, placed(area(draw().text(60, 604, "Vessel"), 600).find()), "one alone is for looks")
	full := draw()
	for i := range 6 { // bars with headings in them, and three empty ones
		full = area(full, 600-float64(i)*24)
		if i < 3 {
			full = full.text(210, 604-float64(i)*24, "Part")
		}
	}
	assert.Empty(t, placed(full.find()))
}

func TestHeadsAloneTellTheColumnsOfARuledTable(t *testing.T) {
	ruled := func(fill bool) []detect.Find {
		d := draw().text(64, 606, "Family name").text(224, 606, "Rank").text(384, 606, "Born on")
		for i := range 5 {
			y := 600 - float64(i)*18
			d = d.rule(60, y, 540)
			if fill && i > 0 {
				d = d.text(64, y+5, "Maas").text(224, y+5, "mate").text(384, y+5, "1990")
			}
		}
		return placed(d.find())
	}
	fs := ruled(false)
	require.Len(t, fs, 12)
	assert.Equal(t, []string{"family_name_1", "rank_1", "born_1"}, namesOf(fs[:3]))
	assert.InDelta(t, 60, fs[0].Rect.X0, 1)
	assert.InDelta(t, 220, fs[1].Rect.X0, 1)
	assert.Empty(t, ruled(true), "a printed table")
}

func TestBlanksInASentenceAreCalledByTheWordsBeforeThem(t *testing.T) {
	fs := placed(draw().text(60, 602, "I am the owner of").rule(150, 600, 300).text(306, 602, "and leave the").
		rule(60, 578, 180).text(183, 580, "in berth").rule(230, 578, 290).find())
	require.Len(t, fs, 3)
	assert.Equal(t, "owner", fs[0].Name)
	assert.Contains(t, fs[1].Name, "leave", "the line before ends with them")
	assert.Equal(t, "berth", fs[2].Name)
}

func TestABlankInPartsIsOneField(t *testing.T) {
	fs := placed(draw().text(60, 600, "Course date").text(200, 600, "____ / ____ / ________").find())
	require.Len(t, fs, 1)
	assert.Equal(t, "course_date", fs[0].Name)
	assert.Equal(t, "date", fs[0].Format)
	assert.Contains(t, fs[0].Evidence, "3 parts")
}

func TestARowOfBoxesIsNoLineToWriteOn(t *testing.T) {
	fs := placed(draw().text(320, 622, "yes").text(380, 622, "no").text(60, 602, "the crane").
		box(322, 602, 332, 612).box(382, 602, 392, 612).rule(60, 598, 420).find())
	require.Len(t, fs, 2)
	for _, f := range fs {
		assert.NotEqual(t, form.Text, f.Kind)
	}
}

func TestALabelHalfWayDownALargeBox(t *testing.T) {
	fs := placed(draw().text(60, 560, "Notes").box(200, 530, 500, 600).find())
	require.Len(t, fs, 1)
	assert.Equal(t, "notes", fs[0].Name)
	assert.True(t, fs[0].Multiline)
}

func TestANoticeInABoxIsNoField(t *testing.T) {
	assert.Empty(t, placed(draw().box(60, 500, 540, 532).text(70, 512, "Three knots in the basin").find()), "words in the middle")
	fs := placed(draw().box(60, 500, 540, 532).text(63, 523, "Name of vessel").find())
	require.Len(t, fs, 1, "words at the top are a caption")
	assert.Less(t, fs[0].Rect.Y1, 524.0)
}

func TestTheGroundOfAScanTellsWhereToWrite(t *testing.T) {
	page := func(tone uint8) *evidence.Page {
		d := draw().text(60, 604, "Vessel").box(200, 600, 400, 616)
		p := d.b.Page()
		p.Ground = &evidence.Ground{Cell: 4, W: 150, H: 200, Tone: make([]uint8, 150*200)}
		for i := range p.Ground.Tone {
			p.Ground.Tone[i] = tone
		}
		return p
	}
	assert.InDelta(t, 1, page(255).Ground.Of(geom.R(100, 100, 200, 120), 800), 0.01)
	assert.Len(t, placed(detect.Page(page(255))), 1)
	assert.Empty(t, placed(detect.Page(page(180))), "shaded: leave this blank")
}
