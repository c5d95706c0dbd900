package web_test

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// signedAs checks a signature as RFC 9421 (2.5, 3.2 and 3.3.3) and RFC 9530 (2) have it, from the head alone.
func signedAs(t *testing.T, h http.Header, body, secret []byte, target string) {
	t.Helper()
	sum := sha256.Sum256(body)
	assert.Equal(t, "sha-256=:"+base64.StdEncoding.EncodeToString(sum[:])+":", h.Get("Content-Digest"))
	input := strings.TrimPrefix(h.Get("Signature-Input"), "told=")
	require.Regexp(t, `^\("@method" "@target-uri" "content-digest"\);created=\d+;keyid="hook-\d+";alg="hmac-sha256"$`, input)
	var lines []string
	for _, part := range regexp.MustCompile(`"([^"]+)"`).FindAllStringSubmatch(input[:strings.Index(input, ")")], -1) {
		lines = append(lines, `"`+part[1]+`": `+map[string]string{
			"@method": "POST", "@target-uri": target, "content-digest": h.Get("Content-Digest"),
		}[part[1]])
	}
	lines = append(lines, `"@signature-params": `+input)
	mac := hmac.New(sha256.New, secret)
	mac.Write([]byte(strings.Join(lines, "\n")))
	assert.Equal(t, "told=:"+base64.StdEncoding.EncodeToString(mac.Sum(nil))+":", h.Get("Signature"))
}

// sql asks a database of the office's own, and gives the first thing that it says.
func sql(t *testing.T, address, query string) string {
	t.Helper()
	ctx := context.Background()
	c, err := pgx.Connect(ctx, address)
	require.NoError(t, err)
	defer c.Close(ctx)
	var out string
	if strings.HasPrefix(query, "select") {
		require.NoError(t, c.QueryRow(ctx, query).Scan(&out))
		return out
	}
	_, err = c.Exec(ctx, query)
	require.NoError(t, err)
	return ""
}
