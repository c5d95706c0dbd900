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

// How many answers are taken: for one form, which many people may send at once, and from one address on the network.
const (
	formAnswers    = 3000
	formEvery      = time.Second / 300
	senderAnswers  = 30
	senderEvery    = 2 * time.Second
	answersAtATime = 2  // large ones, that are in memory at once
	smallAtATime   = 24 // small ones, that are written at once
	// SmallAnswer is how large answers are, in bytes, of which many may be in memory.
	SmallAnswer = 128 << 10
)

// Answers lets answers in, a few at a time.
type Answers struct {
	mu             sync.Mutex
	forms, senders *limiters
	reading, small chan struct{}
	burst          int // from one address on the network
	every          time.Duration
}

// newAnswers takes so many answers a minute from one address on the network; the usual number when it is 0.
func newAnswers(aMinute int) *Answers {
	a := &Answers{
		forms: newLimiters(), senders: newLimiters(),
		reading: make(chan struct{}, answersAtATime), small: make(chan struct{}, smallAtATime),
		burst: senderAnswers, every: senderEvery,
	}
	if aMinute > 0 {
		a.burst, a.every = max(senderAnswers, aMinute/2), time.Minute/time.Duration(aMinute)
	}
	return a
}

// How often a page that is filled in may ask what follows from its answers: with each of them, and somebody who ticks boxes is quick.
const (
	typedAtOnce = 240
	typedEvery  = time.Second / 5
)

// newTyping bounds how often forms that are filled in on the web ask what follows.
func newTyping() *Answers {
	a := newAnswers(0)
	a.burst, a.every = typedAtOnce, typedEvery
	return a
}

// May says how long to wait when too many answers have come for a form, or from an address on the network. It is asked before anything
// is read.
func (a *Answers) May(form, sender string, now time.Time) error {
	a.mu.Lock()
	wait := max(take(a.forms, form, formAnswers, formEvery, now), take(a.senders, sender, a.burst, a.every, now))
	a.mu.Unlock()
	if wait > 0 {
		return RefuseAs(http.StatusTooManyRequests, fmt.Errorf("this came too often just now: wait %d seconds, then do it again",
			int(math.Ceil(wait.Seconds()))))
	}
	return nil
}

// Slot waits until there is room in memory for answers of a size in bytes; done gives it back.
func (a *Answers) Slot(ctx context.Context, size int64) (done func(), err error) {
	slots := a.reading
	if size >= 0 && size <= SmallAnswer {
		slots = a.small
	}
	select {
	case slots <- struct{}{}:
		return func() { <-slots }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Turn is [Answers.May] and [Answers.Slot] in one, for what may be large.
func (a *Answers) Turn(ctx context.Context, form, sender string, now time.Time) (done func(), err error) {
	if err := a.May(form, sender, now); err != nil {
		return nil, err
	}
	return a.Slot(ctx, -1)
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
