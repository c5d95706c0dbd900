package bench

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/rules"
	"zealousmargin.example/internal/web/frame"
)

// markFormula tells the bench where in a formula something is wrong, so that it can be marked.
func markFormula(c *echo.Context, err error) {
	var fe *rules.FormulaError
	if errors.As(err, &fe) {
		c.Response().Header().Set("X-ZM-At", fmt.Sprintf("%d,%d,%s", fe.At, fe.End, c.FormValue("key")))
	}
}

// FormulaHelp lists the functions of formulas and the fields that they can read, for the list
// that opens beside a formula.
func FormulaHelp(s *frame.Frame, c *echo.Context) error {
	d, err := s.DraftOf(c)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, map[string]any{"functions": rules.FunctionNames(), "fields": rules.FormulaFields(d.Template.Fields)})
}
