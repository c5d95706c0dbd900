package frame

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page that is filled in may ask often, and not without end: after a while it may again. Another address on the network is another one.
func TestStrangersCannotAskWithoutEnd(t *testing.T) {
	a, now := newTyping(), time.Now()
	for range typedAtOnce {
		require.NoError(t, a.May("link", "192.0.2.1", now))
	}
	err := a.May("link", "192.0.2.1", now)
	require.Error(t, err)
	assert.Equal(t, http.StatusTooManyRequests, err.(Problem).code)
	assert.Contains(t, err.Error(), "wait 1 seconds")
	require.NoError(t, a.May("link", "192.0.2.2", now))
	require.NoError(t, a.May("link", "192.0.2.1", now.Add(typedEvery)))
}

// How many answers one address may send a minute is the office's to say.
func TestAnswersAMinute(t *testing.T) {
	now := time.Now()
	sent := func(aMinute int) (n int) {
		for a := newAnswers(aMinute); a.May("form", "192.0.2.1", now) == nil; n++ {
		}
		return n
	}
	assert.Equal(t, senderAnswers, sent(0))
	assert.Equal(t, 500, sent(1000))
	assert.Equal(t, formAnswers, sent(1_000_000), "a form takes so many at once, from wherever")
}
