package write

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// The names of an XMP packet (ISO 16684-1, 7 and 8.3).
const (
	dublinCore = "http://purl.org/dc/elements/1.1/"
	rdf        = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
)

// said is one thing that a packet says of a document: the name of its element, its container, and the value.
type said struct{ tag, list, value string }

func packetSays(d form.Details) map[string]said {
	return map[string]said{
		"Title": {"title", "Alt", d.Title}, "Subject": {"description", "Alt", d.Subject}, "Author": {"creator", "Seq", d.Author},
		"Lang": {"language", "Bag", d.Language},
	}
}

// element is what is said as XML; the prefixes are declared in it, whatever stands around it.
func (s said) element() string {
	lang := ""
	if s.list == "Alt" {
		lang = ` xml:lang="x-default"`
	}
	return fmt.Sprintf(`<dc:%s xmlns:dc="%s" xmlns:rdf="%s"><rdf:%s><rdf:li%s>%s</rdf:li></rdf:%s></dc:%s>`, s.tag, dublinCore, rdf, s.list,
		lang, xmlText(s.value), s.list, s.tag)
}

// newPacket is a packet that says the details and nothing else.
func newPacket(d form.Details) []byte {
	var b strings.Builder
	b.WriteString("<?xpacket begin=\"\ufeff\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n<x:xmpmeta xmlns:x=\"adobe:ns:meta/\"><rdf:RDF " +
		"xmlns:rdf=\"" + rdf + "\"><rdf:Description rdf:about=\"\">")
	for _, k := range []string{"Title", "Subject", "Author", "Lang"} {
		if s := packetSays(d)[k]; s.value != "" {
			b.WriteString(s.element())
		}
	}
	b.WriteString("</rdf:Description></rdf:RDF></x:xmpmeta>\n<?xpacket end=\"w\"?>")
	return []byte(b.String())
}

var errPacket = errors.New("the metadata cannot be read")

// span is a part of a packet, from one byte to before another.
type span struct{ from, to int }

// parts is where a packet says something.
type parts struct {
	whole map[string]span   // the elements of Dublin Core, by their names
	text  map[string]span   // what stands in the first item of each, or in the one for any language
	empty map[string]string // the names of those items that are one empty tag, <rdf:li/>, whose end the text is
	end   int               // of the last description, before its end tag; -1 when there is none
	root  int               // before the end tag of the RDF
}

// partsOf reads where a packet says what (ISO 16684-1, 7.4).
func partsOf(packet []byte) (parts, error) {
	p := parts{whole: map[string]span{}, text: map[string]span{}, empty: map[string]string{}, end: -1, root: -1}
	dec := xml.NewDecoder(bytes.NewReader(packet))
	var path []xml.Name
	at, any := "", false // the element of Dublin Core that is read, and whether an item for any language was
	start, item, tag := 0, 0, 0
	for {
		before := int(dec.InputOffset())
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			if p.root < 0 {
				return p, errPacket
			}
			return p, nil
		}
		if err != nil {
			return p, errPacket
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			path = append(path, tok.Name)
			switch {
			case tok.Name.Space == dublinCore && at == "":
				at, start, any = tok.Name.Local, before, false
			case at != "" && tok.Name == (xml.Name{Space: rdf, Local: "li"}):
				tag, item = before, int(dec.InputOffset())
				general := func(a xml.Attr) bool { return a.Name.Local == "lang" && a.Value == "x-default" }
				if !any && slices.ContainsFunc(tok.Attr, general) {
					delete(p.text, at)
					delete(p.empty, at)
					any = true
				}
			}
		case xml.EndElement:
			path = path[:len(path)-1]
			switch {
			case tok.Name.Space == dublinCore && tok.Name.Local == at:
				if _, twice := p.whole[at]; !twice {
					p.whole[at] = span{start, int(dec.InputOffset())}
				}
				at = ""
			case at != "" && tok.Name == (xml.Name{Space: rdf, Local: "li"}):
				if _, had := p.text[at]; !had {
					p.text[at] = span{item, before}
					delete(p.empty, at)
					if bytes.HasSuffix(packet[tag:item], []byte("/>")) {
						p.text[at] = span{item - 2, item}
						p.empty[at] = string(bytes.Fields(bytes.Trim(packet[tag:item], "</>"))[0])
					}
				}
			case tok.Name == (xml.Name{Space: rdf, Local: "Description"}) && len(path) > 0 && path[len(path)-1].Local == "RDF":
				if before < int(dec.InputOffset()) { // it has an end tag of its own
					p.end = before
				}
			case tok.Name == (xml.Name{Space: rdf, Local: "RDF"}):
				p.root = before
			}
		}
	}
}

// changedPacket changes what a packet says of some details; what it says besides stays, byte for byte.
func changedPacket(packet []byte, d form.Details, keys []string) ([]byte, error) {
	for _, k := range keys {
		s := packetSays(d)[k]
		p, err := partsOf(packet)
		if err != nil {
			return nil, err
		}
		whole, had := p.whole[s.tag]
		text, hasText := p.text[s.tag]
		switch {
		case !had && s.value == "":
			continue
		case s.value == "":
			packet = splice(packet, whole, "")
		case had && hasText && s.list == "Alt": // its other languages stay
			words := xmlText(s.value)
			if name := p.empty[s.tag]; name != "" {
				words = ">" + words + "</" + name + ">"
			}
			packet = splice(packet, text, words)
		case had:
			packet = splice(packet, whole, s.element())
		case p.end >= 0:
			packet = splice(packet, span{p.end, p.end}, s.element())
		default:
			packet = splice(packet, span{p.root, p.root},
				`<rdf:Description xmlns:rdf="`+rdf+`" rdf:about="">`+s.element()+`</rdf:Description>`)
		}
	}
	return packet, nil
}

func splice(b []byte, s span, with string) []byte {
	return slices.Concat(b[:s.from], []byte(with), b[s.to:])
}

// metadata writes an XMP packet that says the details (ISO 32000-2, 14.3.2): the one that the file has, changed where the keys of the
// information dictionary say so, or a new one where it has none that can be read.
func (b *Builder) metadata(cat types.Dict, d form.Details, changed []string) error {
	packet, err := changedPacket([]byte(b.Text(object.Entry(cat, "Metadata"))), d, changed)
	if err != nil {
		packet = newPacket(d)
	}
	entries := types.Dict{"Type": types.Name("Metadata"), "Subtype": types.Name("XML")}
	ref, err := b.Stream(packet, entries)
	if err != nil {
		return err
	}
	cat.Update("Metadata", ref)
	return b.TouchCatalog()
}
