package intake

import (
	"archive/zip"
	"bytes"
	"io"
	"path"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// kind is what a file is, by its content and not by its name.
type kind string

const (
	isPDF      kind = "PDF"
	isPicture  kind = "picture"
	isDOCX     kind = "DOCX"
	isODT      kind = "ODT"
	isDOC      kind = "DOC"
	isRTF      kind = "RTF"
	isText     kind = "text"
	isMarkdown kind = "Markdown"
	isFolder   kind = "folder"
	unknown    kind = ""
)

// Accept is what the file dialog of a browser may offer.
const Accept = ".pdf,.png,.jpg,.jpeg,.tif,.tiff,.webp,.docx,.doc,.odt,.rtf,.txt,.md,.markdown,.zip"

func kindOf(name string, b []byte) kind {
	ext := strings.ToLower(path.Ext(name))
	has := func(prefix string) bool { return bytes.HasPrefix(b, []byte(prefix)) }
	switch {
	case bytes.Contains(b[:min(len(b), 1024)], []byte("%PDF-")), ext == ".pdf":
		return isPDF
	case has("\x89PNG\r\n\x1a\n"), has("\xff\xd8\xff"), has("II*\x00"), has("MM\x00*"),
		has("RIFF") && len(b) > 12 && string(b[8:12]) == "WEBP":
		return isPicture
	case has(`{\rtf`):
		return isRTF
	case has("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"):
		return isDOC
	case has("PK\x03\x04"), has("PK\x05\x06"):
		return kindOfZip(b)
	}
	if _, ok := plainText(b); ok && ext != ".docx" && ext != ".odt" && ext != ".doc" {
		if ext == ".md" || ext == ".markdown" {
			return isMarkdown
		}
		return isText
	}
	return unknown
}

func kindOfZip(b []byte) kind {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return unknown
	}
	for _, f := range z.File {
		switch f.Name {
		case "word/document.xml":
			return isDOCX
		case "mimetype":
			if r, err := f.Open(); err == nil {
				m, _ := io.ReadAll(io.LimitReader(r, 200))
				_ = r.Close()
				if strings.HasPrefix(string(m), "application/vnd.oasis.opendocument.text") {
					return isODT
				}
			}
		case "[Content_Types].xml":
			if _, err := z.Open("word/document.xml"); err != nil {
				return unknown // a spreadsheet, or slides
			}
		}
	}
	return isFolder
}

// plainText decodes a text file: UTF-8, UTF-16 with a mark, or Windows-1252. Ok is
// false when it is no text.
func plainText(b []byte) (string, bool) {
	if bytes.HasPrefix(b, []byte{0xff, 0xfe}) || bytes.HasPrefix(b, []byte{0xfe, 0xff}) {
		s, err := unicode.UTF16(unicode.BigEndian, unicode.ExpectBOM).NewDecoder().Bytes(b)
		return string(s), err == nil
	}
	b = bytes.TrimPrefix(b, []byte{0xef, 0xbb, 0xbf})
	odd := 0
	for _, c := range b {
		if c < 32 && c != '\t' && c != '\n' && c != '\r' && c != '\f' && c != 0x1b {
			odd++
		}
	}
	if odd > 0 {
		return "", false
	}
	if utf8.Valid(b) {
		return string(b), true
	}
	s, err := charmap.Windows1252.NewDecoder().Bytes(b)
	return string(s), err == nil
}
