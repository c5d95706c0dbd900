package write

import (
	"bytes"
	"encoding/xml"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// details writes what readers show about the document: the information dictionary
// (ISO 32000-2, 14.3.3), the language (14.9.2), the title in the window (12.2), and
// an XMP packet that says the same (14.3.2), which readers prefer.
func (b *Builder) details(d form.Details) error {
	d.Leave, d.Events = "", nil // the events are written with the scripts
	if d.Equal(form.Details{}) {
		return nil
	}
	info := b.info()
	var changed []string
	for k, v := range map[string]string{"Title": d.Title, "Author": d.Author, "Subject": d.Subject} {
		if b.Text(object.Entry(info, k)) == v {
			continue
		}
		changed = append(changed, k)
		if v == "" {
			info.Delete(k)
		} else {
			info.Update(k, object.Str(v))
		}
	}
	cat, err := b.Catalog()
	if err != nil {
		return err
	}
	if b.Text(object.Entry(cat, "Lang")) != d.Language {
		changed = append(changed, "Lang")
		if d.Language == "" {
			cat.Delete("Lang")
		} else {
			cat.Update("Lang", object.Str(d.Language))
		}
	}
	if d.Title != "" {
		if err := b.showTitle(cat); err != nil {
			return err
		}
	}
	if len(changed) == 0 {
		return nil
	}
	slices.Sort(changed)
	if b.Ctx.Info != nil {
		b.Touch(*b.Ctx.Info)
	}
	info.Delete("ModDate")
	return b.metadata(cat, d, changed)
}

// info is the information dictionary, made when there is none.
func (b *Builder) info() types.Dict {
	if b.Ctx.Info != nil {
		if d := b.Dict(*b.Ctx.Info); d != nil {
			return d
		}
	}
	d := types.Dict{}
	if ref, err := b.Add(d); err == nil {
		b.Ctx.Info = &ref
	}
	return d
}

// showTitle lets readers show the title in the window instead of the name of the file (ISO 32000-2, 12.2).
func (b *Builder) showTitle(cat types.Dict) error {
	prefs := types.Dict{}
	for k, v := range b.Dict(object.Entry(cat, "ViewerPreferences")) {
		prefs[k] = v
	}
	if on, _ := prefs["DisplayDocTitle"].(types.Boolean); bool(on) {
		return nil
	}
	prefs["DisplayDocTitle"] = types.Boolean(true)
	cat.Update("ViewerPreferences", prefs)
	return b.TouchCatalog()
}

func xmlText(s string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(s))
	return b.String()
}
