package frame

import (
	"math"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
)

// How much is held at hand, in bytes.
const (
	keptPictures = 48 << 20 // drawn pages, packed
	keptFiles    = 96 << 20
)

// kept holds what was used last, as many bytes as there is room for.
type kept struct {
	mu   sync.Mutex
	room int
	has  int
	all  *simplelru.LRU[string, []byte]
}

func keep(room int) *kept {
	k := &kept{room: room}
	k.all, _ = simplelru.NewLRU(math.MaxInt, func(_ string, b []byte) { k.has -= len(b) }) // it refuses no size above 0
	return k
}

// Get gives what is held under a name.
func (k *kept) Get(name string) ([]byte, bool) {
	k.mu.Lock()
	defer k.mu.Unlock()
	return k.all.Get(name)
}

// Add holds something under a name, and lets go what was not used for longest. What takes more than a half of the room is not held.
func (k *kept) Add(name string, b []byte) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.all.Contains(name) || len(b) > k.room/2 {
		return
	}
	k.all.Add(name, b)
	for k.has += len(b); k.has > k.room; {
		k.all.RemoveOldest()
	}
}
