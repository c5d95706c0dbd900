package proof

import (
	"slices"
	"strings"

	"zealousmargin.example/internal/geom"
)

// sheet is a page as this reader sees it.
type sheet struct {
	number int // of its object
	dict   dict
	box    geom.Rect // what is visible, in user space
	rotate int
	annots []any
}

// pages walks the page tree (ISO 32000-2, 7.7.3).
func (f *file) pages() []sheet {
	var out []sheet
	seen := map[int]bool{}
	var walk func(o any, inherited dict)
	walk = func(o any, inherited dict) {
		n, _ := o.(ref)
		d := f.dict(o)
		if d == nil || seen[int(n)] {
			return
		}
		seen[int(n)] = true
		in := dict{}
		for _, k := range []name{"MediaBox", "CropBox", "Rotate"} {
			if v, ok := d[k]; ok {
				in[k] = v
			} else if v, ok := inherited[k]; ok {
				in[k] = v
			}
		}
		if kids := f.array(d["Kids"]); kids != nil && f.name(d["Type"]) != "Page" {
			for _, k := range kids {
				walk(k, in)
			}
			return
		}
		p := sheet{number: int(n), dict: d, rotate: ((int(f.number(in["Rotate"]))%360 + 360) % 360), annots: f.array(d["Annots"])}
		p.box = f.rect(in["MediaBox"])
		if in["CropBox"] != nil {
			p.box = p.box.Intersect(f.rect(in["CropBox"]))
		}
		out = append(out, p)
	}
	walk(f.dict(f.trailer["Root"])["Pages"], dict{})
	return out
}

func (f *file) rect(o any) geom.Rect {
	a := f.array(o)
	if len(a) != 4 {
		return geom.Rect{}
	}
	return geom.R(f.number(a[0]), f.number(a[1]), f.number(a[2]), f.number(a[3]))
}

// widget is a widget with the field that it belongs to.
type widget struct {
	f    *file
	dict dict
	up   []dict // the dictionaries from the widget to the root of its field
	refs []int  // and the numbers of their objects
	page int    // from 1; 0 is none
	name string // the full name of the field
}

// field finds an inheritable entry (12.7.4.1): the nearest one. The flags of what has no name of its own are those of its field.
func (w *widget) field(k name) any {
	for i, d := range w.up {
		if _, named := d["T"]; k == "Ff" && !named && i+1 < len(w.up) {
			continue
		}
		if v, ok := d[k]; ok {
			return w.f.resolve(v)
		}
	}
	return nil
}

// own finds the dictionary of the field: the nearest one with a partial name.
func (w *widget) own() (dict, int) {
	for i, d := range w.up {
		if d["T"] != nil {
			return d, w.refs[i]
		}
	}
	return w.dict, w.refs[0]
}

// mk is an entry of the appearance characteristics (table 192).
func (w *widget) mk(k name) any { return w.f.resolve(w.f.dict(w.dict["MK"])[k]) }

// tree walks the fields of a form. Widgets come in the order of the annotations of their pages;
// stray ones are widgets on a page that no field leads to.
func (f *file) tree(pages []sheet) (out []*widget, stray int) {
	at := map[int][2]int{}
	for p, s := range pages {
		for i, o := range s.annots {
			if n, ok := o.(ref); ok {
				at[int(n)] = [2]int{p + 1, i}
			}
			if f.name(f.dict(o)["Subtype"]) == "Widget" {
				stray++
			}
		}
	}
	seen := map[int]bool{}
	var walk func(o any, up []dict, refs []int, names []string)
	walk = func(o any, up []dict, refs []int, names []string) {
		n, _ := o.(ref)
		d := f.dict(o)
		if d == nil || n != 0 && seen[int(n)] || len(up) > 32 {
			return
		}
		seen[int(n)] = true
		up, refs = append([]dict{d}, up...), append([]int{int(n)}, refs...)
		if d["T"] != nil {
			names = append(slices.Clone(names), f.words(d["T"]))
		}
		if kids := f.array(d["Kids"]); len(kids) > 0 {
			for _, k := range kids {
				walk(k, up, refs, names)
			}
			return
		}
		place, shown := at[int(n)]
		if !shown && f.name(d["Subtype"]) != "Widget" {
			return
		}
		if shown {
			stray--
		}
		out = append(out, &widget{f: f, dict: d, up: up, refs: refs, page: place[0], name: strings.Join(names, ".")})
	}
	for _, o := range f.array(f.form()["Fields"]) {
		walk(o, nil, nil, nil)
	}
	slices.SortStableFunc(out, func(a, b *widget) int {
		if a.page != b.page {
			return a.page - b.page
		}
		return at[a.refs[0]][1] - at[b.refs[0]][1]
	})
	return out, stray
}

func (f *file) root() dict { return f.dict(f.trailer["Root"]) }

// form is the interactive form dictionary (12.7.3).
func (f *file) form() dict { return f.dict(f.root()["AcroForm"]) }

// script is the text of a script action (12.6.4.17).
func (f *file) script(o any) string {
	a := f.dict(o)
	if f.name(a["S"]) != "JavaScript" {
		return ""
	}
	return f.words(a["JS"])
}

// scripts are those of the document by name (12.6.4.17, table 32).
func (f *file) scripts() map[string]string {
	out := map[string]string{}
	var walk func(o any, depth int)
	walk = func(o any, depth int) {
		d := f.dict(o)
		list := f.array(d["Names"])
		for i := 0; i+1 < len(list); i += 2 {
			out[f.words(list[i])] = f.script(list[i+1])
		}
		if depth < 16 {
			for _, k := range f.array(d["Kids"]) {
				walk(k, depth+1)
			}
		}
	}
	walk(f.dict(f.root()["Names"])["JavaScript"], 0)
	return out
}
