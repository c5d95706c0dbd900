package e2e_test

import (
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/pdf/write"
)

// served is the address of a server that has one form.
func served(t *testing.T, file []byte) string {
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/pdf")
		_, _ = w.Write(file)
	}))
	t.Cleanup(srv.Close)
	return srv.URL
}

// What a recipient types into a field with an embedded font shows in Chromium's viewer.
func TestTypedSignsShowInAnEmbeddedFont(t *testing.T) {
	src, err := write.Blank(400, 600)
	require.NoError(t, err)
	draft := &form.Template{Pages: []form.Page{{ID: "p", N: 1, Width: 400, Height: 600}}}
	fonts := append([]string{""}, form.EmbeddedFonts...)
	for i, f := range fonts {
		y := 500 - 60*float64(i)
		draft.Fields = append(draft.Fields, form.Field{
			ID: form.NewID(), Page: 1, Order: float64(i), Kind: form.Text, Name: "t" + f,
			Tooltip: "T", Rect: geom.R(40, y, 360, y+30), Look: form.Look{Font: f, Size: 18},
		})
	}
	file, err := write.Build(src, draft)
	require.NoError(t, err)
	v := openViewer(t, draft.Pages[0], served(t, file))
	for _, f := range draft.Fields {
		v.write(f.Rect, "Gannet Ξύλο Жук")
	}
	picture := filepath.Join(t.TempDir(), "typed.png")
	require.NoError(t, v.Shot(picture))
	if dir := os.Getenv("ZM_PICTURES"); dir != "" {
		require.NoError(t, v.Shot(filepath.Join(dir, "typed.png")))
	}
	r, err := os.Open(picture)
	require.NoError(t, err)
	defer r.Close()
	img, err := png.Decode(r)
	require.NoError(t, err)
	for _, f := range draft.Fields {
		dark := 0
		x0, y0 := v.On(geom.Point{X: f.Rect.X0, Y: f.Rect.Y1})
		for y := y0 + 3; y < y0+f.Rect.H()*v.Scale-3; y++ {
			for x := x0 + 3; x < x0+f.Rect.W()*v.Scale-3; x++ {
				if c, _, _, _ := img.At(int(x), int(y)).RGBA(); c < 0xa000 {
					dark++
				}
			}
		}
		assert.Greater(t, dark, 250, "%s shows what was typed", f.Name)
	}
}
