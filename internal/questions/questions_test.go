package questions_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/evidence"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/questions"
)

func at(id, name, tooltip string, y float64) form.Field {
	return form.Field{ID: id, Page: 1, Kind: form.Text, Name: name, Tooltip: tooltip, Order: -y, Rect: geom.R(50, y, 250, y+14)}
}

func line(text string, y, size float64) evidence.Line {
	r := geom.R(50, y, 50+float64(len(text))*size/2, y+size)
	return evidence.Line{Words: []evidence.Word{{Text: text, Rect: r, Size: size, Base: y}}, Rect: r, Base: y, Size: size}
}

// Questions stand under the headings that are printed above them; the title is none. The rows of a table are cards; a long part is split.
func TestStepsFollowThePage(t *testing.T) {
	page := &evidence.Page{Width: 400, Height: 800, Lines: []evidence.Line{
		line(
			"Berth application",
			760,
			20,
		), line("Gannet Quay Harbour Office", 742, 12), line("The vessel", 700, 15), line("Name of vessel", 680, 10),
		line(
			"The crew",
			500,
			15,
		), line("what most of the page is set in, for a long while", 300, 10), line("and on, and on, and on it goes like that", 280, 10),
	}}
	tpl := &form.Template{Pages: []form.Page{{Width: 400, Height: 800}}, Fields: []form.Field{
		at("a", "vessel", "Name of vessel", 678), at("b", "owner", "Owner", 650),
		at("c1", "crew_1_name", "Crew 1: name", 460), at("c2", "crew_1_born", "Crew 1: born", 459),
		at("d1", "crew_2_name", "Crew 2: name", 440), at("d2", "crew_2_born", "Crew 2: born", 439),
	}}
	for i := range 9 {
		tpl.Fields = append(tpl.Fields, at(fmt.Sprint("x", i), fmt.Sprint("more_", i), fmt.Sprint("More ", i), 200-float64(10*i)))
	}
	hidden := at("h", "secret", "Secret", 677)
	hidden.Show = form.ShowNone
	tpl.Fields = append(tpl.Fields, hidden, form.Field{ID: "s", Page: 1, Kind: form.Button, Name: "send", Rect: geom.R(0, 0, 9, 9)})
	steps := questions.Steps(tpl, map[int]*evidence.Page{1: page}, nil)
	var said []string
	for _, s := range steps {
		said = append(said, fmt.Sprintf("%s/%d/%v/%d", s.Title, s.Part, s.Table, len(s.Names())))
	}
	assert.Equal(t, []string{"The vessel/0/false/2", "The crew/1/true/4", "The crew/2/false/7", "The crew/3/false/2"}, said)
	assert.Equal(t, "Crew 2", steps[1].Cards[1].Title)
	assert.Equal(t, "Born", steps[1].Cards[1].Questions[1].Label)
	only := questions.Steps(tpl, nil, func(f *form.Field) bool { return f.Name == "owner" })
	require.Len(t, only, 1)
	assert.Equal(t, []string{"owner"}, only[0].Names())
}

// What follows from answers: totals, what shows, what is refused; a refused answer stays as it was typed, and what does not show is not
// sent.
func TestAnswersAreFollowed(t *testing.T) {
	days, total, why := at("a", "days", "Days", 700), at("b", "fee", "Fee", 680), at("c", "why", "Why so long", 660)
	days.Format = form.Format{Kind: form.Number}
	days.Checks = []form.Check{{Test: form.Between, A: "1", B: "400", Message: "Up to 400."}}
	total.Format, total.Formula, total.ReadOnly = form.Format{Kind: form.Number, Decimals: 2}, "days * 12.5", true
	why.ShowIf, why.Required = "days > 100", true
	fields := []form.Field{days, total, why}
	begin, err := questions.Begin(fields, map[string]string{"days": "3"}, time.Now())
	require.NoError(t, err)
	s, err := questions.Follow(fields, begin, time.Now())
	require.NoError(t, err)
	assert.Equal(t, "37.50", s.Values["fee"])
	assert.Equal(t, []string{"why"}, s.Hidden)
	assert.Empty(t, s.Missing)
	s, err = questions.Follow(fields, map[string]string{"days": "120"}, time.Now())
	require.NoError(t, err)
	assert.Equal(t, []string{"why"}, s.Missing)
	assert.Equal(t, "1,500.00", s.Shown["fee"])
	s, err = questions.Follow(fields, map[string]string{"days": "4000", "why": "x", "other": "y"}, time.Now())
	require.NoError(t, err)
	assert.Equal(t, "Up to 400.", s.Refused["days"])
	s, err = questions.Follow(fields, map[string]string{"days": "7", "why": "was typed before"}, time.Now())
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"days": "7", "fee": "87.50"}, s.Sent(map[string]string{"days": "7", "why": "was typed before"}))
	_, err = questions.Follow(
		[]form.Field{{ID: "a", Page: 1, Kind: form.Text, Name: "x", Formula: "1 +", Rect: geom.R(0, 0, 9, 9)}},
		nil,
		time.Now(),
	)
	require.Error(t, err)
}
