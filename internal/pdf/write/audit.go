package write

import (
	"fmt"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
)

// SealField is the name of the signature field on an audit page, in which the office seals the file.
const SealField = "office_seal"

// Sheet is text that becomes pages at the end of a file.
type Sheet struct {
	Title string
	Parts []Part
}

// Part is a heading with lines below it, which are broken where they are too long.
type Part struct {
	Head  string
	Lines []string
}

// The measures of the sheet, in points: A4 (ISO 216) with margins.
const (
	sheetW, sheetH = 595, 842
	sheetMargin    = 56
	sealH          = 44
)

// Audit puts a sheet behind the last page of a file, with a field at its end in which the file can be sealed. All else stays as it is.
func Audit(src []byte, s Sheet) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	b := NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	all := s.Title
	for _, p := range s.Parts {
		all += p.Head + strings.Join(p.Lines, "")
	}
	fonts, face, err := b.FontsFor(all, "")
	if err != nil {
		return nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	root, ok := object.Entry(cat, "Pages").(types.IndirectRef)
	if !ok {
		return nil, fmt.Errorf("this file has no list of pages that another could be added to")
	}
	tree := f.Dict(root)
	kids := append(types.Array{}, f.Array(object.Entry(tree, "Kids"))...)
	contents := sheetPages(s, face)
	var last types.Dict
	var lastRef types.IndirectRef
	for _, c := range contents {
		stream, err := b.Stream([]byte(c), nil)
		if err != nil {
			return nil, err
		}
		last = types.Dict{
			"Type": types.Name(
				"Page",
			), "Parent": root, "MediaBox": object.RectArray(geom.R(0, 0, sheetW, sheetH)), "Rotate": types.Integer(0),
			"CropBox":  object.RectArray(geom.R(0, 0, sheetW, sheetH)),
			"Contents": stream, "Resources": types.Dict{"Font": fonts},
		}
		if lastRef, err = b.Add(last); err != nil {
			return nil, err
		}
		kids = append(kids, lastRef)
	}
	field, err := b.Add(types.Dict{
		"Type": types.Name("Annot"), "Subtype": types.Name("Widget"), "FT": types.Name("Sig"), "T": object.Str(SealField),
		"TU": object.Str("Seal of the office"), "P": lastRef, "F": types.Integer(object.AnnotPrint),
		"Rect": object.RectArray(geom.R(sheetMargin, sheetMargin, sheetMargin+260, sheetMargin+sealH)),
	})
	if err != nil {
		return nil, err
	}
	last.Update("Annots", types.Array{field})
	b.fields = append(b.fields, field)
	tree.Update("Kids", kids)
	tree.Update("Count", types.Integer(f.Integer(object.Entry(tree, "Count"))+len(contents)))
	f.Touch(root)
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

// sheetPages sets a sheet, page by page; at the end of the last there is room for the seal.
func sheetPages(s Sheet, face look.Typeface) []string {
	var pages []string
	var c strings.Builder
	y := float64(sheetH - sheetMargin)
	line := func(t string, size, gap float64) {
		for _, row := range look.Wrap(t, (sheetW-2*sheetMargin)/size, face) {
			if y-size*1.4 < sheetMargin+sealH+12 {
				pages = append(pages, c.String())
				c.Reset()
				y = sheetH - sheetMargin
			}
			y -= size * 1.4
			fmt.Fprintf(
				&c,
				"BT\n/%s %s Tf\n%d %s Td\n%s Tj\nET\n",
				face.Resource(),
				object.Dec(size),
				sheetMargin,
				object.Dec(y),
				face.Show(row),
			)
		}
		y -= gap
	}
	line(s.Title, 18, 6)
	for _, p := range s.Parts {
		y -= 8
		line(p.Head, 12, 2)
		for _, l := range p.Lines {
			line(l, 9.5, 0)
		}
	}
	return append(pages, c.String())
}
