package web

import (
	"sync"

	"zealousmargin.example/internal/web/bench"
	"zealousmargin.example/internal/web/bringin"
	"zealousmargin.example/internal/web/frame"
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

// views are the templates of the rooms, read once for all the servers of a process.
var views = sync.OnceValues(func() (frame.Views, error) {
	return frame.ReadViews(
		workroom.Views, bringin.Views, pages.Views, bench.Views, rehearse.Views, people.Views, release.Views, links.Views, returned.Views,
		signing.Views, house.Views, signed.Views, signin.Views,
	)
})
