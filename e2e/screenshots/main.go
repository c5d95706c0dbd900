// Command screenshots makes the pictures of the documentation from a running
// demo office: screenshots ADDRESS FOLDER.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"time"

	"zealousmargin.example/demo"
	"zealousmargin.example/e2e/browser"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "use: screenshots ADDRESS FOLDER")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

type shooter struct {
	*browser.Browser
	address, folder string
	err             error
}

// try runs a step unless an earlier one failed.
func (s *shooter) try(step func() error) {
	if s.err == nil {
		s.err = step()
	}
}

func (s *shooter) open(path string) { s.try(func() error { return s.Open(s.address + path) }) }
func (s *shooter) click(css string) { s.try(func() error { return s.Click(css) }) }
func (s *shooter) wait(js string)   { s.try(func() error { return s.Wait(js) }) }

func (s *shooter) shot(name string) {
	s.try(func() error {
		time.Sleep(400 * time.Millisecond) // let pictures and typefaces settle
		return s.Shot(filepath.Join(s.folder, name+".png"))
	})
}

func run(address, folder string) error {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	b, err := browser.Start(browser.Options{Viewer: true})
	if err != nil {
		return err
	}
	defer b.Close()
	s := &shooter{Browser: b, address: address, folder: folder}
	p := demo.People[0]
	s.open("/sign-in")
	s.try(func() error { return s.Fill("input[name=email]", p.Email) })
	s.try(func() error { return s.Fill("input[name=password]", p.Password) })
	s.click("button.do")
	s.wait("document.querySelector('#documents .row')")
	s.try(func() error {
		return s.Eval("[...document.querySelectorAll('#documents .row')]"+
			".find(r => r.querySelector('.title').value === 'Berth application')"+
			".querySelector('.go a').click()", nil)
	})
	s.wait("document.getElementById('find-all')")
	s.wait("document.getElementById('picture').complete")
	s.wait("document.documentElement.dataset.ready")
	s.click("#find-all")
	s.wait("document.querySelectorAll('#overlay .f').length > 15 && document.querySelector('.note .line')")
	s.try(func() error { time.Sleep(400 * time.Millisecond); return nil }) // notes are laid
	s.try(func() error {
		return s.Eval("[...document.querySelectorAll('.note .n')].find(n => n.textContent.startsWith('port_registry')).click()", nil)
	})
	s.wait("document.querySelector('.note.open [data-key=name]')")
	s.try(func() error { return s.Fill(".note.open [data-key=name]", "home_port") })
	s.wait("document.querySelector('.note.open .learn')") // the correction is proposed to the office
	s.shot("find-note")
	s.click("#sweep")
	s.wait("!document.getElementById('sweepbar').hidden && document.querySelector('#overlay .f.sel')")
	s.shot("sweep")
	s.try(func() error { return s.Key(browser.Escape) })
	s.try(func() error { return s.Eval("document.querySelector('.stages a[href$=fit]').click()", nil) })
	s.wait("document.documentElement.dataset.ready && document.getElementById('bench').dataset.stage === 'fit' && " +
		"document.querySelectorAll('#overlay .f').length > 15")
	s.try(func() error {
		return s.Eval("[...document.querySelectorAll('.note .n')].find(n => n.textContent.startsWith('registration')).click()", nil)
	})
	s.wait("document.querySelector('.note.open .s')")
	s.shot("fit")
	s.try(func() error { return s.Eval("document.getElementById('paper').focus()", nil) })
	s.try(func() error { return s.Key(browser.Escape) })
	s.try(func() error { return s.Key("a", browser.Ctrl) })
	s.wait("document.querySelector('#n-many h3')")
	s.try(func() error { return s.Eval("document.querySelector('#n-many [data-more=look] summary').click()", nil) })
	s.try(func() error { return s.Key(browser.Escape) })
	s.try(func() error { return s.Key("/") })
	s.wait("document.querySelectorAll('#field-table tbody tr').length > 15 && document.documentElement.dataset.ready")
	s.click("#field-table tbody tr a")
	s.wait("document.documentElement.dataset.ready && document.querySelector('.note.open .s')")
	s.try(func() error { return s.Eval("document.querySelector('.stages a[href$=rules]').click()", nil) })
	s.wait("document.documentElement.dataset.ready && document.querySelector('[data-format=date]') && " +
		"document.getElementById('bench').dataset.stage === 'rules'")
	s.try(func() error {
		return s.Eval("[...document.querySelectorAll('.note .n')].find(n => n.textContent.startsWith('date')).click()", nil)
	})
	s.wait("document.querySelector('.note.open .s')")
	s.click("[data-format=date]")
	s.wait("document.querySelector('.note.open [data-key=pattern]')")
	s.shot("rules")
	s.try(func() error { return s.Eval("document.querySelector('.stages a[href$=order]').click()", nil) })
	s.wait("document.getElementById('rows')")
	s.shot("order")
	s.try(func() error { return s.Eval("document.querySelector('.stages a[href$=release]').click()", nil) })
	s.wait("document.getElementById('release')")
	s.click("#release")
	s.wait("document.getElementById('fresh')")
	s.shot("release")
	s.changed()
	s.people()
	s.roads()
	s.try(func() error { return s.Eval("document.querySelector('.stages a[href$=bring-in]').click()", nil) })
	s.wait("document.querySelector('.pagerow')")
	s.scans()
	s.houseWords()
	s.rehearse()
	s.returns()
	s.open("/")
	s.wait("document.querySelector('#documents .row')")
	s.shot("workroom")
	return s.err
}

// documentPath is the address of the document that is open.
const documentPath = "location.pathname.split('/').slice(0, 3).join('/')"

// changed takes the picture of what has changed since an edition.
func (s *shooter) changed() {
	s.try(func() error {
		return s.Eval(`(async () => {
			const at = `+documentPath+`, bench = new DOMParser().parseFromString(await (await fetch(at + '/fit')).text(), 'text/html');
			const fields = [...bench.querySelectorAll('#overlay .f:not(.doubt)')], csrf = document.querySelector('meta[name=csrf-token]').content;
			let base = Number(bench.getElementById('bench').dataset.rev);
			const edit = (v) => fetch(at + '/edits', { method: 'POST', headers: { 'X-CSRF-Token': csrf, 'Content-Type':
				'application/x-www-form-urlencoded' }, body: new URLSearchParams({ page: 1, zoom: 75, stage: 'fit', base: base++, ...v }) });
			const id = (name) => fields.find((f) => f.dataset.name === name).dataset.id;
			await edit({ do: 'set', ids: id('name_applicant'), key: 'required', value: 'yes' });
			await edit({ do: 'set', ids: id('name_vessel'), key: 'name', value: 'vessel' });
			await edit({ do: 'set', ids: id('telephone'), key: 'tooltip', value: 'Telephone, with the code of the country' });
			await edit({ do: 'remove', ids: id('insured_with') });
		})()`, nil)
	})
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/compare'", nil) })
	s.wait("document.querySelectorAll('.changes li').length === 4 && [...document.images].every(i => i.complete)")
	s.shot("compare")
}

// people takes the picture of a form that is filled in for people.
func (s *shooter) people() {
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/people'", nil) })
	s.wait("document.getElementById('take-all')")
	s.click("#take-all")
	s.wait("document.getElementById('sourced')")
	s.try(func() error { return s.Eval("document.getElementById('for').value = 'found'", nil) })
	s.click("#fill")
	s.wait("document.querySelector('#copies a[href$=file]')")
	s.shot("people")
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/release'", nil) })
	s.wait("document.getElementById('release')")
}

// roads takes the pictures of a form that goes out by letters, goes round to be signed, and is checked.
func (s *shooter) roads() {
	s.try(func() error {
		return s.Eval(`(async () => {
			const at = `+documentPath+`, csrf = document.querySelector('meta[name=csrf-token]').content;
			const post = (path, v) => fetch(at + path, { method: 'POST', headers: { 'X-CSRF-Token': csrf, 'Content-Type':
				'application/x-www-form-urlencoded' }, body: new URLSearchParams(v) });
			for (const [page, role] of [[1, 'applicant'], [2, 'harbour master']]) {
				const bench = new DOMParser().parseFromString(await (await fetch(at + '/fit?page=' + page)).text(), 'text/html');
				const ids = [...bench.querySelectorAll('#overlay .f:not(.doubt)')].map((f) => f.dataset.id).join(',');
				await post('/edits', { page, zoom: 75, stage: 'fit', base: bench.getElementById('bench').dataset.rev, do: 'set', ids, key: 'role',
					value: role });
			}
			await post('/details', { roles: 'applicant, harbour master', title: '', language: '', author: '', subject: '' });
			await post('/editions', { anyway: 'yes', notes: 'with its parts' });
		})()`, nil)
	})
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/links'", nil) })
	s.wait("document.getElementById('letter')")
	s.try(func() error { return s.Fill("#search", "upper sandle") })
	s.click("#sending .seek button")
	s.wait("document.querySelectorAll('#pick input').length === 8")
	s.try(func() error { return s.Eval("document.getElementById('whom').value = 'found'", nil) })
	s.click("#send")
	s.wait("document.querySelector('.fine, .wrong')")
	s.try(func() error { return s.Eval("document.getElementById('whom').value = 'found'", nil) })
	s.try(func() error { return s.Eval("document.querySelector('input[name=anyway]')?.click()", nil) })
	s.try(func() error {
		return s.Eval("document.querySelector('.wrong') && document.getElementById('send').click()", nil)
	})
	s.wait("document.querySelector('.fine')")
	s.try(func() error { time.Sleep(2 * time.Second); return nil }) // the letters go out
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/signings'", nil) })
	s.wait("document.getElementById('begin-signing')")
	s.try(func() error {
		return s.Eval(`(() => { const w = document.getElementById('who-0'); w.value = [...w.options].find(o => o.text === 'Odalys Quill').value;
			document.getElementById('who-1').selectedIndex = 1; })()`, nil)
	})
	s.try(func() error { return s.Fill("#passcode-0", "slack water") })
	s.click("#begin-signing")
	s.wait("document.querySelector('[id^=round-]')")
	s.try(func() error { time.Sleep(time.Second); return nil })
	var back string
	s.try(func() error { return s.Eval(documentPath, &back) })
	s.open("/post-tray")
	s.wait("document.querySelector('#tray a')")
	s.shot("post-tray")
	s.click("#tray a")
	s.wait("document.querySelector('#text a')")
	s.click("#text a")
	s.wait("document.getElementById('enter')")
	s.try(func() error { return s.Fill("input[name=passcode]", "slack water") })
	s.click("#enter")
	s.wait("document.getElementById('signhere')")
	s.try(func() error { return s.Eval("document.getElementById('signhere').scrollIntoView()", nil) })
	s.shot("sign")
	s.click("#agree")
	s.try(func() error { return s.Fill("#secret", "slack water") })
	s.click("#sign")
	s.wait("document.getElementById('signed')")
	s.open("/")
	s.wait("document.querySelector('.tosign a')")
	s.click(".tosign a")
	s.wait("document.getElementById('sign')")
	s.click("#agree")
	s.try(func() error { return s.Fill("#secret", demo.People[0].Password) })
	s.click("#sign")
	s.wait("document.getElementById('signed')")
	s.try(func() error {
		return s.Eval(`(async () => {
			const b = await (await fetch(document.getElementById('get').href)).blob(), d = new DataTransfer();
			d.items.add(new File([b], 'berth-application-signed.pdf', { type: 'application/pdf' }));
			window.signedfile = d.files;
			const page = new DOMParser().parseFromString(await (await fetch('/signed-files')).text(), 'text/html');
			document.body.replaceWith(page.body);
			document.querySelector('input[name=file]').files = window.signedfile;
		})()`, nil)
	})
	s.click("#check")
	s.wait("document.getElementById('found')")
	s.shot("check")
	s.try(func() error { return s.Open(s.address + back + "/links") })
	s.wait("document.getElementById('personal')")
	s.shot("links")
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/release'", nil) })
	s.wait("document.getElementById('release')")
}

// rehearse takes the picture of the charges sheet being filled in.
func (s *shooter) rehearse() {
	s.open("/")
	s.wait("document.querySelector('#documents .row')")
	s.try(func() error {
		return s.Eval("(() => { const r = [...document.querySelectorAll('#documents .row')].find(r => "+
			"r.querySelector('.title').value === 'Slipway charges sheet'); location.href = r.querySelector('.go "+
			"a').getAttribute('href').match(/.documents.[0-9]+/)[0] + '/rehearse' })()", nil)
	})
	s.wait("document.documentElement.dataset.live === 'yes'")
	for _, a := range [][2]string{
		{"name_vessel", "Petrel"},
		{"hauling_out_quantity", "1"},
		{"cradle_day_quantity", "3"},
		{"storage_ashore_week_quantity", "26"},
	} {
		s.try(func() error {
			return s.Eval("(() => { const e = document.querySelector('#sheet [data-name="+a[0]+"]'); e.value = '"+a[1]+
				"'; e.dispatchEvent(new Event('change', {bubbles: true})) })()", nil)
		})
	}
	s.wait("document.querySelector('#sheet [data-name=total_amount]').value === '1,787.75'")
	s.shot("rehearse")
}

// returns takes the pictures of what came back of the charges sheet, and of the sheet as it is filled in by a link on a telephone.
func (s *shooter) returns() {
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/returns?open=22'", nil) })
	s.wait("document.querySelector('.retnote') && document.querySelector('#charts figure')")
	s.shot("returns")
	s.try(func() error { return s.Eval("location.href = "+documentPath+" + '/links'", nil) })
	s.wait("document.querySelector('.openlink .address code')")
	s.try(func() error { return s.Size(375, 740) })
	s.try(func() error {
		return s.Eval("location.href = new URL(document.querySelector('.openlink .address code').textContent).pathname + '/fill'", nil)
	})
	s.wait("document.documentElement.dataset.live === 'yes' && document.getElementById('next')")
	s.click("#next")
	s.try(func() error { return s.Fill("[data-q=hauling_out_quantity]", "2") })
	s.try(func() error { return s.Eval("document.activeElement.blur()", nil) })
	s.wait("document.querySelector('[data-q=hauling_out_amount]').value === '291.00'")
	s.shot("fill-in")
	s.try(func() error { return s.Size(1280, 800) })
}

// houseWords takes the picture of the office's dictionary with three entries.
func (s *shooter) houseWords() {
	s.open("/house-words")
	for _, w := range [][2]string{
		{"Berth no.", "berth_number"},
		{"Gross tonnage (GT)", "gross_tonnage"},
		{"Master's remarks", "remarks"},
	} {
		s.try(func() error { return s.Fill("input[name=wording]", w[0]) })
		s.try(func() error { return s.Fill("input[name=name]", w[1]) })
		s.click("#house-keep")
		s.wait("[...document.querySelectorAll('#words td')].some(c => c.textContent === '" + w[1] + "')")
	}
	s.shot("house-words")
}

// scans takes the pictures of a scan on its way: its pages, its doubtful words, the
// scan tray.
func (s *shooter) scans() {
	s.open("/scan-tray")
	s.wait("document.getElementById('scan')")
	s.click("#scan")
	s.wait("document.querySelector('#intakes .intake')")
	s.wait("document.querySelector('#intakes a[href$=pages]')")
	s.click("#intakes a[href$=pages]")
	s.wait("document.documentElement.dataset.ready && document.getElementById('recognise')")
	s.click("#recognise")
	s.wait("document.querySelector('.leafnote a[href$=words]')")
	s.click(".sheetcard:nth-child(2)")
	s.wait("!document.getElementById('page-note').hidden")
	s.shot("pages")
	s.click(".leafnote a[href$=words]")
	s.wait("document.getElementById('word-text')")
	time.Sleep(time.Second) // the page behind the word is drawn
	s.shot("words")
}
