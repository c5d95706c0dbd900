package frame

import (
	"strconv"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/roster"
)

// Ticked are the people of the roster that a request names as person, one by one.
func (s *Frame) Ticked(c *echo.Context) ([]roster.Person, error) {
	form, err := c.FormValues()
	if err != nil {
		return nil, err
	}
	var people []roster.Person
	for _, v := range form["person"] {
		n, err := strconv.ParseInt(v, 10, 64)
		if err != nil {
			continue
		}
		p, err := s.Store.RosterPerson(c.Request().Context(), n)
		if err != nil {
			return nil, err
		}
		people = append(people, p)
	}
	return people, nil
}
