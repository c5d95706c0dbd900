package form

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"
)

// MinSide is the smallest width and height that a field can have, in points:
// less cannot be pressed or read (common practice, no source).
const MinSide = 4.0

// rounding is what a side may miss of it: numbers that are added and taken away again are not quite what they were.
const rounding = 1e-6

// Check refuses a row that cannot be written as a valid field on page, and says
// what to do.
func (f Field) Check(page Page) error {
	switch {
	case f.ID == "":
		return fmt.Errorf("a field needs an id")
	case !slices.Contains(Kinds, f.Kind):
		return fmt.Errorf("%q is not a kind of field: use text, checkbox, radio, choice, signature or button", f.Kind)
	case f.Rect.W() < MinSide-rounding || f.Rect.H() < MinSide-rounding:
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
	if err := f.checkTexts(); err != nil {
		return err
	}
	if err := f.Format.Check(); err != nil {
		return err
	}
	if err := f.checkKind(); err != nil {
		return err
	}
	if err := f.checkSource(); err != nil {
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
