package engine

import (
	"bytes"
	"context"
	"image"
	"image/png"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine/pdfium"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/scan"
)

// Doc is an open PDF file, for as long as the function runs that it is given to. It is not safe for use by several goroutines at once.
type Doc struct {
	lease *lease
	about about
}

// Use opens a PDF file and gives it to do; it is closed when do returns. Each step that is asked of it, the opening and every page, has
// a deadline ([Within]), and everything ends when ctx does; what is running then is stopped. Do must not begin another Use nor wait
// for another process: it would hold an engine that others wait for.
//
// The error is what do returns, or one of ErrNotPDF, ErrEncrypted, ErrNoPages, ErrManyPages, ErrDamaged, ErrSlow, ErrHeavy and ErrBusy of
// package object, or the reason why ctx ended.
func Use(ctx context.Context, b []byte, do func(*Doc) error) error { return UseWith(ctx, b, "", do) }

// UseWith is [Use] of a file that may be locked with a password.
func UseWith(ctx context.Context, b []byte, password string, do func(*Doc) error) error {
	if !bytes.Contains(b[:min(len(b), 1024)], []byte("%PDF-")) {
		return object.ErrNotPDF
	}
	return leased(ctx, func(l *lease) error {
		a, err := l.step(request{Deed: toOpen, File: b, Password: password})
		if err != nil {
			return err
		}
		return do(&Doc{lease: l, about: a.About})
	})
}

// Pages gives size and turn of every page.
func (d *Doc) Pages() []form.Page { return append([]form.Page(nil), d.about.Pages...) }

// Title is the document's title as its information dictionary gives it.
func (d *Doc) Title() string { return d.about.Title }

// May tells what the owner of the file lets people do who have opened it with the password that it was opened with: make and change
// fields, and fill them in (ISO 32000-2, table 22).
func (d *Doc) May() (change, fill bool) { return d.about.Change, d.about.Fill }

// Parse tells whether the objects of the file can be read here too, and take no more memory than they may.
func (d *Doc) Parse() error {
	_, err := d.lease.step(request{Deed: toParse})
	return err
}

// Render draws page n (from 1) as it is shown, without its form fields, at scale
// pixels per point. The widest side is held to 10,000 pixels.
func (d *Doc) Render(n int, scale float64) (*image.RGBA, error) {
	a, err := d.lease.step(request{Deed: toDraw, N: n, Scale: scale})
	return a.Picture, err
}

// RenderPage draws a page of a draft whose file this is: placed and turned as the
// draft says. Without a place or a turn of its own it is [Doc.Render] of page as.N.
func (d *Doc) RenderPage(as form.Page, scale float64) (*image.RGBA, error) {
	a, err := d.lease.step(request{Deed: toDrawAs, As: as, Scale: scale})
	return a.Picture, err
}

// Prints is the SHA-256 of the pixels of every page, drawn small and without fields.
func (d *Doc) Prints() (all [][]byte, err error) {
	for n := range d.about.Pages {
		a, err := d.lease.step(request{Deed: toPrint, N: n + 1})
		if err != nil {
			return nil, err
		}
		all = append(all, a.Bytes)
	}
	return all, nil
}

// Evidence reads the content of page n (from 1): vector paths, pictures and
// glyphs, nested form XObjects included. Annotations and fields are not content.
func (d *Doc) Evidence(n int) (*evidence.Page, error) {
	a, err := d.lease.step(request{Deed: toRead, N: n})
	return a.Evidence, err
}

// EvidenceOf reads the content of a page of a draft whose file this is. Text, when
// not nil, is what was recognised on the page.
func (d *Doc) EvidenceOf(as form.Page, text *evidence.Text) (*evidence.Page, error) {
	a, err := d.lease.step(request{Deed: toReadAs, As: as, Text: text})
	return a.Evidence, err
}

// Written is [Doc.EvidenceOf] without what must be looked for in the pixels of pictures: the words of a page and the resolution of its
// pictures, for a small part of the time that a scan takes.
func (d *Doc) Written(as form.Page, text *evidence.Text) (*evidence.Page, error) {
	a, err := d.lease.step(request{Deed: toWritten, As: as, Text: text})
	return a.Evidence, err
}

// Printed is what is printed on every page of a file, by number.
func Printed(ctx context.Context, b []byte) (map[int]*evidence.Page, error) {
	out := map[int]*evidence.Page{}
	return out, Use(ctx, b, func(d *Doc) error {
		for i := range d.about.Pages {
			ev, err := d.Evidence(i + 1)
			if err != nil {
				return err
			}
			out[i+1] = ev
		}
		return nil
	})
}

// Pictured tells whether page n (from 1) has a picture among its first objects, or in
// a form that stands there: without one it cannot be a scan.
func (d *Doc) Pictured(n int) (bool, error) {
	a, err := d.lease.step(request{Deed: toPicture, N: n})
	return a.Yes, err
}

// Save writes the document afresh, which mends its cross-reference and takes off
// its encryption.
func (d *Doc) Save() ([]byte, error) {
	a, err := d.lease.step(request{Deed: toSave})
	return a.Bytes, err
}

// Words is the text of page n, from 1, in the order in which the file has it; text that does not show
// is among it.
func (d *Doc) Words(n int) (string, error) {
	a, err := d.lease.step(request{Deed: toText, N: n})
	return a.Text, err
}

// ReadBack lists the widgets of the file in the order of the annotations.
func (d *Doc) ReadBack() ([]Seen, error) {
	a, err := d.lease.step(request{Deed: toReadBack})
	return a.Seen, err
}

// Press presses a point of page 1 in PDFium, as a viewer would, and lists the named
// actions that the form asks for.
func Press(ctx context.Context, b []byte, at geom.Point) (asked []string, err error) {
	err = Use(ctx, b, func(d *Doc) error {
		a, err := d.lease.step(request{Deed: toPress, At: at})
		asked = a.Asked
		return err
	})
	return asked, err
}

// ScanDPI is the resolution at which the marks of a scan are looked for.
const ScanDPI = pdfium.ScanDPI

// PNG packs a drawn page; one without colours takes less than half of the time and of the room of one with them.
func PNG(img image.Image) ([]byte, error) {
	if g, ok := scan.Colourless(img); ok {
		img = g
	}
	var b bytes.Buffer
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	if err := enc.Encode(&b, img); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
