package web_test

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store/storetest"
	"zealousmargin.example/internal/web"
	"zealousmargin.example/internal/web/frame"
)

// administrators lists what a preparer may not do, and releasing what they may where the settings say so; strangers what
// nobody has to be signed in for. All else is for everybody in the office.
var (
	administrators = []string{
		"POST /house-words", "POST /house-words/:id/drop", "POST /house-words/:id/learn", "POST /house-words/:id/leave",
		"POST /house-words.csv",
		"POST /documents/:id/words/:word/learn", "POST /house-style/:kind", "POST /favourites/:id/drop", "GET /settings", "POST /settings",
		"GET /upkeep", "POST /upkeep/again", "GET /documents/:id/delete", "POST /documents/:id/delete",
		"GET /people", "POST /people", "POST /roster/:id/drop", "GET /post-tray", "GET /post-tray/:id",
		"GET /test-authority", "POST /test-authority",
		"GET /certificates", "POST /certificates", "POST /certificates/:id",
		"POST /documents/:id/returns/delete", "GET /documents/:id/onward", "POST /documents/:id/onward",
	}
	releasing = []string{
		"POST /documents/:id/editions", "POST /documents/:id/inbox", "POST /editions/:id/withdraw", "POST /documents/:id/links",
		"POST /documents/:id/links/send", "POST /documents/:id/links/remind", "POST /links/:id",
		"POST /documents/:id/signings", "POST /signings/:id/end",
	}
	strangers = []string{
		"GET /static/*", "GET /sign-in", "POST /sign-in", "POST /sign-out", "POST /in/:inbox",
		"GET /test-authority.crl", "GET /f/:token", "POST /f/:token", "GET /f/:token/form.pdf",
		"GET /f/:token/fill", "POST /f/:token/fill", "POST /f/:token/answers", "GET /f/:token/pages/:n", "GET /f/:token/sent/:id",
		"GET /healthz", "GET /readyz", "GET /set-password/:token", "POST /set-password/:token", "GET /first-run", "POST /first-run",
	}
)

// routes lists what the application answers to.
func routes(t *testing.T) []string {
	t.Helper()
	s := storetest.Open(t)
	q, err := jobs.New(context.Background(), s, jobs.Options{})
	require.NoError(t, err)
	srv, stop, err := web.New(s, q, frame.Options{Office: demo.Office})
	require.NoError(t, err)
	t.Cleanup(stop)
	return srv.Routes()
}

// asked asks a route for something that is not there, or is nothing.
func (o *office) asked(route string) int {
	o.t.Helper()
	method, path, _ := strings.Cut(route, " ")
	for from, to := range map[string]string{
		"/documents/:id": "/documents/1", ":stage": "fit", ":field": "none", ":word": "999", ":sha": "none", ":page": "1", ":width": "9",
		":token": "none", ":kind": "text", ":name": "none.pdf", "*": "app.js", ":inbox": "none",
	} {
		path = strings.ReplaceAll(path, from, to)
	}
	path = strings.ReplaceAll(strings.ReplaceAll(path, "/:id", "/999"), ":n", "1")
	var code int
	if method == http.MethodGet {
		code, _ = o.get(path)
	} else {
		code, _ = o.post(path, url.Values{"do": {"nothing"}})
	}
	return code
}

// Every route is for those that the table says; a route without a row is closed, and fails here.
func TestEveryRouteIsForThoseThatItIsFor(t *testing.T) {
	all := routes(t)
	require.Greater(t, len(all), 60)
	for _, r := range slices.Concat(administrators, releasing, strangers) {
		assert.Contains(t, all, r)
	}
	chief, helper, nobody := open(t), open(t), open(t)
	chief.signIn()
	helper.signInAs(1)
	for _, route := range all {
		if route == "POST /sign-out" || route == "POST /sign-in" {
			continue
		}
		closed := slices.Contains(administrators, route) || slices.Contains(releasing, route)
		assert.NotEqual(t, http.StatusForbidden, chief.asked(route), "%s of an administrator", route)
		code := helper.asked(route)
		assert.Equal(t, closed, code == http.StatusForbidden, "%s of a preparer: %d", route, code)
		if !slices.Contains(strangers, route) {
			led := []int{http.StatusUnauthorized, http.StatusOK} // to the door
			assert.Contains(t, led, nobody.asked(route), route)
		}
	}
	// where the settings say so, preparers release; the rest stays closed
	code, body := helper.get("/settings")
	assert.Equal(t, http.StatusForbidden, code)
	assert.NotContains(t, body, "Address from outside")
	require.NoError(t, helper.store.SetSetting(context.Background(), "preparers-release", "yes", 1))
	for _, route := range releasing {
		assert.NotEqual(t, http.StatusForbidden, helper.asked(route), route)
	}
	for _, route := range administrators {
		assert.Equal(t, http.StatusForbidden, helper.asked(route), route)
	}
}

// What a person may not do is not shown.
func TestWhatOneMayNotDoIsNotShown(t *testing.T) {
	helper, chief := open(t), open(t)
	helper.signInAs(1)
	chief.signIn()
	for path, what := range map[string]string{
		"/house-words": `id="house-keep"`, "/": `href="/settings"`, "/documents/1/fit": `href="/settings"`,
	} {
		_, body := helper.get(path)
		assert.NotContains(t, body, what, path)
	}
	_, body := helper.get("/house-style")
	assert.Contains(t, body, "inert")
	_, body = chief.get("/house-words")
	assert.Contains(t, body, `id="house-keep"`)
	_, _ = helper.post("/documents/1/find", url.Values{"scope": {"page"}, "page": {"1"}, "stage": {"find"}})
	_, _ = chief.post("/documents/1/find", url.Values{"scope": {"page"}, "page": {"1"}, "stage": {"find"}})
	_, body = helper.get("/documents/1/release")
	assert.NotContains(t, body, `id="release"`)
	assert.Contains(t, body, "An administrator releases it")
	_, body = chief.get("/documents/1/release")
	assert.Contains(t, body, `id="release"`)
}
