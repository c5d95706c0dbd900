package pdftest

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// Assembled is a PDF of objects in the clear, numbered from 1; the first is the catalog.
func Assembled(objects ...string) []byte {
	var b bytes.Buffer
	b.WriteString("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	var at []int
	for i, o := range objects {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", i+1, o)
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, o := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, start)
	return b.Bytes()
}

// Signed is a form of one page with a text field, vessel, and a signature in the field office that mutool has made, with a certificate of
// openssl's.
func Signed() ([]byte, error) {
	dir, err := os.MkdirTemp("", "signed")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	plain := Assembled(
		"<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [4 0 R 5 0 R] /DA (/Helv 10 Tf 0 g) /DR << /Font << /Helv 6 0 R >> >> >> >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 400 600] /Annots [4 0 R 5 0 R] >>",
		"<< /Type /Annot /Subtype /Widget /FT /Tx /T (vessel) /TU (Vessel) /F 4 /Rect [40 500 200 520] /DA (/Helv 10 Tf 0 g) /P 3 0 R >>",
		"<< /Type /Annot /Subtype /Widget /FT /Sig /T (office) /TU (For the office) /F 4 /Rect [40 400 200 440] /P 3 0 R >>",
		"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
	)
	if err := os.WriteFile(filepath.Join(dir, "plain.pdf"), plain, 0o600); err != nil {
		return nil, err
	}
	for _, args := range []string{
		"openssl req -x509 -newkey rsa:2048 -nodes -keyout key.pem -out cert.pem -days 30 -subj /CN=GannetQuay",
		"openssl pkcs12 -export -inkey key.pem -in cert.pem -out cert.pfx -passout pass:quay",
		"mutool sign -s cert.pfx -P quay -o signed.pdf plain.pdf 5",
	} {
		words := strings.Fields(args)
		cmd := exec.Command(words[0], words[1:]...)
		cmd.Dir = dir
		if out, err := cmd.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%s: %w: %s", args, err, out)
		}
	}
	return os.ReadFile(filepath.Join(dir, "signed.pdf"))
}
