package demo

import (
	"context"
	"fmt"

	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/jobs"
	"zealousmargin.example/internal/store"
)

// Office is the name of the demo office.
const Office = "Gannet Quay Harbour Office"

// Person is an account of the demo office.
type Person struct{ Email, Name, Role, Password string }

// People are the demo office's accounts. The passwords are public: the demo office
// listens on this machine only.
var People = []Person{
	{"imke@gannet-quay.example", "Imke Maas", "administrator", "harbour-gannet"},
	{"odalys@gannet-quay.example", "Odalys Brandt", "preparer", "slipway-gannet"},
}

// SignInHint says how to sign in.
func SignInHint() string {
	p, q := People[0], People[1]
	return fmt.Sprintf("Sign in as %s with the password %s (%s), or as %s with %s (%s).", p.Email, p.Password, p.Role, q.Email,
		q.Password, q.Role)
}

// Load fills an empty database with the demo office, or with only those of its files
// that are named. One that has documents keeps them; only the accounts are made sure of.
func Load(ctx context.Context, s *store.Store, only ...string) error {
	var by int64
	for i, p := range People {
		id, err := s.AddAccount(ctx, p.Email, p.Name, p.Role, p.Password)
		if err != nil {
			return fmt.Errorf("the account of %s could not be made: %w", p.Name, err)
		}
		if i == 0 {
			by = id
		}
	}
	for _, archived := range []bool{false, true} {
		docs, err := s.Documents(ctx, archived)
		if err != nil {
			return err
		}
		if len(docs) > 0 {
			return nil
		}
	}
	if err := owners(ctx, s, by); err != nil {
		return err
	}
	if err := certified(ctx, s, by); err != nil {
		return err
	}
	all, err := Documents(only...)
	if err != nil {
		return err
	}
	for _, d := range all {
		r, err := intake.Read(ctx, intake.Source{Name: d.File, Bytes: d.Bytes}, func(string, int, int) {})
		if err != nil {
			return fmt.Errorf("%s: %w", d.File, err)
		}
		n := jobs.Document(r, []store.NamedFile{{Name: d.File, Bytes: d.Bytes}}, by)
		n.Title, n.Description = d.Title, d.Description
		id, err := s.AddDocument(ctx, n)
		if err != nil {
			return err
		}
		if err := jobs.Words(ctx, s, id); err != nil {
			return err
		}
		if d.File == "slipway-charges.pdf" {
			if err := tariff(ctx, s, id, by, d.Bytes); err != nil {
				return err
			}
		}
	}
	return nil
}
