package object

import (
	"bytes"
	"cmp"
	"compress/zlib"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/filter"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/geom"
)

// AppendContent draws more on a page, after what is there, in a graphics state
// of its own.
func (f *File) AppendContent(p PageObject, content string) error {
	before, err := f.Stream([]byte("q\n"), nil)
	if err != nil {
		return err
	}
	after, err := f.Stream([]byte("\nQ\n"+content), nil)
	if err != nil {
		return err
	}
	o := Entry(p.Dict, "Contents")
	list := f.Array(o)
	if list == nil && o != nil {
		list = types.Array{o}
	}
	p.Dict.Update("Contents", append(append(types.Array{before}, list...), after))
	return nil
}

// ContentName puts a name into content syntax.
func ContentName(s string) string { return "/" + types.EncodeName(strings.ReplaceAll(s, " ", "_")) }

func (f *File) Indirect(o types.Object) (types.IndirectRef, error) { return f.Add(o) }

func Entry(d types.Dict, key string) types.Object {
	o, _ := d.Find(key)
	return o
}

func init() { api.DisableConfigDir() }

// File is a parsed PDF whose objects can be read and changed; what was changed
// is written as one increment after the original bytes.
type File struct {
	Ctx   *model.Context
	Src   []byte
	dirty []int // numbers of new and changed objects
	Pages []PageObject
}

type PageObject struct {
	Dict   types.Dict
	Ref    types.IndirectRef
	Origin geom.Point
	Box    geom.Rect // what is visible, in user space
	Media  geom.Rect // the media and the crop box as the file has them, not rounded
	Crop   geom.Rect
	Rotate int
	Inh    types.Dict // inherited resources
}

// limits hold what a file may unpack to. Form files have object streams of some hundred objects; 48 MB of them unpacked is more than
// any of 800 public forms has (common practice, no source).
var limits = model.ResourceLimits{
	MaxStreamBytes: 64 << 20, MaxDecodeBytes: 48 << 20, MaxImagePixels: 100 << 20, MaxImageBytes: 300 << 20, MaxObjectCount: 1_000_000,
	MaxObjectStreamCount: 100_000, MaxObjectStreamFirst: 4 << 20, MaxXRefEntries: 1_000_000, MaxRecursionDepth: 100,
}

// Parse reads the objects of a PDF file without validating or changing them.
func Parse(b []byte) (f *File, err error) {
	defer func() {
		if r := recover(); r != nil { // the parser panics on some broken files
			f, err = nil, fmt.Errorf("%w (%v)", ErrDamaged, r)
		}
	}()
	conf := model.NewDefaultConfiguration()
	conf.Offline = true
	conf.Limits = limits
	ctx, err := api.ReadContext(bytes.NewReader(b), conf)
	if err != nil {
		if msg := strings.ToLower(err.Error()); strings.Contains(msg, "password") || strings.Contains(msg, "encrypt") {
			return nil, ErrEncrypted
		}
		if errors.Is(err, filter.ErrDecodeLimitExceeded) || strings.Contains(err.Error(), "limit") {
			return nil, fmt.Errorf("%w (%v)", ErrHeavy, err)
		}
		return nil, fmt.Errorf("%w (%v)", ErrDamaged, err)
	}
	if err := ctx.EnsurePageCount(); err != nil {
		return nil, fmt.Errorf("%w (%v)", ErrDamaged, err)
	}
	if ctx.PageCount > MaxPages {
		return nil, ManyPages(ctx.PageCount)
	}
	f = &File{Ctx: ctx, Src: b}
	for n := 1; n <= ctx.PageCount; n++ {
		d, ref, inh, err := ctx.PageDict(n, false)
		if err != nil || d == nil || ref == nil {
			return nil, fmt.Errorf("page %d: %w", n, ErrDamaged)
		}
		p := PageObject{Dict: d, Ref: *ref, Rotate: ((inh.Rotate % 360) + 360) % 360, Inh: inh.Resources}
		box := inh.MediaBox
		if box != nil {
			p.Media = geom.R(box.LL.X, box.LL.Y, box.UR.X, box.UR.Y)
		}
		if inh.CropBox != nil {
			box = inh.CropBox
			if m := inh.MediaBox; m != nil { // the crop box is cut to the media box (ISO 32000-2, 14.11.2)
				box = types.NewRectangle(max(box.LL.X, m.LL.X), max(box.LL.Y, m.LL.Y), min(box.UR.X, m.UR.X), min(box.UR.Y, m.UR.Y))
			}
		}
		if box != nil {
			p.Crop = geom.R(box.LL.X, box.LL.Y, box.UR.X, box.UR.Y)
			p.Box = p.Crop.Rounded()
			p.Origin = geom.Point{X: p.Box.X0, Y: p.Box.Y0}
		}
		f.Pages = append(f.Pages, p)
	}
	if len(f.Pages) == 0 {
		return nil, ErrNoPages
	}
	return f, nil
}

// Touch marks an object as changed.
func (f *File) Touch(ref types.IndirectRef) {
	if n := ref.ObjectNumber.Value(); !slices.Contains(f.dirty, n) {
		f.dirty = append(f.dirty, n)
	}
}

// Add makes a new indirect object, with a number that was never used: some readers
// do not take a freed number that is used again in an update.
func (f *File) Add(o types.Object) (types.IndirectRef, error) {
	for {
		if _, used := f.Ctx.Table[*f.Ctx.Size]; !used {
			break
		}
		*f.Ctx.Size++
	}
	n, err := f.Ctx.InsertObject(o)
	if err != nil {
		return types.IndirectRef{}, err
	}
	f.dirty = append(f.dirty, n)
	return *types.NewIndirectRef(n, 0), nil
}

// Stream makes a new compressed stream object with the given further entries.
func (f *File) Stream(content []byte, entries types.Dict) (types.IndirectRef, error) {
	sd, err := f.Ctx.NewStreamDictForBuf(content)
	if err != nil {
		return types.IndirectRef{}, err
	}
	for k, v := range entries {
		sd.Update(k, v)
	}
	if sd.Raw, err = deflated(content); err != nil {
		return types.IndirectRef{}, err
	}
	n := int64(len(sd.Raw))
	sd.StreamLength = &n
	sd.Update("Length", types.Integer(n))
	return f.Add(*sd)
}

// writers are kept, since one takes more room than most streams of a form.
var writers = sync.Pool{New: func() any { return zlib.NewWriter(io.Discard) }}

// deflated is content with the filter FlateDecode (ISO 32000-2, 7.4.4).
func deflated(content []byte) ([]byte, error) {
	w, _ := writers.Get().(*zlib.Writer)
	defer writers.Put(w)
	var b bytes.Buffer
	w.Reset(&b)
	if _, err := w.Write(content); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// Increment writes the original bytes followed by everything that was touched.
func (f *File) Increment() ([]byte, error) {
	var out bytes.Buffer
	out.Grow(len(f.Src) + 4096*len(f.dirty))
	out.Write(f.Src)
	if n := len(f.Src); n > 0 && f.Src[n-1] != '\n' {
		out.WriteByte('\n')
	}
	if len(f.dirty) == 0 {
		return f.Src, nil
	}
	ctx := f.Ctx
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

// Dict follows o to a dictionary; nil when it is none.
func (f *File) Dict(o types.Object) types.Dict {
	o, err := f.Ctx.Dereference(o)
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

func (f *File) Array(o types.Object) types.Array {
	o, err := f.Ctx.Dereference(o)
	if err != nil {
		return nil
	}
	a, _ := o.(types.Array)
	return a
}

func (f *File) Name(o types.Object) string {
	o, err := f.Ctx.Dereference(o)
	if err != nil {
		return ""
	}
	n, _ := o.(types.Name) // decoded when it was read, and encoded when it is written
	return string(n)
}

func (f *File) Integer(o types.Object) int {
	if o == nil {
		return 0
	}
	v, err := f.Ctx.DereferenceNumber(o)
	if err != nil {
		return 0
	}
	return int(v)
}

// Number reads a number; 0 when it is none.
func (f *File) Number(o types.Object) float64 {
	if o == nil {
		return 0
	}
	v, err := f.Ctx.DereferenceNumber(o)
	if err != nil {
		return 0
	}
	return v
}

// Text decodes a text string (ISO 32000-2, 7.9.2.2), or the content of a stream
// that stands in for one.
func (f *File) Text(o types.Object) string {
	o, err := f.Ctx.Dereference(o)
	if err != nil || o == nil {
		return ""
	}
	switch o := o.(type) {
	case types.StringLiteral, types.HexLiteral:
		return StringText(o)
	case types.Name:
		return f.Name(o)
	case types.StreamDict:
		return f.streamText(&o)
	case *types.StreamDict:
		return f.streamText(o)
	}
	return ""
}

// StringText decodes a text string that stands by itself; empty when it is none.
func StringText(o types.Object) string {
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
	}
	return ""
}

// maxText is how long a text may be that stands in a stream, in bytes: scripts of whole documents have been seen with one million.
const maxText = 8 << 20

func (f *File) streamText(sd *types.StreamDict) string {
	if err := sd.DecodeWithLimit(maxText); err != nil {
		return ""
	}
	return utf8Text(string(sd.Content))
}

func utf8Text(s string) string { return strings.TrimPrefix(s, "\xef\xbb\xbf") }

// Rect reads a rectangle (ISO 32000-2, 7.9.5) in any corner order.
func (f *File) Rect(o types.Object) (geom.Rect, bool) {
	a := f.Array(o)
	if len(a) != 4 {
		return geom.Rect{}, false
	}
	var v [4]float64
	for i := range v {
		x, err := f.Ctx.DereferenceNumber(a[i])
		if err != nil {
			return geom.Rect{}, false
		}
		v[i] = x
	}
	return geom.R(v[0], v[1], v[2], v[3]), true
}

// Matrix reads a transform; identity when there is none.
func (f *File) Matrix(o types.Object) geom.Matrix {
	a := f.Array(o)
	if len(a) != 6 {
		return geom.Identity
	}
	var m geom.Matrix
	for i := range m {
		v, err := f.Ctx.DereferenceNumber(a[i])
		if err != nil {
			return geom.Identity
		}
		m[i] = v
	}
	return m
}

// PageXObject adds a form XObject to the resources of a page. Inherited and
// shared resource dictionaries are copied first, so that no other page changes.
func (f *File) PageXObject(i int, name string, ref types.IndirectRef) error {
	p := f.Pages[i]
	from := f.Dict(Entry(p.Dict, "Resources"))
	if from == nil {
		from = p.Inh
	}
	res := types.Dict{}
	for k, v := range from {
		res[k] = v
	}
	xo := types.Dict{}
	for k, v := range f.Dict(Entry(res, "XObject")) {
		xo[k] = v
	}
	xo[name] = ref
	res["XObject"] = xo
	p.Dict.Update("Resources", res)
	f.Touch(p.Ref)
	return nil
}

// Catalog is the document catalog; changing it needs touchCatalog.
func (f *File) Catalog() (types.Dict, error) {
	d, err := f.Ctx.Catalog()
	if err != nil || d == nil {
		return nil, ErrDamaged
	}
	return d, nil
}

func (f *File) TouchCatalog() error {
	if f.Ctx.Root == nil {
		return ErrDamaged
	}
	f.Touch(*f.Ctx.Root)
	return nil
}

// Str is a text string object: PDFDocEncoding where ASCII suffices, UTF-16BE
// with a byte order mark otherwise (ISO 32000-2, 7.9.2.2).
func Str(s string) types.Object {
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
	return types.StringLiteral(Escape(s))
}

func Escape(s string) string {
	return strings.NewReplacer(`\`, `\\`, `(`, `\(`, `)`, `\)`, "\r", `\r`, "\n", `\n`).Replace(s)
}

// ASCII tells whether readers agree on a name that says s: names have no encoding (ISO 32000-2, 7.3.5).
func ASCII(s string) bool {
	return strings.IndexFunc(s, func(r rune) bool { return r > 126 || r < 32 }) < 0
}

// NameOf is a name object; what it needs encoded is encoded when it is written (ISO 32000-2, 7.3.5).
func NameOf(s string) types.Name { return types.Name(s) }

func Num(v float64) types.Object { return types.Float(geom.Round(v)) }

func RectArray(r geom.Rect) types.Array {
	return types.Array{Num(r.X0), Num(r.Y0), Num(r.X1), Num(r.Y1)}
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
