package pdf

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// What a release can leave behind.
const (
	LeaveMetadata    = "metadata"
	LeaveAttachments = "attachments"
	LeaveComments    = "comments"
	LeaveRevisions   = "revisions"
)

// Leftover is something in a file that no page shows at first sight.
type Leftover struct {
	Key  string // one of the Leave constants
	What string // in words: "2 attachments: prices.xlsx, notes.txt"
}

func leaveSet(s string) map[string]bool {
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
func Leftovers(b []byte) ([]Leftover, error) {
	f, err := parse(b)
	if err != nil {
		return nil, err
	}
	cat, err := f.catalog()
	if err != nil {
		return nil, err
	}
	var out []Leftover
	if what := f.metadata(cat.HasEntry("Metadata")); what != "" {
		out = append(out, Leftover{LeaveMetadata, what})
	}
	if names := f.attachments(); len(names) > 0 {
		out = append(out, Leftover{LeaveAttachments, fmt.Sprintf("%s: %s", count(len(names), "attachment", "attachments"), shortList(names, 6))})
	}
	n := 0
	for _, p := range f.pages {
		for _, o := range f.array(entry(p.dict, "Annots")) {
			if kind := f.name(entry(f.dict(o), "Subtype")); kind != "Popup" && slices.Contains(comments, kind) {
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

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// metadata says who and what made the file, as far as it tells.
func (f *file) metadata(xmp bool) string {
	var parts []string
	if f.ctx.Info != nil {
		d := f.dict(*f.ctx.Info)
		for _, k := range []string{"Author", "Creator", "Producer", "Keywords"} {
			if s := strings.TrimSpace(f.text(entry(d, k))); s != "" {
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
func (f *file) attachments() []string {
	cat, err := f.catalog()
	if err != nil {
		return nil
	}
	var out []string
	seen := 0
	var walk func(o types.Object, depth int)
	walk = func(o types.Object, depth int) {
		node := f.dict(o)
		if node == nil || depth > 16 || seen > 1000 {
			return
		}
		seen++
		list := f.array(entry(node, "Names"))
		for i := 1; i < len(list); i += 2 {
			spec := f.dict(list[i])
			name := f.text(entry(spec, "UF"))
			if name == "" {
				name = f.text(entry(spec, "F"))
			}
			if name == "" {
				name = f.text(list[i-1])
			}
			out = append(out, name)
		}
		for _, k := range f.array(entry(node, "Kids")) {
			walk(k, depth+1)
		}
	}
	walk(entry(f.dict(entry(cat, "Names")), "EmbeddedFiles"), 0)
	for _, p := range f.pages {
		for _, o := range f.array(entry(p.dict, "Annots")) {
			d := f.dict(o)
			if f.name(entry(d, "Subtype")) == "FileAttachment" {
				out = append(out, f.text(entry(f.dict(entry(d, "FS")), "F")))
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
