package links

import (
	"bytes"
	"io"
	"mime"
	"net/http"
	"net/mail"
	"regexp"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type trayView struct {
	frame.Shell
	Messages []message
	One      *message
	Older    int64
	On       bool // messages come here
}

type message struct {
	ID                int64
	From, To, Subject string
	Number            string // that stands in its head
	At                time.Time
	Parts             []part
}

// part is some of the text of a message; with an address it leads there.
type part struct {
	Text string
	Link bool
}

const perTray = 50

// Tray lists the messages that lie in the post tray.
func Tray(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	all, err := s.Store.PostTray(ctx, int64(frame.Number(c.QueryParam("before"), 0)), perTray)
	if err != nil {
		return err
	}
	v := trayView{Shell: s.Shell(c, "Post tray", "upkeep"), On: s.Tray}
	for _, m := range all {
		v.Messages = append(v.Messages, read(m))
	}
	if len(all) == perTray {
		v.Older = all[len(all)-1].ID
	}
	return s.Render(c, http.StatusOK, "tray", "page", v)
}

// Message shows one of them.
func Message(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	m, err := s.Store.CaughtMessage(c.Request().Context(), id)
	if err != nil {
		return err
	}
	one := read(m)
	return s.Render(c, http.StatusOK, "tray", "page", trayView{Shell: s.Shell(c, one.Subject, "upkeep"), One: &one, On: s.Tray})
}

var anAddress = regexp.MustCompile(`https?://[^\s<>"]+`)

// read takes a message apart; what cannot be read is shown as it came.
func read(c store.Caught) message {
	m := message{ID: c.ID, From: c.Sender, To: c.Recipient, At: c.At, Subject: "(no subject)"}
	in, err := mail.ReadMessage(bytes.NewReader(c.Message))
	if err != nil {
		m.Parts = []part{{Text: strings.ToValidUTF8(string(c.Message), "\ufffd")}}
		return m
	}
	m.Number = in.Header.Get("Message-Id")
	words := new(mime.WordDecoder)
	if v, err := words.DecodeHeader(in.Header.Get("Subject")); err == nil && v != "" {
		m.Subject = v
	}
	if from, err := in.Header.AddressList("From"); err == nil && from[0].Name != "" {
		m.From = from[0].Name + ", " + from[0].Address
	}
	b, _ := io.ReadAll(post.Body(in)) // as much of it as can be read
	text := strings.ToValidUTF8(strings.ReplaceAll(string(b), "\r\n", "\n"), "\ufffd")
	for text != "" {
		at := anAddress.FindStringIndex(text)
		if at == nil {
			at = []int{len(text), len(text)}
		}
		if at[0] > 0 {
			m.Parts = append(m.Parts, part{Text: text[:at[0]]})
		}
		if at[1] > at[0] {
			m.Parts = append(m.Parts, part{Text: text[at[0]:at[1]], Link: true})
		}
		text = text[at[1]:]
	}
	return m
}
