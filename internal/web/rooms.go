package web

import "io/fs"

// rooms are the templates of the rooms.
var rooms = []fs.FS{views}
