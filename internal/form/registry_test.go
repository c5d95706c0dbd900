package form_test

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
)

// members lists the JSON names of a model's members, those of its parts with a dot. Lists and
// pointers are members as a whole: their own types are looked at by themselves.
func members(t reflect.Type, before string) []string {
	var out []string
	for i := range t.NumField() {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Anonymous && name == "" {
			out = append(out, members(f.Type, before)...)
			continue
		}
		if f.Type.Kind() == reflect.Struct && f.Type.PkgPath() == t.PkgPath() {
			out = append(out, members(f.Type, before+name+".")...)
			continue
		}
		out = append(out, before+name)
	}
	return out
}

// covered holds a model to its rows: each member has a row that reads it, sets it, compares it and
// carries it.
func covered[T any](t *testing.T, rows []form.Property[T]) {
	t.Helper()
	var none T
	model := reflect.TypeOf(none)
	var named []string
	for _, p := range rows {
		if p.Member != "" {
			named = append(named, p.Member)
		}
		assert.NotEmpty(t, p.Key)
		require.NotNil(t, p.Get, "%s.%s cannot be written as words", model.Name(), p.Key)
		require.NotNil(t, p.Set, "%s.%s cannot be read from words", model.Name(), p.Key)
	}
	for _, m := range members(model, "") {
		assert.Contains(t, named, m, "%s.%s has no row in the registry", model.Name(), m)
	}
	for _, n := range named {
		assert.Contains(t, members(model, ""), n, "the registry names %s, which %s does not have", n, model.Name())
	}
	keys := map[string]bool{}
	for _, p := range rows {
		assert.False(t, keys[p.Key], "two rows are called %s", p.Key)
		keys[p.Key] = true
	}
	for _, path := range members(model, "") { // a change of any member is seen by its row, and carried by it
		changed := reflect.New(model).Elem()
		set(changed, strings.Split(path, "."))
		x, ok := changed.Addr().Interface().(*T)
		require.True(t, ok)
		i := slices.IndexFunc(rows, func(p form.Property[T]) bool { return p.Member == path })
		if i < 0 {
			continue
		}
		assert.False(t, rows[i].Same(x, &none), "%s.%s is not compared", model.Name(), path)
		var to T
		rows[i].Carry(&to, x)
		assert.True(t, rows[i].Same(&to, x), "%s.%s is not carried", model.Name(), path)
	}
}

// set gives a member of a value something else than nothing.
func set(v reflect.Value, path []string) {
	t := v.Type()
	for i := range t.NumField() {
		name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		if name != path[0] {
			continue
		}
		f := v.Field(i)
		if len(path) > 1 {
			set(f, path[1:])
			return
		}
		fill(f)
	}
}

func fill(f reflect.Value) {
	switch f.Kind() {
	case reflect.Bool:
		f.SetBool(true)
	case reflect.Int:
		f.SetInt(3)
	case reflect.Float64:
		f.SetFloat(3)
	case reflect.String:
		f.SetString("x")
	case reflect.Slice:
		f.Set(reflect.MakeSlice(f.Type(), 1, 1))
		fill(f.Index(0).Field(0))
	case reflect.Pointer:
		f.Set(reflect.New(f.Type().Elem()))
	case reflect.Array:
		fill(f.Index(0))
	case reflect.Struct:
		fill(f.Field(0))
	}
}

func TestEveryMemberOfTheModelIsInTheRegistry(t *testing.T) {
	covered(t, form.FieldProperties)
	covered(t, form.PageProperties)
	covered(t, form.DetailProperties)
	covered(t, form.StepProperties)
	covered(t, form.CheckProperties)
	covered(t, form.OptionProperties)
}

// What a row writes as words it reads again.
func TestPropertiesAreReadAsTheyAreWritten(t *testing.T) {
	for _, k := range form.Kinds {
		for _, p := range form.FieldProperties {
			if !p.Has(k) || p.Draft != "" || p.Key == "kind" {
				continue
			}
			f := form.Field{ID: "a", Kind: k, Name: "a"}
			for _, o := range p.Offers(&f) {
				require.NoError(t, p.Set(&f, o.Value), "%s of a %s", p.Key, k)
				if p.Key != "show" || k != form.Button { // a button that nobody asked to print stays off paper
					assert.Equal(t, o.Value, p.Get(&f), "%s of a %s", p.Key, k)
				}
			}
			said := p.Get(&f)
			require.NoError(t, p.Set(&f, said), "%s of a %s: %q", p.Key, k, said)
			assert.Equal(t, said, p.Get(&f), "%s of a %s", p.Key, k)
		}
	}
}

func TestAStyleIsWhatTheRegistrySaysItIs(t *testing.T) {
	for _, k := range form.Kinds {
		for _, p := range form.FieldProperties {
			if !p.Style || !p.Has(k) {
				continue
			}
			from := form.Field{Kind: k}
			value := map[form.Type]string{form.AsFlag: "yes", form.AsColour: "#204060", form.AsLength: "9", form.AsCount: "90"}[p.Type]
			if offers := p.Offers(&from); value == "" {
				value = offers[len(offers)-1].Value
			}
			require.NoError(t, p.Set(&from, value))
			to := form.Field{Kind: k}
			form.StyleOf(from).Dress(&to)
			assert.True(t, p.Same(&from, &to), "%s of a %s is not part of its style", p.Key, k)
		}
	}
}

// A field of a kind that cannot have a property is refused with it, or drops it when its kind changes.
func TestAKindDropsWhatItCannotHave(t *testing.T) {
	kind, _ := form.PropertyOf(form.FieldProperties, "kind")
	for _, from := range form.KindWords {
		for _, to := range form.KindWords {
			f := form.Field{ID: "a", Page: 1, Name: "a", Required: true, Tooltip: "A"}
			f.Rect.X1, f.Rect.Y1 = 20, 20
			require.NoError(t, kind.Set(&f, from.Value))
			for _, p := range form.FieldProperties {
				if p.Has(f.Kind) && p.Type == form.AsFlag && p.Draft == "" && p.Key != "linked" && p.Key != "multiline" {
					require.NoError(t, p.Set(&f, "yes"))
				}
			}
			f.Password, f.FilePath = f.Password && from.Value == "password", f.FilePath && from.Value == "file"
			require.NoError(t, kind.Set(&f, to.Value))
			assert.Equal(t, to.Value, f.KindWord(), "from %s", from.Value)
			assert.NoError(t, f.Check(form.Page{Width: 100, Height: 100}), "from %s to %s", from.Value, to.Value)
		}
	}
}

// ISO 32000-2, 12.7.5.2.4: of the buttons of a group one is on, unless they go in unison.
func TestOfAGroupOneIsOn(t *testing.T) {
	group := func(unison bool, exports ...string) *form.Template {
		tpl := &form.Template{Pages: []form.Page{{Width: 200, Height: 200}}}
		for i, e := range exports {
			f := form.Field{ID: fmt.Sprint("r", i), Page: 1, Order: float64(i), Kind: form.Radio, Name: "keel", Export: e, Unison: unison}
			f.Rect.X0, f.Rect.X1, f.Rect.Y1 = float64(20*i), float64(20*i+10), 10
			tpl.Fields = append(tpl.Fields, f)
		}
		return tpl
	}
	checked, _ := form.PropertyOf(form.FieldProperties, "checked")
	turn := func(tpl *form.Template, id, to string) form.Edit {
		e, err := tpl.Set("on", []string{id}, func(f *form.Field) error { return checked.Set(f, to) })
		require.NoError(t, err)
		e = tpl.Settled(e)
		require.NoError(t, tpl.Apply(e))
		return e
	}
	on := func(tpl *form.Template) (out []string) {
		for _, f := range tpl.Fields {
			if f.On() {
				out = append(out, f.ID)
			}
		}
		return out
	}
	tpl := group(false, "fin", "long", "bilge")
	turn(tpl, "r0", "yes")
	e := turn(tpl, "r2", "yes")
	assert.Equal(t, []string{"r2"}, on(tpl))
	require.NoError(t, tpl.Apply(e.Inverse()))
	assert.Equal(t, []string{"r0"}, on(tpl), "undo brings the other back")
	assert.Empty(t, form.Excess(tpl.Fields))

	tpl = group(true, "port", "port", "starboard")
	turn(tpl, "r0", "yes")
	turn(tpl, "r1", "yes")
	assert.Equal(t, []string{"r0", "r1"}, on(tpl), "in unison those that send the same go together")
	turn(tpl, "r2", "yes")
	assert.Equal(t, []string{"r2"}, on(tpl))

	tpl = group(false, "fin", "long")
	turn(tpl, "r0", "yes")
	export, _ := form.PropertyOf(form.FieldProperties, "export")
	require.NoError(t, export.Set(&tpl.Fields[0], "fin keel"))
	assert.True(t, tpl.Fields[0].On(), "what it sends is renamed, and it stays on")
	e, err := tpl.Duplicate([]string{"r0"}, 40, 0)
	require.NoError(t, err)
	assert.False(t, e.After[0].On(), "a copy is another button of the group")

	boxes := group(false, "a", "b")
	for i := range boxes.Fields {
		boxes.Fields[i].Kind, boxes.Fields[i].Name = form.CheckBox, fmt.Sprint("box", i)
		require.NoError(t, checked.Set(&boxes.Fields[i], "yes"))
	}
	e, err = boxes.GroupRadio([]string{"r0", "r1"})
	require.NoError(t, err)
	require.NoError(t, boxes.Apply(boxes.Settled(e)))
	assert.Equal(t, []string{"r0"}, on(boxes), "two ticked boxes become one question with one answer")
}

func TestRenamingOneButtonRenamesItsGroup(t *testing.T) {
	tpl := &form.Template{Pages: []form.Page{{Width: 200, Height: 200}}}
	for i := range 3 {
		f := form.Field{ID: fmt.Sprint("r", i), Page: 1, Kind: form.Radio, Name: "keel", Export: fmt.Sprint(i)}
		f.Rect.X0, f.Rect.X1, f.Rect.Y1 = float64(20*i), float64(20*i+10), 10
		tpl.Fields = append(tpl.Fields, f)
	}
	e, err := tpl.Rename("r1", "hull")
	require.NoError(t, err)
	require.NoError(t, tpl.Apply(e))
	for _, f := range tpl.Fields {
		assert.Equal(t, "hull", f.Name)
	}
	e, err = tpl.Ungroup([]string{"r2"})
	require.NoError(t, err)
	require.NoError(t, tpl.Apply(e))
	f, _ := tpl.Field("r2")
	assert.Equal(t, "hull_2", f.Name, "a group is split only when it is asked for")
	_, err = tpl.Ungroup([]string{"nobody"})
	assert.ErrorIs(t, err, form.ErrClash)
}
