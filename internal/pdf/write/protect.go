package write

import (
	"bytes"
	"cmp"
	"crypto/rand"
	"fmt"

	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/object"
)

// Protect locks a file (ISO 32000-2, 7.6): every string and stream of it is encrypted, so it is written afresh. Signatures in it would
// not hold any more.
func Protect(src []byte, p form.Protection) (_ []byte, err error) {
	defer object.Recovered(&err)
	if err := p.Check(); err != nil {
		return nil, err
	}
	if !p.Locked() {
		return src, nil
	}
	f, err := object.Parse(src)
	if err != nil {
		return nil, err
	}
	ctx := f.Ctx
	ctx.Cmd = model.ENCRYPT
	ctx.EncryptUsingAES, ctx.EncryptKeyLength = true, 256
	version := model.V20 // revision 6 belongs to it
	if p.Strength == form.AES128 {
		ctx.EncryptKeyLength, version = 128, model.V17
	}
	ctx.HeaderVersion, ctx.RootVersion = &version, nil
	if cat, err := f.Catalog(); err != nil {
		return nil, err
	} else if cat.HasEntry("Version") {
		cat.Delete("Version")
	}
	ctx.UserPW, ctx.OwnerPW = p.Open, cmp.Or(p.Owner, rand.Text())
	ctx.Permissions = model.PermissionFlags(int16(p.Permissions()))
	ctx.WriteObjectStream, ctx.WriteXRefStream = false, false
	var out bytes.Buffer
	if err := api.WriteContext(ctx, &out); err != nil {
		return nil, fmt.Errorf("the file could not be locked: %w", err)
	}
	return out.Bytes(), nil
}
