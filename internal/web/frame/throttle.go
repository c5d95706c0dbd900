package frame

import (
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

// Throttle counts the tries of accounts and of addresses.
type Throttle struct {
	mu                  sync.Mutex
	accounts, addresses *expirable.LRU[string, *rate.Limiter]
}

func newThrottle() *Throttle {
	return &Throttle{
		accounts:  expirable.NewLRU[string, *rate.Limiter](remembered, nil, forgotten),
		addresses: expirable.NewLRU[string, *rate.Limiter](remembered, nil, forgotten),
	}
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

func take(all *expirable.LRU[string, *rate.Limiter], key string, burst int, every time.Duration, now time.Time) time.Duration {
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
