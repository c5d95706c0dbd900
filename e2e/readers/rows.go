package readers

import (
	"fmt"
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// Properties are the rows of the table; address is where buttons send.
func Properties(address string) []Property {
	return slices.Concat(whatIsTold(), typing(), formats(), choosing(), ruled(), looks(), buttons(address))
}

// whatIsTold is what a reader says without anybody doing something.
func whatIsTold() []Property {
	return []Property{
		{
			Title: "name", Want: "every field",
			Try: word(func(f form.Field) string { return f.Name }, func(t Told) *string { return t.Name }),
		},
		{
			Title: "kind", Want: "every field",
			Try: word(func(f form.Field) string { return string(f.Kind) }, func(t Told) *string { return t.Kind }),
		},
		{
			Title: "tooltip", Want: "every field",
			Try: word(func(f form.Field) string { return f.Tooltip }, func(t Told) *string { return t.Tooltip }),
		},
		{Title: "place", Want: "every field", Try: told(func(f form.Field, t Told) (bool, bool) {
			return t.Rect != nil && f.Rect.IoU(geom.R(t.Rect[0], t.Rect[1], t.Rect[2], t.Rect[3])) > 0.98,
				t.Rect != nil && f.Kind != form.Radio // buttons of a group have one tooltip
		})},
		{
			Title: "first value", Want: "every field",
			Try: word(func(f form.Field) string { return f.Default }, func(t Told) *string { return t.Value }, form.Text),
		},
		{
			Title: "required", Want: "every field",
			Try: flag(func(f form.Field) bool { return f.Required }, func(t Told) *bool { return t.Required }),
		},
		{
			Title: "read-only", Want: "every field",
			Try: flag(func(f form.Field) bool { return f.ReadOnly }, func(t Told) *bool { return t.ReadOnly }),
		},
		{
			Title: "several lines", Want: "every field",
			Try: flag(func(f form.Field) bool { return f.Multiline }, func(t Told) *bool { return t.Multiline }, form.Text),
		},
		{
			Title: "cells", Want: "every field",
			Try: flag(func(f form.Field) bool { return f.Comb > 0 }, func(t Told) *bool { return t.Comb }, form.Text),
		},
		{
			Title: "hidden typing", Want: "every field",
			Try: flag(func(f form.Field) bool { return f.Password }, func(t Told) *bool { return t.Password }, form.Text),
		},
		{
			Title: "no spelling check", Want: "every field",
			Try: flag(func(f form.Field) bool { return f.NoSpell }, func(t Told) *bool { return t.NoSpell }, form.Text),
		},
		{Title: "most signs", Want: "every field", Try: told(func(f form.Field, t Told) (bool, bool) {
			return t.MaxLen != nil && *t.MaxLen == max(f.MaxLen, f.Comb), t.MaxLen != nil && f.Kind == form.Text
		})},
		{Title: "options of a list", Want: "every field", Try: told(func(f form.Field, t Told) (bool, bool) {
			var want []string
			for _, o := range f.Options {
				want = append(want, o.Label)
			}
			return t.Options != nil && slices.Equal(*t.Options, want), t.Options != nil && f.Kind == form.Choice
		})},
	}
}

func typing() []Property {
	return []Property{
		{Title: "text", Fields: []form.Field{text("plain")}, Try: kept("plain", "Gannet"), Want: "Gannet"},
		{
			Title: "text of several lines", Fields: []form.Field{text("lines", func(f *form.Field) { f.Multiline = true })},
			Try: kept("lines", "one\ntwo"), Want: "one\ntwo",
		},
		{
			Title: "no more than five signs", Fields: []form.Field{text("short", func(f *form.Field) { f.MaxLen = 5 })},
			Try: kept("short", "abcdefgh"), Want: "abcde",
		},
		{
			Title: "six cells", Fields: []form.Field{text("comb", func(f *form.Field) { f.Comb, f.MaxLen = 6, 6 })},
			Try: kept("comb", "123456"), Want: "123456",
		},
		{
			Title: "hidden typing does not show", Fields: []form.Field{text("secret", func(f *form.Field) { f.Password = true })},
			Want: "hidden",
			Try: func(r *Trial) (string, error) {
				said, err := shows("secret", "tern")(r)
				return map[bool]string{true: "it shows", false: "hidden"}[said == "tern"], err
			},
		},
		{
			Title:  "takes no more than it shows",
			Fields: []form.Field{text("full", func(f *form.Field) { f.NoScroll, f.Look.Size = true, 12 })},
			Try: func(r *Trial) (string, error) {
				if r.atOnce() {
					return "", ErrCannot
				}
				if err := r.Write("full", strings.Repeat("W", 13)); err != nil {
					return "", err
				}
				v, err := r.value("full")
				if n := len(v); n > 0 && n < 13 {
					v = "as much as fits"
				}
				return v, err
			},
			Want: "as much as fits",
		},
		{
			Title:  "cannot be changed",
			Fields: []form.Field{text("fixed", func(f *form.Field) { f.ReadOnly, f.Default = true, "berth 7" })},
			Try:    kept("fixed", "other"), Want: "berth 7",
		},
		{
			Title: "Greek, Cyrillic and Polish letters are kept", Fields: []form.Field{text("letters")},
			Try: kept("letters", abroad), Want: abroad,
		},
		letters("Polish", "Miejscowość", "Łódź, Żary"), letters("Greek", "Όνομα πλοίου", "Ωμέγα Ξύλο"),
		letters("Cyrillic", "Имя", "Жук Яр"),
		{
			Title: "a hint is no answer", Fields: []form.Field{text("hinted", func(f *form.Field) { f.Hint = "as in the passport" })},
			Try: func(r *Trial) (string, error) { return r.value("hinted") }, Want: "",
		},
		{
			Title: "a hint is not taken for an answer", Want: "",
			Fields: []form.Field{text("hinted_once_more", func(f *form.Field) { f.Hint = "Ω as in the passport" })},
			Try:    func(r *Trial) (string, error) { return r.Shown("hinted_once_more") },
		},
		{
			Title:  "a hint goes when somebody writes",
			Fields: []form.Field{text("hinted_too", func(f *form.Field) { f.Hint = "as in the passport" })},
			Try:    shows("hinted_too", "Petrel"), Want: "Petrel",
		},
	}
}

// letters is a field whose label asks for letters that the standard fonts do not have.
func letters(language, label, answer string) Property {
	name := "letters_" + strings.ToLower(language)
	f := text(name)
	f.Label, f.Look.Size = label, 11
	return Property{Title: language + " letters show", Fields: []form.Field{f}, Try: drawn(name, answer), Want: "readable"}
}

func formats() []Property {
	day, number := form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}, form.Format{Kind: form.Number, Decimals: 2}
	return []Property{
		{Title: "date in its pattern", Fields: []form.Field{formatted("date", day)}, Try: kept("date", "01.02.2027"), Want: "01.02.2027"},
		Property{
			Title: "date as a calendar gives it", Fields: []form.Field{formatted("date_iso", day)},
			Try: shows("date_iso", "2027-04-03"), Want: "03.04.2027",
		}.scripted("2027-04-03"),
		Property{
			Title: "no day of the calendar", Fields: []form.Field{formatted("date_bad", day)}, Try: kept("date_bad", "31.02.2027"),
			Want: "",
		}.scripted("31.02.2027"),
		{
			Title: "time in its pattern", Fields: []form.Field{formatted("time", form.Format{Kind: form.Time, Pattern: "h:MM tt"})},
			Try: shows("time", "5:45 pm"), Want: "5:45 pm",
		},
		Property{
			Title:  "time as a clock gives it",
			Fields: []form.Field{formatted("time_iso", form.Format{Kind: form.Time, Pattern: "h:MM tt"})},
			Try:    shows("time_iso", "17:45"), Want: "5:45 pm",
		}.scripted("17:45"),
		Property{
			Title: "number in groups", Fields: []form.Field{formatted("number", number)}, Try: shows("number", "1234.5"),
			Want: "1,234.50",
		}.scripted("1234.5"),
		Property{
			Title: "a half is rounded up", Fields: []form.Field{formatted("half", form.Format{Kind: form.Number, Decimals: 1})},
			Try: shows("half", "7.25"), Want: "7.3",
		}.scripted("7.25"),
		Property{
			Title: "number with a comma", Try: shows("comma", "1234,5"), Want: "1.234,50",
			Fields: []form.Field{formatted("comma", form.Format{Kind: form.Number, Decimals: 2, Comma: true})},
		}.scripted("1234,5"),
		Property{
			Title: "currency", Try: shows("currency", "12.5"), Want: "12.50 €",
			Fields: []form.Field{formatted("currency", form.Format{Kind: form.Number, Decimals: 2, Currency: "€", After: true})},
		}.scripted("12.5"),
		Property{
			Title: "letters in a number", Fields: []form.Field{formatted("number_bad", number)}, Try: kept("number_bad", "x"),
			Want: "",
		}.scripted("x"),
		Property{
			Title: "percentage", Fields: []form.Field{formatted("percent", form.Format{Kind: form.Percent, Decimals: 1})},
			Try: shows("percent", "7.25"), Want: "7.3 %",
		}.scripted("7.25"),
		Property{
			Title: "capitals", Fields: []form.Field{formatted("upper", form.Format{Kind: form.Upper})}, Try: kept("upper", "gq"),
			Want: "GQ",
		}.scripted("gq"),
		Property{
			Title: "small letters", Fields: []form.Field{formatted("lower", form.Format{Kind: form.Lower})},
			Try: kept("lower", "GQ"), Want: "gq",
		}.scripted("GQ"),
		{
			Title: "signs in a pattern", Fields: []form.Field{formatted("mask", form.Format{Kind: form.Mask, Pattern: "@@-###"})},
			Try: kept("mask", "GQ-123"), Want: "GQ-123",
		},
		Property{
			Title: "signs out of the pattern", Fields: []form.Field{formatted("mask_bad", form.Format{Kind: form.Mask, Pattern: "@@-###"})},
			Try: kept("mask_bad", "1234"), Want: "",
		}.scripted("1234"),
		Property{
			Title: "e-mail address", Fields: []form.Field{formatted("mail_bad", form.Format{Kind: form.Email})},
			Try: kept("mail_bad", "nobody"), Want: "",
		}.scripted("nobody"),
		{
			Title: "telephone number", Fields: []form.Field{formatted("phone", form.Format{Kind: form.Phone})},
			Try: kept("phone", "+44 20 7946 0000"), Want: "+44 20 7946 0000",
		},
		{
			Title: "postcode", Fields: []form.Field{formatted("postcode", form.Format{Kind: form.Postcode, Pattern: "DE"})},
			Try: kept("postcode", "26122"), Want: "26122",
		},
	}
}

func choosing() []Property {
	flags := []form.Option{{Label: "Blue", Export: "b"}, {Label: "Red", Export: "r"}, {Label: "Yellow", Export: "y"}}
	box := func(name, export string) form.Field {
		return form.Field{Name: name, Kind: form.CheckBox, Export: export}
	}
	list := func(name string, style form.ListStyle) form.Field {
		return form.Field{Name: name, Kind: form.Choice, List: style, Options: flags}
	}
	button := func(name, tip, export string, unison bool) form.Field {
		return form.Field{Name: name, Tooltip: tip, Kind: form.Radio, Export: export, Unison: unison}
	}
	ticked := func(name string, nth int) func(*Trial) (string, error) {
		return func(r *Trial) (string, error) {
			if err := r.Press(name, nth); err != nil {
				return "", err
			}
			return r.value(name)
		}
	}
	picked := func(name string, labels ...string) func(*Trial) (string, error) {
		return func(r *Trial) (string, error) {
			if err := r.Choose(name, labels...); err != nil {
				return "", err
			}
			return r.value(name)
		}
	}
	return []Property{
		{Title: "check box", Fields: []form.Field{box("tick", "aft")}, Try: ticked("tick", 0), Want: "aft"},
		{
			Title: "check box whose value has a blank", Fields: []form.Field{box("tick_blank", "Ja bitte")},
			Try: ticked("tick_blank", 0), Want: "Ja bitte",
		},
		{
			Title: "check box whose value has an umlaut (kept as its place)", Fields: []form.Field{box("tick_umlaut", "Größe")},
			Try: ticked("tick_umlaut", 0), Want: "0",
		},
		{
			Title: "radio buttons", Fields: []form.Field{button("dock", "dock", "north", false), button("dock", "dock", "south", false)},
			Try: func(r *Trial) (string, error) {
				if err := r.Press("dock", 0); err != nil {
					return "", err
				}
				return ticked("dock", 1)(r)
			},
			Want: "south",
		},
		{
			Title: "radio buttons of one value go together", Try: states("lamp"), Want: "on, on, off",
			Fields: []form.Field{
				button("lamp", "lamp", "red", true), button("lamp", "lamp", "red", true), button("lamp", "lamp", "green", true),
			},
		},
		{Title: "dropdown", Fields: []form.Field{list("drop", form.Dropdown)}, Try: picked("drop", "Red"), Want: "r"},
		{
			Title: "dropdown with an entry of one's own", Fields: []form.Field{list("combo", form.ComboBox)},
			Try: kept("combo", "Black"), Want: "Black",
		},
		Property{
			Title: "an entry of one's own in a format", Try: shows("combo_number", "1234.5"), Want: "1,234.50",
			Fields: []form.Field{{
				Name: "combo_number", Kind: form.Choice, List: form.ComboBox, Options: flags,
				Format: form.Format{Kind: form.Number, Decimals: 2},
			}},
		}.scripted("1234.5"),
		{Title: "list box", Fields: []form.Field{list("list", form.ListBox)}, Try: picked("list", "Red"), Want: "r"},
		{
			Title: "list box for several", Fields: []form.Field{list("many", form.ManyList)}, Try: picked("many", "Blue", "Yellow"),
			Want: "b, y",
		},
	}
}

func ruled() []Property {
	number := form.Format{Kind: form.Number, Decimals: 2}
	day := form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}
	shown := func(name string, more func(*form.Field)) form.Field {
		f := form.Field{Name: name, Look: form.Look{Fill: ground}}
		more(&f)
		return f
	}
	return []Property{
		Property{
			Title: "sums in their order", Try: shows("metres", "12", "rate", "2.5", "total"), Want: "27.00",
			Fields: []form.Field{
				{
					Name: "total", Format: number, Formula: "amount * 0.9", ReadOnly: true,
				},
				{
					Name:   "metres",
					Format: form.Format{Kind: form.Number},
				},
				{Name: "rate", Format: number},
				{Name: "amount", Format: number, Formula: "metres * rate", ReadOnly: true},
			},
		}.scripted(""),
		Property{
			Title: "days are added", Try: shows("from", "01.02.2027", "until"), Want: "03.03.2027",
			Fields: []form.Field{formatted("from", day), {Name: "until", Format: day, Formula: "from + 30", ReadOnly: true}},
		}.scripted(""),
		{
			Title: "no day, no sum", Try: shows("other", "1", "blank_until"), Want: "",
			Fields: []form.Field{
				text("other"), formatted("blank_from", day), {Name: "blank_until", Format: day, Formula: "blank_from + 30", ReadOnly: true},
			},
		},
		Property{
			Title: "a check refuses", Try: kept("hauls", "41"), Want: "",
			Fields: []form.Field{{
				Name: "hauls", Format: form.Format{Kind: form.Number},
				Checks: []form.Check{{Test: form.Between, A: "0", B: "40", Message: "At most forty hauls."}},
			}},
		}.scripted("41"),
		{
			Title: "a check says why", Want: "said",
			Fields: []form.Field{{
				Name: "masts", Format: form.Format{Kind: form.Number},
				Checks: []form.Check{{Test: form.Between, A: "0", B: "4", Message: "At most four masts."}},
			}},
			Try: func(r *Trial) (string, error) {
				if err := r.Write("masts", "5"); err != nil {
					return "", err
				}
				said, err := r.Messages()
				if err == nil && !strings.Contains(strings.Join(said, "\n"), "At most four masts.") {
					return "nothing", nil
				}
				return "said", err
			},
		},
		Property{
			Title: "shows if", Want: "hidden, then seen",
			Fields: []form.Field{
				{Name: "member", Kind: form.CheckBox, Export: "Yes"}, shown("club", func(f *form.Field) { f.ShowIf = "member" }),
			},
			Try: sees(press("member"), "club"),
		}.scripted("seen, then seen"),
		Property{
			Title: "required if", Want: "required",
			Fields: []form.Field{
				{Name: "insured", Kind: form.CheckBox, Export: "Yes"}, text("policy", func(f *form.Field) { f.RequireIf = "insured" }),
			},
			Try: func(r *Trial) (string, error) {
				if err := r.Press("insured", 0); err != nil {
					return "", err
				}
				return r.isRequired("policy")
			},
		}.scripted("not required"),
	}
}

func buttons(address string) []Property {
	button := func(name string, steps ...form.Step) form.Field {
		return form.Field{Name: name, Kind: form.Button, Caption: name, Steps: steps}
	}
	starts := func(name, value string) form.Field { return text(name, func(f *form.Field) { f.Default = value }) }
	filled := func(name string, show form.Show) form.Field {
		return form.Field{Name: name, Show: show, Look: form.Look{Fill: ground}}
	}
	send := func(as string) form.Field {
		return button("send_"+as, form.Step{Do: form.SubmitForm, As: strings.TrimPrefix(as, "fdf"), URL: address + "/" + as})
	}
	return []Property{
		{
			Title: "button: set a value", Try: pressed("set", "set_here"), Want: "Petrel",
			Fields: []form.Field{button("set", sets("set_here", "Petrel")), text("set_here")},
		},
		{
			Title: "button: clear some fields", Want: "first",
			Fields: []form.Field{button("clear", form.Step{Do: form.ClearForm, Fields: "clear_this"}), starts("clear_this", "first")},
			Try: func(r *Trial) (string, error) {
				if err := r.Write("clear_this", "second"); err != nil {
					return "", err
				}
				return pressed("clear", "clear_this")(r)
			},
		},
		{
			Title: "button: hide a field", Try: sees(press("hide"), "hide_this"), Want: "seen, then hidden",
			Fields: []form.Field{button("hide", form.Step{Do: form.HideFields, Fields: "hide_this"}), filled("hide_this", "")},
		},
		{
			Title: "button: show a field", Try: sees(press("show"), "show_this"), Want: "hidden, then seen",
			Fields: []form.Field{button("show", form.Step{Do: form.ShowFields, Fields: "show_this"}), filled("show_this", form.ShowNone)},
		},
		{
			Title: "button: lock a field", Want: "before",
			Fields: []form.Field{button("lock", form.Step{Do: form.LockFields, Fields: "lock_this"}), text("lock_this")},
			Try: func(r *Trial) (string, error) {
				if err := r.Write("lock_this", "before"); err != nil {
					return "", err
				}
				if err := r.Press("lock", 0); err != nil {
					return "", err
				}
				return kept("lock_this", "after")(r)
			},
		},
		{
			Title: "button: free a field", Want: "after",
			Fields: []form.Field{
				button("free", form.Step{Do: form.FreeFields, Fields: "free_this"}),
				text("free_this", func(f *form.Field) { f.ReadOnly = true }),
			},
			Try: func(r *Trial) (string, error) {
				if err := r.Press("free", 0); err != nil {
					return "", err
				}
				return kept("free_this", "after")(r)
			},
		},
		{
			Title: "button: two steps in a row", Try: pressed("two", "two_here"), Want: "second",
			Fields: []form.Field{button("two", sets("two_here", "first"), sets("two_here", "second")), text("two_here")},
		},
		{Title: "button: send as FDF", Fields: []form.Field{send("fdf")}, Try: sent("send_fdf", "/fdf"), Want: "FDF"},
		{Title: "button: send as XFDF", Fields: []form.Field{send("xfdf")}, Try: sent("send_xfdf", "/xfdf"), Want: "XFDF"},
		{Title: "button: send as form data", Fields: []form.Field{send("html")}, Try: sent("send_html", "/html"), Want: "form data"},
		{Title: "button: send the whole PDF", Fields: []form.Field{send("pdf")}, Try: sent("send_pdf", "/pdf"), Want: "PDF"},
		{
			Title: "press on a text field", Want: "pressed",
			Fields: []form.Field{does("pressed", form.WhenPressed), text("pressed_here")},
			Try:    pressed("pressed", "pressed_here"),
		},
		{
			Title: "when entered", Try: happens("entered", form.FieldEntered, "entered_here"), Want: "entered",
			Fields: []form.Field{
				does("entered", form.FieldEntered), text("entered_here"),
			},
		},
		{
			Title: "when left", Try: happens("left", form.FieldLeft, "left_here"), Want: "left",
			Fields: []form.Field{does("left", form.FieldLeft), text("left_here")},
		},
		{
			Title: "when the pointer comes", Try: happens("over", form.PointerIn, "over_here"), Want: "over",
			Fields: []form.Field{does("over", form.PointerIn), text("over_here")},
		},
		{
			Title: "when the pointer goes", Try: happens("away", form.PointerOut, "away_here"), Want: "away",
			Fields: []form.Field{does("away", form.PointerOut), text("away_here")},
		},
		Property{
			Title: "when the document is opened", Fields: []form.Field{text("opened")},
			Try: func(r *Trial) (string, error) { return r.Shown("opened") }, Want: "opened",
		}.scripted(""),
		{
			Title: "tab order by hand", Want: "order_3", Fields: []form.Field{text("order_1"), text("order_2"), text("order_3")},
			Try: func(r *Trial) (string, error) { return r.Walk("order_1") },
		},
		{
			Title: "button: go to a page", Fields: []form.Field{button("page", form.Step{Do: form.GoToPage, Page: 2})}, Want: "page 2",
			Try: func(r *Trial) (string, error) {
				if err := r.Press("page", 0); err != nil {
					return "", err
				}
				n, err := r.Page()
				return fmt.Sprint("page ", n), err
			},
		},
	}
}

func looks() []Property {
	filled := func(name string, show form.Show) form.Field {
		return form.Field{Name: name, Show: show, Look: form.Look{Fill: ground}}
	}
	return []Property{
		{Title: "shows everywhere: screen", Fields: []form.Field{filled("everywhere", "")}, Try: onScreen("everywhere"), Want: "seen"},
		{Title: "shows everywhere: paper", Try: onPaper("everywhere"), Want: "seen"},
		{
			Title: "shows on the screen only: screen", Fields: []form.Field{filled("screen", form.ShowScreen)},
			Try: onScreen("screen"), Want: "seen",
		},
		{Title: "shows on the screen only: paper", Try: onPaper("screen"), Want: "hidden"},
		{
			Title: "shows on paper only: screen", Fields: []form.Field{filled("paper", form.ShowPrint)}, Try: onScreen("paper"),
			Want: "hidden",
		},
		{Title: "shows on paper only: paper", Try: onPaper("paper"), Want: "seen"},
		{Title: "hidden: screen", Fields: []form.Field{filled("nowhere", form.ShowNone)}, Try: onScreen("nowhere"), Want: "hidden"},
		{Title: "hidden: paper", Try: onPaper("nowhere"), Want: "hidden"},
	}
}
