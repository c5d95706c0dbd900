package readers

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"image/png"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Viewer is a form open in Chromium's own PDF viewer.
type Viewer struct {
	*browser.Browser
	Page  geom.Rect // where page 1 stands on the screen, in pixels
	Scale float64   // pixels per point

	mu     sync.Mutex
	told   []string        // messages that scripts have shown
	frame  context.Context // of the viewer itself
	height float64
}

// OpenViewer opens the form at an address whose first page has a size in points.
func OpenViewer(address string, size form.Page) (*Viewer, error) {
	br, err := browser.Start(browser.Options{
		Viewer: true, Width: max(1000, int64(size.Width*1.6)), Height: max(1300, int64(size.Height*1.5)),
	})
	if err != nil {
		return nil, err
	}
	v := &Viewer{Browser: br, height: size.Height}
	if err := v.open(address, size); err != nil {
		br.Close()
		return nil, err
	}
	return v, nil
}

func (v *Viewer) open(address string, size form.Page) error {
	if err := v.Open(address + "#toolbar=0&navpanes=0&zoom=100"); err != nil {
		return err
	}
	// Messages that scripts show are read and closed.
	err := chromedp.Listen(v.Context(), func(ev any) {
		if d, ok := ev.(*page.EventJavascriptDialogOpening); ok {
			v.mu.Lock()
			v.told = append(v.told, d.Message)
			v.mu.Unlock()
			go func() {
				_, _ = chromedp.Call(v.Context(), page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true})
			}()
		}
	})
	if err != nil {
		return err
	}
	if err := v.attach(); err != nil {
		return err
	}
	var r [4]float64
	for end := time.Now().Add(20 * time.Second); r[2] < 100; time.Sleep(200 * time.Millisecond) {
		if err := v.place(&r); time.Now().After(end) {
			return fmt.Errorf("the viewer does not show the page: %w", errors.Join(err, context.DeadlineExceeded))
		}
	}
	v.Page = geom.Rect{X0: r[0], Y0: r[1], X1: r[0] + r[2], Y1: r[1] + r[3]}
	v.Scale = r[2] / size.Width
	return nil
}

// place is where the first page stands.
func (v *Viewer) place(r *[4]float64) error {
	return v.eval("(() => { const r = document.querySelector('pdf-viewer').viewport.getPageScreenRect(0); "+
		"return [r.x, r.y, r.width, r.height] })()", r)
}

// attach finds the viewer, which is a frame of its own. Its context stays: ending it would close the frame.
func (v *Viewer) attach() error {
	for end := time.Now().Add(20 * time.Second); v.frame == nil; time.Sleep(200 * time.Millisecond) {
		targets, err := chromedp.Targets(v.Context())
		if time.Now().After(end) {
			return fmt.Errorf("the viewer does not start: %w", errors.Join(err, context.DeadlineExceeded))
		}
		i := slices.IndexFunc(targets, func(t *target.Info) bool { return strings.HasPrefix(t.URL, "chrome-extension://") })
		if i >= 0 {
			v.frame, _ = chromedp.NewContext(v.Context(), chromedp.WithTargetID(targets[i].TargetID))
		}
	}
	return nil
}

// Unlocks opens a locked form at an address, says a password to the viewer when it asks for one, and tells whether the page shows then.
func Unlocks(address, password string) (bool, error) {
	br, err := browser.Start(browser.Options{Viewer: true})
	if err != nil {
		return false, err
	}
	defer br.Close()
	v := &Viewer{Browser: br}
	if err := v.Open(address + "#toolbar=0&navpanes=0&zoom=100"); err != nil {
		return false, err
	}
	if err := v.attach(); err != nil {
		return false, err
	}
	const dialog = "document.querySelector('pdf-viewer')?.shadowRoot.querySelector('viewer-password-dialog')"
	waits := func(js string) (yes bool) {
		for end := time.Now().Add(10 * time.Second); !yes && time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
			_ = v.eval("Boolean("+js+")", &yes) // not yet there
		}
		return yes
	}
	if !waits(dialog + "?.shadowRoot.querySelector('#password')") {
		return false, errors.New("the viewer does not ask for a password")
	}
	said, err := json.Marshal(password)
	if err != nil {
		return false, err
	}
	var ok bool
	if err := v.eval("(() => { const d = "+dialog+".shadowRoot; d.querySelector('#password').value = "+string(said)+
		"; d.querySelector('#submit').click(); return true })()", &ok); err != nil {
		return false, err
	}
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		var r [4]float64
		if err := v.place(&r); err == nil && r[2] >= 100 {
			return true, nil
		}
		var wrong bool
		if err := v.eval("Boolean("+dialog+"?.shadowRoot.querySelector('#password').invalid)", &wrong); err == nil && wrong {
			return false, nil
		}
	}
	return false, errors.New("the viewer neither shows the page nor refuses the password")
}

// eval evaluates an expression in the frame of the viewer.
func (v *Viewer) eval(js string, out any) error {
	yes := true
	res, err := chromedp.Call(v.frame, runtime.Evaluate, runtime.EvaluateParams{AwaitPromise: &yes, ReturnByValue: &yes, Expression: js})
	if err != nil {
		return err
	}
	if res.Result == nil || res.Result.Value == nil {
		return fmt.Errorf("%s gives nothing", js)
	}
	return json.Unmarshal([]byte(res.Result.Value), out)
}

// Save gives the form as it is filled in now.
func (v *Viewer) Save() ([]byte, error) {
	var s string
	err := v.eval(`document.querySelector('pdf-viewer').pluginController_.save('EDITED').then((r) => { const b = new Uint8Array(r.dataToSave); `+
		`let s = ''; for (let i = 0; i < b.length; i++) s += String.fromCharCode(b[i]); return btoa(s); })`, &s)
	if err != nil {
		return nil, err
	}
	return base64.StdEncoding.DecodeString(s)
}

// Messages are what scripts have shown.
func (v *Viewer) Messages() ([]string, error) {
	v.mu.Lock()
	defer v.mu.Unlock()
	return slices.Clone(v.told), nil
}

// On is where a point of the page is on the screen.
func (v *Viewer) On(p geom.Point) (x, y float64) {
	return v.Page.X0 + p.X*v.Scale, v.Page.Y0 + (v.height-p.Y)*v.Scale
}

// chromium is the viewer as a reader.
type chromium struct {
	unable
	*Viewer
	draft *form.Template
	pause time.Duration // between keys
}

// Slow types more slowly, or as before: on a busy machine the viewer loses keys.
func (c *chromium) Slow(on bool) {
	c.pause = map[bool]time.Duration{false: 40, true: 120}[on] * time.Millisecond
}

func openChromium(d *Desk, draft *form.Template) (Reader, error) {
	v, err := OpenViewer(d.URL+"/form.pdf", draft.Pages[0])
	if err != nil {
		return nil, err
	}
	c := &chromium{Viewer: v, draft: draft}
	c.Slow(false)
	return c, c.Write(draft.Fields[0].Name, "") // the first keys after the start are lost
}

func (c *chromium) Close()                      { c.Browser.Close() }
func (c *chromium) Save() ([]byte, error)       { return c.Viewer.Save() }
func (c *chromium) Messages() ([]string, error) { return c.Viewer.Messages() }

// rest gives the viewer time to do what was asked.
func rest() { time.Sleep(200 * time.Millisecond) }

func (c *chromium) Press(name string, n int) error {
	f, err := nth(c.draft, name, n)
	if err != nil {
		return err
	}
	err = c.ClickAt(c.On(f.Rect.Mid()))
	rest()
	return err
}

func (c *chromium) Write(name, text string) error {
	if err := c.Press(name, 0); err != nil {
		return err
	}
	if err := typed(c.Browser, text, c.pause); err != nil {
		return err
	}
	err := c.Key(browser.Tab)
	rest()
	return err
}

// Choose presses the options of a list box, with Ctrl after the first; of a dropdown it goes down to the option.
func (c *chromium) Choose(name string, labels ...string) error {
	f, err := nth(c.draft, name, 0)
	if err != nil {
		return err
	}
	places := make([]int, len(labels))
	for i, l := range labels {
		if places[i] = slices.IndexFunc(f.Options, func(o form.Option) bool { return o.Label == l }); places[i] < 0 {
			return fmt.Errorf("%s offers no %s", name, l)
		}
	}
	if f.List == form.Dropdown || f.List == form.ComboBox {
		if err := c.Press(name, 0); err != nil {
			return err
		}
		for range places[0] + 1 {
			if err := c.Key(browser.ArrowDown); err != nil {
				return err
			}
			rest()
		}
		if err = c.Key(browser.Enter); err == nil {
			err = c.Key(browser.Tab)
		}
		rest()
		return err
	}
	const line = 12.0 * 1.15 // points, of an option
	for i, n := range places {
		x, y := c.On(geom.Point{X: f.Rect.Mid().X, Y: f.Rect.Y1 - 2 - line*(float64(n)+0.5)})
		for _, t := range []input.DispatchMouseEventType{
			input.DispatchMouseEventTypeMousePressed, input.DispatchMouseEventTypeMouseReleased,
		} {
			p := input.DispatchMouseEventParams{Type: t, X: x, Y: y, ClickCount: 1, Button: input.MouseButtonLeft}
			if i > 0 {
				p.Modifiers = int64(browser.Ctrl)
			}
			if _, err := chromedp.Call(c.Context(), input.DispatchMouseEvent, p); err != nil {
				return err
			}
		}
		rest()
	}
	err = c.Key(browser.Tab)
	rest()
	return err
}

func (c *chromium) Do(name string, what form.Trigger) error {
	f, err := nth(c.draft, name, 0)
	if err != nil {
		return err
	}
	switch what {
	case form.FieldEntered:
		err = c.Press(name, 0)
	case form.FieldLeft:
		if err = c.Press(name, 0); err == nil {
			err = c.Key(browser.Tab)
		}
	case form.PointerIn, form.PointerOut:
		if err = c.Hover(c.On(f.Rect.Mid())); err == nil && what == form.PointerOut {
			rest()
			err = c.Hover(c.On(geom.Point{X: width - 4, Y: 4})) // a free place of the page
		}
	default:
		return ErrCannot
	}
	rest()
	return err
}

// Walk writes where the keyboard goes to, and looks where it has come.
func (c *chromium) Walk(from string) (string, error) {
	if err := c.Press(from, 0); err != nil {
		return "", err
	}
	const mark = "here"
	if err := c.Key(browser.Tab); err != nil {
		return "", err
	}
	if err := c.Type(mark, 40*time.Millisecond); err != nil {
		return "", err
	}
	if err := c.Key(browser.Tab); err != nil {
		return "", err
	}
	rest()
	b, err := c.Save()
	if err != nil {
		return "", err
	}
	all, err := qpdfFields(b)
	for name, f := range all {
		if f.value == mark {
			return name, err
		}
	}
	return "nothing", err
}

func (c *chromium) Shown(name string) (string, error) {
	b, err := c.Save()
	if err != nil {
		return "", err
	}
	f, err := nth(c.draft, name, 0)
	if err != nil {
		return "", err
	}
	return textAt(b, f.Rect)
}

func (c *chromium) Seen(name string) (bool, error) {
	res, err := chromedp.Call(c.Context(), page.CaptureScreenshot, page.CaptureScreenshotParams{})
	if err != nil {
		return false, err
	}
	img, err := png.Decode(bytes.NewReader(res.Data))
	if err != nil {
		return false, err
	}
	f, err := nth(c.draft, name, 0)
	return filledIn(img, f.Rect, func(p geom.Point) (int, int) {
		x, y := c.On(p)
		return int(x), int(y)
	}), err
}

func (c *chromium) Page() (int, error) {
	var n int
	err := c.eval("document.querySelector('pdf-viewer').viewport.getMostVisiblePage() + 1", &n)
	return n, err
}
