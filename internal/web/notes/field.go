package notes

import (
	"cmp"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/web/markup"
)

var formatBadges = map[form.FormatKind]string{
	form.Time: "time", form.Number: "number", form.Percent: "per cent", form.Phone: "telephone", form.Email: "e-mail",
	form.Postcode: "postcode",
	form.Mask:     "pattern", form.Upper: "capitals", form.Lower: "small letters",
}

// Mark puts into a few words what a closed note says of a field; its place is left to the caller.
func Mark(f *form.Field) markup.Mark {
	m := markup.Mark{Field: f, Found: f.OpenFind()}
	m.Doubt = m.Found && f.Level() == form.Doubtful
	var says []string
	switch {
	case f.Kind == form.Button:
		says = append(says, cmp.Or(f.Does(), "does nothing yet"))
	case f.Required:
		says = append(says, "must be filled")
	case f.ReadOnly:
		says = append(says, "cannot be changed")
	}
	if f.Linked {
		says = append(says, "at several places")
	}
	if kind := kindBadge(f); kind != "" {
		says = append(says, kind)
	}
	if m.Found && !m.Doubt {
		says = append(says, string(f.Level()))
	}
	m.Badge = strings.Join(says, ", ")
	if f.Tooltip == "" && f.Placed() {
		m.Wrong = "no tooltip"
	}
	return m
}

// kindBadge is what a field asks for, in a word or two.
func kindBadge(f *form.Field) string {
	switch {
	case f.Formula != "":
		return "calculated"
	case f.Format.Kind == form.Date:
		return "date, " + f.Format.Pattern
	case f.Format.Kind != form.NoFormat:
		return formatBadges[f.Format.Kind]
	case f.Comb > 0:
		return strconv.Itoa(f.Comb) + " cells"
	case f.Multiline:
		return "several lines"
	case f.Kind == form.CheckBox:
		return "check box"
	case f.Kind == form.Radio && f.Export != "":
		return "radio: " + f.Export // the buttons of a group have one name
	case f.Kind == form.Radio:
		return "radio button"
	case f.Kind == form.Choice:
		return strconv.Itoa(len(f.Options)) + " to choose from"
	case f.Kind == form.Signature:
		return "signature"
	case f.MaxLen > 0:
		return "at most " + strconv.Itoa(f.MaxLen)
	}
	return ""
}
