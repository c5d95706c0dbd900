package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// Writing is a picture of what somebody has written at one place.
type Writing struct {
	Picture *image.Gray
	Several bool // lines
	Digits  bool // a number, and nothing else
}

// Reading is what it was read as, and how sure that is, from 0 to 1: as sure as the least sure of its words. Left is the share of the ink,
// from 0 to 1, that lies outside of all words: where it is much, something was written that was not read.
type Reading struct {
	Text string
	Sure float64
	Left float64
}

// Page segmentation modes of Tesseract: one block of text, and one line.
const (
	asBlock = "6"
	asLine  = "7"
)

// ReadWriting recognises what is written at several places, all of one sort in one run of Tesseract.
func ReadWriting(ctx context.Context, all []Writing, dpi float64, language string) ([]Reading, error) {
	out := make([]Reading, len(all))
	if !slices.Contains(Languages(), language) {
		if len(Languages()) == 0 {
			return nil, ErrNoOCR
		}
		language = "eng"
	}
	for _, sort := range []struct{ several, digits bool }{{false, false}, {false, true}, {true, false}} {
		var which []int
		for i, w := range all {
			if w.Several == sort.several && (w.Digits && !w.Several) == sort.digits {
				which = append(which, i)
			}
		}
		if len(which) == 0 {
			continue
		}
		mode := asLine
		if sort.several {
			mode = asBlock
		}
		if err := readSort(ctx, all, out, which, mode, sort.digits, dpi, language); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func readSort(
	ctx context.Context,
	all []Writing,
	out []Reading,
	which []int,
	mode string,
	digits bool,
	dpi float64,
	language string,
) error {
	dir, err := os.MkdirTemp("", "writing-*")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	var list bytes.Buffer
	for _, i := range which {
		g := all[i].Picture
		var b bytes.Buffer
		fmt.Fprintf(&b, "P5\n%d %d\n255\n", g.Rect.Dx(), g.Rect.Dy())
		for y := range g.Rect.Dy() {
			b.Write(g.Pix[y*g.Stride : y*g.Stride+g.Rect.Dx()])
		}
		name := filepath.Join(dir, strconv.Itoa(i)+".pgm")
		if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
			return err
		}
		list.WriteString(name + "\n")
	}
	names := filepath.Join(dir, "list.txt")
	if err := os.WriteFile(names, list.Bytes(), 0o600); err != nil {
		return err
	}
	args := []string{names, "stdout", "-l", language, "--dpi", strconv.Itoa(int(dpi)), "--psm", mode, "-c", "tessedit_create_tsv=1"}
	if digits {
		args = append(args, "-c", "tessedit_char_whitelist=0123456789.,-+/")
	}
	tsv, err := run(ctx, ocrLimits, dir, sparse(dir), nil, "tesseract", args...)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.Is(err, errMissing):
		return ErrNoOCR
	case err != nil:
		return fmt.Errorf("the writing could not be recognised: %w", err)
	}
	for i := range which {
		out[which[i]].Sure = 1
	}
	lines := map[int]string{}
	words := map[int][]image.Rectangle{}
	for row := range strings.SplitSeq(string(tsv), "\n") {
		c := strings.Split(row, "\t")
		if len(c) < 12 || c[0] != "5" || strings.TrimSpace(c[11]) == "" {
			continue
		}
		page, err1 := strconv.Atoi(c[1])
		sure, err2 := strconv.ParseFloat(c[10], 64)
		if err1 != nil || err2 != nil || page < 1 || page > len(which) {
			continue
		}
		if sure < 80 && strings.Trim(c[11], "|_-—–.,:;'\"‘’“”`~^=*°•\\/[](){}!¦ ") == "" {
			continue // what is left of a line, and no word
		}
		words[page] = append(words[page], boxOf(c))
		r := &out[which[page-1]]
		line := c[2] + "." + c[3] + "." + c[4]
		switch {
		case r.Text == "":
		case lines[page] != line && all[which[page-1]].Several:
			r.Text += "\n"
		default:
			r.Text += " "
		}
		lines[page] = line
		r.Text += strings.TrimSpace(c[11])
		r.Sure = min(r.Sure, sure/100)
	}
	for page, boxes := range words {
		out[which[page-1]].Left = left(all[which[page-1]].Picture, boxes)
	}
	return nil
}

// boxOf is where a row of Tesseract's table stands: left, top, width and height, in pixels.
func boxOf(c []string) image.Rectangle {
	var n [4]int
	for i := range n {
		n[i], _ = strconv.Atoi(c[6+i])
	}
	return image.Rect(n[0], n[1], n[0]+n[2], n[1]+n[3])
}

// left is the share of the ink that lies outside of all boxes. They are widened a little, since strokes go over them.
func left(g *image.Gray, boxes []image.Rectangle) float64 {
	for i, b := range boxes {
		boxes[i] = b.Inset(-max(2, b.Dy()/6))
	}
	ink, outside := 0, 0
	for y := range g.Rect.Dy() {
		for x := range g.Rect.Dx() {
			if g.Pix[y*g.Stride+x] >= 128 {
				continue
			}
			ink++
			if !slices.ContainsFunc(boxes, image.Pt(x, y).In) {
				outside++
			}
		}
	}
	return float64(outside) / float64(max(1, ink))
}
