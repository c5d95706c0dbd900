package command_test

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func box(id, name string, x, y float64) form.Field {
	return form.Field{ID: id, Kind: form.CheckBox, Name: name, Tooltip: name, Rect: geom.R(x, y, x+10, y+10)}
}

func number(v float64) *float64 { return &v }

// Every command that is written has a name by which it can be given; the source says which there are.
func TestEveryCommandHasAName(t *testing.T) {
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	var written []string
	for _, name := range files {
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		require.NoError(t, err)
		for _, d := range f.Decls {
			m, ok := d.(*ast.FuncDecl)
			if !ok || m.Recv == nil || m.Name.Name != "plan" {
				continue
			}
			if of, ok := m.Recv.List[0].Type.(*ast.Ident); ok {
				written = append(written, of.Name)
			}
		}
	}
	var known []string
	for _, name := range command.Names() {
		c, err := command.Read(fmt.Appendf(nil, `{"do": %q}`, name))
		require.NoError(t, err, name)
		assert.Equal(t, name, command.Name(c))
		known = append(known, reflect.TypeOf(c).Name())
	}
	assert.ElementsMatch(t, written, known)
}

// Numbers say where fields lie on the page as it is shown: from its upper left, however it is turned.
func TestPlacesAreSetInNumbers(t *testing.T) {
	for quarters := range 4 {
		d := desk(text("a", "vessel", 200), text("b", "port", 150))
		p := &d.Draft.Pages[0]
		p.Rotate = 90 * quarters
		tpl := do(t, d, command.Put{Fields: []string{"vessel"}, Left: number(30), Top: number(40), Width: number(120), Height: number(25)})
		view := named(t, tpl, "vessel").Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate))
		for i, v := range []float64{30, 40, 150, 65} {
			assert.InDelta(t, v, []float64{view.X0, view.Y0, view.X1, view.Y1}[i], 0.01, "turned by %d", p.Rotate)
		}
		tpl = do(t, d, command.Put{Fields: []string{"vessel", "port"}, Left: number(70)})
		for _, f := range tpl.Fields {
			before, _ := d.Draft.Field(f.ID)
			assert.InDelta(t, before.Rect.W(), f.Rect.W(), 0.01, "only its place")
			assert.InDelta(t, 70, f.Rect.Apply(geom.ToView(p.Width, p.Height, p.Rotate)).X0, 0.01)
		}
	}
	_, err := desk(text("a", "vessel", 200)).Do(command.Put{Fields: []string{"vessel"}, Width: number(1)})
	assert.ErrorContains(t, err, "points wide and high")
}

// A field is split along its longer side into parts of one size that cover it; joining them gives it back.
func TestFieldsAreSplitAndJoined(t *testing.T) {
	for _, r := range []geom.Rect{geom.R(50, 100, 250, 120), geom.R(50, 60, 70, 260)} {
		f := text("a", "vessel", 0)
		f.Rect, f.Comb, f.MaxLen = r, 8, 8
		for _, n := range []int{2, 3, 7} {
			tpl := do(t, desk(f, text("z", "last", 20)), command.Split{Field: "vessel", N: n})
			require.Len(t, tpl.Fields, n+1)
			parts := tpl.OnPage(1)[:n]
			union := parts[0].Rect
			for i, p := range parts {
				assert.Zero(t, p.Comb)
				assert.InDelta(t, r.Area()/float64(n), p.Rect.Area(), 25)
				for _, o := range parts[i+1:] {
					assert.Less(t, p.Rect.Intersect(o.Rect).Area(), 1.0)
				}
				union = union.Union(p.Rect)
			}
			assert.Equal(t, "vessel", parts[0].Name)
			assert.Equal(t, "last", tpl.OnPage(1)[n].Name, "they come where it was in the tab order")
			assert.InDelta(t, r.Area(), union.Area(), 25)
			if r.H() > r.W() {
				assert.Greater(t, parts[0].Rect.Y0, parts[1].Rect.Y0, "from the top down")
			}
			d := desk()
			d.Draft = tpl
			var ids []string
			for _, p := range parts {
				ids = append(ids, p.ID)
			}
			tpl = do(t, d, command.Join{Fields: ids})
			require.Len(t, tpl.Fields, 2)
			assert.InDelta(t, r.Area(), named(t, tpl, "vessel").Rect.Area(), 25)
		}
	}
	d := desk(text("a", "vessel", 200), text("b", "port", 170))
	tpl := do(t, d, command.Join{Fields: []string{"vessel"}})
	require.Len(t, tpl.Fields, 1, "a single one is joined with the next")
	assert.True(t, tpl.Fields[0].Multiline, "they stood below each other")
	for words, c := range map[string]command.Command{
		"split into 2 to 20":     command.Split{Field: "vessel", N: 1},
		"too small to be":        command.Split{Field: "vessel", N: 20},
		"two or more on one":     command.Join{Fields: []string{"port"}},
		"choose the fields to l": command.LineUp{How: "left"},
		"is not a page of this":  command.CopyTo{Fields: []string{"port"}, Pages: "2-9"},
		"no copied fields":       command.Paste{Page: 1},
		"use rows, columns":      command.OrderBy{Page: 1, By: "colour"},
		"no field called":        command.Link{Field: "port", To: "nowhere"},
		"from 0 to 1":            command.DropBelow{Confidence: 2},
		"half an inch":           command.Crop{Page: "1", Rect: command.Rect{0, 0, 20, 200}},
		"choose a page first":    command.TurnPages{Quarters: 1},
		"copies at once":         command.Repeat{Fields: []string{"port"}, N: 501},
	} {
		_, err := d.Do(c)
		assert.ErrorContains(t, err, words)
	}
	_, err := desk(text("a", "vessel", 200), text("b", "port", 170)).Do(command.Split{Field: "gone-from-here1", N: 2})
	assert.Error(t, err)
}

// One box takes those of its line or column into a group of radio buttons; each sends what it was called, and they part again.
func TestBoxesBecomeOneQuestion(t *testing.T) {
	d := desk(box("a", "yes", 50, 100), box("b", "no", 100, 100), box("c", "perhaps", 150, 101), box("d", "tick", 50, 20),
		text("e", "vessel", 200))
	tpl := do(t, d, command.GroupRadio{Fields: []string{"yes"}})
	var exports []string
	for _, f := range tpl.Fields[:3] {
		assert.Equal(t, form.Radio, f.Kind)
		assert.Equal(t, "yes_choice", f.Name)
		exports = append(exports, f.Export)
	}
	assert.Equal(t, []string{"yes", "no", "perhaps"}, exports)
	assert.Equal(t, form.CheckBox, tpl.Fields[3].Kind, "it stands far below")
	_, err := d.Do(command.GroupRadio{Fields: []string{"tick"}})
	assert.ErrorContains(t, err, "two or more")
	_, err = d.Do(command.GroupRadio{Fields: []string{"tick", "vessel"}})
	assert.ErrorContains(t, err, "only check boxes")
	d.Draft = tpl
	apart := do(t, d, command.Ungroup{Fields: []string{tpl.Fields[1].ID}})
	assert.NotEqual(t, apart.Fields[0].Name, apart.Fields[1].Name)
	assert.Equal(t, apart.Fields[0].Name, apart.Fields[2].Name)
}

// A field shows its answer again in the printed cell at a point, or as large as it is; it parts from there.
func TestAnAnswerIsShownAgain(t *testing.T) {
	d := desk(text("a", "vessel", 20))
	c := command.Again{Field: "vessel", Page: 1, At: &command.Point{200, 225}}
	assert.Equal(t, []int{1}, command.Reads(d.Draft, c))
	tpl := do(t, d, c)
	second := func() form.Field {
		require.Len(t, tpl.Fields, 2)
		return tpl.Fields[slices.IndexFunc(tpl.Fields, func(f form.Field) bool { return f.ID != "a" })]
	}
	assert.Equal(t, "vessel", second().Name)
	assert.InDelta(t, 220, second().Rect.W(), 3, "as long as the line that is printed there")
	tpl = do(t, d, command.Again{Field: "vessel", Page: 2, At: &command.Point{100, 100}})
	assert.InDelta(t, 100, second().Rect.W(), 0.01)
	assert.Equal(t, 2, second().Page)
	d.Draft = tpl
	tpl = do(t, d, command.Unlink{Field: second().ID})
	assert.NotEqual(t, "vessel", second().Name)
	d.Draft = tpl
	tpl = do(t, d, command.Link{Field: second().ID, To: "vessel"})
	assert.Equal(t, "vessel", second().Name)
	_, err := d.Do(command.Again{Field: "vessel", Page: 1})
	assert.ErrorContains(t, err, "say where")
}

// A radio button that is placed in a printed question joins its group; the box that is drawn over printed ones becomes theirs.
func TestBoxesGoByWhatIsPrinted(t *testing.T) {
	over := text("a", "services", 0)
	over.Rect = geom.R(30, 110, 60, 170)
	d := desk(over)
	assert.Equal(t, []int{1}, command.Reads(d.Draft, command.Boxes{Field: "services"}))
	tpl := do(t, d, command.Boxes{Field: "services"})
	require.Len(t, tpl.Fields, 2)
	assert.Equal(t, "shore_power", tpl.Fields[0].Name)
	assert.Equal(t, "water", tpl.Fields[1].Name)
	far := text("b", "remarks", 20)
	tpl = do(t, desk(far), command.Boxes{Field: "remarks"})
	require.Len(t, tpl.Fields, 2, "where nothing is printed, its two halves")
	for _, f := range tpl.Fields {
		assert.Equal(t, form.CheckBox, f.Kind)
		assert.LessOrEqual(t, f.Rect.W(), 12.0)
	}
	first := do(t, desk(), command.Place{Page: 1, Kind: "radio", At: &command.Point{45, 155}})
	require.Len(t, first.Fields, 1)
	d = desk()
	d.Draft = first
	second := do(t, d, command.Place{Page: 1, Kind: "radio", At: &command.Point{45, 125}, Group: first.Fields[0].Name})
	require.Len(t, second.Fields, 2)
	assert.Equal(t, second.Fields[0].Name, second.Fields[1].Name)
	assert.NotEqual(t, second.Fields[0].Export, second.Fields[1].Export)
	datum := command.Datum{Key: "vessel_name", Title: "Name of vessel", Signs: 20}
	tpl = do(t, desk(), command.Place{Page: 2, Kind: "text", At: &command.Point{50, 100}, Datum: &datum})
	assert.Equal(t, "name_vessel", tpl.Fields[0].Name)
	assert.Equal(t, form.FromPerson, tpl.Fields[0].Source)
	assert.InDelta(t, 120, tpl.Fields[0].Rect.W(), 1)
	_, err := desk().Do(command.Place{Page: 2, Kind: "checkbox", At: &command.Point{50, 100}, Datum: &datum})
	assert.ErrorContains(t, err, "text fields")
}

func TestPageNumbersAreReadAsPeopleWriteThem(t *testing.T) {
	for said, want := range map[string][]int{
		"2": {2}, "1, 3": {1, 3}, " 2 - 4 ,1": {2, 3, 4, 1}, "All": {1, 2, 3, 4, 5}, "2,2-3,3": {2, 3},
	} {
		got, err := command.Numbers(said, 5)
		require.NoError(t, err, said)
		assert.Equal(t, want, got, said)
	}
	for _, bad := range []string{"", "0", "6", "3-2", "-1", "1-", "one", "1;2", "1-99999999999999999999"} {
		_, err := command.Numbers(bad, 5)
		assert.ErrorContains(t, err, "is not a page of this document", bad)
	}
}

// sound says what is wrong with a draft: a field off its page, one with another's id, one name for fields that are no places of one answer.
func sound(t *form.Template) string {
	ids, names := map[string]bool{}, map[string]form.Kind{}
	for _, f := range t.Fields {
		switch {
		case f.Page < 1 || f.Page > len(t.Pages):
			return f.Name + " is on no page"
		case ids[f.ID] || f.ID == "":
			return f.Name + " has an id that is taken"
		case form.CheckName(f.Name) != nil:
			return form.CheckName(f.Name).Error()
		case f.Rect.W() < form.MinSide-0.01 || f.Rect.H() < form.MinSide-0.01:
			return fmt.Sprintf("%s is %v", f.Name, f.Rect)
		case !t.Pages[f.Page-1].Rect().Inset(-0.02).Covers(f.Rect, 0.4):
			return fmt.Sprintf("%s lies at %v", f.Name, f.Rect)
		}
		if k, there := names[f.Name]; there && k != f.Kind {
			return f.Name + " is of two kinds"
		}
		ids[f.ID], names[f.Name] = true, f.Kind
	}
	return ""
}

// Whatever is asked of a draft by chance: the edit changes nothing before it is applied, leaves a sound draft, and taking it back gives
// what was there.
func TestAnythingAskedByChanceCanBeTakenBack(t *testing.T) {
	seed := rand.Uint64()
	if v, err := strconv.ParseUint(os.Getenv("ZM_SEED"), 10, 64); err == nil {
		seed = v
	}
	t.Logf("ZM_SEED=%d", seed)
	rng := rand.New(rand.NewPCG(seed, 9))
	some := func(tpl *form.Template, n int) (out []string) {
		for range n {
			out = append(out, tpl.Fields[rng.IntN(len(tpl.Fields))].ID)
		}
		slices.Sort(out)
		return slices.Compact(out)
	}
	at := func() *command.Point { return &command.Point{rng.Float64() * 400, rng.Float64() * 300} }
	carried := map[string]int{}
	for range 12 {
		d := desk(text("a", "vessel", 200), text("b", "port", 150), box("c", "yes", 50, 100), box("d", "no", 90, 100))
		for range 60 {
			if len(d.Draft.Fields) == 0 {
				break
			}
			page := 1 + rng.IntN(len(d.Draft.Pages))
			one := some(d.Draft, 1)[0]
			all := []command.Command{
				command.Place{
					Page: page,
					Kind: []string{"text", "lines", "checkbox", "radio", "choice", "signature"}[rng.IntN(6)],
					At:   at(),
				},
				command.Again{Field: one, Page: page, At: at()},
				command.Boxes{Field: one},
				command.Find{Page: page},
				command.Move{Fields: some(d.Draft, 3), DX: rng.NormFloat64() * 300, DY: rng.NormFloat64() * 300},
				command.Resize{Field: one, Rect: command.Rect{rng.Float64() * 400, 10, rng.Float64() * 500, rng.Float64() * 400}},
				command.Put{Fields: some(d.Draft, 2), Left: number(rng.Float64() * 500), Height: number(rng.Float64() * 60)},
				command.LineUp{Fields: some(d.Draft, 3), How: []string{"left", "top", "width", "spread-down"}[rng.IntN(4)]},
				command.Order{
					Field: one,
					To:    rng.IntN(8),
				},
				command.OrderBy{Page: page, By: []string{"rows", "columns", "structure"}[rng.IntN(3)]},
				command.Sequence{Page: page, Fields: some(d.Draft, 2)},
				command.Remove{Fields: some(d.Draft, 1)},
				command.Duplicate{Fields: some(d.Draft, 2), DX: 12, DY: -12},
				command.Repeat{Fields: some(d.Draft, 1), N: 2, DY: -20},
				command.CopyTo{Fields: some(d.Draft, 2), Pages: "all"},
				command.Split{Field: one, N: 2 + rng.IntN(3)},
				command.Join{
					Fields: some(d.Draft, 2),
				},
				command.GroupRadio{Fields: some(d.Draft, 2)},
				command.Ungroup{Fields: some(d.Draft, 2)},
				command.Link{Field: one, To: some(d.Draft, 1)[0]},
				command.Unlink{Field: one},
				command.KeepAll{},
				command.TurnPages{Pages: []string{strconv.Itoa(page)}, Quarters: 1 + rng.IntN(3)},
				command.MovePages{Pages: []string{strconv.Itoa(page)}, To: 1 + rng.IntN(3)},
				command.DuplicatePages{Pages: []string{strconv.Itoa(page)}},
				command.RemovePages{Pages: []string{strconv.Itoa(page)}},
				command.Crop{Page: strconv.Itoa(page), Rect: command.Rect{rng.Float64() * 90, rng.Float64() * 90, 390, 290}},
			}
			c := all[rng.IntN(len(all))]
			if len(d.Draft.Pages) > 6 || len(d.Draft.Fields) > 60 {
				c = command.Remove{Fields: some(d.Draft, 20)}
			}
			before := form.Template{Pages: slices.Clone(d.Draft.Pages), Fields: slices.Clone(d.Draft.Fields)}
			e, err := d.Do(c)
			require.Equal(t, before.Fields, d.Draft.Fields, "%s: nothing changes before the edit is applied", command.Name(c))
			if err != nil {
				assert.NotEmpty(t, err.Error())
				continue
			}
			after := *d.Draft

			require.NoError(t, after.Apply(e), "%s %+v", command.Name(c), c)
			require.Empty(t, sound(&after), "%s %+v", command.Name(c), c)
			back := after
			require.NoError(t, back.Apply(e.Inverse()), command.Name(c))
			require.Equal(t, before.Pages, back.Pages, "%s %+v", command.Name(c), c)
			require.ElementsMatch(t, before.Fields, back.Fields, "%s %+v", command.Name(c), c)
			d.Draft = &after
			if strings.Contains(command.Name(c), "pages") || command.Name(c) == "crop" {
				d.Pages = nil // what is printed lies elsewhere then
			}
			carried[command.Name(c)]++
		}
	}
	assert.Greater(t, len(carried), 15, "of every sort: %v", carried)
}
