package detect_test

import (
	"fmt"
	"image"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func TestTypedCombsAreCombs(t *testing.T) {
	for typed, cells := range map[string]int{"|__|__|__|__|": 4, "_ _ - _ _ _": 5, "__.__.____": 8} {
		fs := draw().text(60, 700, "Postcode:").text(130, 700, typed).find()
		require.Len(t, fs, 1, typed)
		assert.Equal(t, cells, fs[0].Comb, typed)
		assert.Equal(t, "postcode", fs[0].Name)
	}
	fs := draw().text(60, 700, "Name: ______________").find()
	require.Len(t, fs, 1)
	assert.Zero(t, fs[0].Comb, "a long blank is no comb")
}

func TestACombMayBeOpenAtTheTopOrItsCellsApart(t *testing.T) {
	open := draw().text(60, 720, "Berth card number").rule(60, 700, 180)
	for i := range 7 {
		x := 60 + 20*float64(i)
		open = open.area(x, 700, x, 718, true, -1)
	}
	fs := placed(open.find())
	require.Len(t, fs, 1)
	assert.Equal(t, 6, fs[0].Comb)

	apart := draw().text(60, 722, "Berth card number")
	for i := range 5 {
		apart = apart.box(60+22*float64(i), 700, 78+22*float64(i), 718)
	}
	fs = placed(apart.find())
	require.Len(t, fs, 1)
	assert.Equal(t, 5, fs[0].Comb)
}

// The second and third group of a date stand beside the label too, but only the first stands next to it.
func TestTheGroupsOfACombShareTheirLabel(t *testing.T) {
	d := draw().text(60, 722, "Born on")
	x := 60.0
	for _, n := range []int{2, 2, 4} {
		for range n {
			d = d.box(x, 700, x+16, 718)
			x += 16
		}
		x += 10
	}
	fs := placed(d.find())
	require.Len(t, fs, 3)
	for i, f := range fs {
		assert.Equal(t, "Born on", f.Label)
		assert.Equal(t, []int{2, 2, 4}[i], f.Comb)
		assert.Equal(t, []string{"born_on_day", "born_on_month", "born_on_year"}[i], f.Name, "the parts of a date are called so")
		assert.Equal(t, []string{"Born on, day", "Born on, month", "Born on, year"}[i], f.Tooltip)
	}
}

func TestZebraRowsAreRowsAndSoAreTheWhiteOnesBetween(t *testing.T) {
	d := draw()
	for i, head := range []string{"Guest", "From", "Nights"} {
		d = d.text(64+160*float64(i), 705, head)
	}
	for i := range 3 { // cell by cell, as word processors paint them; every second row is tinted
		for c := range 3 {
			x, y := 60+160*float64(c), 680-40*float64(i)
			d = d.area(x, y, x+160, y+20, false, 0.93)
		}
	}
	fs := placed(d.find())
	require.Len(t, fs, 15, "five rows of three, the last of them tinted")
	assert.Contains(t, fs[0].Name, "guest")
	assert.Contains(t, fs[1].Name, "from")
}

func TestTheHeadOfARowIsNoField(t *testing.T) {
	d := draw().text(64, 706, "Charge").text(224, 706, "Nights")
	for i := range 5 {
		d = d.rule(60, 720-20*float64(i), 380)
	}
	for _, x := range []float64{60, 220, 380} {
		d = d.area(x, 640, x, 720, true, -1)
	}
	for i, row := range []string{"Mooring", "Crane", "Power"} {
		d = d.text(64, 692-20*float64(i), row)
	}
	var names []string
	for _, f := range placed(d.find()) {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"mooring_nights", "crane_nights", "power_nights"}, names)
}

func TestLabelsOverRuledLinesAreNoRowsOfAList(t *testing.T) {
	d := draw()
	for i, label := range []string{"Keeper of the boat", "Street", "Town", "Insurer"} {
		y := 700 - 34*float64(i)
		d = d.rule(60, y, 300).text(60, y+18, label)
	}
	fs := placed(d.find())
	require.Len(t, fs, 4)
	for _, f := range fs {
		assert.InDelta(t, 60, f.Rect.X0, 1, "the whole line is written on, not what is right of the label")
	}
}

func TestSmallBorderedCellsAreTickedWhenWordsStandBesideThem(t *testing.T) {
	d := draw().text(60, 740, "Papers enclosed")
	for i, s := range []string{"Survey report", "Proof of insurance", "Letter of the last owner"} {
		y := 720 - 14*float64(i)
		d = d.box(60, y-14, 80, y).text(86, y-10, s)
	}
	fs := d.find()
	require.Len(t, fs, 3)
	for _, f := range fs {
		assert.Equal(t, form.CheckBox, f.Kind)
	}
	assert.Equal(t, "survey_report", fs[0].Name)
}

func TestAStruckOutCellIsNoField(t *testing.T) {
	d := draw().box(60, 680, 160, 700).box(160, 680, 260, 700).text(64, 705, "Nights").text(164, 705, "Amount").text(66, 686, "–")
	fs := placed(d.find())
	require.Len(t, fs, 1)
	assert.Equal(t, "amount", fs[0].Name)
}

// Labels of several lines are read whole, whichever of their lines stands beside the field.
func TestALabelBesideItsFieldMayHaveSeveralLines(t *testing.T) {
	fs := placed(draw().text(60, 712, "Number of persons").text(60, 702, "on board:").rule(180, 700, 300).find())
	require.Len(t, fs, 1)
	assert.Equal(t, "Number of persons on board", fs[0].Label)
}

// Check boxes stay with their question: they do not come before the name at the top because they stand at the left edge.
func TestTabOrderGoesByPrintedLinesAndBlocks(t *testing.T) {
	d := draw().text(60, 742, "Name").rule(140, 740, 300).text(320, 742, "Town").rule(380, 740, 540).
		text(60, 712, "Street").rule(140, 710, 300).text(320, 712, "Phone").rule(380, 710, 540).
		text(60, 682, "Services wanted (tick all that apply)")
	for i, s := range []string{"power", "water", "crane"} {
		y := 660 - 16*float64(i)
		d = d.box(60, y, 70, y+10).text(76, y+2, s)
	}
	d = d.text(60, 592, "Insurer").rule(140, 590, 300)
	assert.Equal(t, []string{"name", "town", "street", "phone", "power", "water", "crane", "insurer"}, namesOf(d.find()))

	columns := draw().text(60, 760, "Keeper").text(330, 760, "Boat")
	for i, s := range []string{"name", "street", "town"} { // rows that match, under a heading for each column
		y := 720 - 24*float64(i)
		columns = columns.text(60, y, s).rule(110, y-2, 280).text(330, y, []string{"vessel", "sail", "engine"}[i]).rule(390, y-2, 540)
	}
	assert.Equal(t, []string{"name", "street", "town", "vessel", "sail", "engine"}, namesOf(columns.find()))
}

func TestTheOrderOfPlacedFieldsGoesByWhatIsPrinted(t *testing.T) {
	b := draw().text(60, 760, "Keeper").text(330, 760, "Boat")
	var fields []form.Field
	for i, s := range []string{"name", "street", "town"} {
		y := 720 - 24*float64(i)
		b = b.text(60, y, s).rule(110, y-2, 280).text(330, y, []string{"vessel", "sail", "engine"}[i]).rule(390, y-2, 540)
		fields = append(fields, form.Field{ID: fmt.Sprint("left", i), Rect: geom.R(110, y-2, 280, y+12)},
			form.Field{ID: fmt.Sprint("right", i), Rect: geom.R(390, y-2, 540, y+12)})
	}
	assert.Equal(t, []string{"left0", "left1", "left2", "right0", "right1", "right2"}, detect.Order(b.b.Page(), fields))
}

func formatOf(label string) string {
	fs := placed(draw().text(60, 702, label+":").rule(330, 700, 470).find())
	if len(fs) != 1 {
		return "not one field"
	}
	return fs[0].Format
}

// Identities and parts of an address are no numbers, hours and turns no times, a line for two things is of neither.
func TestWhatOnlySoundsLikeAFormat(t *testing.T) {
	for _, label := range []string{
		"Card number", "House name or flat number", "Kontonummer", "Número de tarjeta", "Numero della tessera", "Numer karty",
		"Opening hours", "Öffnungszeiten", "Orari di apertura", "Next time", "Place, date", "Ort, Datum", "Date and signature",
		"Method of payment", "Vertrag", "Nombre del huésped", "Αριθμός κάρτας", "Номер картки",
	} {
		assert.Empty(t, formatOf(label), label)
	}
	for label, want := range map[string]string{
		"Born on": "date", "Ausgestellt am": "date", "Valid until": "date", "Gültig bis": "date", "Día de llegada": "date",
		"Week of": "date", "Ankunftstag": "date", "Nombre de personnes": "number", "Número de personas": "number",
		"Numero di persone": "number", "Number of guests": "number", "Lengte over alles (m)": "number", "Price (EUR)": "money",
		"Liegegebühr": "money", "Kwota opłaty": "money", "Ημερομηνία γέννησης": "date", "Кількість осіб": "number",
		"Datum narození": "date", "Fødselsdag": "date",
	} {
		assert.Equal(t, want, formatOf(label), label)
	}
}

// The order of a date comes from the pattern that is printed, else from the language of the page.
func TestFormatsWithoutDoubtAreSetAtOnce(t *testing.T) {
	f := one(t, draw().text(60, 702, "Date of arrival:").rule(180, 700, 300).text(184, 691, "YYYY-MM-DD")).Field(1)
	assert.Equal(t, form.Format{Kind: form.Date, Pattern: "yyyy-mm-dd"}, f.Format)
	assert.Equal(t, f.Format, f.Find.Set)
	assert.Contains(t, f.Find.Evidence, "a date, yyyy-mm-dd")

	german := draw().text(60, 760, "Bitte füllen Sie den Antrag aus und geben Sie ihn auf dem Amt ab, das für den Hafen zuständig ist.").
		text(60, 702, "Betrag:").rule(140, 700, 260).text(264, 702, "EUR").text(60, 672, "Geburtsdatum:").rule(160, 670, 260)
	for _, f := range placed(german.find()) {
		switch as := f.Field(1).Format; f.Name {
		case "betrag":
			assert.Equal(t, form.Format{Kind: form.Number, Decimals: 2, Comma: true}, as)
		case "geburtsdatum":
			assert.Equal(t, "dd.mm.yyyy", as.Pattern)
		}
	}
	assert.Empty(t, one(t, draw().text(60, 702, "Date:").rule(180, 700, 300)).Field(1).Format.Kind, "in which order is not known")
}

func TestAPatternSaysTheOrderOfADate(t *testing.T) {
	for guide, want := range map[string]string{
		"DD.MM.YYYY": "dd.mm.yyyy", "TT MM JJJJ": "dd mm yyyy", "JJ/MM/AAAA": "dd/mm/yyyy", "MM/DD/YYYY": "mm/dd/yyyy",
		"RRRR-MM-DD": "yyyy-mm-dd", "GG.MM.AAAA": "dd.mm.yyyy", "ΗΗ/ΜΜ/ΕΕΕΕ": "dd/mm/yyyy", "ДД.ММ.РРРР": "dd.mm.yyyy",
		"NN NN": "", "DD.MM": "", "ABC": "",
	} {
		assert.Equal(t, want, detect.DatePattern(guide), guide)
	}
}

// The words that a scan brings with it count when they lie on its ink, and not at all when they do not.
func TestTheTextLayerOfAScanIsWeighedAgainstItsInk(t *testing.T) {
	page := image.NewGray(image.Rect(0, 0, 600, 800))
	for i := range page.Pix {
		page.Pix[i] = 255
	}
	for y := 92; y < 100; y++ { // ink at 700 to 708 points from below
		for x := 60; x < 160; x += 2 {
			page.Pix[y*page.Stride+x] = 0
		}
	}
	for _, c := range []struct {
		y     float64
		again bool
		words int
	}{{700, false, 2}, {400, false, 0}, {700, true, 0}} {
		d := draw().text(60, c.y, "Postal address")
		d.b.Layer(page, !c.again)
		words := d.b.Page().Words
		require.Len(t, words, c.words)
		for _, w := range words {
			assert.Positive(t, w.Doubt)
		}
	}
}

func TestTypewriterFacesAndOtherScriptsAreReadInWords(t *testing.T) {
	b := evidence.NewBuilder(600, 800, 0)
	for i, r := range "ramarra" { // x-height letters of 5 points, 2.3 points apart
		b.Glyph(r, geom.R(60+5.7*float64(i), 700, 63.4+5.7*float64(i), 705))
	}
	assert.Len(t, b.Page().Words, 1)
}

// What the office says of a format counts before what the page suggests; where they agree, the page's pattern stays.
func TestAHouseWordsFormatCountsFirst(t *testing.T) {
	page := func() *evidence.Page {
		return draw().text(60, 702, "Arrival date:").rule(180, 700, 300).text(184, 691, "YYYY-MM-DD").b.Page()
	}
	said := func(format string) form.Format {
		fs := detect.PageWith(page(), detect.NewHouseWords([]detect.HouseWord{{Wording: "Arrival date", Format: format}}))
		require.Len(t, fs, 1)
		return fs[0].Field(1).Format
	}
	assert.Equal(t, form.Number, said("number").Kind)
	assert.Equal(t, form.Format{Kind: form.Date, Pattern: "yyyy-mm-dd"}, said("date"))
}

func TestFieldsThatSoundAlikeAreToldApartByTheirSection(t *testing.T) {
	d := draw().area(50, 760, 550, 780, false, 0.85).text(60, 765, "1. Owner").text(60, 730, "Name:").rule(140, 728, 400).
		text(60, 700, "Telephone:").rule(140, 698, 400).area(50, 660, 550, 680, false, 0.85).text(60, 665, "2. Next of kin ashore").
		text(60, 630, "Telephone:").rule(140, 628, 400).text(60, 600, "Berth:").rule(140, 598, 400)
	said := map[string]string{}
	for _, f := range placed(d.find()) {
		said[f.Name] = f.Tooltip
	}
	assert.Equal(t, map[string]string{
		"name": "Name", "telephone": "Owner: Telephone", "telephone_2": "Next of kin ashore: Telephone", "berth": "Berth",
	}, said)
}

// A box with a small triangle at its right end, alone or in a button of its own, is a choice.
func TestABoxWithAnArrowIsAChoice(t *testing.T) {
	for name, d := range map[string]drawing{
		"alone": draw().text(60, 703, "Harbour").box(140, 700, 300, 716).triangle(288, 706, 295, 711),
		"in a button": draw().text(60, 703, "Harbour").box(140, 700, 300, 716).area(284, 700, 300, 716, true, 0.9).
			triangle(288, 706, 296, 711),
		"a sign": draw().text(60, 703, "Harbour").box(140, 700, 300, 716).text(288, 704, "▼"),
	} {
		fs := placed(d.find())
		require.Len(t, fs, 1, name)
		assert.Equal(t, form.Choice, fs[0].Kind, name)
		assert.InDelta(t, 140, fs[0].Rect.X0, 2, name)
		assert.InDelta(t, 300, fs[0].Rect.X1, 2, name)
		assert.Equal(t, "harbour", fs[0].Name, name)
	}
}

func TestATextAreaKeepsItsScrollBarOut(t *testing.T) {
	d := draw().text(60, 745, "What has to be repaired").box(60, 600, 500, 740).area(486, 600, 500, 740, true, 0.94).
		area(486, 726, 500, 740, true, 0.85).triangle(489, 731, 497, 735).area(486, 600, 500, 614, true, 0.85).triangle(489, 605, 497, 609).
		area(487, 660, 499, 700, true, 0.8)
	fs := placed(d.find())
	require.Len(t, fs, 1)
	assert.True(t, fs[0].Multiline)
	assert.InDelta(t, 60, fs[0].Rect.X0, 2)
	assert.InDelta(t, 486, fs[0].Rect.X1, 3)
	assert.InDelta(t, 140, fs[0].Rect.H(), 4)
}

func TestWhatCouldNotBeReadIsNoPartOfALabel(t *testing.T) {
	f := one(t, draw().text(60, 700, "Amount ? EUR").rule(140, 698, 400))
	assert.Equal(t, "Amount EUR", f.Label)
	f = one(t, draw().text(60, 700, "Nom du bateau ?").rule(150, 698, 400))
	assert.Equal(t, "Nom du bateau", f.Label)
}
