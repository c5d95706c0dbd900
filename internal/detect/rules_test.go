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

func TestOneAnswerIsARadioGroupSeveralAreCheckBoxes(t *testing.T) {
	boxes := func(question string) []detect.Find {
		d := draw().text(60, 702, question)
		for i, s := range []string{"fin", "bilge", "long"} {
			x := 60 + float64(i)*80
			d = d.box(x, 680, x+10, 690).text(x+14, 682, s)
		}
		return d.find()
	}
	one := boxes("Keel (choose one)")
	require.Len(t, one, 3)
	for i, f := range one {
		assert.Equal(t, form.Radio, f.Kind)
		assert.Equal(t, "keel", f.Name, "one name for the group, without the aside")
		assert.Equal(t, []string{"fin", "bilge", "long"}[i], f.Export)
		assert.Contains(t, f.Evidence, "one answer")
	}
	for _, q := range []string{"Services (tick all that apply)", "Leistungen (Mehrfachnennung möglich)", "Services"} {
		for _, f := range boxes(q) {
			assert.Equal(t, form.CheckBox, f.Kind, q)
		}
	}
	for _, f := range boxes("Kielform (bitte nur eine ankreuzen)") {
		assert.Equal(t, form.Radio, f.Kind)
	}
}

func TestYesAndNoAreOneQuestionInEveryLanguage(t *testing.T) {
	for _, pair := range [][2]string{{"Yes", "No"}, {"Ja", "Nein"}, {"Oui", "Non"}, {"Tak", "Nie"}, {"Ja", "Nej"}} {
		fs := draw().text(60, 602, "Insured?").box(160, 600, 170, 610).text(174, 602, pair[0]).box(220, 600, 230, 610).
			text(234, 602, pair[1]).find()
		require.Len(t, fs, 2)
		for _, f := range fs {
			assert.Equal(t, form.Radio, f.Kind, pair)
			assert.Equal(t, "insured", f.Name)
		}
	}
}

func TestBracketsAroundNothingAreBoxes(t *testing.T) {
	fs := draw().text(60, 700, "[ ] shore power").text(60, 680, "[ ] laundry").find()
	require.Len(t, fs, 2)
	assert.Equal(t, form.CheckBox, fs[0].Kind)
	assert.Equal(t, "shore_power", fs[0].Name)
	assert.Empty(t, draw().text(60, 700, "see note [1] and (2)").find(), "brackets around something are none")
}

func TestBoxesThatTouchWithoutWordsAreADrawing(t *testing.T) {
	crates := draw().box(460, 700, 472, 712).box(472, 700, 484, 712).box(466, 712, 478, 724)
	assert.Empty(t, crates.find())
	assert.Len(t, crates.box(60, 600, 70, 610).text(74, 602, "shore power").find(), 1, "and do not hide what is none")
}

func TestRulesBelowEachOtherAreOnePlaceOfSeveralLines(t *testing.T) {
	fs := draw().text(60, 704, "Remarks").rule(60, 680, 500).rule(60, 660, 500).rule(60, 640, 500).find()
	require.Len(t, fs, 1)
	assert.True(t, fs[0].Multiline)
	assert.InDelta(t, 640, fs[0].Rect.Y0, 1)
	assert.Greater(t, fs[0].Rect.H(), 50.0)
	apart := draw().text(60, 682, "Name").rule(120, 680, 500).text(60, 662, "Town").rule(120, 660, 500).text(60, 642, "Flag").
		rule(120, 640, 500).find()
	assert.Len(t, apart, 3, "each with words of its own")
}

func TestTicksOnALineAreAComb(t *testing.T) {
	d := draw().text(60, 682, "Sail number").rule(140, 680, 240)
	for i := range 11 {
		x := 140 + float64(i)*10
		d.b.Path(evidence.Path{
			Stroke: true, Width: 0.5,
			Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: x, Y: 680}, {X: x, Y: 684}}}},
		})
	}
	fs := d.find()
	require.Len(t, fs, 1)
	assert.Equal(t, 10, fs[0].Comb)
}

func TestBlankEndsAtOneTabStopAreAColumn(t *testing.T) {
	d := draw()
	for i := range 5 {
		y := 700 - float64(i)*24
		d = d.text(60, y+2, "Some words that say what is charged here").text(430, y+2, string(rune('1'+i))).rule(60, y, 540)
		d.b.Path(evidence.Path{
			Stroke: true, Width: 0.7,
			Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 540, Y: 590}, {X: 540, Y: 724}}}},
		})
	}
	fs := placed(d.find())
	require.Len(t, fs, 5)
	for _, f := range fs {
		assert.InDelta(t, 438, f.Rect.X0, 4, "after the number of the line")
		assert.InDelta(t, 540, f.Rect.X1, 1)
	}
}

func TestWordingAsksForAFormatInEveryLanguage(t *testing.T) {
	for label, want := range map[string]string{
		"Date of birth": "date", "Geburtsdatum": "date", "Date de naissance": "date", "Fecha": "date", "Data di nascita": "date",
		"Geboortedatum": "date", "Data urodzenia": "date", "Födelsedatum": "date",
		"Telephone": "phone", "Téléphone": "phone", "Telefoon": "phone", "E-post": "email", "Courriel": "email",
		"Postleitzahl": "postcode", "Kod pocztowy": "postcode", "CAP": "postcode",
		"Uhrzeit": "time", "Hora de llegada": "time", "Versicherungssumme": "money", "Montant": "money", "Kwota": "money",
		"Anteil in Prozent": "percent", "Liczba osób": "number",
		"Number of crew": "number", "Policy number": "", "Name": "",
	} {
		fs := draw().text(60, 702, label).rule(260, 700, 500).find()
		require.Len(t, fs, 1, label)
		assert.Equal(t, want, fs[0].Format, label)
	}
	for _, label := range []string{"Signature", "Unterschrift", "Firma", "Handtekening", "Podpis", "Assinatura", "Underskrift"} {
		fs := draw().text(60, 702, label).rule(260, 700, 500).find()
		assert.Equal(t, form.Signature, fs[0].Kind, label)
	}
}

func TestInitialsAreShort(t *testing.T) {
	for label, want := range map[string]int{"Initials": 8, "Name of vessel": 0} {
		fs := draw().text(60, 602, label).rule(160, 600, 300).find()
		require.Len(t, fs, 1)
		assert.Equal(t, want, fs[0].Field(1).MaxLen, label)
	}
}

func TestATurnedPageIsReadUpright(t *testing.T) {
	b := evidence.NewBuilder(800, 600, 90) // shown 600 wide, 800 high
	d := drawing{b}.text(60, 702, "Name").rule(160, 700, 500)
	fs := d.find()
	require.Len(t, fs, 1)
	assert.Equal(t, "name", fs[0].Name)
	// page space is 800 wide: the rule runs upwards there
	assert.Greater(t, fs[0].Rect.H(), 300.0)
	assert.Less(t, fs[0].Rect.W(), 20.0)
}

func TestHouseWordsNameFinds(t *testing.T) {
	page := draw().text(60, 702, "Berth no.").rule(160, 700, 400).text(60, 662, "Wishes").rule(160, 660, 400).b.Page()
	house := detect.NewHouseWords([]detect.HouseWord{
		{Wording: "BERTH No", Name: "berth_number", Format: "number"},
		{Wording: "wishes:", Kind: form.Text, Lines: true},
	})
	fs := detect.PageWith(page, house)
	require.Len(t, fs, 2)
	assert.Equal(t, "berth_number", fs[0].Name)
	assert.Equal(t, "number", fs[0].Format)
	assert.Contains(t, fs[0].Evidence, "house word")
	assert.True(t, fs[1].Multiline)
}

func TestAColumnIsExtendedFromOneCell(t *testing.T) {
	d := draw().text(64, 704, "Name")
	for i := range 4 {
		y := 680 - float64(i)*20
		d = d.box(60, y, 200, y+20)
	}
	page := d.b.Page()
	all := detect.Page(page)
	require.Len(t, all, 4)
	rest := detect.Column(page, all[1].Rect)
	assert.Len(t, rest, 3)
}

func TestANoteInAFrameIsNoField(t *testing.T) {
	d := draw().box(40, 500, 120, 600)
	for i, s := range []string{
		"Who may ask:", "owners of a", "boat that is", "kept in the", "harbour for", "more than a", "month and",
		"skippers", "of a crew", "sent ashore",
	} {
		d = d.text(44, 591-float64(i)*9, s)
	}
	assert.Empty(t, placed(d.find()))
}

func TestTheHeadOfAColumnOfBlankCellsIsNoField(t *testing.T) {
	d := draw()
	for _, y := range []float64{600, 582, 564, 546} { // a head 36 points high and three rows
		d = d.rule(100, y, 400)
	}
	d = d.rule(100, 636, 400)
	for _, x := range []float64{100, 250, 400} {
		d.b.Path(evidence.Path{
			Stroke: true, Width: 0.7,
			Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: x, Y: 546}, {X: x, Y: 636}}}},
		})
	}
	fs := placed(d.text(104, 622, "Berth").text(254, 622, "Boat").find())
	require.Len(t, fs, 6)
	for _, f := range fs {
		assert.Less(t, f.Rect.Y1, 600.5, "below the head")
	}
}

func TestAWhiteAreaIsAWallWhereAShortUprightStands(t *testing.T) {
	// whole and hundredths on a tinted form: two white areas, and an upright between
	// them that is no higher than they are, in a space three times as high
	d := draw().area(40, 300, 560, 760, false, 0.95).
		area(367, 408, 439, 420, false, 1).area(439, 408, 461, 420, false, 1).
		rule(367, 408, 461).rule(40, 444, 560).text(60, 411, "Harbour dues")
	d.b.Path(evidence.Path{
		Stroke: true, Width: 0.5,
		Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 439, Y: 408}, {X: 439, Y: 420}}}},
	})
	d.b.Path(evidence.Path{
		Stroke: true, Width: 0.5,
		Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 367, Y: 408}, {X: 367, Y: 420}}}},
	})
	d.b.Path(evidence.Path{
		Stroke: true, Width: 0.5,
		Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 461, Y: 300}, {X: 461, Y: 444}}}},
	})
	fs := placed(d.find())
	require.Len(t, fs, 2)
	assert.InDelta(t, 439, fs[0].Rect.X1, 1)
	assert.InDelta(t, 439, fs[1].Rect.X0, 1)
	assert.Zero(t, fs[0].Comb)
}

func TestABoxWithoutWordsIsLikeTheOthersOfItsForm(t *testing.T) {
	d := draw()
	for i, s := range []string{"fin", "bilge", "long"} {
		y := 680 - float64(i)*20
		d = d.box(60, y, 70, y+10).text(74, y+2, s)
	}
	alone := func(d drawing) detect.Find { // the lone box, among finds or doubtful finds
		for _, f := range d.find() {
			if f.Rect.X0 > 400 {
				return f
			}
		}
		return detect.Find{}
	}
	assert.GreaterOrEqual(t, alone(d.box(450, 300, 460, 310)).Confidence, form.LikelyFrom)
	assert.Less(t, alone(draw().box(450, 300, 460, 310)).Confidence, form.LikelyFrom, "with no other box it is doubted")
}

func TestWordsBeforeABlankAreACaptionWhereTheirNeighboursAsk(t *testing.T) {
	row := func(first string) int {
		d := draw().rule(60, 400, 520).rule(60, 414, 520).text(64, 404, first).text(304, 404, "Phone no.")
		d.b.Path(evidence.Path{
			Stroke: true, Width: 0.5,
			Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 300, Y: 400}, {X: 300, Y: 414}}}},
		})
		d.b.Path(evidence.Path{
			Stroke: true, Width: 0.5,
			Subpaths: []evidence.Subpath{{Points: []geom.Point{{X: 60, Y: 400}, {X: 60, Y: 414}}}},
		})
		return len(placed(d.find()))
	}
	assert.Equal(t, 2, row("Name of firm:"))
	assert.Zero(t, row("Timber"), "two cells of a list")
}

func TestNamesOfOtherScriptsAreWrittenAsTheySound(t *testing.T) {
	for words, name := range map[string]string{
		"Όνομα σκάφους": "onoma_skaphous", "Фамилия": "familiia", "Дата рождения": "data_rozhdeniia", "Straße": "strasse",
	} {
		assert.Equal(t, name, detect.NameOf(words))
	}
	fs := draw().text(60, 702, "Фамилия:").rule(120, 700, 300).find()
	require.Len(t, fs, 1)
	assert.Equal(t, "familiia", fs[0].Name)
	assert.Equal(t, "Фамилия", fs[0].Tooltip, "the tooltip keeps its script")
}

func TestWhatALabelAsksForIsTheWholeOfIt(t *testing.T) {
	looks := func(label string) string {
		fs := draw().text(60, 702, label).rule(70+5*float64(len([]rune(label))), 700, 500).find()
		require.Len(t, fs, 1, label)
		return fs[0].Format
	}
	for _, s := range []string{"Date of arrival", "Valid until", "Expires", "Day of departure"} {
		assert.Equal(t, "date", looks(s), s)
	}
	for _, s := range []string{"Place and date", "Ort, Datum", "Date and signature"} {
		assert.Empty(t, looks(s), s)
	}
}
