package store_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/store"
)

// The key file is made once, also by several at the same time, for its owner alone; what is no key is refused, and left as it is.
func TestTheKeyFileIsMadeOnce(t *testing.T) {
	path := filepath.Join(t.TempDir(), "deep", "key")
	keys := make([][]byte, 8)
	var wait sync.WaitGroup
	for i := range keys {
		wait.Go(func() {
			var err error
			keys[i], err = store.KeyFile(path)
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	for _, k := range keys {
		assert.Len(t, k, 32)
		assert.Equal(t, keys[0], k)
	}
	info, err := os.Stat(path)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	for _, bad := range []string{"", "zz", strings.Repeat("ab", 31), strings.Repeat("ab", 33)} {
		require.NoError(t, os.WriteFile(path, []byte(bad), 0o600))
		_, err := store.KeyFile(path)
		assert.ErrorContains(t, err, "64 hexadecimal digits")
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.Equal(t, bad, string(b))
	}
}

// What is kept of an identity stands nowhere as it is; another key, and a single changed bit, open nothing.
func TestCertificatesAreKeptEncrypted(t *testing.T) {
	s, person, _ := office(t)
	secret := []byte("the private key of the harbour master")
	of := store.Certificate{
		Holder:    "Gannet Quay",
		Issuer:    "Test authority",
		NotBefore: time.Unix(1000, 0),
		NotAfter:  time.Unix(2000, 0),
		Root:      []byte("root"),
	}
	var ids []int64
	for range 2 {
		id, err := s.KeepCertificate(ctx, person, of, secret)
		require.NoError(t, err)
		ids = append(ids, id)
	}
	var sealed [2][]byte
	for i, id := range ids {
		b, err := s.OpenCertificate(ctx, id)
		require.NoError(t, err)
		assert.Equal(t, secret, b)
		require.NoError(t, s.Pool.QueryRow(ctx, `select sealed from certificates where id = $1`, id).Scan(&sealed[i]))
		assert.NotContains(t, string(sealed[i]), "private key")
	}
	assert.False(t, bytes.Equal(sealed[0], sealed[1]), "the same is never written the same twice")
	for at := range sealed[0] {
		changed := bytes.Clone(sealed[0])
		changed[at] ^= 1
		_, err := s.Pool.Exec(ctx, `update certificates set sealed = $2 where id = $1`, ids[0], changed)
		require.NoError(t, err)
		_, err = s.OpenCertificate(ctx, ids[0])
		require.ErrorIs(t, err, store.ErrOtherKey, "byte %d", at)
	}
	_, err := s.Pool.Exec(ctx, `update certificates set sealed = 'x' where id = $1`, ids[0])
	require.NoError(t, err)
	_, err = s.OpenCertificate(ctx, ids[0])
	require.ErrorIs(t, err, store.ErrOtherKey)
	key := s.Key
	s.Key = bytes.Repeat([]byte{7}, 32)
	_, err = s.OpenCertificate(ctx, ids[1])
	assert.ErrorIs(t, err, store.ErrOtherKey)
	s.Key = nil
	_, err = s.OpenCertificate(ctx, ids[1])
	assert.ErrorIs(t, err, store.ErrNoKey)
	_, err = s.KeepCertificate(ctx, person, of, secret)
	assert.ErrorIs(t, err, store.ErrNoKey)
	s.Key = key

	assert.True(t, of.Good(of.NotBefore))
	assert.True(t, of.Good(of.NotAfter))
	assert.False(t, of.Good(of.NotBefore.Add(-1)))
	assert.False(t, of.Good(of.NotAfter.Add(1)))
}

// One certificate seals, or none.
func TestOneCertificateSeals(t *testing.T) {
	s, person, _ := office(t)
	var ids []int64
	for _, holder := range []string{"Gannet Quay", "Harbour Office"} {
		id, err := s.KeepCertificate(
			ctx,
			person,
			store.Certificate{Holder: holder, NotAfter: time.Now().Add(time.Hour), Root: []byte("root")},
			[]byte("key"),
		)
		require.NoError(t, err)
		ids = append(ids, id)
	}
	seals := func() (out []int64) {
		list, err := s.Certificates(ctx)
		require.NoError(t, err)
		for _, c := range list {
			if c.Seals {
				out = append(out, c.ID)
			}
		}
		return out
	}
	assert.Empty(t, seals())
	for _, id := range ids {
		require.NoError(t, s.SealWith(ctx, id, person))
		assert.Equal(t, []int64{id}, seals())
	}
	require.ErrorIs(t, s.SealWith(ctx, 999, person), store.ErrMissing)
	assert.Equal(t, ids[1:], seals(), "nothing was changed by it")
	require.NoError(t, s.SealWith(ctx, 0, person))
	assert.Empty(t, seals())
	require.NoError(t, s.SealWith(ctx, ids[0], person))
	require.NoError(t, s.DropCertificate(ctx, ids[0], person))
	require.ErrorIs(t, s.DropCertificate(ctx, ids[0], person), store.ErrMissing)
	_, err := s.OpenCertificate(ctx, ids[0])
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.Empty(t, seals())
}
