package intake

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // PNG is one of the pictures that can be brought in
	"math"

	"golang.org/x/image/tiff"
	_ "golang.org/x/image/webp" // and so is WebP

	"zealousmargin.example/internal/pdf/write"
)

// pictures turns a picture file into pages: one, or as many as a TIFF has. A page is
// as large as the picture at its resolution; one that states none gets the resolution
// at which it is nearest to usual paper.
func pictures(b []byte) ([]write.Picture, error) {
	if tags, order, ok := tiffTags(b); ok {
		return tiffPages(b, tags, order)
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(b))
	if err != nil {
		return nil, errPicture
	}
	if pixelBytes(config) > maxPicture {
		return nil, tooLarge(config.Width, config.Height)
	}
	p := write.Picture{DPI: 0, Orientation: 1}
	var tags map[uint16]uint32
	switch format {
	case "jpeg":
		p.DPI, tags = jpegSays(b)
	case "png":
		p.DPI, tags = pngSays(b)
	case "webp":
		tags = exifTags(chunk(b, 12, "EXIF", binary.LittleEndian, 0))
	}
	if o := tags[tagOrientation]; o >= 1 && o <= 8 {
		p.Orientation = int(o)
	}
	if d := resolution(tags); d > 0 && p.DPI == 0 {
		p.DPI = d
	}
	img, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, errPicture
	}
	p.Image = img
	if _, cmyk := img.(*image.CMYK); format == "jpeg" && !cmyk {
		p.JPEG = b
	}
	p.DPI = sensible(p.DPI, config.Width, config.Height)
	return []write.Picture{p}, nil
}

var errPicture = errors.New("this picture cannot be opened: save it again as PNG or JPEG")

// Tags of TIFF 6.0 and Exif 3.0 (JEITA CP-3451, 4.6.4).
const (
	tagOrientation = 0x0112
	tagXResolution = 0x011a
	tagUnit        = 0x0128
	tagWidth       = 0x0100
	tagLength      = 0x0101
)

// tiffTags reads the directories of a TIFF file: where each begins, and its tags.
type directory struct {
	offset uint32
	tags   map[uint16]uint32
}

func tiffTags(b []byte) ([]directory, binary.ByteOrder, bool) {
	var order binary.ByteOrder
	switch {
	case bytes.HasPrefix(b, []byte("II*\x00")):
		order = binary.LittleEndian
	case bytes.HasPrefix(b, []byte("MM\x00*")):
		order = binary.BigEndian
	default:
		return nil, nil, false
	}
	if len(b) < 8 {
		return nil, nil, false
	}
	var out []directory
	seen := map[uint32]bool{}
	for at := order.Uint32(b[4:]); at != 0 && !seen[at] && len(out) < MaxPages+1; {
		seen[at] = true
		if int64(at)+2 > int64(len(b)) {
			break
		}
		n := int(order.Uint16(b[at:]))
		end := int(at) + 2 + 12*n
		if end+4 > len(b) {
			break
		}
		d := directory{offset: at, tags: map[uint16]uint32{}}
		for i := range n {
			e := b[int(at)+2+12*i:]
			tag, kind := order.Uint16(e), order.Uint16(e[2:])
			switch kind {
			case 3: // SHORT
				d.tags[tag] = uint32(order.Uint16(e[8:]))
			case 4: // LONG
				d.tags[tag] = order.Uint32(e[8:])
			case 5: // RATIONAL, kept to a whole number
				if v := int64(order.Uint32(e[8:])); v+8 <= int64(len(b)) {
					if den := order.Uint32(b[v+4:]); den > 0 {
						d.tags[tag] = uint32(math.Round(float64(order.Uint32(b[v:])) / float64(den)))
					}
				}
			}
		}
		out = append(out, d)
		at = order.Uint32(b[end:])
	}
	return out, order, true
}

// tiffPages opens each page of a TIFF by pointing the header at its directory.
func tiffPages(b []byte, dirs []directory, order binary.ByteOrder) ([]write.Picture, error) {
	if len(dirs) == 0 {
		return nil, errPicture
	}
	if len(dirs) > MaxPages {
		return nil, fmt.Errorf("this file has more than %d pages: split it", MaxPages)
	}
	var out []write.Picture
	all := int64(0)
	one := bytes.Clone(b)
	for i, d := range dirs {
		if w, h := int(d.tags[tagWidth]), int(d.tags[tagLength]); w <= 0 || h <= 0 || w > maxPicture/h {
			return nil, fmt.Errorf("page %d of this TIFF has a size that cannot be opened: scan it again at 600 dpi or less", i+1)
		}
		order.PutUint32(one[4:], d.offset)
		config, err := tiff.DecodeConfig(bytes.NewReader(one))
		if err == nil {
			if all += pixelBytes(config); pixelBytes(config) > maxPicture {
				return nil, fmt.Errorf("page %d of this TIFF: %w", i+1, tooLarge(config.Width, config.Height))
			}
			if all > maxPictures {
				return nil, fmt.Errorf("the pages of this TIFF are more than can be opened together, from page %d on: split it", i+1)
			}
		}
		img, err := tiff.Decode(bytes.NewReader(one))
		if err != nil {
			return nil, fmt.Errorf("page %d of this TIFF is compressed in a way that cannot be opened: save it with LZW, Deflate or "+
				"fax compression", i+1)
		}
		p := write.Picture{Image: img, Orientation: 1, DPI: resolution(d.tags)}
		if o := d.tags[tagOrientation]; o >= 1 && o <= 8 {
			p.Orientation = int(o)
		}
		p.DPI = sensible(p.DPI, img.Bounds().Dx(), img.Bounds().Dy())
		out = append(out, p)
	}
	return out, nil
}

// resolution is the resolution that tags state, in dots per inch; 0 when none.
func resolution(tags map[uint16]uint32) float64 {
	v := float64(tags[tagXResolution])
	if tags[tagUnit] == 3 { // per centimetre
		v *= 2.54
	} else if tags[tagUnit] == 1 {
		return 0
	}
	return v
}

func exifTags(b []byte) map[uint16]uint32 {
	if dirs, _, ok := tiffTags(bytes.TrimPrefix(b, []byte("Exif\x00\x00"))); ok && len(dirs) > 0 {
		return dirs[0].tags
	}
	return nil
}

// jpegSays reads the resolution of the JFIF header and the Exif tags (ITU-T T.81
// annex B for the segments; ITU-T T.871, 10 for JFIF).
func jpegSays(b []byte) (dpi float64, tags map[uint16]uint32) {
	for at := 2; at+4 <= len(b) && b[at] == 0xff; {
		marker, n := b[at+1], int(binary.BigEndian.Uint16(b[at+2:]))
		if marker == 0xda || n < 2 || at+2+n > len(b) {
			break
		}
		seg := b[at+4 : at+2+n]
		switch {
		case marker == 0xe0 && len(seg) >= 12 && string(seg[:5]) == "JFIF\x00":
			x := float64(binary.BigEndian.Uint16(seg[8:]))
			switch seg[7] {
			case 1:
				dpi = x
			case 2:
				dpi = x * 2.54
			}
		case marker == 0xe1 && bytes.HasPrefix(seg, []byte("Exif\x00\x00")):
			tags = exifTags(seg)
		}
		at += 2 + n
	}
	return dpi, tags
}

// pngSays reads the pHYs and eXIf chunks (ISO/IEC 15948, 11.3.5.3).
func pngSays(b []byte) (dpi float64, tags map[uint16]uint32) {
	if c := chunk(b, 8, "pHYs", binary.BigEndian, 4); len(c) >= 9 && c[8] == 1 {
		dpi = float64(binary.BigEndian.Uint32(c)) * 0.0254
	}
	return dpi, exifTags(chunk(b, 8, "eXIf", binary.BigEndian, 4))
}

// chunk finds a chunk of a PNG (length, name, data, check) or a RIFF file (name,
// length, data, padded to even).
func chunk(b []byte, at int, name string, order binary.ByteOrder, check int) []byte {
	for at+8 <= len(b) {
		called, n := string(b[at:at+4]), int64(order.Uint32(b[at+4:]))
		if check > 0 {
			called, n = string(b[at+4:at+8]), int64(order.Uint32(b[at:]))
		}
		if n > int64(len(b)-at-8) {
			return nil
		}
		if called == name {
			return b[at+8 : at+8+int(n)]
		}
		at += 8 + int(n) + check
		if check == 0 {
			at += int(n) % 2
		}
	}
	return nil
}

// sensible is the stated resolution, or, when none or a mere default is stated, the
// usual one at which the picture is nearest to A4 or Letter. A photograph, which is
// near neither, is laid as high as A4.
func sensible(dpi float64, w, h int) float64 {
	if dpi >= 90 && dpi <= 1300 && dpi != 96 {
		return dpi
	}
	long, short := float64(max(w, h)), float64(min(w, h))
	best, off := 0.0, 0.06
	for _, d := range []float64{72, 75, 96, 100, 150, 200, 240, 300, 400, 600, 1200} {
		for _, paper := range [][2]float64{{8.27, 11.69}, {8.5, 11}, {5.83, 8.27}, {11.69, 16.54}} {
			if v := math.Max(math.Abs(short/d/paper[0]-1), math.Abs(long/d/paper[1]-1)); v < off {
				best, off = d, v
			}
		}
	}
	switch {
	case best > 0:
		return best
	case dpi >= 72:
		return dpi
	}
	return math.Max(72, long/11.69)
}

// packJPEG packs a picture for a page.
func packJPEG(img image.Image) ([]byte, error) {
	var b bytes.Buffer
	err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 88})
	return b.Bytes(), err
}
