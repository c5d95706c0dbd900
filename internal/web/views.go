package web

import (
	"embed"
	"io/fs"
)

//go:embed templates/*.html
var templates embed.FS

var views = func() fs.FS { f, _ := fs.Sub(templates, "templates"); return f }()
