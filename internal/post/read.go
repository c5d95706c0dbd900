package post

import (
	"encoding/base64"
	"io"
	"mime/quotedprintable"
	"net/mail"
	"strings"
)

// Body is the text of a message, decoded (RFC 2045, 6).
func Body(m *mail.Message) io.Reader {
	switch strings.ToLower(m.Header.Get("Content-Transfer-Encoding")) {
	case "quoted-printable":
		return quotedprintable.NewReader(m.Body)
	case "base64":
		return base64.NewDecoder(base64.StdEncoding, m.Body)
	}
	return m.Body
}
