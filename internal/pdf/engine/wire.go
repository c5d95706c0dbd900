package engine

import (
	"errors"
	"image"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine/pdfium"
	"zealousmargin.example/internal/pdf/object"
)

// Seen is a widget as PDFium tells it.
type Seen = pdfium.Seen

// deed is what a process is asked to do with the file that it has open; nothing is asked to see whether it is there.
type deed string

const (
	toOpen     deed = "open"
	toParse    deed = "parse"
	toDraw     deed = "draw"
	toPrint    deed = "print"
	toDrawAs   deed = "draw as"
	toRead     deed = "read"
	toReadAs   deed = "read as"
	toWritten  deed = "written"
	toSave     deed = "save"
	toText     deed = "text"
	toReadBack deed = "read back"
	toPress    deed = "press"
	toPicture  deed = "pictured"
)

// request is one deed, with what it needs.
type request struct {
	Deed     deed
	File     []byte
	Password string
	N        int
	As       form.Page
	Scale    float64
	Text     *evidence.Text
	At       geom.Point
}

// answer is what came of it.
type answer struct {
	Problem  string
	Known    int  // the place of the error in known, from 1
	Spent    bool // the process has taken so much memory that another is to take its place
	About    about
	Bytes    []byte
	Text     string
	Picture  *image.RGBA
	Evidence *evidence.Page
	Seen     []Seen
	Asked    []string
	Yes      bool
}

// about is what is known of a file once it is open.
type about struct {
	Pages        []form.Page
	Title        string
	Change, Fill bool
}

// known are the errors that are told apart.
var known = []error{
	object.ErrNotPDF, object.ErrEncrypted, object.ErrNoPages, object.ErrManyPages, object.ErrDamaged, object.ErrHeavy,
}

// refused keeps what went wrong.
func (a *answer) refused(err error) {
	a.Problem = err.Error()
	for i, k := range known {
		if errors.Is(err, k) {
			a.Known = i + 1
			return
		}
	}
}

// err is what went wrong, as it was.
func (a *answer) err() error {
	switch {
	case a.Problem == "":
		return nil
	case a.Known > 0 && a.Known <= len(known):
		return told{a.Problem, known[a.Known-1]}
	}
	return errors.New(a.Problem)
}

// told is an error of a process: its words, and what it is.
type told struct {
	words string
	is    error
}

func (t told) Error() string { return t.words }
func (t told) Unwrap() error { return t.is }
