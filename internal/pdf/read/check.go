package read

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"regexp"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/object"
)

// Health is the outcome of looking a file over before it is used.
type Health struct {
	Pages    []form.Page
	Fields   int    // widgets that the file has already
	Title    string // from the information dictionary
	Repaired bool   // the file was damaged and could be mended
	Unlocked bool   // the file was locked with the password that was given
	Bytes    []byte // the file to work on: src itself, or the mended one

	NoChange, NoFilling bool // its owner forbids it, and it was not opened with the owner's password
}

// Change is nil where the file may be changed, and says what to do otherwise.
func (h Health) Change() error {
	if h.NoChange {
		return object.ErrNoChange
	}
	return nil
}

// Fill is nil where the file may be filled in.
func (h Health) Fill() error {
	if h.NoFilling {
		return object.ErrNoFilling
	}
	return nil
}

// Check looks a file over. A file that one reader opens but whose objects cannot
// be parsed, or whose cross-reference does not fit, is repaired by writing it
// afresh; the result says so. The error says why a file cannot be used.
func Check(ctx context.Context, src []byte) (Health, error) { return CheckWith(ctx, src, "") }

// CheckWith looks over a file that may be locked. One that needs the password is
// unlocked: the file to work on is a copy without it.
func CheckWith(ctx context.Context, src []byte, password string) (Health, error) {
	h, err := open(ctx, src, "", false)
	if password != "" && (errors.Is(err, object.ErrEncrypted) || err == nil && errors.Join(h.Change(), h.Fill()) != nil) {
		switch h, err = open(ctx, src, password, true); {
		case errors.Is(err, object.ErrEncrypted):
			return Health{}, object.ErrPassword
		case err != nil:
			return Health{}, err
		}
		h.Unlocked = true
		return rewritten(h)
	}
	if errors.Is(err, object.ErrDamaged) { // cut off: the end that names the catalog is lost
		if whole := withTrailer(src); whole != nil {
			h, err = open(ctx, whole, "", true)
			h.Repaired = true
		}
	}
	if err != nil {
		return Health{}, err
	}
	if !h.Repaired {
		if h.Bytes != nil && wholeTail(src) {
			if ws, err := checkObjects(src, len(h.Pages)); err == nil {
				h.Fields = len(ws)
				return h, nil
			}
		}
		if h, err = open(ctx, src, "", true); err != nil {
			return Health{}, err
		}
		h.Repaired = true
	}
	return rewritten(h)
}

// open begins the outcome of looking a file over, with what its owner forbids. It has the bytes of the file when its objects can be
// parsed as they are, or those of the file written afresh, where that is asked.
func open(ctx context.Context, src []byte, password string, afresh bool) (h Health, err error) {
	err = engine.UseWith(ctx, src, password, func(d *engine.Doc) (err error) {
		change, fill := d.May()
		h = Health{Pages: d.Pages(), Title: d.Title(), NoChange: !change, NoFilling: !fill}
		if !afresh {
			switch err := d.Parse(); { // there first, where it can do no harm
			case errors.Is(err, object.ErrHeavy), errors.Is(err, object.ErrSlow):
				return err
			case err == nil:
				h.Bytes = src
			}
			return nil
		}
		if h.Bytes, err = d.Save(); err != nil {
			return err
		}
		return nil
	})
	return h, err
}

// rewritten finishes the outcome for a file that was written afresh.
func rewritten(h Health) (Health, error) {
	ws, err := checkObjects(h.Bytes, len(h.Pages))
	if err != nil {
		return Health{}, fmt.Errorf("%w (%v)", object.ErrDamaged, err)
	}
	h.Fields = len(ws)
	return h, nil
}

var catalogObject = regexp.MustCompile(`(?s)(\d+)\s+(\d+)\s+obj\s*<<[^<>]*/Type\s*/Catalog\b`)

// withTrailer gives a file that lost its end a trailer that names its last catalog
// (ISO 32000-2, 7.5.5); nil when it has none in the clear.
func withTrailer(src []byte) []byte {
	all := catalogObject.FindAllSubmatch(src, -1)
	if len(all) == 0 {
		return nil
	}
	last := all[len(all)-1]
	return fmt.Appendf(bytes.Clone(src), "\ntrailer\n<< /Root %s %s R >>\nstartxref\n0\n%%%%EOF\n", last[1], last[2])
}

func checkObjects(b []byte, pages int) (_ []Widget, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	if len(f.Pages) != pages {
		return nil, fmt.Errorf("one reader counts %d pages, the other %d", pages, len(f.Pages))
	}
	return WidgetsOf(f)
}

// wholeTail tells whether the file ends as a PDF must (ISO 32000-2, 7.5.5):
// startxref with an offset at which a cross-reference section really is.
func wholeTail(b []byte) bool {
	tail := b[max(0, len(b)-1024):]
	i := bytes.LastIndex(tail, []byte("startxref"))
	if i < 0 || !bytes.Contains(tail[i:], []byte("%%EOF")) {
		return false
	}
	var offset int
	if _, err := fmt.Sscan(string(tail[i+len("startxref"):]), &offset); err != nil || offset <= 0 || offset >= len(b) {
		return false
	}
	head := bytes.Index(b, []byte("%PDF-")) // offsets count from the header
	at := bytes.TrimLeft(b[min(len(b), offset+max(0, head)):], "\r\n\t \x00")
	if bytes.HasPrefix(at, []byte("xref")) {
		return true
	}
	var n, g int
	var word string
	_, err := fmt.Sscan(string(at[:min(40, len(at))]), &n, &g, &word)
	return err == nil && word == "obj"
}
