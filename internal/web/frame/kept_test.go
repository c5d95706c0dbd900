package frame

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is at hand takes no more room than it may, whatever its pieces are like; what was used last stays.
func TestWhatIsAtHandIsBoundedByBytes(t *testing.T) {
	k := keep(1000)
	for i := range 50 {
		k.Add(fmt.Sprint(i), make([]byte, 10*i%170))
		assert.LessOrEqual(t, k.has, 1000)
		k.Get("1")
	}
	_, ok := k.Get("1")
	assert.True(t, ok, "it was asked for all the time")
	_, ok = k.Get("2")
	assert.False(t, ok)
	k.Add("huge", make([]byte, 501))
	_, ok = k.Get("huge")
	assert.False(t, ok, "one piece does not drive out all others")
	before := k.has
	k.Add("1", make([]byte, 400))
	assert.Equal(t, before, k.has, "what is there is not counted twice")
}
