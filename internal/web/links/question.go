package links

import (
	"slices"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/questions"
)

// questionView is a question with what stands there.
type questionView struct {
	questions.Question
	Value    string
	Refused  string
	ReadOnly bool
	ID       string
}

// Q is a question for the template.
func (v fillView) Q(q questions.Question) questionView {
	return questionView{q, v.Answers[q.Name], v.Refused[q.Name], q.Field.ReadOnly || q.Field.Formula != "", "q-" + q.Field.ID}
}

// Chosen tells whether an option is among the answers to a question.
func (q questionView) Chosen(o form.Option) bool {
	return slices.Contains(strings.Split(q.Value, "\n"), o.Export)
}

// Sort is how a question is asked.
func (q questionView) Sort() string {
	f := q.Field
	switch f.Kind {
	case form.Signature:
		return "signature"
	case form.Button:
		return "picture"
	case form.CheckBox:
		if len(q.Options) > 1 {
			return "radio"
		}
		return "tick"
	case form.Radio:
		return "radio"
	case form.Choice:
		switch f.List {
		case form.ManyList:
			return "many"
		case form.ComboBox:
			return "combo"
		}
		return "list"
	}
	switch {
	case f.Multiline:
		return "long"
	case f.FilePath:
		return "file"
	case f.Password:
		return "password"
	case f.Format.Kind == form.Number || f.Format.Kind == form.Percent:
		return "number"
	}
	return "text"
}

// On is what a tick box says when it is on.
func (q questionView) On() string {
	if len(q.Options) == 1 {
		return q.Options[0].Export
	}
	return q.Field.OnState()
}
