package intake

import (
	"archive/zip"
	"bytes"
	"os"
	"runtime"
	"testing"
	"time"
)

// packed zips one part of a word-processor file.
func packed(f *testing.F, name, content string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create(name)
	if err == nil {
		_, err = w.Write([]byte(content))
	}
	if err != nil || z.Close() != nil {
		f.Fatal(err)
	}
	return b.Bytes()
}

// FuzzControls feeds what looks for the controls of word-processor files with broken ones.
func FuzzControls(f *testing.F) {
	const word = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"`
	f.Add(packed(f, "word/document.xml", `<w:document `+word+`><w:body><w:p><w:sdt><w:sdtPr><w:alias w:val="Vessel"/><w:tag w:val="v"/>`+
		`<w:dropDownList><w:listItem w:displayText="a" w:value="b"/></w:dropDownList></w:sdtPr><w:sdtContent><w:r><w:t>ketch</w:t></w:r>`+
		`</w:sdtContent></w:sdt><w:r><w:fldChar w:fldCharType="begin"><w:ffData><w:name w:val="x"/><w:textInput/></w:ffData></w:fldChar></w:r>`+
		`<w:r><w:instrText>FORMTEXT</w:instrText></w:r><w:r><w:fldChar w:fldCharType="end"/></w:r></w:p></w:body></w:document>`))
	f.Add(packed(f, "content.xml", `<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" `+
		`xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:text><text:p><text:placeholder `+
		`text:placeholder-type="text">x</text:placeholder></text:p></office:text></office:body></office:document-content>`))
	f.Fuzz(func(_ *testing.T, b []byte) {
		dog := time.AfterFunc(3*time.Second, func() {
			_ = os.WriteFile("/tmp/hang.bin", b, 0o600)
			buf := make([]byte, 1<<16)
			n := runtime.Stack(buf, true)
			_ = os.WriteFile("/tmp/hang.txt", buf[:n], 0o600)
		})
		defer dog.Stop()
		_, _, _ = markDOCX(b)
		_, _, _ = markODT(b)
		_ = kindOf("a.docx", b)
		_, _, _ = Folder(b)
	})
}

// FuzzPictures feeds what reads the tags of pictures with broken ones.
func FuzzPictures(f *testing.F) {
	f.Add([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x09pHYs\x00\x00\x0b\x13\x00\x00\x0b\x13\x01\x00\x00\x00\x00"))
	f.Add([]byte("II*\x00\x08\x00\x00\x00\x01\x00\x00\x01\x03\x00\x01\x00\x00\x00\x01\x00\x00\x00\x00\x00\x00\x00"))
	f.Add([]byte("\xff\xd8\xff\xe1\x00\x20Exif\x00\x00II*\x00\x08\x00\x00\x00\x00\x00\x00\x00\x00\x00"))
	f.Add([]byte("RIFF\x20\x00\x00\x00WEBPEXIF\x04\x00\x00\x00II*\x00"))
	f.Fuzz(func(_ *testing.T, b []byte) {
		if weight(kindOf("a", b), b) < 64<<20 { // larger ones are read in a process of their own
			_, _ = pictures(b)
		}
	})
}
