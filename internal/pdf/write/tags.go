package write

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/outline"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// Tagged says of a form what its parts are, for those who have it read out to them (ISO 32000-2, 14.8; ISO 14289-1, 7): fields are tagged
// as such, in the order of the pages; a file that has no tags of its own gets them for its text, in reading order, with all else said to
// be artifacts. Pages is what is printed on them, and shows what their pictures show, by their number. The title and the language must be
// said in the file. It is an increment.
func Tagged(src []byte, pages map[int]*evidence.Page, shows map[int]string) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	if f.Text(object.Entry(cat, "Lang")) == "" {
		return nil, errors.New("an accessible form says in which language it is: say it in the document details")
	}
	t := tagger{File: f, ws: ws, builder: outline.Builder{}, shows: shows}
	if err := t.begin(cat); err != nil {
		return nil, err
	}
	if t.tagged {
		err = t.fieldsOnly()
	} else {
		err = t.all(pages)
	}
	if err != nil {
		return nil, err
	}
	return t.finish(cat)
}

type tagger struct {
	*object.File
	ws       []read.Widget
	builder  outline.Builder
	shows    map[int]string
	tagged   bool // the file has tags of its own
	root     types.Dict
	rootRef  types.IndirectRef
	document types.IndirectRef
	kids     types.Array // of the document
	next     int         // key in the parent tree
	nums     types.Array
}

func (t *tagger) begin(cat types.Dict) error {
	o := object.Entry(cat, "StructTreeRoot")
	if ref, ok := o.(types.IndirectRef); ok && t.Dict(o) != nil {
		t.tagged, t.root, t.rootRef = true, t.Dict(o), ref
		t.next = t.Integer(object.Entry(t.root, "ParentTreeNextKey"))
		t.next = max(t.next, t.highest(object.Entry(t.root, "ParentTree"), 0)+1)
		return nil
	}
	t.root = types.Dict{"Type": types.Name("StructTreeRoot")}
	var err error
	if t.rootRef, err = t.Add(t.root); err != nil {
		return err
	}
	t.document, err = t.Add(types.Dict{})
	return err
}

// highest is the highest key of a number tree (ISO 32000-2, 7.9.7).
func (t *tagger) highest(o types.Object, depth int) int {
	d := t.Dict(o)
	if d == nil || depth > 32 {
		return -1
	}
	most := -1
	nums := t.Array(object.Entry(d, "Nums"))
	for i := 0; i+1 < len(nums); i += 2 {
		most = max(most, t.Integer(nums[i]))
	}
	for _, k := range t.Array(object.Entry(d, "Kids")) {
		most = max(most, t.highest(k, depth+1))
	}
	return most
}

// fieldTag is the element of a widget.
func (t *tagger) fieldTag(w read.Widget, parent types.IndirectRef) (types.IndirectRef, error) {
	page := t.Pages[w.Page-1].Ref
	ref, err := t.Add(types.Dict{
		"Type": types.Name("StructElem"), "S": types.Name(outline.Form), "P": parent, "Pg": page,
		"K": types.Dict{"Type": types.Name("OBJR"), "Obj": w.Refs[0], "Pg": page},
	})
	if err != nil {
		return ref, err
	}
	w.Dict.Update("StructParent", types.Integer(t.next))
	t.Touch(w.Refs[0])
	t.nums = append(t.nums, types.Integer(t.next), ref)
	t.next++
	return ref, nil
}

// linkTags are the elements of the links of a page; one that does not say where it leads is made to (ISO 14289-1, 7.18.5).
func (t *tagger) linkTags(p object.PageObject, parent types.IndirectRef) (types.Array, error) {
	var out types.Array
	for _, o := range t.Array(object.Entry(p.Dict, "Annots")) {
		link, ok := o.(types.IndirectRef)
		d := t.Dict(o)
		if !ok || t.Name(object.Entry(d, "Subtype")) != "Link" || d.HasEntry("StructParent") {
			continue
		}
		if strings.TrimSpace(t.Text(object.Entry(d, "Contents"))) == "" {
			says := t.Text(object.Entry(t.Dict(object.Entry(d, "A")), "URI"))
			if says == "" {
				says = "to another place in this document"
			}
			d.Update("Contents", object.Str(says))
		}
		ref, err := t.Add(types.Dict{
			"Type": types.Name("StructElem"), "S": types.Name("Link"), "P": parent, "Pg": p.Ref,
			"K": types.Dict{"Type": types.Name("OBJR"), "Obj": link, "Pg": p.Ref},
		})
		if err != nil {
			return nil, err
		}
		d.Update("StructParent", types.Integer(t.next))
		t.Touch(link)
		t.nums = append(t.nums, types.Integer(t.next), ref)
		t.next++
		out = append(out, ref)
	}
	return out, nil
}

// fieldsOnly puts the fields behind what a tagged file has, page by page in their order.
func (t *tagger) fieldsOnly() error {
	parent, kids := t.rootRef, t.root
	first := object.Entry(t.root, "K")
	if list := t.Array(first); len(list) > 0 {
		first = list[0]
	}
	if ref, ok := first.(types.IndirectRef); ok && t.Name(object.Entry(t.Dict(ref), "S")) == "Document" {
		parent, kids = ref, t.Dict(ref)
	}
	list := slices.Clone(t.Array(object.Entry(kids, "K")))
	if list == nil {
		if one := object.Entry(kids, "K"); one != nil {
			list = types.Array{one}
		}
	}
	for _, w := range t.ws {
		if w.Page == 0 || len(w.Refs) == 0 || w.Dict.HasEntry("StructParent") {
			continue
		}
		ref, err := t.fieldTag(w, parent)
		if err != nil {
			return err
		}
		list = append(list, ref)
	}
	kids.Update("K", list)
	t.Touch(parent)
	return nil
}

// printed is a page with its numbered text and its pieces.
type printed struct {
	marked
	ev      *evidence.Page
	pieces  []outline.Piece
	numbers [][]int // of each piece
	widgets []int   // of each piece that is a field, by its place among all; -1 for lines

	pictures []int // numbers of pictures
}

// all tags a file that has no tags.
func (t *tagger) all(pages map[int]*evidence.Page) error {
	prepared := make([]printed, len(t.Pages))
	var pieces [][]outline.Piece
	for i := range t.Pages {
		p, err := t.prepare(i, pages[i+1])
		if err != nil {
			return err
		}
		prepared[i] = p
		pieces = append(pieces, p.pieces)
	}
	t.builder.Sizes = outline.SizesOf(pieces)
	for i := range prepared {
		if err := t.page(i, &prepared[i]); err != nil {
			return err
		}
	}
	return nil
}

// mostContent is how large the content of a page may be unpacked, in bytes.
const mostContent = 48 << 20

// content is what is drawn on a page, unpacked.
func (t *tagger) content(p object.PageObject) ([]byte, error) {
	o := object.Entry(p.Dict, "Contents")
	list := t.Array(o)
	if list == nil && o != nil {
		list = types.Array{o}
	}
	var b bytes.Buffer
	for _, s := range list {
		sd, _, err := t.Ctx.DereferenceStreamDict(s)
		if err != nil || sd == nil {
			return nil, errors.Join(err, errors.New("the content of a page cannot be read"))
		}
		if err := sd.DecodeWithLimit(mostContent); err != nil {
			return nil, fmt.Errorf("the content of a page cannot be read: %w", err)
		}
		b.Write(sd.Content)
		b.WriteByte('\n')
		if b.Len() > mostContent {
			return nil, errors.New("a page is too large to be tagged")
		}
	}
	return b.Bytes(), nil
}

// prepare numbers the text of a page and finds the line that each number belongs to.
func (t *tagger) prepare(i int, ev *evidence.Page) (printed, error) {
	page := t.Pages[i]
	b, err := t.content(page)
	if err != nil {
		return printed{}, err
	}
	if ev == nil {
		ev = &evidence.Page{Height: page.Box.H()}
	}
	p := printed{marked: mark(b, func(name string) int { return t.what(i, name) }), ev: ev}
	var rects []geom.Rect
	var bases []float64
	for _, row := range ev.Rows() {
		for _, l := range row {
			rects, bases = append(rects, l.Rect), append(bases, l.Base)
			p.pieces = append(p.pieces, outline.Piece{Rect: l.Rect, Text: l.Text(), Size: l.Size})
		}
	}
	p.numbers = make([][]int, len(p.pieces))
	for n, x := range p.at {
		if x.picture {
			p.pictures = append(p.pictures, n)
			continue
		}
		at := geom.Point{X: x.at.X - page.Origin.X, Y: x.at.Y - page.Origin.Y}
		k := nearest(at, rects, bases)
		if k < 0 { // nothing was read there: it stands by itself
			p.pieces = append(p.pieces, outline.Piece{Rect: geom.R(at.X, at.Y, at.X+1, at.Y+1)})
			p.numbers = append(p.numbers, nil)
			k = len(p.pieces) - 1
		}
		if len(p.numbers[k]) == 0 && x.size > 0 {
			p.pieces[k].Size, p.pieces[k].Bold = x.size, t.bold(page, x.font)
		}
		p.numbers[k] = append(p.numbers[k], n)
	}
	// lines without a number of their own are read with another
	kept, numbers := []outline.Piece{}, [][]int{}
	for k := range p.pieces {
		switch {
		case len(p.numbers[k]) == 0:
		case leader(p.pieces[k].Text):
			for _, n := range p.numbers[k] {
				p.leader(n)
			}
		default:
			kept, numbers = append(kept, p.pieces[k]), append(numbers, p.numbers[k])
		}
	}
	p.pieces, p.numbers = kept, numbers
	p.widgets = slices.Repeat([]int{-1}, len(kept))
	for n, w := range t.ws {
		if w.Page == i+1 && len(w.Refs) > 0 {
			p.pieces = append(p.pieces, outline.Piece{Rect: w.Rect, Field: true})
			p.numbers, p.widgets = append(p.numbers, nil), append(p.widgets, n)
		}
	}
	return p, nil
}

// leader tells whether words are a line to write on.
func leader(s string) bool { return s != "" && strings.Trim(s, "._-…·‐–—⎯ ") == "" }

// bold tells whether a font of a page is called so.
func (t *tagger) bold(p object.PageObject, name string) bool {
	f := t.Dict(object.Entry(t.Dict(object.Entry(t.resources(p), "Font")), strings.TrimPrefix(name, "/")))
	base := strings.ToLower(t.Name(object.Entry(f, "BaseFont")))
	return strings.Contains(base, "bold") || strings.Contains(base, "black") || strings.Contains(base, "heavy")
}

// resources are those of a page, its own or inherited ones.
func (t *tagger) resources(p object.PageObject) types.Dict {
	if res := t.Dict(object.Entry(p.Dict, "Resources")); res != nil {
		return res
	}
	return p.Inh
}

// what tells what an XObject of a page is: a picture, where something is said of the pictures there, or a form with text in it.
func (t *tagger) what(i int, name string) int {
	o := object.Entry(t.Dict(object.Entry(t.resources(t.Pages[i]), "XObject")), strings.TrimPrefix(name, "/"))
	sd, _, err := t.Ctx.DereferenceStreamDict(o)
	if err != nil || sd == nil {
		return xNothing
	}
	switch t.Name(object.Entry(sd.Dict, "Subtype")) {
	case "Image":
		if said := t.shows[i+1]; said != "" && said != form.Decoration {
			return xPicture
		}
	case "Form":
		if sd.DecodeWithLimit(mostContent) == nil && slices.ContainsFunc(operations(sd.Content), func(o operation) bool {
			return o.name == "Tj" || o.name == "TJ" || o.name == "'" || o.name == "\""
		}) {
			return xText
		}
	}
	return xNothing
}

// page writes the content and the structure of a page.
func (t *tagger) page(i int, p *printed) error {
	page := t.Pages[i]
	content, err := t.Stream(p.content, nil)
	if err != nil {
		return err
	}
	page.Dict.Update("Contents", types.Array{content})
	key := t.next
	t.next++
	page.Dict.Update("StructParents", types.Integer(key))
	page.Dict.Update("Tabs", types.Name("S"))
	t.Touch(page.Ref)
	parents := make(types.Array, len(p.at)) // of the numbers; none of those that are not used
	for _, e := range t.builder.Page(p.pieces, p.ev.H, p.ev.V) {
		ref, err := t.element(e, t.document, page.Ref, p, parents)
		if err != nil {
			return err
		}
		t.kids = append(t.kids, ref)
	}
	if len(p.pictures) > 0 { // what is said is said of all of them
		figure := types.Dict{
			"Type": types.Name("StructElem"), "S": types.Name("Figure"), "P": t.document, "Pg": page.Ref, "Alt": object.Str(t.shows[i+1]),
		}
		ref, err := t.Add(figure)
		if err != nil {
			return err
		}
		var numbers types.Array
		for _, n := range p.pictures {
			numbers = append(numbers, types.Integer(n))
			parents[n] = ref
		}
		figure["K"] = numbers
		t.kids = append(t.kids, ref)
	}
	links, err := t.linkTags(page, t.document)
	if err != nil {
		return err
	}
	t.kids = append(t.kids, links...)
	list, err := t.Add(parents)
	if err != nil {
		return err
	}
	t.nums = append(t.nums, types.Integer(key), list)
	return nil
}

func (t *tagger) element(e outline.Element, parent, page types.IndirectRef, p *printed, parents types.Array) (types.IndirectRef, error) {
	if e.Type == outline.Form {
		return t.fieldTag(t.ws[p.widgets[e.Pieces[0]]], parent)
	}
	d := types.Dict{"Type": types.Name("StructElem"), "S": types.Name(e.Type), "P": parent, "Pg": page}
	ref, err := t.Add(d)
	if err != nil {
		return ref, err
	}
	if e.Scope != "" {
		d["A"] = types.Dict{"O": types.Name("Table"), "Scope": types.Name(e.Scope)}
	}
	var kids types.Array
	for _, k := range e.Pieces {
		for _, n := range p.numbers[k] {
			kids = append(kids, types.Integer(n))
			parents[n] = ref
		}
	}
	for _, k := range e.Kids {
		kid, err := t.element(k, ref, page, p, parents)
		if err != nil {
			return ref, err
		}
		kids = append(kids, kid)
	}
	d["K"] = kids
	return ref, nil
}

// finish hangs the structure into the file.
func (t *tagger) finish(cat types.Dict) ([]byte, error) {
	if !t.tagged {
		d := t.Dict(t.document)
		for k, v := range (types.Dict{"Type": types.Name("StructElem"), "S": types.Name("Document"), "P": t.rootRef, "K": t.kids}) {
			d[k] = v
		}
		t.root["K"] = types.Array{t.document}
		cat.Update("StructTreeRoot", t.rootRef)
	}
	own, err := t.Add(types.Dict{"Nums": sorted(t, t.nums)})
	if err != nil {
		return nil, err
	}
	switch was := object.Entry(t.root, "ParentTree"); {
	case was == nil:
		t.root.Update("ParentTree", own)
	case len(t.nums) > 0:
		if err := t.graft(was, own); err != nil {
			return nil, err
		}
	}
	t.root.Update("ParentTreeNextKey", types.Integer(t.next))
	t.Touch(t.rootRef)
	cat.Update("MarkInfo", types.Dict{"Marked": types.Boolean(true)})
	if err := NewBuilder(t.File).showTitle(cat); err != nil {
		return nil, err
	}
	if err := t.TouchCatalog(); err != nil {
		return nil, err
	}
	for _, p := range t.Pages { // the tab order is that of the structure (ISO 14289-1, 7.18.3)
		if len(t.Array(object.Entry(p.Dict, "Annots"))) > 0 {
			p.Dict.Update("Tabs", types.Name("S"))
			t.Touch(p.Ref)
		}
	}
	return t.Increment()
}

// sorted are the entries of a number tree in rising order.
func sorted(t *tagger, nums types.Array) types.Array {
	type entry struct {
		key int
		v   types.Object
	}
	var all []entry
	for i := 0; i+1 < len(nums); i += 2 {
		all = append(all, entry{t.Integer(nums[i]), nums[i+1]})
	}
	slices.SortFunc(all, func(a, b entry) int { return a.key - b.key })
	out := types.Array{}
	for _, e := range all {
		out = append(out, types.Integer(e.key), e.v)
	}
	return out
}

// graft puts new entries behind those of a number tree that is there: both become kids, with their limits (ISO 32000-2, 7.9.7).
func (t *tagger) graft(was types.Object, own types.IndirectRef) error {
	limits := func(o types.Object, from, to int) {
		t.Dict(o).Update("Limits", types.Array{types.Integer(from), types.Integer(to)})
	}
	ref, ok := was.(types.IndirectRef)
	if !ok {
		var err error
		if ref, err = t.Add(t.Dict(was)); err != nil {
			return err
		}
	}
	high := t.highest(ref, 0)
	limits(ref, 0, max(high, 0))
	t.Touch(ref)
	limits(own, t.Integer(t.nums[0]), t.next-1)
	tree, err := t.Add(types.Dict{"Kids": types.Array{ref, own}})
	if err != nil {
		return err
	}
	t.root.Update("ParentTree", tree)
	return nil
}
