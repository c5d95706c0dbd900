package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/scan"
)

// Limits of recognising one page.
var ocrLimits = limits{wall: 3 * time.Minute, cpu: 3 * time.Minute, memory: 3 << 30}

// Languages lists the languages that Tesseract has here, as it names them; empty
// when it is not installed.
var Languages = sync.OnceValue(func() []string {
	out, err := exec.Command("tesseract", "--list-langs").Output()
	if err != nil {
		return nil
	}
	var langs []string
	for _, l := range strings.Split(string(out), "\n")[1:] {
		if l = strings.TrimSpace(l); l != "" && l != "osd" && l != "equ" {
			langs = append(langs, l)
		}
	}
	slices.Sort(langs)
	return langs
})

// languageNames are the languages by their ISO 639-2 codes, each in English.
var languageNames = map[string]string{
	"ces": "Czech", "dan": "Danish", "deu": "German", "eng": "English", "est": "Estonian", "fin": "Finnish", "fra": "French",
	"hun": "Hungarian",
	"ita": "Italian", "lav": "Latvian", "lit": "Lithuanian", "nld": "Dutch", "nor": "Norwegian", "pol": "Polish", "por": "Portuguese",
	"ron": "Romanian", "slk": "Slovak", "slv": "Slovenian", "spa": "Spanish", "swe": "Swedish", "ell": "Greek", "ukr": "Ukrainian",
	"rus": "Russian",
}

// LanguageName is the name of a language for people.
func LanguageName(code string) string {
	if n := languageNames[code]; n != "" {
		return n
	}
	return code
}

// TesseractFor gives the Tesseract language for a BCP 47 tag; English when the tag
// is none of those installed.
func TesseractFor(tag string) string {
	base, _, _ := strings.Cut(strings.ToLower(tag), "-")
	for code, two := range map[string]string{
		"deu": "de", "eng": "en", "fra": "fr", "ita": "it", "nld": "nl", "pol": "pl", "por": "pt",
		"spa": "es", "swe": "sv",
	} {
		if base == two && slices.Contains(Languages(), code) {
			return code
		}
	}
	return "eng"
}

// ErrNoOCR is returned where Tesseract is not installed.
var ErrNoOCR = errors.New("recognising text needs Tesseract, which is not installed: install the packages tesseract-ocr and " +
	"tesseract-ocr-eng")

// OCRDPI is the resolution at which a page of a given resolution is recognised.
func OCRDPI(native float64) float64 {
	switch {
	case native <= 0:
		return 300
	case native < 200:
		return 300 // small type needs more pixels, even made-up ones
	}
	return min(native, 300)
}

// Recognise reads the words of a page of a draft whose file is given.
func Recognise(ctx context.Context, file []byte, page form.Page, native float64, language string) (evidence.Text, error) {
	dpi := OCRDPI(native)
	img, err := engine.Draw(ctx, file, page, dpi/72)
	if err != nil {
		return evidence.Text{}, err
	}
	text, err := RecogniseImage(ctx, img, dpi, language)
	if err != nil {
		return text, err
	}
	w, h := page.ViewSize()
	b := img.Bounds()
	kx, ky := w/float64(b.Dx()), h/float64(b.Dy())
	_, back := geom.Upright(page.Width, page.Height, page.Rotate)
	for i := range text.Words {
		wd := &text.Words[i]
		// pixels, y downwards, to points of the page as shown, and on to page space
		r := geom.R(wd.Rect.X0*kx, h-wd.Rect.Y1*ky, wd.Rect.X1*kx, h-wd.Rect.Y0*ky)
		wd.Size *= ky
		wd.Rect = r.Apply(back).Rounded()
		wd.Base = geom.Round(r.Y0)
	}
	text.Place, text.Rotate = page.Placing(), page.Rotate
	return text, nil
}

// RecogniseImage reads the words of a picture. Rectangles are pixels, y downwards.
func RecogniseImage(ctx context.Context, img image.Image, dpi float64, language string) (evidence.Text, error) {
	for _, l := range strings.Split(language, "+") {
		if !slices.Contains(Languages(), l) {
			if len(Languages()) == 0 {
				return evidence.Text{}, ErrNoOCR
			}
			return evidence.Text{}, fmt.Errorf("the language %s is not installed: choose one of %s", LanguageName(l),
				strings.Join(Languages(), ", "))
		}
	}
	g := scan.BarsTurned(scan.Gray(img), dpi)
	var in bytes.Buffer // the simplest picture format there is: PGM
	fmt.Fprintf(&in, "P5\n%d %d\n255\n", g.Rect.Dx(), g.Rect.Dy())
	in.Write(g.Pix)
	start := time.Now()
	// Page segmentation 11 looks for text anywhere: labels of a form stand in no column.
	out, err := run(ctx, ocrLimits, os.TempDir(), sparse(os.TempDir()), &in, "tesseract", "stdin", "stdout",
		"-l", language, "--dpi", strconv.Itoa(int(dpi)), "--psm", segmentation, "-c", "tessedit_create_tsv=1")
	switch {
	case ctx.Err() != nil:
		return evidence.Text{}, ctx.Err()
	case errors.Is(err, errMissing):
		return evidence.Text{}, ErrNoOCR
	case errors.Is(err, errTooLong):
		return evidence.Text{}, fmt.Errorf("recognising this page took longer than %s: crop it, or bring it in at 300 dpi or less",
			ocrLimits.wall)
	case err != nil:
		return evidence.Text{}, fmt.Errorf("the text of this page could not be recognised: %w", err)
	}
	t := evidence.Text{Language: language, Words: parseTSV(string(out)), Seconds: time.Since(start).Seconds()}
	return t, nil
}

const segmentation = "11"

// parseTSV reads Tesseract's table: level, page, block, paragraph, line, word, left,
// top, width, height, confidence (0 to 100), text. Words are level 5.
func parseTSV(s string) []evidence.Word {
	var out []evidence.Word
	for line := range strings.SplitSeq(s, "\n") {
		c := strings.Split(line, "\t")
		if len(c) < 12 || c[0] != "5" || strings.TrimSpace(c[11]) == "" {
			continue
		}
		var v [5]float64
		bad := false
		for i := range v {
			f, err := strconv.ParseFloat(c[6+i], 64)
			v[i], bad = f, bad || err != nil
		}
		if bad || v[4] < 0 {
			continue
		}
		out = append(out, evidence.Word{
			Text: strings.TrimSpace(c[11]), Rect: geom.R(v[0], v[1], v[0]+v[2], v[1]+v[3]), Size: v[3] * 1.15, Doubt: 1 - v[4]/100,
		})
	}
	return dropNoise(out)
}

// dropNoise takes out what is no word: rules and boxes read as signs.
func dropNoise(in []evidence.Word) []evidence.Word {
	return slices.DeleteFunc(in, func(w evidence.Word) bool {
		t := strings.Trim(w.Text, "|_-—–.,:;'\"‘’“”`~^=+*°•«»<>\\/[](){}!¦ ")
		return t == "" && w.Doubt > 0.2 || strings.Trim(w.Text, "|_—–¦ ") == "" || w.Doubt > 0.75 && len([]rune(w.Text)) <= 2
	})
}

// Evidence reads what is on a page of a draft, recognising its text first where it is a
// scan and that is asked for.
func Evidence(ctx context.Context, file []byte, page form.Page, recognise bool) (*evidence.Page, error) {
	if !page.Scan || !recognise {
		return engine.Read(ctx, file, page, nil)
	}
	t, err := Recognise(ctx, file, page, 200, "eng")
	if err != nil {
		return nil, err
	}
	return engine.Read(ctx, file, page, &t)
}
