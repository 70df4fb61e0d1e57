package bundle_test

import (
	"bytes"
	"encoding/base64"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/bundle"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// The document of a blog is what its schema says.
func TestABlogAsOneDocument(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	post := w.Scheduled(t, "Soon: a \"test\"", pgtest.Noon.Add(time.Hour))
	w.Page(t, "About")
	_, err := s.DB().Exec(`update posts set not_before = now(), expires_at = now(), evergreen = true, fields = fields where id = $1`, post.ID)
	require.NoError(t, err)
	binned := w.Draft(t, "Thrown away")
	_, err = s.DB().Exec(`update posts set status = 'binned', binned_at = now(), binned_from = 'draft' where id = $1`, binned.ID)
	require.NoError(t, err)
	_, err = s.InsertComment(t.Context(), store.Comment{SiteID: w.Site.ID, Post: post.ID, Name: "Tam", Text: "A <b>line</b>.", Status: comment.Shown, At: pgtest.Noon})
	require.NoError(t, err)
	picture, err := s.InsertPicture(t.Context(), store.Picture{SiteID: w.Site.ID, Key: "abcdefgh12345678", Name: "moon.png", Type: "png", Width: 4, Height: 4, CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	require.NoError(t, s.InsertPictureFile(t.Context(), picture, 4, []byte("picture")))

	var out bytes.Buffer
	require.NoError(t, bundle.WriteDocument(t.Context(), s.Queries, w.Site, &out, "https://dome.example", pgtest.Noon, never))
	schema, err := jsonschema.UnmarshalJSON(bytes.NewReader(bundle.Schema))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	compiler.AssertFormat()
	require.NoError(t, compiler.AddResource("blog.schema.json", schema))
	compiled, err := compiler.Compile("blog.schema.json")
	require.NoError(t, err)
	document, err := jsonschema.UnmarshalJSON(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	require.NoError(t, compiled.Validate(document))
	all := document.(map[string]any)
	assert.Len(t, all["posts"], 2)
	assert.Equal(t, "A <b>line</b>.", all["comments"].([]any)[0].(map[string]any)["text"])
	assert.Equal(t, base64.StdEncoding.EncodeToString([]byte("picture")), all["pictures"].([]any)[0].(map[string]any)["file"])

	all["posts"].([]any)[0].(map[string]any)["colour"] = "red"
	require.Error(t, compiled.Validate(document), "what the schema does not say is no part of it")
}
