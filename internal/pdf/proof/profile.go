package proof

import (
	"bytes"
	"context"
	"errors"
	"fmt"

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
	return engine.Use(ctx, out, func(d *engine.Doc) error {
		seen, err := d.ReadBack()
		if err == nil && len(seen) > 0 {
			err = fmt.Errorf("the flat form still has the field %s", seen[0].Name)
		}
		return err
	})
}
