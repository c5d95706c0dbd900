package look

import (
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// Flags is the field flags /Ff that a field is written with.
func Flags(x form.Field) int {
	n := 0
	set := func(on bool, flag int) {
		if on {
			n |= flag
		}
	}
	for i := range form.FieldProperties {
		p := &form.FieldProperties[i]
		if bit, ok := object.FieldFlags[p.Key]; ok {
			set(p.Has(x.Kind) && p.Get(&x) == form.YesNo(true), bit)
		}
	}
	switch x.Kind {
	case form.Text:
		set(x.Comb > 0, object.FlagComb|object.FlagDoNotScroll)
	case form.Radio:
		n |= object.FlagRadio | object.FlagNoToggleToOff
	case form.Button:
		n |= object.FlagPushbutton
	case form.Choice:
		set(x.List == form.Dropdown || x.List == form.ComboBox, object.FlagCombo)
		set(x.List == form.ComboBox, object.FlagEdit)
		set(x.List == form.ManyList, object.FlagMultiSelect)
	}
	return n
}

// AnnotFlags are the annotation flags of a field (ISO 32000-2, table 167).
func AnnotFlags(x form.Field) int {
	n := map[form.Show]int{
		form.ShowBoth: object.AnnotPrint, form.ShowScreen: 0, form.ShowPrint: object.AnnotPrint | object.AnnotNoView,
		form.ShowNone: object.AnnotHidden,
	}[x.Shows()]
	if x.Locked {
		n |= object.AnnotLocked
	}
	return n
}
