package form

import "slices"

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
	// Set is the format that the field was given at finding, because the page leaves no doubt.
	Set Format `json:"set,omitzero"`
}

// hasSet tells whether the field still has the format that finding gave it.
func (f Field) hasSet() bool {
	return f.Find != nil && f.Find.Set.Kind != NoFormat && f.Format == f.Find.Set
}

// FormatsSet counts the fields that still have the format that finding gave them.
func (t *Template) FormatsSet() int {
	n := 0
	for _, f := range t.Fields {
		if f.hasSet() {
			n++
		}
	}
	return n
}

// TakeFormatsBack takes the formats away that finding gave to the fields of a page, or of the document when page is 0; those
// that somebody has changed since stay. What the labels ask for is proposed again.
func (t *Template) TakeFormatsBack(page int) (Edit, error) {
	var ids []string
	for _, f := range t.Fields {
		if f.hasSet() && (page == 0 || f.Page == page) {
			ids = append(ids, f.ID)
		}
	}
	return t.change("took back the formats of "+count(len(ids)), ids, func(f *Field) error {
		find := *f.Find
		find.Set = Format{}
		f.Find, f.Format = &find, Format{}
		return nil
	})
}

// What is done with finds: they are kept and dropped.

// keep marks a find as kept: whoever works on it wants it.
func (f *Field) keep() {
	if f.Find != nil {
		f.Find.Kept = true
	}
}

// Keep accepts finds.
func (t *Template) Keep(ids []string) (Edit, error) {
	e, err := t.change("", ids, func(f *Field) error { f.keep(); return nil })
	if err == nil {
		e.Title = "kept " + t.called(e.After)
	}
	return e, err
}

// Drop rejects finds; only those that nobody has kept are taken.
func (t *Template) Drop(ids []string) (Edit, error) {
	open := slices.DeleteFunc(slices.Clone(ids), func(id string) bool {
		f, ok := t.Field(id)
		return !ok || !f.OpenFind()
	})
	return t.remove("dropped", open)
}

// KeepAll accepts every find on a page, or in the document when page is 0.
func (t *Template) KeepAll(page int) (Edit, error) { return t.Keep(t.open(page, 2)) }

// DropBelow rejects every open find with less than the given confidence on a
// page, or in the document when page is 0.
func (t *Template) DropBelow(page int, confidence float64) (Edit, error) {
	return t.Drop(t.open(page, confidence))
}

func (t *Template) open(page int, below float64) []string {
	var ids []string
	for _, f := range t.Fields {
		if f.OpenFind() && (page == 0 || f.Page == page) && f.Find.Confidence < below {
			ids = append(ids, f.ID)
		}
	}
	return ids
}
