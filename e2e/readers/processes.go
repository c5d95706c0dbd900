package readers

import (
	_ "embed"

	"zealousmargin.example/internal/form"
)

//go:embed mutool.js
var mutoolScript string

//go:embed poppler.py
var popplerScript string

// mutool is a reader with an engine of its own, scripts included.
func openMutool(b []byte, draft *form.Template) (Reader, error) {
	return start(b, draft, byMutool, "stdbuf", mutoolScript, "-oL", "mutool", "run") // each answer at once
}

// poppler is a reader without scripts.
type poppler struct{ *talker }

func openPoppler(b []byte, draft *form.Template) (Reader, error) {
	t, err := start(b, draft, byPoppler, "/usr/bin/python3", popplerScript)
	return poppler{t}, err
}

// Printed goes by what poppler prints, drawn again.
func (p poppler) Printed(name string) (bool, error) {
	b, err := p.Save()
	if err != nil {
		return false, err
	}
	paper, err := run(b, "pdftocairo", "-pdf", "-f", "1", "-l", "1", "IN", "-")
	if err != nil {
		return false, err
	}
	img, err := byPoppler([]byte(paper))
	if err != nil {
		return false, err
	}
	f, err := nth(p.draft, name, 0)
	return filledIn(img, f.Rect, onPage), err
}
