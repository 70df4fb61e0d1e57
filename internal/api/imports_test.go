package api_test

import (
	"bytes"
	"encoding/csv"
	"io"
	"net/http"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/imports"
	bringing "dapper.example/internal/imports"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// begins begins an import with a file that is sent in one part.
func (c *client) begins(source, path string, data []byte) (imports.Import, string) {
	c.t.Helper()
	var begun imports.Import
	c.call("POST", "/api/v1/sites/dome/imports", map[string]any{"source": source}, 201, &begun)
	at := "/api/v1/sites/dome/imports/" + strconv.FormatInt(begun.ID, 10)
	status, said := c.sends(at+"/file?path="+path, data)
	require.Equal(c.t, http.StatusNoContent, status, said)
	return begun, at
}

func (c *client) sends(path string, data []byte) (int, string) {
	c.t.Helper()
	r, err := http.NewRequestWithContext(c.t.Context(), http.MethodPut, c.url+path, bytes.NewReader(data))
	require.NoError(c.t, err)
	r.Header.Set("Content-Type", "application/octet-stream")
	answer, err := c.http.Do(r)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	return answer.StatusCode, string(body)
}

func TestImportsOverHTTP(t *testing.T) {
	c := newClient(t)
	c.signIn()
	sample, err := os.ReadFile("../../docs/samples/winter-nights.zip")
	require.NoError(t, err)
	begun, at := c.begins("Winter", "winter-nights.zip", sample)
	assert.Equal(t, "collecting", begun.State)

	var look imports.ImportLook
	c.call("POST", at+"/look", map[string]any{}, 200, &look)
	assert.Equal(t, []any{"articles", 12, 3}, []any{look.Kind, look.Articles, look.Pictures})
	assert.Equal(t, []imports.LeftFile{{Path: "read-me.pdf", Why: "It is neither an article (.md, .txt, .html, .docx) nor a picture (.jpg, .png, .gif, .webp)."}}, look.Left)

	var preview imports.ImportPreview
	c.call("POST", at+"/preview", map[string]any{"setup": map[string]any{}}, 200, &preview)
	require.Len(t, preview.Lines, 8)
	assert.Equal(t, "A letter about the gate", preview.Lines[0].Title)
	assert.Contains(t, preview.Lines[0].HTML, "<p>Dear Dome")
	nights := preview.Lines[6]
	assert.Equal(t, "The longest nights of the year", nights.Title)
	assert.Contains(t, nights.HTML, `src="`+at+`/picture?path=pictures%2Fwinter-chart.jpg"`)
	picture, err := c.http.Get(c.url + nights.Picture)
	require.NoError(t, err)
	picture.Body.Close()
	assert.Equal(t, "image/jpeg", picture.Header.Get("Content-Type"))
	refused := c.fails("POST", at+"/preview", map[string]any{"setup": map[string]any{"recipe": map[string]any{"fill": map[string]any{"title": map[string]any{"text": "{nothing}"}}}}}, 422)
	assert.Equal(t, "body.setup.recipe.fill.title", refused.Errors[0].Location)

	var read imports.Import
	c.call("POST", at+"/read", map[string]any{"version": begun.Version, "setup": map[string]any{"landing": map[string]any{"as": "shelf"}}}, 200, &read)
	runner := bringing.Runner{Store: c.world.Store, Clock: c.clock, Log: pgtest.Quiet()}
	require.NoError(t, runner.Step(t.Context()))
	var whole imports.WholeImport
	c.call("GET", at, nil, 200, &whole)
	assert.Equal(t, "proposed", whole.State)
	assert.Equal(t, []int{11, 1}, []int{whole.Counts.Ready, whole.Counts.Left})
	stale := c.fails("POST", at+"/commit", map[string]any{"token": "another"}, 409)
	assert.Contains(t, stale.Detail, "Nothing was done")
	c.fails("POST", at+"/pause", map[string]any{"version": whole.Version}, 422)
	c.call("POST", at+"/commit", map[string]any{"token": whole.Token}, 200, &read)
	require.NoError(t, runner.Step(t.Context()))
	c.call("GET", at, nil, 200, &whole)
	assert.Equal(t, []any{"done", 11}, []any{whole.State, whole.Counts.Landed})
	assert.NotZero(t, whole.Line)

	var lines imports.ImportLines
	c.call("GET", at+"/lines?state=left", nil, 200, &lines)
	require.Len(t, lines.Lines, 1)
	assert.Equal(t, "It is empty.", lines.Lines[0].Reason)
	table, err := c.http.Get(c.url + at + "/table?state=left")
	require.NoError(t, err)
	defer table.Body.Close()
	rows, err := csv.NewReader(table.Body).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, []string{"left out", "", "It is empty.", ""}, rows[1][3:])

	c.call("POST", "/api/v1/sites/dome/logbook/"+strconv.FormatInt(whole.Line, 10)+"/undo", nil, 200, nil)
	require.NoError(t, runner.Step(t.Context()))
	c.call("GET", at, nil, 200, &whole)
	assert.Equal(t, []any{"undone", 11}, []any{whole.State, whole.Counts.Undone})
	posts, err := c.world.PostIDs(t.Context(), c.world.Site.ID, store.PostFilter{Stages: []store.Stage{"binned"}}, 100)
	require.NoError(t, err)
	assert.Len(t, posts, 11)
}

func TestFilesComeInParts(t *testing.T) {
	c := newClient(t)
	c.signIn()
	text := strings.Repeat("word ", 500_000)
	_, at := c.begins("Long", "a.md", []byte("# A"))
	for _, one := range []struct {
		query  string
		data   string
		status int
	}{
		{"path=b.txt&more=true", text[:2<<20], 204}, {"path=b.txt&from=2097152", text[2<<20:], 204}, {"path=b.txt&from=2097152", text[2<<20:], 422},
		{"path=c.txt&from=1048576", "x", 422}, {"path=d.txt&more=true", "x", 422}, {"path=e.md", "", 204}, {"path=", "x", 422}, {"path=../f.md", "x", 422}, {"path=f.md", strings.Repeat("x", 5<<20), 413},
	} {
		status, said := c.sends(at+"/file?"+one.query, []byte(one.data))
		assert.Equal(t, one.status, status, "%s: %s", one.query, said)
	}
	var look imports.ImportLook
	c.call("POST", at+"/look", map[string]any{}, 200, &look)
	assert.Equal(t, 3, look.Articles)
	c.call("DELETE", at, nil, 204, nil)
	c.fails("GET", at, nil, 404)
}
