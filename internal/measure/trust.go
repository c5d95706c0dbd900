package measure

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/pdf/pdftest"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan/simulate"

	"zealousmargin.example/internal/pdf/engine"
)

// Trust attacks a server of its own, in a process of its own (self, called with "serve"), and prints how much memory the server and its
// helpers take. All of it is on loopback.
func Trust(ctx context.Context, w io.Writer, address, self string) (err error) {
	begun := time.Now()
	s, drop, err := ownDatabase(ctx, address)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, drop()) }()
	if err := demo.Load(ctx, s, "berth-application.pdf"); err != nil {
		return err
	}
	server, err := serving(ctx, s, self)
	if err != nil {
		return err
	}
	defer server.stop()
	base := "http://" + server.at
	c, err := signIn(base)
	if err != nil {
		return err
	}
	large, err := scansOf(ctx, 40<<20)
	if err != nil {
		return err
	}
	m := &meter{pid: server.process.Process.Pid}
	idle, _ := m.now()
	fmt.Fprintf(w, "\nAttacks on a server of its own, in MB of memory; it has %d at rest\n%-58s %7s %7s %8s\n", idle, "", "more", "after",
		"helpers")
	quiet := func() error { // until nothing is under way
		for end := time.Now().Add(3 * time.Minute); time.Now().Before(end); time.Sleep(200 * time.Millisecond) {
			list, err := s.Queue(ctx)
			if err != nil || len(list) == 0 {
				return err
			}
		}
		return errors.New("the queue did not come to an end")
	}
	for _, a := range []struct {
		what string
		do   func() error
	}{
		{"60 sign-ins side by side", func() error {
			return sideBySide(60, func(i int) error {
				body := url.Values{"email": {fmt.Sprintf("nobody%d@example.org", i)}, "password": {"a wrong password"}, "csrf": {c.token}}
				res, err := c.http.PostForm(base+"/sign-in", body)
				return drained(res, err)
			})
		}},
		{"60 bodies of 31 MB to an address for answers that is none", func() error {
			return sideBySide(60, func(int) error {
				res, err := http.Post(base+"/in/nothing", "application/vnd.fdf", io.LimitReader(zeros{}, 31<<20))
				return drained(res, err)
			})
		}},
		{"4 bodies in parts of 400 MB without a session", func() error {
			return sideBySide(4, func(int) error {
				head := "--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a\"\r\n\r\n"
				res, err := http.Post(base+"/intakes", "multipart/form-data; boundary=x", io.MultiReader(strings.NewReader(head),
					io.LimitReader(zeros{}, 400<<20)))
				return drained(res, err)
			})
		}},
		{"a file of 4 KB that unpacks to 2 GB", upload(c, quiet, "swelling.pdf", pdftest.Swelling(2<<30))},
		{"a picture of 196 million pixels in a file", upload(c, quiet, "vast.pdf", pdftest.Vast(14000))},
		{"a page that takes years", upload(c, quiet, "endless.pdf", pdftest.Endless())},
		{"one page listed 100,000 times", upload(c, quiet, "repeated.pdf", pdftest.Repeated(100_000))},
		{fmt.Sprintf("an ordinary file of scans, %d MB", len(large)>>20), upload(c, quiet, "scans.pdf", large)},
	} {
		m.begin()
		err := a.do()
		most, helpers := m.end()
		time.Sleep(8 * time.Second)
		after, _ := m.now()
		fmt.Fprintf(w, "%-58s %7d %7d %8d\n", a.what, most-idle, after-idle, helpers)
		if err != nil {
			return fmt.Errorf("%s: %w", a.what, err)
		}
	}
	left, err := filepath.Glob(filepath.Join(os.TempDir(), "multipart-*"))
	left = slices.DeleteFunc(left, func(name string) bool {
		info, err := os.Stat(name)
		return err != nil || info.ModTime().Before(begun)
	})
	fmt.Fprintf(w, "left in the temporary folder: %d files\n", len(left))
	return err
}

// scansOf is a file of scanned pages, about so many bytes long.
func scansOf(ctx context.Context, size int) ([]byte, error) {
	d, err := demo.Charges()
	if err != nil {
		return nil, err
	}
	img, err := engine.DrawPage(ctx, d.Bytes, 1, 300.0/72)
	if err != nil {
		return nil, err
	}
	var pics []write.Picture
	all := 0
	for i := 0; all < size && i < 40; i++ {
		f := simulate.Faults{Specks: 100, Skew: 0.4, Noise: 14, Light: 0.2, Seed: uint64(i)}
		p := write.Picture{Image: simulate.Scan(img, 300, f), DPI: 300, Orientation: 1}
		one, err := write.FromPictures([]write.Picture{p})
		if err != nil {
			return nil, err
		}
		all += len(one)
		pics = append(pics, p)
	}
	return write.FromPictures(pics)
}

func upload(c *client, quiet func() error, name string, b []byte) func() error {
	return func() error {
		if _, err := c.upload(name, bytes.Clone(b)); err != nil {
			return err
		}
		return quiet()
	}
}

// sideBySide does something n times at once. That a server turns away is no error.
func sideBySide(n int, do func(int) error) error {
	var all sync.WaitGroup
	for i := range n {
		all.Go(func() { _ = do(i) })
	}
	all.Wait()
	return nil
}

func drained(res *http.Response, err error) error {
	if err != nil {
		return err
	}
	_, err = io.Copy(io.Discard, res.Body)
	return errors.Join(err, res.Body.Close())
}

type zeros struct{}

func (zeros) Read(b []byte) (int, error) {
	clear(b)
	return len(b), nil
}

// meter watches how much memory a process and those that it has started take, in MB.
type meter struct {
	pid           int
	stop          chan struct{}
	done          sync.WaitGroup
	most, helpers int
}

func (m *meter) begin() {
	m.stop, m.most, m.helpers = make(chan struct{}), 0, 0
	m.done.Go(func() {
		for tick := time.NewTicker(30 * time.Millisecond); ; {
			own, helpers := m.now()
			m.most, m.helpers = max(m.most, own), max(m.helpers, helpers)
			select {
			case <-m.stop:
				tick.Stop()
				return
			case <-tick.C:
			}
		}
	})
}

func (m *meter) end() (most, helpers int) {
	close(m.stop)
	m.done.Wait()
	return m.most, m.helpers
}

// now is what the process takes, and all that it has started together.
func (m *meter) now() (own, helpers int) {
	all, _ := filepath.Glob("/proc/[0-9]*/status")
	parents, sizes := map[int]int{}, map[int]int{}
	for _, f := range all {
		b, err := os.ReadFile(f)
		if err != nil {
			continue
		}
		pid, _ := strconv.Atoi(filepath.Base(filepath.Dir(f)))
		for line := range strings.Lines(string(b)) {
			if v, ok := strings.CutPrefix(line, "PPid:"); ok {
				parents[pid], _ = strconv.Atoi(strings.TrimSpace(v))
			} else if v, ok := strings.CutPrefix(line, "VmRSS:"); ok {
				sizes[pid], _ = strconv.Atoi(strings.Fields(v)[0])
			}
		}
	}
	for pid, size := range sizes {
		up := pid
		for up > 1 && up != m.pid {
			up = parents[up]
		}
		switch {
		case pid == m.pid:
			own = size >> 10
		case up == m.pid:
			helpers += size >> 10
		}
	}
	return own, helpers
}
