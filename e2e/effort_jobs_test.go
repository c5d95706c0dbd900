package e2e_test

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"codeberg.org/go-pdf/fpdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/e2e/readers"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// bring chooses a file in the workroom: one press, and one entry in the dialog of the system.
func (c *counted) bring(name string, b []byte) {
	c.t.Helper()
	c.must(c.Open(c.url + "/"))
	c.must(c.Wait("document.documentElement.dataset.ready === 'yes'"))
	file := filepath.Join(c.t.TempDir(), name)
	require.NoError(c.t, os.WriteFile(file, b, 0o600))
	c.n += 2
	c.must(c.Upload("#drop input[type=file]", file))
	c.must(c.Wait("document.querySelector('#intakes .done a')"))
}

// follow presses a link and waits for the bench.
func (c *counted) follow(css, stage string) {
	c.t.Helper()
	c.press(css)
	c.must(c.Wait("location.pathname.endsWith('/" + stage + "') && document.documentElement.dataset.ready === 'yes'"))
	c.still()
}

func (c *counted) release() {
	c.t.Helper()
	c.follow(".stages a[href$='/release']", "release")
	c.press("#release")
	c.must(c.Wait("document.getElementById('fresh')"))
	editions, err := c.store.Editions(c.t.Context(), c.documentID())
	require.NoError(c.t, err)
	assert.Len(c.t, editions, 1)
}

// chooseAll presses fields of the page, all but the first with Ctrl.
func (c *counted) chooseAll(names ...string) {
	c.t.Helper()
	for i, name := range names {
		x, y, w, h, err := c.Rect("#f-" + c.fieldID(name))
		c.must(err)
		c.n++
		if i == 0 {
			c.must(c.ClickAt(x+w/2, y+h/2))
		} else {
			c.must(c.ClickWith(x+w/2, y+h/2, browser.Ctrl))
		}
	}
}

func TestEffortAWordProcessorForm(t *testing.T) {
	effort(t, "a word-processor form of 15 fields, three required, one a comb, brought in to released", "/documents/1/find", func(c *counted) {
		labels := []string{
			"Name", "First name", "Street", "Postcode", "Town", "Country", "Telephone", "Name of vessel", "Length", "Beam", "Draught",
			"Year built", "Insured with", "Berth", "Remarks",
		}
		var rtf strings.Builder
		rtf.WriteString(`{\rtf1\ansi\fs24 Application for a mooring\par\par `)
		for _, l := range labels {
			rtf.WriteString(l + ": " + strings.Repeat("_", 40) + `\par\par `)
		}
		rtf.WriteString("}")
		c.bring("mooring.rtf", []byte(rtf.String()))
		c.follow("#intakes .done a", "find")
		c.press("#find-page")
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == len(labels) }, "found")
		c.chooseAll("name", "street", "name_vessel")
		c.must(c.Wait("document.getElementById('n-many')"))
		c.key("r")
		c.eventually(func(d store.Draft) bool { return c.field("name_vessel").Required && c.field("street").Required }, "required")
		post := c.field("postcode").ID
		c.press("#f-" + post)
		c.must(c.Wait("document.querySelector('#n-" + post + ".open')"))
		c.press(".note.open details[data-more=answer] > summary")
		c.entry(post, "comb", "5")
		c.press("#keep-all")
		c.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "kept")
		c.release()
	})
}

func TestEffortAScan(t *testing.T) {
	effort(t, "a scan brought to release with two corrections", "/documents/1/find", func(c *counted) {
		c.must(c.Open(c.url + "/"))
		c.must(c.Wait("document.documentElement.dataset.ready === 'yes'"))
		c.press(".ways a[href='/scan-tray']")
		c.must(c.Wait("document.getElementById('scan')"))
		c.press("#scan")
		c.must(c.Wait("location.pathname === '/' && document.querySelector('#intakes .done a')"))
		c.press("#intakes .done a")
		c.must(c.Wait("document.getElementById('recognise') && document.documentElement.dataset.ready === 'yes'"))
		c.press("#recognise")
		c.eventually(func(d store.Draft) bool { return d.Template.Pages[0].Text != "" }, "recognised")
		c.follow(".nextstep a[href$='/find']", "find")
		c.press("#find-page")
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 8 }, "found")
		fields := c.draft().Template.Fields
		for i, f := range fields[:2] { // two are corrected
			c.press("#n-" + f.ID + " .line")
			c.must(c.Wait("document.getElementById('b-" + f.ID + "-name')"))
			c.entry(f.ID, "name", fmt.Sprintf("corrected_%d", i))
		}
		c.press("#keep-all")
		c.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "kept")
		c.release()
	})
}

// priceTable is an order sheet: four rows of quantity, price and amount, a box for a discount, and the total.
func priceTable(t *testing.T) []byte {
	t.Helper()
	f := fpdf.New("P", "pt", "A4", "")
	f.SetFont("Helvetica", "", 10)
	f.AddPage()
	f.Text(50, 60, "Charges at the slip")
	xs := []float64{50, 200, 300, 400, 500}
	for i, head := range []string{"Service", "Quantity", "Price", "Amount"} {
		f.Rect(xs[i], 90, xs[i+1]-xs[i], 20, "D")
		f.Text(xs[i]+4, 104, head)
	}
	for r, service := range []string{"Hauling out", "Launching", "Washing", "Storage"} {
		y := 110 + 20*float64(r)
		for i := range 4 {
			f.Rect(xs[i], y, xs[i+1]-xs[i], 20, "D")
		}
		f.Text(54, y+14, service)
	}
	f.Rect(400, 190, 100, 20, "D")
	f.Text(350, 204, "Total")
	f.Rect(50, 240, 10, 10, "D")
	f.Text(66, 249, "Discount for members")
	var b bytes.Buffer
	require.NoError(t, f.Output(&b))
	return b.Bytes()
}

func TestEffortAPriceTable(t *testing.T) {
	effort(t, "a quantity x price table of four rows with a discount box and a total", "/documents/1/find", func(c *counted) {
		c.bring("charges.pdf", priceTable(t))
		c.follow("#intakes .done a", "find")
		c.press("#find-page")
		c.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == 14 }, "found")
		c.press("#keep-all")
		c.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "kept")
		c.follow(".stages a[href$='/rules']", "rules")
		c.frame(190, 105, 520, 215) // all that take numbers
		c.must(c.Wait("document.getElementById('n-many')"))
		c.press("#kit [data-format=number]")
		c.eventually(func(store.Draft) bool { return c.field("total_amount").Format.Kind == form.Number }, "numbers")
		amount := c.field("hauling_out_amount").ID
		c.press("#f-" + amount)
		c.must(c.Wait("document.querySelector('#n-" + amount + ".open')"))
		c.entry(amount, "formula", "hauling_out_quantity * hauling_out_price")
		c.press(".note.open [data-do=copy-formula]")
		c.eventually(func(store.Draft) bool { return c.field("storage_amount").Formula == "storage_quantity * storage_price" }, "copied")
		total := c.field("total_amount").ID
		c.press("#f-" + total)
		c.must(c.Wait("document.querySelector('#n-" + total + ".open')"))
		c.entry(total, "formula", "sum(*_amount) * if(discount_members, 0.9, 1)")
		c.eventually(func(store.Draft) bool { return c.field("total_amount").ReadOnly }, "calculated")
	})
}

func TestEffortAnExistingForm(t *testing.T) {
	effort(t, "an existing form with one kind changed and one check added, brought in to released", "/documents/1/find", func(c *counted) {
		english, err := readers.FormOfOthers("..", "samples/form/demo/english.pdf")
		require.NoError(t, err)
		c.bring("english.pdf", english)
		c.follow("#intakes .done a", "fit")
		var text, other form.Field
		draft := c.draft().Template
		for _, f := range draft.OnPage(1) {
			switch {
			case f.Kind == form.Text && !f.Multiline && f.Format.Kind == form.NoFormat && text.ID == "":
				text = f
			case f.Kind == form.Text && other.ID == "":
				other = f
			}
		}
		require.NotEmpty(t, other.ID)
		c.press("#n-" + other.ID + " .line")
		c.must(c.Wait("document.getElementById('b-" + other.ID + "-kind')"))
		c.entry(other.ID, "kind", "lines")
		c.follow(".stages a[href$='/rules']", "rules")
		c.press("#n-" + text.ID + " .line")
		c.must(c.Wait("document.getElementById('b-" + text.ID + "-check-new')"))
		c.entry(text.ID, "check-new", "length")
		c.entry(text.ID, "check-0-a", "2")
		c.release()
	})
}
