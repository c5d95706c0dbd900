package demo

import (
	"context"
	"strings"

	"zealousmargin.example/internal/detect"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/engine"
	"zealousmargin.example/internal/store"
)

// rates are the office's charges at the slip, in its own money: each service by the beginning
// of its fields' names.
var rates = map[string]string{
	"hauling_out": "145.50", "launching": "145.50", "pressure_washing": "38.00", "cradle_day": "12.25", "mast_crane_half": "54.00",
	"storage_ashore_week": "61.75",
}

// tariff makes the slipway charges sheet calculate: its fields are found and kept, the rates
// stand in it, every amount is quantity times rate, and the total their sum.
func tariff(ctx context.Context, s *store.Store, id, by int64, sheet []byte) error {
	ev, err := engine.ReadPage(ctx, sheet, 1)
	if err != nil {
		return err
	}
	_, err = s.Change(ctx, id, -1, by, "rules", func(t *form.Template) (form.Edit, error) {
		var fields []form.Field
		for _, x := range detect.Page(ev) {
			f := x.Field(1)
			f.Find.Kept = true
			fields = append(fields, charged(f))
		}
		return t.Add("gave the sheet its tariff", fields)
	})
	return err
}

// charged gives a field of the sheet its rules.
func charged(f form.Field) form.Field {
	i := strings.LastIndexByte(f.Name, '_')
	if f.Name == "date" {
		f.Format = form.Format{Kind: form.Date, Pattern: "dd.mm.yyyy"}
		f.Checks = []form.Check{{Test: form.NotAfter, A: "today", Message: "A charge cannot be dated ahead."}}
		return f
	}
	if i < 0 {
		return f
	}
	money := form.Format{Kind: form.Number, Decimals: 2}
	switch service, part := f.Name[:i], f.Name[i+1:]; part {
	case "quantity":
		f.Format = form.Format{Kind: form.Number}
		f.Checks = []form.Check{{Test: form.Between, A: "0", B: "400", Message: "Write how many, up to 400."}}
	case "rate":
		f.Format, f.Default, f.ReadOnly = money, rates[service], true
		f.Look.Align = form.AlignRight
	case "amount":
		f.Format, f.Formula, f.ReadOnly = money, service+"_quantity * "+service+"_rate", true
		if service == "total" {
			f.Formula = "sum(*_amount)"
		}
		f.Look.Align = form.AlignRight
	}
	return f
}
