package pdf

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/geom"
)

func init() { api.DisableConfigDir() }

// file is a parsed PDF whose objects can be read and changed; what was changed
// is written as one increment after the original bytes.
type file struct {
	ctx   *model.Context
	src   []byte
	dirty []int // numbers of new and changed objects
	pages []pageObject
}

type pageObject struct {
	dict   types.Dict
	ref    types.IndirectRef
	origin geom.Point
	box    geom.Rect // what is visible, in user space
	media  geom.Rect // the media and the crop box as the file has them, not rounded
	crop   geom.Rect
	rotate int
	inh    types.Dict // inherited resources
}

// parse reads the objects of a PDF file without validating or changing them.
func parse(b []byte) (f *file, err error) {
	defer func() {
		if r := recover(); r != nil { // the parser panics on some broken files
			f, err = nil, fmt.Errorf("%w (%v)", ErrDamaged, r)
		}
	}()
	conf := model.NewDefaultConfiguration()
	conf.Offline = true
	ctx, err := api.ReadContext(bytes.NewReader(b), conf)
	if err != nil {
		if msg := strings.ToLower(err.Error()); strings.Contains(msg, "password") || strings.Contains(msg, "encrypt") {
			return nil, ErrEncrypted
		}
		return nil, fmt.Errorf("%w (%v)", ErrDamaged, err)
	}
	if err := ctx.EnsurePageCount(); err != nil {
		return nil, fmt.Errorf("%w (%v)", ErrDamaged, err)
	}
	f = &file{ctx: ctx, src: b}
	for n := 1; n <= ctx.PageCount; n++ {
		d, ref, inh, err := ctx.PageDict(n, false)
		if err != nil || d == nil || ref == nil {
			return nil, fmt.Errorf("page %d: %w", n, ErrDamaged)
		}
		p := pageObject{dict: d, ref: *ref, rotate: ((inh.Rotate % 360) + 360) % 360, inh: inh.Resources}
		box := inh.MediaBox
		if box != nil {
			p.media = geom.R(box.LL.X, box.LL.Y, box.UR.X, box.UR.Y)
		}
		if inh.CropBox != nil {
			box = inh.CropBox
			if m := inh.MediaBox; m != nil { // the crop box is cut to the media box (ISO 32000-2, 14.11.2)
				box = types.NewRectangle(max(box.LL.X, m.LL.X), max(box.LL.Y, m.LL.Y), min(box.UR.X, m.UR.X), min(box.UR.Y, m.UR.Y))
			}
		}
		if box != nil {
			p.crop = geom.R(box.LL.X, box.LL.Y, box.UR.X, box.UR.Y)
			p.box = p.crop.Rounded()
			p.origin = geom.Point{X: p.box.X0, Y: p.box.Y0}
		}
		f.pages = append(f.pages, p)
	}
	if len(f.pages) == 0 {
		return nil, ErrNoPages
	}
	return f, nil
}

// touch marks an object as changed.
func (f *file) touch(ref types.IndirectRef) {
	if n := ref.ObjectNumber.Value(); !slices.Contains(f.dirty, n) {
		f.dirty = append(f.dirty, n)
	}
}

// add makes a new indirect object, with a number that was never used: some readers
// do not take a freed number that is used again in an update.
func (f *file) add(o types.Object) (types.IndirectRef, error) {
	for {
		if _, used := f.ctx.Table[*f.ctx.Size]; !used {
			break
		}
		*f.ctx.Size++
	}
	n, err := f.ctx.InsertObject(o)
	if err != nil {
		return types.IndirectRef{}, err
	}
	f.dirty = append(f.dirty, n)
	return *types.NewIndirectRef(n, 0), nil
}

// stream makes a new compressed stream object with the given further entries.
func (f *file) stream(content []byte, entries types.Dict) (types.IndirectRef, error) {
	sd, err := f.ctx.NewStreamDictForBuf(content)
	if err != nil {
		return types.IndirectRef{}, err
	}
	for k, v := range entries {
		sd.Update(k, v)
	}
	if err := sd.Encode(); err != nil {
		return types.IndirectRef{}, err
	}
	return f.add(*sd)
}

// increment writes the original bytes followed by everything that was touched.
func (f *file) increment() ([]byte, error) {
	var out bytes.Buffer
	out.Grow(len(f.src) + 4096*len(f.dirty))
	out.Write(f.src)
	if n := len(f.src); n > 0 && f.src[n-1] != '\n' {
		out.WriteByte('\n')
	}
	if len(f.dirty) == 0 {
		return f.src, nil
	}
	ctx := f.ctx
	ctx.Write.Increment = true
	ctx.Write.Offset = int64(out.Len())
	ctx.WriteXRefStream = ctx.Read.UsingXRefStreams // a table and a stream never mix (ISO 32000-2, 7.5.8.4)
	ctx.WriteObjectStream = false
	slices.SortFunc(f.dirty, func(a, b int) int { return cmp.Compare(a, b) })
	for _, n := range f.dirty {
		ctx.Write.IncrementWithObjNr(n)
	}
	if err := api.WriteIncrement(ctx, &out); err != nil {
		return nil, fmt.Errorf("the change could not be written: %w", err)
	}
	return out.Bytes(), nil
}

// dict follows o to a dictionary; nil when it is none.
func (f *file) dict(o types.Object) types.Dict {
	o, err := f.ctx.Dereference(o)
	if err != nil {
		return nil
	}
	switch o := o.(type) {
	case types.Dict:
		return o
	case types.StreamDict:
		return o.Dict
	case *types.StreamDict:
		return o.Dict
	}
	return nil
}

func (f *file) array(o types.Object) types.Array {
	o, err := f.ctx.Dereference(o)
	if err != nil {
		return nil
	}
	a, _ := o.(types.Array)
	return a
}

func (f *file) name(o types.Object) string {
	o, err := f.ctx.Dereference(o)
	if err != nil {
		return ""
	}
	n, _ := o.(types.Name)
	if s, err := types.DecodeName(string(n)); err == nil {
		return s
	}
	return string(n)
}

func (f *file) integer(o types.Object) int {
	if o == nil {
		return 0
	}
	v, err := f.ctx.DereferenceNumber(o)
	if err != nil {
		return 0
	}
	return int(v)
}

// number reads a number; 0 when it is none.
func (f *file) number(o types.Object) float64 {
	if o == nil {
		return 0
	}
	v, err := f.ctx.DereferenceNumber(o)
	if err != nil {
		return 0
	}
	return v
}

// text decodes a text string (ISO 32000-2, 7.9.2.2), or the content of a stream
// that stands in for one.
func (f *file) text(o types.Object) string {
	o, err := f.ctx.Dereference(o)
	if err != nil || o == nil {
		return ""
	}
	switch o := o.(type) {
	case types.StringLiteral:
		s, err := types.StringLiteralToString(o)
		if err != nil {
			return string(o)
		}
		return utf8Text(s)
	case types.HexLiteral:
		s, err := types.HexLiteralToString(o)
		if err != nil {
			return ""
		}
		return utf8Text(s)
	case types.Name:
		return f.name(o)
	case types.StreamDict:
		return f.streamText(&o)
	case *types.StreamDict:
		return f.streamText(o)
	}
	return ""
}

func (f *file) streamText(sd *types.StreamDict) string {
	if err := sd.Decode(); err != nil {
		return ""
	}
	return utf8Text(string(sd.Content))
}

func utf8Text(s string) string { return strings.TrimPrefix(s, "\xef\xbb\xbf") }

// rect reads a rectangle (ISO 32000-2, 7.9.5) in any corner order.
func (f *file) rect(o types.Object) (geom.Rect, bool) {
	a := f.array(o)
	if len(a) != 4 {
		return geom.Rect{}, false
	}
	var v [4]float64
	for i := range v {
		x, err := f.ctx.DereferenceNumber(a[i])
		if err != nil {
			return geom.Rect{}, false
		}
		v[i] = x
	}
	return geom.R(v[0], v[1], v[2], v[3]), true
}

// matrix reads a transform; identity when there is none.
func (f *file) matrix(o types.Object) geom.Matrix {
	a := f.array(o)
	if len(a) != 6 {
		return geom.Identity
	}
	var m geom.Matrix
	for i := range m {
		v, err := f.ctx.DereferenceNumber(a[i])
		if err != nil {
			return geom.Identity
		}
		m[i] = v
	}
	return m
}

// pageXObject adds a form XObject to the resources of a page. Inherited and
// shared resource dictionaries are copied first, so that no other page changes.
func (f *file) pageXObject(i int, name string, ref types.IndirectRef) error {
	p := f.pages[i]
	from := f.dict(entry(p.dict, "Resources"))
	if from == nil {
		from = p.inh
	}
	res := types.Dict{}
	for k, v := range from {
		res[k] = v
	}
	xo := types.Dict{}
	for k, v := range f.dict(entry(res, "XObject")) {
		xo[k] = v
	}
	xo[name] = ref
	res["XObject"] = xo
	p.dict.Update("Resources", res)
	f.touch(p.ref)
	return nil
}

// catalog is the document catalog; changing it needs touchCatalog.
func (f *file) catalog() (types.Dict, error) {
	d, err := f.ctx.Catalog()
	if err != nil || d == nil {
		return nil, ErrDamaged
	}
	return d, nil
}

func (f *file) touchCatalog() error {
	if f.ctx.Root == nil {
		return ErrDamaged
	}
	f.touch(*f.ctx.Root)
	return nil
}

// str is a text string object: PDFDocEncoding where ASCII suffices, UTF-16BE
// with a byte order mark otherwise (ISO 32000-2, 7.9.2.2).
func str(s string) types.Object {
	ascii := true
	for _, r := range s {
		if r > 126 || r < 32 && r != '\n' && r != '\r' && r != '\t' {
			ascii = false
			break
		}
	}
	if !ascii {
		return types.NewHexLiteral([]byte(types.EncodeUTF16String(s)))
	}
	return types.StringLiteral(escape(s))
}

func escape(s string) string {
	return strings.NewReplacer(`\`, `\\`, `(`, `\(`, `)`, `\)`, "\r", `\r`, "\n", `\n`).Replace(s)
}

// nameOf encodes a name object.
func nameOf(s string) types.Name { return types.Name(types.EncodeName(s)) }

func num(v float64) types.Object { return types.Float(geom.Round(v)) }

func rectArray(r geom.Rect) types.Array {
	return types.Array{num(r.X0), num(r.Y0), num(r.X1), num(r.Y1)}
}

// Read reads everything from r, up to limit bytes, and refuses more.
func Read(r io.Reader, limit int64) ([]byte, error) {
	b, err := io.ReadAll(io.LimitReader(r, limit+1))
	if err != nil {
		return nil, err
	}
	if int64(len(b)) > limit {
		return nil, ErrTooLarge
	}
	return b, nil
}

// ErrTooLarge is returned by [Read] for a file over the limit.
var ErrTooLarge = errors.New("this file is too large: bring in a smaller one, or split it")
