package signing

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/sign"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/roster"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// formOf is the form of an edition, with the sources that its fields have in the draft now.
func formOf(ctx context.Context, s *frame.Frame, edition, document int64) (form.Template, error) {
	t, err := s.Store.EditionForm(ctx, edition)
	if err != nil {
		return t, err
	}
	d, err := s.Store.Draft(ctx, document)
	if err != nil {
		return t, err
	}
	t, _ = roster.Overlaid(&t, &d.Template)
	return t, nil
}

// theirs are the names of the fields that a role fills in.
func theirs(t *form.Template, role string) []string {
	var out []string
	for _, f := range t.OfRole(role) {
		switch {
		case f.Kind == form.Signature,
			f.Kind == form.Button,
			f.ReadOnly,
			f.Formula != "",
			f.Source == form.FromSigner,
			f.Source == form.FromSigned:
		case !slices.Contains(out, f.Name):
			out = append(out, f.Name)
		}
	}
	return out
}

// places are the names of the fields that a role signs in.
func places(t *form.Template, role string) []string {
	var out []string
	for _, f := range t.OfRole(role) {
		if f.Kind == form.Signature && !slices.Contains(out, f.Name) {
			out = append(out, f.Name)
		}
	}
	return out
}

// only is a form in which only some fields are filled in by the office: those of a role that keep tells.
func only(t *form.Template, role string, keep func(form.Source) bool) *form.Template {
	names := map[string]bool{}
	for _, f := range t.OfRole(role) {
		names[f.ID] = true
	}
	out := *t
	out.Fields = slices.Clone(t.Fields)
	for i := range out.Fields {
		if f := &out.Fields[i]; !names[f.ID] || !keep(f.Source) {
			f.Source = form.NoSource
		}
	}
	return &out
}

func atSigning(s form.Source) bool { return s == form.FromSigner || s == form.FromSigned }

// readied is a form made ready for a role whose turn it is: what the office knows is filled in, and only their fields can be changed.
func readied(src []byte, t *form.Template, role string, who roster.Person, with roster.With) ([]byte, error) {
	prepared, err := fill.Prepare(src)
	if err != nil {
		return nil, err
	}
	made := prepared.For(only(t, role, func(s form.Source) bool { return !atSigning(s) }), who, with, false)
	if made.PDF == nil {
		return nil, fmt.Errorf("the form cannot be filled in: %w", made.Trouble[0].Err)
	}
	return fill.Turn(made.PDF, theirs(t, role))
}

// empty lists the fields of a role that must be filled in and are not.
func empty(pdf []byte, t *form.Template, role string) ([]string, error) {
	said, err := fill.Answers(pdf)
	if err != nil {
		return nil, err
	}
	names := theirs(t, role)
	var out []string
	for _, f := range t.OfRole(role) {
		if f.Required && slices.Contains(names, f.Name) && (said[f.Name] == nil || said[f.Name] == "") && !slices.Contains(out, f.Name) {
			out = append(out, f.Name)
		}
	}
	return out, nil
}

// taken puts the answers of a file that somebody has sent back into the form, those of their own fields: nothing else of the file is used.
func taken(src, sent []byte, t *form.Template, role string) ([]byte, error) {
	said, err := fill.Answers(sent)
	if err != nil {
		return nil, err
	}
	own := map[string]any{}
	found := false
	for _, name := range theirs(t, role) {
		if v, there := said[name]; there {
			own[name], found = v, true
		}
	}
	if !found {
		return nil, errors.New("this is not the form that you were given: choose the file that you have filled in and saved")
	}
	return fill.With(src, own, fill.Options{})
}

// signed is a form with somebody's signature in it, and their name and the day where the form asks for them.
func signed(src []byte, t *form.Template, w *store.Signer, m write.Mark, at time.Time) ([]byte, error) {
	values, _ := roster.Values(only(t, w.Role, atSigning), roster.Person{}, roster.With{Signer: m.Name, Signed: at})
	if len(values) > 0 {
		answers := map[string]any{}
		for k, v := range values {
			answers[k] = v
		}
		var err error
		if src, err = fill.With(src, answers, fill.Options{Now: at, Force: true}); err != nil {
			return nil, err
		}
	}
	fields := places(t, w.Role)
	if len(fields) == 0 {
		return src, m.Check()
	}
	return write.SignBy(src, fields, m)
}

// methods say how somebody signed.
var methods = map[string]string{"typed": "by typing the name", "drawn": "by drawing the name", "picture": "with a picture"}

// sheet is the page that says how a form was signed.
func sheet(g *store.Signing, now time.Time) write.Sheet {
	s := write.Sheet{Title: "How this form was signed", Parts: []write.Part{{Head: g.Title, Lines: []string{
		fmt.Sprintf("Edition %d, sent round on %s, signed by all on %s.", g.Number, moment(g.MadeAt), moment(now)),
		"Everybody agreed to these words: “" + strings.Join(strings.Fields(g.Consent), " ") + "”",
	}}}}
	for _, w := range g.Signers {
		known := "by the password of an account of the office"
		if w.LinkID != nil {
			known = "by a link with a passcode"
			if w.Recipient != "" {
				known += ", sent to " + w.Recipient
			}
		}
		s.Parts = append(s.Parts, write.Part{Head: fmt.Sprintf("%d. %s, %s", w.Position, w.Name, w.Role), Lines: []string{
			fmt.Sprintf(
				"Signed on %s %s, known %s, from the network address %s.",
				moment(*w.SignedAt),
				methods[w.Method],
				known,
				w.Sender,
			),
			"What was signed has the SHA-256",
			*w.File,
		}})
	}
	s.Parts = append(s.Parts, write.Part{Head: "What the numbers are", Lines: []string{
		"Each is worked out of the file as it was shown to whoever signed it; the office keeps these files.",
	}})
	return s
}

func moment(t time.Time) string { return t.UTC().Format("2 January 2006, 15:04:05 UTC") }

// finished is a form that all have signed: nothing in it can be changed, the page that says how it was signed comes behind it, and the
// office seals it where it has a certificate for that.
func finished(ctx context.Context, s *frame.Frame, src []byte, g *store.Signing, now time.Time) ([]byte, error) {
	out, err := fill.Turn(src, nil)
	if err != nil {
		return nil, err
	}
	if out, err = write.Audit(out, sheet(g, now)); err != nil {
		return nil, err
	}
	who, err := seal(ctx, s, now)
	if err != nil || who == nil {
		return out, err
	}
	return sign.Sign(out, *who, sign.Options{
		Field: write.SealField, At: now, Reason: fmt.Sprintf("Signed by all %d", len(g.Signers)), May: sign.Nothing, All: true,
	})
}

// seal is the identity that finished forms are sealed with; nil when there is none.
func seal(ctx context.Context, s *frame.Frame, now time.Time) (*sign.Identity, error) {
	all, err := s.Store.Certificates(ctx)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(all, func(c store.Certificate) bool { return c.Seals && c.Good(now) })
	if i < 0 {
		return nil, nil
	}
	who, err := kept(ctx, s, all[i].ID)
	return &who, err
}

// kept is an identity of the office.
func kept(ctx context.Context, s *frame.Frame, id int64) (sign.Identity, error) {
	b, err := s.Store.OpenCertificate(ctx, id)
	if err != nil {
		return sign.Identity{}, err
	}
	return sign.Unmarshal(b)
}

func digest(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}
