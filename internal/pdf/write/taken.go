package write

import (
	"fmt"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/look"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/read"
)

// PicturesIn puts pictures that recipients give into the buttons that take them, by name: PNG, JPEG, GIF or WebP, as large as they fit in
// proportion. It is an increment.
func PicturesIn(src []byte, pictures map[string][]byte) (_ []byte, err error) {
	defer object.Recovered(&err)
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ws, err := read.WidgetsOf(f)
	if err != nil {
		return nil, err
	}
	b := NewBuilder(f)
	if err := b.AcroForm(); err != nil {
		return nil, err
	}
	for name, picture := range pictures {
		found := false
		for _, w := range ws {
			if w.Name == name && w.Kind == form.Button {
				found = true
				if err := b.pictureIn(w, picture); err != nil {
					return nil, err
				}
			}
		}
		if !found {
			return nil, fmt.Errorf("there is no place for a picture called %q", name)
		}
	}
	if err := b.Finish(); err != nil {
		return nil, err
	}
	return f.Increment()
}

func (b *Builder) pictureIn(w read.Widget, picture []byte) error {
	ref, size, err := b.picture(picture)
	if err != nil {
		return err
	}
	l := b.looksOf(w)
	width, height := w.Rect.W(), w.Rect.H()
	if l.Rotate%180 != 0 {
		width, height = height, width
	}
	at := fitted(geom.R(1, 1, width-1, height-1), size.X, size.Y)
	var c strings.Builder
	c.WriteString(look.FrameContent(read.LookOf(b.Kit.File, w), width, height, false))
	fmt.Fprintf(&c, "q\n%s 0 0 %s %s %s cm\n/Im Do\nQ\n", object.Dec(at.W()), object.Dec(at.H()), object.Dec(at.X0), object.Dec(at.Y0))
	ap, err := look.AppearanceWith(b.Kit.File, c.String(), w.Rect, l, types.Dict{"XObject": types.Dict{"Im": ref}})
	if err != nil {
		return err
	}
	w.Dict.Update("AP", types.Dict{"N": ap})
	b.TouchWidget(w)
	return nil
}
