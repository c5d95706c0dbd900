package web_test

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/form"
)

// Formats that leave no doubt are set at finding, are taken back all at once, and stay where somebody has changed them.
func TestFormatsOfFindsAreTakenBackInOnePress(t *testing.T) {
	h := firstHouse(t)
	require.Equal(t, form.Email, h.named("e_mail").Format.Kind)
	require.Equal(t, "dd/mm/yyyy", h.named("date_birth").Format.Pattern, "as the language of the page writes dates")
	set := h.draft(h.id)
	require.Greater(t, set.Template.FormatsSet(), 5)
	body := h.set(h.named("date_birth").ID, "pattern", "yyyy-mm-dd")
	assert.Contains(t, body, "plain-finds")

	body = h.do(url.Values{"do": {"plain-finds"}, "scope": {"all"}})
	assert.NotContains(t, body, "plain-finds", "there is nothing left to take back")
	assert.Equal(t, form.NoFormat, h.named("e_mail").Format.Kind)
	assert.Equal(t, "email", h.named("e_mail").Find.Looks, "what the label asks for stays proposed")
	assert.Equal(t, "yyyy-mm-dd", h.named("date_birth").Format.Pattern, "somebody said so")

	h.post("/documents/"+itoa(h.id)+"/undo", url.Values{"page": {"1"}, "stage": {"find"}})
	assert.Equal(t, form.Email, h.named("e_mail").Format.Kind)
}
