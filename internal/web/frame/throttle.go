package frame

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2/expirable"
	"golang.org/x/time/rate"
)

// How often one may try to sign in: so many times at once, and then once in the time said; for an account, and for an
// address on the network, from which several people come (OWASP ASVS 5.0, 6.3.1, from memory).
const (
	accountTries = 8
	accountEvery = 30 * time.Second
	addressTries = 30
	addressEvery = 2 * time.Second
	remembered   = 20_000
	forgotten    = time.Hour
)

// How many answers are taken: for one form, and from one address on the network.
const (
	formAnswers    = 120
	formEvery      = time.Second / 2
	senderAnswers  = 30
	senderEvery    = 2 * time.Second
	answersAtATime = 2 // that are read at once
)

// Answers lets answers in, a few at a time.
type Answers struct {
	mu             sync.Mutex
	forms, senders *limiters
	reading        chan struct{}
}

func newAnswers() *Answers {
	return &Answers{forms: newLimiters(), senders: newLimiters(), reading: make(chan struct{}, answersAtATime)}
}

// Turn waits for the turn of one set of answers; done gives it on. It says how long to wait when too many have come.
func (a *Answers) Turn(ctx context.Context, form, sender string, now time.Time) (done func(), err error) {
	a.mu.Lock()
	wait := max(take(a.forms, form, formAnswers, formEvery, now), take(a.senders, sender, senderAnswers, senderEvery, now))
	a.mu.Unlock()
	if wait > 0 {
		return nil, RefuseAs(http.StatusTooManyRequests, fmt.Errorf("this came too often just now: wait %d seconds, then do it again",
			int(math.Ceil(wait.Seconds()))))
	}
	select {
	case a.reading <- struct{}{}:
		return func() { <-a.reading }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// limiters are those of accounts, of forms or of addresses that came last.
type limiters = expirable.LRU[string, *rate.Limiter]

func newLimiters() *limiters {
	return expirable.NewLRU[string, *rate.Limiter](remembered, nil, forgotten)
}

// Throttle counts the tries of accounts and of addresses.
type Throttle struct {
	mu                  sync.Mutex
	accounts, addresses *limiters
}

func newThrottle() *Throttle {
	return &Throttle{accounts: newLimiters(), addresses: newLimiters()}
}

// Turn takes one try, or says how long to wait.
func (t *Throttle) Turn(account, address string, now time.Time) error {
	t.mu.Lock()
	defer t.mu.Unlock()
	wait := max(take(t.accounts, strings.ToLower(strings.TrimSpace(account)), accountTries, accountEvery, now),
		take(t.addresses, address, addressTries, addressEvery, now))
	if wait <= 0 {
		return nil
	}
	return RefuseAs(http.StatusTooManyRequests, fmt.Errorf("there were too many tries to sign in: wait %d seconds, then try again",
		int(math.Ceil(wait.Seconds()))))
}

func take(all *limiters, key string, burst int, every time.Duration, now time.Time) time.Duration {
	l, ok := all.Get(key)
	if !ok {
		l = rate.NewLimiter(rate.Every(every), burst)
	}
	all.Add(key, l) // as of now
	r := l.ReserveN(now, 1)
	wait := r.DelayFrom(now)
	if wait > 0 {
		r.CancelAt(now)
	}
	return wait
}

// Good forgets the tries of an account that got in.
func (t *Throttle) Good(account string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.accounts.Remove(strings.ToLower(strings.TrimSpace(account)))
}
