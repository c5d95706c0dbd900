package rules_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// one is a form of the field x with a rule, beside fields that rules can name.
func one(x form.Field) []form.Field {
	x.ID, x.Name, x.Kind = "x", "x", form.Text
	return append(paper(), x)
}

// accepts gives an answer to the field x, in Go and in a reader.
func accepts(t *testing.T, x form.Field, answer string, others map[string]string) (bool, string) {
	t.Helper()
	fields := one(x)
	s, err := rules.NewSession(fields, time.Now())
	require.NoError(t, err)
	r := openReader(t, fields)
	for name, v := range others {
		_, err := s.Set(name, v)
		require.NoError(t, err)
		require.True(t, r.set(name, v))
	}
	_, err = s.Set("x", answer)
	ok := r.set("x", answer)
	assert.Equal(t, ok, err == nil, "a reader takes the same: %q for %+v", answer, x)
	if err != nil && len(r.told) > 0 {
		assert.Equal(t, err.Error(), r.told[len(r.told)-1], "the same words")
		return false, err.Error()
	}
	assert.Equal(t, r.shown("x"), s.Shown("x"), "a reader shows the same for %q of %+v", answer, x)
	return err == nil, s.Shown("x")
}

// ISO/IEC 7812-1:2017, annex B works the check digit of 4992739871 out as 6; the others are
// one figure changed, and two neighbours changed places.
func TestLuhn(t *testing.T) {
	x := form.Field{Checks: []form.Check{{Test: form.Luhn}}}
	for answer, want := range map[string]bool{
		"49927398716": true, "4992 7398 716": true, "49927398717": false, "49927398176": false,
		"4992739871x": false, "0": false, "": true,
	} {
		ok, _ := accepts(t, x, answer, nil)
		assert.Equal(t, want, ok, answer)
	}
}

// The examples of the IBAN registry that belongs to ISO 13616 (Germany, United Kingdom, Norway).
func TestIBAN(t *testing.T) {
	x := form.Field{Checks: []form.Check{{Test: form.IBAN}}}
	for answer, want := range map[string]bool{
		"DE89370400440532013000": true, "GB29 NWBK 6016 1331 9268 19": true, "no9386011117947": true,
		"DE89370400440532013001": false, "GB29 NWBK 6016 1331 9286 19": false, "DE8937": false, "": true,
	} {
		ok, _ := accepts(t, x, answer, nil)
		assert.Equal(t, want, ok, answer)
	}
}

func TestChecks(t *testing.T) {
	date := form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}
	number := form.Format{Kind: form.Number, Decimals: 1}
	day := func(n int) string { return time.Now().AddDate(0, 0, n).Format("02.01.2006") }
	others := map[string]string{"a": "10", "from": "01.05.2027", "member": "Yes"}
	for _, c := range []struct {
		f      form.Format
		check  form.Check
		answer string
		ok     bool
	}{
		{number, form.Check{Test: form.Between, A: "2", B: "8.5"}, "8.5", true},
		{number, form.Check{Test: form.Between, A: "2", B: "8.5"}, "8.6", false},
		{number, form.Check{Test: form.Between, A: "-1"}, "-1.1", false},
		{number, form.Check{Test: form.Between, B: "a"}, "10", true},
		{number, form.Check{Test: form.Between, B: "a / 2"}, "6", false},
		{form.Format{}, form.Check{Test: form.OneOf, A: "fin, bilge, long"}, "bilge", true},
		{form.Format{}, form.Check{Test: form.OneOf, A: "fin, bilge, long"}, "Bilge", false},
		{form.Format{}, form.Check{Test: form.Length, A: "3", B: "5"}, "gull", true},
		{form.Format{}, form.Check{Test: form.Length, A: "3"}, "ab", false},
		{form.Format{}, form.Check{Test: form.Length, B: "5"}, "cormorant", false},
		{form.Format{}, form.Check{Test: form.MatchesMask, A: "@@-###"}, "GQ-041", true},
		{form.Format{}, form.Check{Test: form.MatchesMask, A: "@@-###"}, "GQ-04", false},
		{date, form.Check{Test: form.NotBefore, A: "today"}, day(0), true},
		{date, form.Check{Test: form.NotBefore, A: "today"}, day(-1), false},
		{date, form.Check{Test: form.NotAfter, A: "today"}, day(1), false},
		{date, form.Check{Test: form.NotAfter, A: "today + 14"}, day(14), true},
		{date, form.Check{Test: form.NotBefore, A: "from"}, "30.04.2027", false},
		{date, form.Check{Test: form.NotBefore, A: "from"}, "01.05.2027", true},
		{date, form.Check{Test: form.NotAfter, A: "31.12.2027"}, "01.01.2028", false},
		{number, form.Check{Test: form.Holds, A: "x < a or not member"}, "9", true},
		{number, form.Check{Test: form.Holds, A: "x < a or not member"}, "11", false},
		{number, form.Check{Test: form.Holds, A: "1 / (x - 3) > 0"}, "3", false},
	} {
		ok, _ := accepts(t, form.Field{Format: c.f, Checks: []form.Check{c.check}}, c.answer, others)
		assert.Equal(t, c.ok, ok, "%s of %+v", c.answer, c.check)
	}
}

func TestSeveralChecksSayWhatIsTheirs(t *testing.T) {
	x := form.Field{
		Format: form.Format{Kind: form.Number},
		Checks: []form.Check{
			{Test: form.Between, A: "1", Message: "At least one."},
			{Test: form.Holds, A: "x <= a", Message: "No more than there are."},
		},
	}
	for answer, want := range map[string]string{
		"0": "At least one.", "11": "No more than there are.", "many": "Please write a number.",
		"4": "4",
	} {
		_, said := accepts(t, x, answer, map[string]string{"a": "10"})
		assert.Equal(t, want, said)
	}
}

func TestAWrongCheckIsRefusedWithWhatToDo(t *testing.T) {
	for _, c := range []struct {
		check form.Check
		say   string
	}{
		{form.Check{Test: form.OneOf}, "commas"},
		{form.Check{Test: form.Length, A: "few"}, "how many signs"},
		{form.Check{Test: form.MatchesMask, A: "AB"}, "# for a figure"},
		{form.Check{Test: form.Between}, "held to"},
		{form.Check{Test: form.Holds, A: "x < lenght"}, "no field called lenght"},
	} {
		f := form.Field{Name: "x", Kind: form.Text, Checks: []form.Check{c.check}}
		assert.ErrorContains(t, rules.CheckProblem(&f, c.check, []string{"x", "length"}), c.say)
		_, err := rules.CompileForm([]form.Field{f})
		assert.Error(t, err)
	}
}

// Every format, with answers that it takes and shows, and answers that it refuses.
func TestFormats(t *testing.T) {
	for _, c := range []struct {
		f       form.Format
		answers map[string]string // to what is shown; empty is refused
	}{
		{
			form.Format{Kind: form.Date, Pattern: "d mmm yyyy"},
			map[string]string{
				"3 4 2027": "3 Apr 2027", "29 february 2028": "29 Feb 2028", "29 Feb 2027": "", "3 Sprat 2027": "",
				"gannet": "", "3-apr-2027": "3 Apr 2027", "2027-04-03": "3 Apr 2027", "2027-02-29": "",
			},
		},
		{
			form.Format{Kind: form.Date, Pattern: "mmmm d, yyyy"},
			map[string]string{"June 1, 2027": "June 1, 2027", "6/1/2027": "June 1, 2027", "2027-06-01": "June 1, 2027"},
		},
		{ // two figures of a year stand for 1950 to 2049
			form.Format{Kind: form.Date, Pattern: "dd.mm.yy"},
			map[string]string{"2027-06-01": "01.06.27", "1890-06-01": "", "01.06.27": "01.06.27"},
		},
		// ISO 8601-1:2019, 5.2.2.1
		{
			form.Format{Kind: form.Date, Pattern: "yyyy-mm-dd"},
			map[string]string{"2027-06-01": "2027-06-01", "27-06-01": "", "2027-6-1": "2027-06-01"},
		},
		// ISO 8601-1:2019, 5.3.1.2
		{
			form.Format{Kind: form.Time, Pattern: "HH:MM"},
			map[string]string{"7:05": "07:05", "23.59": "23:59", "07:05:30": "07:05", "24:00": "", "12:60": "", "noon": ""},
		},
		{form.Format{Kind: form.Time, Pattern: "HH:MM:ss"}, map[string]string{"7:05:09": "07:05:09", "7:05": "", "07:05": "07:05:00"}},
		{
			form.Format{Kind: form.Time, Pattern: "h:MM tt"},
			map[string]string{
				"07:05 PM": "7:05 pm", "12:30am": "12:30 am", "13:00 pm": "", "7:05": "", "13:00": "1:00 pm", "00:30": "12:30 am",
			},
		},
		{
			form.Format{Kind: form.Number, Decimals: 2, Currency: "€", After: true, Comma: true},
			map[string]string{"1234,5": "1.234,50 €", "-3": "-3,00 €", "12 €": "12,00 €", "€": "", "$ 3": ""},
		},
		{
			form.Format{Kind: form.Number, Decimals: 2, Currency: "£"},
			map[string]string{"1234.5": "£1,234.50", "£3": "£3.00", "-£3": "-£3.00", "(3)": "-£3.00"},
		},
		{
			form.Format{Kind: form.Number, Decimals: 1, Brackets: true, Ungrouped: true},
			map[string]string{"-1234.55": "(1234.6)", "1234": "1234.0", "(5)": "(5.0)"},
		},
		{
			form.Format{Kind: form.Number, Decimals: 0, Comma: true, Ungrouped: true},
			map[string]string{"12345,6": "12346", "1.234": "1234"},
		},
		{form.Format{Kind: form.Percent, Decimals: 1}, map[string]string{"19": "19.0 %", "7.25 %": "7.3 %", "many": ""}},
		{form.Format{Kind: form.Phone}, map[string]string{
			"+44 (20) 7946-0018": "+44 (20) 7946-0018", "0  30 1234": "0 30 1234",
			"12": "", "call me": "", "+1234567890123456": "",
		}},
		{form.Format{Kind: form.Email}, map[string]string{
			"sprat@gannet-quay.example": "sprat@gannet-quay.example", "sprat@quay": "",
			"sprat": "", "a@b@c.example": "", "a.b+c@d-e.example": "a.b+c@d-e.example",
		}},
		{form.Format{Kind: form.Postcode, Pattern: "GB"}, map[string]string{"sw1a1aa": "SW1A 1AA", "M1 1AE": "M1 1AE", "12345": ""}},
		{form.Format{Kind: form.Postcode, Pattern: "PL"}, map[string]string{"00001": "00-001", "00-001": "00-001", "0-0001": ""}},
		{form.Format{Kind: form.Postcode, Pattern: "DE"}, map[string]string{"10115": "10115", "1011": ""}},
		{
			form.Format{Kind: form.Mask, Pattern: "@@-###/?"},
			map[string]string{"gq123x": "gq-123/x", "GQ-123/7": "GQ-123/7", "G1-123/x": "", "GQ-123": ""},
		},
		{form.Format{Kind: form.Upper}, map[string]string{"gannet": "GANNET"}},
		{form.Format{Kind: form.Lower}, map[string]string{"GanNet": "gannet"}},
	} {
		for answer, want := range c.answers {
			ok, shown := accepts(t, form.Field{Format: c.f}, answer, nil)
			assert.Equal(t, want != "", ok, "%q for %+v", answer, c.f)
			if want != "" {
				assert.Equal(t, want, shown, "%q for %+v", answer, c.f)
			}
		}
	}
}

// Answers of any kind: Go and a reader take the same, and show the same.
func TestGoAndReadersTakeAndShowTheSame(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 1))
	formats := []form.Format{
		{Kind: form.Date, Pattern: "d mmm yyyy"},
		{Kind: form.Date, Pattern: "mm/dd/yy"},
		{Kind: form.Time, Pattern: "HH:MM"},
		{Kind: form.Time, Pattern: "h:MM tt"},
		{Kind: form.Number, Decimals: 2},
		{Kind: form.Number, Decimals: 3, Comma: true},
		{Kind: form.Number, Decimals: 1, Ungrouped: true, Currency: "kr", After: true},
		{Kind: form.Percent},
		{Kind: form.Phone},
		{Kind: form.Email},
		{Kind: form.Postcode, Pattern: "NL"},
		{Kind: form.Postcode},
		{Kind: form.Mask, Pattern: "##.@@"},
		{Kind: form.Upper},
	}
	pieces := []string{
		"0", "1", "12", "345", "2027", ".", ",", "-", "/", ":", " ", "Mar", "am", "PM", "@", "a", "Kr", "x", "+", "(",
		")", "%", "kr", "1011", "AB",
	}
	for range 500 {
		x := form.Field{Format: formats[rng.IntN(len(formats))]}
		var b strings.Builder
		for range 1 + rng.IntN(6) {
			b.WriteString(pieces[rng.IntN(len(pieces))])
		}
		if strings.TrimSpace(b.String()) != "" {
			accepts(t, x, b.String(), nil)
		}
	}
}

func TestFieldsShowAndMustBeFilledInOnlyIf(t *testing.T) {
	fields := paper()
	fields = append(fields,
		form.Field{ID: "n", Name: "club", Kind: form.Text, ShowIf: "member", Required: true},
		form.Field{ID: "s", Name: "signature_club", Kind: form.Signature, ShowIf: "member"},
		form.Field{ID: "i", Name: "insurer", Kind: form.Text, RequireIf: "a > 100"})
	s, err := rules.NewSession(fields, summer)
	require.NoError(t, err)
	assert.True(t, s.Hidden("club"))
	assert.True(t, s.Hidden("signature_club"))
	assert.Empty(t, s.Missing(), "a hidden field does not block")
	_, err = s.Set("member", "Yes")
	require.NoError(t, err)
	assert.False(t, s.Hidden("club"))
	_, err = s.Set("a", "101")
	require.NoError(t, err)
	assert.Equal(t, []string{"club", "insurer"}, s.Missing())
	_, err = s.Set("club", "Gannet Quay Rowing")
	require.NoError(t, err)
	assert.Equal(t, []string{"insurer"}, s.Missing())
	fields[len(fields)-1].RequireIf = "a > "
	_, err = rules.NewSession(fields, summer)
	assert.ErrorContains(t, err, "breaks off")
}
