package web

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zealousmargin.example/internal/form"
)

// set changes one property of fields; the key is the name of the blank in the note.
func set(t *form.Template, ids []string, key, value, unit string) (form.Edit, error) {
	if len(ids) == 0 {
		return form.Edit{}, errors.New("choose a field first")
	}
	who := strconv.Itoa(len(ids)) + " fields"
	if f, ok := t.Field(ids[0]); ok && len(ids) == 1 {
		who = f.Name
	}
	value = strings.TrimSpace(value)
	yes := value == "yes"
	switch key {
	case "name":
		if len(ids) != 1 {
			return form.Edit{}, errors.New("give one field a name at a time")
		}
		e, err := t.Rename(ids[0], value)
		return follow(t, e, err)
	case "tooltip":
		return t.Set("changed the tooltip of "+who, ids, func(f *form.Field) error { f.Tooltip = value; return nil })
	case "required":
		return t.Set(map[bool]string{true: "made " + who + " required", false: "made " + who + " optional"}[yes], ids, func(f *form.Field) error { f.Required = yes; return nil })
	case "readonly":
		return t.Set(map[bool]string{true: "made " + who + " read-only", false: "made " + who + " fillable"}[yes], ids, func(f *form.Field) error { f.ReadOnly = yes; return nil })
	case "multiline":
		return t.Set("changed the lines of "+who, ids, func(f *form.Field) error {
			f.Multiline = yes
			if yes {
				f.Comb = 0
			}
			return nil
		})
	case "maxlen":
		n, err := strconv.Atoi(cmp.Or(value, "0"))
		if err != nil {
			return form.Edit{}, fmt.Errorf("%q is not a number of signs: type a whole number, 0 for no limit", value)
		}
		return t.Set("changed the length of "+who, ids, func(f *form.Field) error {
			f.MaxLen = n
			if f.Comb > 0 {
				f.Comb = n
			}
			return nil
		})
	case "options":
		return t.Set("changed the list of "+who, ids, func(f *form.Field) error {
			f.Options = optionsFrom(value)
			f.SortOptions(alphabet())
			return nil
		})
	case "ready":
		options, err := readyList(value)
		if err != nil {
			return form.Edit{}, err
		}
		return t.Set("changed the list of "+who, ids, func(f *form.Field) error { f.Options = options; return nil })
	case "export":
		return t.Set("changed the value of "+who, ids, func(f *form.Field) error { f.Export = value; return nil })
	case "format", "pattern", "decimals", "style", "message", "ungrouped", "brackets", "currency", "after":
		return setFormat(t, ids, who, key, value)
	case "caption":
		return t.Set("changed the caption of "+who, ids, func(f *form.Field) error { f.Caption = value; return nil })
	case "deed":
		return t.Set("changed what "+who+" does", ids, func(f *form.Field) error {
			f.Action.Do = form.Deed(value)
			if f.Action.Do == form.TakePicture && f.Face.Picture == "" {
				f.Face.Layout = form.PictureOnly
			}
			if f.Action.Do != form.SubmitForm {
				f.Action.URL = ""
			} else if f.Action.URL == "" {
				f.Action.URL = "https://"
			}
			return nil
		})
	case "nopicture":
		return t.Set("took the picture from "+who, ids, func(f *form.Field) error {
			if f.Face.Picture = ""; f.Action.Do != form.TakePicture {
				f.Face.Layout = form.CaptionOnly
			}
			return nil
		})
	case "url":
		return t.Set("changed where "+who+" sends", ids, func(f *form.Field) error { f.Action.URL = value; return nil })
	case "left", "top", "width", "height":
		return setPlace(t, ids, who, key, value, unit)
	case "kind":
		return t.Set("changed the kind of "+who, ids, func(f *form.Field) error { return changeKind(f, value) })
	}
	if strings.HasPrefix(key, "step:") {
		return setStep(t, ids, who, key, value)
	}
	if strings.HasPrefix(key, "check:") || key == "formula" || key == "showif" || key == "requireif" {
		return setRule(t, ids, who, key, value)
	}
	if p, ok := propertyOf(key); ok {
		return t.Set("changed "+p.Title+" "+who, ids, func(f *form.Field) error {
			if !slices.Contains(p.Kinds, f.Kind) {
				return nil // of several fields, those that have it
			}
			return p.Set(f, value)
		})
	}
	return form.Edit{}, fmt.Errorf("%q cannot be set", key)
}

// changeKind turns a field into another kind, and drops what the new one cannot have.
func changeKind(f *form.Field, to string) error {
	switch to {
	case "text", "lines", "password", "file":
		f.Kind, f.Multiline = form.Text, to == "lines"
		if to != "text" {
			f.Comb = 0
		}
		f.Password, f.FilePath = to == "password", to == "file"
	case "choice", "combo", "list", "many":
		f.Kind, f.List = form.Choice, map[string]form.ListStyle{"combo": form.ComboBox, "list": form.ListBox, "many": form.ManyList}[to]
		f.Multiline, f.Comb, f.MaxLen, f.Format = false, 0, 0, form.Format{}
	case "picture":
		f.Kind = form.Button
		f.Action, f.Face.Layout, f.Caption = form.Action{Do: form.TakePicture}, form.PictureOnly, cmp.Or(f.Caption, "Press to choose a picture")
		f.Multiline, f.Comb, f.MaxLen, f.Format = false, 0, 0, form.Format{}
	case "checkbox", "signature", "button", "radio":
		if f.Action.Do == form.TakePicture { // a picture field becomes something else
			f.Action, f.Face.Layout = form.Action{}, form.CaptionOnly
		}
		f.Kind = form.Kind(to)
		f.Multiline, f.Comb, f.MaxLen, f.Format = false, 0, 0, form.Format{}
	default:
		return fmt.Errorf("%q is not a kind of field here", to)
	}
	if f.Kind == form.Button {
		f.Caption = cmp.Or(f.Caption, "Button")
	} else {
		f.Caption, f.Action, f.Face = "", form.Action{}, form.Face{}
		f.Steps = slices.DeleteFunc(f.Steps, func(s form.Step) bool { return s.When == form.WhenPressed })
	}
	if f.Kind != form.Choice {
		f.Options, f.List, f.Sort, f.BlankFirst = nil, form.Dropdown, false, false
	}
	if f.Kind != form.Text {
		f.Password, f.FilePath, f.NoScroll = false, false, false
	}
	if f.Kind != form.Text && f.Kind != form.Choice {
		f.NoSpell, f.Hint, f.Checks = false, "", nil
	}
	if f.Kind != form.Text {
		f.Formula = ""
	}
	if f.Kind == form.Button {
		f.RequireIf = ""
	}
	if f.Kind != form.CheckBox && f.Kind != form.Radio {
		f.Export, f.Mark = "", ""
	}
	f.Unison = f.Unison && f.Kind == form.Radio
	return nil
}
