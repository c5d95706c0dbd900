package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
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

// Said tells whether an error is one of the database, or of the way to it.
func Said(err error) bool {
	var said *pgconn.PgError
	return errors.As(err, &said) || Away(err)
}

// Full tells whether an error says that the disk of the database is full (PostgreSQL 15, appendix A, 53100).
func Full(err error) bool {
	var said *pgconn.PgError
	return errors.As(err, &said) && said.Code == "53100"
}

// Ready tells whether the database answers and has the tables that this release knows.
func (s *Store) Ready(ctx context.Context) error {
	var now int64
	if err := s.db.GetContext(ctx, &now, `select coalesce(max(version_id), 0) from goose_db_version`); err != nil {
		return err
	}
	if now != s.known {
		return fmt.Errorf("the tables are those of release %d, this is release %d: %w", now, s.known, ErrNewer)
	}
	return nil
}
