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
	Name, Retention, Proxy    string
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
	for _, one := range [][2]string{
		{store.OfficeName, "name"},
		{store.PublicAddress, "public"},
		{store.Proxy, "proxy"},
		{store.Retention, "retention"},
		{store.PreparersRelease, "preparers-release"},
	} {
		if err := s.Store.SetSetting(ctx, one[0], c.FormValue(one[1]), by); err != nil {
			return settingsPage(s, c, http.StatusUnprocessableEntity, settingsView{
				Problem: frame.Sentence(err.Error()), Public: c.FormValue("public"), Name: c.FormValue("name"),
				Retention: c.FormValue("retention"), Proxy: c.FormValue("proxy"),
			})
		}
	}
	s.Refresh()
	return settingsPage(s, c, http.StatusOK, settingsView{Saved: true})
}

func settingsPage(s *frame.Frame, c *echo.Context, code int, v settingsView) error {
	ctx := c.Request().Context()
	v.Shell = s.Shell(c, "Settings", "settings")
	var err error
	if v.Problem == "" {
		for key, to := range map[string]*string{
			store.PublicAddress: &v.Public, store.OfficeName: &v.Name, store.Retention: &v.Retention, store.Proxy: &v.Proxy,
		} {
			if *to, err = s.Store.Setting(ctx, key); err != nil {
				return err
			}
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
