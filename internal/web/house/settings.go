package house

import (
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// settingsView is what an administrator sets for the whole office.
type settingsView struct {
	frame.Shell
	Public, Fallback, Problem string
	Saved                     bool
}

var errAdministrator = errors.New("only an administrator can see and change the settings: ask one")

// administrator refuses others.
func administrator(c *echo.Context) error {
	if frame.Account(c).Role != "administrator" {
		return frame.RefuseAs(http.StatusForbidden, errAdministrator)
	}
	return nil
}

// Settings shows what is set for the office.
func Settings(s *frame.Frame, c *echo.Context) error {
	if err := administrator(c); err != nil {
		return err
	}
	return settingsPage(s, c, http.StatusOK, settingsView{})
}

// SetSettings keeps them.
func SetSettings(s *frame.Frame, c *echo.Context) error {
	if err := administrator(c); err != nil {
		return err
	}
	err := s.Store.SetSetting(c.Request().Context(), store.PublicAddress, c.FormValue("public"), frame.Account(c).ID)
	if err != nil {
		v := settingsView{Problem: frame.Sentence(err.Error()), Public: c.FormValue("public")}
		return settingsPage(s, c, http.StatusUnprocessableEntity, v)
	}
	return settingsPage(s, c, http.StatusOK, settingsView{Saved: true})
}

func settingsPage(s *frame.Frame, c *echo.Context, code int, v settingsView) error {
	ctx := c.Request().Context()
	v.Shell = s.Shell(c, "Settings", "settings")
	var err error
	if v.Problem == "" {
		if v.Public, err = s.Store.Setting(ctx, store.PublicAddress); err != nil {
			return err
		}
	}
	if v.Public == "" {
		if v.Fallback, err = s.Public(ctx); err != nil {
			return err
		}
	}
	return s.Render(c, code, "settings", "page", v)
}
