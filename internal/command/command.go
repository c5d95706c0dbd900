package command

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Command is one thing that is asked of a draft.
type Command interface {
	// plan works out the edit; it changes nothing.
	plan(d *Desk) (form.Edit, error)
}

// Reader is a command that goes by what is printed: Reads lists the numbers of the pages whose
// evidence it needs in the draft.
type Reader interface {
	Command
	Reads(t *form.Template) []int
}

// Desk is what commands work on.
type Desk struct {
	Draft *form.Template
	Pages map[int]*evidence.Page // what is printed, by page number, as far as it was read
	House form.House
	Words detect.HouseWords
	Now   time.Time
}

// Reads lists the pages, from 1, whose evidence the commands need.
func Reads(t *form.Template, commands ...Command) []int {
	var out []int
	for _, c := range commands {
		if r, ok := c.(Reader); ok {
			for _, n := range r.Reads(t) {
				if n >= 1 && n <= len(t.Pages) && !slices.Contains(out, n) {
					out = append(out, n)
				}
			}
		}
	}
	return out
}

// Do carries commands out, one after the other, as one edit. It gives [form.ErrNothing] when they
// change nothing, [form.ErrClash] when a field is gone, and other errors in words.
func (d Desk) Do(commands ...Command) (form.Edit, error) {
	if len(commands) == 1 {
		e, err := commands[0].plan(&d)
		if err != nil {
			return form.Edit{}, err
		}
		return d.Draft.Settled(e), nil
	}
	from := d.Draft
	draft := *d.Draft
	d.Draft = &draft
	var titles []string
	for i, c := range commands {
		e, err := c.plan(&d)
		if errors.Is(err, form.ErrNothing) {
			continue
		}
		if err == nil {
			err = draft.Apply(draft.Settled(e))
		}
		if err != nil {
			return form.Edit{}, fmt.Errorf("command %d (%s): %w", i+1, Name(c), err)
		}
		titles = append(titles, e.Title)
	}
	if len(titles) == 0 {
		return form.Edit{}, form.ErrNothing
	}
	if len(titles) > 2 {
		titles = append(titles[:2], fmt.Sprintf("and %d more", len(titles)-2))
	}
	return from.Towards(strings.Join(titles, ", "), &draft)
}

// names are the commands by their JSON names.
var names = map[string]Command{
	"place": Place{}, "add": Add{}, "again": Again{}, "boxes": Boxes{}, "extend": Extend{}, "find": Find{},
	"move": Move{}, "resize": Resize{}, "put": Put{}, "line-up": LineUp{},
	"remove": Remove{}, "duplicate": Duplicate{}, "repeat": Repeat{}, "copy-to": CopyTo{}, "paste": Paste{},
	"split": Split{}, "join": Join{}, "radio-group": GroupRadio{}, "ungroup": Ungroup{}, "link": Link{}, "unlink": Unlink{},
	"keep": Keep{}, "drop": Drop{}, "keep-all": KeepAll{}, "drop-below": DropBelow{}, "plain-finds": PlainFinds{},
	"order": Order{}, "order-by": OrderBy{}, "sequence": Sequence{},
	"set": Set{}, "dress": Dress{}, "copy-formula": CopyFormula{}, "mend": Mend{},
	"check-add": CheckAdd{}, "check-set": CheckSet{}, "check-drop": CheckDrop{},
	"step-add": StepAdd{}, "step-set": StepSet{}, "step-up": StepUp{}, "step-drop": StepDrop{},
	"describe": Describe{}, "turn-pages": TurnPages{}, "move-pages": MovePages{}, "remove-pages": RemovePages{}, "show-pages": ShowPages{},
	"duplicate-pages": DuplicatePages{},
	"insert-pages":    InsertPages{}, "straighten": Straighten{}, "crop": Crop{}, "resize-pages": ResizePages{}, "reread": Reread{},
}

// Names lists the JSON names of all commands.
func Names() []string { return slices.Sorted(maps.Keys(names)) }

// Name is the JSON name of a command.
func Name(c Command) string {
	t := reflect.Indirect(reflect.ValueOf(c)).Type()
	for name, sample := range names {
		if reflect.TypeOf(sample) == t {
			return name
		}
	}
	return t.Name()
}

// List is commands as JSON: an array of objects, each with its name in "do".
type List []Command

// UnmarshalJSON reads commands; a name or a member that is not known is refused by name.
func (l *List) UnmarshalJSON(b []byte) error {
	var raw []json.RawMessage
	if err := json.Unmarshal(b, &raw); err != nil {
		return errors.New(`commands are a JSON list, such as [{"do": "set", "fields": ["arrival"], "key": "required", "value": true}]`)
	}
	*l = make(List, 0, len(raw))
	for i, r := range raw {
		c, err := Read(r)
		if err != nil {
			return fmt.Errorf("command %d: %w", i+1, err)
		}
		*l = append(*l, c)
	}
	return nil
}

// MarshalJSON writes commands.
func (l List) MarshalJSON() ([]byte, error) {
	out := make([]json.RawMessage, len(l))
	for i, c := range l {
		b, err := json.Marshal(c)
		if err != nil {
			return nil, err
		}
		head := fmt.Appendf(nil, `{"do":%q`, Name(c))
		if len(b) > 2 {
			head = append(head, ',')
		}
		out[i] = append(head, b[1:]...)
	}
	return json.Marshal(out)
}

// Read reads one command.
func Read(b []byte) (Command, error) {
	members := map[string]json.RawMessage{}
	if err := json.Unmarshal(b, &members); err != nil {
		return nil, fmt.Errorf("it is not a JSON object: %w", err)
	}
	var do string
	if err := json.Unmarshal(members["do"], &do); err != nil || names[do] == nil {
		return nil, fmt.Errorf("there is no command %q: use one of %s", do, strings.Join(Names(), ", "))
	}
	delete(members, "do")
	rest, err := json.Marshal(members)
	if err != nil {
		return nil, err
	}
	v := reflect.New(reflect.TypeOf(names[do]))
	dec := json.NewDecoder(bytes.NewReader(rest))
	dec.DisallowUnknownFields()
	if err := dec.Decode(v.Interface()); err != nil {
		return nil, fmt.Errorf("%s: %s", do, strings.TrimPrefix(err.Error(), "json: "))
	}
	c, ok := v.Elem().Interface().(Command)
	if !ok {
		return nil, fmt.Errorf("%s cannot be read", do)
	}
	return c, nil
}

// goneError tells that there is no field of an id or a name: it may have been there before. It is a
// [form.ErrClash].
type goneError string

func (e goneError) Error() string { return fmt.Sprintf("there is no field called %q", string(e)) }

func (e goneError) Is(target error) bool { return target == form.ErrClash }

// ids finds fields by id or by name.
func (d *Desk) ids(refs []string) ([]string, error) {
	out := make([]string, 0, len(refs))
	for _, ref := range refs {
		if _, ok := d.Draft.Field(ref); ok {
			out = append(out, ref)
			continue
		}
		found := false
		for i := range d.Draft.Fields {
			if f := &d.Draft.Fields[i]; f.Name == ref {
				out, found = append(out, f.ID), true
			}
		}
		if !found {
			return nil, goneError(ref)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("choose a field first")
	}
	return out, nil
}

// one finds the one field that is meant: of several of a name, the first.
func (d *Desk) one(ref string) (form.Field, error) {
	if ref == "" {
		return form.Field{}, errors.New("choose a field first")
	}
	ids, err := d.ids([]string{ref})
	if err != nil {
		return form.Field{}, err
	}
	f, _ := d.Draft.Field(ids[0])
	return f, nil
}

// who is what an edit calls fields: the name of the one, or how many they are.
func (d *Desk) who(ids []string) string {
	if f, ok := d.Draft.Field(ids[0]); ok && len(ids) == 1 {
		return f.Name
	}
	return strconv.Itoa(len(ids)) + " fields"
}

// page is a page by its number, from 1.
func (d *Desk) page(n int) (form.Page, error) {
	if n < 1 || n > len(d.Draft.Pages) {
		return form.Page{}, fmt.Errorf("there is no page %d: the document has pages 1 to %d", n, len(d.Draft.Pages))
	}
	return d.Draft.Pages[n-1], nil
}

// evidence is what is printed on a page; a page that was not read has nothing printed on it.
func (d *Desk) evidence(n int) *evidence.Page {
	if ev := d.Pages[n]; ev != nil {
		return ev
	}
	p := d.Draft.Pages[n-1]
	return evidence.NewBuilder(p.Width, p.Height, p.Rotate).Page()
}

// Point is a place on a page in points: [x, y].
type Point [2]float64

func (p Point) at() geom.Point { return geom.Point{X: p[0], Y: p[1]} }

// Rect is a rectangle on a page in points: [left, bottom, right, top].
type Rect [4]float64

func (r Rect) rect() geom.Rect { return geom.R(r[0], r[1], r[2], r[3]) }

// RectOf writes a rectangle as a command has it.
func RectOf(r geom.Rect) *Rect { return &Rect{r.X0, r.Y0, r.X1, r.Y1} }
