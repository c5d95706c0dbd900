package web_test

import (
	"context"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
	"zealousmargin.example/internal/web"
	"zealousmargin.example/internal/web/frame"
)

// postbox keeps messages instead of sending them.
type postbox struct {
	mu   sync.Mutex
	sent []post.Message
}

func (p *postbox) Send(_ context.Context, m post.Message) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.sent = append(p.sent, m)
	return nil
}

// link is where the last message leads to.
func (p *postbox) link(t *testing.T) string {
	t.Helper()
	p.mu.Lock()
	defer p.mu.Unlock()
	require.NotEmpty(t, p.sent)
	text := p.sent[len(p.sent)-1].Text
	return text[strings.Index(text, "http"):]
}

// fresh is an application on an empty database, with the word for its first person.
func fresh(t *testing.T) (*office, *postbox) {
	t.Helper()
	s := storetest.Open(t)
	q, err := jobs.New(context.Background(), s, jobs.Options{})
	require.NoError(t, err)
	post := &postbox{}
	var srv *httptest.Server
	h, stop, err := web.New(s, q, frame.Options{
		Office: demo.Office, FirstWord: "LIGHTHOUSE", Post: post, Reached: func() string { return srv.URL },
	})
	require.NoError(t, err)
	srv = httptest.NewServer(h)
	t.Cleanup(func() { srv.Close(); stop() })
	o := &office{t: t, store: s, url: srv.URL}
	o.anew()
	return o, post
}

// anew is another browser.
func (o *office) anew() {
	jar, err := cookiejar.New(nil)
	require.NoError(o.t, err)
	o.http = &http.Client{Jar: jar}
	o.token = ""
}

func (o *office) signInWith(email, password string) int {
	o.t.Helper()
	o.anew()
	o.get("/sign-in")
	code, _ := o.post("/sign-in", url.Values{"email": {email}, "password": {password}})
	return code
}

// An office begins with whoever knows the word; there is no second first person.
func TestAnOfficeBeginsWithItsFirstPerson(t *testing.T) {
	o, _ := fresh(t)
	_, body := o.get("/")
	require.Contains(t, body, "Nobody has an account here yet")
	first := url.Values{"word": {"GUESS"}, "name": {"Imke Meer"}, "email": {"imke@office.example"}, "password": {"several good words"}}
	code, body := o.post("/first-run", first)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "not the word")
	first.Set("word", "LIGHTHOUSE")
	first.Set("password", "short")
	code, body = o.post("/first-run", first)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "at least 12 signs")
	first.Set("password", "several good words")
	code, body = o.post("/first-run", first)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Workroom")
	assert.Contains(t, body, `href="/people"`)
	o.anew()
	_, body = o.get("/first-run")
	assert.Contains(t, body, "Sign in to carry on")
	first.Set("email", "second@office.example")
	code, _ = o.post("/first-run", first)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	people, err := o.store.People(t.Context())
	require.NoError(t, err)
	assert.Len(t, people, 1)
}

// People are added with a link that is good once, change their own password, see where they are signed in, and are shut out.
func TestPeopleComeAndGo(t *testing.T) {
	o, post := fresh(t)
	_, err := o.store.BeginOffice(t.Context(), "w", "w", "Imke Meer", "imke@office.example", "several good words")
	require.NoError(t, err)
	chief := &office{t: t, store: o.store, url: o.url}
	require.Equal(t, http.StatusOK, chief.signInWith("imke@office.example", "several good words"))
	ask := func(want int, v url.Values) string {
		t.Helper()
		code, body := chief.post("/people", v)
		require.Equal(t, want, code, body)
		return body
	}
	for _, bad := range []url.Values{
		{"do": {"add"}, "name": {""}, "email": {"a@office.example"}, "role": {"preparer"}},
		{"do": {"add"}, "name": {"A"}, "email": {"no address"}, "role": {"preparer"}},
		{"do": {"add"}, "name": {"A"}, "email": {"IMKE@office.example"}, "role": {"preparer"}},
		{"do": {"add"}, "name": {"A"}, "email": {"a@office.example"}, "role": {"king"}},
		{"do": {"shut"}, "id": {"1"}},
		{"do": {"change"}, "id": {"1"}, "name": {"Imke Meer"}, "role": {"preparer"}},
	} {
		assert.Contains(t, ask(http.StatusUnprocessableEntity, bad), `role="alert"`, "%v", bad)
	}
	ask(http.StatusOK, url.Values{"do": {"add"}, "name": {"Odalys Brandt"}, "email": {"odalys@office.example"}, "role": {"preparer"}})
	people, err := o.store.People(t.Context())
	require.NoError(t, err)
	her := people[len(people)-1].ID
	first := post.link(t)
	require.True(t, strings.HasPrefix(first, o.url+"/set-password/"))
	assert.NotEqual(t, http.StatusOK, o.signInWith("odalys@office.example", ""), "no password is no way in")
	ask(http.StatusOK, url.Values{"do": {"link"}, "id": {itoa(her)}}) // another one: the first is good no more
	o.anew()
	code, _ := o.get(strings.TrimPrefix(first, o.url))
	assert.Equal(t, http.StatusGone, code)
	link := strings.TrimPrefix(post.link(t), o.url)
	_, body := o.get(link)
	require.Contains(t, body, "Odalys Brandt")
	code, _ = o.post(link, url.Values{"password": {"short"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, body = o.post(link, url.Values{"password": {"words of the preparer"}})
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, body, "Workroom")
	o.anew()
	code, _ = o.get(link)
	assert.Equal(t, http.StatusGone, code, "good once")

	// signed in at two places: a change of the password ends the other
	here, there := &office{t: t, store: o.store, url: o.url}, &office{t: t, store: o.store, url: o.url}
	require.Equal(t, http.StatusOK, here.signInWith("odalys@office.example", "words of the preparer"))
	require.Equal(t, http.StatusOK, there.signInWith("odalys@office.example", "words of the preparer"))
	code, body = here.post("/me", url.Values{"present": {"wrong"}, "password": {"other words for it"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "not your present password")
	code, _ = here.post("/me", url.Values{"present": {"words of the preparer"}, "password": {"other words for it"}})
	require.Equal(t, http.StatusOK, code)
	_, body = there.get("/me")
	assert.Contains(t, body, "Sign in to carry on", "ended there")
	_, body = here.get("/me")
	assert.Contains(t, body, "Where you are signed in")
	assert.NotEqual(t, http.StatusOK, o.signInWith("odalys@office.example", "words of the preparer"))
	require.Equal(t, http.StatusOK, there.signInWith("odalys@office.example", "other words for it"))
	visits, err := o.store.Visits(t.Context(), her)
	require.NoError(t, err)
	code, _ = here.post("/me", url.Values{"do": {"end"}, "visit": {itoa(visits[0].ID)}})
	require.Equal(t, http.StatusOK, code)
	_, body = there.get("/me")
	assert.Contains(t, body, "Sign in to carry on")
	code, _ = chief.post("/me", url.Values{"do": {"end"}, "visit": {itoa(visits[1].ID)}})
	assert.Equal(t, http.StatusNotFound, code, "nobody ends the visits of others")

	// shut: out at once, and not in again
	ask(http.StatusOK, url.Values{"do": {"shut"}, "id": {itoa(her)}})
	_, body = here.get("/")
	assert.Contains(t, body, "Sign in to carry on")
	assert.NotEqual(t, http.StatusOK, o.signInWith("odalys@office.example", "other words for it"))
	ask(http.StatusOK, url.Values{"do": {"open"}, "id": {itoa(her)}})
	assert.Equal(t, http.StatusOK, o.signInWith("odalys@office.example", "other words for it"))
	require.ErrorIs(t, o.store.Disable(t.Context(), 1, true), store.ErrLastAdministrator)
}
