package readers

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/e2e/browser"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/fill"
)

// rehearsal is the application's own rehearsal as a reader: what it shows of the form is held to what readers of other makes do.
type rehearsal struct {
	unable
	*browser.Browser
	draft    *form.Template
	released []byte // the form that the answers are filled into
	doc      string
}

// Rehearse tries every property of the specimen in the rehearsal of a document. The browser is signed in and shows its
// rehearsal; the specimen was made for the address, and released as the bytes.
func Rehearse(b *browser.Browser, doc, address string, draft *form.Template, released []byte, chosen func(Property) bool) ([]Cell, error) {
	r := &rehearsal{Browser: b, draft: draft, released: released, doc: doc}
	return (&Trial{Reader: r, Draft: draft, Sent: r.sent}).cells(address, chosen)
}

func (r *rehearsal) Close() {}

// at is an expression of the nth control of a name.
func at(name string, n int) string {
	return fmt.Sprintf("document.querySelectorAll('#sheet .live[data-name=' + CSS.escape(%s) + ']')[%d]", quoted(name), n)
}

// settled waits until the rehearsal has worked out what follows.
func (r *rehearsal) settled() error {
	time.Sleep(40 * time.Millisecond)
	return r.Wait("document.documentElement.dataset.live === 'yes' && document.getElementById('rehearse').ariaBusy !== 'true'")
}

func (r *rehearsal) on(p geom.Point) (x, y float64, err error) {
	var s [3]float64
	err = r.Eval("(() => { const i = document.querySelector('#sheet img').getBoundingClientRect(); return [i.x, i.y, i.width] })()", &s)
	k := s[2] / width
	return s[0] + p.X*k, s[1] + (height-p.Y)*k, err
}

func (r *rehearsal) Press(name string, n int) error {
	if strings.HasPrefix(name, "send_") { // nothing is sent while something is missing
		if err := r.Write("policy", "GQ 1"); err != nil {
			return err
		}
	}
	f, err := nth(r.draft, name, n)
	if err != nil {
		return err
	}
	x, y, err := r.on(f.Rect.Mid())
	if err != nil {
		return err
	}
	if err := r.ClickAt(x, y); err != nil {
		return err
	}
	return r.settled()
}

func (r *rehearsal) Write(name, text string) error {
	if err := r.Press(name, 0); err != nil {
		return err
	}
	if err := typed(r.Browser, text, 5*time.Millisecond); err != nil {
		return err
	}
	if err := r.Key(browser.Tab); err != nil {
		return err
	}
	return r.settled()
}

func (r *rehearsal) Choose(name string, labels ...string) error {
	err := r.Eval(fmt.Sprintf("(e => { for (const o of e.options) o.selected = %s.includes(o.text); e.dispatchEvent(new Event('change', "+
		"{bubbles: true})) })(%s)", list(labels), at(name, 0)), nil)
	if err != nil {
		return err
	}
	return r.settled()
}

func list(labels []string) string {
	var out []string
	for _, l := range labels {
		out = append(out, quoted(l))
	}
	return "[" + strings.Join(out, ", ") + "]"
}

func (r *rehearsal) Do(name string, what form.Trigger) error {
	f, err := nth(r.draft, name, 0)
	if err != nil {
		return err
	}
	switch what {
	case form.FieldEntered:
		return r.Press(name, 0)
	case form.FieldLeft:
		if err := r.Press(name, 0); err != nil {
			return err
		}
		if err := r.Key(browser.Tab); err != nil {
			return err
		}
		return r.settled()
	}
	x, y, err := r.on(f.Rect.Mid())
	if err != nil {
		return err
	}
	if err := r.Hover(x, y); err != nil {
		return err
	}
	if what == form.PointerOut {
		if x, y, err = r.on(geom.Point{X: width - 4, Y: 4}); err != nil {
			return err
		}
		if err := r.Hover(x, y); err != nil {
			return err
		}
	}
	return r.settled()
}

func (r *rehearsal) Walk(from string) (string, error) {
	if err := r.Press(from, 0); err != nil {
		return "", err
	}
	if err := r.Key(browser.Tab); err != nil {
		return "", err
	}
	var name string
	err := r.Eval("document.activeElement?.dataset.name ?? 'nothing'", &name)
	return name, err
}

// Save fills the answers of the rehearsal into the released form.
func (r *rehearsal) Save() ([]byte, error) {
	answers := map[string]string{}
	if err := r.Eval(fmt.Sprintf("JSON.parse(sessionStorage.getItem('rehearsal-%s') || '{}')", r.doc), &answers); err != nil {
		return nil, err
	}
	data := map[string]any{}
	for _, f := range r.draft.Fields {
		switch v := answers[f.Name]; {
		case f.Kind == form.Button || f.Kind == form.Signature:
		case f.List == form.ManyList:
			several := []any{}
			for _, one := range strings.Fields(v) {
				several = append(several, one)
			}
			data[f.Name] = several
		default:
			data[f.Name] = v
		}
	}
	return fill.Fill(r.released, data)
}

func (r *rehearsal) Shown(name string) (string, error) {
	var s string
	err := r.Eval(fmt.Sprintf("(e => e.hidden ? '' : e.type === 'password' ? '•'.repeat(e.value.length) : e.value)(%s)", at(name, 0)), &s)
	return s, err
}

func (r *rehearsal) Seen(name string) (bool, error) {
	var on bool
	err := r.Eval(fmt.Sprintf("(e => Boolean(e) && e.getClientRects().length > 0)(%s)", at(name, 0)), &on)
	return on, err
}

func (r *rehearsal) Required(name string) (bool, error) {
	var on bool
	err := r.Eval(at(name, 0)+".classList.contains('must')", &on)
	return on, err
}

func (r *rehearsal) Page() (int, error) {
	if err := r.Wait("document.getElementById('rehearse').dataset.page === '2'"); err != nil {
		return 1, nil //nolint:nilerr // it stayed
	}
	return 2, nil
}

func (r *rehearsal) Messages() ([]string, error) {
	var s string
	err := r.Eval("document.getElementById('told').textContent", &s)
	return []string{s}, err
}

// sent is what the rehearsal says would be sent, as a body in that form begins.
func (r *rehearsal) sent(path string) string {
	var said string
	if err := r.Eval("document.getElementById('sent').textContent", &said); err != nil || !strings.Contains(said, path+" as ") {
		return ""
	}
	for words, body := range map[string]string{
		"as FDF:": "%FDF-", "as XFDF:": "<xfdf", "as form data:": "plain=", "as the whole PDF:": "%PDF-",
	} {
		if strings.Contains(said, words) {
			return body
		}
	}
	return said
}

// Told is what the controls are.
func (r *rehearsal) Told() (map[string]Told, error) {
	var all []struct {
		Kind, Name, Tooltip, Value                             string
		Rect                                                   [4]float64
		MaxLen                                                 int
		Required, ReadOnly, Multiline, Comb, Password, NoSpell bool
		Options                                                []string
	}
	err := r.Eval(`(() => { const i = document.querySelector('#sheet img').getBoundingClientRect(), k = i.width / `+fmt.Sprint(width)+`;
		return [...document.querySelectorAll('#sheet .live')].map(e => { const d = e.dataset, x = d.x / k, y = `+fmt.Sprint(height)+` - d.y / k;
		return { Kind: e.matches('.press') ? 'button' : e.matches('.sign') ? 'signature' : e.type === 'checkbox' || e.type === 'radio' ? e.type :
			e.matches('select') || e.list ? 'choice' : 'text', Name: d.name, Tooltip: e.ariaLabel, Value: e.value,
			Rect: [x, y - d.h / k, x + d.w / k, y],
			MaxLen: Math.max(0, e.maxLength ?? 0), Required: e.matches('.must'), ReadOnly: Boolean(e.readOnly || 'fixed' in d),
			Multiline: e.matches('textarea'),
			Comb: Number(d.comb) > 0, Password: e.type === 'password',
			NoSpell: e.getAttribute('spellcheck') === 'false',
			Options: [...(e.options || e.list?.options || [])].filter(o => o.value).map(o => o.text || o.value) } }) })()`, &all)
	out := map[string]Told{}
	for _, t := range all {
		out[t.Tooltip] = Told{
			Kind: &t.Kind, Name: &t.Name, Tooltip: &t.Tooltip, Value: &t.Value, Rect: &t.Rect, MaxLen: &t.MaxLen, Required: &t.Required,
			ReadOnly: &t.ReadOnly, Multiline: &t.Multiline, Comb: &t.Comb, Password: &t.Password, NoSpell: &t.NoSpell, Options: &t.Options,
		}
	}
	return out, err
}

// apart is what the rehearsal does otherwise than Chromium's viewer, and why that is right.
var apart = map[string]string{
	"required if":                 "it holds people to it, as the returns are held",
	"button: send as XFDF":        "the viewer sends FDF whatever is asked for; it says what was asked for",
	"button: send as form data":   "as with XFDF",
	"button: send the whole PDF":  "as with XFDF",
	"Greek letters show":          "the viewer draws them over each other in what it saves",
	"Cyrillic letters show":       "as with Greek letters",
	"when the document is opened": "it runs no script of one's own, and says so",
}

// Apart lists where the rehearsal does otherwise than Chromium's viewer without a reason, and the reasons that are idle.
func Apart(rows []Row, cells []Cell) []string {
	var out []string
	for i, r := range rows {
		viewer, ours := r.Cells["Chromium"], cells[i]
		if viewer.Untried {
			continue
		}
		differs := !viewer.Cannot && !ours.Cannot && viewer.Got != ours.Got
		if ours.Cannot && !viewer.Cannot {
			out = append(out, r.Title+": the rehearsal cannot")
		}
		if why := apart[r.Title]; differs == (why != "") {
			continue
		}
		out = append(out, fmt.Sprintf("%s: %q in the viewer, %q in the rehearsal", r.Title, viewer.Got, ours.Got))
	}
	slices.Sort(out)
	return out
}
