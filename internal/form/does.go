package form

import (
	"fmt"
	"strings"
)

// Does says in a few words what a field does when it is pressed: "clears name, telephone, then
// prints the form". Empty is nothing.
func (f Field) Does() string {
	var says []string
	if f.Action.Do == TakePicture {
		says = append(says, "takes a picture")
	}
	for _, s := range f.Sequence() {
		if s.When == WhenPressed || s.When == WhenDown {
			says = append(says, s.Does())
		}
	}
	return strings.Join(says, ", then ")
}

// Does says in a few words what a step does: "clears name, telephone".
func (s Step) Does() string {
	named := strings.Join(s.Named(), ", ")
	which := func(all string) string {
		switch {
		case named == "":
			return all
		case s.Except:
			return "all but " + named
		}
		return named
	}
	switch s.Do {
	case ClearForm:
		return "clears " + which("the form")
	case PrintForm:
		return "prints the form"
	case SaveForm:
		return "saves the form"
	case SubmitForm:
		i := 0
		for i+1 < len(sendingWords) && sendingWords[i].Value != s.As {
			i++
		}
		return "sends " + which("the answers") + " " + sendingWords[i].Words
	case GoToPage:
		return fmt.Sprintf("goes to page %d", s.Page)
	case OpenLink, OpenPDF:
		return "opens " + s.URL
	case BringIn:
		return "takes answers from " + s.URL
	case ShowFields:
		return "shows " + named
	case HideFields:
		return "hides " + named
	case LockFields:
		return "locks " + named
	case FreeFields:
		return "frees " + named
	case SetValue:
		if s.Value == "" {
			return "empties " + named
		}
		return fmt.Sprintf("writes “%s” into %s", s.Value, named)
	case RunScript:
		return "runs a script"
	}
	return "does nothing"
}
