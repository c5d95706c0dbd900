package write

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"strings"

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
	same := true
	for k, v := range map[string]string{"Title": d.Title, "Author": d.Author, "Subject": d.Subject} {
		if b.Text(object.Entry(info, k)) == v {
			continue
		}
		same = false
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
		same = false
		if d.Language == "" {
			cat.Delete("Lang")
		} else {
			cat.Update("Lang", object.Str(d.Language))
		}
	}
	if same {
		return nil
	}
	return b.writeDetails(info, cat, d)
}

func xmpPacket(d form.Details) []byte {
	var b strings.Builder
	b.WriteString("<?xpacket begin=\"\ufeff\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n<x:xmpmeta xmlns:x=\"adobe:ns:meta/\"><rdf:RDF " +
		"xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\"><rdf:Description rdf:about=\"\" " +
		"xmlns:dc=\"http://purl.org/dc/elements/1.1/\">")
	alt := func(tag, v string) {
		if v != "" {
			fmt.Fprintf(&b, "<dc:%s><rdf:Alt><rdf:li xml:lang=\"x-default\">%s</rdf:li></rdf:Alt></dc:%s>", tag, xmlText(v), tag)
		}
	}
	alt("title", d.Title)
	alt("description", d.Subject)
	if d.Author != "" {
		fmt.Fprintf(&b, "<dc:creator><rdf:Seq><rdf:li>%s</rdf:li></rdf:Seq></dc:creator>", xmlText(d.Author))
	}
	if d.Language != "" {
		fmt.Fprintf(&b, "<dc:language><rdf:Bag><rdf:li>%s</rdf:li></rdf:Bag></dc:language>", xmlText(d.Language))
	}
	b.WriteString("</rdf:Description></rdf:RDF></x:xmpmeta>\n<?xpacket end=\"w\"?>")
	return []byte(b.String())
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

func (b *Builder) writeDetails(info, cat types.Dict, d form.Details) error {
	if b.Ctx.Info != nil {
		b.Touch(*b.Ctx.Info)
	}
	info.Delete("ModDate")
	if d.Title != "" {
		prefs := types.Dict{}
		for k, v := range b.Dict(object.Entry(cat, "ViewerPreferences")) {
			prefs[k] = v
		}
		prefs["DisplayDocTitle"] = types.Boolean(true)
		cat.Update("ViewerPreferences", prefs)
	}
	sd, err := b.Ctx.NewStreamDictForBuf(xmpPacket(d))
	if err != nil {
		return err
	}
	sd.Update("Type", types.Name("Metadata"))
	sd.Update("Subtype", types.Name("XML"))
	if err := sd.Encode(); err != nil {
		return err
	}
	ref, err := b.Add(*sd)
	if err != nil {
		return err
	}
	cat.Update("Metadata", ref)
	return b.TouchCatalog()
}

func xmlText(s string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(s))
	return b.String()
}
