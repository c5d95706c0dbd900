package store_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// written is an edition of a document with what a writer would have made.
func written(doc, revision, who int64, pdf string) store.NewEdition {
	return store.NewEdition{
		Document: doc, Revision: revision, By: who, PDF: []byte(pdf), Proof: "compared",
		Name: func(n int) string { return fmt.Sprintf("berth-%d.pdf", n) },
	}
}

func TestAnEditionKeepsTheFormItWasWrittenFrom(t *testing.T) {
	s, who, doc := office(t)
	_, err := s.Change(ctx, doc, 0, who, "", add("a", 700))
	require.NoError(t, err)
	n := written(doc, 1, who, "%PDF one")
	n.Form, n.Notes = draft(t, s, doc).Template, "  the first one  "
	n.Form.Pictures = map[string][]byte{"x": []byte("a picture")}
	first, err := s.Release(ctx, n)
	require.NoError(t, err)
	assert.Equal(t, "the first one", first.Notes)
	assert.Equal(t, 1, first.Fields)
	assert.True(t, first.Kept)
	kept, err := s.EditionForm(ctx, first.ID)
	require.NoError(t, err)
	assert.Empty(t, kept.Pictures)
	now := draft(t, s, doc).Template
	assert.Empty(t, form.Compare(&kept, &now))

	_, err = s.Change(ctx, doc, 1, who, "", add("b", 600))
	require.NoError(t, err)
	again := written(doc, first.Revision, who, "%PDF one again")
	again.Form, again.Again = kept, first.Number
	second, err := s.Release(ctx, again)
	require.NoError(t, err, "the form of an earlier edition is released whatever the draft is now")
	assert.Equal(t, 2, second.Number)
	assert.Equal(t, 1, *second.Again)
	d := draft(t, s, doc)
	assert.False(t, d.Document.Settled, "the draft is not what was released")
	assert.Len(t, d.Template.Fields, 2, "and it stays as it is")

	long := written(doc, 2, who, "%PDF")
	long.Notes = string(make([]byte, 3000))
	_, err = s.Release(ctx, long)
	require.Error(t, err)
}

func TestAnOlderEditionSaysThatItsFormWasNotKept(t *testing.T) {
	s, who, doc := office(t)
	_, err := s.DB().ExecContext(ctx, `insert into editions (document_id, number, file, file_name, fields, revision, released_by)
		select $1, 1, original, 'old.pdf', 0, 0, $2 from documents where id = $1`, doc, who)
	require.NoError(t, err)
	all, err := s.Editions(ctx, doc)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.False(t, all[0].Kept)
	_, err = s.EditionForm(ctx, all[0].ID)
	require.ErrorIs(t, err, store.ErrNotKept)
	_, err = s.EditionForm(ctx, 999)
	require.ErrorIs(t, err, store.ErrMissing)
}

func TestAWithdrawnEditionStaysAndSaysWhy(t *testing.T) {
	s, who, doc := office(t)
	first, err := s.Release(ctx, written(doc, 0, who, "%PDF one"))
	require.NoError(t, err)
	require.ErrorIs(t, s.Withdraw(ctx, first.ID, who, "  "), store.ErrWithoutWhy)
	require.ErrorIs(t, s.Withdraw(ctx, 999, who, "wrong"), store.ErrMissing)
	require.NoError(t, s.Withdraw(ctx, first.ID, who, "the fee was wrong"))
	require.ErrorIs(t, s.Withdraw(ctx, first.ID, who, "again"), store.ErrWithdrawn)
	e, err := s.Edition(ctx, first.ID)
	require.NoError(t, err)
	require.NotNil(t, e.WithdrawnAt)
	assert.Equal(t, "the fee was wrong", *e.Reason)
	assert.Equal(t, "Imke Maas", *e.WithdrawnBy)
	b, err := s.File(ctx, e.File)
	require.NoError(t, err)
	assert.Equal(t, "%PDF one", string(b))
	log, err := s.Log(ctx, 0, 10)
	require.NoError(t, err)
	assert.Equal(t, store.DeedWithdraw, log[0].Deed)
	assert.Equal(t, "the fee was wrong", log[0].Reason)
}
