package demo

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"html"
	"image"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/standin"
)

// declarationSheet is the visiting-craft declaration as it is printed: one page on
// paper, of which the office has only copies.
func declarationSheet() (Document, error) {
	s := newSheet("Visiting craft declaration")
	s.AddPage()
	right := paperW - margin
	s.text(margin, 64, 19, "B", "Visiting craft declaration")
	s.text(margin, 82, 11, "I", "Gannet Quay Harbour Office. To be handed in within one tide of arrival.")
	s.Line(margin, 92, right, 92)
	y := 126.0
	for _, f := range [][2]string{
		{"name_of_vessel", "Name of vessel"},
		{"flag", "Flag"},
		{"skipper", "Skipper"},
		{"last_port", "Last port of call"},
		{"arrival_date", "Date of arrival"},
		{"persons_on_board", "Persons on board"},
	} {
		s.labelled(f[0], f[1], margin, y, 190, right)
		y += 30
	}
	s.text(margin, y, 10.5, "", "Anything to declare?")
	x := s.box(form.Radio, "anything_to_declare", "Yes", 190, y)
	s.box(form.Radio, "anything_to_declare", "No", x+30, y)
	y += 32
	s.text(margin, y, 10.5, "", "Animals on board, and where they come from")
	s.Rect(margin, y+8, right-margin, 70, "D")
	s.want(form.Text, "animals_on_board", margin, y+8, right-margin, 70)
	y += 112
	w := (right - margin) / 3
	for i, c := range [][2]string{{"length_overall", "Length overall (m)"}, {"draught", "Draught (m)"}, {"sail_number", "Sail number"}} {
		s.cell(c[0], c[1], margin+float64(i)*w, y, w, 36)
	}
	y += 64
	s.SetFont("Times", "", 10)
	s.SetXY(margin, y)
	s.MultiCell(right-margin, 13, "Visiting craft lie at the long quay unless the office gives them another place. Holding tanks "+
		"stay closed inside the moles. Lines are doubled when the gale cone is up. The office keeps this declaration until the "+
		"craft has left.", "", "L", false)
	y += 96
	s.Line(margin, y, margin+240, y)
	s.small(margin, y+10, "Signature of skipper")
	s.want(form.Signature, "signature_skipper", margin, y-24, 240, 24)
	s.Line(margin+290, y, right, y)
	s.small(margin+290, y+10, "Date")
	s.want(form.Text, "date", margin+290, y-13, right-margin-290, 13)
	b, err := s.bytes()
	return Document{File: "visiting-craft-declaration.pdf", Title: "Visiting craft declaration", Bytes: b, Wants: s.wants}, err
}

// Declaration is the declaration as the office has it: a scan, skewed and speckled.
func Declaration() (Document, error) {
	d, err := declarationSheet()
	if err != nil {
		return d, err
	}
	img, err := drawn(d.Bytes, 1, 200)
	if err != nil {
		return d, err
	}
	scanned := simulate.Scan(img, 200, simulate.Faults{Skew: 1.4, Specks: 260, Light: 0.22, Grey: 0.05, Seed: 7})
	d.File = "visiting-craft-declaration.png"
	d.Description = "Handed in within one tide of arrival"
	d.Bytes, err = standin.PNG(scanned, 200)
	return d, err
}

func drawn(b []byte, n int, dpi float64) (image.Image, error) {
	return engine.DrawPage(context.Background(), b, n, dpi/72)
}

// Charges makes the slipway charges sheet: quantities, rates and amounts to write in,
// and a total.
func Charges() (Document, error) {
	s := newSheet("Slipway charges sheet")
	s.AddPage()
	right := paperW - margin
	s.text(margin, 64, 19, "B", "Slipway charges sheet")
	s.text(margin, 82, 11, "I", "Gannet Quay Harbour Office, season 2027")
	s.labelled("name_of_vessel", "Name of vessel", margin, 124, 160, 380)
	s.labelled("date", "Date", 396, 124, 426, right)
	items := []string{
		"Hauling out", "Launching", "Pressure washing", "Cradle, per day", "Mast crane, per half hour",
		"Storage ashore, per week",
	}
	cols := []struct {
		head string
		w    float64
	}{{"Service", 190}, {"Quantity", 80}, {"Rate", 90}, {"Amount", 0}}
	cols[3].w = right - margin - 360
	s.SetFillColor(226, 226, 226)
	x := margin
	for k, c := range cols {
		s.Rect(x, 150, c.w, 20, "FD")
		s.text(x+6, 164, 10, "B", c.head)
		for r := range items {
			y := 170 + float64(r)*24
			s.Rect(x, y, c.w, 24, "D")
			if k == 0 {
				s.text(x+6, y+16, 10, "", items[r])
				continue
			}
			s.want(form.Text, strings.ToLower(c.head), x, y+9, c.w, 15)
		}
		x += c.w
	}
	y := 170 + 24*float64(len(items))
	s.Rect(margin+360, y, cols[3].w, 24, "D")
	s.text(margin+310, y+16, 10.5, "B", "Total")
	s.want(form.Text, "total", margin+360, y+9, cols[3].w, 15)
	s.text(margin, y+70, 10.5, "", "Paid by")
	x = s.tick("cash", "cash", 160, y+70)
	x = s.tick("card", "card", x+24, y+70)
	s.tick("account", "account", x+24, y+70)
	s.Line(margin, y+150, margin+240, y+150)
	s.small(margin, y+160, "Signature of slip master")
	s.want(form.Signature, "signature_slip_master", margin, y+126, 240, 24)
	b, err := s.bytes()
	return Document{
		File: "slipway-charges.pdf", Title: "Slipway charges sheet", Description: "Quantities and rates at the slip",
		Bytes: b, Wants: s.wants,
	}, err
}

// Crew makes the crew list: a landscape page with one large table.
func Crew() (Document, error) {
	s := newSheet("Crew list")
	s.AddPageFormat("L", s.page)
	const w = paperH
	s.text(margin, 60, 19, "B", "Crew list")
	s.text(margin, 78, 11, "I", "Gannet Quay Harbour Office. One line a person, skipper first.")
	cols := []struct {
		head string
		w    float64
	}{{"No.", 30}, {"Family name", 150}, {"Given names", 150}, {"Nationality", 100}, {"Born on", 90}, {"Passport or identity card", 0}}
	cols[5].w = w - 2*margin - 520
	s.SetFillColor(226, 226, 226)
	x := margin
	for k, c := range cols {
		s.Rect(x, 100, c.w, 22, "FD")
		s.text(x+5, 115, 10, "B", c.head)
		for r := range 16 {
			y := 122 + float64(r)*22
			s.Rect(x, y, c.w, 22, "D")
			if k == 0 {
				s.text(x+8, y+15, 10, "", fmt.Sprint(r+1))
			}
		}
		x += c.w
	}
	b, err := s.bytes()
	return Document{File: "crew-list.pdf", Title: "Crew list", Description: "For arrivals from abroad", Bytes: b}, err
}

// BlankPage is a page to start from.
func BlankPage() (Document, error) {
	b, err := write.Blank(paperW, paperH)
	return Document{File: "blank-page.pdf", Title: "Blank page", Description: "To start from nothing", Bytes: b}, err
}

// control is a content control of the storage agreement (ISO/IEC 29500-1, 17.5.2).
type control struct{ tag, alias, kind, shown string }

// Storage makes the winter storage agreement: a word-processor file (DOCX) with
// content controls.
func Storage() (Document, error) {
	var body strings.Builder
	para := func(style, t string) {
		fmt.Fprintf(&body, `<w:p><w:pPr>%s<w:spacing w:after="120"/></w:pPr><w:r><w:rPr>%s</w:rPr><w:t xml:space="preserve">%s</w:t></w:r></w:p>`,
			"", map[string]string{
				"title": `<w:b/><w:sz w:val="38"/>`, "head": `<w:b/><w:sz w:val="26"/>`,
				"": `<w:sz w:val="22"/>`,
			}[style], html.EscapeString(t))
	}
	line := func(label string, c control) {
		fmt.Fprintf(&body, `<w:p><w:pPr><w:spacing w:after="120"/></w:pPr><w:r><w:t xml:space="preserve">%s: </w:t></w:r>%s</w:p>`,
			html.EscapeString(label), c.xml())
	}
	para("title", "Winter storage agreement")
	para("", "Between the Gannet Quay Harbour Office and the owner of the vessel named below, for the winter of 2026 to 2027.")
	para("head", "The owner")
	line("Name of owner", control{"owner_name", "Name of owner", "text", "Click and type the name"})
	line("Telephone", control{"owner_telephone", "Owner: telephone", "text", "Click and type the number"})
	para("head", "The vessel")
	line("Name of vessel", control{"vessel_name", "Name of vessel", "text", "Click and type the name"})
	line("Place in the shed", control{"shed_place", "Place in the shed", "list", "North wall"})
	line("From", control{"stored_from", "Stored from", "date", "Choose a day"})
	line("Until", control{"stored_until", "Stored until", "date", "Choose a day"})
	para("head", "What is agreed")
	para("", "The vessel lies in a cradle of the office. Batteries are landed, gas bottles go to the store by the gate, and the "+
		"keys hang at the desk. Nobody works with open flame in the shed.")
	fmt.Fprintf(&body, `<w:p><w:pPr><w:spacing w:after="120"/></w:pPr>%s<w:r><w:t xml:space="preserve"> The mast is to be lifted out before storage.</w:t></w:r></w:p>`, control{"mast_out", "The mast is to be lifted out", "tick", ""}.xml())
	fmt.Fprintf(&body, `<w:p><w:pPr><w:spacing w:after="120"/></w:pPr>%s<w:r><w:t xml:space="preserve"> The hull is to be washed.</w:t></w:r></w:p>`, control{"hull_washed", "The hull is to be washed", "tick", ""}.xml())
	b, err := docx(body.String())
	return Document{
		File: "winter-storage-agreement.docx", Title: "Winter storage agreement",
		Description: "A word-processor file with controls", Bytes: b,
	}, err
}

func (c control) xml() string {
	alias := fmt.Sprintf(`<w:alias w:val="%s"/><w:tag w:val="%s"/>`, html.EscapeString(c.alias), c.tag)
	run := fmt.Sprintf(`<w:r><w:t xml:space="preserve">%s</w:t></w:r>`, html.EscapeString(c.shown))
	switch c.kind {
	case "list":
		return `<w:sdt><w:sdtPr>` + alias + `<w:dropDownList><w:listItem w:displayText="North wall" w:value="N"/><w:listItem w:displayText="South wall" w:value="S"/><w:listItem w:displayText="Middle row" w:value="M"/></w:dropDownList></w:sdtPr><w:sdtContent>` + run + `</w:sdtContent></w:sdt>`
	case "date":
		return `<w:sdt><w:sdtPr>` + alias + `<w:showingPlcHdr/><w:date><w:dateFormat w:val="dd.MM.yyyy"/><w:lid w:val="en-GB"/></w:date></w:sdtPr><w:sdtContent>` + run + `</w:sdtContent></w:sdt>`
	case "tick":
		return `<w:sdt><w:sdtPr>` + alias + `<w14:checkbox><w14:checked w14:val="0"/><w14:checkedState w14:val="2612"/><w14:uncheckedState w14:val="2610"/></w14:checkbox></w:sdtPr><w:sdtContent><w:r><w:t>☐</w:t></w:r></w:sdtContent></w:sdt>`
	}
	return `<w:sdt><w:sdtPr>` + alias + `<w:showingPlcHdr/><w:text/></w:sdtPr><w:sdtContent>` + run + `</w:sdtContent></w:sdt>`
}

// docx zips the parts of a word-processor file (ISO/IEC 29500-2).
func docx(body string) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, part := range [][2]string{
		{"[Content_Types].xml", `<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>`},
		{"_rels/.rels", `<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>`},
		{"word/_rels/document.xml.rels", `<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"></Relationships>`},
		{"word/document.xml", `<?xml version="1.0" encoding="UTF-8"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:w14="http://schemas.microsoft.com/office/word/2010/wordml" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><w:body>` + body + `<w:sectPr><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="1134" w:right="1134" w:bottom="1134" w:left="1134" w:header="0" w:footer="0" w:gutter="0"/></w:sectPr></w:body></w:document>`},
	} {
		w, err := z.Create(part[0])
		if err != nil {
			return nil, err
		}
		if _, err := w.Write([]byte(part[1])); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return b.Bytes(), err
}

// Tray is the office's scan tray: its paper, as it lies there.
func Tray() *standin.Tray {
	sheet := func(name string, make func() (Document, error), page int, f simulate.Faults) standin.Sheet {
		return standin.Sheet{Name: name, Faults: f, Draw: func(dpi float64) (image.Image, error) {
			d, err := make()
			if err != nil {
				return nil, err
			}
			return drawn(d.Bytes, page, dpi)
		}}
	}
	return &standin.Tray{Sheets: []standin.Sheet{
		sheet("Visiting craft declaration", declarationSheet, 1, simulate.Faults{Skew: -0.9, Specks: 140, Light: 0.1, Seed: 11}),
		sheet("Slipway charges sheet", Charges, 1, simulate.Faults{Skew: 2.1, Specks: 200, Light: 0.2, Grey: 0.06, Seed: 12}),
		sheet("Berth application, page 2", Berth, 2, simulate.Faults{Quarters: 2, Skew: 0.6, Specks: 90, Seed: 13}),
	}}
}
