package pdftest

import "strings"

// Odd is a form of one page with fields that are not as an editor would make them: under 4 points, without a size, with a name of 160
// bytes, for 99,999 signs, in part off the page, and a plain one.
func Odd() []byte {
	field := func(name, more, rect string) string {
		return "<< /Type /Annot /Subtype /Widget /FT /Tx /T (" + name + ") /F 4 /Rect [" + rect + "] /DA (/Helv 10 Tf 0 g) " + more + " >>"
	}
	return Assembled(
		"<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [4 0 R 5 0 R 6 0 R 7 0 R 8 0 R 9 0 R] /DA (/Helv 10 Tf 0 g) "+
			"/DR << /Font << /Helv 10 0 R >> >> >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R 5 0 R 6 0 R 7 0 R 8 0 R 9 0 R] >>",
		field("tiny", "/V (3)", "40 500 42 502"), field("nothing", "/V (hidden)", "0 0 0 0"),
		field(strings.Repeat("mooring_", 20), "", "40 440 240 460"), field("endless", "/MaxLen 99999", "40 400 240 420"),
		field("off", "/V (there)", "350 360 460 380"), field("plain", "", "40 320 240 340"),
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
	)
}
