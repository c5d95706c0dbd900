package bench

import (
	"errors"
	"fmt"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/web/frame"
)

// markWrong tells the bench where in what was entered something is wrong, so that it can be marked
// and nothing of it is lost.
func markWrong(c *echo.Context, err error) {
	var there interface{ Span() (at, end int) }
	if errors.As(err, &there) {
		at, end := there.Span()
		c.Response().Header().Set("X-ZM-At", fmt.Sprintf("%d,%d,%s", at, end, c.FormValue("key")))
	}
}

// FormulaHelp lists the functions of formulas and the fields that they can read, for the list
// that opens beside a formula, and the names of all fields, for steps.
func FormulaHelp(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	names := []string{}
	for _, f := range d.Template.Fields {
		names = append(names, f.Name)
	}
	slices.Sort(names)
	return c.JSON(http.StatusOK, map[string]any{
		"functions": rules.FunctionNames(), "fields": rules.FormulaFields(d.Template.Fields), "names": slices.Compact(names),
	})
}
