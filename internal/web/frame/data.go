package frame

import (
	"context"
	"sync"
	"time"

	"zealousmargin.example/internal/form"
)

// Datum is something that the office knows of people, as the kit offers it.
type Datum struct {
	Key, Title string
	Format     form.FormatKind
	Signs      int // that most of it has
}

// data is what the roster has, as it was some seconds ago: every answer of the bench shows it.
type data struct {
	mu   sync.Mutex
	read time.Time
	list []Datum
}

// Data lists what the office knows of people.
func (s *Frame) Data(ctx context.Context) ([]Datum, error) {
	s.data.mu.Lock()
	defer s.data.mu.Unlock()
	if time.Since(s.data.read) < 5*time.Second {
		return s.data.list, nil
	}
	columns, err := s.Store.RosterColumns(ctx)
	if err != nil {
		return nil, err
	}
	signs, err := s.Store.RosterSigns(ctx)
	if err != nil {
		return nil, err
	}
	s.data.list, s.data.read = nil, time.Now()
	for _, c := range columns {
		s.data.list = append(s.data.list, Datum{c.Key, c.Title, c.Kind, signs[c.Key]})
	}
	return s.data.list, nil
}
