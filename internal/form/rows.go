package form

import (
	"slices"

	"zealousmargin.example/internal/geom"
)

// The properties of pages, of the document, and of the parts of a field.

const laid = "it says where the page comes from"

// PageProperties are the properties of a page.
var PageProperties = []Property[Page]{
	wordOf("id", "id", func(p *Page) *string { return &p.ID }).drafted(ours),
	lengthOf("width", "width", func(p *Page) *float64 { return &p.Width }),
	lengthOf("height", "height", func(p *Page) *float64 { return &p.Height }),
	countOf("rotate", "rotate", "an angle", func(p *Page) *int { return &p.Rotate }),
	wordOf("file", "file", func(p *Page) *string { return &p.File }).drafted(laid),
	countOf("n", "n", "a page of the file", func(p *Page) *int { return &p.N }).drafted(laid),
	dataOf("place", "place", func(p *Page) *geom.Matrix { return &p.Place }, sameValue[geom.Matrix], itself[geom.Matrix]),
	flagOf("scan", "scan", func(p *Page) *bool { return &p.Scan }).drafted(ours),
	wordOf("text", "text", func(p *Page) *string { return &p.Text }),
	wordOf("shows", "shows", func(p *Page) *string { return &p.Shows }).drafted("it stands in accessible forms, which are tagged"),
	wordOf("notes", "notes", func(p *Page) *string { return &p.Notes }).drafted(ours),
}

// DetailProperties are the properties of the document.
var DetailProperties = []Property[Details]{
	wordOf("title", "title", func(d *Details) *string { return &d.Title }),
	wordOf("author", "author", func(d *Details) *string { return &d.Author }),
	wordOf("subject", "subject", func(d *Details) *string { return &d.Subject }),
	wordOf("language", "language", func(d *Details) *string { return &d.Language }),
	wordOf("leave", "leave", func(d *Details) *string { return &d.Leave }).drafted("it says what a release leaves behind"),
	wordOf("roles", "roles", func(d *Details) *string { return &d.Roles }).drafted("the office sends the form round in that order"),
	dataOf("events", "events", func(d *Details) *[]Step { return &d.Events }, slices.Equal, slices.Clone),
}

// OptionProperties are those of an option of a choice.
var OptionProperties = []Property[Option]{
	wordOf("label", "label", func(o *Option) *string { return &o.Label }),
	wordOf("export", "export", func(o *Option) *string { return &o.Export }),
}

// CheckProperties are those of a check.
var CheckProperties = []Property[Check]{
	wordOf("test", "test", func(c *Check) *Test { return &c.Test }).one(testWords...),
	wordOf("a", "a", func(c *Check) *string { return &c.A }),
	wordOf("b", "b", func(c *Check) *string { return &c.B }).only(func(c *Check) bool { return c.Test == Between || c.Test == Length }),
	wordOf("message", "message", func(c *Check) *string { return &c.Message }),
}

// EventWords name what can happen to the document and to its pages.
var EventWords = []Offer{
	{"opened", "the document is opened"},
	{"page-opened", "a page is opened"},
	{"page-closed", "a page is left"},
	{"before-print", "it is about to be printed"},
	{"after-print", "it was printed"},
	{"before-save", "it is about to be saved"},
	{"after-save", "it was saved"},
	{"before-close", "it is about to be closed"},
}

func does(deeds ...Deed) func(*Step) bool {
	return func(s *Step) bool { return slices.Contains(deeds, s.Do) }
}

// StepProperties are those of a step; some are for some deeds only.
var StepProperties = []Property[Step]{
	wordOf("when", "when", func(s *Step) *Trigger { return &s.When }).
		one(Offer{"", "pressed"}, Offer{"down", "the button of the pointer goes down"},
			Offer{"pointer-in", "the pointer comes over it"}, Offer{"pointer-out", "the pointer leaves it"},
			Offer{"entered", "it is entered"}, Offer{"left", "it is left"}),
	countOf("onpage", "onpage", "a page", func(s *Step) *int { return &s.OnPage }).
		only(func(s *Step) bool { return s.When == PageOpened || s.When == PageClosed }),
	wordOf("do", "do", func(s *Step) *Deed { return &s.Do }).
		one(Offer{"clear", "clear fields"}, Offer{"submit", "send the answers"}, Offer{"print", "print the form"},
			Offer{"save", "save the form"}, Offer{"page", "go to a page"}, Offer{"link", "open a link"},
			Offer{"pdf", "open another PDF"}, Offer{"show", "show fields"},
			Offer{"hide", "hide fields"}, Offer{"lock", "lock fields"}, Offer{"free", "unlock fields"}, Offer{"set", "set a value"},
			Offer{"bring", "bring in data"},
			Offer{"script", "run a script"}),
	wordOf("fields", "fields", func(s *Step) *string { return &s.Fields }).
		only(does(ClearForm, SubmitForm, ShowFields, HideFields, LockFields, FreeFields, SetValue)).then(func(s *Step) {
		if s.Fields == "" {
			s.Except = false
		}
	}),
	flagOf("except", "except", func(s *Step) *bool { return &s.Except }).only(does(ClearForm, SubmitForm)).either("all but", "only"),
	wordOf("url", "url", func(s *Step) *string { return &s.URL }).only(does(SubmitForm, OpenLink, OpenPDF, BringIn)),
	wordOf("as", "as", func(s *Step) *string { return &s.As }).only(does(SubmitForm)).
		one(sendingWords...),
	countOf("page", "page", "a page", func(s *Step) *int { return &s.Page }).only(does(GoToPage)),
	wordOf("value", "value", func(s *Step) *string { return &s.Value }).only(does(SetValue)),
	wordOf("script", "script", func(s *Step) *string { return &s.Script }).only(does(RunScript)),
}

// sendingWords are the forms in which answers are sent.
var sendingWords = []Offer{{"", "as FDF"}, {"xfdf", "as XFDF"}, {"html", "as form data"}, {"pdf", "as the whole PDF"}}

func sameValue[T comparable](a, b T) bool { return a == b }

func itself[T any](v T) T { return v }
