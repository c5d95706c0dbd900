package proof

import (
	"context"
	"errors"
	"fmt"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
)

// Protected opens a locked form with its passwords and compares what it finds with the draft, as [Release] does, and how it is locked with
// the protection. Src is the file that the fields were written into, before it was locked.
func Protected(ctx context.Context, src, locked []byte, t *form.Template, w form.Protection) (Report, error) {
	b, err := Locked(ctx, locked, w)
	if err != nil {
		return Report{}, err
	}
	r, err := held(ctx, src, b, t, true)
	r.Lock = w.Sentence()
	return r, err
}

// Locked compares how a file is locked with the protection, opens it with its passwords, and gives it as it is without them.
func Locked(ctx context.Context, locked []byte, w form.Protection) ([]byte, error) {
	f, err := open(locked)
	if err != nil {
		return nil, err
	}
	if err := lockOf(f).is(w); err != nil {
		return nil, err
	}
	opened := func(password string) (b []byte, err error) {
		err = engine.UseWith(ctx, locked, password, func(d *engine.Doc) (err error) {
			b, err = d.Save()
			return err
		})
		return b, err
	}
	b, err := opened(w.Open)
	if err != nil {
		return nil, fmt.Errorf("the locked form does not open with its password: %w", err)
	}
	if w.Open != "" {
		for _, wrong := range []string{"", w.Open + "x"} {
			if _, err := opened(wrong); err == nil {
				return nil, errors.New("the locked form opens without its password")
			}
		}
	}
	if w.Owner != "" {
		if _, err := opened(w.Owner); err != nil {
			return nil, fmt.Errorf("the locked form does not open with the owner's password: %w", err)
		}
	}
	return b, nil
}

// lock is how a file says that it is locked (ISO 32000-2, 7.6.2 to 7.6.6).
type lock struct {
	version, revision, flags int
	strings, streams         string // the method of their filter
}

func lockOf(f *file) lock {
	d := f.dict(f.trailer["Encrypt"])
	method := func(key name) string {
		filter, _ := f.resolve(d[key]).(name)
		m, _ := f.resolve(f.dict(f.dict(d["CF"])[filter])["CFM"]).(name)
		return string(m)
	}
	number := func(key name) int {
		n, _ := f.resolve(d[key]).(float64)
		return int(n)
	}
	return lock{number("V"), number("R"), number("P"), method("StrF"), method("StmF")}
}

// is compares a lock with what was asked for. The bits are those of table 22, counted from 1.
func (l lock) is(w form.Protection) error {
	version, revision, method := 5, 6, "AESV3"
	if w.Strength == form.AES128 {
		version, revision, method = 4, 4, "AESV2"
	}
	if l.version != version || l.revision != revision || l.strings != method || l.streams != method {
		return fmt.Errorf("the form is locked as version %d, revision %d with %s and %s, not %d, %d with %s", l.version, l.revision,
			l.strings, l.streams, version, revision, method)
	}
	for _, b := range []struct {
		what string
		bit  int
		may  bool
	}{
		{"print", 3, w.Print},
		{"print sharply", 12, w.Print},
		{"change", 4, w.Change},
		{"copy", 5, w.Copy},
		{"comment", 6, w.Comment},
		{"fill in", 9, w.Fill || w.Comment},
		{"read out", 10, true},
		{"take pages out", 11, w.Change},
	} {
		if may := l.flags>>(b.bit-1)&1 == 1; may != b.may {
			return fmt.Errorf("that recipients may %s is %t in the locked form, not %t", b.what, may, b.may)
		}
	}
	return nil
}
