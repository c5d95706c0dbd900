package standin

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"slices"
	"sync"

	"zealousmargin.example/internal/scan"
	"zealousmargin.example/internal/scan/simulate"
)

// Scanner is where paper is scanned. A driver for a real device implements it.
type Scanner interface {
	// Devices lists the devices that answer now, with what each can do.
	Devices(ctx context.Context) ([]Device, error)
	// Scan scans what lies in the device and hands over each page as it is read, as a
	// PNG that states its resolution. It ends early when ctx does or each fails.
	Scan(ctx context.Context, r Request, each func(page []byte) error) error
}

// Device is a scanner and its capabilities.
type Device struct {
	ID, Name    string
	Resolutions []int    // dots per inch
	Colours     []Colour // black and white, grey, colour
	Sources     []Source
	Waiting     int // sheets that lie in the feeder
}

// Colour is how much of the light is kept.
type Colour string

// The colours.
const (
	Lineart Colour = "black and white"
	Grey    Colour = "grey"
	Full    Colour = "colour"
)

// Source is where the paper lies.
type Source string

// The sources: a glass for one sheet, a feeder that draws all in.
const (
	Flatbed Source = "flatbed"
	Feeder  Source = "feeder"
)

// Request is one scan.
type Request struct {
	Device string
	DPI    int
	Colour Colour
	Source Source
}

// Check refuses what the device cannot do, and says what it can.
func (d Device) Check(r Request) error {
	switch {
	case !slices.Contains(d.Resolutions, r.DPI):
		return fmt.Errorf("%s scans at %v dots an inch, not at %d", d.Name, d.Resolutions, r.DPI)
	case !slices.Contains(d.Colours, r.Colour):
		return fmt.Errorf("%s cannot scan in %q", d.Name, r.Colour)
	case !slices.Contains(d.Sources, r.Source):
		return fmt.Errorf("%s has no %s", d.Name, r.Source)
	}
	return nil
}

// Sheet is a sheet of paper in the tray: how it is drawn, and how it lies.
type Sheet struct {
	Name   string
	Draw   func(dpi float64) (image.Image, error)
	Faults simulate.Faults // at 200 dots an inch
}

// Tray is the stand-in for a scanner: its sheets come out askew and dirty, as paper
// does. The flatbed scans one sheet after the other, the feeder all of them.
type Tray struct {
	Sheets []Sheet
	mu     sync.Mutex
	next   int
}

const trayID = "quay"

// Devices offers the one device of the tray.
func (t *Tray) Devices(context.Context) ([]Device, error) {
	return []Device{{
		ID: trayID, Name: "Scan tray at the quay desk", Resolutions: []int{100, 150, 200, 300, 600},
		Colours: []Colour{Lineart, Grey, Full}, Sources: []Source{Feeder, Flatbed}, Waiting: len(t.Sheets),
	}}, nil
}

// Scan scans the next sheet, or all of them.
func (t *Tray) Scan(ctx context.Context, r Request, each func(page []byte) error) error {
	all, err := t.Devices(ctx)
	if err != nil {
		return err
	}
	if r.Device != trayID {
		return errors.New("this scanner does not answer: choose another")
	}
	if err := all[0].Check(r); err != nil {
		return err
	}
	if len(t.Sheets) == 0 {
		return errors.New("there is no paper in the scanner: lay a sheet in")
	}
	sheets := t.Sheets
	if r.Source == Flatbed {
		t.mu.Lock()
		sheets = []Sheet{t.Sheets[t.next%len(t.Sheets)]}
		t.next++
		t.mu.Unlock()
	}
	for _, s := range sheets {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		page, err := s.scanned(r)
		if err != nil {
			return err
		}
		if err := each(page); err != nil {
			return err
		}
	}
	return nil
}

func (s Sheet) scanned(r Request) ([]byte, error) {
	dpi := float64(r.DPI)
	img, err := s.Draw(dpi)
	if err != nil {
		return nil, fmt.Errorf("the sheet cannot be scanned: %w", err)
	}
	f := s.Faults
	f.OneBit = r.Colour == Lineart
	img = simulate.Scan(img, dpi, f)
	if r.Colour == Grey {
		img = scan.Gray(img)
	}
	return PNG(img, dpi)
}

// PNG packs a picture with its resolution (ISO/IEC 15948, 11.3.5.3, pHYs).
func PNG(img image.Image, dpi float64) ([]byte, error) {
	var b bytes.Buffer
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	if err := enc.Encode(&b, img); err != nil {
		return nil, err
	}
	return withResolution(b.Bytes(), dpi), nil
}
