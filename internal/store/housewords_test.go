package store_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
)

func wordsOf(t *testing.T, s *store.Store) map[string]store.HouseWord {
	t.Helper()
	list, err := s.HouseWords(ctx)
	require.NoError(t, err)
	out := map[string]store.HouseWord{}
	for _, w := range list {
		out[w.Wording] = w
	}
	return out
}

// What a person says of a wording stands in the place of what was there; what is learnt only adds to it.
func TestHouseWordsAreSaidAndLearnt(t *testing.T) {
	s, person, _ := office(t)
	said := detect.HouseWord{Wording: "Name of Vessel:", Name: "vessel", Kind: form.Text, Lines: true, Format: "date"}
	require.NoError(t, s.PutHouseWord(ctx, said, person, false))
	require.NoError(t, s.PutHouseWord(ctx, detect.HouseWord{Wording: "name of vessel", Name: "ship"}, person, true))
	list := wordsOf(t, s)
	require.Len(t, list, 1, "one wording, however it is printed")
	w := list["name of vessel"]
	assert.Equal(t, []any{"ship", "text", true, "date", true}, []any{w.Name, w.Kind, w.Lines, w.Format, w.Learnt})
	require.NoError(t, s.PutHouseWord(ctx, detect.HouseWord{Wording: "NAME OF VESSEL", Format: "number"}, person, false))
	w = wordsOf(t, s)["NAME OF VESSEL"]
	assert.Equal(t, []any{"", "", false, "number", false}, []any{w.Name, w.Kind, w.Lines, w.Format, w.Learnt})
	assert.Equal(t, "Imke Maas", *w.By)
	options := []form.Option{{Export: "g", Label: "Glass"}, {Export: "s", Label: "Steel"}}
	require.NoError(t, s.PutHouseWord(ctx, detect.HouseWord{Wording: "Hull", Kind: form.Choice, Options: options}, person, false))
	require.NoError(t, s.PutHouseWord(ctx, detect.HouseWord{Wording: "hull", Name: "hull"}, person, true))
	w = wordsOf(t, s)["hull"]
	assert.Equal(t, options, []form.Option(w.Offers), "its options are still there")
	assert.Equal(t, "is called hull and is a list of 2", w.Said())
	dictionary, err := s.Dictionary(ctx)
	require.NoError(t, err)
	assert.NotEmpty(t, dictionary)
	for words, bad := range map[string]detect.HouseWord{
		"needs a wording": {Wording: " : ", Name: "x"}, "needs its options": {Wording: "Hull", Kind: form.Choice},
		"a kind or a format": {Wording: "Hull"}, "name": {Wording: "Hull", Name: "a.b."},
	} {
		require.ErrorContains(t, s.PutHouseWord(ctx, bad, person, false), words)
		require.Error(t, s.PutHouseWords(ctx, []detect.HouseWord{{Wording: "Beam", Name: "beam"}, bad}, person))
	}
	assert.NotContains(t, wordsOf(t, s), "Beam", "all or none")
	require.NoError(t, s.DropHouseWord(ctx, w.ID))
	assert.ErrorIs(t, s.DropHouseWord(ctx, w.ID), store.ErrMissing)
}

// renamed is the edit by which a find is put right.
func renamed(label, before, after string) form.Edit {
	f := form.Field{
		ID: "f-" + label, Page: 1, Kind: form.Text, Label: label, Name: before, Rect: geom.R(50, 50, 150, 66),
		Find: &form.Find{Confidence: 0.5},
	}
	g := f
	g.Name = after
	return form.Edit{Title: "renamed", Before: []form.Field{f}, After: []form.Field{g}}
}

// The same correction in a second document makes a word of it; another correction, or the same in the same document again, does not.
func TestACorrectionIsLearntWhenTwoDocumentsAgree(t *testing.T) {
	s, person, doc := office(t)
	second, err := s.AddDocument(ctx, paper("Slipway", "two", person))
	require.NoError(t, err)
	third, err := s.AddDocument(ctx, paper("Mooring", "three", person))
	require.NoError(t, err)
	require.NoError(t, s.Propose(ctx, doc, renamed("Draught", "draught", "draft"), person))
	require.NoError(t, s.Propose(ctx, doc, renamed("Draught", "draught", "draft"), person))
	require.NoError(t, s.Propose(ctx, second, renamed("DRAUGHT:", "draught", "depth"), person))
	assert.Empty(t, wordsOf(t, s))
	p, there, err := s.HouseProposal(ctx, second, "Draught")
	require.NoError(t, err)
	require.True(t, there)
	assert.Equal(t, "depth", p.Name)
	require.NoError(t, s.Propose(ctx, third, renamed("draught", "draught", "depth"), person))
	w := wordsOf(t, s)["draught"]
	assert.Equal(t, "depth", w.Name)
	assert.True(t, w.Learnt)
	left, err := s.HouseProposals(ctx)
	require.NoError(t, err)
	assert.Empty(t, left, "what is a word is proposed no longer")

	require.NoError(t, s.Propose(ctx, doc, renamed("Beam", "beam", "width"), person))
	left, err = s.HouseProposals(ctx)
	require.NoError(t, err)
	require.Len(t, left, 1)
	assert.Equal(t, "Berth", left[0].Title)
	accepted, err := s.AcceptProposal(ctx, left[0].ID, person)
	require.NoError(t, err)
	assert.Equal(t, "width", accepted.Name)
	assert.Contains(t, wordsOf(t, s), "Beam")
	_, err = s.AcceptProposal(ctx, left[0].ID, person)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, s.DropProposal(ctx, left[0].ID), store.ErrMissing)

	none := renamed("Length", "length", "length")
	hand := renamed("Keel", "keel", "fin")
	hand.Before[0].Find, hand.After[0].Find = nil, nil
	bare := renamed("", "text_1", "sail")
	for _, e := range []form.Edit{none, hand, bare} {
		require.NoError(t, s.Propose(ctx, doc, e, person))
	}
	left, err = s.HouseProposals(ctx)
	require.NoError(t, err)
	assert.Empty(t, left, "nothing changed, nothing was found, or it has no label")
}

// A roster that tables are brought into again and again is what a plain map would be, with the whole of it or with parts, and it is
// searched as the map is.
func TestTheRosterIsWhatAMapWouldBe(t *testing.T) {
	rng := seeded(t)
	s, person, _ := office(t)
	all := []roster.Column{{Key: "name", Title: "Name"}, {Key: "vessel", Title: "Vessel"}, {Key: "town", Title: "Town"}}
	values := []string{"", "", "Petrel", "100 %", "a_b", "Ölund", `back\slash`, "PETREL II", "Marl"}
	model := map[string]map[string]string{}
	for range 25 {
		columns := []roster.Column{all[0]}
		for _, c := range all[1:] {
			if rng.IntN(2) == 0 {
				columns = append(columns, c)
			}
		}
		whole := rng.IntN(4) == 0
		want := store.Brought{}
		var people []roster.Person
		next := map[string]map[string]string{}
		for _, key := range rng.Perm(8)[:rng.IntN(8)] {
			p := roster.Person{Key: string(rune('a' + key)), Data: map[string]string{}}
			for _, c := range columns {
				if v := values[rng.IntN(len(values))]; v != "" {
					p.Data[c.Key] = v
				}
			}
			people = append(people, p)
			data := maps.Clone(model[p.Key])
			if data == nil {
				data = map[string]string{}
			}
			for _, c := range columns {
				delete(data, c.Key)
			}
			maps.Copy(data, p.Data)
			switch was, there := model[p.Key]; {
			case !there:
				want.New++
			case maps.Equal(was, data):
				want.Same++
			default:
				want.Changed++
			}
			next[p.Key] = data
		}
		for key, data := range model {
			if _, there := next[key]; there {
				continue
			}
			if whole {
				want.Gone++
			} else {
				next[key] = data
			}
		}
		model = next
		got, err := s.BringRoster(ctx, person, columns, people, whole)
		require.NoError(t, err)
		require.Equal(t, want, got)
		for _, words := range []string{"", "petrel", "a_b", "%", "ö", `\`, "ii petrel", "petrel marl", "nobody"} {
			var keys, found []string
			for key, data := range model {
				holds := true
				for _, w := range strings.Fields(words) {
					holds = holds && slices.ContainsFunc(slices.Collect(maps.Values(data)), func(v string) bool {
						return strings.Contains(strings.ToLower(v), w)
					})
				}
				if holds {
					keys = append(keys, key)
				}
			}
			list, n, err := s.RosterPeople(ctx, words, 0, 100)
			require.NoError(t, err)
			for _, p := range list {
				require.Equal(t, model[p.Key], p.Data)
				found = append(found, p.Key)
			}
			slices.Sort(keys)
			slices.Sort(found)
			require.Equal(t, keys, found, words)
			require.Equal(t, len(keys), n)
		}
	}
}
