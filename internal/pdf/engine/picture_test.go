package engine_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/pdf/engine"
)

// A drawn page is packed without a loss, whatever colours it has: PNG is lossless (ISO/IEC 15948, 4.1, from memory), and another decoder
// gives back every sample. One without colours takes one sample for a pixel.
func TestADrawnPageIsPackedWithoutALoss(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 1))
	drawn := func(box image.Rectangle) *image.RGBA {
		img := image.NewRGBA(box)
		for i := 0; i < len(img.Pix); i += 4 {
			v := uint8(r.UintN(256))
			img.Pix[i], img.Pix[i+1], img.Pix[i+2], img.Pix[i+3] = v, v, v, 0xff
		}
		return img
	}
	back := func(img image.Image) image.Image {
		t.Helper()
		b, err := engine.PNG(img)
		require.NoError(t, err)
		got, err := png.Decode(bytes.NewReader(b))
		require.NoError(t, err)
		return got
	}
	same := func(want, got image.Image) {
		t.Helper()
		at := want.Bounds()
		require.Equal(t, at.Size(), got.Bounds().Size())
		from := got.Bounds().Min
		for y := range at.Dy() {
			for x := range at.Dx() {
				w, g := color.RGBAModel.Convert(want.At(at.Min.X+x, at.Min.Y+y)), color.RGBAModel.Convert(got.At(from.X+x, from.Y+y))
				require.Equal(t, w, g, "at %d, %d", x, y)
			}
		}
	}
	box := image.Rect(0, 0, 3+r.IntN(60), 3+r.IntN(60))
	grey := drawn(box)
	got := back(grey)
	same(grey, got)
	assert.IsType(t, &image.Gray{}, got)

	part := drawn(box).SubImage(box.Inset(1)) // its rows are longer than it is wide
	same(part, back(part))

	for _, c := range []color.RGBA{{200, 10, 10, 255}, {10, 10, 11, 255}, {10, 11, 11, 255}, {0, 0, 0, 128}} {
		coloured := drawn(box)
		coloured.SetRGBA(r.IntN(box.Dx()), r.IntN(box.Dy()), c) // a single one, anywhere
		same(coloured, back(coloured))
	}
	empty := image.NewNRGBA(image.Rect(0, 0, 4, 4)) // of another kind
	same(empty, back(empty))
}
