package proof

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"reflect"
	"strings"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
)

// Profile compares a proved form with what it was made of it for a profile: before is the form as [Release] has proved it.
func Profile(ctx context.Context, before, out []byte, p form.Profile) error {
	if p == form.Everyday {
		return nil
	}
	if !bytes.HasPrefix(out, before) {
		return errors.New("the proved form was changed")
	}
	if p == form.Accessible {
		return accessible(ctx, before, out)
	}
	f, err := open(out)
	if err != nil {
		return err
	}
	cat := f.dict(f.trailer["Root"])
	if p == form.PDF20 {
		if v, _ := f.resolve(cat["Version"]).(name); v != "2.0" {
			return fmt.Errorf("the form says that it is of PDF %q, not 2.0", string(v))
		}
		return nil
	}
	for _, key := range []name{"AcroForm", "OpenAction", "AA"} {
		if f.resolve(cat[key]) != nil {
			return fmt.Errorf("the flat form still has %s", string(key))
		}
	}
	if f.resolve(f.dict(cat["Names"])["JavaScript"]) != nil {
		return errors.New("the flat form still has scripts")
	}
	if strings.Contains(f.packet(), "http://www.aiim.org/pdfa/ns/id/") && !bytes.Equal(before, out) {
		broken, err := Archive(out)
		if err != nil {
			return err
		}
		if len(broken) > 0 {
			return fmt.Errorf("the form says that it is PDF/A, and is not: %w", broken[0])
		}
	}
	return engine.Use(ctx, out, func(d *engine.Doc) error {
		seen, err := d.ReadBack()
		if err == nil && len(seen) > 0 {
			err = fmt.Errorf("the flat form still has the field %s", seen[0].Name)
		}
		return err
	})
}

// accessible holds a tagged form to [Requirements], and to the form that it was made of: its pages look the same, and its fields are the
// same to another reader.
func accessible(ctx context.Context, before, out []byte) error {
	broken, err := Accessible(out)
	if err != nil {
		return err
	}
	if len(broken) > 0 {
		return fmt.Errorf("the form would not be accessible: %w", broken[0])
	}
	var prints [2][][]byte
	var seen [2][]engine.Seen
	for i, b := range [][]byte{before, out} {
		err := engine.Use(ctx, b, func(d *engine.Doc) (err error) {
			if prints[i], err = d.Prints(); err == nil {
				seen[i], err = d.ReadBack()
			}
			return err
		})
		if err != nil {
			return err
		}
	}
	for i := range prints[0] {
		if i >= len(prints[1]) || !bytes.Equal(prints[0][i], prints[1][i]) {
			return fmt.Errorf("page %d would look otherwise with tags", i+1)
		}
	}
	if !reflect.DeepEqual(seen[0], seen[1]) {
		return errors.New("the fields would not be the same with tags")
	}
	return nil
}
