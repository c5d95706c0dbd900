package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
)

func TestAStyleGivesLooksAndLeavesWhatIsAskedFor(t *testing.T) {
	from := form.Field{
		Kind: form.Text, Name: "from", Tooltip: "From", Required: true, MaxLen: 9, NoScroll: true, NoSpell: true,
		Show: form.ShowScreen, Locked: true, Look: form.Look{Font: "Go", Fill: "#eeeeee"},
	}
	style := form.StyleOf(from)
	for _, kind := range form.Kinds {
		to := form.Field{ID: "a", Page: 1, Kind: kind, Name: "to", Tooltip: "To", Rect: geom.R(10, 10, 60, 30)}
		style.Dress(&to)
		assert.Equal(t, from.Look.Fill, to.Look.Fill, kind)
		assert.Equal(t, kind == form.Text || kind == form.Choice || kind == form.Button, to.Look.Font == "Go",
			"only kinds with type have a font: %s", kind)
		assert.Equal(t, "to", to.Name)
		assert.Equal(t, "To", to.Tooltip)
		assert.False(t, to.Required, "what is asked for stays")
		assert.Zero(t, to.MaxLen)
		assert.Equal(t, kind == form.Text, to.NoScroll, "only what the kind can have")
		require.NoError(t, to.Check(form.Page{Width: 100, Height: 100}), kind)
	}
}

func TestTheHouseStyleIsForItsKindAndKeepsWhatAFieldBrings(t *testing.T) {
	house := form.House{form.Button: {Style: form.Style{Look: form.Look{Fill: "#204060"}, Pressed: form.Inverted}, Width: 120}}
	b := form.Field{Kind: form.Button, Show: form.ShowPrint, Face: form.Face{PressedCaption: "now"}}
	house.Dress(&b)
	assert.Equal(t, "#204060", b.Look.Fill)
	assert.Equal(t, form.ShowPrint, b.Show)
	assert.Empty(t, b.Face.PressedCaption, "it is not pushed in any more")
	x := form.Field{Kind: form.Text}
	house.Dress(&x)
	assert.Zero(t, x.Look)
	w, h := house.Size(form.Button)
	assert.Equal(t, []float64{120, 22}, []float64{w, h}, "a height that the house does not name is the usual one")
	w, h = house.Size(form.Signature)
	assert.Equal(t, []float64{180, 24}, []float64{w, h})
	assert.ErrorContains(t, form.HouseStyle{Width: 1}.Check(form.Text), "from 4 to 2000")
	assert.ErrorContains(t, form.HouseStyle{Style: form.Style{Look: form.Look{Font: "Gannet"}}}.Check(form.Text), "standard 14")
	assert.NoError(t, form.HouseStyle{Height: 20}.Check(form.Radio))
}

func TestAFaceIsForButtonsAndSaysWhatIsWrong(t *testing.T) {
	page := form.Page{Width: 100, Height: 100}
	b := form.Field{ID: "a", Page: 1, Kind: form.Button, Name: "go", Rect: geom.R(10, 10, 60, 30)}
	for _, c := range []struct {
		face form.Face
		say  string
	}{
		{form.Face{Layout: "beside"}, "not a layout"},
		{form.Face{Pressed: "glowing"}, "pushed in"},
		{form.Face{Picture: "pennant.png"}, "SHA-256"},
		{form.Face{Pressed: form.Same, PressedCaption: "now"}, "another caption"},
	} {
		b.Face = c.face
		assert.ErrorContains(t, b.Check(page), c.say)
	}
	text := form.Field{ID: "a", Page: 1, Kind: form.Text, Name: "text", Rect: b.Rect, Face: form.Face{Pressed: form.Same}}
	assert.ErrorContains(t, text.Check(page), "cannot have a picture or a pressed look")
}
