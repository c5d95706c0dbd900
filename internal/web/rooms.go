package web

import (
	"io/fs"

	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/bringin"
	"zealousmargin.example/internal/web/house"
	"zealousmargin.example/internal/web/links"
	"zealousmargin.example/internal/web/pages"
	"zealousmargin.example/internal/web/people"
	"zealousmargin.example/internal/web/rehearse"
	"zealousmargin.example/internal/web/release"
	"zealousmargin.example/internal/web/returned"
	"zealousmargin.example/internal/web/signed"
	"zealousmargin.example/internal/web/signin"
	"zealousmargin.example/internal/web/signing"
	"zealousmargin.example/internal/web/workroom"
)

// rooms are the templates of the rooms.
var rooms = []fs.FS{
	workroom.Views, bringin.Views, pages.Views, bench.Views, rehearse.Views, people.Views, release.Views, links.Views, returned.Views,
	signing.Views, house.Views, signed.Views, signin.Views,
}
