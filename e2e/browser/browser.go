// Package browser drives headless Chromium for the tests and for the pictures of
// the documentation. Coordinates are CSS pixels in the viewport.
package browser

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"sync"
	"time"

	cdpbrowser "github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/css"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Browser is one browser with one page.
type Browser struct {
	ctx    context.Context
	cancel []context.CancelFunc
}

// Options are the ways in which a browser differs.
type Options struct {
	Width, Height int64
	Downloads     string // a folder; empty leaves downloads off
	Viewer        bool   // with the viewer for PDF, which the small build of the browser does not have
}

// Both builds of Chromium are started once and shared: each test has a store of its own in them, as a person's private window has, since
// to start a browser takes longer than many a test. The small one has no windows of its own to draw, and takes two thirds of the time.
var small, whole = sync.OnceValues(func() (context.Context, error) {
	path, err := exec.LookPath("chromium-headless-shell")
	if err != nil {
		return whole() // the same, only slower
	}
	return started(chromedp.ExecPath(path))
}), sync.OnceValues(func() (context.Context, error) { return started() })

func started(more ...chromedp.ExecAllocatorOption) (context.Context, error) {
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-extensions", false), // the PDF viewer is one
		chromedp.Flag("disable-print-preview", true),
		chromedp.Flag("disable-features", "Translate,LocalNetworkAccessChecks,OptimizationHints,MediaRouter"),
		chromedp.WindowSize(1280, 800),
	)
	alloc, _ := chromedp.NewExecAllocator(context.Background(), append(opts, more...)...) // it ends with the program
	ctx, _ := chromedp.NewContext(alloc)
	return ctx, chromedp.Do(ctx, chromedp.Navigate("about:blank"))
}

// Start opens a window on a blank page, which shares nothing with others.
func Start(o Options) (*Browser, error) {
	if o.Width == 0 {
		o.Width, o.Height = 1280, 800
	}
	one := small
	if o.Viewer {
		one = whole
	}
	all, err := one()
	if err != nil {
		return nil, fmt.Errorf("the browser did not start: %w", err)
	}
	ctx, cancel := chromedp.NewContext(all, chromedp.WithNewBrowserContext())
	b := &Browser{ctx: ctx, cancel: []context.CancelFunc{cancel}}
	if err := chromedp.Do(ctx, chromedp.Navigate("about:blank"), chromedp.EmulateViewport(o.Width, o.Height)); err != nil {
		b.Close()
		return nil, fmt.Errorf("the browser did not start: %w", err)
	}
	// Nobody asks here for news of every style, element and answer, which take a tenth of the time.
	for _, c := range []cdp.Command[cdp.Empty, cdp.Empty]{css.Disable, dom.Disable, network.Disable} {
		if _, err := chromedp.Call(ctx, c, cdp.Empty{}); err != nil {
			b.Close()
			return nil, err
		}
	}
	focused := emulation.SetFocusEmulationEnabledParams{Enabled: true} // as if it were the window in front
	if _, err := chromedp.Call(ctx, emulation.SetFocusEmulationEnabled, focused); err != nil {
		b.Close()
		return nil, err
	}
	if o.Downloads != "" {
		_, err := chromedp.CallBrowser(ctx, cdpbrowser.SetDownloadBehavior, cdpbrowser.SetDownloadBehaviorParams{
			Behavior: "allow", DownloadPath: o.Downloads, BrowserContextID: chromedp.FromContext(ctx).BrowserContextID,
		})
		if err != nil {
			b.Close()
			return nil, err
		}
	}
	return b, nil
}

// Window opens another window of the same browser at an address; what the browser keeps is shared.
func (b *Browser) Window(url string) (*Browser, error) {
	ctx, cancel := chromedp.NewContext(b.ctx)
	w := &Browser{ctx: ctx, cancel: []context.CancelFunc{cancel}}
	if err := w.Open(url); err != nil {
		w.Close()
		return nil, err
	}
	return w, nil
}

// Size makes the window as large as said, in CSS pixels.
func (b *Browser) Size(w, h int64) error { return b.do(chromedp.EmulateViewport(w, h)) }

// Close ends the browser.
func (b *Browser) Close() {
	for _, c := range b.cancel {
		c()
	}
}

// Context is the chromedp context of the page, for what is not wrapped here.
func (b *Browser) Context() context.Context { return b.ctx }

func (b *Browser) do(steps ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(b.ctx, 30*time.Second)
	defer cancel()
	return chromedp.Do(ctx, steps...)
}

// Open goes to an address and waits until it is loaded.
func (b *Browser) Open(url string) error { return b.do(chromedp.Navigate(url)) }

// Cookie sets a cookie for an address.
func (b *Browser) Cookie(url, name, value string) error {
	set := network.SetCookieParams{Name: name, Value: value, URL: url}
	_, err := chromedp.Call(b.ctx, network.SetCookie, set)
	return err
}

// Eval evaluates an expression, which may be a promise, into out (or nowhere when out is nil).
func (b *Browser) Eval(js string, out any) error {
	ctx, cancel := context.WithTimeout(b.ctx, 30*time.Second)
	defer cancel()
	s, err := chromedp.Run(ctx, chromedp.Evaluate[string]("Promise.resolve("+js+
		").then(v => JSON.stringify(v === undefined ? null : v))", chromedp.EvalAwaitPromise))
	if err != nil {
		return fmt.Errorf("%s: %w", js, err)
	}
	if out == nil {
		return nil
	}
	return json.Unmarshal([]byte(s), out)
}

// Wait waits up to a minute until an expression is true. It is the page that looks, every few milliseconds, and it is asked again after
// it has gone elsewhere: to ask it from here each time costs more than much of what is tested.
func (b *Browser) Wait(js string) error {
	look := fmt.Sprintf(`new Promise((done) => {
		const end = Date.now() + 2000
		let said = ''
		const look = () => {
			try { if (%s) return done('yes') } catch (e) { said = String(e) }
			if (Date.now() > end) return done(said)
			setTimeout(look, 25)
		}
		look()
	})`, js)
	var said string
	var last error
	for end := time.Now().Add(time.Minute); time.Now().Before(end); {
		if last = b.Eval(look, &said); last != nil { // it went elsewhere
			time.Sleep(20 * time.Millisecond)
		} else if said == "yes" {
			return nil
		}
	}
	return fmt.Errorf("it did not come true: %s (%s %v)", js, said, last)
}

// standing gives where an element stands when it has come to rest. A person does not press what is still being laid out: the scripts are
// there first, and the typefaces, which move things, and it has not moved from one frame to the next.
const standing = `new Promise((done) => {
	const end = Date.now() + 3000, q = %s
	const frame = () => Promise.race([new Promise((r) => requestAnimationFrame(r)), new Promise((r) => setTimeout(r, 40))])
	const ready = () => document.readyState === 'complete' &&
		(!document.querySelector('script[src*="app.js"]') || document.documentElement.dataset.ready)
	let last = ''
	const look = () => {
		if (!ready() && Date.now() < end) return setTimeout(look, 20)
		const e = document.querySelector(q)
		if (!e) return done(null)
		e.scrollIntoView({ block: 'nearest' })
		const r = e.getBoundingClientRect(), at = [r.x, r.y, r.width, r.height]
		if (String(at) === last || Date.now() > end) return done(at)
		last = String(at)
		frame().then(look)
	}
	Promise.race([document.fonts.ready, new Promise((r) => setTimeout(r, 3000))]).then(look)
})`

// Rect is where the first element that a CSS selector matches stands, once it stands still.
func (b *Browser) Rect(css string) (x, y, w, h float64, err error) {
	var r []float64
	q, _ := json.Marshal(css)
	for end := time.Now().Add(3 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if err = b.Eval(fmt.Sprintf(standing, q), &r); err == nil { // else it went elsewhere
			break
		}
	}
	if err != nil || r == nil {
		return 0, 0, 0, 0, fmt.Errorf("there is no %s on the page (%v)", css, err)
	}
	return r[0], r[1], r[2], r[3], nil
}

// Click presses the middle of the first element that a CSS selector matches.
func (b *Browser) Click(css string) error {
	x, y, w, h, err := b.Rect(css)
	if err != nil {
		return err
	}
	return b.ClickAt(x+w/2, y+h/2)
}

// ClickAt presses a point.
func (b *Browser) ClickAt(x, y float64) error { return b.Drag(x, y, x, y) }

// ClickWith presses a point with keys held.
func (b *Browser) ClickWith(x, y float64, mods ...chromedp.Modifier) error {
	return b.drag(x, y, x, y, mods...)
}

// Drag presses at one point, moves in steps to another, and lets go.
func (b *Browser) Drag(x0, y0, x1, y1 float64) error { return b.drag(x0, y0, x1, y1) }

func (b *Browser) drag(x0, y0, x1, y1 float64, mods ...chromedp.Modifier) error {
	var held int64
	for _, m := range mods {
		held |= int64(m)
	}
	mouse := func(t input.DispatchMouseEventType, x, y float64) error {
		p := input.DispatchMouseEventParams{Type: t, X: x, Y: y, ClickCount: 1, Button: input.MouseButtonLeft, Modifiers: held}
		if t == input.DispatchMouseEventTypeMouseMoved {
			p.ClickCount = 0
		}
		_, err := chromedp.Call(b.ctx, input.DispatchMouseEvent, p)
		return err
	}
	if err := mouse(input.DispatchMouseEventTypeMouseMoved, x0, y0); err != nil {
		return err
	}
	if err := mouse(input.DispatchMouseEventTypeMousePressed, x0, y0); err != nil {
		return err
	}
	if x0 != x1 || y0 != y1 {
		const steps = 6
		for i := 1; i <= steps; i++ {
			f := float64(i) / steps
			if err := mouse(input.DispatchMouseEventTypeMouseMoved, x0+(x1-x0)*f, y0+(y1-y0)*f); err != nil {
				return err
			}
		}
	}
	return mouse(input.DispatchMouseEventTypeMouseReleased, x1, y1)
}

// Modifiers for Key.
const (
	Ctrl  = chromedp.ModifierCtrl
	Shift = chromedp.ModifierShift
	Alt   = chromedp.ModifierAlt
)

// Keys by name, for Key.
const (
	Enter      = kb.Enter
	Tab        = kb.Tab
	Delete     = kb.Delete
	Escape     = kb.Escape
	ArrowRight = kb.ArrowRight
	ArrowDown  = kb.ArrowDown
)

// Key types keys with modifiers held.
func (b *Browser) Key(keys string, mods ...chromedp.Modifier) error {
	var opts []chromedp.KeyOption
	if len(mods) > 0 {
		opts = append(opts, chromedp.KeyModifiers(mods...))
	}
	return b.do(chromedp.KeyEvent(keys, opts...))
}

// Type types slowly enough for scripts that run at every key.
func (b *Browser) Type(text string, pause time.Duration) error {
	for _, r := range text {
		if err := b.Key(string(r)); err != nil {
			return err
		}
		time.Sleep(pause)
	}
	return nil
}

// Fill gives an input of the page a value as a person would: all of it replaced,
// then left.
func (b *Browser) Fill(css, value string) error {
	q, _ := json.Marshal(css)
	v, _ := json.Marshal(value)
	return b.Eval(fmt.Sprintf("(e => { e.focus(); e.value = %s; e.dispatchEvent(new Event('input', {bubbles:true})); "+
		"e.dispatchEvent(new Event('change', {bubbles:true})); return true })(document.querySelector(%s))", v, q), nil)
}

// Upload chooses files for a file input.
func (b *Browser) Upload(css string, files ...string) error {
	q, _ := json.Marshal(css)
	res, err := chromedp.Call(b.ctx, runtime.Evaluate, runtime.EvaluateParams{Expression: "document.querySelector(" + string(q) + ")"})
	if err != nil {
		return err
	}
	_, err = chromedp.Call(b.ctx, dom.SetFileInputFiles, dom.SetFileInputFilesParams{Files: files, ObjectID: res.Result.ObjectID})
	return err
}

// Shot writes a picture of the page as PNG.
func (b *Browser) Shot(file string) error {
	res, err := chromedp.Call(b.ctx, page.CaptureScreenshot, page.CaptureScreenshotParams{})
	if err != nil {
		return err
	}
	return os.WriteFile(file, res.Data, 0o644)
}

// PDF prints the page to PDF on the paper that its style asks for.
func (b *Browser) PDF() ([]byte, error) {
	yes := true
	res, err := chromedp.Call(b.ctx, page.PrintToPDF, page.PrintToPDFParams{PrintBackground: &yes, PreferCSSPageSize: &yes})
	return res.Data, err
}

// Hover moves the pointer to a place without pressing.
func (b *Browser) Hover(x, y float64) error {
	_, err := chromedp.Call(b.ctx, input.DispatchMouseEvent,
		input.DispatchMouseEventParams{Type: input.DispatchMouseEventTypeMouseMoved, X: x, Y: y})
	return err
}
