package form

import (
	"fmt"
	"strings"
)

// Source is where the office takes the answer of a field from, when it fills a form in for somebody.
type Source string

// The sources. The datum of a field says which: of a person, a column of the roster; of a link, a parameter; of text, the words.
const (
	NoSource    Source = ""
	FromPerson  Source = "person"
	FromToday   Source = "today"
	FromEdition Source = "edition"
	FromSerial  Source = "serial"
	FromLink    Source = "link"
	FromText    Source = "text"
	FromSigner  Source = "signer"
	FromSigned  Source = "signed"
)

// sourceWords are the sources as a note offers them.
var sourceWords = []Offer{
	{"", "nothing"},
	{"person", "a datum of the person"},
	{"today", "the day on which it is filled in"},
	{"edition", "the number of the edition"},
	{"serial", "a serial number"},
	{"link", "a word of the link"},
	{"text", "these words"},
	{"signer", "the name of whoever signs"},
	{"signed", "the day of signing"},
}

// takesDatum tells whether the source of a field needs one.
func (f *Field) takesDatum() bool {
	return f.Source == FromPerson || f.Source == FromLink || f.Source == FromText
}

// setSource sets a source, and drops a datum that says nothing with it.
func setSource(f *Field, v string) error {
	was := f.Source
	f.Source = Source(v)
	if !f.takesDatum() || was != f.Source && was != NoSource {
		f.Datum = ""
	}
	return nil
}

const longestDatum = 500

func (f *Field) checkSource() error {
	if offerWords(sourceWords, string(f.Source)) == string(f.Source) && f.Source != NoSource {
		return fmt.Errorf(
			"%s cannot be filled in from %q: use person, today, edition, serial, link, text, signer or signed",
			f.Name,
			f.Source,
		)
	}
	if f.Datum != "" && !f.takesDatum() {
		return fmt.Errorf("%s has %q to be filled in with, but nothing that says what that is", f.Name, f.Datum)
	}
	if err := CheckText("what "+f.Name+" is filled in with", f.Datum, longestDatum); err != nil {
		return err
	}
	if f.Source == FromPerson || f.Source == FromLink {
		return CheckLine("what "+f.Name+" is filled in with", f.Datum, 100)
	}
	return nil
}

// SourceWords says in a few words where the answer of a field comes from; empty for one that nobody but the recipient fills in.
func (f *Field) SourceWords() string {
	if f.Source == NoSource {
		return ""
	}
	datum := strings.TrimSpace(f.Datum)
	switch f.Source {
	case FromPerson:
		return "the person's " + datum
	case FromLink:
		return "what the link says of " + datum
	case FromText:
		return "“" + datum + "”"
	}
	return offerWords(sourceWords, string(f.Source))
}
