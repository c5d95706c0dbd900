package markup

import "html/template"

// Page is a whole page that says one thing to somebody who is not signed in.
func Page(title, says string) template.HTML {
	var b Builder
	b.Open("!doctype html").Element("title", title).Element("p", says)
	return b.HTML()
}
