package object

import (
	"maps"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// Clone is the file once more, to be changed by itself: what is done to it is not done to f, and several clones may be changed at once. The
// bytes of streams are shared, and not changed by either. It takes a fraction of the time that parsing takes.
func (f *File) Clone() *File {
	table := *f.Ctx.XRefTable
	size := *table.Size
	table.Size, table.RootDict = &size, nil // the catalog is looked up in the table again
	table.Table = make(map[int]*model.XRefTableEntry, len(f.Ctx.Table)+64)
	for n, e := range f.Ctx.Table {
		own := *e
		switch o := e.Object.(type) {
		case nil, types.ObjectStreamDict, *types.ObjectStreamDict, types.XRefStreamDict, *types.XRefStreamDict: // nobody changes them
		default:
			own.Object = o.Clone()
		}
		table.Table[n] = &own
	}
	ctx, conf := *f.Ctx, *f.Ctx.Configuration
	ctx.Configuration, ctx.XRefTable, table.Conf = &conf, &table, &conf
	to := *f.Ctx.Write // where the file ends
	fresh := model.NewWriteContext(to.Eol)
	to.SelectedPages, to.Table, to.ObjNrs = fresh.SelectedPages, fresh.Table, fresh.ObjNrs
	ctx.Write = &to
	c := &File{Ctx: &ctx, Src: f.Src, dirty: slices.Clone(f.dirty), Pages: slices.Clone(f.Pages)}
	for i := range c.Pages {
		p := &c.Pages[i]
		if e := table.Table[p.Ref.ObjectNumber.Value()]; e != nil {
			if d, ok := e.Object.(types.Dict); ok {
				p.Dict = d
			}
		}
		p.Inh = maps.Clone(p.Inh)
	}
	return c
}
