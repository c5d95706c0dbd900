package pdfium

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync"

	"github.com/google/uuid"
	pdfium "github.com/klippa-app/go-pdfium"
	"github.com/klippa-app/go-pdfium/webassembly"
	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
	"github.com/tetratelabs/wazero/experimental"
)

// start starts PDFium on first use. The compiled module is kept in the user's
// cache directory, so that later starts take tenths of a second.
var start = sync.OnceValues(func() (pdfium.Pdfium, error) {
	uuid.EnableRandPool() // the binding names every object it hands out with one
	config := wazero.NewRuntimeConfig().WithCoreFeatures(api.CoreFeaturesV2 | experimental.CoreFeaturesExceptionHandling).
		WithMemoryLimitPages(MaxMemory / wasmPage)
	if cache := compilationCache(); cache != nil {
		config = config.WithCompilationCache(cache)
	}
	pool, err := webassembly.Init(webassembly.Config{
		Context: experimental.WithMemoryAllocator(context.Background(), experimental.MemoryAllocatorFunc(allocate)),
		MaxIdle: 1, MaxTotal: 1, FSConfig: wazero.NewFSConfig(), RuntimeConfig: config, ReuseWorkers: true,
	})
	if err != nil {
		return nil, err
	}
	return pool.GetInstanceWithContext(context.Background())
})

func compilationCache() wazero.CompilationCache {
	base, err := os.UserCacheDir()
	if err != nil {
		base = os.TempDir()
	}
	for _, dir := range []string{
		filepath.Join(base, "zealous-margin", "pdfium"),
		filepath.Join(os.TempDir(), fmt.Sprintf("zealous-margin-%d", os.Getuid()), "pdfium"),
	} {
		if os.MkdirAll(dir, 0o700) != nil {
			continue
		}
		if cache, err := wazero.NewCompilationCacheWithDir(dir); err == nil {
			return cache
		}
	}
	return nil
}
