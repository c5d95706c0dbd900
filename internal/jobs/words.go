package jobs

import (
	"context"
	"log/slog"
	"strings"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
)

// searchedPages is on how many pages of a document words are gathered for the search.
const searchedPages = 200

// Words keeps the words that are printed on the pages of a document, so that it is found by them.
func Words(ctx context.Context, s *store.Store, document int64) error {
	d, err := s.Document(ctx, document)
	if err != nil {
		return err
	}
	var all strings.Builder
	pages := d.Pages()
	err = eachEvidence(ctx, s, pages[:min(len(pages), searchedPages)], (*engine.Doc).Written, func(_ form.Page, ev *evidence.Page) {
		all.WriteString(ev.Text())
	})
	if err != nil {
		return err
	}
	return s.SetWords(ctx, document, all.String())
}

// gathered is [Words] for a job whose main work is done: the search is an aid, and fails alone.
func gathered(ctx context.Context, s *store.Store, document *int64) {
	if document == nil {
		return
	}
	if err := Words(ctx, s, *document); err != nil && ctx.Err() == nil {
		slog.Warn("the words of a document were not gathered for the search", "document", *document, "error", err)
	}
}
