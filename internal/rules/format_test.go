package rules_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/dop251/goja"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/rules"
)

// guarded runs the compiled validation script as a reader would and tells whether
// the value is accepted, and what the recipient was told.
func guarded(t *testing.T, f form.Format, value string) (accepted bool, told string) {
	t.Helper()
	vm := goja.New()
	event := vm.NewObject()
	require.NoError(t, event.Set("value", value))
	require.NoError(t, event.Set("rc", true))
	app := vm.NewObject()
	require.NoError(t, app.Set("alert", func(s string) { told = s }))
	require.NoError(t, vm.Set("event", event))
	require.NoError(t, vm.Set("app", app))
	_, err := vm.RunString(rules.Compile(f)["V"])
	require.NoError(t, err)
	return event.Get("rc").ToBoolean(), told
}

// The calendar of ISO 8601-1:2019, 4.3.3 and table 1: month lengths, and leap years
// as years divisible by four, not by a hundred unless by four hundred.
func TestDatesFollowTheCalendar(t *testing.T) {
	f := form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}
	for value, want := range map[string]string{
		"01.02.2027": "01.02.2027", "1.2.2027": "01.02.2027", "29.02.2028": "29.02.2028", "29.02.2000": "29.02.2000",
		"31/12/1999": "31.12.1999", "30-04-2027": "30.04.2027", " 3 4 2027 ": "03.04.2027",
		"29.02.2027": "", "29.02.1900": "", "31.04.2027": "", "00.01.2027": "", "1.13.2027": "", "tomorrow": "", "1.2.27": "",
		"1.2": "", "12345": "", "1.2.2027x": "",
	} {
		shown, err := rules.Check(f, value)
		assert.Equal(t, want, shown, value)
		assert.Equal(t, want == "", err != nil, value)
		ok, told := guarded(t, f, value)
		assert.Equal(t, want != "", ok, "script on %q", value)
		if want == "" {
			assert.Equal(t, err.Error(), told, "the same words in Go and in the reader")
			assert.ErrorIs(t, err, rules.ErrRefused)
		}
	}
}

func TestDatePatterns(t *testing.T) {
	for pattern, value := range map[string]string{"mm/dd/yyyy": "12/31/2026", "yyyy-mm-dd": "2026-12-31", "dd.mm.yy": "31.12.26"} {
		f := form.Format{Kind: form.Date, Pattern: pattern}
		shown, err := rules.Check(f, value)
		require.NoError(t, err, pattern)
		assert.Equal(t, value, shown)
		ok, _ := guarded(t, f, value)
		assert.True(t, ok, pattern)
	}
	_, err := rules.Check(form.Format{Kind: form.Date, Pattern: "mm/dd/yyyy"}, "31/12/2026")
	assert.Error(t, err)
}

func TestNumbers(t *testing.T) {
	point := form.Format{Kind: form.Number, Decimals: 2}
	comma := form.Format{Kind: form.Number, Decimals: 2, Comma: true}
	for _, c := range []struct {
		f     form.Format
		value string
		want  string
	}{
		{point, "1234.5", "1,234.50"},
		{point, "1,234.5", "1,234.50"},
		{point, "-0.005", "-0.01"},
		{point, "0.005", "0.01"},
		{point, ".5", "0.50"},
		{point, "1000000", "1,000,000.00"},
		{point, "+7", "7.00"},
		{point, "0.1", "0.10"},
		{comma, "1234,5", "1.234,50"},
		{comma, "1.234,5", "1.234,50"},
		{comma, "12", "12,00"},
		{point, "12a", ""},
		{point, "1,23", "1.23"}, // the decimal sign of the reader's country
		{point, "1,234", "1,234.00"},
		{point, "1,2,3", ""},
		{point, "7.255", "7.26"}, // halves by figures, not by binary numbers
		{point, "1.005", "1.01"},
		{point, "99.995", "100.00"},
		{point, "-", ""},
		{point, "1.2.3", ""},
		{point, "twelve", ""},
		{point, ".", ""},
	} {
		shown, err := rules.Check(c.f, c.value)
		assert.Equal(t, c.want, shown, c.value)
		ok, _ := guarded(t, c.f, c.value)
		assert.Equal(t, err == nil, ok, "Go and script on %q", c.value)
	}
}

// Go and the compiled scripts must accept the same answers.
func TestGoAndScriptsAgree(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 9))
	signs := "0123456789..//--  ,+ax"
	formats := []form.Format{
		{Kind: form.Date, Pattern: "dd.mm.yyyy"},
		{Kind: form.Date, Pattern: "mm/dd/yyyy"},
		{Kind: form.Date, Pattern: "yyyy-mm-dd"},
		{Kind: form.Date, Pattern: "dd.mm.yy"},
		{Kind: form.Number, Decimals: 2},
		{Kind: form.Number, Decimals: 0},
	}
	for range 1200 {
		f := formats[rng.IntN(len(formats))]
		var v string
		if f.Kind == form.Date && rng.IntN(5) == 0 { // as a reader's calendar gives it
			v = fmt.Sprintf("%d-%02d-%02d", 1890+rng.IntN(220), rng.IntN(15), rng.IntN(34))
		} else if f.Kind == form.Date && rng.IntN(3) > 0 {
			v = strings.NewReplacer("dd", fmt.Sprintf("%02d", rng.IntN(34)), "mm", fmt.Sprintf("%02d", rng.IntN(15)), "yyyy",
				fmt.Sprint(1890+rng.IntN(220)), "yy", fmt.Sprintf("%02d", rng.IntN(100))).Replace(f.Pattern)
		} else {
			for range 1 + rng.IntN(10) {
				v += string(signs[rng.IntN(len(signs))])
			}
		}
		if strings.TrimSpace(v) == "" {
			continue
		}
		_, err := rules.Check(f, v)
		ok, _ := guarded(t, f, v)
		assert.Equal(t, err == nil, ok, "%+v on %q", f, v)
	}
}

func TestBlankIsAccepted(t *testing.T) {
	for _, k := range []form.FormatKind{form.Date, form.Number} {
		f := form.Format{Kind: k, Pattern: "dd.mm.yyyy"}
		shown, err := rules.Check(f, "")
		require.NoError(t, err)
		assert.Empty(t, shown)
		ok, _ := guarded(t, f, "")
		assert.True(t, ok)
	}
}

func TestTheAdministratorsOwnMessage(t *testing.T) {
	f := form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy", Message: `Say "when"\, please`}
	_, err := rules.Check(f, "soon")
	assert.EqualError(t, err, f.Message)
	_, told := guarded(t, f, "soon")
	assert.Equal(t, f.Message, told)
	assert.Empty(t, rules.Compile(form.Format{}))
}
