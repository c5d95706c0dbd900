package inbox_test

import (
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/store"
)

// fits are answers that the rules take, as a filled form has them.
func fits(f *form.Template) map[string]any {
	rng := rand.New(rand.NewPCG(3, 3))
	out := map[string]any{}
	for name, v := range answersFor(f, rng) {
		i := slices.IndexFunc(f.Fields, func(q form.Field) bool { return q.Name == name && q.Placed() })
		if k := f.Fields[i].Format.Kind; k != "" && k != form.Number || f.Fields[i].Comb > 0 || f.Fields[i].MaxLen > 0 {
			continue
		}
		out[name] = v
	}
	return out
}

// A filled form comes back as it was filled in, by whatever way: with its fields, flattened, and printed anew by another program (Cairo, by
// poppler), which leaves neither fields nor the file as it was.
func TestAFilledPDFComesBack(t *testing.T) {
	reader, f, file, forms := printed(t)
	answers := fits(&f)
	require.Greater(t, len(answers), 12)
	filled, err := fill.With(file, answers, fill.Options{})
	require.NoError(t, err)
	flat, err := fill.Flatten(filled)
	require.NoError(t, err)
	dir := t.TempDir()
	in, out := filepath.Join(dir, "in.pdf"), filepath.Join(dir, "out.pdf")
	require.NoError(t, os.WriteFile(in, filled, 0o600))
	said, err := exec.Command("pdftocairo", "-pdf", in, out).CombinedOutput()
	require.NoError(t, err, string(said))
	anew, err := os.ReadFile(out)
	require.NoError(t, err)
	for way, b := range map[string][]byte{"live": filled, "flattened": flat, "printed": anew} {
		read, err := reader.Read(t.Context(), store.Target{Document: 1}, returns.KindOf(b), b, time.Now())
		require.NoError(t, err, way)
		require.False(t, read[0].Waits, "%s: %s", way, read[0].Problem)
		got := forms.Named(1, read[0].Values)
		for name, v := range answers {
			is := got[name]
			i := slices.IndexFunc(f.Fields, func(q form.Field) bool { return q.Name == name && q.Placed() })
			if k := f.Fields[i].Format; k.Kind == form.Number { // what is seen has the places that its format shows
				shown, err := rules.Check(k, v.(string))
				require.NoError(t, err)
				is, err = rules.Check(k, is)
				require.NoError(t, err)
				v = shown
			}
			assert.Equal(t, v, is, "%s: %s", way, name)
		}
		assert.Len(t, got, len(answers), way)
	}
}

// Answers stay in their columns when a field is renamed in the next edition; what comes twice is noticed; what no edition asks waits, and
// nothing is lost of it.
func TestReturnsOverSeveralEditions(t *testing.T) {
	s, reader, e := released(t)
	ctx := t.Context()
	put := func(edition *int64, kind, body string) store.Return {
		target := store.Target{Document: 1, Edition: edition}
		u, err := reader.AtOnce(ctx, target, kind, []byte(body))
		require.NoError(t, err)
		require.NotNil(t, u)
		id, err := s.Receive(ctx, store.Arrived{Target: target, Road: "button", Kind: kind, Bytes: []byte(body), Read: u})
		require.NoError(t, err)
		r, err := s.Return(ctx, id)
		require.NoError(t, err)
		return r
	}
	first := put(nil, returns.Form, "name_vessel=Petrel&port_registry=Aldsea")
	assert.Equal(t, e.ID, *first.EditionID)
	assert.Equal(t, "new", first.State)
	_, err := s.Change(ctx, 1, -1, 1, "", func(f *form.Template) (form.Edit, error) {
		edit := form.Edit{Title: "renamed"}
		for _, q := range f.Fields {
			if q.Name == "name_vessel" {
				edit.Before = append(edit.Before, q)
				q.Name = "vessel"
				edit.After = append(edit.After, q)
			}
		}
		return edit, nil
	})
	require.NoError(t, err)
	second := releasedEdition(t, s)
	r := put(nil, returns.XFDF, `<xfdf><fields><field name="vessel"><value>Curlew</value></field></fields></xfdf>`)
	assert.Equal(t, second.ID, *r.EditionID, "told by its names")
	forms, err := reader.FormsOf(ctx, 1)
	require.NoError(t, err)
	i := slices.IndexFunc(forms.Columns, func(c returns.Column) bool { return c.Name == "vessel" })
	key := forms.Columns[i].Key
	assert.Equal(t, "Petrel", first.Answers()[key])
	assert.Equal(t, "Curlew", r.Answers()[key])
	list, n, err := s.FindReturns(ctx, store.Sought{Document: 1, Sort: key, Up: true})
	require.NoError(t, err)
	require.Equal(t, 2, n)
	assert.Equal(t, []int64{r.ID, first.ID}, []int64{list[0].ID, list[1].ID})

	again := put(&e.ID, returns.Form, "port_registry=Aldsea&name_vessel=Petrel")
	require.NotNil(t, again.DoubleOf)
	assert.Equal(t, first.ID, *again.DoubleOf)
	strange := put(nil, returns.JSON, `{"rent": 400, "street": "Mill Lane"}`)
	assert.Equal(t, "waiting", strange.State)
	assert.Contains(t, strange.Problem, "no edition")
	kept, err := s.File(ctx, strange.File)
	require.NoError(t, err)
	assert.Contains(t, string(kept), "Mill Lane")
	_, n, err = s.FindReturns(ctx, store.Sought{Document: 1, Words: "petr"})
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	_, n, err = s.FindReturns(ctx, store.Sought{Document: 1, Key: key, Answer: "-"})
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}

// A return is put right by hand: it is kept who did so and what it was, the rules are asked anew, and who was slower is told.
func TestAnAnswerIsPutRight(t *testing.T) {
	s, reader, _ := released(t)
	ctx := t.Context()
	body := []byte("name_vessel=Petrel&length_overall=nine")
	u, err := reader.AtOnce(ctx, store.Target{Document: 1}, returns.Form, body)
	require.NoError(t, err)
	id, err := s.Receive(ctx, store.Arrived{Target: store.Target{Document: 1}, Road: "button", Kind: returns.Form, Bytes: body, Read: u})
	require.NoError(t, err)
	forms, err := reader.FormsOf(ctx, 1)
	require.NoError(t, err)
	key := returns.Keys(forms.Columns, 1)["length_overall"]
	require.NotEmpty(t, u.Broken[key])
	check := func(answers map[string]string) (map[string]string, []byte, error) {
		broken, err := forms.Check(1, answers, time.Now())
		return broken, returns.Digest(answers), err
	}
	require.NoError(t, s.CorrectReturn(ctx, id, 1, key, "nine", "9", check))
	require.ErrorIs(t, s.CorrectReturn(ctx, id, 2, key, "nine", "90", check), form.ErrClash)
	r, err := s.Return(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "9", r.Answers()[key])
	assert.Empty(t, r.Broken()[key])
	require.NoError(t, s.SetReturnState(ctx, []int64{id}, 1, "checked"))
	require.NoError(t, s.NoteReturn(ctx, id, 1, "she telephoned"))
	require.NoError(t, s.AssignReturn(ctx, id, 1, 2))
	all, err := s.Changes(ctx, id)
	require.NoError(t, err)
	var what []string
	for _, c := range all {
		what = append(what, c.What+" "+c.Was+" "+c.Is)
	}
	assert.Equal(t, []string{"assigned  Odalys Brandt", "note  she telephoned", "state new checked", "value nine 9"}, what)
	n, err := s.DeleteReturns(ctx, 1, []int64{id}, 1, "she asked for it")
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	_, err = s.File(ctx, r.File)
	require.ErrorIs(t, err, store.ErrMissing, "with its file")
	sums, err := s.SumReturns(ctx, 1, time.Now())
	require.NoError(t, err)
	assert.Zero(t, sums.All)
}

// Returns are kept for as long as the office has said.
func TestReturnsAreKeptForATime(t *testing.T) {
	s, _, e := released(t)
	ctx := t.Context()
	for _, days := range []int{0, 20, 40} {
		_, err := s.Receive(ctx, store.Arrived{
			Target: store.Target{Document: 1, Edition: &e.ID}, Road: "button", Kind: returns.Form, Bytes: []byte{'a', byte(days)},
			At: time.Now().AddDate(0, 0, -days), Read: &store.Understood{},
		})
		require.NoError(t, err)
	}
	n, err := s.RetainReturns(ctx)
	require.NoError(t, err)
	assert.Zero(t, n, "for ever, until it is said")
	require.NoError(t, s.KeepDays(ctx, 1, 1, 30))
	n, err = s.RetainReturns(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	list, err := s.Returns(ctx, 1)
	require.NoError(t, err)
	assert.Len(t, list, 2)
}
