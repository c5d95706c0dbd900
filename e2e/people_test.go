package e2e_test

import (
	"archive/zip"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/store"
)

// sourced signs in, has the fields of the berth application found, and takes all that they ask for from the roster.
func (o *office) sourced() {
	o.t.Helper()
	o.signIn()
	o.bench("/documents/1/find")
	o.must(o.Click("#find-all"))
	o.eventually(func(d store.Draft) bool { return len(d.Template.Fields) > 30 }, "fields are found")
	o.must(o.Open(o.url + "/documents/1/people"))
	o.must(o.Click("#take-all"))
	o.must(o.Wait("document.getElementById('sourced')"))
}

// A form takes what it asks for from the roster: the sources are taken in one press, the form is seen as a person, copies are made for those
// who are found, and a reader of another make finds the answers in them.
func TestAFormIsFilledInForPeopleOfTheRoster(t *testing.T) {
	o := openOffice(t)
	o.sourced()
	o.eventuallyStored(func(d store.Draft) bool {
		n := 0
		for _, f := range d.Template.Fields {
			if f.Source == form.FromPerson {
				n++
			}
		}
		return n >= 12
	}, "the sources are taken")

	o.must(o.Open(o.url + "/documents/1/rehearse"))
	live := func() { o.must(o.Wait("document.documentElement.dataset.live === 'yes'")) }
	live()
	o.must(o.Fill("#as", "quill"))
	o.must(o.Click("#see"))
	o.must(o.Wait("location.search.includes('as=quill')"))
	live()
	value := func(name string) (v string) {
		o.must(o.Eval("document.querySelector('#sheet [data-name="+name+"]').value", &v))
		return v
	}
	assert.Equal(t, "Odalys Quill", value("name_applicant"))
	assert.Equal(t, "Two Sisters", value("name_vessel"))
	o.must(o.Fill("#as", "nobody at all"))
	o.must(o.Click("#see"))
	o.must(o.Wait("document.querySelector('#seen .wrong')"))
	live()
	assert.Equal(t, "Odalys Quill", value("name_applicant"), "what was given stays")

	o.must(o.Open(o.url + "/documents/1/release"))
	o.must(o.Click("#release"))
	o.must(o.Wait("document.getElementById('fresh')"))
	o.must(o.Click("#for-people"))
	o.must(o.Wait("document.querySelector('#whom #search')"))
	o.must(o.Fill("#whom #search", "upper sandle"))
	o.must(o.Click("#whom .seek button"))
	o.must(o.Wait("document.querySelectorAll('#pick input').length === 8"))
	o.must(o.Eval("document.querySelectorAll('#pick input').forEach((e, i) => { if (i < 3) e.click() })", nil))
	o.must(o.Click("#fill"))
	o.must(o.Wait("document.querySelector('#copies a[href$=file]')"))
	o.must(o.Click("#copies a[href$=file]"))
	var archive string
	require.Eventually(t, func() bool {
		all, _ := filepath.Glob(filepath.Join(o.downloads, "*.zip"))
		if len(all) == 1 {
			archive = all[0]
		}
		return archive != ""
	}, 10*time.Second, 50*time.Millisecond)
	z, err := zip.OpenReader(archive)
	require.NoError(t, err)
	defer z.Close()
	require.Len(t, z.File, 3)
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		name := filepath.Join(t.TempDir(), "copy.pdf")
		out, err := os.Create(name)
		require.NoError(t, err)
		_, err = out.ReadFrom(r)
		require.NoError(t, err)
		require.NoError(t, out.Close())
		assert.Contains(t, run(t, "pdftotext", "-layout", name, "-"), "Upper Sandle")
		assert.Contains(t, run(t, "qpdf", "--check", name), "No syntax or stream encoding errors")
		who := strings.TrimSuffix(strings.TrimPrefix(f.Name, "berth-application-edition-1-"), ".pdf")
		assert.Contains(t, strings.ToLower(run(t, "pdftotext", "-layout", name, "-")), strings.ReplaceAll(who, "-", " "))
	}
}
