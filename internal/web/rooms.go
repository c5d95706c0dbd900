package web

import (
	"io/fs"

	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/bringin"
	"zealousmargin.example/internal/web/house"
	"zealousmargin.example/internal/web/pages"
	"zealousmargin.example/internal/web/rehearse"
	"zealousmargin.example/internal/web/release"
	"zealousmargin.example/internal/web/signin"
	"zealousmargin.example/internal/web/workroom"
)

// rooms are the templates of the rooms.
var rooms = []fs.FS{workroom.Views, bringin.Views, pages.Views, bench.Views, rehearse.Views, release.Views, house.Views, signin.Views}
