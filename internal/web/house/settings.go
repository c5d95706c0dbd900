package house

import (
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
	PreparersRelease          bool
}

// Settings shows what is set for the office.
func Settings(s *frame.Frame, c *echo.Context) error {
	return settingsPage(s, c, http.StatusOK, settingsView{})
}

// SetSettings keeps them.
func SetSettings(s *frame.Frame, c *echo.Context) error {
	ctx, by := c.Request().Context(), frame.Account(c).ID
	err := s.Store.SetSetting(ctx, store.PublicAddress, c.FormValue("public"), by)
	if err == nil {
		err = s.Store.SetSetting(ctx, store.PreparersRelease, c.FormValue("preparers-release"), by)
	}
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
	release, err := s.Store.Setting(ctx, store.PreparersRelease)
	if err != nil {
		return err
	}
	if v.PreparersRelease = release == "yes"; v.Public == "" {
		if v.Fallback, err = s.Public(ctx); err != nil {
			return err
		}
	}
	return s.Render(c, code, "settings", "page", v)
}
