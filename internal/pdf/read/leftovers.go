package read

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/pdf/object"
)

// Comments are the annotations that people leave on a page (ISO 32000-2, table 171).
var Comments = strings.Fields("Text FreeText Line Square Circle Polygon PolyLine Highlight Underline Squiggly Strikeout StrikeOut " +
	"Caret Stamp Ink Popup Sound Redact")

func ShortList(names []string, n int) string {
	if len(names) > n {
		return strings.Join(names[:n], ", ") + fmt.Sprintf(" and %d more", len(names)-n)
	}
	return strings.Join(names, ", ")
}

// What a release can leave behind.
const (
	LeaveMetadata    = "metadata"
	LeaveAttachments = "attachments"
	LeaveComments    = "comments"
	LeaveRevisions   = "revisions"
	LeaveActions     = "actions"
)

// Leftover is something in a file that no page shows at first sight.
type Leftover struct {
	Key  string // one of the Leave constants
	What string // in words: "2 attachments: prices.xlsx, notes.txt"
}

func LeaveSet(s string) map[string]bool {
	out := map[string]bool{}
	for k := range strings.SplitSeq(s, ",") {
		if k != "" {
			out[k] = true
		}
	}
	return out
}

// Leftovers lists what a file carries beside its pages: metadata, attachments,
// comments and earlier revisions.
func Leftovers(b []byte) (_ []Leftover, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(b)
	if err != nil {
		return nil, err
	}
	cat, err := f.Catalog()
	if err != nil {
		return nil, err
	}
	var out []Leftover
	if what := metadata(f, cat.HasEntry("Metadata")); what != "" {
		out = append(out, Leftover{LeaveMetadata, what})
	}
	if names := attachments(f); len(names) > 0 {
		out = append(out, Leftover{
			LeaveAttachments,
			fmt.Sprintf("%s: %s", count(len(names), "attachment", "attachments"), ShortList(names, 6)),
		})
	}
	if acts := Actions(f); len(acts) > 0 {
		said := strings.Join(acts[:min(len(acts), 8)], "; ") + more(len(acts)-8)
		out = append(out, Leftover{LeaveActions, "what the file does by itself: " + said})
	}
	n := 0
	for _, p := range f.Pages {
		for _, o := range f.Array(object.Entry(p.Dict, "Annots")) {
			if kind := f.Name(object.Entry(f.Dict(o), "Subtype")); kind != "Popup" && slices.Contains(Comments, kind) {
				n++
			}
		}
	}
	if n > 0 {
		out = append(out, Leftover{LeaveComments, count(n, "comment on the pages", "comments on the pages")})
	}
	if n := revisions(b); n > 1 {
		out = append(out, Leftover{LeaveRevisions, count(n-1, "earlier revision of the file", "earlier revisions of the file")})
	}
	return out, nil
}

func more(n int) string {
	if n > 0 {
		return fmt.Sprintf("; and %d more", n)
	}
	return ""
}

// LeftUnasked are the leftovers of a stranger's file that a release leaves behind unless somebody keeps them: what could harm whoever
// opens the form.
func LeftUnasked(list []Leftover) string {
	var out []string
	for _, l := range list {
		if l.Key == LeaveActions || l.Key == LeaveAttachments {
			out = append(out, l.Key)
		}
	}
	slices.Sort(out)
	return strings.Join(out, ",")
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// metadata says who and what made the file, as far as it tells.
func metadata(f *object.File, xmp bool) string {
	var parts []string
	if f.Ctx.Info != nil {
		d := f.Dict(*f.Ctx.Info)
		for _, k := range []string{"Author", "Creator", "Producer", "Keywords"} {
			if s := strings.TrimSpace(f.Text(object.Entry(d, k))); s != "" {
				parts = append(parts, strings.ToLower(k)+" “"+s+"”")
			}
		}
	}
	if xmp {
		parts = append(parts, "an XMP packet")
	}
	if len(parts) == 0 {
		return ""
	}
	return "metadata: " + strings.Join(parts, ", ")
}

// attachments lists the names of embedded files: of the name tree (ISO 32000-2,
// 7.7.4) and of file attachment annotations.
func attachments(f *object.File) []string {
	cat, err := f.Catalog()
	if err != nil {
		return nil
	}
	var out []string
	seen := 0
	var walk func(o types.Object, depth int)
	walk = func(o types.Object, depth int) {
		node := f.Dict(o)
		if node == nil || depth > 16 || seen > 1000 {
			return
		}
		seen++
		list := f.Array(object.Entry(node, "Names"))
		for i := 1; i < len(list); i += 2 {
			spec := f.Dict(list[i])
			name := f.Text(object.Entry(spec, "UF"))
			if name == "" {
				name = f.Text(object.Entry(spec, "F"))
			}
			if name == "" {
				name = f.Text(list[i-1])
			}
			out = append(out, name)
		}
		for _, k := range f.Array(object.Entry(node, "Kids")) {
			walk(k, depth+1)
		}
	}
	walk(object.Entry(f.Dict(object.Entry(cat, "Names")), "EmbeddedFiles"), 0)
	for _, p := range f.Pages {
		for _, o := range f.Array(object.Entry(p.Dict, "Annots")) {
			d := f.Dict(o)
			if f.Name(object.Entry(d, "Subtype")) == "FileAttachment" {
				out = append(out, f.Text(object.Entry(f.Dict(object.Entry(d, "FS")), "F")))
			}
		}
	}
	return out
}

// revisions counts the cross-reference sections that end a revision of the file
// (ISO 32000-2, 7.5.6); a linearised file has one section more than revisions.
func revisions(b []byte) int {
	n := bytes.Count(b, []byte("startxref"))
	if bytes.Contains(b[:min(len(b), 2048)], []byte("/Linearized")) {
		n--
	}
	return n
}
