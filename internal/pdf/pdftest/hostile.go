package pdftest

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"strings"
)

// Endless is a PDF of one page that takes years to draw: each of nine forms shows the next a hundred times.
func Endless() []byte {
	stream := func(dict, content string) string {
		return fmt.Sprintf("<< %s /Length %d >>\nstream\n%s\nendstream", dict, len(content), content)
	}
	const deep = 9
	objects := []string{
		"<< /Type /Catalog /Pages 2 0 R >>",
		"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 300] /Contents 4 0 R /Resources << /XObject << /F 5 0 R >> >> >>",
		stream("", strings.Repeat("/F Do\n", 100)),
	}
	for i := range deep {
		content := strings.Repeat("/F Do\n", 100)
		if i == deep-1 {
			content = "0 0 m 100 100 l S\n"
		}
		dict := "/Type /XObject /Subtype /Form /BBox [0 0 300 300] /Resources << /XObject << /F %d 0 R >> >>"
		objects = append(objects, stream(fmt.Sprintf(dict, 6+i), content))
	}
	return Assembled(objects...)
}

// Repeated is a PDF that lists its one page n times.
func Repeated(n int) []byte {
	return Assembled("<< /Type /Catalog /Pages 2 0 R >>",
		fmt.Sprintf("<< /Type /Pages /Kids [%s] /Count %d >>", strings.Repeat("3 0 R ", n), n),
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 300] >>")
}

// deflated packs nothing but zeros, so many bytes of them, as often as filters are wanted.
func deflated(size, filters int) []byte {
	var b bytes.Buffer
	w, _ := zlib.NewWriterLevel(&b, zlib.BestCompression)
	zeros := make([]byte, 1<<20)
	for n := 0; n < size; n += len(zeros) {
		_, _ = w.Write(zeros)
	}
	_ = w.Close()
	for range filters - 1 {
		var next bytes.Buffer
		w, _ := zlib.NewWriterLevel(&next, zlib.BestCompression)
		_, _ = w.Write(b.Bytes())
		_ = w.Close()
		b = next
	}
	return b.Bytes()
}

// Swelling is a PDF of a few kilobytes whose stream of objects is size bytes long when it is unpacked, three filters deep.
func Swelling(size int) []byte {
	packed := deflated(size, 3)
	return Assembled("<< /Type /Catalog /Pages 2 0 R /AcroForm << /Fields [] /DA 6 0 R >> >>", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 300] /Contents 5 0 R >>",
		fmt.Sprintf("<< /Type /ObjStm /N 1 /First 10 /Filter [/FlateDecode /FlateDecode /FlateDecode] /Length %d >>\nstream\n%s\nendstream",
			len(packed), packed),
		fmt.Sprintf("<< /Filter [/FlateDecode /FlateDecode /FlateDecode] /Length %d >>\nstream\n%s\nendstream", len(packed), packed),
		fmt.Sprintf("<< /Filter [/FlateDecode /FlateDecode /FlateDecode] /Length %d >>\nstream\n%s\nendstream", len(packed), packed))
}

// Vast is a PDF whose page shows a picture of so many pixels a side, in colour, all of them alike.
func Vast(side int) []byte {
	packed := deflated(3*side*side, 1)
	return Assembled("<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
		"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 300] /Contents 4 0 R /Resources << /XObject << /P 5 0 R >> >> >>",
		"<< /Length 27 >>\nstream\n300 0 0 300 0 0 cm /P Do  \nendstream",
		fmt.Sprintf("<< /Type /XObject /Subtype /Image /Width %d /Height %d /ColorSpace /DeviceRGB /BitsPerComponent 8 "+
			"/Filter /FlateDecode /Length %d >>\nstream\n%s\nendstream", side, side, len(packed), packed))
}
