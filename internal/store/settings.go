package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"strings"
)

// The settings of an office.
const (
	// PublicAddress is where the application is reached from outside, such as https://forms.example: released forms send
	// their answers there. It is never taken from a request.
	PublicAddress = "public-address"
	// PreparersRelease is "yes" where preparers may release forms, too.
	PreparersRelease = "preparers-release"
)

// Setting is what is set under a key; empty when nothing is.
func (s *Store) Setting(ctx context.Context, key string) (string, error) {
	var v string
	err := s.db.GetContext(ctx, &v, `select value from settings where key = $1`, key)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return v, err
}

// SetSetting keeps a setting; empty takes it away.
func (s *Store) SetSetting(ctx context.Context, key, value string, by int64) error {
	var err error
	switch key {
	case PublicAddress:
		value, err = CheckAddress(value)
	case PreparersRelease:
		if value != "yes" {
			value = ""
		}
	default:
		err = fmt.Errorf("%q is nothing that can be set", key)
	}
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `insert into settings (key, value, changed_by) values ($1, $2, $3)
		on conflict (key) do update set value = excluded.value, changed_at = now(), changed_by = excluded.changed_by`, key, value, by)
	return err
}

// CheckAddress reads the address of a server: a scheme, a host, and nothing behind it. Empty is none.
func CheckAddress(s string) (string, error) {
	s = strings.TrimRight(strings.TrimSpace(s), "/")
	if s == "" {
		return "", nil
	}
	u, err := url.Parse(s)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.Path != "" || u.RawQuery != "" || u.User != nil ||
		len(s) > 300 {
		return "", fmt.Errorf("%q is not the address of a server: write one such as https://forms.example", s)
	}
	return s, nil
}
