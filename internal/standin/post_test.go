package standin_test

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"encoding/json"
	"fmt"
	"io"
	mathrand "math/rand/v2"
	"mime"
	"net/mail"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/standin"
)

type tray struct {
	mu  sync.Mutex
	all []standin.Caught
}

func (k *tray) keep(_ context.Context, c standin.Caught) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.all = append(k.all, c)
	return nil
}

func opened(t *testing.T) (*tray, *post.Server) {
	t.Helper()
	k := &tray{}
	p, err := standin.OpenPostTray(k.keep)
	require.NoError(t, err)
	t.Cleanup(func() { _ = p.Close() })
	s, err := post.NewServer(p.Address(), "", "Gannet Quay Harbour Office <forms@gannet-quay.example>")
	require.NoError(t, err)
	return k, s
}

// What is sent comes in as it was, whatever its letters, by the reader of messages of Go's own library (RFC 5322, RFC 2047).
func TestAMessageComesIntoTheTray(t *testing.T) {
	k, s := opened(t)
	m := post.Message{
		To: "lucja.ek@mail.example", Subject: "Antrag für Łucja: „Liegeplatz“", ID: "letter-7@gannet-quay.example",
		Text: "Guten Tag Łucja Ek,\n\n.a line that begins with a full stop\n\nhttps://forms.example/f/ABCDEFGHIJKLMNOPQRSTUVWXYZ234567" +
			strings.Repeat(" and so on", 40) + "\n",
	}
	require.NoError(t, s.Send(t.Context(), m))
	require.Len(t, k.all, 1)
	assert.Equal(t, m.To, k.all[0].To)
	assert.Equal(t, "forms@gannet-quay.example", k.all[0].From)
	assert.Equal(t, m.ID, k.all[0].ID)
	in, err := mail.ReadMessage(strings.NewReader(string(k.all[0].Raw)))
	require.NoError(t, err)
	subject, err := new(mime.WordDecoder).DecodeHeader(in.Header.Get("Subject"))
	require.NoError(t, err)
	assert.Equal(t, m.Subject, subject)
	assert.Equal(t, "auto-generated", in.Header.Get("Auto-Submitted"))
	from, err := in.Header.AddressList("From")
	require.NoError(t, err)
	assert.Equal(t, "Gannet Quay Harbour Office", from[0].Name)
	text, err := io.ReadAll(post.Body(in))
	require.NoError(t, err)
	assert.Equal(t, m.Text, strings.ReplaceAll(string(text), "\r\n", "\n"))
}

// A mailbox that is not there is for good, one that is slow is not (RFC 5321, 4.2.1; RFC 3463).
func TestMessagesThatComeBack(t *testing.T) {
	k, s := opened(t)
	var back *post.RefusedError
	require.ErrorAs(t, s.Send(t.Context(), post.Message{To: "gone@" + standin.Nowhere, Subject: "x", Text: "y"}), &back)
	assert.Contains(t, back.Said, "550 5.1.1 there is no such mailbox")
	err := s.Send(t.Context(), post.Message{To: "a@" + standin.Slow, Subject: "x", Text: "y"})
	require.Error(t, err)
	assert.NotErrorAs(t, err, &back)
	require.NoError(t, s.Send(t.Context(), post.Message{To: "a@" + standin.Slow, Subject: "x", Text: "y"}))
	require.ErrorAs(t, s.Send(t.Context(), post.Message{To: "no address", Subject: "x", Text: "y"}), &back)
	assert.Len(t, k.all, 1)
}

// A server that is not there may be there another time.
func TestAServerThatDoesNotAnswer(t *testing.T) {
	for _, bad := range []string{"mail.office.example", "http://x", "smtp://", "smtp://me:secret@x"} {
		_, err := post.NewServer(bad, "", "a@b.example")
		assert.Error(t, err, bad)
	}
	_, err := post.NewServer("smtp://localhost:25", "", "nobody")
	assert.ErrorContains(t, err, "no sender")
	gone, err := post.NewServer("smtp://127.0.0.1:1", "", "a@b.example")
	require.NoError(t, err)
	var back *post.RefusedError
	err = gone.Send(t.Context(), post.Message{To: "a@b.example", Subject: "x", Text: "y"})
	require.Error(t, err)
	assert.NotErrorAs(t, err, &back)
}

// A message goes to a server with TLS only when that is who it says it is, and a password only over TLS (RFC 8314, 4).
func TestMailServersAreHeldToTheirCertificates(t *testing.T) {
	a, err := standin.NewAuthority("Nobody's authority", time.Now().AddDate(0, 0, -1))
	require.NoError(t, err)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	c, err := a.Issue("127.0.0.1", key.Public(), time.Now().AddDate(0, 0, -1), time.Now().AddDate(0, 0, 1))
	require.NoError(t, err)
	l, err := tls.Listen("tcp", "127.0.0.1:0", &tls.Config{
		MinVersion:   tls.VersionTLS12,
		Certificates: []tls.Certificate{{Certificate: [][]byte{c.Raw}, PrivateKey: key}},
	})
	require.NoError(t, err)
	var said atomic.Bool // to whoever is not known
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			b := make([]byte, 100)
			_ = in.SetReadDeadline(time.Now().Add(2 * time.Second))
			if n, _ := in.Read(b); n > 0 {
				said.Store(true)
			}
			_ = in.Close()
		}
	}()
	t.Cleanup(func() { _ = l.Close() })
	s, err := post.NewServer("smtps://me@"+l.Addr().String(), "a secret", "a@b.example")
	require.NoError(t, err)
	require.Error(t, s.Send(t.Context(), post.Message{To: "a@b.example", Subject: "x", Text: "y"}))
	assert.False(t, said.Load())

	k, _ := opened(t)
	p, err := standin.OpenPostTray(k.keep)
	require.NoError(t, err)
	t.Cleanup(func() { _ = p.Close() })
	open, err := post.NewServer(strings.Replace(p.Address(), "smtp://", "smtp://me@", 1), "a secret", "a@b.example")
	require.NoError(t, err)
	require.Error(t, open.Send(t.Context(), post.Message{To: "a@b.example", Subject: "x", Text: "y"}), "nobody signs in without TLS")
	assert.Empty(t, k.all)
}

// Python's reader of messages, which shares nothing with what writes them, has every subject and every text as it was sent, whatever stands
// in them; no text becomes a head, and nothing that is sent is longer than a line may be (RFC 5322, 2.1.1).
func TestAnotherReaderHasEveryMessageAsItWasSent(t *testing.T) {
	python, err := exec.LookPath("python3")
	if err != nil {
		t.Skip("there is no other reader of messages here")
	}
	k, s := opened(t)
	rng := mathrand.New(mathrand.NewPCG(mathrand.Uint64(), 5))
	signs := []rune("ab .=?_:<>@\"äßŁЖ日🙂–")
	text := func(n int, more string) string {
		all := append(slices.Clone(signs), []rune(more)...)
		out := []rune{'x'}
		for range n {
			out = append(out, all[rng.IntN(len(all))])
		}
		return string(out) + "x"
	}
	var sent []post.Message
	for i := range 12 {
		m := post.Message{
			To: "ono@mail.example", Subject: strings.Join(strings.Fields(text(rng.IntN(90), "")), " "),
			Text: text(rng.IntN(3000), "\n\n") + "\n.\nBcc: all@mail.example\n\n..\n", ID: fmt.Sprintf("letter-%d@gannet-quay.example", i),
		}
		require.NoError(t, s.Send(t.Context(), m))
		sent = append(sent, m)
	}
	require.Len(t, k.all, len(sent))
	for i, m := range sent {
		raw := k.all[i].Raw
		for line := range strings.SplitSeq(string(raw), "\r\n") {
			require.LessOrEqual(t, len(line), 998)
		}
		c := exec.Command(python, "-c", `import sys, json, email, email.policy
m = email.message_from_bytes(sys.stdin.buffer.read(), policy=email.policy.default)
print(json.dumps([m['subject'], m.get_content(), m['bcc'], m['to']]))`)
		c.Stdin = strings.NewReader(string(raw))
		out, err := c.Output()
		require.NoError(t, err)
		var got [4]*string
		require.NoError(t, json.Unmarshal(out, &got))
		assert.Equal(t, m.Subject, strings.TrimSpace(*got[0]), "a blank before it is that of a folded line")
		assert.Equal(t, strings.TrimRight(m.Text, "\n"), strings.TrimRight(strings.ReplaceAll(*got[1], "\r\n", "\n"), "\n"))
		assert.Nil(t, got[2])
		assert.Equal(t, m.To, *got[3])
	}
}
