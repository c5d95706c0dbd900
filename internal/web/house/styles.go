package house

import (
	"errors"
	"fmt"
	"html/template"
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
	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/frame"
	"zealousmargin.example/internal/web/markup"
	"zealousmargin.example/internal/web/notes"
)

// styleView is the page of the house style and of the favourites.
type styleView struct {
	frame.Shell
	Kinds      []kindStyle
	Favourites []store.Favourite
}

// kindStyle is the house style of one kind of field as sentences.
type kindStyle struct {
	Kind          form.Kind
	Name          string
	Width, Height string
	Special, Rest template.HTML // what differs from the plain default, and the rest, which folds
}

// ofKind names the kinds of field in the plural.
var ofKind = map[form.Kind]string{
	form.Text: "Text fields", form.CheckBox: "Check boxes", form.Radio: "Radio buttons", form.Choice: "Dropdowns and lists",
	form.Signature: "Signature fields", form.Button: "Buttons",
}

func describeStyle(k form.Kind, house form.House) kindStyle {
	f := form.Field{Kind: k}
	house.Dress(&f)
	w, h := house.Size(k)
	pt := func(v float64) string { return strconv.FormatFloat(geom.Round(v), 'f', -1, 64) }
	out := kindStyle{Kind: k, Name: ofKind[k], Width: pt(w), Height: pt(h)}
	var all notes.Group
	for _, g := range notes.Groups("style-"+string(k), []form.Field{f}) {
		other := func(s markup.Saying) bool { return !s.Style }
		all.Say = append(all.Say, slices.DeleteFunc(g.Say, other)...)
		all.Usual = append(all.Usual, slices.DeleteFunc(g.Usual, other)...)
	}
	var special markup.Builder
	special.Text(" ")
	out.Special = special.Sentences(all.Say).HTML()
	var rest markup.Builder
	out.Rest = rest.Open("details", "class", "more").Element("summary", "all else as usual").Open("div", "class", "s").Sentences(all.Usual).
		Close("div", "details").HTML()
	return out
}

func HouseStyle(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	house, err := s.Store.House(ctx)
	if err != nil {
		return err
	}
	kept, err := s.Store.Favourites(ctx)
	if err != nil {
		return err
	}
	v := styleView{Shell: s.Shell(c, "House style", "style"), Favourites: kept}
	for _, k := range form.Kinds {
		v.Kinds = append(v.Kinds, describeStyle(k, house))
	}
	return s.Render(c, http.StatusOK, "housestyle", "page", v)
}

// SetHouseStyle changes one property of the house style of a kind of field.
func SetHouseStyle(s *frame.Frame, c *echo.Context) error {
	k := form.Kind(c.Param("kind"))
	if !slices.Contains(form.Kinds, k) {
		return store.ErrMissing
	}
	ctx := c.Request().Context()
	house, err := s.Store.House(ctx)
	if err != nil {
		return err
	}
	h, value := house[k], strings.TrimSpace(c.FormValue("value"))
	switch key := c.FormValue("key"); key {
	case "width", "height":
		v, err := form.ReadLength(value, "pt")
		if err != nil {
			return frame.Refuse(err)
		}
		if key == "width" {
			h.Width = v
		} else {
			h.Height = v
		}
	default:
		p, ok := form.PropertyOf(form.FieldProperties, key)
		if !ok || !p.Style || !p.Has(k) {
			return frame.Refuse(fmt.Errorf("%q is not part of a style", key))
		}
		f := form.Field{Kind: k}
		h.Dress(&f)
		if err := p.Set(&f, value); err != nil {
			return frame.Refuse(err)
		}
		h.Style = form.StyleOf(f)
	}
	if err := h.Check(k); err != nil {
		return frame.Refuse(err)
	}
	if err := s.Store.SetHouse(ctx, k, h, frame.Account(c).ID); err != nil {
		return err
	}
	house[k] = h
	return s.Render(c, http.StatusOK, "housestyle", "kind", describeStyle(k, house))
}

// KeepStyle keeps the style of a field as a favourite, or makes it the house style.
func KeepStyle(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
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
	may, err := s.May(c)
	if err != nil {
		return err
	}
	if c.FormValue("as") == "house" && !may.Administer {
		return frame.RefuseAs(http.StatusForbidden, errors.New("only an administrator sets the house style: keep it as a favourite"))
	}
	if c.FormValue("as") == "house" {
		p := d.Template.Pages[f.Page-1]
		w, h := f.Rect.W(), f.Rect.H()
		if p.Rotate%180 != 0 {
			w, h = h, w
		}
		if err := s.Store.SetHouse(ctx, f.Kind, form.HouseStyle{Style: form.StyleOf(f), Width: w, Height: h},
			frame.Account(c).ID); err != nil {
			return err
		}
		said = "New " + strings.ToLower(ofKind[f.Kind]) + " look like this one from now on."
	} else {
		name := strings.TrimSpace(c.FormValue("name"))
		if name == "" || len(name) > 60 {
			return frame.Refuse(errors.New("type a name for the style first, of at most 60 letters"))
		}
		if err := s.Store.KeepFavourite(ctx, name, form.StyleOf(f), frame.Account(c).ID); err != nil {
			return err
		}
		said = "Kept as " + name + ". Other fields can be given it now."
	}
	c.Response().Header().Set("HX-Trigger", fmt.Sprintf(`{"zm:say":{"text":%s}}`, strconv.QuoteToASCII(said)))
	return bench.Again(s, c, id, nil)
}

func DropFavourite(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	if err := s.Store.DropFavourite(c.Request().Context(), id); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/house-style")
}

// MaxPicture is how large a picture of a button may be, in bytes.
const MaxPicture = 4 << 20

// MaxCSV is how large a list of house words may be, in bytes.
const MaxCSV = 2 << 20

// TakePicture gives a button the picture that was sent.
func TakePicture(s *frame.Frame, c *echo.Context) error {
	id, err := frame.IdOf(c)
	if err != nil {
		return err
	}
	fh, err := c.FormFile("picture")
	if err != nil {
		return frame.Refuse(errors.New("choose a picture first"))
	}
	file, err := fh.Open()
	if err != nil {
		return err
	}
	defer file.Close()
	b, err := object.Read(file, MaxPicture)
	if err != nil {
		return frame.Refuse(fmt.Errorf("the picture is larger than %d MB: make it smaller", MaxPicture>>20))
	}
	if err := write.CheckPicture(b); err != nil {
		return frame.Refuse(err)
	}
	ctx := c.Request().Context()
	sha, err := s.Store.KeepFile(ctx, b)
	if err != nil {
		return err
	}
	base, err := strconv.ParseInt(c.FormValue("base"), 10, 64)
	if err != nil {
		return frame.Refuse(errors.New("this page is out of date: load it again"))
	}
	_, err = s.CarryOut(ctx, id, base, frame.Account(c).ID, frame.StageOf(c), false, func(*form.Template) ([]command.Command, error) {
		return []command.Command{command.Set{Fields: frame.Chosen(c), Key: "picture", Value: command.Words(sha)}}, nil
	})
	if err != nil && !errors.Is(err, form.ErrNothing) {
		return frame.Refuse(err)
	}
	return bench.Again(s, c, id, nil)
}

// ButtonPicture shows the picture of a button of the document.
func ButtonPicture(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	if !slices.Contains(d.Template.PicturesUsed(), c.Param("sha")) {
		return store.ErrMissing
	}
	b, err := s.Store.File(ctx, c.Param("sha"))
	if err != nil {
		return err
	}
	if err := write.CheckPicture(b); err != nil {
		return store.ErrMissing
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=86400, immutable")
	return c.Blob(http.StatusOK, http.DetectContentType(b), b)
}
