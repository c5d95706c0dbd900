package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/netip"
	"net/url"
	"strconv"
	"strings"

	"github.com/jmoiron/sqlx"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/letter"
)

// The settings of an office.
const (
	// PublicAddress is where the application is reached from outside, such as https://forms.example: released forms send
	// their answers there. It is never taken from a request.
	PublicAddress = "public-address"
	// PreparersRelease is "yes" where preparers may release forms, too.
	PreparersRelease = "preparers-release"
	// OfficeName is what the office is called.
	OfficeName = "office-name"
	// Retention is after how many days in the archive a document is deleted for good; empty for never.
	Retention = "retention-days"
	// Proxy is the address, or the block of addresses, of the proxy that stands before the application: only what it says of where a
	// request came from is believed.
	Proxy = "proxy"
	// The office's own words for the letters that carry links; empty for those that come with the application.
	LetterSubject   = "letter-subject"
	LetterText      = "letter-text"
	ReminderSubject = "reminder-subject"
	ReminderText    = "reminder-text"
	// Consent is what those who sign agree to, in the office's words; empty is [UsualConsent].
	Consent = "consent"
)

// UsualConsent is what those who sign agree to as long as the office has no words of its own.
const UsualConsent = "I have read this form. What I have filled in is true, and what stands here for my name is my signature."

// longestAbout is how long what the log says of a setting may be; of longer ones it says only that they were changed.
const longestAbout = 500

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
	case OfficeName:
		value = strings.Join(strings.Fields(value), " ")
		err = form.CheckText("the name of the office", value, 120)
	case Retention:
		if value = strings.TrimSpace(value); value != "" {
			if n, bad := strconv.Atoi(value); bad != nil || n < 1 || n > 36500 {
				err = fmt.Errorf("%q is not a number of days: type one such as 730, or nothing to keep all", value)
			}
		}
	case Proxy:
		value, err = checkProxy(value)
	case LetterSubject, ReminderSubject:
		value = strings.Join(strings.Fields(value), " ")
		err = form.CheckLine("the subject", value, letter.LongestSubject)
	case Consent:
		value = strings.TrimSpace(value)
		err = form.CheckText("what those who sign agree to", value, longestConsent)
	case LetterText, ReminderText:
		err = form.CheckText("the letter", value, letter.LongestText)
	default:
		err = fmt.Errorf("%q is nothing that can be set", key)
	}
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var was string
		if err := tx.GetContext(ctx, &was, `select value from settings where key = $1`, key); err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if was == value {
			return nil
		}
		_, err := tx.ExecContext(ctx, `insert into settings (key, value, changed_by) values ($1, $2, $3)
			on conflict (key) do update set value = excluded.value, changed_at = now(), changed_by = excluded.changed_by`, key, value, by)
		if err != nil {
			return err
		}
		about := fmt.Sprintf("%s: %q, before %q", key, value, was)
		if len(about) > longestAbout { // letters
			about = key
		}
		return note(ctx, tx, by, DeedSetting, about, "")
	})
}

// checkProxy reads an address on the network or a block of them.
func checkProxy(s string) (string, error) {
	if s = strings.TrimSpace(s); s == "" {
		return "", nil
	}
	if a, err := netip.ParseAddr(s); err == nil {
		return netip.PrefixFrom(a, a.BitLen()).String(), nil
	}
	p, err := netip.ParsePrefix(s)
	if err != nil {
		return "", fmt.Errorf("%q is no address on the network: write one such as 10.0.0.2, or a block such as 10.0.0.0/24", s)
	}
	return p.Masked().String(), nil
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
