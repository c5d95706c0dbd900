package intake

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"io"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"unicode"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Limits of one file.
const (
	MaxBytes = 64 << 20
	MaxPages = object.MaxPages
	// MaxFolder is how many documents a zipped folder may hold.
	MaxFolder = 500
)

// Source is a file as it lies on the desk.
type Source struct {
	Name     string
	Bytes    []byte
	Password string // of a locked PDF, or of its owner
	Opened   []byte // the copy that [Unlock] has made
	Look     bool   // it is only looked at: that its owner forbids changes does not matter
}

// Unlock gives a copy of a locked file that needs no password; nil when the file is none, or not locked. The error is ErrPassword of
// package object when the password is not that of the file.
func Unlock(ctx context.Context, b []byte, password string) ([]byte, error) {
	h, err := read.CheckWith(ctx, b, password)
	switch {
	case errors.Is(err, object.ErrNotPDF), err == nil && !h.Unlocked:
		return nil, nil
	case err != nil:
		return nil, err
	}
	return h.Bytes, h.Change()
}

// Result is a file made ready.
type Result struct {
	Title   string
	PDF     []byte       // the file that pages are shown from and fields are written into
	Pages   []form.Page  // as they came
	Fields  []form.Field // that it brought
	Details form.Details
	Notice  string // what the person should know about it
	Scans   int    // pages that are pictures of paper
	// Ready is the pages made upright, straight and clean, when any of them needs it,
	// with the files that they are shown from by SHA-256.
	Ready []form.Page
	Files map[string][]byte
}

// Progress is told how far the work is.
type Progress func(what string, done, total int)

func shaOf(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// ErrUnknown is returned for a file of a kind that cannot be brought in.
var ErrUnknown = errors.New("this kind of file cannot be brought in: choose a PDF, a picture (PNG, JPEG, TIFF, WebP), a " +
	"word-processor file (DOCX, DOC, ODT, RTF), a text or Markdown file")

// Read makes a file ready, and tells how far it is. It ends early when ctx does. The
// error says why the file is refused and what to do; nothing is kept then.
func Read(ctx context.Context, src Source, step Progress) (Result, error) {
	r, err := readSource(ctx, src, step)
	if err != nil {
		return Result{}, err
	}
	if err := r.prepare(ctx, step); err != nil {
		return Result{}, err
	}
	return r, nil
}

// Pages is [Read] without making scans ready: what it takes to see the pages as they came.
func Pages(ctx context.Context, src Source) (Result, error) {
	return readSource(ctx, src, func(string, int, int) {})
}

func readSource(ctx context.Context, src Source, step Progress) (Result, error) {
	b := src.Bytes
	if len(b) == 0 {
		return Result{}, errors.New("this file is empty: choose another, or ask for it again")
	}
	if len(b) > MaxBytes {
		return Result{}, fmt.Errorf("this file has %d MB, the limit is %d MB: bring in a smaller one, or split it", len(b)>>20,
			MaxBytes>>20)
	}
	step("looking it over", 0, 1)
	k := kindOf(src.Name, b)
	release, err := hold(ctx, weight(k, b))
	if err != nil {
		return Result{}, err
	}
	defer release()
	out := Result{Title: TitleOf(src.Name), Files: map[string][]byte{}}
	switch k {
	case isPDF:
		return fromPDF(ctx, src, out, step)
	case isPicture:
		step("reading the picture", 0, 1)
		out.PDF, err = setApart(ctx, k, b)
	case isDOCX, isODT, isDOC, isRTF:
		var controls []form.Field
		out.PDF, controls, err = office(ctx, k, b, func(what string) { step(what, 0, 2) })
		out.Fields = controls
	case isText, isMarkdown:
		out.PDF, err = setApart(ctx, k, b)
	case isFolder:
		return Result{}, errors.New("this is a folder of files: bring it in from the workroom, where its documents are worked " +
			"through one by one")
	default:
		return Result{}, ErrUnknown
	}
	if err != nil {
		return Result{}, err
	}
	return fromPDF(ctx, Source{Name: src.Name + ".pdf", Bytes: out.PDF}, out, step)
}

// weight is about how much memory reading a file takes, in bytes.
func weight(k kind, b []byte) int64 {
	switch k {
	case isPicture:
		if tags, _, ok := tiffTags(b); ok {
			all := int64(0)
			for _, d := range tags {
				all += 4 * int64(d.tags[tagWidth]) * int64(d.tags[tagLength])
			}
			return 2 * min(all, maxPictures)
		}
		config, _, err := image.DecodeConfig(bytes.NewReader(b))
		if err != nil {
			return 0
		}
		return 2 * min(pixelBytes(config), maxPicture)
	case isText, isMarkdown:
		return 40 * int64(len(b))
	}
	return 8 * int64(len(b))
}

// fromPDF looks a PDF over, with what was known about the file it was made from.
func fromPDF(ctx context.Context, src Source, out Result, step Progress) (Result, error) {
	b := src.Bytes
	if len(src.Opened) > 0 {
		b = src.Opened
	}
	h, err := read.CheckWith(ctx, b, src.Password)
	if err != nil {
		return Result{}, firstReason(err)
	}
	h.Unlocked = h.Unlocked || len(src.Opened) > 0
	if err := h.Change(); err != nil && !src.Look {
		return Result{}, err
	}
	out.PDF = h.Bytes
	sha := shaOf(h.Bytes)
	out.Pages = h.Pages
	for i := range out.Pages {
		out.Pages[i].ID, out.Pages[i].File, out.Pages[i].N = form.NewID(), sha, i+1
	}
	a, err := read.Arrive(h.Bytes)
	if err != nil {
		return Result{}, firstReason(err)
	}
	taken := map[string]bool{}
	for _, f := range a.Fields {
		taken[f.Name] = true
	}
	for _, f := range out.Fields { // of a word-processor file
		f.Name = form.FreeName(f.Name, taken)
		taken[f.Name] = true
		a.Fields = append(a.Fields, f)
	}
	out.Fields = a.Fields
	out.Details = a.Details
	hidden, err := read.Leftovers(h.Bytes)
	if err != nil {
		return Result{}, firstReason(err)
	}
	out.Details.Leave = read.LeftUnasked(hidden)
	out.Notice = notice(h, a, len(out.Fields))
	if out.Details.Leave != "" {
		out.Notice = strings.TrimSpace(out.Notice + " It does or carries what could harm whoever opens it: a release leaves that out, " +
			"unless you keep it in the list of hidden leftovers.")
	}
	if h.Pages == nil {
		return Result{}, object.ErrNoPages
	}
	step("read", 1, 1)
	return out, nil
}

func notice(h read.Health, a read.Arrival, fields int) string {
	var out []string
	if h.Repaired {
		out = append(out, "The file was damaged and has been repaired; the original is kept.")
	}
	if h.Unlocked {
		out = append(out, "The file was locked; the copy to work on is not.")
	}
	if signed, err := read.Signatures(h.Bytes); err == nil && len(signed) > 0 {
		if h.Repaired || h.Unlocked {
			out = append(out, "It was signed; the copy to work on is not what was signed, and its signatures hold no more.")
		} else {
			out = append(out, "It is signed: see, before the release, whether its signatures stay valid.")
		}
	}
	switch {
	case fields == 1:
		out = append(out, "It brought one field.")
	case fields > 1:
		out = append(out, fmt.Sprintf("It brought %d fields.", fields))
	}
	if odd, err := read.Odds(h.Bytes); err == nil {
		n := 0
		for _, o := range odd {
			if !o.Row {
				n++
			}
		}
		switch {
		case n == 1:
			out = append(out, "One more field stays as it came: the list of fields says why.")
		case n > 1:
			out = append(out, fmt.Sprintf("%d more fields stay as they came: the list of fields says why.", n))
		}
	}
	kept := 0
	for _, f := range a.Fields {
		if f.Origin != nil && len(f.Origin.Keeps) > 0 {
			kept++
		}
	}
	switch {
	case kept == 1:
		out = append(out, "One of them has something that cannot be changed here and is kept as it is; its note says what.")
	case kept > 1:
		out = append(out, fmt.Sprintf(
			"%d of them have something that cannot be changed here and is kept as it is; their notes say what.", kept))
	}
	switch {
	case a.XFA && len(a.Fields) > 0:
		out = append(out, "The form is also defined by XFA, which readers no longer support: its other definition is used, and the "+
			"XFA part is left out on release.")
	case a.XFA:
		out = append(out, "The form is defined by XFA only, which readers no longer support: there are no other fields in it, so "+
			"they must be found or placed here. The XFA part is left out on release.")
	}
	return strings.Join(out, " ")
}

// prepare finds the pages that are pictures of paper and makes them ready, several at
// once.
func (r *Result) prepare(ctx context.Context, step Progress) error {
	jobs, err := r.scans(ctx, step)
	if err != nil {
		return err
	}
	r.Scans = len(jobs)
	if len(jobs) == 0 {
		return nil
	}
	ready := slices.Clone(r.Pages)
	var mu sync.Mutex
	var first error
	done := 0
	next := make(chan scanned)
	var wg sync.WaitGroup
	for range min(runtime.NumCPU(), len(jobs)) {
		wg.Go(func() {
			for j := range next {
				one, err := makeReady(ctx, r.PDF, r.Pages[j.i], j.dpi)
				mu.Lock()
				if err != nil {
					first = cmpErr(first, err)
				} else {
					ready[j.i] = one.page
					if one.file != nil {
						r.Files[one.page.File] = one.file
					}
				}
				done++
				step(fmt.Sprintf("making scan %d of %d ready", done, len(jobs)), done, len(jobs))
				mu.Unlock()
			}
		})
	}
	for _, j := range jobs {
		if ctx.Err() != nil {
			break
		}
		next <- j
	}
	close(next)
	wg.Wait()
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if first != nil {
		return first
	}
	if !slices.Equal(ready, r.Pages) {
		r.Ready = ready
	}
	return nil
}

// scanned is a page that is a picture of paper, and its resolution.
type scanned struct {
	i   int
	dpi float64
}

// scans marks the pages that are pictures of paper.
func (r *Result) scans(ctx context.Context, step Progress) (found []scanned, err error) {
	err = engine.Use(ctx, r.PDF, func(d *engine.Doc) error {
		for i := range r.Pages {
			if i%8 == 0 || len(r.Pages) < 20 {
				step(fmt.Sprintf("reading page %d of %d", i+1, len(r.Pages)), i, len(r.Pages))
			}
			p := &r.Pages[i]
			switch pictured, err := d.Pictured(p.N); {
			case err != nil:
				return err
			case !pictured: // without a large picture it is no scan
				continue
			}
			ev, err := d.EvidenceOf(*p, nil)
			if err != nil {
				return fmt.Errorf("page %d cannot be read: %w", i+1, object.ErrDamaged)
			}
			if ev.IsScan() {
				p.Scan = true
				found = append(found, scanned{i, ev.DPI})
			}
		}
		return nil
	})
	return found, firstReason(err)
}

func cmpErr(a, b error) error {
	if a != nil {
		return a
	}
	return b
}

// firstReason gives the reason in the words for people, without a parser's detail.
func firstReason(err error) error {
	for _, reason := range []error{
		object.ErrNotPDF, object.ErrPassword, object.ErrEncrypted, object.ErrNoPages, object.ErrSlow, object.ErrHeavy,
		object.ErrDamaged,
	} {
		if errors.Is(err, reason) {
			return reason
		}
	}
	return err
}

// IsFolder tells whether a file is a zipped folder of documents.
func IsFolder(name string, b []byte) bool { return kindOf(name, b) == isFolder }

// Folder lists the documents of a zipped folder; what cannot be brought in is left out
// and named in skipped.
func Folder(b []byte) (files []Source, skipped []string, err error) {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, nil, errors.New("this folder cannot be opened: zip it again")
	}
	total := int64(0)
	for _, f := range z.File {
		base := path.Base(f.Name)
		if f.FileInfo().IsDir() || strings.HasPrefix(base, ".") || strings.HasPrefix(f.Name, "__MACOSX/") {
			continue
		}
		if len(files) == MaxFolder {
			return nil, nil, fmt.Errorf("this folder has more than %d documents: split it", MaxFolder)
		}
		if f.UncompressedSize64 > MaxBytes {
			skipped = append(skipped, f.Name+" (too large)")
			continue
		}
		r, err := f.Open()
		if err != nil {
			skipped = append(skipped, f.Name+" (cannot be unpacked)")
			continue
		}
		content, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
		_ = r.Close()
		if err != nil || len(content) > MaxBytes {
			skipped = append(skipped, f.Name+" (cannot be unpacked)")
			continue
		}
		if total += int64(len(content)); total > maxFolder {
			return nil, nil, errors.New("this folder is too large when unpacked: split it")
		}
		if k := kindOf(f.Name, content); k == unknown || k == isFolder {
			skipped = append(skipped, f.Name+" (not a document)")
			continue
		}
		files = append(files, Source{Name: base, Bytes: content})
	}
	if len(files) == 0 {
		return nil, skipped, errors.New("this folder holds no document that can be brought in: choose another")
	}
	return files, skipped, nil
}

// TitleOf makes a title of a file name: "berth-application.pdf" is "Berth application".
func TitleOf(name string) string {
	base := path.Base(strings.ReplaceAll(name, `\`, "/"))
	base = strings.TrimSuffix(base, path.Ext(base))
	base = strings.Join(strings.FieldsFunc(base, func(r rune) bool { return r == '-' || r == '_' || unicode.IsSpace(r) }), " ")
	if base == "" || base == "." || base == "/" {
		return "Document without a name"
	}
	r := []rune(base)
	r[0] = unicode.ToUpper(r[0])
	return string(r)
}
