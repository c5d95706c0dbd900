package post

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net"
	"net/mail"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"
)

// Message is what is sent to a person.
type Message struct {
	To, Subject, Text string
	// ID stands in the head of the message (RFC 5322, 3.6.4), without its angle brackets: what is sent twice with the same one is one
	// message. Empty is one that nobody else has.
	ID string
}

// Post sends messages.
type Post interface {
	// Send hands a message over. A [RefusedError] is for good; any other error may be gone another time.
	Send(ctx context.Context, m Message) error
}

// RefusedError is a message that the server will never take, with what it said.
type RefusedError struct{ Said string }

func (e *RefusedError) Error() string { return "it came back: " + e.Said }

// Server is a mail server that takes an office's messages.
type Server struct {
	host, user, password string
	port                 int
	secret               bool // over TLS from the first byte; otherwise TLS is begun, but for on this machine
	local                bool
	from                 mail.Address
}

// within is how long a message may take to be handed over.
const within = 30 * time.Second

// NewServer reads where a server is: smtps://user@mail.office.example:465, or smtp://user@mail.office.example:587. From is what stands in
// the messages as their sender, such as "Harbour office <forms@office.example>". Without a user nobody signs in.
func NewServer(at, password, from string) (*Server, error) {
	u, err := url.Parse(at)
	if err != nil || u.Scheme != "smtp" && u.Scheme != "smtps" || u.Hostname() == "" || u.Path != "" && u.Path != "/" {
		return nil, fmt.Errorf("%q is no mail server: write it as smtp://user@mail.office.example:587, or smtps:// for port 465", at)
	}
	if _, set := u.User.Password(); set {
		return nil, errors.New("the password of the mail server must not stand in its address: set ZM_SMTP_PASSWORD")
	}
	sender, err := mail.ParseAddress(from)
	if err != nil {
		return nil, fmt.Errorf("%q is no sender: write it as Harbour office <forms@office.example>", from)
	}
	s := &Server{host: u.Hostname(), user: u.User.Username(), password: password, secret: u.Scheme == "smtps", from: *sender}
	s.port = map[bool]int{true: 465, false: 587}[s.secret] // RFC 8314, 3.3; RFC 6409, 3.1
	if p := u.Port(); p != "" {
		if s.port, err = strconv.Atoi(p); err != nil {
			return nil, fmt.Errorf("%q is no port of a mail server", p)
		}
	}
	ip := net.ParseIP(s.host)
	s.local = ip.IsLoopback() || s.host == "localhost"
	return s, nil
}

// Send hands a message over.
func (s *Server) Send(ctx context.Context, m Message) error {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	if err := msg.FromFormat(s.from.Name, s.from.Address); err != nil {
		return err
	}
	if err := msg.To(m.To); err != nil {
		return &RefusedError{fmt.Sprintf("%q is no e-mail address", m.To)}
	}
	msg.Subject(m.Subject)
	msg.SetDate()
	msg.SetGenHeader("Auto-Submitted", "auto-generated") // so that nobody's absence is answered to it (RFC 3834, 5)
	if m.ID != "" {
		msg.SetMessageIDWithValue(m.ID)
	} else {
		msg.SetMessageID()
	}
	msg.SetBodyString(gomail.TypeTextPlain, m.Text)
	options := []gomail.Option{gomail.WithPort(s.port), gomail.WithTimeout(within), gomail.WithTLSPolicy(gomail.TLSMandatory)}
	switch {
	case s.secret:
		options = append(options, gomail.WithSSL())
	case s.local:
		options = append(options, gomail.WithTLSPolicy(gomail.TLSOpportunistic))
	}
	if s.user != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.user),
			gomail.WithPassword(s.password))
	}
	c, err := gomail.NewClient(s.host, options...)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	err = c.DialAndSendWithContext(ctx, msg)
	var said *gomail.SendError
	if errors.As(err, &said) && !said.IsTemp() && said.ErrorCode() >= 500 { // RFC 5321, 4.2.1
		return &RefusedError{refusal(said)}
	}
	return err
}

var answer = regexp.MustCompile(`\b5\d\d .*?(?:, affected |$)`)

// refusal is what the server said when it refused a message.
func refusal(e *gomail.SendError) string {
	said := strings.TrimSuffix(answer.FindString(e.Error()), ", affected ")
	return cmp.Or(strings.TrimSpace(strings.ReplaceAll(said, `"`, "")), strconv.Itoa(e.ErrorCode()))
}
