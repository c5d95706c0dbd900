package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/command"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/markup"
	"zealousmargin.example/internal/web/notes"
)

// styleView is the page of the house style and of the favourites.
type styleView struct {
	shell
	Kinds      []kindStyle
	Favourites []store.Favourite
}

// kindStyle is the house style of one kind of field as sentences.
type kindStyle struct {
	Kind          form.Kind
	Name          string
	Width, Height string
	Groups        []notes.Group
}

// ofKind names the kinds of field in the plural.
var ofKind = map[form.Kind]string{
	form.Text: "Text fields", form.CheckBox: "Check boxes", form.Radio: "Radio buttons", form.Choice: "Dropdowns and lists", form.Signature: "Signature fields", form.Button: "Buttons",
}

func describeStyle(k form.Kind, house form.House) kindStyle {
	f := form.Field{Kind: k}
	house.Dress(&f)
	w, h := house.Size(k)
	pt := func(v float64) string { return strconv.FormatFloat(geom.Round(v), 'f', -1, 64) }
	out := kindStyle{Kind: k, Name: ofKind[k], Width: pt(w), Height: pt(h)}
	for _, g := range notes.Groups("style-"+string(k), []form.Field{f}) {
		g.Say = slices.DeleteFunc(g.Say, func(s markup.Saying) bool { return !s.Style })
		for i := range g.Say {
			if g.Say[i].Before == "" && i == 0 {
				g.Say[i].Before = "It is"
			}
		}
		if len(g.Say) > 0 {
			out.Groups = append(out.Groups, g)
		}
	}
	return out
}

func (s *Frame) houseStyle(c *echo.Context) error {
	ctx := c.Request().Context()
	house, err := s.store.House(ctx)
	if err != nil {
		return err
	}
	kept, err := s.store.Favourites(ctx)
	if err != nil {
		return err
	}
	v := styleView{shell: s.shell(c, "House style", "style"), Favourites: kept}
	for _, k := range form.Kinds {
		v.Kinds = append(v.Kinds, describeStyle(k, house))
	}
	return s.render(c, http.StatusOK, "housestyle", "page", v)
}

// setHouseStyle changes one property of the house style of a kind of field.
func (s *Frame) setHouseStyle(c *echo.Context) error {
	k := form.Kind(c.Param("kind"))
	if !slices.Contains(form.Kinds, k) {
		return store.ErrMissing
	}
	ctx := c.Request().Context()
	house, err := s.store.House(ctx)
	if err != nil {
		return err
	}
	h, value := house[k], strings.TrimSpace(c.FormValue("value"))
	switch key := c.FormValue("key"); key {
	case "width", "height":
		v, err := form.ReadLength(value, "pt")
		if err != nil {
			return refuse(err)
		}
		if key == "width" {
			h.Width = v
		} else {
			h.Height = v
		}
	default:
		p, ok := form.PropertyOf(form.FieldProperties, key)
		if !ok || !p.Style || !p.Has(k) {
			return refuse(fmt.Errorf("%q is not part of a style", key))
		}
		f := form.Field{Kind: k}
		h.Dress(&f)
		if err := p.Set(&f, value); err != nil {
			return refuse(err)
		}
		h.Style = form.StyleOf(f)
	}
	if err := h.Check(k); err != nil {
		return refuse(err)
	}
	if err := s.store.SetHouse(ctx, k, h, account(c).ID); err != nil {
		return err
	}
	house[k] = h
	return s.render(c, http.StatusOK, "housestyle", "kind", describeStyle(k, house))
}

// keepStyle keeps the style of a field as a favourite, or makes it the house style.
func (s *Frame) keepStyle(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	id := d.Document.ID
	f, ok := d.Template.Field(c.FormValue("field"))
	if !ok {
		return form.ErrClash
	}
	said := ""
	if c.FormValue("as") == "house" {
		p := d.Template.Pages[f.Page-1]
		w, h := f.Rect.W(), f.Rect.H()
		if p.Rotate%180 != 0 {
			w, h = h, w
		}
		if err := s.store.SetHouse(ctx, f.Kind, form.HouseStyle{Style: form.StyleOf(f), Width: w, Height: h}, account(c).ID); err != nil {
			return err
		}
		said = "New " + strings.ToLower(ofKind[f.Kind]) + " look like this one from now on."
	} else {
		name := strings.TrimSpace(c.FormValue("name"))
		if name == "" || len(name) > 60 {
			return refuse(errors.New("type a name for the style first, of at most 60 letters"))
		}
		if err := s.store.KeepFavourite(ctx, name, form.StyleOf(f), account(c).ID); err != nil {
			return err
		}
		said = "Kept as " + name + ". Other fields can be given it now."
	}
	c.Response().Header().Set("HX-Trigger", fmt.Sprintf(`{"zm:say":{"text":%s}}`, strconv.QuoteToASCII(said)))
	return s.benchAgain(c, id, nil)
}

func (s *Frame) dropFavourite(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	if err := s.store.DropFavourite(c.Request().Context(), id); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/house-style")
}

// maxPicture of a button, in bytes.
const maxButtonPicture = 4 << 20

// takePicture gives a button the picture that was sent.
func (s *Frame) takePicture(c *echo.Context) error {
	id, err := idOf(c)
	if err != nil {
		return err
	}
	fh, err := c.FormFile("picture")
	if err != nil {
		return refuse(errors.New("choose a picture first"))
	}
	file, err := fh.Open()
	if err != nil {
		return err
	}
	defer file.Close()
	b, err := object.Read(file, maxButtonPicture)
	if err != nil {
		return refuse(fmt.Errorf("the picture is larger than %d MB: make it smaller", maxButtonPicture>>20))
	}
	if err := write.CheckPicture(b); err != nil {
		return refuse(err)
	}
	ctx := c.Request().Context()
	sha, err := s.store.KeepFile(ctx, b)
	if err != nil {
		return err
	}
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return refuse(errors.New("this page is out of date: load it again"))
	}
	_, err = s.carryOut(ctx, id, base, account(c).ID, stageOf(c), false, func(*form.Template) ([]command.Command, error) {
		return []command.Command{command.Set{Fields: chosen(c), Key: "picture", Value: command.Words(sha)}}, nil
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return refuse(err)
	}
	return s.benchAgain(c, id, nil)
}

// buttonPicture shows the picture of a button of the document.
func (s *Frame) buttonPicture(c *echo.Context) error {
	d, err := s.draftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	if !slices.Contains(d.Template.PicturesUsed(), c.Param("sha")) {
		return store.ErrMissing
	}
	b, err := s.store.File(ctx, c.Param("sha"))
	if err != nil {
		return err
	}
	if err := write.CheckPicture(b); err != nil {
		return store.ErrMissing
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=86400, immutable")
	return c.Blob(http.StatusOK, http.DetectContentType(b), b)
}

// buttonPictures reads the pictures that a draft's buttons show.
func (s *Frame) buttonPictures(ctx context.Context, t *form.Template) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, sha := range t.PicturesUsed() {
		b, err := s.store.File(ctx, sha)
		if err != nil {
			return nil, err
		}
		out[sha] = b
	}
	return out, nil
}
