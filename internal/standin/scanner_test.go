package standin_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/scan/simulate"
	"zealousmargin.example/internal/standin"
)

// sheet is a card of 40 by 60 mm with a red square.
func sheet(name string) standin.Sheet {
	return standin.Sheet{Name: name, Faults: simulate.Faults{Seed: 3}, Draw: func(dpi float64) (image.Image, error) {
		w, h := int(40/25.4*dpi), int(60/25.4*dpi)
		img := image.NewRGBA(image.Rect(0, 0, w, h))
		draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src)
		draw.Draw(img, image.Rect(w/4, h/4, w/2, h/2), image.NewUniform(color.RGBA{200, 0, 0, 255}), image.Point{}, draw.Src)
		return img, nil
	}}
}

// chunks are those of a PNG by their types, each held to its check sum (ISO/IEC 15948, 5.3 and 5.5).
func chunks(t *testing.T, b []byte) map[string][]byte {
	t.Helper()
	require.True(t, bytes.HasPrefix(b, []byte("\x89PNG\r\n\x1a\n")))
	out := map[string][]byte{}
	for b = b[8:]; len(b) > 0; {
		n := int(binary.BigEndian.Uint32(b))
		kind, data := string(b[4:8]), b[8:8+n]
		require.Equal(t, crc32.ChecksumIEEE(b[4:8+n]), binary.BigEndian.Uint32(b[8+n:]), kind)
		out[kind] = data
		b = b[12+n:]
	}
	require.Contains(t, out, "IEND")
	return out
}

// Pages come at the resolution that was asked for, and say so; grey has no colour, black and white nothing between.
func TestPagesComeAsTheyWereAskedFor(t *testing.T) {
	tray := &standin.Tray{Sheets: []standin.Sheet{sheet("one")}}
	devices, err := tray.Devices(t.Context())
	require.NoError(t, err)
	require.Len(t, devices, 1)
	for _, dpi := range devices[0].Resolutions {
		for _, colour := range devices[0].Colours {
			r := standin.Request{Device: devices[0].ID, DPI: dpi, Colour: colour, Source: standin.Feeder}
			var page []byte
			require.NoError(t, tray.Scan(t.Context(), r, func(b []byte) error { page = b; return nil }))
			phys := chunks(t, page)["pHYs"]
			require.Len(t, phys, 9, "ISO/IEC 15948, 11.3.5.3")
			assert.EqualValues(t, 1, phys[8], "pixels a metre")
			for i := range 2 {
				assert.InDelta(t, float64(dpi)/0.0254, float64(binary.BigEndian.Uint32(phys[4*i:])), 1)
			}
			img, err := png.Decode(bytes.NewReader(page))
			require.NoError(t, err)
			assert.InDelta(t, 40/25.4*float64(dpi), float64(img.Bounds().Dx()), 1)
			red, tones := false, map[uint32]bool{}
			for y := range img.Bounds().Dy() {
				for x := range img.Bounds().Dx() {
					r, g, _, _ := img.At(x, y).RGBA()
					red = red || math.Abs(float64(r)-float64(g)) > 0x2000
					tones[g] = true
				}
			}
			assert.Equal(t, colour == standin.Full, red, "%s", colour)
			if colour == standin.Lineart {
				assert.LessOrEqual(t, len(tones), 2)
			}
		}
	}
}

// The glass takes one sheet after the other, and begins again; the feeder takes all; either ends when it is told to.
func TestSheetsComeOneByOneOrAll(t *testing.T) {
	tray := &standin.Tray{Sheets: []standin.Sheet{sheet("one"), sheet("two"), sheet("three")}}
	tray.Sheets[2].Draw = func(float64) (image.Image, error) { return nil, errors.New("jammed") }
	r := standin.Request{Device: "quay", DPI: 100, Colour: standin.Grey, Source: standin.Flatbed}
	n := 0
	count := func([]byte) error { n++; return nil }
	require.NoError(t, tray.Scan(t.Context(), r, count))
	require.NoError(t, tray.Scan(t.Context(), r, count))
	assert.Equal(t, 2, n)
	assert.ErrorContains(t, tray.Scan(t.Context(), r, count), "cannot be scanned: jammed")
	require.NoError(t, tray.Scan(t.Context(), r, count), "the first once more")
	r.Source, n = standin.Feeder, 0
	require.Error(t, tray.Scan(t.Context(), r, count))
	assert.Equal(t, 2, n, "what was read before it jammed was handed over")
	full := errors.New("the disk is full")
	n = 0
	require.ErrorIs(t, tray.Scan(t.Context(), r, func([]byte) error { n++; return full }), full)
	assert.Equal(t, 1, n)
	ctx, stop := context.WithCancel(t.Context())
	require.ErrorIs(t, tray.Scan(ctx, r, func([]byte) error { stop(); return nil }), context.Canceled)
}

// What a scanner cannot do is refused in words that say what it can.
func TestScannersRefuseWhatTheyCannotDo(t *testing.T) {
	good := standin.Request{Device: "quay", DPI: 200, Colour: standin.Full, Source: standin.Feeder}
	for words, change := range map[string]func(*standin.Request){
		"not at 201":          func(r *standin.Request) { r.DPI = 201 },
		"[100 150 200":        func(r *standin.Request) { r.DPI = 0 },
		`cannot scan in "uv"`: func(r *standin.Request) { r.Colour = "uv" },
		"has no slot":         func(r *standin.Request) { r.Source = "slot" },
		"choose another":      func(r *standin.Request) { r.Device = "attic" },
	} {
		r := good
		change(&r)
		tray := &standin.Tray{Sheets: []standin.Sheet{sheet("one")}}
		err := tray.Scan(t.Context(), r, func([]byte) error { t.Fail(); return nil })
		assert.ErrorContains(t, err, words)
	}
	empty := &standin.Tray{}
	assert.ErrorContains(t, empty.Scan(t.Context(), good, nil), "lay a sheet in")
}
