package e2e_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// The whole job through the interface: sign in, bring a document in, let its
// fields be found, mend one wrong find, add a field, release, download; then read
// the released file with other readers, fill it, and read the answers back.
func TestTheWholeJob(t *testing.T) {
	o := openOffice(t)
	berth, err := demo.Berth()
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "berths-2027.pdf")
	require.NoError(t, os.WriteFile(file, berth.Bytes, 0o600))

	o.signInByHand()
	o.must(o.Upload("#drop input[type=file]", file))
	o.must(o.Wait("document.querySelector('#intakes a')"))
	o.must(o.Wait("document.querySelectorAll('#documents .row').length === 2"))
	o.must(o.Click("#intakes a"))
	o.ready()
	require.Equal(t, "Berths 2027", o.draft().Document.Title)

	// find
	o.must(o.Click("#find-all"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 30 }, "fields are found")
	o.must(o.Wait("document.querySelectorAll('#overlay .f').length > 15"))
	doubtful := o.draft().Document.Doubtful
	o.must(o.Click(".note.doubt .quick [data-do=drop]"))
	o.eventually(func(d store.Draft) bool { return d.Document.Doubtful == doubtful-1 }, "one doubtful find is dropped from its note")
	o.must(o.Click(".note.doubt .quick [data-do=keep]"))
	o.eventually(func(d store.Draft) bool {
		return d.Document.Doubtful == doubtful-2 && strings.HasPrefix(d.Undo, "kept ")
	}, "another is kept")
	o.must(o.Key("z", browser.Ctrl))
	o.eventually(func(d store.Draft) bool { return d.Document.Doubtful == doubtful-1 }, "which is taken back in one step")
	o.must(o.Click("#drop-below"))
	o.eventually(func(d store.Draft) bool { return d.Document.Doubtful == 0 }, "doubtful finds are dropped")
	o.must(o.Click("#keep-all"))
	o.eventually(func(d store.Draft) bool { return d.Document.Open == 0 }, "the rest is kept")

	// fit: mend one wrong find (the long name), and move it with the keys
	id := o.fieldID("anything_know_vessel_crew")
	o.bench("/documents/" + itoa(o.documentID()) + "/fit")
	o.must(o.Click("#n-" + id + " .line"))
	o.must(o.Wait("document.getElementById('b-" + id + "-name')"))
	o.must(o.Fill("#b-"+id+"-name", "remarks"))
	o.eventually(func(d store.Draft) bool { f, _ := d.Template.Field(id); return f.Name == "remarks" }, "renamed")
	o.must(o.Eval("document.activeElement.blur()", nil))
	before, _ := fieldOf(o.draft(), id)
	o.must(o.Key(browser.ArrowRight))
	o.must(o.Key(browser.ArrowDown, browser.Shift))
	o.eventually(func(d store.Draft) bool {
		f, _ := d.Template.Field(id)
		return f.Rect.X0 == before.Rect.X0+1 && f.Rect.Y0 < before.Rect.Y0-9.9
	}, "moved by 1 and by 10 points")

	// add one field by dragging, one check box by pressing on nothing
	o.must(o.Key("1"))
	x0, y0 := o.onPage(400, 455)
	x1, y1 := o.onPage(520, 471)
	o.must(o.Drag(x0, y0, x1, y1))
	o.eventually(func(d store.Draft) bool { return strings.HasPrefix(d.Undo, "placed ") }, "placed by dragging")
	undo := o.draft().Undo

	// undo and redo survive a reload
	o.bench("/documents/" + itoa(o.documentID()) + "/fit")
	n := len(o.draft().Template.Fields)
	o.must(o.Key("z", browser.Ctrl))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n-1 && d.Redo == undo }, "undone after a reload")
	o.bench("/documents/" + itoa(o.documentID()) + "/fit")
	o.must(o.Click("#redo"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) == n }, "redone after another")

	// release and download
	o.must(o.Open(o.url + "/documents/" + itoa(o.documentID()) + "/release"))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
	o.must(o.Click("#fresh"))
	out := filepath.Join(o.downloads, "berths-2027-edition-1.pdf")
	require.Eventually(t, func() bool { i, err := os.Stat(out); return err == nil && i.Size() > int64(len(berth.Bytes)) },
		10*time.Second, 50*time.Millisecond)

	draft := o.draft().Template
	assert.Contains(t, run(t, "qpdf", "--check", out), "No syntax or stream encoding errors found")
	written, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(t, berth.Bytes, written[:len(berth.Bytes)], "the original bytes are unchanged")
	readByPDFJS(t, o, written, draft)
	readByPoppler(t, out, draft)

	// fill it on the command line, and have poppler read what a person would see
	bin := filepath.Join("..", "bin", "zealous-margin")
	run(t, "go", "build", "-o", bin, "../cmd/zealous-margin") // it is there already, as a rule
	data := filepath.Join(t.TempDir(), "d.json")
	require.NoError(t, os.WriteFile(data, []byte(`{"name_applicant": "Tjark Ölund", "keel": "fin", "registration_no": "GQ123456", "remarks": "mast is down\nin winter"}`), 0o600))
	filled := filepath.Join(t.TempDir(), "filled.pdf")
	run(t, bin, "fill", "--data", data, out, "-o", filled)
	text := run(t, "pdftotext", "-layout", filled, "-")
	for _, want := range []string{"Tjark Ölund", "mast is down", "in winter"} {
		assert.Contains(t, text, want)
	}
	var seen struct {
		Pages []struct {
			Fields []struct {
				Name, Value string
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(run(t, bin, "inspect", "--json", filled)), &seen))
	values := map[string]string{}
	for _, p := range seen.Pages {
		for _, f := range p.Fields {
			values[f.Name] = f.Value
		}
	}
	assert.Equal(t, "fin", values["keel"])
	chosen := 0
	for _, f := range popplerFields(t, filled) {
		values["poppler "+f.Name] = f.Value
		if f.Name == "keel" && f.Value == "on" {
			chosen++
		}
	}
	assert.Equal(t, "Tjark Ölund", values["poppler name_applicant"])
	assert.Equal(t, 1, chosen, "one of the radio buttons")
	assert.Equal(t, "GQ123456", values["registration_no"])
}

func fieldOf(d store.Draft, id string) (form.Field, bool) { return d.Template.Field(id) }

func itoa(n int64) string {
	b, _ := json.Marshal(n)
	return string(b)
}
