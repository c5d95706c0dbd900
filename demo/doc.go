// Package demo is the demo office: Gannet Quay Harbour Office, invented, with its
// documents. Each document is made by a program, which also knows where a careful
// person would place the fields ([Want]).
package demo

import (
	"bytes"
	"fmt"
	"slices"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Want is a field that a careful person would place, in page space.
type Want struct {
	Page int
	Rect geom.Rect
	Kind form.Kind
	Name string // the name that the label suggests
}

// Document is one of the office's documents.
type Document struct {
	File        string
	Title       string
	Description string
	Bytes       []byte
	Wants       []Want
}

// sheet draws on A4 paper with the origin at the upper left, in points, and keeps
// what is wanted in page space.
type sheet struct {
	*fpdf.Fpdf
	wants []Want
	page  fpdf.SizeType
}

const (
	paperW = 595.28
	paperH = 841.89
	margin = 56.0
)

func newSheet(title string) *sheet {
	s := &sheet{Fpdf: fpdf.New("P", "pt", "A4", ""), page: fpdf.SizeType{Wd: paperW, Ht: paperH}}
	when := time.Date(2026, 10, 1, 9, 0, 0, 0, time.UTC)
	s.SetCreationDate(when)
	s.SetModificationDate(when)
	s.SetCatalogSort(true)
	s.SetTitle(title, true)
	s.SetAuthor("Gannet Quay Harbour Office", true)
	s.SetLang("en-GB")
	s.SetAutoPageBreak(false, 0)
	s.SetLineWidth(0.7)
	return s
}

func (s *sheet) bytes() ([]byte, error) {
	var b bytes.Buffer
	if err := s.Output(&b); err != nil {
		return nil, fmt.Errorf("the demo document cannot be made: %w", err)
	}
	return b.Bytes(), nil
}

// want notes a field; y is measured from the top.
func (s *sheet) want(kind form.Kind, name string, x, y, w, h float64) {
	s.wants = append(s.wants, Want{Page: s.PageNo(), Kind: kind, Name: name, Rect: geom.R(x, paperH-y-h, x+w, paperH-y).Rounded()})
}

func (s *sheet) text(x, y, size float64, style, t string) {
	s.SetFont("Times", style, size)
	s.Text(x, y, t)
}

func (s *sheet) small(x, y float64, t string) {
	s.SetFont("Helvetica", "", 7.5)
	s.Text(x, y, t)
}

func (s *sheet) heading(y float64, t string) {
	s.SetFont("Times", "B", 12.5)
	s.Text(margin, y, t)
	w := s.GetStringWidth(t)
	s.Line(margin, y+2.5, margin+w, y+2.5) // underlined: not a line to write on
}

// labelled draws a label and a rule to write on, from x to x1.
func (s *sheet) labelled(name, t string, x, y, from, x1 float64) {
	s.text(x, y, 10.5, "", t)
	s.Line(from, y+2, x1, y+2)
	s.want(form.Text, name, from, y+2-13, x1-from, 13)
}

// cell draws a boxed cell with its caption inside.
func (s *sheet) cell(name, caption string, x, y, w, h float64) {
	s.Rect(x, y, w, h, "D")
	s.small(x+3, y+9, caption)
	s.want(form.Text, name, x, y+h-14, w, 14)
}

// tick draws a box of the given side with its label after it and returns where the label ends.
func (s *sheet) tick(name, t string, x, y float64) float64 {
	return s.box(form.CheckBox, name, t, x, y)
}

// box draws a check box or a radio button.
func (s *sheet) box(kind form.Kind, name, t string, x, y float64) float64 {
	const side = 10.0
	s.Rect(x, y-side+1.5, side, side, "D")
	s.want(kind, name, x, y-side+1.5, side, side)
	s.text(x+side+5, y, 10.5, "", t)
	return x + side + 5 + s.GetStringWidth(t)
}

// made are the documents of the office by their files.
var made = []struct {
	file string
	make func() (Document, error)
}{
	{"blank-page.pdf", BlankPage},
	{"crew-list.pdf", Crew},
	{"slipway-charges.pdf", Charges},
	{"winter-storage-agreement.docx", Storage},
	{"visiting-craft-declaration.png", Declaration},
	{"berth-application.pdf", Berth},
}

// Documents makes every document of the office, or only those whose files are named.
func Documents(only ...string) ([]Document, error) {
	var out []Document
	for _, m := range made {
		if len(only) > 0 && !slices.Contains(only, m.file) {
			continue
		}
		d, err := m.make()
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, nil
}
