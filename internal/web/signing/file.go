package signing

import (
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

type fileView struct {
	frame.Shell
	Edition *store.Edition
	Places  []string // to sign in, of an edition
	Kept    []store.Certificate
	Stamps  bool
	Problem string
	Field   string
	Reason  string
	Place   string
}

// SignFile asks for a file, or takes an edition, to be signed with a certificate.
func SignFile(s *frame.Frame, c *echo.Context) error { return filePage(s, c, http.StatusOK, "") }

func filePage(s *frame.Frame, c *echo.Context, code int, problem string) error {
	ctx := c.Request().Context()
	v := fileView{
		Shell: s.Shell(c, "Sign a file", "signed"), Problem: problem, Stamps: len(s.Store.Key) > 0, Field: c.FormValue("field"),
		Reason: c.FormValue("reason"), Place: c.FormValue("place"),
	}
	var err error
	if v.May.Release { // the office's own are for those who may let things out
		if v.Kept, err = s.Store.Certificates(ctx); err != nil {
			return err
		}
		v.Kept = slices.DeleteFunc(v.Kept, func(c store.Certificate) bool { return !c.Good(time.Now()) })
	}
	if id := int64(frame.Number(c.FormValue("edition"), 0)); id != 0 {
		e, err := s.Store.Edition(ctx, id)
		if err != nil {
			return err
		}
		b, err := s.Store.File(ctx, e.File)
		if err != nil {
			return err
		}
		v.Edition = &e
		if v.Places, err = open(b); err != nil {
			return err
		}
	}
	return s.Render(c, code, "signfile", "page", v)
}

// open lists the places of a file that are there to be signed in.
func open(b []byte) ([]string, error) {
	ws, err := read.Widgets(b)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, w := range ws {
		if w.Kind == form.Signature && w.Value == "" {
			out = append(out, w.Name)
		}
	}
	return out, nil
}

// PutCertificate signs a file and gives it back; nothing of it is kept.
func PutCertificate(s *frame.Frame, c *echo.Context) error {
	name, b, err := certified(s, c)
	switch {
	case store.Said(err), errors.Is(err, store.ErrMissing):
		return err
	case err != nil:
		return filePage(s, c, http.StatusUnprocessableEntity, frame.Sentence(err.Error()))
	}
	s.Noted(c.Request().Context(), frame.Account(c).ID, store.DeedCertified, name)
	return frame.Download(c, strings.TrimSuffix(name, ".pdf")+"-signed.pdf", "application/pdf", b)
}

// part reads a file of a request; none is no file.
func part(c *echo.Context, key string, most int64, large string) (string, []byte, error) {
	in, err := c.FormFile(key)
	if errors.Is(err, http.ErrMissingFile) {
		return "", nil, nil
	}
	var f multipart.File
	if err == nil {
		f, err = in.Open()
	}
	if err != nil {
		return "", nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, most+1))
	if int64(len(b)) > most {
		return "", nil, errors.New(large)
	}
	return in.Filename, b, err
}

func certified(s *frame.Frame, c *echo.Context) (name string, out []byte, err error) {
	ctx := c.Request().Context()
	var src []byte
	if id := int64(frame.Number(c.FormValue("edition"), 0)); id != 0 {
		e, err := s.Store.Edition(ctx, id)
		if err != nil {
			return "", nil, err
		}
		if name = e.FileName; e.Locked != "" {
			return "", nil, errors.New("this edition is locked, so nothing can be written into it: choose one that is not")
		}
		if src, err = s.Store.File(ctx, e.File); err != nil {
			return "", nil, err
		}
	} else {
		large := fmt.Sprintf("the file is larger than %d MB: sign it on the command line", MaxSent>>20)
		if name, src, err = part(c, "file", MaxSent, large); err != nil {
			return "", nil, err
		}
		if len(src) == 0 {
			return "", nil, errors.New("choose a PDF file first")
		}
		if _, err := read.Check(ctx, src); err != nil { // in a process of its own, with limits
			return "", nil, err
		}
	}
	o := sign.Options{
		Field: strings.TrimSpace(c.FormValue("field")), At: time.Now(), Reason: strings.Join(strings.Fields(c.FormValue("reason")), " "),
		Place: strings.Join(strings.Fields(c.FormValue("place")), " "), All: c.FormValue("lock") == "all",
	}
	for what, v := range map[string]string{"the reason": o.Reason, "the place": o.Place} {
		if err := form.CheckLine(what, v, 200); err != nil {
			return "", nil, err
		}
	}
	free, err := open(src)
	switch {
	case err != nil:
		return "", nil, err
	case len(free) == 0:
		return "", nil, errors.New("nothing is left to sign in this file: it needs a signature field that is not signed yet")
	case o.Field == "":
		o.Field = free[0]
	}
	var known bool
	ways := map[string]sign.May{"": sign.NotCertified, "nothing": sign.Nothing, "fill": sign.Filling, "comment": sign.Commenting}
	if o.May, known = ways[c.FormValue("certify")]; !known {
		return "", nil, errors.New("say what may still change: nothing, answers and signatures, or comments too")
	}
	if _, o.Picture, err = part(c, "picture", 4<<20, "the picture is larger than 4 MB: make it smaller"); err != nil {
		return "", nil, err
	}
	if c.FormValue("stamp") != "" {
		a, err := Authority(ctx, s.Store)
		if err != nil {
			return "", nil, err
		}
		o.Stamp = func(signature []byte) ([]byte, error) { return a.Stamp(signature, time.Now()) }
	}
	who, err := identityOf(s, c)
	if err != nil {
		return "", nil, err
	}
	out, err = sign.Sign(src, who, o)
	return name, out, err
}

// identityOf is who signs: one of the office's kept identities, or that of a file.
func identityOf(s *frame.Frame, c *echo.Context) (sign.Identity, error) {
	if id := int64(frame.Number(c.FormValue("with"), 0)); id != 0 {
		may, err := s.May(c)
		if err != nil {
			return sign.Identity{}, err
		}
		if !may.Release {
			return sign.Identity{}, errors.New(
				"only those who may release forms sign with the office's certificates: choose one of your own",
			)
		}
		return kept(c.Request().Context(), s, id)
	}
	_, b, err := part(c, "certificate", MaxCertificate, "this file is too large to be a certificate: choose another")
	if err != nil {
		return sign.Identity{}, err
	}
	if len(b) == 0 {
		return sign.Identity{}, errors.New("choose a certificate: a PKCS#12 file, such as yours.p12")
	}
	return sign.FromPKCS12(b, c.FormValue("password"))
}
