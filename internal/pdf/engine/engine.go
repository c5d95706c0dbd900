package engine

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	pdfium "github.com/klippa-app/go-pdfium"
	pdfiumerr "github.com/klippa-app/go-pdfium/errors"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"
	"github.com/klippa-app/go-pdfium/webassembly"
	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
	"github.com/tetratelabs/wazero/experimental"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
)

var engine struct {
	once sync.Once
	pool pdfium.Pool
	err  error
}

// pool starts PDFium on first use. The compiled module is kept in the user's
// cache directory, so that later starts take tenths of a second.
func pool() (pdfium.Pool, error) {
	engine.once.Do(func() {
		uuid.EnableRandPool() // the binding names every object it hands out with one
		config := wazero.NewRuntimeConfig().WithCoreFeatures(api.CoreFeaturesV2 | experimental.CoreFeaturesExceptionHandling)
		if cache := compilationCache(); cache != nil {
			config = config.WithCompilationCache(cache)
		}
		engine.pool, engine.err = webassembly.Init(webassembly.Config{
			MinIdle: 1, MaxIdle: runtime.NumCPU(), MaxTotal: max(2, runtime.NumCPU()) + 2,
			FSConfig: wazero.NewFSConfig(), RuntimeConfig: config, ReuseWorkers: true,
		})
	})
	return engine.pool, engine.err
}

func compilationCache() wazero.CompilationCache {
	base, err := os.UserCacheDir()
	if err != nil {
		base = os.TempDir()
	}
	for _, dir := range []string{
		filepath.Join(base, "zealous-margin", "pdfium"),
		filepath.Join(os.TempDir(), fmt.Sprintf("zealous-margin-%d", os.Getuid()), "pdfium"),
	} {
		if os.MkdirAll(dir, 0o700) != nil {
			continue
		}
		if cache, err := wazero.NewCompilationCacheWithDir(dir); err == nil {
			return cache
		}
	}
	return nil
}

// Doc is an open PDF file. It must be closed. It is not safe for use by several
// goroutines at once.
type Doc struct {
	in    pdfium.Pdfium
	ref   references.FPDF_DOCUMENT
	pages []page
	bytes []byte
}

type page struct {
	form.Page
	origin geom.Point // lower left corner of the visible page, in user space
}

// Open reads a PDF file. The error is one of ErrNotPDF, ErrEncrypted, ErrNoPages
// and ErrDamaged, or says that the engine could not start.
func Open(b []byte) (*Doc, error) { return OpenWith(b, "") }

// OpenWith opens a file that may be locked with a password.
func OpenWith(b []byte, password string) (*Doc, error) {
	if !bytes.Contains(b[:min(len(b), 1024)], []byte("%PDF-")) {
		return nil, object.ErrNotPDF
	}
	p, err := pool()
	if err != nil {
		return nil, fmt.Errorf("the PDF engine did not start: %w", err)
	}
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	in, err := p.GetInstanceWithContext(ctx)
	if err != nil {
		return nil, fmt.Errorf("the PDF engine is busy, try again in a moment: %w", err)
	}
	d := &Doc{in: in, bytes: b}
	res, err := in.OpenDocument(&requests.OpenDocument{File: &b, Password: passwordOf(password)})
	if err != nil {
		_ = in.Close()
		switch {
		case errors.Is(err, pdfiumerr.ErrPassword), errors.Is(err, pdfiumerr.ErrSecurity):
			return nil, object.ErrEncrypted
		}
		return nil, object.ErrDamaged
	}
	d.ref = res.Document
	if err := d.measure(); err != nil {
		d.Close()
		return nil, err
	}
	return d, nil
}

// May tells what the owner of the file lets people do who have opened it with the password that it was opened with: make and change
// fields, and fill them in (ISO 32000-2, table 22: bits 4 and 6, and 6 or 9).
func (d *Doc) May() (change, fill bool) {
	p, err := d.in.FPDF_GetDocPermissions(&requests.FPDF_GetDocPermissions{Document: d.ref})
	if err != nil {
		return true, true
	}
	return p.CreateOrModifyInteractiveFormFields, p.FillInInteractiveFormFields || p.FillInExistingInteractiveFormFields
}

func passwordOf(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

func (d *Doc) measure() error {
	n, err := d.in.FPDF_GetPageCount(&requests.FPDF_GetPageCount{Document: d.ref})
	if err != nil {
		return object.ErrDamaged
	}
	if n.PageCount == 0 {
		return object.ErrNoPages
	}
	for i := range n.PageCount {
		p, err := d.measurePage(i)
		if err != nil {
			return fmt.Errorf("page %d cannot be read: %w", i+1, object.ErrDamaged)
		}
		d.pages = append(d.pages, p)
	}
	return nil
}

func (d *Doc) measurePage(i int) (page, error) {
	ref := d.page(i)
	size, err := d.in.GetPageSize(&requests.GetPageSize{Page: ref})
	if err != nil {
		return page{}, err
	}
	turn, err := d.in.FPDFPage_GetRotation(&requests.FPDFPage_GetRotation{Page: ref})
	if err != nil {
		return page{}, err
	}
	// The corners of the page as shown, taken back to user space, are the visible
	// box whatever page tree it was inherited from.
	w, h := int(math.Round(size.Width*1000)), int(math.Round(size.Height*1000))
	box := geom.Rect{X0: math.Inf(1), Y0: math.Inf(1), X1: math.Inf(-1), Y1: math.Inf(-1)}
	for _, c := range [2][2]int{{0, 0}, {w, h}} {
		p, err := d.in.FPDF_DeviceToPage(&requests.FPDF_DeviceToPage{Page: ref, SizeX: w, SizeY: h, DeviceX: c[0], DeviceY: c[1]})
		if err != nil {
			return page{}, err
		}
		box = box.Union(geom.Rect{X0: p.PageX, Y0: p.PageY, X1: p.PageX, Y1: p.PageY})
	}
	rotate := int(turn.PageRotation) * 90
	pw, ph := geom.ViewSize(size.Width, size.Height, rotate)
	return page{
		Page:   form.Page{Width: geom.Round(pw), Height: geom.Round(ph), Rotate: rotate},
		origin: geom.Point{X: geom.Round(box.X0), Y: geom.Round(box.Y0)},
	}, nil
}

func (d *Doc) page(i int) requests.Page {
	return requests.Page{ByIndex: &requests.PageByIndex{Document: d.ref, Index: i}}
}

// Close frees the engine for the next file.
func (d *Doc) Close() {
	_, _ = d.in.FPDF_CloseDocument(&requests.FPDF_CloseDocument{Document: d.ref})
	_ = d.in.Close()
}

// Pages gives size and turn of every page.
func (d *Doc) Pages() []form.Page {
	out := make([]form.Page, len(d.pages))
	for i, p := range d.pages {
		out[i] = p.Page
	}
	return out
}

// Title is the document's title as its information dictionary gives it.
func (d *Doc) Title() string {
	res, err := d.in.FPDF_GetMetaText(&requests.FPDF_GetMetaText{Document: d.ref, Tag: "Title"})
	if err != nil {
		return ""
	}
	return strings.TrimSpace(res.Value)
}

// Save writes the document afresh, which mends its cross-reference and takes off
// its encryption.
func (d *Doc) Save() ([]byte, error) {
	res, err := d.in.FPDF_SaveAsCopy(&requests.FPDF_SaveAsCopy{Document: d.ref, Flags: requests.SaveFlagRemoveSecurity})
	if err != nil {
		return nil, err
	}
	if res.FileBytes == nil {
		return nil, object.ErrDamaged
	}
	return *res.FileBytes, nil
}

// Words is the text of page n, from 1, in the order in which the file has it; text that does not show
// is among it.
func (d *Doc) Words(n int) (string, error) {
	if _, err := d.numbered(n); err != nil {
		return "", err
	}
	res, err := d.in.GetPageText(&requests.GetPageText{Page: d.page(n - 1)})
	if err != nil {
		return "", err
	}
	return res.Text, nil
}
