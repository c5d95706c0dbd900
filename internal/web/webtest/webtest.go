package webtest

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/standin"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/store/storetest"
	"zealousmargin.example/internal/web"
	"zealousmargin.example/internal/web/frame"
)

// Open starts the application with the demo office's berth application in a database of its own, with
// two workers, and gives its address. All ends with the test.
func Open(t testing.TB) (s *store.Store, url string) {
	t.Helper()
	return OpenBehind(t, func(h http.Handler) http.Handler { return h })
}

// OpenBehind is [Open] with a handler of the test before the application; through may lead the way to the database elsewhere.
func OpenBehind(t testing.TB, before func(http.Handler) http.Handler, through ...func(address string) string) (s *store.Store, url string) {
	t.Helper()
	ctx := context.Background()
	s = storetest.Copy(t, func(s *store.Store) error { return demo.Load(ctx, s, "berth-application.pdf") }, through...)
	tray, err := standin.OpenPostTray(func(ctx context.Context, c standin.Caught) error { return s.Catch(ctx, c.ID, c.From, c.To, c.Raw) })
	require.NoError(t, err)
	sender, err := post.NewServer(tray.Address(), "", "Gannet Quay <forms@gannet-quay.example>")
	require.NoError(t, err)
	q, err := jobs.New(ctx, s, jobs.Options{Workers: 2, Post: sender})
	require.NoError(t, err)
	require.NoError(t, q.Start(ctx))
	var srv *httptest.Server
	h, stop, err := web.New(s, q, frame.Options{
		Office: demo.Office, Scanner: demo.Tray(), Reached: func() string { return srv.URL }, Post: sender, Tray: true,
	})
	require.NoError(t, err)
	srv = httptest.NewServer(before(h))
	t.Cleanup(func() {
		srv.Close()
		stop()
		last, cancel := context.WithTimeout(ctx, 10*time.Second)
		defer cancel()
		_ = q.Stop(last)
		_ = tray.Close()
	})
	return s, srv.URL
}
