package inbox

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
)

// Forms are the editions of a form with their questions.
type Forms struct {
	Editions []returns.Edition // those whose form was kept, oldest first
	Columns  []returns.Column
	byNumber map[int]store.Edition
	newest   int64 // the id of the newest edition when they were read
}

// ID is the id of an edition.
func (f *Forms) ID(number int) int64 { return f.byNumber[number].ID }

// Number is the number of an edition; 0 when its form was not kept.
func (f *Forms) Number(id int64) int {
	for n, e := range f.byNumber {
		if e.ID == id {
			return n
		}
	}
	return 0
}

// Form is the form of an edition; nil when it was not kept.
func (f *Forms) Form(number int) *form.Template {
	for _, e := range f.Editions {
		if e.Number == number {
			return e.Form
		}
	}
	return nil
}

// Edition is one of the editions.
func (f *Forms) Edition(number int) store.Edition { return f.byNumber[number] }

// Named turns answers by key into answers by the names of an edition.
func (f *Forms) Named(number int, values map[string]string) map[string]string {
	out := map[string]string{}
	for name, key := range returns.Keys(f.Columns, number) {
		if v, ok := values[key]; ok {
			out[name] = v
		}
	}
	return out
}

// Reader reads returns. It remembers the forms that it read last.
type Reader struct {
	store *store.Store
	forms *lru.Cache[int64, *Forms]
}

// NewReader makes a reader.
func NewReader(s *store.Store) *Reader {
	cache, err := lru.New[int64, *Forms](64)
	if err != nil {
		panic(err) // the size is not positive
	}
	return &Reader{store: s, forms: cache}
}

// FormsOf reads the editions of a document. They never change; only new ones come.
func (r *Reader) FormsOf(ctx context.Context, document int64) (*Forms, error) {
	newest, err := r.store.NewestEdition(ctx, document)
	if err != nil {
		return nil, err
	}
	if had, ok := r.forms.Get(document); ok && had.newest == newest {
		return had, nil
	}
	list, err := r.store.Editions(ctx, document)
	if err != nil {
		return nil, err
	}
	out := &Forms{byNumber: map[int]store.Edition{}, newest: newest}
	for i := len(list) - 1; i >= 0; i-- {
		e := list[i]
		if !e.Kept {
			continue
		}
		t, err := r.store.EditionForm(ctx, e.ID)
		if err != nil {
			return nil, err
		}
		out.byNumber[e.Number] = e
		out.Editions = append(out.Editions, returns.Edition{Number: e.Number, Form: &t})
	}
	out.Columns = returns.Columns(out.Editions)
	r.forms.Add(document, out)
	return out, nil
}

// light are the kinds that are read at once, since that takes neither a process nor much memory.
var light = map[string]bool{returns.FDF: true, returns.XFDF: true, returns.JSON: true, returns.Form: true, returns.CSV: true}

// AtOnce reads what is read quickly; nil when it is for the queue.
func (r *Reader) AtOnce(ctx context.Context, t store.Target, kind string, b []byte) (*store.Understood, error) {
	if !light[kind] || len(b) > 1<<20 {
		return nil, nil
	}
	all, err := r.Read(ctx, t, kind, b, time.Now())
	if err != nil {
		return nil, err
	}
	return &all[0], nil
}

// Read reads what came: one set of answers, or several. What cannot be read waits for a person, with the reason.
func (r *Reader) Read(ctx context.Context, t store.Target, kind string, b []byte, at time.Time) ([]store.Understood, error) {
	forms, err := r.FormsOf(ctx, t.Document)
	if err != nil {
		return nil, err
	}
	number := 0
	if t.Edition != nil {
		number = forms.Number(*t.Edition)
	}
	switch kind {
	case returns.PDF:
		u, err := r.pdf(ctx, forms, number, b, at)
		return []store.Understood{u}, err
	case returns.Picture:
		u, err := r.paper(ctx, forms, number, b, at)
		return []store.Understood{u}, err
	}
	sets, err := read.Came(kind, b)
	if err != nil {
		return []store.Understood{Waiting(err.Error())}, nil
	}
	out := make([]store.Understood, len(sets))
	for i, c := range sets {
		if out[i], err = forms.Understand(number, c, at); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Waiting is what could not be read.
func Waiting(why string) store.Understood { return store.Understood{Waits: true, Problem: why} }

// Why a return waits.
const (
	whyNoForm  = "these are answers of no edition of this form"
	whyNothing = "there is nothing in it that answers could be read from"
	whyNone    = "no edition of this form is kept, so its answers cannot be told from others"
)

// Understand makes what came answers of an edition: the one that is said, or the one that its names tell when that is 0.
func (f *Forms) Understand(number int, c returns.Came, at time.Time) (store.Understood, error) {
	if len(f.Editions) == 0 {
		return Waiting(whyNone), nil
	}
	c = c.Legible()
	told, _ := returns.Match(c.Named, f.Editions)
	if number == 0 || told != 0 && f.Form(number) == nil {
		number = told
	}
	if number == 0 || told == 0 {
		if len(c.Named) == 0 {
			return Waiting(whyNothing), nil
		}
		return Waiting(whyNoForm), nil
	}
	t := f.Form(number)
	a, err := returns.Read(t, c, at)
	if err != nil {
		return Waiting(err.Error()), nil
	}
	keys := returns.Keys(f.Columns, number)
	id := f.ID(number)
	u := store.Understood{Edition: &id, Values: map[string]string{}, Broken: map[string]string{}, Unsure: map[string]float64{}}
	for name, v := range a.Values {
		u.Values[keys[name]] = v
	}
	for name, v := range a.Broken {
		if key := keys[name]; key != "" {
			u.Broken[key] = v
		}
	}
	for name, v := range c.Sure {
		if key := keys[name]; key != "" {
			u.Unsure[key] = v
		}
	}
	if len(a.Extra) > 0 {
		u.Problem = fmt.Sprintf(
			"it also says what edition %d does not ask for: %s",
			number,
			strings.Join(a.Extra[:min(8, len(a.Extra))], ", "),
		)
	}
	u.Digest = returns.Digest(u.Values)
	for _, file := range c.Files {
		u.Files = append(u.Files, store.Enclosed{Name: file.Name, Bytes: file.Bytes})
	}
	return u, nil
}

// Check holds answers by key to the rules of an edition, and gives what breaks them by key.
func (f *Forms) Check(number int, values map[string]string, at time.Time) (map[string]string, error) {
	t := f.Form(number)
	if t == nil {
		return map[string]string{}, nil
	}
	broken, err := returns.Check(t, f.Named(number, values), at)
	if err != nil {
		return nil, err
	}
	keys := returns.Keys(f.Columns, number)
	out := map[string]string{}
	for name, why := range broken {
		if key := keys[name]; key != "" {
			out[key] = why
		}
	}
	return out, nil
}

// pdf reads a PDF: its fields; of a flattened one what stands at their places; of a scanned one the picture.
func (r *Reader) pdf(ctx context.Context, f *Forms, number int, b []byte, at time.Time) (store.Understood, error) {
	if number == 0 {
		var err error
		if number, err = r.byFile(ctx, f, b); err != nil {
			return store.Understood{}, err
		}
	}
	c, err := read.Answered(b)
	if err != nil {
		return Waiting(fmt.Sprintf("the PDF cannot be read: %v", err)), nil
	}
	if len(c.Named) > 0 {
		return f.Understand(number, c, at)
	}
	return r.flat(ctx, f, number, b, at)
}

// byFile tells of which edition a PDF is an update: readers that save behind the file leave the edition as it was. 0 is none.
func (r *Reader) byFile(ctx context.Context, f *Forms, b []byte) (int, error) {
	for i := len(f.Editions) - 1; i >= 0; i-- {
		e := f.byNumber[f.Editions[i].Number]
		if e.Size > len(b) {
			continue
		}
		file, err := r.store.File(ctx, e.File)
		if err != nil {
			return 0, err
		}
		if bytes.HasPrefix(b, file) {
			return e.Number, nil
		}
	}
	return 0, nil
}
