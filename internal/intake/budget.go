package intake

import (
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"strings"

	"golang.org/x/sync/semaphore"
)

// What files unpack to is counted before it is unpacked, in bytes of memory; all that are read at once share one budget.
const (
	// maxPicture is what the pixels of one picture may take: A4 at 600 dpi in colour is 105 MB.
	maxPicture = 150 << 20
	// maxPictures is what those of all pages of one file may, which are held together.
	maxPictures = 300 << 20
	// budgetOfAll is what all that is read at once may take.
	budgetOfAll = 440 << 20
	// maxFolder is what the documents of a folder may have together, unpacked.
	maxFolder = 200 << 20
	// maxXML is how long the text of a word-processor file may be, as XML: its tree takes some twenty times as much.
	maxXML = 12 << 20
	// maxText and maxMarkdown are how long a text may be: a book has one million signs.
	maxText     = 2 << 20
	maxMarkdown = 1 << 20
	// maxNested is how deep quotes and lists may stand in each other.
	maxNested = 12
)

var budget = semaphore.NewWeighted(budgetOfAll)

// hold waits until so many bytes may be taken; release gives them back.
func hold(ctx context.Context, bytes int64) (release func(), err error) {
	bytes = min(bytes, budgetOfAll)
	if err := budget.Acquire(ctx, bytes); err != nil {
		return nil, err
	}
	return func() { budget.Release(bytes) }, nil
}

// pixelBytes is what the pixels of a picture take when it is opened.
func pixelBytes(c image.Config) int64 {
	each := int64(4)
	switch c.ColorModel {
	case color.GrayModel:
		each = 1
	case color.Gray16Model:
		each = 2
	case color.YCbCrModel:
		each = 3
	case color.RGBA64Model, color.NRGBA64Model:
		each = 8
	}
	if _, paletted := c.ColorModel.(color.Palette); paletted {
		each = 1
	}
	return each * int64(c.Width) * int64(c.Height)
}

// tooLarge says that a picture cannot be opened.
func tooLarge(width, height int) error {
	return fmt.Errorf("this picture has %d × %d pixels, more than can be opened: scan it at 600 dpi or less, or in grey", width, height)
}

// nestedTooDeep tells whether Markdown has a line with more markers of quotes and lists than anybody writes.
func nestedTooDeep(s string) bool {
	for line := range strings.Lines(s) {
		n := 0
		for _, r := range line {
			if strings.ContainsRune(">-*+", r) {
				n++
			} else if r != ' ' && r != '\t' {
				break
			}
		}
		if n > maxNested && strings.Trim(line, "-*+_ \t\r\n") != "" { // many signs of one kind alone are a line across
			return true
		}
	}
	return false
}

var (
	errLongText = errors.New("this text is longer than can be set as pages: split it")
	errNested   = fmt.Errorf("this text nests its quotes or lists more than %d deep: take some of them out", maxNested)
)
