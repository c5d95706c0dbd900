package pdfium

import (
	"syscall"

	"github.com/tetratelabs/wazero/experimental"
)

const (
	wasmPage = 64 << 10 // bytes (WebAssembly core specification 2.0, 4.2.8)
	// MaxMemory is the most that PDFium may have, in bytes: a page of 100 million pixels in colour fits.
	MaxMemory = 448 << 20
)

// Held is how much memory PDFium has, in bytes: it never gives any back.
func Held() int { return held }

// Refused tells whether PDFium has asked for more than [MaxMemory], or is so near that its next step of growth cannot be had.
func Refused() bool { return refused || held > MaxMemory/8*7 }

var (
	held    int
	refused bool
)

// memory is addresses for all that PDFium may ever have, of which only what it asks for takes room.
type memory []byte

func allocate(_, most uint64) experimental.LinearMemory {
	b, err := syscall.Mmap(-1, 0, int(min(most, MaxMemory)), syscall.PROT_NONE, syscall.MAP_ANON|syscall.MAP_PRIVATE)
	if err != nil {
		b = nil
	}
	return memory(b)
}

// Reallocate gives the memory another size; nil where there is no more.
func (m memory) Reallocate(size uint64) []byte {
	if size > uint64(len(m)) || syscall.Mprotect(m[:size], syscall.PROT_READ|syscall.PROT_WRITE) != nil {
		refused = true
		return nil
	}
	held = int(size)
	return m[:size]
}

// Free leaves the addresses alone: they end with the process.
func (memory) Free() {}
