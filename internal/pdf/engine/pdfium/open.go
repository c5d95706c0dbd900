package pdfium

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"strings"

	pdfium "github.com/klippa-app/go-pdfium"
	pdfiumerr "github.com/klippa-app/go-pdfium/errors"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

// Doc is an open PDF file. It must be closed before the next is opened.
type Doc struct {
	in    pdfium.Pdfium
	ref   references.FPDF_DOCUMENT
	pages []page
	bytes []byte
}

type page struct {
	form.Page
	origin geom.Point // lower left corner of the visible page, in user space
}

// Open opens a file, which may be locked with a password. The error is one of ErrNotPDF, ErrEncrypted, ErrNoPages, ErrManyPages and
// ErrDamaged of package object, or says that PDFium did not start.
func Open(b []byte, password string) (*Doc, error) {
	if !bytes.Contains(b[:min(len(b), 1024)], []byte("%PDF-")) {
		return nil, object.ErrNotPDF
	}
	in, err := start()
	if err != nil {
		return nil, fmt.Errorf("the PDF engine did not start: %w", err)
	}
	d := &Doc{in: in, bytes: b}
	res, err := in.OpenDocument(&requests.OpenDocument{File: &b, Password: passwordOf(password)})
	switch {
	case errors.Is(err, pdfiumerr.ErrPassword), errors.Is(err, pdfiumerr.ErrSecurity):
		return nil, object.ErrEncrypted
	case err != nil:
		return nil, object.ErrDamaged
	}
	d.ref = res.Document
	if err := d.measure(); err != nil {
		return nil, errors.Join(err, d.Close())
	}
	return d, nil
}

// Close gives what the file has taken back. After an error this process is of no more use.
func (d *Doc) Close() error {
	_, err := d.in.FPDF_CloseDocument(&requests.FPDF_CloseDocument{Document: d.ref})
	return err
}

// May tells what the owner of the file lets people do who have opened it with the password that it was opened with: make and change
// fields, and fill them in (ISO 32000-2, table 22: bits 4 and 6, and 6 or 9).
func (d *Doc) May() (change, fill bool) {
	p, err := d.in.FPDF_GetDocPermissions(&requests.FPDF_GetDocPermissions{Document: d.ref})
	if err != nil {
		return true, true
	}
	return p.CreateOrModifyInteractiveFormFields, p.FillInInteractiveFormFields || p.FillInExistingInteractiveFormFields
}

func passwordOf(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

func (d *Doc) measure() error {
	n, err := d.in.FPDF_GetPageCount(&requests.FPDF_GetPageCount{Document: d.ref})
	if err != nil {
		return object.ErrDamaged
	}
	if n.PageCount == 0 {
		return object.ErrNoPages
	}
	if n.PageCount > object.MaxPages {
		return object.ManyPages(n.PageCount)
	}
	for i := range n.PageCount {
		p, err := d.measurePage(i)
		if err != nil {
			return fmt.Errorf("page %d cannot be read: %w", i+1, object.ErrDamaged)
		}
		d.pages = append(d.pages, p)
	}
	return nil
}

func (d *Doc) measurePage(i int) (page, error) {
	ref := d.page(i)
	size, err := d.in.GetPageSize(&requests.GetPageSize{Page: ref})
	if err != nil {
		return page{}, err
	}
	turn, err := d.in.FPDFPage_GetRotation(&requests.FPDFPage_GetRotation{Page: ref})
	if err != nil {
		return page{}, err
	}
	// The corners of the page as shown, taken back to user space, are the visible
	// box whatever page tree it was inherited from.
	w, h := int(math.Round(size.Width*1000)), int(math.Round(size.Height*1000))
	box := geom.Rect{X0: math.Inf(1), Y0: math.Inf(1), X1: math.Inf(-1), Y1: math.Inf(-1)}
	for _, c := range [2][2]int{{0, 0}, {w, h}} {
		p, err := d.in.FPDF_DeviceToPage(&requests.FPDF_DeviceToPage{Page: ref, SizeX: w, SizeY: h, DeviceX: c[0], DeviceY: c[1]})
		if err != nil {
			return page{}, err
		}
		box = box.Union(geom.Rect{X0: p.PageX, Y0: p.PageY, X1: p.PageX, Y1: p.PageY})
	}
	rotate := int(turn.PageRotation) * 90
	pw, ph := geom.ViewSize(size.Width, size.Height, rotate)
	return page{
		Page:   form.Page{Width: geom.Round(pw), Height: geom.Round(ph), Rotate: rotate},
		origin: geom.Point{X: geom.Round(box.X0), Y: geom.Round(box.Y0)},
	}, nil
}

func (d *Doc) page(i int) requests.Page {
	return requests.Page{ByIndex: &requests.PageByIndex{Document: d.ref, Index: i}}
}

// Pages gives size and turn of every page.
func (d *Doc) Pages() []form.Page {
	out := make([]form.Page, len(d.pages))
	for i, p := range d.pages {
		out[i] = p.Page
	}
	return out
}

// Title is the document's title as its information dictionary gives it.
func (d *Doc) Title() string {
	res, err := d.in.FPDF_GetMetaText(&requests.FPDF_GetMetaText{Document: d.ref, Tag: "Title"})
	if err != nil {
		return ""
	}
	return strings.TrimSpace(res.Value)
}

// Save writes the document afresh, which mends its cross-reference and takes off
// its encryption.
func (d *Doc) Save() ([]byte, error) {
	res, err := d.in.FPDF_SaveAsCopy(&requests.FPDF_SaveAsCopy{Document: d.ref, Flags: requests.SaveFlagRemoveSecurity})
	if err != nil {
		return nil, err
	}
	if res.FileBytes == nil {
		return nil, object.ErrDamaged
	}
	return *res.FileBytes, nil
}

// Words is the text of page n, from 1, in the order in which the file has it; text that does not show
// is among it.
func (d *Doc) Words(n int) (string, error) {
	if _, err := d.numbered(n); err != nil {
		return "", err
	}
	res, err := d.in.GetPageText(&requests.GetPageText{Page: d.page(n - 1)})
	if err != nil {
		return "", err
	}
	return res.Text, nil
}
