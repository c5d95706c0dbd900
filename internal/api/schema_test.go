package api_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zealousmargin.example/internal/api"
)

// docs/template.schema.json is what the registry says: UPDATE=1 go test ./internal/api writes it anew.
func TestTheSchemaOfATemplateIsThatOfTheRegistry(t *testing.T) {
	const name = "../../docs/template.schema.json"
	want, err := api.Schema()
	require.NoError(t, err)
	if os.Getenv("UPDATE") != "" {
		require.NoError(t, os.WriteFile(name, append(want, '\n'), 0o644))
	}
	has, err := os.ReadFile(name)
	require.NoError(t, err)
	assert.Equal(t, string(want), strings.TrimSpace(string(has)), "run UPDATE=1 go test ./internal/api")
	for _, part := range []string{`"borderstyle"`, `"requireif"`, `"blankfirst"`, `"except"`, `"message"`} {
		assert.Contains(t, string(want), part)
	}
}
