package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"zealousmargin.example/internal/inbox"
	"zealousmargin.example/internal/pdf/fill"
	"zealousmargin.example/internal/pdf/proof"
	"zealousmargin.example/internal/pdf/write"
	"zealousmargin.example/internal/returns"
	"zealousmargin.example/internal/store"
)

// charge is a slipway charge that somebody has filled in: how many of which service.
type charge struct {
	vessel  string
	days    int // before today
	hour    int
	service map[string]float64
	paid    string
	road    string
}

// charges are what came back in the last days.
var charges = []charge{
	{"Avocet", 9, 10, map[string]float64{"hauling_out": 1}, "card", "web"},
	{"Black Guillemot", 8, 9, map[string]float64{"launching": 1, "pressure_washing": 1}, "cash", "web"},
	{"Curlew", 8, 15, map[string]float64{"hauling_out": 1, "cradle_day": 4}, "card", "file"},
	{"Dotterel", 8, 16, map[string]float64{"mast_crane_half": 2}, "account", "web"},
	{"Eider", 7, 9, map[string]float64{"hauling_out": 1, "cradle_day": 2}, "card", "web"},
	{"Fulmar", 7, 11, map[string]float64{"launching": 1}, "card", "button"},
	{"Goldeneye", 7, 12, map[string]float64{"pressure_washing": 2}, "cash", "web"},
	{"Garganey", 7, 14, map[string]float64{"storage_ashore_week": 6, "cradle_day": 1}, "account", "data"},
	{"Knot", 6, 10, map[string]float64{"hauling_out": 1, "launching": 1}, "card", "web"},
	{"Lapwing", 6, 13, map[string]float64{"mast_crane_half": 1}, "card", "button"},
	{"Merlin", 6, 17, map[string]float64{"cradle_day": 7}, "cash", "web"},
	{"Pintail", 3, 9, map[string]float64{"hauling_out": 1, "pressure_washing": 1}, "card", "web"},
	{"Dunlin", 2, 9, map[string]float64{"hauling_out": 1, "cradle_day": 5}, "cash", "web"},
	{"Spoonbill", 2, 10, map[string]float64{"storage_ashore_week": 1}, "card", "data"},
	{"Little Auk", 2, 11, map[string]float64{"hauling_out": 1}, "card", "web"},
	{"Razorbill", 2, 13, map[string]float64{"launching": 1, "mast_crane_half": 1}, "card", "web"},
	{"Redshank", 2, 15, map[string]float64{"cradle_day": 3}, "card", "file"},
	{"Ruff", 2, 16, map[string]float64{"pressure_washing": 1}, "card", "web"},
	{"Merganser II", 1, 9, map[string]float64{"launching": 1, "pressure_washing": 1}, "card", "web"},
	{"Sanderling", 1, 11, map[string]float64{"mast_crane_half": 1}, "cash", "button"},
	{"Grey Wagtail", 1, 14, map[string]float64{"hauling_out": 2}, "card", "file"},
	{"Petrel", 0, 0, map[string]float64{"hauling_out": 1, "cradle_day": 3, "storage_ashore_week": 25}, "account", "paper"},
	{"Tern of Aldsea", 0, 0, map[string]float64{"hauling_out": 1}, "card", "web"},
}

// Returns releases the slipway charges sheet, makes a link to it, and lets two dozen of them come back by all roads. Where an edition is
// there already, nothing is done.
func Returns(ctx context.Context, s *store.Store) error {
	docs, err := s.Documents(ctx, false)
	if err != nil {
		return err
	}
	var id int64
	for _, d := range docs {
		if d.Title == "Slipway charges sheet" {
			id = d.ID
		}
	}
	if id == 0 {
		return nil
	}
	if had, err := s.Editions(ctx, id); err != nil || len(had) > 0 {
		return err
	}
	e, err := releaseSheet(ctx, s, id)
	if err != nil {
		return fmt.Errorf("the slipway charges sheet could not be released: %w", err)
	}
	made, err := s.MakeFormLinks(ctx, e.ID, 1, store.Terms{Note: "on the notice board at the slip"}, []store.For{{}})
	if err != nil {
		return err
	}
	link, err := s.FormLink(ctx, made[0])
	if err != nil {
		return err
	}
	file, err := s.File(ctx, e.File)
	if err != nil {
		return err
	}
	reader, now := inbox.NewReader(s), time.Now()
	for _, c := range charges {
		if err := c.comeBack(ctx, s, reader, link, file, now); err != nil {
			return fmt.Errorf("the return of %s: %w", c.vessel, err)
		}
	}
	all, err := s.Returns(ctx, id)
	if err != nil {
		return err
	}
	for _, r := range all {
		if now.Sub(r.ReceivedAt) > 30*time.Hour && len(r.Broken()) == 0 {
			if err := s.SetReturnState(ctx, []int64{r.ID}, 1, "checked"); err != nil {
				return err
			}
		}
	}
	return nil
}

func releaseSheet(ctx context.Context, s *store.Store, id int64) (store.Edition, error) {
	d, err := s.Draft(ctx, id)
	if err != nil {
		return store.Edition{}, err
	}
	t := d.Template
	t.Details.Title, t.Details.Language = d.Document.Title, "en"
	base, draft, err := write.Base(&t, write.Sources{File: func(sha string) ([]byte, error) { return s.File(ctx, sha) }})
	if err != nil {
		return store.Edition{}, err
	}
	out, err := write.Release(base, draft)
	if err != nil {
		return store.Edition{}, err
	}
	compared, err := proof.Release(ctx, base, out, draft)
	if err != nil {
		return store.Edition{}, err
	}
	return s.Release(ctx, store.NewEdition{
		Document: id, Revision: d.Document.Revision, By: 1, PDF: out, Form: t, Proof: compared.Sentence(), Notes: "For the season 2027.",
		Name: func(n int) string { return fmt.Sprintf("slipway-charges-sheet-%d.pdf", n) },
	})
}

// answers are what is filled in; the rates stand in the form, and the amounts are worked out.
func (c charge) answers(now time.Time) map[string]string {
	out := map[string]string{"name_vessel": c.vessel, c.paid: "Yes"}
	if c.vessel != "Spoonbill" {
		out["date"] = now.AddDate(0, 0, -c.days).Format("02.01.2006")
	}
	total := 0.0
	for service, n := range c.service {
		rate, _ := strconv.ParseFloat(rates[service], 64) // they are numbers
		out[service+"_quantity"], out[service+"_amount"] = strconv.FormatFloat(n, 'f', -1, 64), fmt.Sprintf("%.2f", n*rate)
		total += n * rate
	}
	out["total_amount"] = fmt.Sprintf("%.2f", total)
	return out
}

// comeBack lets a charge come back by its road.
func (c charge) comeBack(ctx context.Context, s *store.Store, reader *inbox.Reader, l store.FormLink, file []byte, now time.Time) error {
	at := now.AddDate(0, 0, -c.days).Truncate(24 * time.Hour).Add(time.Duration(c.hour) * time.Hour)
	if c.days == 0 {
		at = now.Add(-20 * time.Minute)
	}
	said := c.answers(at)
	a := store.Arrived{Target: store.Target{Document: l.DocumentID}, Road: c.road, At: at}
	var err error
	switch c.road {
	case "web":
		a.Target.Edition, a.Target.Link, a.Kind = &l.EditionID, &l.ID, returns.JSON
		a.Bytes, err = json.Marshal(map[string]any{"answers": said})
	case "button":
		a.Kind = returns.XFDF
		a.Bytes, err = returns.WriteXFDF("slipway-charges-sheet-1.pdf", said, nil)
	case "data":
		values := url.Values{}
		for k, v := range said {
			values.Set(k, v)
		}
		a.Kind, a.Name, a.Bytes = returns.Form, strings.ToLower(c.vessel)+".txt", []byte(values.Encode())
	default:
		answers := map[string]any{}
		for k, v := range said {
			if !strings.HasSuffix(k, "_amount") {
				answers[k] = v
			}
		}
		a.Kind, a.Name = returns.PDF, strings.ReplaceAll(strings.ToLower(c.vessel), " ", "-")+".pdf"
		a.Bytes, err = fill.With(file, answers, fill.Options{Now: at})
	}
	if err != nil {
		return err
	}
	read, err := reader.Read(ctx, a.Target, a.Kind, a.Bytes, at)
	if err != nil {
		return err
	}
	u := read[0]
	if c.road == "paper" {
		misread(ctx, &u, reader, l.DocumentID)
	}
	a.Read = &u
	_, err = s.Receive(ctx, a)
	return err
}

// misread makes a return one that was read from a photograph: one figure was read wrongly, and with doubt.
func misread(ctx context.Context, u *store.Understood, reader *inbox.Reader, document int64) {
	forms, err := reader.FormsOf(ctx, document)
	if err != nil {
		return
	}
	for _, col := range forms.Columns {
		switch col.Name {
		case "storage_ashore_week_amount":
			u.Values[col.Key] = "1605.50"
			u.Broken[col.Key] = "This is worked out: it comes to 1,543.75."
		case "total_amount":
			u.Values[col.Key] = "1787.75"
			u.Broken[col.Key] = "This is worked out: it comes to 1,726.00."
		case "storage_ashore_week_quantity":
			u.Unsure[col.Key] = 0.55
		}
	}
}
