package form

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

// Origin ties a field to the one that the document brought with it. The release
// changes that one where the draft differs from it, and leaves the rest of it as
// it is.
type Origin struct {
	Object int `json:"object"` // number of the widget's object in the file of its page
	// Keeps says in words what the field has that cannot be changed here and is kept.
	Keeps []string `json:"keeps,omitempty"`
	// Odd says what the first values of the field contradict in the file; empty when they agree.
	Odd string `json:"odd,omitempty"`
	// Shared tells that another widget of the same field stands elsewhere.
	Shared bool `json:"shared,omitempty"`
}

// KeepsOffPage is what the origin of a field says that stands off its page, or in part: it shows at the edge, and is released where it was.
const KeepsOffPage = "its place off the page"

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
