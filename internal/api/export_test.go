package api_test

import (
	"encoding/csv"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
)

func TestThePlanAsATable(t *testing.T) {
	c := signedIn(t)
	c.world.Scheduled(t, `=HYPERLINK("http://evil.example"), "quoted"`, pgtest.Noon.Add(24*time.Hour))
	c.world.Scheduled(t, "Élan, and\nmore", pgtest.Noon.Add(48*time.Hour))
	c.world.Scheduled(t, "Later", pgtest.Noon.Add(90*24*time.Hour))
	answer, err := c.http.Get(c.url + site + "/plan.csv?days=7")
	require.NoError(t, err)
	defer answer.Body.Close()
	require.Equal(t, 200, answer.StatusCode)
	assert.Equal(t, "text/csv; charset=utf-8", answer.Header.Get("Content-Type"))
	assert.Contains(t, answer.Header.Get("Content-Disposition"), `filename="dome-2026-11-24.csv"`)
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	lines, err := csv.NewReader(strings.NewReader(string(text))).ReadAll()
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.Equal(t, []string{"2026-11-25", "12:00", "scheduled", `'=HYPERLINK("http://evil.example"), "quoted"`,
		"Ines Abara", "Sky Guide", "yes", ""}, lines[1])
	assert.Equal(t, "Élan, and\nmore", lines[2][3])
	c.fails("GET", site+"/plan.csv?from=soon", nil, 422)
	c.fails("GET", site+"/plan.csv?days=9999", nil, 422)
}
