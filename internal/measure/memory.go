package measure

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"os/exec"
	"regexp"
	"slices"
	"strconv"
	"time"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/scan/simulate"
)

// Memory does the work of [Alone], each in a process of its own (self, called with a
// hidden flag), and prints the most memory it took.
func Memory(w io.Writer, self string) error {
	for _, work := range slices.Sorted(maps.Keys(Alone)) {
		out, err := exec.Command(self, "bench", "--alone", work).Output()
		if err != nil {
			return fmt.Errorf("the process of the memory measurement failed: %w", err)
		}
		if _, err = w.Write(out); err != nil {
			return err
		}
	}
	return nil
}

// Alone is the work of which the memory is measured.
var Alone = map[string]func(context.Context, io.Writer) error{"bring-in-500": bringIn500, "find-200": find200}

// mostMemory is the most that this process has taken, in megabytes.
func mostMemory() (int, error) {
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return 0, err
	}
	m := regexp.MustCompile(`VmHWM:\s+(\d+) kB`).FindSubmatch(status)
	if m == nil {
		return 0, errors.New("the system does not tell how much memory was taken")
	}
	kb, err := strconv.Atoi(string(m[1]))
	return kb >> 10, err
}

// find200 finds fields on 200 pages, every other one a scan at 200 dpi.
func find200(ctx context.Context, w io.Writer) error {
	b, err := manyPages(100)
	if err != nil {
		return err
	}
	typesetPages, err := engine.Pages(ctx, b)
	if err != nil {
		return err
	}
	var pictures []write.Picture
	for n := range 2 {
		img, err := engine.DrawPage(ctx, b, n+1, 200.0/72)
		if err != nil {
			return err
		}
		pictures = append(pictures, write.Picture{
			Image: simulate.Scan(img, 200, simulate.Faults{Specks: 100, Skew: float64(n)}),
			DPI:   200, Orientation: 1,
		})
	}
	scans, err := write.FromPictures(pictures)
	if err != nil {
		return err
	}
	scanPages, err := engine.Pages(ctx, scans)
	if err != nil {
		return err
	}
	start, fields := time.Now(), 0
	for n := range 200 {
		file, page := b, typesetPages[n/2]
		page.N = n/2 + 1
		if n%2 == 1 {
			file, page = scans, scanPages[n/2%2]
			page.N, page.Scan = n/2%2+1, true
		}
		ev, err := engine.Read(ctx, file, page, nil)
		if err != nil {
			return err
		}
		fields += len(detect.Page(ev))
	}
	took := time.Since(start)
	most, err := mostMemory()
	if err != nil {
		return err
	}
	fmt.Fprintf(w, "\nfinding on 200 pages, 100 of them scans: %d finds in %.1f s, at most %d MB of memory (wanted < 600)\n", fields,
		took.Seconds(), most)
	return nil
}

// bringIn500 brings in a PDF of 500 pages, turns one of them and releases it.
func bringIn500(ctx context.Context, w io.Writer) error {
	b, err := manyPages(500)
	if err != nil {
		return err
	}
	start := time.Now()
	r, err := intake.Read(ctx, intake.Source{Name: "many.pdf", Bytes: b}, silent)
	if err != nil {
		return err
	}
	in := time.Since(start)
	t := &form.Template{Pages: r.Pages}
	e, err := t.TurnPages([]string{t.Pages[100].ID}, 1)
	if err != nil {
		return err
	}
	if err := t.Apply(e); err != nil {
		return err
	}
	base, as, err := write.Base(t, write.Sources{File: func(string) ([]byte, error) { return r.PDF, nil }})
	if err != nil {
		return err
	}
	if _, err := write.Release(base, as); err != nil {
		return err
	}
	most, err := mostMemory()
	if err != nil {
		return err
	}
	fmt.Fprintf(w, "\n500 pages (%d KB): brought in in %.1f s; with a page turned and written, at most %d MB of memory (wanted < 800)\n",
		len(b)>>10, in.Seconds(), most)
	return nil
}
