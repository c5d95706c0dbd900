package demo

import (
	"math"
	"strings"

	"zealousmargin.example/internal/form"
)

// Berth makes the berth application: two typeset pages with every style of field
// area, and with what only looks like one: a logo with boxes, decorative rules, an
// underlined heading, a table of prices, a paragraph, header and footer lines.
func Berth() (Document, error) {
	s := newSheet("Application for a berth")
	s.berthFront()
	s.berthBack()
	b, err := s.bytes()
	return Document{
		File: "berth-application.pdf", Title: "Berth application",
		Description: "Season 2027, for residents and visitors", Bytes: b, Wants: s.wants,
	}, err
}

func (s *sheet) masthead() {
	s.AddPage()
	// logo: a gannet of lines over three crates
	x, y := paperW-margin-66, 34.0
	for i := range 3 {
		s.Rect(x-4+float64(i)*20, y+26, 12, 12, "D")
	}
	s.SetLineWidth(1.4)
	s.Curve(x-4, y+18, x+18, y-14, x+40, y+18, "D")
	s.Curve(x+30, y+18, x+46, y, x+64, y+8, "D")
	s.SetLineWidth(0.7)
	s.text(margin, 58, 21, "B", "Gannet Quay Harbour Office")
	s.text(margin, 75, 11, "I", "Application for a berth, season 2027")
	s.SetLineWidth(1.6)
	s.Line(margin, 86, paperW-margin, 86)
	s.SetLineWidth(0.5)
	s.Line(margin, 89, paperW-margin, 89)
	s.SetLineWidth(0.7)
}

func (s *sheet) footer(page string) {
	s.Line(margin, paperH-44, paperW-margin, paperH-44)
	s.small(margin, paperH-34, "Gannet Quay Harbour Office, 1 Slip Lane, Gannet Quay")
	s.small(paperW-margin-40, paperH-34, page)
}

func (s *sheet) berthFront() {
	s.masthead()
	right := paperW - margin
	s.heading(116, "The applicant")
	s.labelled("name_of_applicant", "Name of applicant", margin, 142, 160, right)
	s.labelled("postal_address", "Postal address", margin, 168, 160, right)
	s.labelled("telephone", "Telephone", margin, 194, 160, 318)
	s.labelled("e_mail", "E-mail", 330, 194, 370, right)
	s.labelled("date_of_birth", "Date of birth", margin, 220, 160, 250)

	s.heading(252, "The vessel")
	w := (right - margin) / 2
	s.cell("name_of_vessel", "Name of vessel", margin, 264, w, 34)
	s.cell("port_of_registry", "Port of registry", margin+w, 264, w, 34)
	third := (right - margin) / 3
	s.cell("length_overall", "Length overall (m)", margin, 298, third, 34)
	s.cell("beam", "Beam (m)", margin+third, 298, third, 34)
	s.cell("draught", "Draught (m)", margin+2*third, 298, third, 34)

	s.text(margin, 362, 10.5, "", "Registration no.")
	for i := range 8 {
		s.Rect(160+float64(i)*20, 347, 20, 22, "D")
	}
	s.want(form.Text, "registration_no", 160, 347, 160, 22)

	s.text(margin, 398, 10.5, "", "Keel (tick one)")
	x := s.box(form.Radio, "keel", "fin", 160, 398)
	x = s.box(form.Radio, "keel", "bilge", x+24, 398)
	s.box(form.Radio, "keel", "lifting", x+24, 398)

	s.text(margin, 424, 10.5, "", "Services wanted")
	x = s.tick("shore_power", "shore power", 160, 424)
	x = s.tick("fresh_water", "fresh water", x+24, 424)
	s.tick("winter_storage_ashore", "winter storage ashore", x+24, 424)

	s.underscored("wanted_from", "Wanted from", margin, 452, 24)
	s.underscored("until", "until", 330, 452, 24)

	s.text(margin, 480, 10.5, "", "Insured with")
	s.SetFont("Times", "", 10.5)
	dots := strings.Repeat(".", 88)
	s.Text(160, 480, dots)
	s.want(form.Text, "insured_with", 160, 480-12, s.GetStringWidth(dots), 13)

	s.text(margin, 512, 10.5, "", "Anything we should know about the vessel or the crew")
	s.Rect(margin, 520, right-margin, 92, "D")
	s.want(form.Text, "anything_know_vessel_crew", margin, 520, right-margin, 92)

	s.SetFont("Times", "", 9.5)
	s.SetXY(margin, 628)
	s.MultiCell(right-margin, 12.5, "Berths are given out in the order in which complete applications arrive. An application is "+
		"complete when every line on this page is filled in, the crew is named overleaf, and the form is signed. The harbour office "+
		"answers within ten working days. Keep a copy for yourself; we do not send papers back.", "", "J", false)
	s.footer("page 1 of 2")
}

func (s *sheet) underscored(name, t string, x, y float64, n int) {
	s.text(x, y, 10.5, "", t)
	from := x + s.GetStringWidth(t) + 8
	line := strings.Repeat("_", n)
	s.Text(from, y, line)
	s.want(form.Text, name, from, y-11, s.GetStringWidth(line), 13)
}

func (s *sheet) berthBack() {
	s.masthead()
	right := paperW - margin
	s.heading(116, "Charges")
	head := []string{"Length overall", "per night", "per month", "per season"}
	rows := [][]string{
		{"up to 6 m", "11.00", "190.00", "1,020.00"},
		{"6 to 9 m", "16.50", "285.00", "1,530.00"},
		{"9 to 12 m", "23.00", "395.00", "2,140.00"},
		{"12 m and over", "31.00", "540.00", "2,900.00"},
	}
	w := (right - margin) / 4
	s.SetFillColor(226, 226, 226)
	for i, h := range head {
		s.Rect(margin+float64(i)*w, 128, w, 18, "FD")
		s.text(margin+float64(i)*w+6, 141, 10, "B", h)
	}
	for r, row := range rows {
		for i, t := range row {
			y := 146 + float64(r)*18
			s.Rect(margin+float64(i)*w, y, w, 18, "D")
			s.text(margin+float64(i)*w+6, y+13, 10, "", t)
		}
	}

	s.heading(252, "Crew on board")
	cols := []struct {
		head, name string
		w          float64
	}{{"Full name", "full_name", 190}, {"Nationality", "nationality", 130}, {"Born on", "born_on", 0}}
	cols[2].w = right - margin - 320
	x := margin
	for _, c := range cols {
		s.Rect(x, 262, c.w, 18, "FD")
		s.text(x+6, 275, 10, "B", c.head)
		for r := range 4 {
			y := 280 + float64(r)*20
			s.Rect(x, y, c.w, 20, "D")
			s.want(form.Text, c.name, x, y+5, c.w, 15)
		}
		x += c.w
	}

	s.text(margin, 388, 10.5, "", "I agree that the harbour office keeps these details for the season.")
	s.dingbat("agree_harbour_office_keeps_details", margin, 410, "I agree")
	s.dingbat("send_me_season_news", margin+90, 410, "send me the season's news by e-mail")

	s.SetFont("Times", "", 9.5)
	s.SetXY(margin, 426)
	s.MultiCell(right-margin, 12.5, "I declare that what is written here is true, that the vessel is insured against damage to "+
		"others for the whole stay, and that I shall follow the bye-laws of the harbour, of which I have had a copy. Charges fall "+
		"due on arrival; a berth that stays empty for three nights may be given to another vessel.", "", "J", false)

	s.Line(margin, 528, margin+280, 528)
	s.small(margin, 538, "Signature of applicant")
	s.want(form.Signature, "signature_applicant", margin, 528-24, 280, 24)
	s.Line(margin+320, 528, right, 528)
	s.small(margin+320, 538, "Date")
	s.want(form.Text, "date", margin+320, 528-14, right-margin-320, 14)

	// for office use: white areas on a tinted ground
	s.SetFillColor(232, 236, 232)
	s.Rect(margin, 570, right-margin, 78, "F")
	s.text(margin+10, 586, 10, "B", "For office use")
	s.SetFillColor(255, 255, 255)
	boxes := []struct {
		t, name string
		x, w    float64
	}{{"Berth no.", "berth_no", 10, 110}, {"Received on", "received_on", 140, 130}, {"Fee due", "fee_due", 290, 120}}
	for _, b := range boxes {
		s.small(margin+b.x, 606, b.t)
		s.Rect(margin+b.x, 611, b.w, 18, "F")
		s.want(form.Text, b.name, margin+b.x, 611, b.w, 18)
	}
	s.chart(right-120, 690)
	s.text(margin, 706, 9.5, "I", "Free berths by month: a glance at last season.")
	s.footer("page 2 of 2")
}

// dingbat prints a box as a sign of a symbol font, with words after it.
func (s *sheet) dingbat(name string, x, y float64, t string) {
	s.SetFont("ZapfDingbats", "", 11)
	s.Text(x, y, "o")
	w := s.GetStringWidth("o")
	s.want(form.CheckBox, name, x+0.4, y-7.6, w-0.8, 7.6) // the ink of the sign
	s.text(x+w+5, y, 10.5, "", t)
}

// chart draws columns of a bar chart: boxes that nobody writes in.
func (s *sheet) chart(x, y float64) {
	s.SetFillColor(120, 130, 125)
	for i := range 6 {
		h := 14 + 22*math.Abs(math.Sin(float64(i)))
		s.Rect(x+float64(i)*18, y+44-h, 12, h, "FD")
	}
	s.Line(x-4, y+44, x+110, y+44)
}
