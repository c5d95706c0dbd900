package house

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/post"
	"zealousmargin.example/internal/store"
	"zealousmargin.example/internal/web/frame"
)

// peopleView is the people of the office, for an administrator.
type peopleView struct {
	frame.Shell
	People            []store.Person
	Said, Problem     string
	Name, Email, Role string
	Me                int64
}

// People lists the people of the office.
func People(s *frame.Frame, c *echo.Context) error {
	return peoplePage(s, c, http.StatusOK, peopleView{})
}

// SetPeople adds, changes, shuts and opens accounts, and sends links to set a password.
func SetPeople(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	id, _ := strconv.ParseInt(c.FormValue("id"), 10, 64) // 0 is nobody, which the store says
	v := peopleView{Name: c.FormValue("name"), Email: c.FormValue("email"), Role: c.FormValue("role")}
	var err error
	switch c.FormValue("do") {
	case "add":
		if id, err = s.Store.AddPerson(ctx, v.Name, v.Email, v.Role); err == nil {
			err = sendLink(s, ctx, id)
			v = peopleView{Said: "A link to set a password was sent to " + v.Email + "."}
		}
	case "change":
		if err = s.Store.ChangePerson(ctx, id, v.Name, v.Role); err == nil {
			v = peopleView{Said: "The change is kept."}
		}
	case "shut", "open":
		shut := c.FormValue("do") == "shut"
		if shut && id == frame.Account(c).ID {
			err = errors.New("you cannot shut your own account: ask another administrator")
		} else {
			err = s.Store.Disable(ctx, id, shut)
		}
	case "erase":
		if id == frame.Account(c).ID {
			err = errors.New("you cannot erase your own account: ask another administrator")
		} else if err = s.Store.Erase(ctx, id, frame.Account(c).ID); err == nil {
			v = peopleView{Said: "The account is erased. What was done with it stays, by a former colleague."}
		}
	case "link":
		if err = sendLink(s, ctx, id); err == nil {
			v = peopleView{Said: "The link was sent. It is good once, for two days."}
		}
	default:
		err = errors.New("that is nothing that can be done with people")
	}
	if err == nil {
		s.Noted(ctx, frame.Account(c).ID, store.DeedPerson, fmt.Sprintf("account %d (%s)", id, c.FormValue("do")))
	}
	if errors.Is(err, store.ErrMissing) {
		return err
	}
	if err != nil {
		v.Problem = frame.Sentence(err.Error())
		return peoplePage(s, c, http.StatusUnprocessableEntity, v)
	}
	return peoplePage(s, c, http.StatusOK, v)
}

// sendLink sends a person a link with which they set a password.
func sendLink(s *frame.Frame, ctx context.Context, id int64) error {
	a, err := s.Store.Account(ctx, id)
	if err != nil {
		return err
	}
	at, err := s.Reached(ctx)
	if err != nil {
		return err
	}
	token, err := s.Store.Link(ctx, id)
	if err != nil {
		return err
	}
	return s.Send(ctx, post.Message{
		To: a.Email, Subject: "Your password for Zealous Margin",
		Text: fmt.Sprintf("%s, set your password here, within two days: %s/set-password/%s", a.Name, at, token),
	})
}

func peoplePage(s *frame.Frame, c *echo.Context, code int, v peopleView) error {
	v.Shell, v.Me = s.Shell(c, "People", "people"), frame.Account(c).ID
	var err error
	if v.People, err = s.Store.People(c.Request().Context()); err != nil {
		return err
	}
	return s.Render(c, code, "people", "page", v)
}

// meView is what a person sees of their own account.
type meView struct {
	frame.Shell
	Visits        []store.Visit
	Now           int64 // the visit that looks
	Said, Problem string
}

// Me shows a person their own account.
func Me(s *frame.Frame, c *echo.Context) error { return mePage(s, c, http.StatusOK, meView{}) }

// SetMe changes a person's own password, or signs them out somewhere.
func SetMe(s *frame.Frame, c *echo.Context) error {
	ctx := c.Request().Context()
	me, here := frame.Account(c).ID, s.Sessions.GetInt64(ctx, "visit")
	var v meView
	var err error
	if c.FormValue("do") == "end" {
		visit, _ := strconv.ParseInt(c.FormValue("visit"), 10, 64)
		err = s.Store.EndVisit(ctx, me, visit)
	} else if err = s.Tries.Turn(frame.Account(c).Email, frame.Sender(c.Request()), time.Now()); err == nil {
		if err = s.Store.ChangePassword(ctx, me, here, c.FormValue("present"), c.FormValue("password")); err == nil {
			v.Said = "Your password is changed. Everywhere else you are signed out."
		}
	}
	if errors.Is(err, store.ErrMissing) {
		return err
	}
	if err != nil {
		v.Problem = frame.Sentence(err.Error())
		return mePage(s, c, http.StatusUnprocessableEntity, v)
	}
	return mePage(s, c, http.StatusOK, v)
}

func mePage(s *frame.Frame, c *echo.Context, code int, v meView) error {
	ctx := c.Request().Context()
	v.Shell = s.Shell(c, "Your account", "me")
	v.Now = s.Sessions.GetInt64(ctx, "visit")
	var err error
	if v.Visits, err = s.Store.Visits(ctx, v.Account.ID); err != nil {
		return err
	}
	return s.Render(c, code, "me", "page", v)
}
