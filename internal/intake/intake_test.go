package intake_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/demo"
	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/geom"
	"zealousmargin.example/internal/intake"
	"zealousmargin.example/internal/pdf"
)

func silent(string, int, int) {}

func TestTitlesComeFromFileNames(t *testing.T) {
	for name, want := range map[string]string{
		"berth-application.pdf": "Berth application", `C:\forms\Crew_list 2027.PDF`: "Crew list 2027", "/a/b/üben.pdf": "Üben",
		".pdf": "Document without a name", "": "Document without a name", "noext": "Noext",
	} {
		assert.Equal(t, want, intake.TitleOf(name), name)
	}
}

func TestReadingTellsHowFarItIs(t *testing.T) {
	berth, err := demo.Berth()
	require.NoError(t, err)
	var steps []string
	r, err := intake.Read(berth.File, berth.Bytes, func(what string, done, total int) {
		steps = append(steps, fmt.Sprintf("%s %d/%d", what, done, total))
	})
	require.NoError(t, err)
	assert.Equal(t, []string{"looking it over 0/1", "reading page 1 of 2 0/2", "reading page 2 of 2 1/2", "read 2/2"}, steps)
	assert.Len(t, r.Pages, 2)
	assert.Empty(t, r.Notice)
	assert.Equal(t, berth.Bytes, r.Source, "a sound file is worked on as it is")
}

func TestWhatThePersonShouldKnowIsSaid(t *testing.T) {
	berth, err := demo.Berth()
	require.NoError(t, err)
	r, err := intake.Read("torn.pdf", berth.Bytes[:len(berth.Bytes)-30], silent)
	require.NoError(t, err)
	assert.Contains(t, r.Notice, "repaired")

	tpl := &form.Template{Pages: r.Pages, Fields: []form.Field{{ID: "a", Page: 1, Kind: form.Text, Name: "a", Rect: geom.R(50, 50, 150, 70)}}}
	withField, err := pdf.Build(berth.Bytes, tpl)
	require.NoError(t, err)
	r, err = intake.Read("own.pdf", withField, silent)
	require.NoError(t, err)
	assert.Contains(t, r.Notice, "one field of its own")
}

func TestRefusalsSayWhatToDo(t *testing.T) {
	for want, b := range map[string][]byte{
		"empty":                 nil,
		"not a PDF":             []byte("GIF89a"),
		"damaged beyond repair": []byte("%PDF-1.7\nand then nothing of use"),
		"the limit is 64 MB":    make([]byte, intake.MaxBytes+1),
	} {
		_, err := intake.Read("x.pdf", b, silent)
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
		assert.Contains(t, err.Error(), ":", "the reason, and after a colon what to do")
	}
}
