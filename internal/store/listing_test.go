package store_test

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
)

// shelf is a store with documents "Form 000" and so on, in three stages, of two people; every tenth has the label season.
func shelf(t *testing.T, n int) *store.Store {
	t.Helper()
	s := storetest.Open(t)
	ctx := context.Background()
	var people []int64
	for _, name := range []string{"Imke Meer", "Odalys Brandt"} {
		id, err := s.AddAccount(ctx, name+"@example.org", name, "preparer", "a long password")
		require.NoError(t, err)
		people = append(people, id)
	}
	for i := range n {
		id, err := s.AddDocument(ctx, store.NewDocument{
			Title: fmt.Sprintf("Form %03d", i), Originals: []store.NamedFile{{Name: "f.pdf", Bytes: []byte("x")}}, By: people[i%2],
			Pages: []form.Page{{ID: "p", N: 1, Width: 595, Height: 842}},
		})
		require.NoError(t, err)
		_, err = s.Change(ctx, id, -1, people[i%2], []string{"find", "fit", "release"}[i%3], func(*form.Template) (form.Edit, error) {
			return form.Edit{Title: "named", After: []form.Field{
				{ID: "a", Page: 1, Kind: form.Text, Name: "a", Rect: geom.R(50, 50, 150, 66)},
				{ID: "b", Page: 1, Kind: form.Text, Name: "b", Rect: geom.R(50, 90, 150, 106), Find: &form.Find{Confidence: 0.1}},
			}}, nil
		})
		require.NoError(t, err)
		require.NoError(t, s.SetWords(ctx, id, fmt.Sprintf("Anchorage berth%03d it's said", i)))
		if i%10 == 0 {
			require.NoError(t, s.SetLabels(ctx, id, []string{"season", " Season ", "", "quay"}))
		}
	}
	return s
}

var stages = []string{"find", "Find", "fit", "Fit", "release", "Release"}

func titles(l store.Listed) (out []string) {
	for _, d := range l.Documents {
		out = append(out, d.Title)
	}
	return out
}

func TestTheListIsLeafedThroughInEveryOrder(t *testing.T) {
	const n = 137
	s := shelf(t, n)
	for _, sort := range []string{store.ByChange, store.ByName, store.ByStage} {
		l := store.Listing{Sort: sort, Stages: stages}
		var forth []string
		var last store.Listed
		for {
			page, err := s.List(context.Background(), l)
			require.NoError(t, err)
			assert.Equal(t, n, page.Total)
			forth, last = append(forth, titles(page)...), page
			if page.Next == "" {
				break
			}
			require.Len(t, page.Documents, store.PageOfDocuments)
			l.After = page.Next
		}
		require.Len(t, forth, n, sort)
		once := slices.Clone(forth)
		slices.Sort(once)
		assert.Len(t, slices.Compact(once), n, "each once, %s", sort)
		// and back again
		back := titles(last)
		for last.Previous != "" {
			page, err := s.List(context.Background(), store.Listing{Sort: sort, Stages: stages, Before: last.Previous})
			require.NoError(t, err)
			back, last = append(titles(page), back...), page
		}
		assert.Equal(t, forth, back, sort)
		if sort == store.ByName {
			assert.True(t, slices.IsSorted(forth))
		}
	}
	_, err := s.List(context.Background(), store.Listing{After: "nonsense"})
	assert.ErrorContains(t, err, "begin at the first")
}

func TestDocumentsAreFoundByNameWordsStagePersonAndLabel(t *testing.T) {
	s := shelf(t, 30)
	for _, c := range []struct {
		l    store.Listing
		want int
	}{
		{store.Listing{Search: "form 007"}, 1},
		{store.Listing{Search: "FORM"}, 30},
		{store.Listing{Search: "berth01"}, 10}, // the beginning of a word on its pages
		{store.Listing{Search: "anchorage it's"}, 30},
		{store.Listing{Search: "odalys"}, 15},
		{store.Listing{Search: "release"}, 10},
		{store.Listing{Search: "release odalys berth0"}, 5},
		{store.Listing{Search: "season"}, 3},
		{store.Listing{Search: `100%_\ '"&|!:*()`}, 0},
		{store.Listing{Search: "nothing of the kind"}, 0},
		{store.Listing{Stage: "fit"}, 10},
		{store.Listing{Label: "season"}, 3},
		{store.Listing{Label: "Quay"}, 0},
		{store.Listing{Mine: 1}, 15},
		{store.Listing{Mine: 1, Stage: "fit", Search: "form"}, 5},
		{store.Listing{Archived: true}, 0},
	} {
		c.l.Stages = stages
		got, err := s.List(context.Background(), c.l)
		require.NoError(t, err, "%+v", c.l)
		assert.Equal(t, c.want, got.Total, "%+v", c.l)
		assert.Len(t, got.Documents, c.want, "%+v", c.l)
	}
	labels, err := s.Labels(context.Background())
	require.NoError(t, err)
	assert.Equal(t, []store.Label{{Name: "quay", Documents: 3}, {Name: "season", Documents: 3}}, labels)
	assert.ErrorContains(t, s.SetLabels(context.Background(), 1, []string{fmt.Sprintf("%050d", 0)}), "shorten")
}

// The numbers that the workroom lists are kept with every change, and taken back with it.
func TestNumbersOfFieldsAreKeptWithTheDocument(t *testing.T) {
	s := shelf(t, 1)
	ctx := context.Background()
	numbers := func() [3]int {
		d, err := s.Document(ctx, 1)
		require.NoError(t, err)
		return [3]int{d.Fields, d.Open, d.Doubtful}
	}
	assert.Equal(t, [3]int{1, 1, 1}, numbers())
	next, err := s.NextDoubtful(ctx)
	require.NoError(t, err)
	assert.Equal(t, int64(1), next.ID)
	_, err = s.Change(ctx, 1, -1, 1, "", func(t *form.Template) (form.Edit, error) { return t.KeepAll(0) })
	require.NoError(t, err)
	assert.Equal(t, [3]int{2, 0, 0}, numbers())
	_, err = s.NextDoubtful(ctx)
	require.ErrorIs(t, err, store.ErrMissing)
	_, err = s.Undo(ctx, 1, 1, -1, false)
	require.NoError(t, err)
	assert.Equal(t, [3]int{1, 1, 1}, numbers())
	d, err := s.Document(ctx, 1)
	require.NoError(t, err)
	e, err := s.Release(ctx, written(1, d.Revision, 1, "%PDF"))
	require.NoError(t, err)
	d, err = s.Document(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, e.Number, *d.Edition)
	assert.True(t, d.Settled)
}
