package proof

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// Archived are the requirements of ISO 19005-2 (PDF/A-2, level U) that a file is held to which says that it is one. They are lists of
// what is known to be allowed: what is not on them counts as a fault, though the standard may allow it. A file with a fault is no worse
// a file, it only does not say that it is PDF/A.
var Archived = []Requirement{
	{Clause: "6.1.2", Says: "the file begins as one of PDF 1, with a line that shows that it is no text"},
	{Clause: "6.1.3", Says: "the file can be told from others, and is not locked"},
	{Clause: "6.1.7", Says: "streams lie in the file, are as long as they say, and are packed by allowed filters"},
	{Clause: "6.1.9", Says: "objects begin and end on lines of their own"},
	{Clause: "6.1.13", Says: "names, strings and numbers stay within the limits"},
	{Clause: "6.2.2", Says: "what is drawn uses operators of the standard, and resources that it names itself"},
	{Clause: "6.2.3", Says: "the file says what its colours mean"},
	{Clause: "6.2.4", Says: "colours are such as the file says the meaning of"},
	{Clause: "6.2.5", Says: "graphics states change nothing that depends on a device"},
	{Clause: "6.2.8", Says: "pictures have neither alternatives nor guessed pixels"},
	{Clause: "6.2.9", Says: "forms are drawn from the file itself"},
	{Clause: "6.2.11.4", Says: "every font that is seen is in the file"},
	{Clause: "6.2.11.5", Says: "signs are as wide as the file says"},
	{Clause: "6.2.11.7", Says: "every sign has its letter in Unicode"},
	{Clause: "6.2.11.8", Says: "every sign that is shown is in its font"},
	{Clause: "6.3", Says: "annotations are of the allowed kinds, are printed, and have a look of their own"},
	{Clause: "6.4", Says: "there are no fields to fill in"},
	{Clause: "6.5", Says: "what is pressed leads somewhere, and does nothing else"},
	{Clause: "6.6.2", Says: "the metadata uses the allowed properties"},
	{Clause: "6.6.4", Says: "the metadata says which PDF/A it is"},
	{Clause: "6.8", Says: "no other files lie in it, and no layers"},
}

// archive looks for faults; the first of each clause is kept.
type archive struct {
	f     *file
	found map[string]string
	fonts map[ref]*archivedFont
}

func (a *archive) fault(clause, format string, args ...any) {
	if _, had := a.found[clause]; !had {
		a.found[clause] = fmt.Sprintf(format, args...)
	}
}

// Archive lists what keeps a file from being PDF/A-2u.
func Archive(b []byte) ([]Failure, error) {
	f, err := open(b)
	if err != nil {
		return nil, err
	}
	a := &archive{f: f, found: map[string]string{}, fonts: map[ref]*archivedFont{}}
	a.syntax()
	a.catalog()
	a.metadata()
	for i, p := range f.pages() {
		a.page(i+1, p)
	}
	var out []Failure
	for _, r := range Archived {
		if what := a.found[r.Clause]; what != "" {
			out = append(out, Failure{"ISO 19005-2", r, what})
		}
	}
	return out, nil
}

var (
	headLine  = regexp.MustCompile(`^%PDF-1\.[0-7](\r\n|\r|\n)%`)
	oddString = regexp.MustCompile(`[^<]<([0-9A-Fa-f][\s]*[0-9A-Fa-f][\s]*)*[0-9A-Fa-f][\s]*>[^>]`)
)

// filters that ISO 19005-2, 6.1.7.2 allows and that every reader has; JPXDecode would need checks of its own.
var filters = []string{"FlateDecode", "DCTDecode", "CCITTFaxDecode", "JBIG2Decode", "RunLengthDecode", "ASCIIHexDecode", "ASCII85Decode"}

// syntax looks at the file and at every object of it.
func (a *archive) syntax() {
	f := a.f
	head := headLine.Find(f.b)
	if rest := f.b[len(head):]; head == nil || len(rest) < 4 || min(rest[0], rest[1], rest[2], rest[3]) < 0x80 {
		a.fault("6.1.2", "it begins with %.20q", f.b)
	}
	if len(f.array(f.trailer["ID"])) != 2 {
		a.fault("6.1.3", "it has no identifier")
	}
	if f.trailer["Encrypt"] != nil {
		a.fault("6.1.3", "it is locked")
	}
	if i := bytes.LastIndex(f.b, []byte("%%EOF")); i < 0 || len(bytes.TrimRight(f.b[i:], "\r\n")) > len("%%EOF") {
		a.fault("6.1.3", "something follows its end")
	}
	for n, p := range f.places {
		if p.free {
			continue
		}
		o := f.resolve(ref(n))
		if p.inStream == 0 {
			a.lines(n, p.offset)
		}
		if s, ok := o.(stream); ok {
			a.packed(n, s)
		}
		a.limits(o, 0)
	}
}

// lines holds an object to its lines (6.1.9), and its strings of figures to whole bytes (6.1.6).
func (a *archive) lines(n, at int) {
	b := a.f.b
	head := regexp.MustCompile(fmt.Sprintf(`^%d \d+ obj[ ]?[\r\n]`, n))
	if at > 0 && b[at-1] != '\n' && b[at-1] != '\r' || !head.Match(b[at:]) {
		a.fault("6.1.9", "object %d", n)
		return
	}
	end := bytes.Index(b[at:], []byte("endobj"))
	if end < 0 {
		a.fault("6.1.9", "object %d has no end", n)
		return
	}
	if c := b[at+end-1]; c != '\n' && c != '\r' {
		a.fault("6.1.9", "the end of object %d", n)
	}
	text := b[at : at+end]
	if i := bytes.Index(text, []byte("stream")); i >= 0 {
		text = text[:i]
	}
	if oddString.Match(text) {
		a.fault("6.1.13", "object %d has a string of an odd number of figures (6.1.6)", n)
	}
}

func (a *archive) packed(n int, s stream) {
	for _, k := range []name{"F", "FFilter", "FDecodeParms"} {
		if s.dict[k] != nil {
			a.fault("6.1.7", "the data of object %d lie elsewhere", n)
		}
	}
	if int(a.f.number(s.dict["Length"])) != len(s.raw) {
		a.fault("6.1.7", "object %d says that it is %v long, and is %d", n, s.dict["Length"], len(s.raw))
	}
	if p := a.f.places[n]; p.inStream == 0 {
		rest := a.f.b[p.offset:]
		i := bytes.Index(rest, s.raw)
		if len(s.raw) > 0 && i >= 0 && !regexp.MustCompile(`^(\r\n|\r|\n)?endstream`).Match(rest[i+len(s.raw):]) {
			a.fault("6.1.7", "the end of the data of object %d is not where it says", n)
		}
	}
	list, ok := a.f.resolve(s.dict["Filter"]).(array)
	if !ok && s.dict["Filter"] != nil {
		list = array{s.dict["Filter"]}
	}
	for _, one := range list {
		if how := a.f.name(one); !slices.Contains(filters, how) {
			a.fault("6.1.7", "object %d is packed by %s", n, how)
		}
	}
}

// limits are those of 6.1.13.
func (a *archive) limits(o any, depth int) {
	if depth > 64 {
		return
	}
	switch o := o.(type) {
	case name:
		if len(o) > 127 {
			a.fault("6.1.13", "a name of %d bytes", len(o))
		}
	case text:
		if len(o) > 32767 {
			a.fault("6.1.13", "a string of %d bytes", len(o))
		}
	case float64:
		if o > 2147483647 || o < -2147483648 {
			a.fault("6.1.13", "the number %g", o)
		}
	case array:
		for _, v := range o {
			a.limits(v, depth+1)
		}
	case stream:
		a.limits(o.dict, depth)
	case dict:
		for k, v := range o {
			a.limits(k, depth+1)
			a.limits(v, depth+1)
		}
	}
}

func (a *archive) catalog() {
	f, cat := a.f, a.f.root()
	if cat["AcroForm"] != nil {
		a.fault("6.4", "it has fields")
	}
	for _, k := range []name{"AA", "Requirements", "Collection", "Perms"} {
		if cat[k] != nil {
			a.fault("6.5", "it has %s", k)
		}
	}
	if f.resolve(cat["OpenAction"]) != nil {
		a.leads(cat["OpenAction"], 0)
	}
	for k := range f.dict(cat["Names"]) {
		if k != "Dests" {
			a.fault("6.8", "it has names for %s", k)
		}
	}
	if cat["AF"] != nil || cat["OCProperties"] != nil {
		a.fault("6.8", "it has files or layers")
	}
	intents := f.array(cat["OutputIntents"])
	if len(intents) != 1 {
		a.fault("6.2.3", "it has %d output intents", len(intents))
		return
	}
	intent := f.dict(intents[0])
	s, ok := f.resolve(intent["DestOutputProfile"]).(stream)
	data, err := f.decode(s)
	if f.name(intent["S"]) != "GTS_PDFA1" || !ok || err != nil {
		a.fault("6.2.3", "its output intent is none for PDF/A")
		return
	}
	if what := profiled(data, "RGB "); what != "" {
		a.fault("6.2.3", "%s", what)
	}
}

// profiled looks at the head of a colour profile (ICC.1:2010, 7.2): a display or a printer, of version 2 or 4.
func profiled(b []byte, space string) string {
	switch {
	case len(b) < 132 || string(b[36:40]) != "acsp":
		return "its colour profile is none"
	case string(b[16:20]) != space:
		return fmt.Sprintf("its colour profile is one of %q", b[16:20])
	case b[8] != 2 && b[8] != 4 || !slices.Contains([]string{"mntr", "prtr", "scnr", "spac"}, string(b[12:16])):
		return "its colour profile is of another version or class"
	}
	return ""
}

// properties are those of XMP that a file may have without a description of their own (ISO 16684-1, 8), of which we know the form.
var properties = map[string][]string{
	"http://purl.org/dc/elements/1.1/":            {"title", "description", "creator", "language", "format", "date", "subject", "rights"},
	"http://ns.adobe.com/pdf/1.3/":                {"Producer", "Keywords", "PDFVersion", "Trapped"},
	"http://ns.adobe.com/xap/1.0/":                {"CreateDate", "ModifyDate", "MetadataDate", "CreatorTool"},
	"http://ns.adobe.com/xap/1.0/mm/":             {"DocumentID", "InstanceID"},
	"http://www.aiim.org/pdfa/ns/id/":             {"part", "conformance"},
	"http://www.aiim.org/pdfua/ns/id/":            {"part"},
	"http://www.w3.org/1999/02/22-rdf-syntax-ns#": {"RDF", "Description", "Alt", "Seq", "Bag", "li"},
	"adobe:ns:meta/":                              {"xmpmeta"},
	"http://www.w3.org/XML/1998/namespace":        {"lang"},
}

func (a *archive) metadata() {
	packet := a.f.packet()
	if strings.TrimSpace(packet) == "" {
		a.fault("6.6.2", "there is none")
		return
	}
	if head, _, _ := strings.Cut(packet, "?>"); strings.Contains(head, "bytes=") || strings.Contains(head, "encoding=") {
		a.fault("6.6.2", "its head has attributes of old")
	}
	says := map[string]string{}
	err := elements(packet, func(space, local, value string) {
		if !slices.Contains(properties[space], local) {
			a.fault("6.6.2", "%s of %s", local, space)
		}
		if space == "http://www.aiim.org/pdfa/ns/id/" {
			says[local] = value
		}
	})
	if err != nil {
		a.fault("6.6.2", "it cannot be read")
	}
	if says["part"] != "2" || says["conformance"] != "U" {
		a.fault("6.6.4", "it says part %q, level %q", says["part"], says["conformance"])
	}
}

// page looks at a page, at what it draws, and at its annotations.
func (a *archive) page(n int, p sheet) {
	f := a.f
	if p.dict["AA"] != nil {
		a.fault("6.5", "page %d does something by itself", n)
	}
	if p.dict["PresSteps"] != nil {
		a.fault("6.5", "page %d is a presentation", n)
	}
	data, err := f.contents(p.dict["Contents"])
	if err != nil {
		a.fault("6.2.2", "page %d cannot be read", n)
		return
	}
	a.draw(fmt.Sprintf("page %d", n), data, f.dict(p.dict["Resources"]), 0)
	for _, o := range p.annots {
		a.annotation(n, f.dict(o))
	}
}

// contents are those of a page, which may be in several streams (ISO 32000-2, 7.8.2).
func (f *file) contents(o any) ([]byte, error) {
	list := f.array(o)
	if list == nil {
		list = array{o}
	}
	var data []byte
	for _, o := range list {
		if s, ok := f.resolve(o).(stream); ok {
			b, err := f.decode(s)
			if err != nil {
				return nil, err
			}
			data = append(append(data, b...), '\n')
		}
	}
	return data, nil
}

var allowedNotes = []string{
	"Link", "Text", "FreeText", "Line", "Square", "Circle", "Polygon", "PolyLine", "Highlight", "Underline", "Squiggly",
	"StrikeOut", "Stamp", "Caret", "Ink", "Popup",
}

// annotation holds one to 6.3.2 and 6.3.3 (flags: ISO 32000-2, table 167).
func (a *archive) annotation(page int, d dict) {
	f, kind := a.f, a.f.name(d["Subtype"])
	if !slices.Contains(allowedNotes, kind) {
		a.fault("6.3", "page %d has a %s", page, kind)
	}
	const invisible, hidden, printed, noView, toggled = 1, 2, 4, 32, 256
	flags := int(f.number(d["F"]))
	if kind != "Popup" && (flags&printed == 0 || flags&(invisible|hidden|noView|toggled) != 0) {
		a.fault("6.3", "a %s on page %d is not printed as it is seen", kind, page)
	}
	if f.resolve(d["AA"]) != nil {
		a.fault("6.5", "a %s on page %d does something by itself", kind, page)
	}
	if o := f.resolve(d["A"]); o != nil {
		a.leads(o, 0)
	}
	ap := f.dict(d["AP"])
	if kind == "Link" || kind == "Popup" {
		if ap == nil {
			return
		}
	}
	s, ok := f.resolve(ap["N"]).(stream)
	if !ok || len(ap) != 1 {
		a.fault("6.3", "a %s on page %d has no look of its own", kind, page)
		return
	}
	a.form("the look of a "+kind, s, 0)
}

// leads follows an action and those behind it (6.5.1 lists what is not allowed; these are what is).
func (a *archive) leads(o any, depth int) {
	d, ok := a.f.resolve(o).(dict)
	if !ok || depth > 32 {
		return // a place in the document
	}
	switch kind := a.f.name(d["S"]); kind {
	case "GoTo", "GoToR", "URI":
	case "Named":
		if n := a.f.name(d["N"]); !slices.Contains([]string{"NextPage", "PrevPage", "FirstPage", "LastPage"}, n) {
			a.fault("6.5", "an action is named %s", n)
		}
	default:
		a.fault("6.5", "an action is %s", kind)
	}
	next := a.f.resolve(d["Next"])
	list, many := next.(array)
	if !many && next != nil {
		list = array{next}
	}
	for _, n := range list {
		a.leads(n, depth+1)
	}
}
