package engine

import (
	"context"
	"image"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
)

// Pages opens a file for the size and the turn of its pages alone.
func Pages(ctx context.Context, b []byte) (pages []form.Page, err error) {
	err = Use(ctx, b, func(d *Doc) error {
		pages = d.Pages()
		return nil
	})
	return pages, err
}

// Draw opens a file to draw one page of a draft whose file it is, at scale pixels per point ([Doc.RenderPage]).
func Draw(ctx context.Context, b []byte, p form.Page, scale float64) (img *image.RGBA, err error) {
	err = Use(ctx, b, func(d *Doc) (err error) {
		img, err = d.RenderPage(p, scale)
		return err
	})
	return img, err
}

// DrawPage opens a file to draw its page n, from 1, as it is shown ([Doc.Render]).
func DrawPage(ctx context.Context, b []byte, n int, scale float64) (img *image.RGBA, err error) {
	err = Use(ctx, b, func(d *Doc) (err error) {
		img, err = d.Render(n, scale)
		return err
	})
	return img, err
}

// Read opens a file to read the content of one page of a draft whose file it is ([Doc.EvidenceOf]).
func Read(ctx context.Context, b []byte, p form.Page, text *evidence.Text) (ev *evidence.Page, err error) {
	err = Use(ctx, b, func(d *Doc) (err error) {
		ev, err = d.EvidenceOf(p, text)
		return err
	})
	return ev, err
}

// Written opens a file for the words that one page of a draft whose file it is brings with it, and the resolution of its pictures
// ([Doc.Written]).
func Written(ctx context.Context, b []byte, p form.Page) (ev *evidence.Page, err error) {
	err = Use(ctx, b, func(d *Doc) (err error) {
		ev, err = d.Written(p, nil)
		return err
	})
	return ev, err
}

// ReadPage opens a file to read the content of its page n, from 1 ([Doc.Evidence]).
func ReadPage(ctx context.Context, b []byte, n int) (ev *evidence.Page, err error) {
	err = Use(ctx, b, func(d *Doc) (err error) {
		ev, err = d.Evidence(n)
		return err
	})
	return ev, err
}
