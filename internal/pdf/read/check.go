package read

import (
	"bytes"
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
func Check(src []byte) (Health, error) { return CheckWith(src, "") }

// CheckWith looks over a file that may be locked. One that needs the password is
// unlocked: the file to work on is a copy without it.
func CheckWith(src []byte, password string) (Health, error) {
	d, err := engine.Open(src)
	if password != "" && (errors.Is(err, object.ErrEncrypted) || err == nil && forbidden(d) != nil) {
		if err == nil {
			d.Close()
		}
		if d, err = engine.OpenWith(src, password); errors.Is(err, object.ErrEncrypted) {
			return Health{}, object.ErrPassword
		}
		if err != nil {
			return Health{}, err
		}
		return unlocked(d)
	}
	if errors.Is(err, object.ErrDamaged) { // cut off: the end that names the catalog is lost
		if whole := withTrailer(src); whole != nil {
			d, err = engine.Open(whole)
		}
	}
	if err != nil {
		return Health{}, err
	}
	h := seen(d)
	h.Bytes = src
	ws, perr := checkObjects(src, len(h.Pages))
	if perr == nil && wholeTail(src) {
		h.Fields = len(ws)
		d.Close()
		return h, nil
	}
	fresh, serr := d.Save()
	d.Close()
	if serr != nil {
		return Health{}, object.ErrDamaged
	}
	ws, err = checkObjects(fresh, len(h.Pages))
	if err != nil {
		return Health{}, fmt.Errorf("%w (%v)", object.ErrDamaged, err)
	}
	h.Bytes, h.Repaired, h.Fields = fresh, true, len(ws)
	return h, nil
}

// seen begins the outcome of looking over an opened file, with what its owner forbids.
func seen(d *engine.Doc) Health {
	change, fill := d.May()
	return Health{Pages: d.Pages(), Title: d.Title(), NoChange: !change, NoFilling: !fill}
}

// forbidden is an error where the owner of an opened file forbids to change it or to fill it in.
func forbidden(d *engine.Doc) error {
	h := seen(d)
	return errors.Join(h.Change(), h.Fill())
}

// unlocked writes an opened file without its encryption.
func unlocked(d *engine.Doc) (Health, error) {
	h := seen(d)
	h.Unlocked = true
	fresh, err := d.Save()
	d.Close()
	if err != nil {
		return Health{}, object.ErrDamaged
	}
	ws, err := checkObjects(fresh, len(h.Pages))
	if err != nil {
		return Health{}, fmt.Errorf("%w (%v)", object.ErrDamaged, err)
	}
	h.Bytes, h.Fields = fresh, len(ws)
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

func checkObjects(b []byte, pages int) ([]Widget, error) {
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
