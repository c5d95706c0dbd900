package returned

import "embed"

// Views are the templates of the room.
//
//go:embed *.html
var Views embed.FS
