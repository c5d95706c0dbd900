package e2e_test

import (
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/store"
)

// many makes as many documents as said of the first one, one minute apart.
func many(t testing.TB, s *store.Store, n int) {
	t.Helper()
	_, err := s.Pool.Exec(t.Context(), `insert into documents (title, description, original, file_name, pages, details, changed_by, stage, revision,
		changed_at, fields, doubtful, words)
		select 'Notice ' || lpad(n::text, 5, '0'), 'Of the year ' || 1900 + n % 127, original, file_name, pages, details, 1 + n % 2,
		(array['find', 'fit', 'rules', 'release'])[1 + n % 4], 1, now() - n * interval '1 minute', n % 60, 0, words || ' mooring' || n
		from documents, generate_series(1, $1) n where documents.id = 1`, n)
	require.NoError(t, err)
	_, err = s.Pool.Exec(t.Context(), `analyze documents`)
	require.NoError(t, err)
}

func TestTheWorkroomHoldsThousands(t *testing.T) {
	o := openOffice(t)
	many(t, o.store, 3000)
	o.comeIn()
	rows := func() (n int) {
		o.must(o.Eval("document.querySelectorAll('#documents .row').length", &n))
		return n
	}
	lead := func(s string) {
		o.must(o.Wait("document.querySelector('#documents .lead').textContent.includes('" + s + "')"))
	}
	lead("3001 documents in work")
	assert.Equal(t, 50, rows())
	o.look("workroom-many")
	// bring in stays in view
	o.must(o.Eval("scrollTo(0, document.body.scrollHeight)", nil))
	var top float64
	o.must(o.Eval("document.getElementById('drop').getBoundingClientRect().top", &top))
	assert.GreaterOrEqual(t, top, 0.0)
	assert.Less(t, top, 300.0)
	// pages of fifty, forth and back
	var first string
	o.must(o.Eval("document.querySelector('.row .title').value", &first))
	o.must(o.Click("#next"))
	o.must(o.Wait("document.querySelector('.row .title')?.value.startsWith('Notice 0005') && document.documentElement.dataset.ready"))
	o.must(o.Click("#previous"))
	o.must(o.Wait("document.querySelector('.row .title')?.value === '" + first + "' && document.documentElement.dataset.ready"))
	// search: by keys, as one types
	o.must(o.Key("/"))
	o.must(o.Wait("document.activeElement?.id === 'search'"))
	o.must(o.Eval("document.activeElement.select()", nil)) // the driver types the sign all the same
	o.must(o.Type("mooring2718", 5*time.Millisecond))
	lead("One document is like that")
	var found string
	o.must(o.Eval("document.querySelector('.row .title').value", &found))
	assert.Equal(t, "Notice 02718", found)
	assert.Equal(t, "search", o.focused(), "one can go on typing")
	o.must(o.Wait("location.search === '?search=mooring2718'"))
	o.must(o.Open(o.url + "/?search=mooring2718")) // and it is there again
	lead("One document is like that")
	o.must(o.Wait("document.documentElement.dataset.ready"))
	o.must(o.Click("#all"))
	lead("3001 documents")
	o.must(o.Wait("document.documentElement.dataset.ready"))
	// filters and order
	o.must(o.Fill("#by-stage", "rules"))
	lead("750 documents are like that")
	o.must(o.Click("#mine"))
	lead("documents are like that")
	o.must(o.Wait("location.search.includes('mine=1')"))
	o.must(o.Fill("#by-order", "name"))
	o.must(o.Wait("location.search.includes('sort=name')"))
	var names []string
	o.must(o.Eval("[...document.querySelectorAll('.row .title')].map(e => e.value)", &names))
	assert.True(t, slices.IsSorted(names))
	// labels of the office's own
	o.must(o.Click("#all"))
	lead("3001 documents")
	o.must(o.Wait("document.documentElement.dataset.ready && document.getElementById('labels-1')"))
	o.must(o.Fill("#labels-1", "season 2027, quay"))
	o.must(o.Wait("document.getElementById('by-label')"))
	o.must(o.Fill("#by-label", "season 2027"))
	lead("One document is like that")
	// a key brings in
	o.must(o.Eval("document.activeElement.blur()", nil))
	o.must(o.Key("b"))
	o.must(o.Wait("document.activeElement?.matches('#drop input[type=file]')"))
}

// What is printed on a document finds it, however it came in.
func TestADocumentIsFoundByTheWordsOnIt(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	d, err := demo.Charges()
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(name, d.Bytes, 0o600))
	o.must(o.Upload("#drop input[type=file]", name))
	o.must(o.Wait("document.querySelector('#intakes a')"))
	require.Eventually(t, func() bool {
		l, err := o.store.List(t.Context(), store.Listing{Search: "cradle"})
		return err == nil && l.Total == 1
	}, 10*time.Second, 50*time.Millisecond)
	o.must(o.Key("/"))
	o.must(o.Wait("document.activeElement?.id === 'search'"))
	o.must(o.Eval("document.activeElement.select()", nil)) // the driver types the sign all the same
	o.must(o.Type("cradle", 5*time.Millisecond))
	o.must(o.Wait("document.querySelector('#documents .lead').textContent.includes('One document is like that')"))
	o.must(o.Key(browser.Escape))
	o.must(o.Wait("document.querySelector('#documents .lead').textContent.includes('2 documents in work')"))
}

// Opening the workroom with ten thousand documents, as a ratio to opening it with fifty: at most 1.5.
func BenchmarkTheWorkroomWithTenThousandDocuments(b *testing.B) {
	o := openOffice(b)
	jar, err := cookiejar.New(nil)
	require.NoError(b, err)
	c := &http.Client{Jar: jar}
	get := func(path string) string {
		res, err := c.Get(o.url + path)
		require.NoError(b, err)
		defer res.Body.Close() //nolint:errcheck // read to its end
		body, err := io.ReadAll(res.Body)
		require.NoError(b, err)
		return string(body)
	}
	token := regexp.MustCompile(`name="csrf-token" content="([^"]+)"`).FindStringSubmatch(get("/sign-in"))[1]
	res, err := c.PostForm(o.url+"/sign-in", url.Values{
		"csrf": {token}, "email": {demo.People[0].Email}, "password": {demo.People[0].Password},
	})
	require.NoError(b, err)
	require.NoError(b, res.Body.Close())
	times := func() time.Duration {
		var all []time.Duration
		for range 60 {
			at := time.Now()
			require.Contains(b, get("/"), "documents in work")
			all = append(all, time.Since(at))
		}
		slices.Sort(all)
		return all[len(all)/2]
	}
	many(b, o.store, 49)
	get("/")
	few := times()
	many(b, o.store, 9950)
	lots := times()
	b.ReportMetric(float64(lots)/float64(few), "x-of-fifty")
	b.ReportMetric(0, "ns/op")
	fmt.Printf("opening the workroom: %s with 50 documents, %s with 10 000\n", few.Round(10*time.Microsecond), lots.Round(10*time.Microsecond))
}

// A list that was asked for before somebody began to type, and comes when they have, takes neither their letters nor what they have found.
func TestALateListTakesNothingFromWhoeverTypes(t *testing.T) {
	o := openOffice(t)
	o.comeIn()
	// the next list that the page asks for by itself comes late
	o.must(o.Eval(`(() => {
		const send = XMLHttpRequest.prototype.send;
		XMLHttpRequest.prototype.send = function (...a) {
			XMLHttpRequest.prototype.send = send;
			setTimeout(() => send.apply(this, a), 1500);
		};
		htmx.trigger(document.body, "documents-changed");
	})()`, nil))
	o.must(o.Key("/"))
	o.must(o.Wait("document.activeElement?.id === 'search'"))
	o.must(o.Eval("document.activeElement.select()", nil))
	o.must(o.Type("nothing of this name", 5*time.Millisecond))
	o.must(o.Wait("document.querySelectorAll('#documents .row').length === 0"))
	time.Sleep(2500 * time.Millisecond) // the late one has come
	var now struct {
		Value string
		Rows  int
	}
	o.must(o.Eval("({ Value: document.getElementById('search').value, Rows: document.querySelectorAll('#documents .row').length })", &now))
	assert.Equal(t, "nothing of this name", now.Value)
	assert.Zero(t, now.Rows)
}

// A name that is typed, and the document put away in the same breath: the list that the first has asked for is older, and comes later. The
// document does not come back with it.
func TestWhatIsDoneAtOnceInTheListIsShownInItsOrder(t *testing.T) {
	o := officeBehind(t, func(h http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !strings.HasSuffix(r.URL.Path, "/describe") {
				h.ServeHTTP(w, r)
				return
			}
			rec := httptest.NewRecorder() // it is done at once, and told late
			h.ServeHTTP(rec, r)
			time.Sleep(time.Second)
			maps.Copy(w.Header(), rec.Header())
			w.WriteHeader(rec.Code)
			_, _ = w.Write(rec.Body.Bytes())
		})
	})
	o.comeIn()
	o.must(o.Fill("#title-1", "Named in a hurry"))
	o.must(o.Click("#doc-1 .go button"))
	o.must(o.Wait("!document.getElementById('doc-1')"))
	time.Sleep(1500 * time.Millisecond)
	var back bool
	o.must(o.Eval("!!document.getElementById('doc-1')", &back))
	assert.False(t, back, "it was put away")
	docs, err := o.store.Documents(t.Context(), true)
	require.NoError(t, err)
	require.Len(t, docs, 1)
	assert.Equal(t, "Named in a hurry", docs[0].Title)
}
