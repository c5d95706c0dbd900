package returns

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"mime"
	"mime/multipart"
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"zealousmargin.example/internal/form"
)

// The kinds of what comes back, told by looking at it.
const (
	FDF     = "fdf"
	XFDF    = "xfdf"
	PDF     = "pdf"
	JSON    = "json"
	CSV     = "csv"
	Form    = "form" // data of a form: URL-encoded, or in parts
	Picture = "picture"
	Zip     = "zip"
	Unknown = "data"
)

// KindOf looks at the bytes: readers do not say, or say wrongly, what they send.
func KindOf(b []byte) string {
	head := bytes.TrimLeft(b[:min(len(b), 4096)], " \r\n\t\xef\xbb\xbf")
	switch {
	case bytes.HasPrefix(head, []byte("%FDF-")):
		return FDF
	case bytes.Contains(head[:min(len(head), 1024)], []byte("%PDF-")):
		return PDF
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return Zip
	case bytes.HasPrefix(head, []byte("\x89PNG")), bytes.HasPrefix(head, []byte("\xff\xd8\xff")), bytes.HasPrefix(head, []byte("II*\x00")),
		bytes.HasPrefix(head, []byte("MM\x00*")),
		bytes.HasPrefix(head, []byte("RIFF")) && bytes.Contains(head[:min(16, len(head))], []byte("WEBP")):
		return Picture
	case bytes.Contains(head, []byte("<xfdf")),
		bytes.Contains(head, []byte("<\x00x\x00f\x00d\x00f")),
		bytes.Contains(head, []byte("\x00<\x00x\x00f\x00d\x00f")):
		return XFDF
	case bytes.HasPrefix(head, []byte("{")), bytes.HasPrefix(head, []byte("[")):
		return JSON
	case bytes.HasPrefix(head, []byte("--")):
		return Form
	}
	line, _, _ := bytes.Cut(head, []byte("\n"))
	switch {
	case !utf8.Valid(line) && !bytes.ContainsAny(line, ",;\t"):
		return Unknown
	case bytes.ContainsAny(line, ",;\t") && !bytes.Contains(line, []byte("=")):
		return CSV
	case bytes.Contains(line, []byte("=")):
		return Form
	}
	return Unknown
}

// KindNamed is [KindOf] for a file that has a name: a table of one column is told by it.
func KindNamed(name string, b []byte) string {
	kind := KindOf(b)
	if kind == Unknown && strings.HasSuffix(strings.ToLower(name), ".csv") {
		return CSV
	}
	return kind
}

// ErrUnreadable is returned for what is none of the kinds that can be read.
var ErrUnreadable = errors.New("this is nothing that answers can be read from")

// most is how many answers one form has at most.
const most = 20_000

// Data reads answers: form data, JSON, CSV and XFDF. A CSV or a list in JSON may have several sets of them.
func Data(kind string, b []byte) ([]Came, error) {
	switch kind {
	case XFDF:
		c, err := readXFDF(b)
		return []Came{c}, err
	case JSON:
		return readJSON(b)
	case CSV:
		return readCSV(b)
	case Form:
		c, err := readForm(b)
		return []Came{c}, err
	}
	return nil, ErrUnreadable
}

// readXFDF reads the fields of an XFDF document (ISO 19444-1, 6.2 to 6.4): names of nested fields are joined by full stops.
func readXFDF(b []byte) (Came, error) {
	c := Came{Named: map[string][]string{}}
	if bytes.HasPrefix(b, []byte{0xff, 0xfe}) || bytes.HasPrefix(b, []byte{0xfe, 0xff}) {
		u, err := unicode.UTF16(unicode.BigEndian, unicode.ExpectBOM).NewDecoder().Bytes(b)
		if err != nil {
			return c, fmt.Errorf("the XFDF cannot be read: %w", err)
		}
		b = u
	}
	dec := xml.NewDecoder(bytes.NewReader(b))
	dec.CharsetReader = func(charset string, in io.Reader) (io.Reader, error) {
		if strings.HasPrefix(strings.ToLower(charset), "iso-8859-1") || strings.HasPrefix(strings.ToLower(charset), "windows-1252") {
			return charmap.Windows1252.NewDecoder().Reader(in), nil
		}
		return in, nil // what was UTF-16 is UTF-8 by now
	}
	var path []string
	var text *strings.Builder
	seen := false
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			if !seen {
				return c, errors.New("the XFDF has no fields")
			}
			return c, nil
		}
		if err != nil {
			return c, fmt.Errorf("the XFDF cannot be read: %w", err)
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			switch tok.Name.Local {
			case "fields":
				seen = true
			case "field":
				name := ""
				for _, a := range tok.Attr {
					if a.Name.Local == "name" {
						name = a.Value
					}
				}
				if path = append(path, name); len(path) > 64 {
					return c, errors.New("the XFDF cannot be read: its fields are nested too deep")
				}
			case "value":
				text = &strings.Builder{}
			}
		case xml.CharData:
			if text != nil {
				text.Write(tok)
			}
		case xml.EndElement:
			switch tok.Name.Local {
			case "field":
				if len(path) > 0 {
					path = path[:len(path)-1]
				}
			case "value":
				if text != nil && len(path) > 0 && len(c.Named) < most {
					name := strings.Join(path, ".")
					c.Named[name] = append(c.Named[name], text.String())
				}
				text = nil
			}
		}
	}
}

// readJSON reads an object of names and answers, or a list of them. An object "fields" or "answers" in it is taken for it.
func readJSON(b []byte) ([]Came, error) {
	dec := json.NewDecoder(bytes.NewReader(bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))))
	dec.UseNumber()
	var v any
	if err := dec.Decode(&v); err != nil {
		return nil, fmt.Errorf("the JSON cannot be read: %w", err)
	}
	list, many := v.([]any)
	if !many {
		list = []any{v}
	}
	var out []Came
	for _, one := range list {
		o, ok := one.(map[string]any)
		if !ok {
			return nil, errors.New("the JSON has no answers by name: it is to be an object, or a list of objects")
		}
		for _, k := range []string{"answers", "fields"} {
			if in, ok := o[k].(map[string]any); ok {
				o = in
			}
		}
		c := Came{Named: map[string][]string{}}
		if err := c.gather("", o, 0); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	if len(out) == 0 {
		return nil, errors.New("the JSON has no answers")
	}
	return out, nil
}

// gather takes the answers of an object; names of objects within are joined by full stops, as those of nested fields are.
func (c *Came) gather(before string, o map[string]any, deep int) error {
	if deep > 64 {
		return errors.New("the JSON cannot be read: its objects are nested too deep")
	}
	for name, v := range o {
		if in, ok := v.(map[string]any); ok {
			if err := c.gather(before+name+".", in, deep+1); err != nil {
				return err
			}
			continue
		}
		if words, ok := inWords(v); ok && len(c.Named) < most {
			c.Named[before+name] = words
		}
	}
	return nil
}

func inWords(v any) ([]string, bool) {
	switch v := v.(type) {
	case nil:
		return []string{""}, true
	case string:
		return []string{v}, true
	case json.Number:
		return []string{v.String()}, true
	case bool:
		return []string{map[bool]string{true: "true", false: ""}[v]}, true
	case []any:
		var out []string
		for _, x := range v {
			if one, ok := inWords(x); ok {
				out = append(out, one...)
			}
		}
		return out, true
	}
	return nil, false
}

// readCSV reads a table with the names of fields in its first row (RFC 4180; semicolons and tabs are taken for commas where the first row
// has more of them).
func readCSV(b []byte) ([]Came, error) {
	b = bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(b) {
		u, err := charmap.Windows1252.NewDecoder().Bytes(b)
		if err != nil {
			return nil, err
		}
		b = u
	}
	r := csv.NewReader(bytes.NewReader(b))
	head, _, _ := bytes.Cut(b, []byte("\n"))
	for _, c := range []rune{';', '\t'} {
		if bytes.Count(head, []byte(string(c))) > bytes.Count(head, []byte(string(r.Comma))) {
			r.Comma = c
		}
	}
	r.FieldsPerRecord = -1
	r.LazyQuotes = true
	rows, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("the CSV cannot be read: %w", err)
	}
	if len(rows) < 2 {
		return nil, errors.New("the CSV has no answers: its first row is to be the names of fields, and each other one a set of answers")
	}
	var out []Came
	for _, row := range rows[1:] {
		if strings.TrimSpace(strings.Join(row, "")) == "" {
			continue
		}
		c := Came{Named: map[string][]string{}}
		for i, v := range row {
			if i < len(rows[0]) {
				c.Named[strings.TrimSpace(rows[0][i])] = []string{plainly(v)}
			}
		}
		out = append(out, c)
	}
	return out, nil
}

// plainly takes away the apostrophe by which a cell was kept from being a formula.
func plainly(v string) string {
	if len(v) > 1 && v[0] == '\'' && strings.ContainsAny(v[1:2], "=+-@\t\r\n") {
		return v[1:]
	}
	return v
}

// readForm reads what a form of a page sends: URL-encoded, or in parts (RFC 7578), whose boundary is told by their first line.
func readForm(b []byte) (Came, error) {
	c := Came{Named: map[string][]string{}}
	if trimmed := bytes.TrimLeft(b, " \r\n\t"); bytes.HasPrefix(trimmed, []byte("--")) {
		line, _, _ := bytes.Cut(trimmed, []byte("\n"))
		boundary := strings.TrimRight(string(line[2:]), "\r\n ")
		r := multipart.NewReader(bytes.NewReader(trimmed), boundary)
		for {
			p, err := r.NextPart()
			if errors.Is(err, io.EOF) {
				return c, nil
			}
			if err != nil {
				return c, fmt.Errorf("the form data cannot be read: %w", err)
			}
			data, err := io.ReadAll(p)
			if err != nil {
				return c, fmt.Errorf("the form data cannot be read: %w", err)
			}
			_, params, _ := mime.ParseMediaType(p.Header.Get("Content-Disposition"))
			switch name := params["name"]; {
			case params["filename"] != "":
				c.Files = append(c.Files, File{params["filename"], data})
			case name != "" && len(c.Named) < most:
				c.Named[name] = append(c.Named[name], legible(string(data)))
			}
		}
	}
	text := strings.TrimSpace(string(b))
	for pair := range strings.FieldsFuncSeq(text, func(r rune) bool { return r == '&' || r == '\n' }) {
		k, v, _ := strings.Cut(strings.TrimRight(pair, "\r"), "=")
		k, err1 := url.QueryUnescape(k)
		v, err2 := url.QueryUnescape(v)
		if err := errors.Join(err1, err2); err != nil {
			return c, fmt.Errorf("the form data cannot be read: %w", err)
		}
		if len(c.Named) < most {
			c.Named[legible(k)] = append(c.Named[legible(k)], legible(v))
		}
	}
	if len(c.Named) == 0 {
		return c, ErrUnreadable
	}
	return c, nil
}

// legible takes what is no UTF-8 for Latin-1, and leaves out what no table keeps.
func legible(s string) string {
	if !utf8.ValidString(s) {
		if u, err := charmap.Windows1252.NewDecoder().String(s); err == nil {
			s = u
		}
	}
	return strings.ReplaceAll(s, "\x00", "")
}

// Legible makes all names and answers such as can be kept.
func (c Came) Legible() Came {
	out := Came{Named: map[string][]string{}, Files: c.Files, Sure: c.Sure}
	for name, all := range c.Named {
		all = slices.Clone(all)
		for i := range all {
			all[i] = legible(all[i])
		}
		out.Named[legible(name)] = all
	}
	return out
}

// WriteXFDF writes answers as XFDF (ISO 19444-1), file naming the form that they belong to. Names with full stops become nested fields.
func WriteXFDF(file string, values map[string]string, several func(name string) bool) ([]byte, error) {
	var b bytes.Buffer
	b.WriteString(xml.Header + `<xfdf xmlns="http://ns.adobe.com/xfdf/" xml:space="preserve">`)
	if file != "" {
		b.WriteString(`<f href="` + escaped(file) + `"/>`)
	}
	b.WriteString("<fields>")
	var write func(in []*form.Branch)
	write = func(in []*form.Branch) {
		for _, k := range in {
			b.WriteString(`<field name="` + escaped(k.Part) + `">`)
			if k.Ends {
				all := []string{values[k.Name]}
				if several != nil && several(k.Name) {
					all = strings.Split(all[0], "\n")
				}
				for _, v := range all {
					b.WriteString("<value>" + escaped(v) + "</value>")
				}
			}
			write(k.Kids)
			b.WriteString("</field>")
		}
	}
	write(form.Branches(slices.Collect(maps.Keys(values))))
	b.WriteString("</fields></xfdf>\n")
	return b.Bytes(), nil
}

func escaped(s string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(s)) // a buffer takes everything
	return b.String()
}
