package api_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/posts"
	"dapper.example/internal/pgtest"
)

// Each sitting leaves a version that can be read afterwards.
func TestTheVersionsOfAText(t *testing.T) {
	c := signedIn(t)
	p := c.begin("Cables")
	p = c.put(p, map[string]any{"body": "One."})
	c.clock.Advance(time.Hour)
	p = c.put(p, map[string]any{"body": "One and two.", "tags": []string{"Winter"}})
	var all posts.TextVersions
	c.call(http.MethodGet, c.path(p, "/texts"), nil, http.StatusOK, &all)
	require.Len(t, all.Texts, 2)
	assert.True(t, all.Texts[0].Live)
	assert.False(t, all.Texts[1].Live)
	assert.Equal(t, all.Texts[1].ID, all.Texts[0].MadeFrom)
	assert.True(t, all.Texts[0].At.At.Equal(pgtest.Noon.Add(time.Hour)))
	assert.Equal(t, "Ines Abara", all.Texts[0].Who)
	var old, now posts.WholeText
	c.call(http.MethodGet, c.path(p, "/texts/")+itoa(all.Texts[1].ID), nil, http.StatusOK, &old)
	assert.Equal(t, "One.", old.Body)
	assert.Empty(t, old.Tags)
	c.call(http.MethodGet, c.path(p, "/texts/")+itoa(all.Texts[0].ID), nil, http.StatusOK, &now)
	assert.Equal(t, []string{"Winter"}, now.Tags)
	other := c.begin("Tape")
	c.fails(http.MethodGet, c.path(other, "/texts/")+itoa(all.Texts[0].ID), nil, http.StatusNotFound)
}
