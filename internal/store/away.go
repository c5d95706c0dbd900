package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Away tells whether an error says that the database does not answer, or answers nobody just now, so that trying again later
// is worth it (PostgreSQL 15, appendix A, classes 08, 53 and 57).
func Away(err error) bool {
	var connect *pgconn.ConnectError
	var said *pgconn.PgError
	var network *net.OpError
	switch {
	case errors.As(err, &said):
		return strings.HasPrefix(said.Code, "08") || strings.HasPrefix(said.Code, "53") || strings.HasPrefix(said.Code, "57P")
	case errors.As(err, &connect), errors.As(err, &network), errors.Is(err, driver.ErrBadConn),
		errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return true
	}
	return err != nil && strings.Contains(err.Error(), "conn closed")
}

// Ready tells whether the database answers.
func (s *Store) Ready(ctx context.Context) error { return s.db.PingContext(ctx) }
