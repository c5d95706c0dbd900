package store

import (
	"context"
	"fmt"
	"regexp"
	"strings"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
)

// ErrRepeated is an edit that was carried out when it was sent the first time. It is a
// [form.ErrNothing].
var ErrRepeated = fmt.Errorf("this edit was carried out before: %w", form.ErrNothing)

type sentKey struct{}

var sentForm = regexp.MustCompile(`^[0-9A-Za-z-]{1,40}:[0-9A-Za-z-]{1,40}$`)

// WithSent marks what is done in a context as one sending of an edit: "window:edit", each of
// up to 40 letters, figures and hyphens. A change with a key that was carried out before is
// [ErrRepeated], and does not clash with what its own window did in the meantime. Anything
// else is left out.
func WithSent(ctx context.Context, key string) context.Context {
	if !sentForm.MatchString(key) {
		return ctx
	}
	return context.WithValue(ctx, sentKey{}, key)
}

// sentOf is the key of an edit and the window that sent it; nil and "" where there is none.
func sentOf(ctx context.Context) (key *string, window string) {
	if k, ok := ctx.Value(sentKey{}).(string); ok {
		window, _, _ = strings.Cut(k, ":")
		return &k, window
	}
	return nil, ""
}

// repeated tells whether an edit of a document was carried out before. The document is locked.
func repeated(ctx context.Context, tx *sqlx.Tx, id int64) error {
	key, _ := sentOf(ctx)
	if key == nil {
		return nil
	}
	var there bool
	err := tx.GetContext(ctx, &there, `select exists(select from edits where document_id = $1 and sent = $2)`, id, *key)
	if err == nil && there {
		err = ErrRepeated
	}
	return err
}
