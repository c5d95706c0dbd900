// Package form is the model of a fillable form: its pages, its fields, and the
// edits that change them.
//
// A [Template] is a set of field rows over the pages of a document. It changes
// only through an [Edit], which is data: the rows before and the rows after. An
// edit can be kept in a journal, undone and redone by swapping its sides, and
// compared with another person's edit. The methods that start with a verb
// (Place, Move, Rename ...) work out an edit and change nothing; [Template.Apply]
// carries one out.
//
// Terms follow ISO 32000-2, 12.7 (forms) and 12.5.6.19 (widget annotations).
package form

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"zealousmargin.example/internal/geom"
)

// Kind is the kind of a field.
type Kind string

// The kinds of field. Text covers one line, several lines and combs; Choice
// covers dropdowns and list boxes.
const (
	Text      Kind = "text"
	CheckBox  Kind = "checkbox"
	Radio     Kind = "radio"
	Choice    Kind = "choice"
	Signature Kind = "signature"
	Button    Kind = "button"
)

// Kinds lists every kind there is.
var Kinds = []Kind{Text, CheckBox, Radio, Choice, Signature, Button}

// Option is one choice of a dropdown, list box or radio group.
type Option struct {
	Label  string `json:"label"`
	Export string `json:"export,omitempty"`
}

// FormatKind names a format that a text field can ask for.
type FormatKind string

// The formats.
const (
	NoFormat FormatKind = ""
	Date     FormatKind = "date"
	Time     FormatKind = "time"
	Number   FormatKind = "number"
	Percent  FormatKind = "percent"
	Phone    FormatKind = "phone"
	Email    FormatKind = "email"
	Postcode FormatKind = "postcode"
	Mask     FormatKind = "mask"
	Upper    FormatKind = "upper"
	Lower    FormatKind = "lower"
)

// FormatKinds lists them.
var FormatKinds = []FormatKind{NoFormat, Date, Time, Number, Percent, Phone, Email, Postcode, Mask, Upper, Lower}

// Format says what a text field accepts and how it shows it. Package rules
// evaluates it and compiles it into the scripts that readers run.
type Format struct {
	Kind FormatKind `json:"kind"`
	// Pattern is, of a date, its order and separators, made of d, dd, m, mm, mmm, mmmm, yy or
	// yyyy: "dd.mm.yyyy"; of a time one of [TimePatterns]; of a postcode the country by ISO
	// 3166-1; of a mask its signs: # a figure, @ a letter, ? any, others themselves.
	Pattern string `json:"pattern,omitempty"`
	// Decimals is how many places a number shows, 0 to 6.
	Decimals int `json:"decimals,omitempty"`
	// Comma writes numbers as 1.234,56 instead of 1,234.56.
	Comma bool `json:"comma,omitempty"`
	// Ungrouped writes numbers as 1234.56.
	Ungrouped bool `json:"ungrouped,omitempty"`
	// Brackets writes negative numbers as (1.00) instead of -1.00.
	Brackets bool `json:"brackets,omitempty"`
	// Currency is a sign of money that is shown with a number, before it or After it.
	Currency string `json:"currency,omitempty"`
	After    bool   `json:"after,omitempty"`
	// Message is what a recipient reads when the answer is refused.
	Message string `json:"message,omitempty"`
}

// TimePatterns are how times can be written: hours of the day, or of its half with am or pm.
var TimePatterns = []string{"HH:MM", "HH:MM:ss", "h:MM tt"}

// Deed is what a button does when it is pressed.
type Deed string

// The deeds of a button.
const (
	ClearForm  Deed = "clear"
	PrintForm  Deed = "print"
	SaveForm   Deed = "save"
	SubmitForm Deed = "submit"
	// TakePicture lets the recipient choose a picture, which the button then shows: a
	// picture field.
	TakePicture Deed = "picture"
)

// Action is a button's deed; URL is where SubmitForm sends the answers.
type Action struct {
	Do  Deed   `json:"do"`
	URL string `json:"url,omitempty"`
}

// Level is how far a find can be trusted.
type Level string

// The levels of confidence.
const (
	Sure     Level = "sure"
	Likely   Level = "likely"
	Doubtful Level = "doubtful"
)

// Confidence, from 0 to 1, at which a find counts as sure or as likely. A find
// below LikelyFrom is shown but is no part of the form until it is kept.
const (
	SureFrom   = 0.85
	LikelyFrom = 0.5
)

// LevelOf gives the level of a confidence.
func LevelOf(confidence float64) Level {
	switch {
	case confidence >= SureFrom:
		return Sure
	case confidence >= LikelyFrom:
		return Likely
	}
	return Doubtful
}

// Find is what detection knows about a field that it proposed. A field that a
// person placed has none.
type Find struct {
	Confidence float64 `json:"confidence"`
	Evidence   string  `json:"evidence"`
	Kept       bool    `json:"kept,omitempty"`
	// Looks is the format that the wording of the label asks for, such as "date".
	Looks string `json:"looks,omitempty"`
}

// Field is one field with its one widget.
type Field struct {
	ID      string    `json:"id"`
	Page    int       `json:"page"` // from 1
	Rect    geom.Rect `json:"rect"`
	Kind    Kind      `json:"type"`
	Name    string    `json:"name"`
	Tooltip string    `json:"tooltip,omitempty"`
	Label   string    `json:"label,omitempty"` // the printed words that it belongs to
	// Order is the place in the tab order of its page; smaller comes first.
	Order float64 `json:"order"`

	Required  bool `json:"required,omitempty"`
	ReadOnly  bool `json:"readonly,omitempty"`
	Multiline bool `json:"multiline,omitempty"`
	MaxLen    int  `json:"maxlen,omitempty"` // signs; 0 is no limit
	Comb      int  `json:"comb,omitempty"`   // printed cells; 0 is not a comb

	// Linked tells that other rows of the same name are further places of this field: what
	// is typed at one shows at all.
	Linked   bool `json:"linked,omitempty"`
	Locked   bool `json:"locked,omitempty"`   // cannot be moved or removed in an editor
	NoExport bool `json:"noexport,omitempty"` // its answer is not sent
	NoScroll bool `json:"noscroll,omitempty"` // takes no more than it shows
	NoSpell  bool `json:"nospell,omitempty"`
	Password bool `json:"password,omitempty"`
	FilePath bool `json:"filepath,omitempty"` // the answer is the path of a file, which is sent
	Show     Show `json:"show,omitempty"`
	// Hint is shown in grey while the field is empty.
	Hint string `json:"hint,omitempty"`

	List       ListStyle `json:"list,omitempty"` // of a choice
	Sort       bool      `json:"sort,omitempty"`
	BlankFirst bool      `json:"blankfirst,omitempty"` // an empty option comes first
	Mark       string    `json:"mark,omitempty"`       // of a check box or radio button: one of Marks
	Unison     bool      `json:"unison,omitempty"`     // buttons with one export value go together
	Look       Look      `json:"look,omitzero"`

	Default string   `json:"default,omitempty"`
	Export  string   `json:"export,omitempty"` // of a check box or radio button
	Options []Option `json:"options,omitempty"`
	Format  Format   `json:"format,omitzero"`
	Checks  []Check  `json:"checks,omitempty"` // what an answer must hold, one after the other
	// Formula is what the field comes to, in the words of package rules; a field that has one
	// is calculated. ShowIf and RequireIf are formulas too: the field shows, or must be filled
	// in, only if they hold.
	Formula   string `json:"formula,omitempty"`
	ShowIf    string `json:"showif,omitempty"`
	RequireIf string `json:"requireif,omitempty"`
	// Role is who fills the field in, where several people do one after the other; empty is anybody.
	Role    string `json:"role,omitempty"`
	Caption string `json:"caption,omitempty"` // of a button
	Face    Face   `json:"face,omitzero"`     // of a button
	Action  Action `json:"action,omitzero"`
	Steps   []Step `json:"steps,omitempty"` // further things that it does, after its action

	Find   *Find   `json:"find,omitempty"`
	Origin *Origin `json:"origin,omitempty"`
}

// Origin ties a field to the one that the document brought with it. The release
// changes that one where the draft differs from it, and leaves the rest of it as
// it is.
type Origin struct {
	Object int `json:"object"` // number of the widget's object in the file of its page
	// Keeps says in words what the field has that cannot be changed here and is kept.
	Keeps []string `json:"keeps,omitempty"`
	// Shared tells that another widget of the same field stands elsewhere.
	Shared bool `json:"shared,omitempty"`
}

// Placed tells whether the field is part of the form: placed by a person, kept,
// or found with enough confidence.
func (f Field) Placed() bool {
	return f.Find == nil || f.Find.Kept || f.Find.Confidence >= LikelyFrom
}

// Shown is what the field shows at first: of a choice the label of its default.
func (f Field) Shown() string {
	for _, o := range f.Options {
		if o.Export != "" && o.Export == f.Default {
			return o.Label
		}
	}
	return f.Default
}

// OpenFind tells whether the field is a find that nobody has kept yet.
func (f Field) OpenFind() bool { return f.Find != nil && !f.Find.Kept }

// Level is the confidence of a find in words, and empty for any other field.
func (f Field) Level() Level {
	if f.Find == nil {
		return ""
	}
	return LevelOf(f.Find.Confidence)
}

// Equal tells whether two rows say the same.
func (f Field) Equal(g Field) bool {
	if (f.Find == nil) != (g.Find == nil) || f.Find != nil && *f.Find != *g.Find || !slices.Equal(f.Options, g.Options) {
		return false
	}
	if (f.Origin == nil) != (g.Origin == nil) || f.Origin != nil && (f.Origin.Object != g.Origin.Object || f.Origin.Shared != g.Origin.Shared) {
		return false
	}
	f.Rect, g.Rect = f.Rect.Rounded(), g.Rect.Rounded()
	return f.ID == g.ID && f.Page == g.Page && f.Rect == g.Rect && f.Kind == g.Kind && f.Name == g.Name &&
		f.Tooltip == g.Tooltip && f.Label == g.Label && f.Order == g.Order && f.Required == g.Required &&
		f.ReadOnly == g.ReadOnly && f.Multiline == g.Multiline && f.MaxLen == g.MaxLen && f.Comb == g.Comb &&
		f.Default == g.Default && f.Export == g.Export && f.Format == g.Format && f.Caption == g.Caption && f.Action == g.Action &&
		f.Linked == g.Linked && f.Locked == g.Locked && f.NoExport == g.NoExport && f.NoScroll == g.NoScroll && f.NoSpell == g.NoSpell && f.Password == g.Password &&
		f.FilePath == g.FilePath && f.Show == g.Show && f.Hint == g.Hint && f.List == g.List && f.Sort == g.Sort && f.BlankFirst == g.BlankFirst &&
		f.Mark == g.Mark && f.Unison == g.Unison && f.Look == g.Look && f.Face == g.Face &&
		f.Role == g.Role && f.Formula == g.Formula && f.ShowIf == g.ShowIf && f.RequireIf == g.RequireIf && slices.Equal(f.Checks, g.Checks) && slices.Equal(f.Steps, g.Steps)
}

// MinSide is the smallest width and height that a field can have, in points:
// less cannot be pressed or read (common practice, no source).
const MinSide = 4.0

var datePattern = regexp.MustCompile(`^(dd?|mm?m?m?|yyyy|yy)[-./ ,]{1,2}(dd?|mm?m?m?|yyyy|yy)[-./ ,]{1,2}(dd?|mm?m?m?|yyyy|yy)$`)

// Check refuses a row that cannot be written as a valid field on page, and says
// what to do.
func (f Field) Check(page Page) error {
	switch {
	case f.ID == "":
		return fmt.Errorf("a field needs an id")
	case !slices.Contains(Kinds, f.Kind):
		return fmt.Errorf("%q is not a kind of field: use text, checkbox, radio, choice, signature or button", f.Kind)
	case f.Rect.W() < MinSide || f.Rect.H() < MinSide:
		return fmt.Errorf("%s would be smaller than %g points: make it larger", f.Name, MinSide)
	case !page.Rect().Covers(f.Rect, 0.5):
		return fmt.Errorf("%s would lie off the page: move it back", f.Name)
	case f.MaxLen < 0 || f.MaxLen > 32767:
		return fmt.Errorf("the most signs that %s takes must be from 0 (no limit) to 32767", f.Name)
	case f.Comb > 0 && f.Multiline:
		return fmt.Errorf("%s cannot have cells and several lines: choose one", f.Name)
	}
	name := f.Name
	if f.Origin != nil { // fields that came with the document may have a full name, of several parts
		name = strings.ReplaceAll(name, ".", "_")
	}
	if err := CheckName(name); err != nil {
		return err
	}
	if err := f.Format.check(); err != nil {
		return err
	}
	if f.Format.Kind != NoFormat && f.Kind != Text {
		return fmt.Errorf("only a text field can have a format; %s is a %s", f.Name, f.Kind)
	}
	if err := f.checkKind(); err != nil {
		return err
	}
	if err := f.checkRules(); err != nil {
		return err
	}
	if err := f.Look.check(f.Name); err != nil {
		return err
	}
	if err := f.checkFace(); err != nil {
		return err
	}
	for _, step := range f.Steps {
		if err := step.Check(FieldTriggers); err != nil {
			return fmt.Errorf("what %s does: %w", f.Name, err)
		}
	}
	return f.ActionError()
}

// ActionError refuses an action that cannot be written, and says what to do.
func (f Field) ActionError() error {
	if f.Kind != Button {
		if f.Action != (Action{}) {
			return fmt.Errorf("only a button can do something when pressed; %s is a %s", f.Name, f.Kind)
		}
		return nil
	}
	switch f.Action.Do {
	case "", ClearForm, PrintForm, SaveForm, TakePicture:
	case SubmitForm:
		if !isAddress(f.Action.URL) {
			return fmt.Errorf("a button that sends needs an address, one that starts with https://, with http:// or with mailto: and goes on from there")
		}
	default:
		return fmt.Errorf("%q is not something a button can do: use clear, print, save, submit or picture", f.Action.Do)
	}
	return nil
}

// check refuses a format that cannot be compiled, and says what to do.
func (f Format) check() error {
	switch f.Kind {
	case Date:
		if !ValidDatePattern(f.Pattern) {
			return fmt.Errorf("%q is not a date pattern: use dd, mm and yyyy with . / - or a space between, such as dd.mm.yyyy or d mmm yyyy", f.Pattern)
		}
	case Time:
		if !slices.Contains(TimePatterns, f.Pattern) {
			return fmt.Errorf("%q is not how a time is written: use %s", f.Pattern, strings.Join(TimePatterns, ", "))
		}
	case Number, Percent:
		if f.Decimals < 0 || f.Decimals > 6 {
			return fmt.Errorf("a number shows 0 to 6 decimal places, not %d", f.Decimals)
		}
		if len(f.Currency) > 12 || strings.ContainsAny(f.Currency, "0123456789.,-()") {
			return fmt.Errorf("%q is not a sign of money: write up to four letters or a sign, such as € or GBP", f.Currency)
		}
	case Mask:
		if !strings.ContainsAny(f.Pattern, "#@?") || len(f.Pattern) > 60 {
			return fmt.Errorf("%q is not a mask: write # for a figure, @ for a letter, ? for any sign, and others as they are, such as @@-####", f.Pattern)
		}
	case NoFormat, Phone, Email, Postcode, Upper, Lower:
	default:
		return fmt.Errorf("%q is not a format: use date, time, number, percent, phone, email, postcode, mask, upper or lower", f.Kind)
	}
	return nil
}

// ValidDatePattern tells whether p has day, month and year once each.
func ValidDatePattern(p string) bool {
	m := datePattern.FindStringSubmatch(p)
	return m != nil && m[1][0] != m[2][0] && m[2][0] != m[3][0] && m[1][0] != m[3][0]
}

// CheckName refuses a partial field name that ISO 32000-2, 12.7.4.2 does not
// allow (no full stop), or that no reader could address (empty, or longer than
// 127 bytes, the length older readers are held to; common practice).
func CheckName(name string) error {
	switch {
	case strings.TrimSpace(name) == "":
		return fmt.Errorf("a field needs a name: type one such as vessel_name")
	case strings.Contains(name, "."):
		return fmt.Errorf("a name cannot contain a full stop: write %s", strings.ReplaceAll(name, ".", "_"))
	case len(name) > 127 || !utf8.ValidString(name):
		return fmt.Errorf("a name can have at most 127 bytes: shorten it")
	}
	return nil
}
