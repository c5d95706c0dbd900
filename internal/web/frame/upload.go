package frame

import (
	"errors"
	"io"

	"github.com/labstack/echo/v5"
)

// Upload is the file that was sent with a request, with its name: up to most bytes and one more, which tells that it is larger. None is
// what a person is told who has chosen none.
func Upload(c *echo.Context, most int64, none string) (name string, b []byte, err error) {
	in, err := c.FormFile("file")
	if err != nil {
		return "", nil, errors.New(none)
	}
	f, err := in.Open()
	if err != nil {
		return "", nil, err
	}
	defer f.Close()
	b, err = io.ReadAll(io.LimitReader(f, most+1))
	return in.Filename, b, err
}
