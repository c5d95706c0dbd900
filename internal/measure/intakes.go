package measure

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan"
)

func silent(string, int, int) {}

// Foreign brings in PDF files that other programs made and prints what becomes of each.
func Foreign(ctx context.Context, w io.Writer, folder string) error {
	var files []string
	for _, pattern := range []string{"*.pdf", "*.PDF", "*/*.pdf"} {
		found, err := filepath.Glob(filepath.Join(folder, pattern))
		if err != nil {
			return err
		}
		files = append(files, found...)
	}
	if len(files) == 0 {
		return fmt.Errorf("there are no samples in %s: run make bench, which finds them", folder)
	}
	fmt.Fprintf(w, "\nBringing in PDF files that other programs made\n%-44s %6s %6s %6s %8s  %s\n", "file", "pages", "fields", "scans",
		"seconds", "outcome")
	opened := 0
	for _, f := range files {
		b, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		inner, cancel := context.WithTimeout(ctx, time.Minute)
		start := time.Now()
		r, err := intake.Read(inner, intake.Source{Name: filepath.Base(f), Bytes: b}, silent)
		cancel()
		outcome := "opened"
		switch {
		case errors.Is(err, context.DeadlineExceeded):
			outcome = "TOOK OVER A MINUTE"
		case err != nil:
			outcome = "refused: " + err.Error()
		default:
			opened++
			if r.Notice != "" {
				outcome += ": " + r.Notice
			}
		}
		fmt.Fprintf(w, "%-44s %6d %6d %6d %8.2f  %s\n", filepath.Base(f), len(r.Pages), len(r.Fields), r.Scans,
			time.Since(start).Seconds(), outcome)
	}
	fmt.Fprintf(w, "%d of %d opened, the others were refused with a reason\n", opened, len(files))
	return nil
}

// manyPages makes a typeset PDF of n pages from the berth application.
func manyPages(n int) ([]byte, error) {
	d, err := demo.Berth()
	if err != nil {
		return nil, err
	}
	pages, err := engine.Pages(context.Background(), d.Bytes)
	if err != nil {
		return nil, err
	}
	t := &form.Template{}
	for i := range n {
		p := pages[i%len(pages)]
		p.ID, p.File, p.N = strconv.Itoa(i), "berth", i%len(pages)+1
		t.Pages = append(t.Pages, p)
	}
	b, _, err := write.Base(t, write.Sources{File: func(string) ([]byte, error) { return d.Bytes, nil }})
	return b, err
}

// FirstPage measures how long after an upload the first page of a hundred is shown,
// beside pdftoppm's time to draw that page in the same run.
func FirstPage(ctx context.Context, w io.Writer, address string) (err error) {
	b, err := manyPages(100)
	if err != nil {
		return err
	}
	s, drop, err := ownDatabase(ctx, address)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, drop()) }()
	if err := demo.Load(ctx, s, "berth-application.pdf"); err != nil {
		return err
	}
	q, err := jobs.New(ctx, s, jobs.Options{Workers: 1})
	if err != nil {
		return err
	}
	if err := q.Start(ctx); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, q.Stop(ctx)) }()
	c, leave, err := visit(s, q)
	if err != nil {
		return err
	}
	defer leave()
	file := filepath.Join(os.TempDir(), fmt.Sprintf("zm-bench-%d.pdf", os.Getpid()))
	if err := os.WriteFile(file, b, 0o600); err != nil {
		return err
	}
	defer os.Remove(file)
	var ours, theirs []time.Duration
	for i := range 7 {
		start := time.Now()
		if err := exec.Command("pdftoppm", "-f", "1", "-l", "1", "-r", "150", "-png", file, file).Run(); err != nil {
			return fmt.Errorf("pdftoppm: %w", err)
		}
		theirs = append(theirs, time.Since(start))
		other := append(bytes.Clone(b), fmt.Sprintf("\n%% %d\n", i)...) // another file each time: nothing is at hand
		start = time.Now()
		body, err := c.upload("hundred.pdf", other)
		if err != nil {
			return err
		}
		look := regexp.MustCompile(`/pictures/[^"]+`).FindString(body)
		if look == "" {
			return errors.New("the first page was not shown at once")
		}
		if _, err := c.get(look); err != nil {
			return err
		}
		ours = append(ours, time.Since(start))
	}
	made, _ := filepath.Glob(file + "*")
	for _, m := range made {
		_ = os.Remove(m)
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	o, t := ours[len(ours)/2], theirs[len(theirs)/2]
	fmt.Fprintf(w, "\nThe first of 100 pages (%d KB): upload and picture %.0f ms, pdftoppm %.0f ms for that page alone; ratio %.2f "+
		"(wanted <= 1.5 and the upload)\n",
		len(b)>>10, o.Seconds()*1000, t.Seconds()*1000, o.Seconds()/t.Seconds())
	return nil
}

// upload sends a file and gives the answer.
func (c *client) upload(name string, b []byte) (string, error) {
	var body bytes.Buffer
	m := multipart.NewWriter(&body)
	part, err := m.CreateFormFile("file", name)
	if err != nil {
		return "", err
	}
	if _, err := part.Write(b); err != nil {
		return "", err
	}
	if err := m.Close(); err != nil {
		return "", err
	}
	req, err := http.NewRequest(http.MethodPost, c.base+"/intakes", &body)
	if err != nil {
		return "", err
	}
	req.Header.Set("Content-Type", m.FormDataContentType())
	req.Header.Set("X-CSRF-Token", c.token)
	return c.body(req)
}

func (c *client) get(path string) (string, error) {
	req, err := http.NewRequest(http.MethodGet, c.base+path, nil)
	if err != nil {
		return "", err
	}
	return c.body(req)
}

func (c *client) body(req *http.Request) (string, error) {
	res, err := c.http.Do(req)
	if err != nil {
		return "", err
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s answered %s", req.URL.Path, res.Status)
	}
	return string(b), err
}

// OCR measures recognising a scanned page beside Tesseract's own time for the same
// picture, and how soon recognising and converting end when they are cancelled.
func OCR(ctx context.Context, w io.Writer) error {
	d, err := demo.Declaration()
	if err != nil {
		return err
	}
	start := time.Now()
	r, err := intake.Read(ctx, intake.Source{Name: d.File, Bytes: d.Bytes}, silent)
	if err != nil {
		return err
	}
	ready := time.Since(start)
	page := r.Ready[0]
	file := r.Files[page.File]
	img, err := engine.Draw(ctx, file, page, intake.OCRDPI(200)/72)
	if err != nil {
		return err
	}
	g := scan.Gray(img)
	var pgm bytes.Buffer
	fmt.Fprintf(&pgm, "P5\n%d %d\n255\n", g.Rect.Dx(), g.Rect.Dy())
	pgm.Write(g.Pix)
	var ours, theirs []float64
	for range 3 {
		start := time.Now()
		c := exec.Command("tesseract", "stdin", "stdout", "-l", "eng", "--dpi", "200", "--psm", "11", "-c", "tessedit_create_tsv=1")
		c.Env = append(os.Environ(), "OMP_THREAD_LIMIT=1")
		c.Stdin = bytes.NewReader(pgm.Bytes())
		if err := c.Run(); err != nil {
			return fmt.Errorf("tesseract: %w", err)
		}
		theirs = append(theirs, time.Since(start).Seconds())
		start = time.Now()
		if _, err := intake.Recognise(ctx, file, page, 200, "eng"); err != nil {
			return err
		}
		ours = append(ours, time.Since(start).Seconds())
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	fmt.Fprintf(w, "\nA scan at 200 dpi: read and made ready in %.2f s, %.2f of Tesseract's time (wanted <= 0.4); "+
		"recognised in %.2f s, Tesseract alone %.2f s; ratio %.2f (wanted <= "+
		"1.15)\n", ready.Seconds(), ready.Seconds()/theirs[1], ours[1], theirs[1], ours[1]/theirs[1])
	storage, err := demo.Storage()
	if err != nil {
		return err
	}
	for _, c := range []struct {
		what string
		work func(context.Context) error
	}{
		{"recognising", func(ctx context.Context) error {
			_, err := intake.Recognise(ctx, file, page, 200, "eng")
			return err
		}},
		{"converting", func(ctx context.Context) error {
			_, err := intake.Read(ctx, intake.Source{Name: storage.File, Bytes: storage.Bytes}, silent)
			return err
		}},
	} {
		inner, cancel := context.WithCancel(ctx)
		done := make(chan error, 1)
		go func() { done <- c.work(inner) }()
		time.Sleep(400 * time.Millisecond)
		at := time.Now()
		cancel()
		if err := <-done; !errors.Is(err, context.Canceled) {
			return fmt.Errorf("%s was over before it could be cancelled (%v)", c.what, err)
		}
		fmt.Fprintf(w, "cancelled while %s: over in %.0f ms (wanted <= 1000)\n", c.what, time.Since(at).Seconds()*1000)
	}
	return nil
}

// Samples is the folder of sample files in a Go module of the module cache.
func Samples(module, sub string) string {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", module).Output()
	if err != nil {
		return ""
	}
	return filepath.Join(strings.TrimSpace(string(dir)), sub)
}
