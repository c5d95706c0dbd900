package measure

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/store"
)

// How answers are sent: so many a second, for so long, by so many connections.
const (
	sentASecond = 200
	sentFor     = 60 * time.Second
	senders     = 64
	manyReturns = 100_000
	openings    = 7
)

// served is a server in a process of its own.
type served struct {
	self, at, database string
	more               []string // of its command line
	process            *exec.Cmd
}

// serving starts a server on a database, at a free port of loopback.
func serving(ctx context.Context, s *store.Store, self string, more ...string) (*served, error) {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	v := &served{self: self, at: l.Addr().String(), database: s.Pool.Config().ConnString(), more: more}
	return v, errors.Join(l.Close(), v.start(ctx))
}

// stop ends the server.
func (v *served) stop() {
	_ = v.process.Process.Signal(os.Interrupt)
	_ = v.process.Wait()
}

// start starts the server, again where it was killed, and waits until it is ready.
func (v *served) start(ctx context.Context) error {
	v.process = exec.CommandContext(ctx, v.self, append([]string{"serve", "--address", v.at, "--database", v.database}, v.more...)...)
	v.process.Stderr = os.Stderr
	if err := v.process.Start(); err != nil {
		return err
	}
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if res, err := http.Get("http://" + v.at + "/readyz"); err == nil {
			_ = res.Body.Close()
			if res.StatusCode == http.StatusOK {
				return nil
			}
		}
	}
	return errors.New("the server did not become ready")
}

// Returns measures how answers are taken while the server is killed once, and how fast a table of very many of them opens and is narrowed.
func Returns(ctx context.Context, w io.Writer, address, self string) (err error) {
	s, drop, err := ownDatabase(ctx, address)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, drop()) }()
	if err := demo.Load(ctx, s, "slipway-charges.pdf"); err != nil {
		return err
	}
	if err := demo.Returns(ctx, s); err != nil {
		return err
	}
	server, err := serving(ctx, s, self, "--answers-a-minute", "10000000")
	if err != nil {
		return err
	}
	defer server.stop()
	if err := send(ctx, w, s, server); err != nil {
		return err
	}
	return opens(ctx, w, s, server)
}

// send sends answers at a steady rate, kills the server in the middle, and counts what was acknowledged and is not there.
func send(ctx context.Context, w io.Writer, s *store.Store, server *served) error {
	links, err := s.FormLinks(ctx, 1)
	if err != nil || len(links) == 0 {
		return errors.Join(err, errors.New("there is no link to send by"))
	}
	to := "http://" + server.at + "/in/" + links[0].Inbox
	client := &http.Client{Timeout: 10 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: senders}}
	var mu sync.Mutex
	var took []time.Duration
	acknowledged := map[string]bool{}
	var again atomic.Int64
	queue := make(chan string, sentASecond*int(sentFor.Seconds()))
	var all sync.WaitGroup
	for range senders {
		all.Go(func() {
			for name := range queue {
				for ctx.Err() == nil {
					begun := time.Now()
					res, err := client.Post(to, "", strings.NewReader("name_vessel="+name+"&hauling_out_quantity=1&card=Yes"))
					if err == nil {
						_ = drained(res, nil)
					}
					if err == nil && res.StatusCode == http.StatusOK {
						mu.Lock()
						took = append(took, time.Since(begun))
						acknowledged[name] = true
						mu.Unlock()
						break
					}
					again.Add(1)
					time.Sleep(200 * time.Millisecond)
				}
			}
		})
	}
	begun := time.Now()
	killed := false
	tick := time.NewTicker(time.Second / sentASecond)
	n := 0
	for now := time.Duration(0); now < sentFor; now = time.Since(begun) {
		<-tick.C
		for ; n < int(now.Seconds()*sentASecond); n++ {
			queue <- fmt.Sprintf("Vessel-%06d", n)
		}
		if !killed && time.Since(begun) > sentFor/2 {
			killed = true
			if err := server.process.Process.Kill(); err != nil {
				return err
			}
			_ = server.process.Wait() // it was killed
			go func() { _ = server.start(ctx) }()
		}
	}
	tick.Stop()
	close(queue)
	all.Wait()
	lasted := time.Since(begun)
	var there, twice int
	if err := s.DB().QueryRowContext(ctx, `select count(*) filter (where n > 0), count(*) filter (where n > 1) from (
		select count(*) filter (where double_of is null) as n from returns r, jsonb_each_text(r.answers) a
		where a.value like 'Vessel-%' group by a.value) t`).Scan(&there, &twice); err != nil {
		return err
	}
	slices.Sort(took)
	at := func(p float64) int64 { return took[min(len(took)-1, int(p*float64(len(took))))].Milliseconds() }
	fmt.Fprintf(w, "\nAnswers sent for %d s, the server killed once and started again: %d sent, %.0f a second acknowledged (wanted 200), "+
		"%d ms in the middle, %d ms for one in a hundred; tried again %d times\n", int(sentFor.Seconds()), n,
		float64(len(acknowledged))/lasted.Seconds(), at(0.5), at(0.99), again.Load())
	fmt.Fprintf(w, "Acknowledged %d, there %d, lost %d (wanted 0), there twice and not noticed %d (wanted 0)\n", len(acknowledged), there,
		len(acknowledged)-there, twice)
	if len(acknowledged) != there || twice > 0 {
		return errors.New("answers were lost, or are there twice")
	}
	return nil
}

// opens measures the table of returns, over HTTP on loopback: opened, narrowed, searched and sorted.
func opens(ctx context.Context, w io.Writer, s *store.Store, server *served) error {
	if _, err := s.DB().ExecContext(ctx, `insert into returns (document_id, file, kind, edition_id, road, state, answers, received_at)
		select r.document_id, r.file, r.kind, r.edition_id, r.road, case n % 7 when 0 then 'new' else 'checked' end,
			r.answers || jsonb_build_object((select key from jsonb_each_text(r.answers) where value like 'Vessel-%'), 'Many-' || (n * 7919 % 100003)),
			now() - make_interval(mins => n)
		from generate_series(1, $1::int) n, (select * from returns where answers::text like '%Vessel-000001%' limit 1) r`, manyReturns); err != nil {
		return err
	}
	if _, err := s.DB().ExecContext(ctx, "vacuum analyze returns"); err != nil {
		return err
	}
	c, err := signIn("http://" + server.at)
	if err != nil {
		return err
	}
	var key string
	if err := s.DB().QueryRowContext(ctx, `select key from returns r, jsonb_each_text(r.answers) a where a.value like 'Vessel-%' limit 1`).
		Scan(&key); err != nil {
		return err
	}
	fmt.Fprintf(w, "\nA table of %d returns, in ms in the middle of %d (wanted <= 300)\n", manyReturns, openings)
	for _, one := range []struct{ what, query string }{
		{"opened", ""},
		{"what is new", "state=new"},
		{"the last page", "page=2000"},
		{"searched for a vessel", "search=Many-4711"},
		{"searched for what many have", "search=Many"},
		{"one answer to a question", "key=" + key + "&answer=Many-42"},
		{"sorted by a question", "sort=" + key},
		{"the charts", "part=charts"},
	} {
		var took []time.Duration
		for range openings {
			begun := time.Now()
			res, err := c.http.Get("http://" + server.at + "/documents/1/returns?" + one.query)
			if err := drained(res, err); err != nil {
				return err
			}
			took = append(took, time.Since(begun))
		}
		slices.Sort(took)
		fmt.Fprintf(w, "%-32s %5d\n", one.what, took[len(took)/2].Milliseconds())
	}
	return nil
}
