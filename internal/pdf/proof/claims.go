package proof

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

// subject is a row of the draft and the widget that is to stand for it.
type subject struct {
	*proving
	w    *widget
	x    *form.Field
	kind form.Kind // of the widget
	ours bool      // written anew; otherwise the file brought it, and a row cannot say all of it
	ap   appearances
}

// appearances are the streams that a widget shows: by state, and of a pressed button.
type appearances struct {
	normal  map[string]drawn // a box to tick has states; others have one, ""
	pressed *drawn
}

// claim compares one property: what the file says and what the draft says, in words.
type claim func(s *subject) (is, should string)

// claims are the properties of a field that a written file tells, by their keys in the registry.
var claims = map[string]claim{
	"page": func(s *subject) (string, string) { return strconv.Itoa(s.w.page), strconv.Itoa(s.x.Page) },
	"rect": func(s *subject) (string, string) {
		if near(s.place(), s.x.Rect) || s.offPage(s.x, s.place()) {
			return "", ""
		}
		return fmt.Sprint(s.place()), fmt.Sprint(s.x.Rect)
	},
	"kind":    func(s *subject) (string, string) { return string(s.kind), string(s.x.Kind) },
	"name":    func(s *subject) (string, string) { return s.w.name, s.x.Name },
	"tooltip": tooltip,
	"caption": func(s *subject) (string, string) {
		return s.w.f.words(s.w.mk("CA")), s.caption()
	},
	"deed":    pressed,
	"url":     pressed,
	"steps":   happenings,
	"options": options,
	"export": func(s *subject) (string, string) {
		states := slices.Sorted(func(yield func(string) bool) {
			for k := range s.ap.normal {
				if k != "Off" && !yield(k) {
					return
				}
			}
		})
		if !s.ours && len(states) == 0 && s.x.Export == "" {
			return "", ""
		}
		return strings.Join(states, ", "), s.stateOf(s.x)
	},
	"multiline": flag(13, func(x *form.Field) bool { return x.Multiline }),
	"maxlen": func(s *subject) (string, string) {
		return strconv.Itoa(int(s.w.f.number(s.w.field("MaxLen")))), strconv.Itoa(cmp.Or(s.x.Comb, s.x.MaxLen))
	},
	"comb": func(s *subject) (string, string) {
		if !s.ours && s.x.Comb == 0 { // of several lines it means nothing, and a row cannot say it
			return "", ""
		}
		return flag(25, func(x *form.Field) bool { return x.Comb > 0 })(s)
	},
	"required":   flag(2, func(x *form.Field) bool { return x.Required }),
	"readonly":   flag(1, func(x *form.Field) bool { return x.ReadOnly }),
	"noexport":   flag(3, func(x *form.Field) bool { return x.NoExport }),
	"noscroll":   noscroll,
	"nospell":    flag(23, func(x *form.Field) bool { return x.NoSpell }),
	"password":   textual(14, func(x *form.Field) bool { return x.Password }),
	"filepath":   textual(21, func(x *form.Field) bool { return x.FilePath }),
	"unison":     flag(26, func(x *form.Field) bool { return x.Unison }),
	"sort":       flag(20, func(x *form.Field) bool { return x.Sort }),
	"list":       list,
	"blankfirst": options,
	"linked":     linked,
	"format":     scripts, "pattern": scripts, "decimals": scripts, "style": scripts, "ungrouped": scripts, "brackets": scripts,
	"currency": scripts, "after": scripts, "message": scripts, "checks": scripts, "formula": scripts, "requireif": scripts,
	"showif":  scripts,
	"default": value,
	"hint":    shown,
	"checked": start,
	"role":    func(s *subject) (string, string) { return s.comment[s.x.Name].Role, s.x.Role },
	"mark":    mark,
	"picture": picture,
	"layout":  layout,
	"pressed": func(s *subject) (string, string) {
		is := s.w.f.name(s.w.dict["H"])
		if is == "T" { // the same as P (table 191)
			is = "P"
		}
		if is == "" && !s.ours {
			is = "I"
		}
		return is, map[form.Pressed]string{form.PushedIn: "P", form.Same: "N", form.Inverted: "I", form.Outlined: "O"}[s.x.Face.Pressed]
	},
	"pressedcaption": func(s *subject) (string, string) {
		if !s.ours && s.x.Face.Pressed != form.PushedIn {
			return "", ""
		}
		return s.w.f.words(s.w.mk("AC")), s.x.Face.PressedCaption
	},
	"show":   show,
	"locked": func(s *subject) (string, string) { return onOff(s.annot(8)), onOff(s.x.Locked) },
	"font":   font, "size": size, "colour": colour,
	"align":       align,
	"fill":        fill,
	"border":      border,
	"borderwidth": borderWidth,
	"borderstyle": borderStyle,
	"turn": func(s *subject) (string, string) {
		turn := int(s.w.f.number(s.w.mk("R"))) - s.pages[s.w.page-1].rotate
		return strconv.Itoa(((turn % 360) + 360) % 360), strconv.Itoa(s.x.Look.Turn)
	},
}

// layouts are numbered as in ISO 32000-2, table 192, /TP.
var layouts = []form.Layout{
	form.CaptionOnly, form.PictureOnly, form.CaptionBelow, form.CaptionAbove, form.CaptionRight,
	form.CaptionLeft, form.CaptionOver,
}

func onOff(on bool) string {
	if on {
		return "on"
	}
	return "off"
}

// near tells whether two rectangles are the same within the 0.01 point to which they are written.
func near(a, b geom.Rect) bool {
	const most = 0.02
	return math.Abs(a.X0-b.X0) < most && math.Abs(a.Y0-b.Y0) < most && math.Abs(a.X1-b.X1) < most && math.Abs(a.Y1-b.Y1) < most
}

// offPage tells whether a field stands where it did in the file that it came with, and its row says the part of it that is on the page.
func (p *proving) offPage(x *form.Field, at geom.Rect) bool {
	if x.Origin == nil || x.Page < 1 || x.Page > len(p.pages) {
		return false
	}
	box := p.pages[x.Page-1].box
	before := p.base.rect(p.base.dict(ref(x.Origin.Object))["Rect"]).Shift(-box.X0, -box.Y0)
	return near(before, at) && near(at.Clamp(geom.Rect{X1: box.W(), Y1: box.H()}), x.Rect)
}

// place is the rectangle of the widget on its page.
func (s *subject) place() geom.Rect {
	r := s.w.f.rect(s.w.dict["Rect"])
	if s.w.page > 0 {
		b := s.pages[s.w.page-1].box
		r = r.Shift(-geom.Round(b.X0), -geom.Round(b.Y0))
	}
	return r
}

// bit is a flag of the field; they count from 1 (tables 227, 229, 231 and 233).
func (s *subject) bit(n int) bool { return int(s.w.f.number(s.w.field("Ff")))>>(n-1)&1 != 0 }

// annot is a flag of the annotation (table 167).
func (s *subject) annot(n int) bool { return int(s.w.f.number(s.w.dict["F"]))>>(n-1)&1 != 0 }

func flag(n int, of func(*form.Field) bool) claim {
	return func(s *subject) (string, string) { return onOff(s.bit(n)), onOff(of(s.x)) }
}

// textual is a flag that has no meaning with several lines or cells, so that a row cannot say it there.
func textual(n int, of func(*form.Field) bool) claim {
	return func(s *subject) (string, string) {
		if !s.ours && (s.x.Multiline || s.x.Comb > 0 || s.x.Password) && !of(s.x) {
			return "", ""
		}
		return flag(n, of)(s)
	}
}

// noscroll is also on where there are cells.
func noscroll(s *subject) (string, string) {
	if s.x.Comb > 0 && !s.ours {
		return "", ""
	}
	return flag(24, func(x *form.Field) bool { return x.NoScroll || x.Comb > 0 })(s)
}

// tooltip is that of the field, which is the one of its first button in a group, and that of each
// widget.
func tooltip(s *subject) (string, string) {
	d, _ := s.w.own()
	of, should := "", ""
	for i := range s.rows {
		if s.rows[i].Name == s.x.Name && s.rows[i].Tooltip != "" {
			should = s.rows[i].Tooltip
			break
		}
	}
	if s.ours {
		if of = s.w.f.words(d["TU"]); of != should {
			return "of the field " + of, "of the field " + should
		}
		return s.w.f.words(s.w.dict["TU"]), s.x.Tooltip
	}
	return s.w.f.words(s.w.field("TU")), s.x.Tooltip
}

// caption is what a button is to say: its name when it shows nothing else.
func (s *subject) caption() string {
	x := s.x
	if s.ours && x.Caption == "" && x.Face.Picture == "" && x.Action.Do != form.TakePicture {
		return x.Name
	}
	return x.Caption
}

// does is everything that the row asks for; the picture that a button takes comes first.
func (s *subject) does() []form.Step {
	steps := s.x.Sequence()
	if s.x.Action.Do == form.TakePicture {
		steps = append([]form.Step{{Do: form.RunScript, Script: "event.target.buttonImportIcon();"}}, steps...)
	}
	return steps
}

func pressed(s *subject) (string, string) {
	if !s.ours && len(s.does()) == 0 {
		return "", "" // what a press did is kept
	}
	on := func(t form.Step) bool { return t.When == form.WhenPressed }
	up := s.w.f.chain(s.w.f.dict(s.w.dict["AA"])["U"], s.pages)
	if s.x.Kind != form.Text && s.x.Kind != form.Choice {
		up = nil // some readers do not know it of buttons
	}
	chain := append(s.w.f.chain(s.w.dict["A"], s.pages), up...)
	if s.ours && len(up) == 0 && (s.x.Kind == form.Text || s.x.Kind == form.Choice) && len(chain) > 0 {
		return "in some readers: " + strings.Join(chain, "; "), asked(s.does(), on)
	}
	return s.chained(chain), asked(s.does(), on)
}

// chained are the actions of a chain in words. What came with the file may be for some readers only.
func (s *subject) chained(list []string) string {
	is := strings.Join(list, "; ")
	if !s.ours {
		is = strings.ReplaceAll(is, alone, "")
	}
	return is
}

func happenings(s *subject) (string, string) {
	if is, should := pressed(s); is != should {
		return is, should
	}
	if !s.ours && len(s.x.Steps) == 0 {
		return "", ""
	}
	aa := s.w.f.dict(s.w.dict["AA"])
	for _, when := range form.FieldTriggers {
		key := events[when]
		if key == "" {
			continue
		}
		is, should := s.chained(s.w.f.chain(aa[key], s.pages)),
			asked(s.x.Steps, func(t form.Step) bool { return t.When == when })
		if is != should {
			return string(key) + ": " + is, string(key) + ": " + should
		}
	}
	return "", ""
}

func options(s *subject) (string, string) {
	var is, should []string
	for _, o := range s.w.f.array(s.w.field("Opt")) {
		if pair := s.w.f.array(o); len(pair) == 2 {
			is = append(is, s.w.f.words(pair[0])+" = "+s.w.f.words(pair[1]))
		} else {
			is = append(is, s.w.f.words(o)+" = "+s.w.f.words(o))
		}
	}
	if s.x.BlankFirst {
		should = append(should, "  =  ")
	}
	for _, o := range s.x.Options {
		should = append(should, cmp.Or(o.Export, o.Label)+" = "+o.Label)
	}
	return strings.Join(is, "; "), strings.Join(should, "; ")
}

func list(s *subject) (string, string) {
	is := fmt.Sprint(s.bit(18), s.bit(19) && s.bit(18), s.bit(22) && !s.bit(18)) // combo, edit, several
	should := map[form.ListStyle]string{
		form.Dropdown: "true false false", form.ComboBox: "true true false", form.ListBox: "false false false",
		form.ManyList: "false false true",
	}[s.x.List]
	return is, should
}

// linked rows are widgets of one field.
func linked(s *subject) (string, string) {
	if !s.x.Linked {
		return "", ""
	}
	_, mine := s.w.own()
	for i := range s.rows {
		if s.rows[i].Name == s.x.Name && s.rows[i].Linked {
			if _, other := s.widgets[i].own(); other != mine {
				return "a field of its own", "a place of " + s.x.Name
			}
		}
	}
	return "", ""
}

// scripts are those that the rules of the field come to (table 199).
func scripts(s *subject) (string, string) {
	d, _ := s.w.own()
	has := s.w.f.dict(d["AA"])
	for _, k := range []name{"K", "F", "V", "C"} {
		is, should := s.w.f.script(has[k]), s.compiled.Fields[s.x.Name][string(k)]
		if is == should || !s.ours && is == s.was(k) {
			continue
		}
		return string(k) + " " + is, string(k) + " " + should
	}
	return "", ""
}

// was is the script that the field had in the file that it came with.
func (s *subject) was(k name) string {
	for _, n := range s.w.refs {
		if js := s.base.script(s.base.dict(s.base.dict(ref(n))["AA"])[k]); js != "" {
			return js
		}
		if aa := s.base.dict(s.base.dict(s.base.dict(ref(n))["AA"])[k]); aa != nil {
			return ""
		}
	}
	return ""
}

// value is what a field for text or a list holds at the start, and what resetting gives it.
func value(s *subject) (string, string) {
	if !typed(s.x) {
		return start(s)
	}
	v := s.w.field("V")
	is := s.w.f.words(v)
	if a, ok := v.(array); ok {
		var all []string
		for _, o := range a {
			all = append(all, s.w.f.words(o))
		}
		is = strings.Join(all, "\n")
	}
	if is != s.x.Default {
		return is, s.x.Default
	}
	if s.ours && s.w.f.words(s.w.field("DV")) != s.x.Default {
		return "after a reset " + s.w.f.words(s.w.field("DV")), "after a reset " + s.x.Default
	}
	return shown(s)
}

func typed(x *form.Field) bool { return x.Kind == form.Text || x.Kind == form.Choice }

// shown is the text in the appearance of a field for text or a list.
func shown(s *subject) (string, string) {
	if !typed(s.x) || !s.ours && s.unchangedLooks() {
		return "", ""
	}
	ap, ok := s.ap.normal[""]
	if !ok || ap.unknown {
		return "no appearance", "an appearance"
	}
	squeeze := func(t string) string { return strings.Join(strings.Fields(t), "") }
	is, should := squeeze(ap.text), s.x.Shown()
	switch {
	case s.x.Kind == form.Choice && (s.x.List == form.ListBox || s.x.List == form.ManyList):
		should = ""
		for _, o := range s.x.Options {
			should += squeeze(o.Label)
		}
		if is != "" && strings.HasPrefix(should, is) { // as many as there is room for
			return "", ""
		}
	case should == "" && s.x.Hint != "":
		should = ap.signs.fold(s.x.Hint)
		if said := squeeze(ap.said); said != "" && s.ours { // some readers take text that shows for the answer
			return "a hint that is text, " + said, "a hint that only shows"
		}
	case s.x.Password:
		should = strings.Repeat("*", len([]rune(should)))
	case s.x.Comb > 0:
		r := []rune(should)
		should = string(r[:min(len(r), s.x.Comb)])
	}
	return is, squeeze(should)
}

// unchangedLooks tells whether a widget that came with the file has the appearance that it had.
func (s *subject) unchangedLooks() bool {
	return fmt.Sprint(s.w.dict["AP"]) == fmt.Sprint(s.base.dict(ref(s.w.refs[0]))["AP"])
}

// stateOf is the name of the state that stands for what a row says when it is on: that, or the place of it among the options of the field
// where it is more than a name can be (12.7.5.2.3).
func (s *subject) stateOf(x *form.Field) string {
	on, wide, at := x.OnState(), false, -1
	for i, o := range s.w.f.array(s.w.field("Opt")) {
		says := s.w.f.words(o)
		if wide = wide || strings.IndexFunc(says, func(r rune) bool { return r > 126 }) >= 0; says == on && at < 0 {
			at = i
		}
	}
	if wide && at >= 0 {
		return strconv.Itoa(at)
	}
	return on
}

// start is what is on at the start: the state that shows, the value of the field, and what resetting
// gives it agree.
func start(s *subject) (string, string) {
	on, should := "", "Off"
	for i := range s.rows {
		if x := &s.rows[i]; x.Name == s.x.Name && x.On() && on == "" {
			on = s.stateOf(x)
		}
	}
	if s.x.On() {
		should = s.stateOf(s.x)
	}
	if s.w.dict["AS"] == nil && s.ours { // required where there are several states (table 166)
		return "it has no state", "it shows " + should
	}
	state := cmp.Or(s.w.f.name(s.w.dict["AS"]), "Off")
	if state != should {
		return "it shows " + state, "it shows " + should
	}
	v := cmp.Or(s.w.f.name(s.w.field("V")), "Off")
	if v != cmp.Or(on, "Off") {
		return "its value is " + v, "its value is " + cmp.Or(on, "Off")
	}
	if dv := cmp.Or(s.w.f.name(s.w.field("DV")), "Off"); s.ours && dv != cmp.Or(on, "Off") {
		return "after a reset " + dv, "after a reset " + cmp.Or(on, "Off")
	}
	return "", ""
}
