package write

import (
	"fmt"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Sources gives what the pages of a draft refer to.
type Sources struct {
	// File reads a file by the SHA-256 that pages name.
	File func(sha string) ([]byte, error)
	// Text reads the recognised words of a page by [form.Page.Text].
	Text func(sha string) (evidence.Text, error)
}

// Base makes the PDF that the fields of a draft are written into, and gives the
// draft as it refers to that PDF: pages numbered there, fields tied to its objects.
//
// When the pages are those of one file, all of them, in order and as they lie
// there, with nothing to leave behind or to add, the base is that file, byte for
// byte. Otherwise it is a new file with only what the draft uses: pages laid as the
// draft says, and the recognised words as invisible text.
func Base(t *form.Template, src Sources) (base []byte, as *form.Template, err error) {
	defer object.Recovered(&err)
	if len(t.Pages) == 0 {
		return nil, nil, object.ErrNoPages
	}
	first, err := src.File(t.Pages[0].File)
	if err != nil {
		return nil, nil, err
	}
	if untouched(t) {
		f, err := object.Parse(first)
		if err != nil {
			return nil, nil, err
		}
		if whole(f, t) {
			return first, t, nil
		}
	}
	a := assembler{
		src: src, files: map[string]*object.File{}, memo: map[objectKey]int{}, objects: [][]byte{nil},
		leave: read.LeaveSet(t.Details.Leave),
	}
	return a.assemble(t)
}

// untouched tells whether the draft's pages can be one whole file.
func untouched(t *form.Template) bool {
	if t.Details.Leave != "" {
		return false
	}
	for i, p := range t.Pages {
		if p.File != t.Pages[0].File || p.N != i+1 || !p.AsIs() || p.Text != "" {
			return false
		}
	}
	return true
}

// whole tells whether the draft's pages are all those of a file, as they lie there.
func whole(f *object.File, t *form.Template) bool {
	return untouched(t) && len(f.Pages) == len(t.Pages) && laidAs(f, t.Pages)
}

// laidAs tells whether the pages have the turns that the draft says.
func laidAs(f *object.File, pages []form.Page) bool {
	for i, p := range pages {
		if f.Pages[i].Rotate != p.Rotate {
			return false
		}
	}
	return true
}

type objectKey struct {
	file *object.File
	n    int
}

// assembler copies what is used of several files into one new file.
type assembler struct {
	src     Sources
	files   map[string]*object.File
	memo    map[objectKey]int // where an object was copied to
	pages   map[objectKey]int // where the first copy of a page is
	fields  map[objectKey]bool
	queue   []objectKey
	objects [][]byte // by number, from 1
	leave   map[string]bool
	wide    int
	used    []rune
	drop    map[objectKey]bool
	stay    map[objectKey]bool        // widgets that are no rows of the draft, and go with their page
	moved   map[objectKey]geom.Matrix // those of them on pages that are laid anew
}

func (a *assembler) reserve() int {
	a.objects = append(a.objects, nil)
	return len(a.objects) - 1
}

func (a *assembler) put(n int, o types.Object) { a.objects[n] = []byte(o.PDFString()) }

func (a *assembler) add(o types.Object) types.IndirectRef {
	n := a.reserve()
	a.put(n, o)
	return *types.NewIndirectRef(n, 0)
}

func (a *assembler) Stream(content []byte, d types.Dict) (types.IndirectRef, error) {
	n := a.reserve()
	b, err := packed(content, d)
	a.objects[n] = b
	return *types.NewIndirectRef(n, 0), err
}

func (a *assembler) open(sha string) (*object.File, error) {
	if f, ok := a.files[sha]; ok {
		return f, nil
	}
	b, err := a.src.File(sha)
	if err != nil {
		return nil, err
	}
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	a.files[sha] = f
	return f, nil
}

func (a *assembler) assemble(t *form.Template) ([]byte, *form.Template, error) {
	root, tree := a.reserve(), a.reserve()
	a.pages, a.fields, a.drop = map[objectKey]int{}, map[objectKey]bool{}, map[objectKey]bool{}
	a.stay, a.moved = map[objectKey]bool{}, map[objectKey]geom.Matrix{}
	type sheet struct {
		as   form.Page
		key  objectKey
		n    int
		copy bool // of a page that is there already
	}
	var sheets []sheet
	var base *object.File
	for _, p := range t.Pages {
		f, err := a.open(p.File)
		if err != nil {
			return nil, nil, err
		}
		if p.N < 1 || p.N > len(f.Pages) {
			return nil, nil, fmt.Errorf("the file of a page has no page %d: %w", p.N, object.ErrDamaged)
		}
		if base == nil {
			base = f
		}
		s := sheet{as: p, key: objectKey{f, f.Pages[p.N-1].Ref.ObjectNumber.Value()}, n: a.reserve()}
		if _, there := a.pages[s.key]; there {
			s.copy = true
		} else {
			a.pages[s.key] = s.n
		}
		sheets = append(sheets, s)
	}
	// A whole file goes first: the base is the one with the most pages.
	count := map[*object.File]int{}
	for _, s := range sheets {
		if count[s.key.file]++; count[s.key.file] > count[base] {
			base = s.key.file
		}
	}
	forms, err := a.keepFields(t)
	if err != nil {
		return nil, nil, err
	}
	kids := types.Array{}
	for _, s := range sheets {
		if err := a.page(s.as, s.key.file, s.n, tree, s.copy, base); err != nil {
			return nil, nil, err
		}
		kids = append(kids, *types.NewIndirectRef(s.n, 0))
	}
	a.put(tree, types.Dict{"Type": types.Name("Pages"), "Kids": kids, "Count": types.Integer(len(kids))})
	cat, err := a.catalog(base, tree, forms)
	if err != nil {
		return nil, nil, err
	}
	info := types.Dict{}
	if base.Ctx.Info != nil && !a.leave[read.LeaveMetadata] {
		for k, v := range base.Dict(*base.Ctx.Info) {
			info[k] = a.copy(base, v)
		}
	}
	infoRef := a.add(info)
	a.put(root, cat)
	if err := a.drain(); err != nil {
		return nil, nil, err
	}
	if a.wide > 0 {
		if err := a.font(); err != nil {
			return nil, nil, err
		}
	}
	return a.bytes(root, infoRef), a.referring(t, sheetNumbers(len(sheets))), nil
}

func sheetNumbers(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i + 1
	}
	return out
}

// referring is the draft as the new file has it.
func (a *assembler) referring(t *form.Template, numbers []int) *form.Template {
	out := *t
	out.Pages = slices.Clone(t.Pages)
	out.Fields = slices.Clone(t.Fields)
	for i := range out.Fields {
		f := &out.Fields[i]
		if f.Origin == nil {
			continue
		}
		o := *f.Origin
		o.Object = a.memo[objectKey{a.files[t.Pages[f.Page-1].File], o.Object}]
		f.Origin = &o
	}
	if a.leave[read.LeaveActions] { // scripts that came with a file; those that were added here stay
		for _, file := range a.files {
			for _, came := range read.ForeignEvents(file) {
				out.Details.Events = slices.DeleteFunc(slices.Clone(out.Details.Events), func(s form.Step) bool {
					return s.Do == form.RunScript && s.When == came.When && s.Script == came.Script
				})
			}
		}
	}
	for i := range out.Pages {
		p := &out.Pages[i]
		p.File, p.N, p.Place, p.Text = "", numbers[i], geom.Matrix{}, ""
	}
	return &out
}

// pageKey is a page of a file, from 1.
type pageKey struct {
	file *object.File
	n    int
}

// keepFields finds the fields of the files whose widgets the draft still has, or that no row of a draft can be, with
// their ancestors, and gives the files that have such fields.
func (a *assembler) keepFields(t *form.Template) ([]*object.File, error) {
	alive := map[objectKey]bool{}
	for _, x := range t.Fields {
		if x.Origin != nil {
			alive[objectKey{a.files[t.Pages[x.Page-1].File], x.Origin.Object}] = true
		}
	}
	used := map[pageKey]bool{}
	for _, p := range t.Pages {
		used[pageKey{a.files[p.File], p.N}] = true
	}
	var forms []*object.File
	for _, p := range t.Pages {
		f := a.files[p.File]
		if slices.Contains(forms, f) {
			continue
		}
		ws, err := read.WidgetsOf(f)
		if err != nil {
			return nil, err
		}
		forms = append(forms, f)
		for _, w := range ws {
			if len(w.Refs) == 0 {
				continue
			}
			own := objectKey{f, w.Refs[0].ObjectNumber.Value()}
			stays := read.Rowless(f, w) && (w.Page == 0 || used[pageKey{f, w.Page}]) // nobody could take it out
			if !alive[own] && !stays {
				a.drop[own] = true
				continue
			}
			a.stay[own] = !alive[own]
			for _, r := range w.Refs {
				a.fields[objectKey{f, r.ObjectNumber.Value()}] = true
			}
		}
	}
	return forms, nil
}

// page writes one page of the draft.
func (a *assembler) page(as form.Page, f *object.File, n, tree int, again bool, base *object.File) error {
	p := f.Pages[as.N-1]
	d := types.Dict{}
	for k, v := range p.Dict {
		switch k {
		case "Parent", "Annots", "B", "Resources", "MediaBox", "CropBox", "Rotate", "Contents":
		case "StructParents":
			if f == base && !again {
				d[k] = v
			}
		case "Metadata", "PieceInfo", "LastModified":
			if !a.leave[read.LeaveMetadata] {
				d[k] = a.copy(f, v)
			}
		case "AA":
			if a.leave[read.LeaveActions] {
				d[k] = a.harmless(f, v, false)
			} else {
				d[k] = a.copy(f, v)
			}
		case "AF":
			if !a.leave[read.LeaveAttachments] {
				d[k] = a.copy(f, v)
			}
		default:
			d[k] = a.copy(f, v)
		}
	}
	d["Parent"] = *types.NewIndirectRef(tree, 0)
	if as.Rotate != 0 {
		d["Rotate"] = types.Integer(as.Rotate)
	}
	res := object.Entry(p.Dict, "Resources")
	if res == nil && p.Inh != nil {
		res = p.Inh
	}
	var resources types.Object = types.Dict{}
	if res != nil {
		resources = a.copy(f, res)
	}
	// m takes user space to the space of the draft's page.
	m := geom.Matrix{1, 0, 0, 1, -p.Origin.X, -p.Origin.Y}.Then(as.Placing())
	contents := a.contents(f, object.Entry(p.Dict, "Contents"))
	if as.AsIs() {
		m = geom.Identity
		d["MediaBox"] = exactly(p.Media)
		if p.Media != p.Crop {
			d["CropBox"] = exactly(p.Crop)
		}
	} else {
		for _, k := range []string{"BleedBox", "TrimBox", "ArtBox"} {
			d.Delete(k)
		}
		d["MediaBox"] = object.RectArray(geom.Rect{X1: as.Width, Y1: as.Height})
		before, err := a.Stream([]byte("q\n"+cm(m)), nil)
		if err != nil {
			return err
		}
		after, err := a.Stream([]byte("\nQ\n"), nil)
		if err != nil {
			return err
		}
		contents = slices.Concat(types.Array{before}, contents, types.Array{after})
	}
	if as.Text != "" && a.src.Text != nil {
		text, err := a.src.Text(as.Text)
		if err != nil {
			return err
		}
		if len(text.Words) > 0 {
			layer, err := a.textLayer(text, as, p.Origin)
			if err != nil {
				return err
			}
			resources = a.withFont(f, res, resources)
			contents = slices.Concat(contents, types.Array{layer})
		}
	}
	d["Resources"] = resources
	if len(contents) > 0 {
		d["Contents"] = contents
	}
	if annots := a.annots(f, p, m, as, again); len(annots) > 0 {
		d["Annots"] = annots
	}
	a.put(n, d)
	return nil
}

// exactly writes a box without rounding it, so that the page looks the same to the pixel.
func exactly(r geom.Rect) types.Array {
	return types.Array{types.Float(r.X0), types.Float(r.Y0), types.Float(r.X1), types.Float(r.Y1)}
}

func cm(m geom.Matrix) string {
	return fmt.Sprintf("%.6f %.6f %.6f %.6f %.4f %.4f cm\n", m[0], m[1], m[2], m[3], m[4], m[5])
}

func (a *assembler) contents(f *object.File, o types.Object) types.Array {
	if o == nil {
		return nil
	}
	if list := f.Array(o); list != nil {
		var out types.Array
		for _, x := range list {
			out = append(out, a.copy(f, x))
		}
		return out
	}
	return types.Array{a.copy(f, o)}
}

func (a *assembler) annots(f *object.File, p object.PageObject, m geom.Matrix, as form.Page, again bool) types.Array {
	var out types.Array
	for _, o := range f.Array(object.Entry(p.Dict, "Annots")) {
		d := f.Dict(o)
		if d == nil {
			continue
		}
		kind := f.Name(object.Entry(d, "Subtype"))
		ref, isRef := o.(types.IndirectRef)
		switch {
		case kind == "Widget":
			if again || isRef && a.drop[objectKey{f, ref.ObjectNumber.Value()}] || !isRef {
				continue
			}
			if own := (objectKey{f, ref.ObjectNumber.Value()}); a.stay[own] && !as.AsIs() {
				a.moved[own] = m
			}
			out = append(out, a.copy(f, o))
			continue
		case slices.Contains(read.Comments, kind) && a.leave[read.LeaveComments],
			kind == "FileAttachment" && a.leave[read.LeaveAttachments]:
			continue
		case as.AsIs() && !again:
			out = append(out, a.copy(f, o))
			continue
		}
		c := types.Dict{}
		for k, v := range d {
			if a.harms(f, k, v, false) || k == "P" || k == "Popup" || k == "Parent" || k == "QuadPoints" && !as.AsIs() {
				continue
			}
			c[k] = a.copy(f, v)
		}
		if r, ok := f.Rect(object.Entry(d, "Rect")); ok {
			c["Rect"] = object.RectArray(r.Apply(m))
		}
		out = append(out, a.add(c))
	}
	return out
}

func (a *assembler) Indirect(o types.Object) (types.IndirectRef, error) { return a.add(o), nil }
