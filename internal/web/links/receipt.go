package links

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// receipt is what shows that somebody has sent a return: without it nobody sees it by a link.
func receipt(l store.FormLink, id int64) string {
	mac := hmac.New(sha256.New, l.Secret)
	fmt.Fprintf(mac, "return %d", id)
	return base64.RawURLEncoding.EncodeToString(mac.Sum(nil)[:18])
}

// received reads the return that somebody has sent by a link.
func received(s *frame.Frame, c *echo.Context, number string) (l store.FormLink, r store.Return, err error) {
	h := c.Response().Header()
	h.Set("Referrer-Policy", "no-referrer")
	ctx := c.Request().Context()
	if l, err = s.Store.FormLinkAt(ctx, c.Param("token")); err != nil {
		return l, r, err
	}
	id := int64(frame.Number(number, 0))
	if !hmac.Equal([]byte(receipt(l, id)), []byte(c.QueryParam("key"))) {
		return l, r, store.ErrMissing
	}
	if r, err = s.Store.Return(ctx, id); err == nil && (r.LinkID == nil || *r.LinkID != l.ID) {
		err = store.ErrMissing
	}
	return l, r, err
}

// sentPage says what was sent.
func sentPage(s *frame.Frame, c *echo.Context) error {
	l, r, err := received(s, c, c.QueryParam("sent"))
	if err != nil {
		return err
	}
	forms, err := s.Inbox.FormsOf(c.Request().Context(), l.DocumentID)
	if err != nil {
		return err
	}
	d := doneView{At: r.ReceivedAt, Number: r.ID}
	answers := r.Answers()
	for _, col := range forms.Columns {
		if v := answers[col.Key]; v != "" {
			d.Said = append(d.Said, [2]string{col.Label, strings.ReplaceAll(col.Shown(v), "\n", ", ")})
		}
	}
	if r.Copy != nil {
		d.Copy = fmt.Sprintf("%s%s/sent/%d?%s", frame.LinkPath, l.Token, r.ID, url.Values{"key": {c.QueryParam("key")}}.Encode())
	}
	return s.Render(
		c,
		http.StatusOK,
		"fillin",
		"page",
		fillView{Shell: s.Shell(c, l.Title, ""), Link: l, At: frame.LinkPath + l.Token, Done: &d},
	)
}

// SentCopy is a copy of what somebody has sent, as PDF: as it can be changed, or flattened.
func SentCopy(s *frame.Frame, c *echo.Context) error {
	l, r, err := received(s, c, c.Param("id"))
	if err != nil {
		return err
	}
	if r.Copy == nil {
		return store.ErrMissing
	}
	b, err := s.Store.File(c.Request().Context(), *r.Copy)
	if err != nil {
		return err
	}
	if c.QueryParam("flat") != "" {
		if b, err = fill.Flatten(b); err != nil {
			return err
		}
	}
	return frame.Download(c, frame.Slug(l.Title)+"-sent.pdf", "application/pdf", b)
}
