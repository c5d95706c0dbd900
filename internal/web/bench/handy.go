package bench

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"zealousmargin.example/internal/web/frame"
)

// handyAction is an action of the bench that a person can have at hand. Key is the name
// that the bench's script has for it, Chord the key that does the same.
type handyAction struct {
	Key, Words, Chord, Title string
	On                       bool
}

var handyActions = []handyAction{
	{Key: "undo", Words: "undo", Chord: "Ctrl Z", Title: "Take the last step back"},
	{Key: "redo", Words: "redo", Chord: "Ctrl Y", Title: "Do again what was taken back"},
	{Key: "duplicate", Words: "duplicate", Chord: "Ctrl D", Title: "Duplicate the chosen fields"},
	{Key: "remove", Words: "remove", Chord: "Delete", Title: "Remove the chosen fields"},
	{Key: "copy", Words: "copy", Chord: "Ctrl C", Title: "Copy the chosen fields"},
	{Key: "paste", Words: "paste", Chord: "Ctrl V", Title: "Paste copied fields on this page"},
	{Key: "like", Words: "all like it", Chord: "Ctrl L", Title: "Choose all of the same kind and size on the page"},
	{Key: "like-everywhere", Words: "all of its kind", Chord: "Ctrl Shift L", Title: "Choose all of the same kind on the page"},
	{Key: "choose", Words: "choose by…", Chord: "C", Title: "Choose fields of the page by what they have in common"},
	{Key: "column", Words: "its column", Chord: "Shift C", Title: "Choose the column of the chosen field"},
	{Key: "row", Words: "its row", Chord: "Shift R", Title: "Choose the row of the chosen field"},
	{Key: "all", Words: "all on the page", Chord: "Ctrl A", Title: "Choose all fields of the page"},
	{Key: "keep", Words: "keep", Chord: "K", Title: "Keep the chosen finds"},
	{Key: "drop", Words: "drop", Chord: "X", Title: "Drop the chosen finds"},
	{Key: "bare", Words: "next without tooltip", Chord: "W", Title: "Go to the next field without a tooltip"},
	{Key: "required", Words: "required", Chord: "R", Title: "The chosen fields must be filled in, or may"},
	{Key: "left", Words: "left edges", Chord: "Alt Shift L", Title: "Line up the left edges of the chosen fields"},
	{Key: "top", Words: "tops", Chord: "Alt Shift T", Title: "Line up the tops of the chosen fields"},
	{Key: "spread-across", Words: "spread across", Chord: "Alt Shift A", Title: "Spread the chosen fields evenly across"},
	{Key: "spread-down", Words: "spread down", Chord: "Alt Shift D", Title: "Spread the chosen fields evenly down"},
	{Key: "same-width", Words: "same width", Chord: "Alt Shift W", Title: "Make the chosen fields as wide as the first"},
	{Key: "same-height", Words: "same height", Chord: "Alt Shift H", Title: "Make the chosen fields as high as the first"},
	{Key: "page-across", Words: "centre on page", Chord: "Alt Shift C", Title: "Put the chosen fields in the middle of the page, across"},
	{
		Key: "structure", Words: "order as built", Chord: "Alt Shift O",
		Title: "Tab order of the page: blocks and their columns one after the other",
	},
	{Key: "page", Words: "whole page", Chord: "0", Title: "Show the whole page"},
	{Key: "width", Words: "page width", Chord: "Alt 9", Title: "Show the page as wide as there is room"},
	{Key: "chosen", Words: "zoom to chosen", Chord: "Z", Title: "Show what is chosen as large as it fits"},
	{Key: "tint", Words: "tint", Chord: "H", Title: "Tint of the fields on or off"},
	{Key: "names", Words: "names", Chord: "M", Title: "Names on the fields on or off"},
	{Key: "steps", Words: "steps", Chord: "J", Title: "What was done, to go back to"},
	{Key: "list", Words: "list", Chord: "/", Title: "List of all fields"},
}

// mostHandy is how many actions the strip has room for.
const mostHandy = 7

// handyView is the handy strip: what one person wants at hand, and all that could be.
type handyView struct {
	Shown, All []handyAction
}

// handyAtFirst is the strip of those who never chose.
var handyAtFirst = []string{"duplicate", "choose", "bare"}

func handyOf(s *frame.Frame, ctx context.Context, account int64) (handyView, error) {
	keys, err := s.Store.Handy(ctx, account)
	if keys == nil {
		keys = handyAtFirst
	}
	v := handyView{All: slices.Clone(handyActions)}
	for i, a := range v.All {
		if slices.Contains(keys, a.Key) {
			v.All[i].On = true
			v.Shown = append(v.Shown, v.All[i])
		}
	}
	return v, err
}

// SetHandy keeps the actions that a person wants at hand.
func SetHandy(s *frame.Frame, c *echo.Context) error {
	var keys []string
	for _, k := range strings.Split(c.FormValue("actions"), ",") {
		if slices.ContainsFunc(handyActions, func(a handyAction) bool { return a.Key == k }) {
			keys = append(keys, k)
		}
	}
	if len(keys) > mostHandy {
		return frame.Refuse(fmt.Errorf("the strip has room for %d actions: untick some of the %d", mostHandy, len(keys)))
	}
	ctx := c.Request().Context()
	if err := s.Store.SetHandy(ctx, frame.Account(c).ID, append([]string{}, keys...)); err != nil {
		return err
	}
	v, err := handyOf(s, ctx, frame.Account(c).ID)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "bench", "handy", v)
}
