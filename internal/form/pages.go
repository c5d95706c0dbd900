package form

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"zealousmargin.example/internal/geom"
)

// Page is one page of the draft: a page of some PDF file, and how it lies here.
// Width and height are points of the unrotated page, Rotate is its turn clockwise
// in degrees (0, 90, 180, 270).
type Page struct {
	// ID stays with the page wherever it is moved.
	ID     string  `json:"id,omitempty"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Rotate int     `json:"rotate,omitempty"`
	// File is the SHA-256 of the PDF that the page is shown from, N its number
	// there, from 1.
	File string `json:"file,omitempty"`
	N    int    `json:"n,omitempty"`
	// Place takes the space of that file's page to the space of this one; the zero
	// value leaves it where it is. Straightening, cropping and new sizes are places.
	Place geom.Matrix `json:"place,omitzero"`
	// Scan tells that the page is a picture of paper, without usable text.
	Scan bool `json:"scan,omitempty"`
	// Text is the SHA-256 of the words that were recognised on the page.
	Text string `json:"text,omitempty"`
	// Shows says what the pictures on the page show, for those who cannot see them; [Decoration] is that they show nothing that matters.
	Shows string `json:"shows,omitempty"`
	// Notes says what was done to make the page ready, such as "straightened 1.4°".
	Notes string `json:"notes,omitempty"`
}

// Decoration says of pictures that they need no words.
const Decoration = "-"

// Rect is the whole page.
func (p Page) Rect() geom.Rect { return geom.Rect{X1: p.Width, Y1: p.Height} }

// Placing is the transform from the file's page to this one.
func (p Page) Placing() geom.Matrix {
	if p.Place == (geom.Matrix{}) {
		return geom.Identity
	}
	return p.Place
}

// AsIs tells whether the page lies as in its file, but for its turn.
func (p Page) AsIs() bool { return p.Placing() == geom.Identity }

// ViewSize is the size of the page as shown.
func (p Page) ViewSize() (w, h float64) { return geom.ViewSize(p.Width, p.Height, p.Rotate) }

// MaxSide is the longest side that a page may have, in points (ISO 32000-2, annex
// C.2: 14,400 units).
const MaxSide = 14400.0

// PagesEdit is a change of the pages: all of them before, and all after.
type PagesEdit struct {
	Before []Page `json:"before"`
	After  []Page `json:"after"`
}

// Details are what readers show about a document, and what is left behind when it
// is released.
type Details struct {
	Title    string `json:"title,omitempty"`
	Author   string `json:"author,omitempty"`
	Subject  string `json:"subject,omitempty"`
	Language string `json:"language,omitempty"` // BCP 47, as "en-GB"
	// Leave names the leftovers that a release leaves behind, in the words of package pdf.
	Leave string `json:"leave,omitempty"` // comma-separated
	// Roles names those who fill the form in, one after the other; roles that only fields name come after them.
	Roles string `json:"roles,omitempty"` // comma-separated
	// Events are what is done when something happens to the document or to one of its pages.
	Events []Step `json:"events,omitempty"`
}

// Equal tells whether two details say the same.
func (d Details) Equal(e Details) bool { return same(DetailProperties, &d, &e) }

// Equal tells whether two pages say the same.
func (p Page) Equal(q Page) bool { return same(PageProperties, &p, &q) }

// EqualPages tells whether two lists of pages say the same.
func EqualPages(a, b []Page) bool { return slices.EqualFunc(a, b, Page.Equal) }

// DetailsEdit is a change of the details.
type DetailsEdit struct{ Before, After Details }

// sides gives the pages and details as they are after e, or ErrClash when they are
// not as e found them.
func (t *Template) sides(e Edit) ([]Page, Details, error) {
	pages, details := t.Pages, t.Details
	if e.Pages != nil {
		if !EqualPages(pages, e.Pages.Before) {
			return nil, details, ErrClash
		}
		pages = e.Pages.After
		if len(pages) == 0 {
			return nil, details, fmt.Errorf("a document needs a page: keep one, or archive the document")
		}
		for i, p := range pages {
			if p.Width < 1 || p.Height < 1 || p.Width > MaxSide || p.Height > MaxSide {
				return nil, details, fmt.Errorf("page %d would be %.0f × %.0f points: a page has sides of 1 to %.0f", i+1, p.Width,
					p.Height, MaxSide)
			}
		}
	}
	if e.Details != nil {
		if !details.Equal(e.Details.Before) {
			return nil, details, ErrClash
		}
		details = e.Details.After
	}
	return pages, details, nil
}

// JoinLeave joins two lists of leftovers that a release leaves behind.
func JoinLeave(a, b string) string {
	all := strings.FieldsFunc(a+","+b, func(r rune) bool { return r == ',' })
	slices.Sort(all)
	return strings.Join(slices.Compact(all), ",")
}

// Describe changes the details.
func (t *Template) Describe(d Details) (Edit, error) {
	if d.Equal(t.Details) {
		return Edit{}, ErrNothing
	}
	for what, s := range map[string]string{
		"the title": d.Title, "the author": d.Author, "the subject": d.Subject, "the language": d.Language,
		"the list of leftovers": d.Leave,
	} {
		if err := CheckText(what, s, longText); err != nil {
			return Edit{}, err
		}
	}
	for _, s := range d.Events {
		if err := s.Check(DocumentTriggers); err != nil {
			return Edit{}, err
		}
		if (s.When == PageOpened || s.When == PageClosed) && (s.OnPage < 1 || s.OnPage > len(t.Pages)) {
			return Edit{}, fmt.Errorf("there is no page %d", s.OnPage)
		}
	}
	return Edit{Title: "changed the document details", Details: &DetailsEdit{Before: t.Details, After: d}}, nil
}

// PageByID finds a page and its number, from 1.
func (t *Template) PageByID(id string) (Page, int, bool) {
	i := slices.IndexFunc(t.Pages, func(p Page) bool { return p.ID == id })
	if i < 0 {
		return Page{}, 0, false
	}
	return t.Pages[i], i + 1, true
}

// pagesCalled is "page 3" or "4 pages", by the numbers that pages have now.
func (t *Template) pagesCalled(ids []string) string {
	if len(ids) == 1 {
		if _, n, ok := t.PageByID(ids[0]); ok {
			return "page " + strconv.Itoa(n)
		}
		return "1 page"
	}
	return strconv.Itoa(len(ids)) + " pages"
}

// checkPages refuses ids that are not pages of the document.
func (t *Template) checkPages(ids []string) error {
	if len(ids) == 0 {
		return fmt.Errorf("choose a page first")
	}
	for _, id := range ids {
		if _, _, ok := t.PageByID(id); !ok {
			return fmt.Errorf("a page that this changes is gone: %w", ErrClash)
		}
	}
	return nil
}

// repage makes an edit to a new list of pages. Fields travel with their pages:
// page ids decide. Alter, when given, changes a field whose page stays; false
// removes it. Fields of pages that are gone are removed.
func (t *Template) repage(title string, pages []Page, alter func(*Field) bool) (Edit, error) {
	at := map[string]int{}
	for i, p := range pages {
		at[p.ID] = i + 1
	}
	e := Edit{Title: title, Pages: &PagesEdit{Before: slices.Clone(t.Pages), After: pages}}
	for _, f := range t.Fields {
		g := f.clone()
		g.Page = at[t.Pages[f.Page-1].ID]
		if g.Page == 0 || alter != nil && !alter(&g) {
			e.Before = append(e.Before, f)
			continue
		}
		g.Rect = g.Rect.Rounded()
		if !f.Equal(g) {
			e.Before, e.After = append(e.Before, f), append(e.After, g)
		}
	}
	if EqualPages(t.Pages, pages) && len(e.Before) == 0 {
		return Edit{}, ErrNothing
	}
	return e, nil
}

// ChangePages alters pages in place, such as their recognised text; fields stay.
func (t *Template) ChangePages(title string, ids []string, alter func(*Page)) (Edit, error) {
	if err := t.checkPages(ids); err != nil {
		return Edit{}, err
	}
	pages := slices.Clone(t.Pages)
	for i := range pages {
		if slices.Contains(ids, pages[i].ID) {
			alter(&pages[i])
		}
	}
	return t.repage(title, pages, nil)
}

// TurnPages turns pages clockwise by quarters of a full turn, negative to the left.
func (t *Template) TurnPages(ids []string, quarters int) (Edit, error) {
	way := map[int]string{1: " right", 2: " over", 3: " left"}[((quarters%4)+4)%4]
	return t.ChangePages("turned "+t.pagesCalled(ids)+way, ids, func(p *Page) {
		p.Rotate = (((p.Rotate+90*quarters)%360 + 360) % 360)
	})
}

// MovePages takes pages out of their places and puts them, in document order,
// before the page that is number to now (from 1; one more than there are is the end).
func (t *Template) MovePages(ids []string, to int) (Edit, error) {
	if err := t.checkPages(ids); err != nil {
		return Edit{}, err
	}
	var moved, rest []Page
	before := 0
	for i, p := range t.Pages {
		if slices.Contains(ids, p.ID) {
			moved = append(moved, p)
			continue
		}
		if i+1 < to {
			before++
		}
		rest = append(rest, p)
	}
	pages := slices.Concat(rest[:before], moved, rest[before:])
	return t.repage("moved "+t.pagesCalled(ids), pages, nil)
}

// RemovePages takes pages out, with their fields.
func (t *Template) RemovePages(ids []string) (Edit, error) {
	if err := t.checkPages(ids); err != nil {
		return Edit{}, err
	}
	pages := slices.DeleteFunc(slices.Clone(t.Pages), func(p Page) bool { return slices.Contains(ids, p.ID) })
	if len(pages) == 0 {
		return Edit{}, fmt.Errorf("a document needs a page: keep one, or archive the document")
	}
	return t.repage("deleted "+t.pagesCalled(ids), pages, nil)
}

// InsertPages puts pages before the page that is number at now, with fields whose
// page numbers count from 1 among the new pages. Taken names are counted on.
func (t *Template) InsertPages(title string, at int, pages []Page, fields []Field) (Edit, error) {
	if len(pages) == 0 {
		return Edit{}, ErrNothing
	}
	at = min(max(1, at), len(t.Pages)+1) - 1
	fresh := slices.Clone(pages)
	for i := range fresh {
		fresh[i].ID = NewID()
	}
	e, err := t.repage(title, slices.Concat(t.Pages[:at], fresh, t.Pages[at:]), nil)
	if err != nil {
		return Edit{}, err
	}
	taken, groups := map[string]bool{}, map[string]string{}
	for _, f := range t.Fields {
		taken[f.Name] = true
	}
	for _, f := range fields {
		f = f.clone()
		f.ID = NewID()
		f.Page += at
		shared := f.Kind == Radio || f.Origin != nil && f.Origin.Shared
		if name, ok := groups[f.Name]; ok && shared {
			f.Name = name
		} else {
			free := FreeName(f.Name, taken)
			if shared {
				groups[f.Name] = free
			}
			taken[free] = true
			f.Name = free
		}
		e.After = append(e.After, f)
	}
	return e, nil
}

// DuplicatePages puts a copy of each page after it. The copies of its fields get
// names of their own.
func (t *Template) DuplicatePages(ids []string) (Edit, error) {
	if err := t.checkPages(ids); err != nil {
		return Edit{}, err
	}
	draft := *t
	draft.Fields, draft.Pages = slices.Clone(t.Fields), slices.Clone(t.Pages)
	for n := len(t.Pages); n >= 1; n-- {
		p := t.Pages[n-1]
		if !slices.Contains(ids, p.ID) {
			continue
		}
		one, err := draft.InsertPages("", n+1, []Page{p}, t.CopyOf(p.ID))
		if err != nil {
			return Edit{}, err
		}
		if err := draft.Apply(one); err != nil {
			return Edit{}, err
		}
	}
	return t.Towards("duplicated "+t.pagesCalled(ids), &draft)
}

// CopyOf gives the fields of a page as rows for another place: on page 1, with
// nothing that ties them to a field of the file.
func (t *Template) CopyOf(page string) []Field {
	_, n, _ := t.PageByID(page)
	var out []Field
	for _, f := range t.OnPage(n) {
		f = f.loosened()
		f.Page = 1
		out = append(out, f)
	}
	return out
}

// Towards is the edit that makes t into draft. It returns [ErrNothing] when both say the same.
func (t *Template) Towards(title string, draft *Template) (Edit, error) {
	e := Edit{Title: title}
	if !EqualPages(t.Pages, draft.Pages) {
		e.Pages = &PagesEdit{Before: slices.Clone(t.Pages), After: draft.Pages}
	}
	if !t.Details.Equal(draft.Details) {
		e.Details = &DetailsEdit{Before: t.Details, After: draft.Details}
	}
	was := make(map[string]*Field, len(t.Fields))
	for i := range t.Fields {
		was[t.Fields[i].ID] = &t.Fields[i]
	}
	is := make(map[string]bool, len(draft.Fields))
	for _, g := range draft.Fields {
		is[g.ID] = true
		f, ok := was[g.ID]
		if ok && f.Equal(g) {
			continue
		}
		if ok {
			e.Before = append(e.Before, *f)
		}
		e.After = append(e.After, g)
	}
	for _, f := range t.Fields {
		if !is[f.ID] {
			e.Before = append(e.Before, f)
		}
	}
	if e.Pages == nil && e.Details == nil && len(e.Before)+len(e.After) == 0 {
		return Edit{}, ErrNothing
	}
	return e, nil
}

// place lays pages anew: m takes page space to the new page space, w by h points.
// Fields go along by their middles and keep their sizes unless m scales; those
// whose middle comes to lie off the page are removed.
func (t *Template) place(title string, ids []string, lay func(Page) (m geom.Matrix, w, h float64, note string)) (Edit, error) {
	if err := t.checkPages(ids); err != nil {
		return Edit{}, err
	}
	pages := slices.Clone(t.Pages)
	moves := map[int]geom.Matrix{}
	for i := range pages {
		p := &pages[i]
		if !slices.Contains(ids, p.ID) {
			continue
		}
		m, w, h, note := lay(*p)
		if m == geom.Identity && w == p.Width && h == p.Height {
			continue
		}
		moves[i+1] = m
		p.Place = roundMatrix(p.Placing().Then(m))
		p.Width, p.Height = geom.Round(w), geom.Round(h)
		if note != "" {
			p.Notes = note
		}
	}
	return t.repage(title, pages, func(f *Field) bool {
		m, moved := moves[f.Page]
		if !moved {
			return true
		}
		page := pages[f.Page-1].Rect()
		mid, k := m.Apply(f.Rect.Mid()), m.Scale()
		if !page.Contains(mid) {
			return false
		}
		w, h := math.Max(MinSide, f.Rect.W()*k), math.Max(MinSide, f.Rect.H()*k)
		f.Rect = geom.Rect{X0: mid.X - w/2, Y0: mid.Y - h/2, X1: mid.X + w/2, Y1: mid.Y + h/2}.Clamp(page)
		return true
	})
}

func roundMatrix(m geom.Matrix) geom.Matrix {
	for i, v := range m {
		m[i] = math.Round(v*1e6) / 1e6
	}
	return m
}

// MaxSkew is the largest angle that pages are straightened by, in degrees.
const MaxSkew = 15.0

// StraightenPages turns the content of pages by small angles in degrees,
// clockwise positive, about the middle of the page; the size stays.
func (t *Template) StraightenPages(angles map[string]float64) (Edit, error) {
	var ids []string
	for _, p := range t.Pages {
		if a, ok := angles[p.ID]; ok {
			if math.IsNaN(a) || math.Abs(a) > MaxSkew {
				return Edit{}, fmt.Errorf("a page is straightened by at most %g degrees: turn it by a quarter first", MaxSkew)
			}
			ids = append(ids, p.ID)
		}
	}
	return t.place("straightened "+t.pagesCalled(ids), ids, func(p Page) (geom.Matrix, float64, float64, string) {
		a := angles[p.ID]
		return geom.Turn(-a, p.Rect().Mid()), p.Width, p.Height, fmt.Sprintf("straightened %.1f°", math.Abs(a))
	})
}

// CropPage cuts a page to r, in page space.
func (t *Template) CropPage(id string, r geom.Rect) (Edit, error) {
	return t.place("cropped "+t.pagesCalled([]string{id}), []string{id}, func(p Page) (geom.Matrix, float64, float64, string) {
		r = r.Intersect(p.Rect())
		return geom.Matrix{1, 0, 0, 1, -r.X0, -r.Y0}, r.W(), r.H(), ""
	})
}

// ResizePages gives pages the size w by h points, as shown. With fit the content is
// scaled to the new size in its proportions; otherwise it keeps its size in
// the middle of the page.
func (t *Template) ResizePages(ids []string, w, h float64, fit bool) (Edit, error) {
	if w < 36 || h < 36 || w > MaxSide || h > MaxSide {
		return Edit{}, fmt.Errorf("a page is 36 to %.0f points wide and high: %.0f × %.0f does not do", MaxSide, w, h)
	}
	return t.place("changed the size of "+t.pagesCalled(ids), ids, func(p Page) (geom.Matrix, float64, float64, string) {
		pw, ph := geom.ViewSize(w, h, p.Rotate) // of the unrotated page
		k := 1.0
		if fit {
			k = math.Min(pw/p.Width, ph/p.Height)
		}
		if k == 1 && pw == p.Width && ph == p.Height {
			return geom.Identity, pw, ph, ""
		}
		return geom.Matrix{k, 0, 0, k, (pw - p.Width*k) / 2, (ph - p.Height*k) / 2}, pw, ph, ""
	})
}

// CloneFields copies rows so that nothing done to the copies shows in the originals.
func CloneFields(fields []Field) []Field {
	out := slices.Clone(fields)
	for i := range out {
		out[i].part(&fields[i])
	}
	return out
}

// clone is a copy that shares nothing with f.
func (f Field) clone() Field {
	g := f
	g.part(&f)
	return g
}

// part gives f, a plain copy of from, what it must not share with it.
func (f *Field) part(from *Field) {
	for _, p := range shared() {
		p.carry(f, from)
	}
}

// shared are the properties that a plain copy of a field would share: data behind a pointer.
var shared = sync.OnceValue(func() []*Property[Field] {
	var out []*Property[Field]
	for i := range FieldProperties {
		if p := &FieldProperties[i]; p.Type == AsData {
			out = append(out, p)
		}
	}
	return out
})
