package form_test

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// copied is the template by way of its JSON, so that nothing is shared.
func copied(t *testing.T, tpl *form.Template) *form.Template {
	t.Helper()
	b, err := json.Marshal(tpl)
	require.NoError(t, err)
	var out form.Template
	require.NoError(t, json.Unmarshal(b, &out))
	return &out
}

func everyKind(t *testing.T) *form.Template {
	t.Helper()
	tpl := blank()
	for i, k := range form.Kinds {
		f := form.Field{Page: 1, Kind: k, Name: "a_" + string(k), Rect: box(50, 700-float64(i)*40)}
		if k == form.Choice {
			f.Options = []form.Option{{Label: "Sloop"}, {Label: "Ketch"}}
		}
		place(t, tpl, f)
	}
	return tpl
}

func said(changes []form.Change) string {
	var out []string
	for _, c := range changes {
		line := string(c.Sort) + ": " + c.Words
		if c.Answers != "" {
			line += " [" + c.Answers + "]"
		}
		out = append(out, line)
	}
	return strings.Join(out, "\n")
}

func TestTheSameFormDiffersInNothing(t *testing.T) {
	tpl := everyKind(t)
	assert.Empty(t, form.Compare(tpl, copied(t, tpl)))
	for i := range tpl.Fields { // brought in anew, fields have other ids
		tpl.Fields[i].ID = "other" + string(rune('a'+i))
	}
	assert.Empty(t, form.Compare(everyKind(t), tpl))
}

// Whatever member of a field is changed, by the language's own reflection and not by the registry: it is said, once, and with the
// field's name, when it goes into the released file.
func TestAnyChangedMemberIsSaid(t *testing.T) {
	model := reflect.TypeFor[form.Field]()
	for _, path := range members(model, "") {
		i := slices.IndexFunc(form.FieldProperties, func(p form.Property[form.Field]) bool { return p.Member == path })
		require.GreaterOrEqual(t, i, 0, path)
		row := form.FieldProperties[i]
		if row.Draft != "" || path == "page" || path == "order" || path == "linked" {
			continue
		}
		for _, k := range form.Kinds {
			if !row.Has(k) || path == "type" {
				continue
			}
			was := everyKind(t)
			is := copied(t, was)
			at := slices.IndexFunc(is.Fields, func(f form.Field) bool { return f.Kind == k })
			set(reflect.ValueOf(&is.Fields[at]).Elem(), strings.Split(path, "."))
			changes := form.Compare(was, is)
			if assert.NotEmpty(t, changes, "%s of a %s changed, and nothing is said", path, k) && path != "action.do" {
				assert.Len(t, changes, 1, "%s of a %s: %s", path, k, said(changes))
			}
			for _, c := range changes {
				assert.Equal(t, is.Fields[at].Name, c.Name)
				assert.Contains(t, c.Words, is.Fields[at].Name, "%s of a %s", path, k)
				assert.NotContains(t, c.Words, "%s")
				assert.False(t, strings.HasSuffix(c.Words, "."), c.Words)
			}
		}
	}
}

func TestChangesAreToldInWordsWithWhatTheyMeanForAnswers(t *testing.T) {
	was := everyKind(t)
	is := copied(t, was)
	field := func(name string) *form.Field {
		i := slices.IndexFunc(is.Fields, func(f form.Field) bool { return f.Name == name })
		return &is.Fields[i]
	}
	field("a_text").Name = "vessel"
	field("vessel").Rect = field("vessel").Rect.Shift(72/25.4*5, 0)
	field("a_checkbox").Export = "fin"
	field("a_choice").Options = []form.Option{{Label: "Sloop", Export: "s"}, {Label: "Yawl"}}
	is.Fields = slices.DeleteFunc(is.Fields, func(f form.Field) bool { return f.Kind == form.Radio })
	place(t, is, form.Field{Page: 2, Kind: form.Text, Name: "draught", Rect: box(50, 400)})
	field("a_button").Action.Do = form.PrintForm
	is.Details.Title = "Berths"
	assert.Equal(t, strings.Join([]string{
		"added: the text field draught is new [a column draught begins; answers that are in have nothing in it]",
		"removed: the radio button a_radio for “Yes” is gone " +
			"[the column a_radio stays for the answers that are in; new ones have nothing in it]",
		"renamed: a_text is now called vessel [the column a_text goes on as vessel]",
		"options: a_checkbox sends “fin”, and sent “Yes” [new answers say “fin” where those that are in say “Yes”]",
		"options: a_choice can be “Yawl”, and cannot be “Ketch” any more, and sends other values [answers that say “Ketch” stay; " +
			"new answers say “s” for Sloop where those that are in say “Sloop”]",
		"steps: a_button prints the form; before it did nothing",
		"moved: vessel moved 5 mm to the right",
		"said: the title of the document is “Berths”, and was “”",
	}, "\n"), said(form.Compare(was, is)))
}

// What is taken back is told the other way round: as much is added as was removed, and the columns that go on are the same ones.
func TestComparingBackwardsTellsTheInverse(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 7))
	for range 200 {
		was := everyKind(t)
		is := copied(t, was)
		for range 1 + r.IntN(4) {
			i := r.IntN(len(is.Fields))
			switch f := &is.Fields[i]; r.IntN(5) {
			case 0:
				is.Fields = slices.Delete(is.Fields, i, i+1)
			case 1:
				f.Name = is.FreeName(f.Name + "_x")
			case 2:
				f.Rect = f.Rect.Shift(float64(r.IntN(50)), float64(r.IntN(50)))
			case 3:
				f.Tooltip += "x"
			case 4:
				place(t, is, form.Field{Page: 1 + r.IntN(2), Kind: form.CheckBox, Name: "tick", Rect: geom.R(10, 10, 24, 24)})
			}
		}
		count := func(changes []form.Change) map[form.Sort]int {
			n := map[form.Sort]int{}
			for _, c := range changes {
				n[c.Sort]++
			}
			n[form.Added], n[form.Removed] = n[form.Removed]+n[form.Added], n[form.Removed]-n[form.Added]
			return n
		}
		there, back := count(form.Compare(was, is)), count(form.Compare(is, was))
		there[form.Removed] = -there[form.Removed]
		assert.Equal(t, there, back)
	}
}

func TestAFormIsBroughtBackToAnEarlierState(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 81))
	for range 100 {
		was := everyKind(t)
		is := copied(t, was)
		is.Fields[r.IntN(3)].Tooltip = "another"
		is.Fields = slices.Delete(is.Fields, 4, 5)
		place(t, is, form.Field{Page: 1 + r.IntN(2), Kind: form.CheckBox, Name: "tick", Rect: geom.R(10, 10, 24, 24)})
		is.Pages[1].Rotate, is.Details.Author = 90, "somebody"
		back, err := is.BringBack("brought back", was)
		do(t, is, back, err)
		assert.Empty(t, form.Compare(was, is))
		assert.Equal(t, was.Pages, is.Pages)
		_, err = is.BringBack("brought back", was)
		require.ErrorIs(t, err, form.ErrNothing)
		require.NoError(t, is.Apply(back.Inverse()), "and it is taken back as every edit is")
	}
}
