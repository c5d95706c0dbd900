package e2e_test

import (
	"fmt"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/store"
)

// counted is an office whose actions are counted: a press, a drag, a key chord, or one
// entry of text.
type counted struct {
	*office
	n int
}

func (c *counted) press(css string) { c.n++; c.must(c.Click(css)) }
func (c *counted) at(x, y float64)  { c.n++; c.pressPage(x, y) }
func (c *counted) key(k string)     { c.n++; c.must(c.Key(k)) }
func (c *counted) entry(id, key, v string) {
	c.n++
	c.set(id, key, v)
}

func (c *counted) frame(x0, y0, x1, y1 float64) {
	c.n++
	ax, ay := c.onPage(x0, y0)
	bx, by := c.onPage(x1, y1)
	c.must(c.Drag(ax, ay, bx, by))
}

// most reads from the table of the documentation how many actions a task may take.
func most(t *testing.T, task string) int {
	t.Helper()
	b, err := os.ReadFile("../docs/effort.md")
	require.NoError(t, err)
	for line := range strings.SplitSeq(string(b), "\n") {
		if cells := strings.Split(line, "|"); len(cells) > 3 && strings.TrimSpace(cells[1]) == task {
			n, err := strconv.Atoi(regexp.MustCompile(`\d+`).FindString(cells[2]))
			require.NoError(t, err)
			return n
		}
	}
	t.Fatalf("docs/effort.md does not list %q", task)
	return 0
}

// effort opens a stage with nothing on it, runs a task, and holds its actions to the table.
func effort(t *testing.T, task, path string, run func(c *counted)) {
	t.Helper()
	c := &counted{office: openOffice(t)}
	c.signIn()
	c.bench(path)
	run(c)
	assert.LessOrEqual(t, c.n, most(t, task), task)
	t.Logf("%s: %d actions", task, c.n)
}

func TestEffortATextFieldInACell(t *testing.T) {
	effort(t, "a text field fitted into a captioned cell, named and with its tooltip", "/documents/1/fit", func(c *counted) {
		c.key("1")
		c.at(100, 285)
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
		f := c.draft().Template.Fields[0]
		assert.Equal(t, "name_vessel", f.Name)
		assert.Equal(t, "Name of vessel", f.Tooltip)
		assert.InDelta(t, 56, f.Rect.X0, 1, "on the line of its cell")
	})
}

func TestEffortABigBoxBecomesCheckBoxes(t *testing.T) {
	effort(t, "one wrongly found big box becomes two check boxes", "/documents/1/fit", func(c *counted) {
		// over two of the printed boxes for services
		_, err := c.store.Change(t.Context(), 1, -1, 1, "fit", func(tpl *form.Template) (form.Edit, error) {
			return tpl.Add("placed", []form.Field{{
				Page: 1, Kind: form.Text, Name: "services_wanted", Tooltip: "Services wanted",
				Rect: geom.R(155, 841.89-430, 325, 841.89-412),
			}})
		})
		require.NoError(t, err)
		c.bench("/documents/1/fit")
		id := c.draft().Template.Fields[0].ID
		c.press("#n-" + id + " .line")
		c.must(c.Wait("document.querySelector('.note.open [data-do=boxes]')"))
		c.press(".note.open [data-do=boxes]")
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 2 }, "two")
		for i, f := range c.draft().Template.Fields {
			assert.Equal(t, form.CheckBox, f.Kind)
			assert.Equal(t, []string{"shore_power", "fresh_water"}[i], f.Name)
		}
	})
}

func TestEffortASecondPlace(t *testing.T) {
	effort(t, "an answer typed once is shown at a second place too", "/documents/1/fit?zoom=50", func(c *counted) {
		c.must(c.Key("1"))
		c.pressPage(300, 700)
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
		c.must(c.Wait("document.querySelector('.note.open [data-again]')"))
		c.press(".note.open [data-again]")
		c.at(300, 740)
		c.eventually(func(d store.Draft) bool { return len(d.Template.Places(d.Template.Fields[0].ID)) == 2 }, "at both")
	})
}

func TestEffortADropdown(t *testing.T) {
	effort(t, "dropdown with three options and a blank first", "/documents/1/fit?zoom=50", func(c *counted) {
		c.press("#kit [data-kind=choice]")
		c.at(300, 700)
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 1 }, "placed")
		id := c.draft().Template.Fields[0].ID
		c.must(c.Wait("document.getElementById('b-" + id + "-options')"))
		c.entry(id, "options", "fin\\nbilge\\nlong")
		c.entry(id, "blankfirst", "yes")
	})
}

func TestEffortATable(t *testing.T) {
	effort(t, "a 6 x 8 table of well-named fields over printed cells", "/documents/1/fit", func(c *counted) {
		id := c.bringIn("table-6x8.pdf", tableSheet(t, 6, 8))
		c.bench(fmt.Sprintf("/documents/%d/fit?zoom=50", id))
		c.key("1")
		c.frame(52, 122, 542, 300)
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 48 }, "filled")
		names := map[string]bool{}
		for _, f := range c.draft().Template.Fields {
			names[f.Name] = true
		}
		assert.Contains(t, names, "berth_1")
		assert.Contains(t, names, "draught_8")
	})
}

func TestEffortThreeButtons(t *testing.T) {
	effort(t, "clear, print and save buttons, evenly spaced, centred, on screen but not on paper", "/documents/1/rules?zoom=50",
		func(c *counted) {
			c.press("#kit [data-kind=trio]")
			c.at(300, 730)
			c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 3 }, "placed")
			f := c.draft().Template.Fields
			assert.InDelta(t, 595.28/2, (f[0].Rect.X0+f[2].Rect.X1)/2, 0.1, "centred")
			assert.InDelta(t, f[1].Rect.X0-f[0].Rect.X1, f[2].Rect.X0-f[1].Rect.X1, 0.02, "evenly spaced")
			for i, want := range []form.Deed{form.ClearForm, form.PrintForm, form.SaveForm} {
				assert.Equal(t, want, f[i].Action.Do)
				assert.Equal(t, form.ShowScreen, f[i].Shows())
			}
		})
}

func TestEffortTabOrderOfTwoColumns(t *testing.T) {
	effort(t, "tab order of a two-column page put right", "/documents/1/order", func(c *counted) {
		c.twoColumns()
		c.bench("/documents/1/order")
		c.press("#structure")
		c.eventually(func(d store.Draft) bool { return d.Undo == "ordered as the page is built" }, "put right")
	})
}

// A two-page form with 40 found fields, some of them wrong, made right and released.
func TestEffortAWholeForm(t *testing.T) {
	effort(t, "a two-page form with 40 found fields, 6 of them wrong, made right and released", "/documents/1/find", func(c *counted) {
		c.press("#find-all")
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) >= 40 }, "found")
		// six are wrong: three names, one kind, one that is none, one too short
		_, err := c.store.Change(t.Context(), 1, -1, 1, "fit", func(tpl *form.Template) (form.Edit, error) {
			e := form.Edit{Title: "spoilt"}
			for _, f := range tpl.Fields {
				g := f
				switch f.Name {
				case "beam_m", "draught_m", "until":
					g.Name = "field_" + f.Name
				case "insured_with":
					g.Kind = form.Signature
				case "e_mail":
					g.Rect.X1 = g.Rect.X0 + 20
				default:
					continue
				}
				e.Before, e.After = append(e.Before, f), append(e.After, g)
			}
			return e, nil
		})
		require.NoError(t, err)
		c.bench("/documents/1/find")
		c.press("#drop-below")
		c.eventually(func(d store.Draft) bool { return d.Document.Doubtful == 0 }, "the doubtful are dropped")
		fix := func(name, key, value string) {
			id := c.fieldID(name)
			c.press("#n-" + id + " .line")
			c.must(c.Wait("document.getElementById('b-" + id + "-" + key + "')"))
			c.entry(id, key, value)
		}
		fix("field_beam_m", "name", "beam_m")
		fix("field_draught_m", "name", "draught_m")
		fix("field_until", "name", "until")
		fix("insured_with", "kind", "text")
		fix("e_mail", "width", "171")
		c.press("#keep-all")
		c.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "kept")
		c.press(".stages a[href$='/release']")
		c.must(c.Wait("document.getElementById('release')"))
		c.press("#release")
		c.must(c.Wait("document.body.textContent.includes('Edition 1') || document.querySelector('a[href*=editions]')"))
		editions, err := c.store.Editions(t.Context(), 1)
		require.NoError(t, err)
		assert.Len(t, editions, 1)
	})
}
