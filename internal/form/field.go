package form

import (
	"slices"

	"zealousmargin.example/internal/geom"
)

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
	Role string `json:"role,omitempty"`
	// Source is where the office takes the answer from when it fills the form in for somebody, and Datum which one of there.
	Source  Source `json:"source,omitempty"`
	Datum   string `json:"datum,omitempty"`
	Caption string `json:"caption,omitempty"` // of a button
	Face    Face   `json:"face,omitzero"`     // of a button
	Action  Action `json:"action,omitzero"`
	Steps   []Step `json:"steps,omitempty"` // further things that it does, after its action

	Find   *Find   `json:"find,omitempty"`
	Origin *Origin `json:"origin,omitempty"`
}

var (
	textual   = []Kind{Text, Choice}
	tickable  = []Kind{CheckBox, Radio}
	withType  = []Kind{Text, Choice, Button}
	answering = []Kind{Text, Choice, CheckBox, Radio}
)

// Headings under which a note says what it does not say first.
const (
	OfFormat = "format"
	OfPlace  = "place"
	OfAnswer = "answer"
	OfList   = "list"
	OfMark   = "mark"
	OfFace   = "face"
	OfShow   = "show"
	OfLook   = "look"
	OfRules  = "rules"
)

// Heading is a run of sentences of a note.
type Heading struct{ Key, Title string }

// Headings are those of a note that fold, in their order.
var Headings = []Heading{
	{OfAnswer, "the answer"},
	{OfList, "the list"},
	{OfMark, "the mark"},
	{OfFace, "its picture and how it looks pressed"},
	{OfShow, "where it shows"},
	{OfLook, "how it looks"},
}

// Why a property is not in the file that is released, and what fields without a face are told.
const (
	ours = "it is only for those who make the form"
	face = "have a picture or a pressed look"
)

// FieldProperties are the properties of a field, in the order in which a note says them.
var FieldProperties []Property[Field]

func init() { FieldProperties = fieldProperties() } // setting a kind goes by the other rows

func fieldProperties() []Property[Field] {
	return []Property[Field]{
		wordOf("id", "id", func(f *Field) *string { return &f.ID }).drafted(ours),
		countOf("page", "page", "a page", func(f *Field) *int { return &f.Page }),
		rectProperty(),
		wordOf("kind", "type", func(f *Field) *Kind { return &f.Kind }).titled("the kind of").sets(setKind),
		wordOf("name", "name", func(f *Field) *string { return &f.Name }).titled("the name of"),
		wordOf("tooltip", "tooltip", func(f *Field) *string { return &f.Tooltip }).titled("the tooltip of"),
		wordOf("label", "label", func(f *Field) *string { return &f.Label }).drafted(ours),
		orderProperty(),
		wordOf("caption", "caption", func(f *Field) *string { return &f.Caption }).of(Button).titled("the caption of"),
		wordOf("deed", "action.do", func(f *Field) *Deed { return &f.Action.Do }).of(Button).titled("what %s does").
			one(Offer{"", "nothing"}, Offer{"clear", "clear the form"}, Offer{"print", "print the form"}, Offer{"save", "save the form"},
				Offer{"submit", "send the answers"}, Offer{"picture", "take a picture"}).then(afterDeed),
		wordOf("url", "action.url", func(f *Field) *string { return &f.Action.URL }).of(Button).titled("where %s sends"),
		wordOf("sendas", "action.as", func(f *Field) *string { return &f.Action.As }).of(Button).titled("what %s sends").
			only(func(f *Field) bool { return f.Action.Do == SubmitForm }).one(sendingWords...),
		dataOf("options", "options", func(f *Field) *[]Option { return &f.Options }, slices.Equal, slices.Clone).of(Choice).
			titled("the list of").
			reads(func(f *Field) string { return WriteOptions(f.Options) }).
			sets(func(f *Field, v string) error { f.Options = ReadOptions(v); f.sortOptions(); return nil }),
		wordOf("export", "export", func(f *Field) *string { return &f.Export }).of(tickable...).titled("the value of").sets(setExport),
		flagOf("multiline", "multiline", func(f *Field) *bool { return &f.Multiline }).of(Text).titled("the lines of").
			either("several lines", "one line").
			then(func(f *Field) {
				if f.Multiline {
					f.Comb = 0
				}
			}),
		countOf("maxlen", "maxlen", "a number of signs", func(f *Field) *int { return &f.MaxLen }).of(Text).
			titled("the length of").plainly("any number of").
			then(func(f *Field) {
				if f.Comb > 0 {
					f.Comb = f.MaxLen
				}
			}),
		flagOf("required", "required", func(f *Field) *bool { return &f.Required }).of(Text, Choice, CheckBox, Radio, Signature).
			says("", "It", "be filled in", "").either("must", "may").makes("optional", "required"),
		flagOf("readonly", "readonly", func(f *Field) *bool { return &f.ReadOnly }).says("", "and", "be changed", "").
			either("cannot", "can").makes("fillable", "read-only"),

		wordOf("format", "format.kind", func(f *Field) *FormatKind { return &f.Format.Kind }).of(textual...).
			says(OfFormat, "It accepts", "", "what %s accepts").
			one(formatChoices...).sets(setFormat).only((*Field).takesFormat).refused("have a format"),
		wordOf("pattern", "format.pattern", func(f *Field) *string { return &f.Format.Pattern }).of(textual...).
			says(OfFormat, "written", "", "what %s accepts").
			only(formatIs(Date, Time, Postcode, Mask)).offers(patterns).sets(setPattern),
		countOf("decimals", "format.decimals", "a number of decimal places, 0 to 6", func(f *Field) *int { return &f.Format.Decimals }).
			of(textual...).
			says(OfFormat, "with", "decimals", "what %s accepts").only(formatIs(Number, Percent)),
		row("style", "format.comma", AsWord, func(f *Field) *bool { return &f.Format.Comma }).of(textual...).
			says(OfFormat, "written", "", "what %s accepts").
			only(formatIs(Number, Percent)).one(Offer{"point", "with a decimal point"}, Offer{"comma", "with a decimal comma"}).
			reads(func(f *Field) string { return map[bool]string{false: "point", true: "comma"}[f.Format.Comma] }).
			sets(func(f *Field, v string) error { f.Format.Comma = v == "comma"; return nil }),
		flagOf("ungrouped", "format.ungrouped", func(f *Field) *bool { return &f.Format.Ungrouped }).of(textual...).
			says(OfFormat, "", "", "what %s accepts").
			only(formatIs(Number, Percent)).either("without groups", "in groups of thousands"),
		flagOf("brackets", "format.brackets", func(f *Field) *bool { return &f.Format.Brackets }).of(textual...).
			says(OfFormat, "negative ones", "", "what %s accepts").
			only(formatIs(Number, Percent)).either("in brackets", "with a minus"),
		wordOf("currency", "format.currency", func(f *Field) *string { return &f.Format.Currency }).of(textual...).
			says(OfFormat, "in", "", "what %s accepts").
			only(formatIs(Number)).then(func(f *Field) {
			if f.Format.Currency == "" {
				f.Format.After = false
			}
		}),
		flagOf("after", "format.after", func(f *Field) *bool { return &f.Format.After }).of(textual...).
			says(OfFormat, "which stands", "", "what %s accepts").
			only(func(f *Field) bool { return f.Format.Kind == Number && f.Format.Currency != "" }).either("behind it", "before it"),
		wordOf("message", "format.message", func(f *Field) *string { return &f.Format.Message }).of(textual...).
			says(OfFormat, "Otherwise say", "", "what %s accepts").
			only(formatIs(Date, Time, Number, Percent, Phone, Email, Postcode, Mask)),

		wordOf("default", "default", func(f *Field) *string { return &f.Default }).of(answering...).
			says(OfAnswer, "It starts with", "", "what comes first in").only(typed),
		wordOf("hint", "hint", func(f *Field) *string { return &f.Hint }).of(textual...).
			says(OfAnswer, "While it is empty it says", "", "the hint of").refused("have a hint"),
		startProperty(),
		countOf("comb", "comb", "a number of cells", func(f *Field) *int { return &f.Comb }).of(Text).
			says(OfAnswer, "It has", "cells, one for each sign", "the cells of").plainly("no").sets(setComb),
		flagOf("noscroll", "noscroll", func(f *Field) *bool { return &f.NoScroll }).of(Text).
			says(OfAnswer, "When it is full it", "", "how much fits in").
			either("takes no more", "scrolls").styled().refused("stop from scrolling"),
		flagOf("nospell", "nospell", func(f *Field) *bool { return &f.NoSpell }).of(textual...).
			says(OfAnswer, "Its spelling is", "", "the spelling check of").
			either("not checked", "checked").styled().refused("go without a spelling check"),
		flagOf("password", "password", func(f *Field) *bool { return &f.Password }).of(Text).
			says(OfAnswer, "What is typed", "", "what shows of").
			either("is hidden", "shows").refused("hide what is typed"),
		flagOf("filepath", "filepath", func(f *Field) *bool { return &f.FilePath }).of(Text).
			says(OfAnswer, "The answer is", "", "what is sent from").
			either("a file, which is sent", "text").refused("take a file"),
		wordOf("role", "role", func(f *Field) *string { return &f.Role }).of(Text, Choice, CheckBox, Radio, Signature).
			says(OfAnswer, "It is filled in by", "", "who fills in"),
		wordOf("source", "source", func(f *Field) *Source { return &f.Source }).of(answering...).
			says(OfAnswer, "The office fills it in with", "", "what the office fills %s in with").
			one(sourceWords...).sets(setSource).drafted("the office fills it in, copy by copy"),
		wordOf("datum", "datum", func(f *Field) *string { return &f.Datum }).of(answering...).
			says(OfAnswer, "namely", "", "what the office fills %s in with").
			only((*Field).takesDatum).drafted("the office fills it in, copy by copy"),
		flagOf("noexport", "noexport", func(f *Field) *bool { return &f.NoExport }).of(answering...).
			says(OfAnswer, "With the form it is", "", "what is sent from").
			either("not sent", "sent").styled(),
		flagOf("linked", "linked", func(f *Field) *bool { return &f.Linked }).of(Text, CheckBox, Choice),

		wordOf("list", "list", func(f *Field) *ListStyle { return &f.List }).of(Choice).says(OfList, "It is", "", "the list of").
			one(Offer{"", "a dropdown"}, Offer{"combo", "a dropdown with an entry of one's own"}, Offer{"list", "a list box, for one"},
				Offer{"many", "a list box, for several"}).
			then(dropFormat).refused("have a list"),
		flagOf("blankfirst", "blankfirst", func(f *Field) *bool { return &f.BlankFirst }).of(Choice).
			says(OfList, "First comes", "", "the list of").
			either("a blank", "the first option").refused("have a list"),
		flagOf("sort", "sort", func(f *Field) *bool { return &f.Sort }).of(Choice).
			says(OfList, "The options stand", "", "the order of the list of").
			either("in the order of the alphabet", "as they are written").then((*Field).sortOptions).refused("have a list"),

		wordOf("mark", "mark", func(f *Field) *string { return &f.Mark }).of(tickable...).
			says(OfMark, "Ticked, it shows", "", "the mark of").
			one(Offer{"", "the usual mark"}, Offer{"check", "a check mark"}, Offer{"circle", "a disc"}, Offer{"cross", "a cross"},
				Offer{"diamond", "a diamond"}, Offer{"square", "a square"}, Offer{"star", "a star"}).styled().refused("have a mark"),
		flagOf("unison", "unison", func(f *Field) *bool { return &f.Unison }).of(Radio).
			says(OfMark, "Buttons that send the same", "", "the unison of").
			either("go together", "go one by one").refused("go in unison"),

		wordOf("picture", "face.picture", func(f *Field) *string { return &f.Face.Picture }).of(Button).titled("the picture of").
			refused(face).then(afterPicture),
		wordOf("layout", "face.layout", func(f *Field) *Layout { return &f.Face.Layout }).of(Button).
			says(OfFace, "It shows", "", "the layout of").refused(face).
			one(Offer{"", "its words only"}, Offer{"picture", "its picture only"}, Offer{"below", "its words below the picture"},
				Offer{"above", "its words above the picture"}, Offer{"right", "its words right of the picture"},
				Offer{"left", "its words left of the picture"}, Offer{"over", "its words over the picture"}),
		wordOf("pressed", "face.pressed", func(f *Field) *Pressed { return &f.Face.Pressed }).of(Button).
			says(OfFace, "While it is pressed it", "", "the pressed look of").refused(face).
			one(Offer{"", "is pushed in"}, Offer{"same", "looks the same"}, Offer{"inverted", "has its colours reversed"},
				Offer{"outlined", "has its border reversed"}).
			then(func(f *Field) {
				if f.Face.Pressed != PushedIn {
					f.Face.PressedCaption = ""
				}
			}).styled(),
		wordOf("pressedcaption", "face.pressedcaption", func(f *Field) *string { return &f.Face.PressedCaption }).of(Button).
			says(OfFace, "pushed in it says", "", "the pressed words of").refused(face),

		wordOf("show", "show", func(f *Field) *Show { return &f.Show }).says(OfShow, "It shows", "", "where it shows:").
			one(Offer{"", "on screen and in print"}, Offer{"screen", "on screen only"}, Offer{"print", "in print only"},
				Offer{"hidden", "nowhere"}).
			reads(func(f *Field) string { return string(f.Shows()) }).styled(),
		flagOf("locked", "locked", func(f *Field) *bool { return &f.Locked }).says(OfShow, "In other editors it can", "", "the lock of").
			either("not be moved", "be moved").styled(),

		wordOf("font", "look.font", func(f *Field) *string { return &f.Look.Font }).of(withType...).
			says(OfLook, "It is written in", "", "the font of").one(fontChoices()...).styled(),
		lengthOf("size", "look.size", func(f *Field) *float64 { return &f.Look.Size }).of(withType...).
			says(OfLook, "of", "points", "the size of the type of").plainly("as many as fit").styled(),
		colourOf("colour", "look.colour", func(f *Field) *string { return &f.Look.Colour }).of(Text, Choice, Button, CheckBox, Radio).
			says(OfLook, "in the colour", "", "the colour of").plainly("black").styled(),
		wordOf("align", "look.align", func(f *Field) *Align { return &f.Look.Align }).of(textual...).
			says(OfLook, "aligned", "", "the alignment of").
			one(Offer{"", "left"}, Offer{"centre", "in the middle"}, Offer{"right", "right"}).styled(),
		colourOf("fill", "look.fill", func(f *Field) *string { return &f.Look.Fill }).
			says(OfLook, "Its ground is", "", "the ground of").styled(),
		colourOf("border", "look.border", func(f *Field) *string { return &f.Look.Border }).
			says(OfLook, "Its border is", "", "the border of").styled(),
		lengthOf("borderwidth", "look.borderwidth", func(f *Field) *float64 { return &f.Look.BorderWidth }).
			says(OfLook, "A border is", "points wide", "the border of").plainly("1").styled(),
		wordOf("borderstyle", "look.borderstyle", func(f *Field) *BorderStyle { return &f.Look.BorderStyle }).
			says(OfLook, "and drawn", "", "the border of").
			one(Offer{"", "solid"}, Offer{"dashed", "dashed"}, Offer{"bevelled", "bevelled"}, Offer{"inset", "inset"},
				Offer{"underline", "an underline only"}).styled(),
		countOf("turn", "look.turn", "an angle", func(f *Field) *int { return &f.Look.Turn }).of(withType...).
			says(OfLook, "It is read", "", "the turn of").
			one(Offer{"0", "upright"}, Offer{"90", "upwards"}, Offer{"180", "upside down"}, Offer{"270", "downwards"}).styled(),

		dataOf("checks", "checks", func(f *Field) *[]Check { return &f.Checks }, slices.Equal, slices.Clone).of(textual...).
			titled("what %s must hold"),
		wordOf("formula", "formula", func(f *Field) *string { return &f.Formula }).of(Text).
			says(OfRules, "It is calculated:", "", "what %s is calculated from"),
		wordOf("requireif", "requireif", func(f *Field) *string { return &f.RequireIf }).of(answering...).
			says(OfRules, "It must be filled in only if", "", "when %s must be filled in"),
		wordOf("showif", "showif", func(f *Field) *string { return &f.ShowIf }).says(OfRules, "It shows only if", "", "when %s shows"),
		dataOf("steps", "steps", func(f *Field) *[]Step { return &f.Steps }, slices.Equal, slices.Clone).
			of(Text, Choice, CheckBox, Radio, Button).titled("what %s does"),
		dataOf("find", "find", func(f *Field) **Find { return &f.Find }, samePart, clonePart).drafted(ours),
		dataOf("origin", "origin", func(f *Field) **Origin { return &f.Origin }, sameOrigin, cloneOrigin).
			drafted("it says where the field came from"),
	}
}
