package standin

import (
	"bytes"
	"context"
	"errors"
	"io"
	"log"
	"net"
	"net/mail"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Caught is a message that came into the post tray.
type Caught struct {
	ID   string // of the message, without angle brackets; empty when it says none
	From string
	To   string
	Raw  []byte // as RFC 5322 has it
}

// Domains for trying out what else happens to messages: there is nobody, and one has to come again.
const (
	Nowhere = "nowhere.example"
	Slow    = "slow.example"
)

// mostLetter is how large a message may be, in bytes.
const mostLetter = 1 << 20

// PostTray is the stand-in for a mail server: it takes every message by SMTP (RFC 5321) and keeps it for a view, and sends none on.
// Messages to [Nowhere] come back, those to [Slow] are put off once.
type PostTray struct {
	keep   func(context.Context, Caught) error
	server *smtp.Server
	at     net.Addr
	mu     sync.Mutex
	putOff map[string]bool
}

// OpenPostTray opens one on loopback, at a port that is free.
func OpenPostTray(keep func(context.Context, Caught) error) (*PostTray, error) {
	t := &PostTray{keep: keep, putOff: map[string]bool{}}
	t.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &delivery{tray: t}, nil }))
	t.server.Domain = "post-tray.invalid"
	t.server.MaxMessageBytes, t.server.MaxRecipients, t.server.EnableSMTPUTF8 = mostLetter, 1, true
	t.server.ReadTimeout, t.server.WriteTimeout = 30*time.Second, 30*time.Second
	t.server.ErrorLog = log.New(io.Discard, "", 0)
	l, err := (&net.ListenConfig{}).Listen(context.Background(), "tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	t.at = l.Addr()
	go func() { _ = t.server.Serve(l) }() // ends with Close
	return t, nil
}

// Address is where it listens, as smtp://127.0.0.1:2525.
func (t *PostTray) Address() string { return "smtp://" + t.at.String() }

// Close shuts it.
func (t *PostTray) Close() error { return t.server.Close() }

// delivery is one connection to the tray.
type delivery struct {
	tray     *PostTray
	from, to string
}

func (d *delivery) Reset()        { d.from, d.to = "", "" }
func (d *delivery) Logout() error { return nil }

func (d *delivery) Mail(from string, _ *smtp.MailOptions) error {
	d.from = from
	return nil
}

// What is answered: RFC 3463, X.1.1 and X.7.1.
var (
	errNoMailbox = &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "there is no such mailbox"}
	errLater     = &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "not now: come again in a moment"}
)

func (d *delivery) Rcpt(to string, _ *smtp.RcptOptions) error {
	_, domain, _ := strings.Cut(strings.ToLower(to), "@")
	switch domain {
	case Nowhere:
		return errNoMailbox
	case Slow:
		d.tray.mu.Lock()
		defer d.tray.mu.Unlock()
		if !d.tray.putOff[to] {
			d.tray.putOff[to] = true
			return errLater
		}
	}
	d.to = to
	return nil
}

func (d *delivery) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	m, err := mail.ReadMessage(bytes.NewReader(raw))
	if err != nil {
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: "this is no message"}
	}
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	c := Caught{ID: strings.Trim(m.Header.Get("Message-Id"), "<> "), From: d.from, To: d.to, Raw: raw}
	if err := d.tray.keep(ctx, c); err != nil {
		return errors.Join(errLater, err)
	}
	return nil
}
