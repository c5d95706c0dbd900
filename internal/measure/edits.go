package measure

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web"
	"zealousmargin.example/internal/web/frame"
)

// EditFields is how many fields the draft has while edits are measured.
const EditFields = 300

// Edits measures how fast the bench answers an edit, over HTTP on loopback, with
// [EditFields] fields in the document. It works in a database of its own on the
// server at address.
func Edits(ctx context.Context, w io.Writer, address string) (err error) {
	s, drop, err := ownDatabase(ctx, address)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, drop()) }()
	if err := demo.Load(ctx, s, "berth-application.pdf"); err != nil {
		return err
	}
	q, err := jobs.New(ctx, s, jobs.Options{})
	if err != nil {
		return err
	}
	if err := fillDraft(ctx, s, 1); err != nil {
		return err
	}
	c, leave, err := visit(s, q)
	if err != nil {
		return err
	}
	defer leave()
	d, err := s.Draft(ctx, 1)
	if err != nil {
		return err
	}
	var took []time.Duration
	rev := d.Document.Revision
	for i := range 120 {
		f := d.Template.Fields[i%150]
		v := url.Values{
			"do": {"move"}, "ids": {f.ID}, "dx": {fmt.Sprint(1 - 2*(i/60%2))}, "dy": {"0"}, "base": {fmt.Sprint(rev)},
			"page": {"1"}, "zoom": {"75"}, "stage": {"fit"}, "open": {f.ID},
		}
		start := time.Now()
		if err := c.post("/documents/1/edits", v); err != nil {
			return err
		}
		took = append(took, time.Since(start))
		rev++
	}
	took = took[20:] // warm
	slices.Sort(took)
	at := func(p int) float64 { return float64(took[len(took)*p/100].Microseconds()) / 1000 }
	fmt.Fprintf(w, "\nAn edit on the bench, %d fields in the document, %d on the page\n", EditFields, EditFields/2)
	fmt.Fprintf(w, "%d edits: median %.1f ms, p95 %.1f ms, worst %.1f ms (wanted under 50 ms on an idle machine)\n", len(took), at(50),
		at(95), at(99))
	return manyEditors(ctx, w, s, c.base)
}

// fillDraft places [EditFields] fields on the two pages of a document.
func fillDraft(ctx context.Context, s *store.Store, id int64) error {
	_, err := s.Change(ctx, id, 0, 1, "fit", func(t *form.Template) (form.Edit, error) {
		var fields []form.Field
		for i := range EditFields {
			x, y := float64(30+(i%10)*54), float64(40+(i/10%15)*50)
			fields = append(fields, form.Field{
				Page: 1 + i/150, Kind: form.Text, Name: fmt.Sprintf("field_%d", i), Tooltip: "A field",
				Rect: geom.R(x, y, x+50, y+14),
			})
		}
		return t.Add("placed many", fields)
	})
	return err
}

// Editors is how many people edit at once, each a document of [EditFields] fields of their
// own, with a pause of EditorPause between two edits on average.
const (
	Editors     = 20
	EditorPause = 2 * time.Second
)

// manyEditors measures how fast edits are answered while many people edit.
func manyEditors(ctx context.Context, w io.Writer, s *store.Store, address string) error {
	docs := []int64{1}
	berth, err := demo.Berth()
	if err != nil {
		return err
	}
	for len(docs) < Editors {
		r, err := intake.Read(ctx, intake.Source{Name: berth.File, Bytes: berth.Bytes}, silent)
		if err != nil {
			return err
		}
		id, err := s.AddDocument(ctx, jobs.Document(r, []store.NamedFile{{Name: berth.File, Bytes: berth.Bytes}}, 1))
		if err != nil {
			return err
		}
		if err := fillDraft(ctx, s, id); err != nil {
			return err
		}
		docs = append(docs, id)
	}
	var mu sync.Mutex
	var took, idle []time.Duration
	var all errgroup.Group
	clients := make([]*client, len(docs)) // signed in before: comparing a password takes its time on purpose
	for n := range clients {
		if clients[n], err = signIn(address); err != nil {
			return err
		}
	}
	for n, id := range docs {
		all.Go(func() error {
			c := clients[n]
			d, err := s.Draft(ctx, id)
			if err != nil {
				return err
			}
			rev, rnd := d.Document.Revision, rand.New(rand.NewPCG(1, uint64(n)))
			for i := range 12 {
				time.Sleep(time.Duration(rnd.Float64() * 2 * float64(EditorPause)))
				f := d.Template.Fields[(7*i+n)%150]
				v := url.Values{
					"do": {"move"}, "ids": {f.ID}, "dx": {"1"}, "dy": {"0"}, "base": {fmt.Sprint(rev)}, "page": {"1"},
					"zoom": {"75"}, "stage": {"fit"}, "open": {f.ID},
				}
				start := time.Now()
				if _, err := c.get(fmt.Sprintf("/documents/%d/now", id)); err != nil {
					return err
				}
				asked := time.Since(start)
				start = time.Now()
				if err := c.post(fmt.Sprintf("/documents/%d/edits", id), v); err != nil {
					return err
				}
				d := time.Since(start)
				rev++
				if i >= 2 { // warm
					mu.Lock()
					took, idle = append(took, d), append(idle, asked)
					mu.Unlock()
				}
			}
			return nil
		})
	}
	if err := all.Wait(); err != nil {
		return err
	}
	at := func(took []time.Duration, p int) float64 {
		slices.Sort(took)
		return float64(took[len(took)*p/100].Microseconds()) / 1000
	}
	fmt.Fprintf(w, "%d editors at once, an edit every %s each: median %.1f ms, p95 %.1f ms, worst %.1f ms (wanted p95 <= 40 ms)\n",
		Editors, EditorPause, at(took, 50), at(took, 95), at(took, 99))
	fmt.Fprintf(w, "beside it, a question that is answered from one row: median %.1f ms, p95 %.1f ms (what the machine takes for "+
		"nothing)\n", at(idle, 50), at(idle, 95))
	return nil
}

func ownDatabase(ctx context.Context, address string) (*store.Store, func() error, error) {
	u, err := url.Parse(address)
	if err != nil || address == "" {
		return nil, nil, errors.New("name the database: --database postgres://... or ZM_DATABASE_URL")
	}
	name := fmt.Sprintf("zm_bench_%d", time.Now().UnixNano())
	run := func(query string) error {
		c, err := pgx.Connect(ctx, address)
		if err != nil {
			return err
		}
		_, err = c.Exec(ctx, query)
		return errors.Join(err, c.Close(ctx))
	}
	if err := run("create database " + name); err != nil {
		return nil, nil, err
	}
	u.Path = "/" + name
	s, err := store.Open(ctx, u.String())
	if err != nil {
		return nil, nil, err
	}
	return s, func() error {
		s.Close()
		return run("drop database " + name + " with (force)")
	}, nil
}

// visit starts the application in this process and signs somebody in; leave ends both.
func visit(s *store.Store, q *jobs.Queue) (c *client, leave func(), err error) {
	h, stop, err := web.New(s, q, frame.Options{Office: demo.Office})
	if err != nil {
		return nil, nil, err
	}
	srv := httptest.NewServer(h)
	leave = func() { srv.Close(); stop() }
	if c, err = signIn(srv.URL); err != nil {
		leave()
	}
	return c, leave, err
}

type client struct {
	http        *http.Client
	base, token string
}

func signIn(base string) (*client, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	c := &client{http: &http.Client{Jar: jar}, base: base}
	res, err := c.http.Get(base + "/sign-in")
	if err != nil {
		return nil, err
	}
	b, err := io.ReadAll(res.Body)
	if err = errors.Join(err, res.Body.Close()); err != nil {
		return nil, err
	}
	m := regexp.MustCompile(`name="csrf-token" content="([^"]+)"`).FindSubmatch(b)
	if m == nil {
		return nil, errors.New("the sign-in page has no token")
	}
	c.token = string(m[1])
	p := demo.People[0]
	return c, c.post("/sign-in", url.Values{"email": {p.Email}, "password": {p.Password}})
}

func (c *client) post(path string, v url.Values) error {
	req, err := http.NewRequest(http.MethodPost, c.base+path, strings.NewReader(v.Encode()))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-CSRF-Token", c.token)
	req.Header.Set("HX-Request", "true")
	res, err := c.http.Do(req)
	if err != nil {
		return err
	}
	_, err = io.Copy(io.Discard, res.Body)
	if err = errors.Join(err, res.Body.Close()); err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s answered %s", path, res.Status)
	}
	return err
}
