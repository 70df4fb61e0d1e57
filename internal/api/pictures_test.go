package api_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/posts"
)

// bring uploads a file as a form does.
func (c *client) bring(name string, file []byte, alt string) (int, []byte) {
	c.t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", name)
	require.NoError(c.t, err)
	part.Write(file)
	require.NoError(c.t, form.WriteField("alt", alt))
	require.NoError(c.t, form.Close())
	answer, err := c.http.Post(c.url+site+"/pictures", form.FormDataContentType(), &body)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	raw, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	return answer.StatusCode, raw
}

func photo(t *testing.T, w, h int) []byte {
	p := image.NewRGBA(image.Rect(0, 0, w, h))
	for i := range w * h {
		p.Set(i%w, i/w, color.RGBA{uint8(i), uint8(i / 3), uint8(i / 7), 255})
	}
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, p, nil))
	return out.Bytes()
}

func TestPicturesAreBroughtAndShown(t *testing.T) {
	c := signedIn(t)
	code, raw := c.bring(`C:\holiday\dome.JPG`, photo(t, 1200, 600), "The dome at dusk")
	require.Equal(t, 201, code, "%s", raw)
	var p posts.Picture
	require.NoError(t, json.Unmarshal(raw, &p))
	assert.Equal(t, "dome.JPG", p.Name)
	assert.Equal(t, [2]int{1200, 600}, [2]int{p.Width, p.Height})
	for _, address := range []string{p.Address, p.Small, strings.Replace(p.Small, "@480", "@960", 1)} {
		answer, err := http.Get(c.url + address)
		require.NoError(t, err)
		config, err := jpeg.DecodeConfig(answer.Body)
		answer.Body.Close()
		require.NoError(t, err)
		assert.Equal(t, config.Width, 2*config.Height)
		assert.Equal(t, "image/jpeg", answer.Header.Get("Content-Type"))
		assert.Equal(t, "nosniff", answer.Header.Get("X-Content-Type-Options"))
		assert.Equal(t, "default-src 'none'; sandbox", answer.Header.Get("Content-Security-Policy"))
		assert.Contains(t, answer.Header.Get("Cache-Control"), "max-age=600")
	}
	c.call("GET", strings.Replace(p.Small, "@480", "@481", 1), nil, 404, nil)
	c.call("GET", strings.Replace(p.Address, "dome", "elsewhere", 1), nil, 404, nil)

	var seen posts.Rendered
	c.call("POST", site+"/render", map[string]string{"body": "![The dome](" + p.Address + ")"}, 200, &seen)
	assert.Contains(t, seen.HTML, `srcset="`+p.Small+` 480w, `)
	assert.Contains(t, seen.HTML, `width="1200" height="600"`)
	assert.Contains(t, seen.HTML, `loading="lazy"`)

	var changed posts.Picture
	c.call("PUT", site+"/pictures/"+itoa(p.ID), map[string]string{"alt": "The dome, later"}, 200, &changed)
	assert.Equal(t, "The dome, later", changed.Alt)
	var page posts.PicturesPage
	c.call("GET", site+"/pictures", nil, 200, &page)
	require.Len(t, page.Pictures, 1)
	assert.Equal(t, changed, page.Pictures[0])

	// Found by a part of its file's name or of what it shows, with the posts that show it.
	shows, features := c.world.Draft(t, "Shows it"), c.world.Draft(t, "Features it")
	c.call("PATCH", site+"/posts/"+itoa(shows.ID), map[string]any{"version": shows.Version, "body": "Twice: ![](" +
		p.Address + ") ![](" + p.Small + ")"}, 200, &shows)
	c.call("PATCH", site+"/posts/"+itoa(features.ID), map[string]any{"version": features.Version,
		"featured": map[string]any{"address": p.Address, "alt": "x"}}, 200, nil)
	for find, n := range map[string]int{"DOME.jpg": 1, "later": 1, "%": 0, "_": 0, "moon": 0} {
		c.call("GET", site+"/pictures?find="+url.QueryEscape(find), nil, 200, &page)
		require.Len(t, page.Pictures, n, find)
	}
	c.call("GET", site+"/pictures", nil, 200, &page)
	assert.Equal(t, 2, page.Pictures[0].Uses)
	assert.ElementsMatch(t, []posts.PostRef{{ID: shows.ID, Title: "Shows it"}, {ID: features.ID, Title: "Features it"}},
		page.Pictures[0].UsedIn)
	c.call("PATCH", site+"/posts/"+itoa(shows.ID), map[string]any{"version": c.world.Reload(t, shows.ID).Version,
		"body": "No more."}, 200, nil)
	c.call("GET", site+"/pictures", nil, 200, &page)
	assert.Equal(t, []posts.PostRef{{ID: features.ID, Title: "Features it"}}, page.Pictures[0].UsedIn)
}

// replace uploads another file in the place of a picture.
func (c *client) replace(id int64, file []byte) (int, []byte) {
	c.t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", "new.jpg")
	require.NoError(c.t, err)
	part.Write(file)
	require.NoError(c.t, form.Close())
	ask, err := http.NewRequest("PUT", c.url+site+"/pictures/"+itoa(id)+"/file", &body)
	require.NoError(c.t, err)
	ask.Header.Set("Content-Type", form.FormDataContentType())
	answer, err := c.http.Do(ask)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	raw, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	return answer.StatusCode, raw
}

func TestPicturesAreReplacedAndDeleted(t *testing.T) {
	c := signedIn(t)
	_, raw := c.bring("dome.jpg", photo(t, 1200, 600), "")
	var p posts.Picture
	require.NoError(t, json.Unmarshal(raw, &p))
	path := site + "/pictures/" + itoa(p.ID)
	post := c.world.Draft(t, "Shows it")
	c.call("PATCH", site+"/posts/"+itoa(post.ID), map[string]any{"version": post.Version, "body": "![](" + p.Address + ")"}, 200, nil)

	etag := func() string {
		answer, err := http.Get(c.url + p.Address)
		require.NoError(t, err)
		defer answer.Body.Close()
		require.Equal(t, 200, answer.StatusCode)
		return answer.Header.Get("ETag")
	}
	before := etag()
	code, raw := c.replace(p.ID, photo(t, 500, 500))
	require.Equal(t, 200, code, "%s", raw)
	var now posts.Picture
	require.NoError(t, json.Unmarshal(raw, &now))
	assert.Equal(t, [2]int{500, 500}, [2]int{now.Width, now.Height})
	assert.Equal(t, 1, now.Uses)
	assert.NotEqual(t, before, etag(), "browsers are told that it is another")
	for _, old := range []string{p.Address, p.Small, strings.Replace(p.Small, "@480", "@960", 1)} {
		answer, err := http.Get(c.url + old)
		require.NoError(t, err)
		config, err := jpeg.DecodeConfig(answer.Body)
		answer.Body.Close()
		require.NoError(t, err, old)
		assert.Equal(t, config.Width, config.Height, old)
	}
	code, raw = c.replace(p.ID, []byte("no picture"))
	assert.Equal(t, 422, code)
	assert.Contains(t, string(raw), "body.file")

	var refused struct{ Detail string }
	c.call("DELETE", path, nil, 409, &refused)
	assert.Contains(t, refused.Detail, "in use: “Shows it”")
	c.call("PATCH", site+"/posts/"+itoa(post.ID), map[string]any{"version": c.world.Reload(t, post.ID).Version, "body": "No more."}, 200, nil)
	c.call("DELETE", path, nil, 204, nil)
	c.call("DELETE", path, nil, 404, nil)
	c.call("GET", p.Address, nil, 404, nil)
	var page posts.PicturesPage
	c.call("GET", site+"/pictures?only=deleted", nil, 200, &page)
	require.Len(t, page.Pictures, 1)
	assert.NotNil(t, page.Pictures[0].Deleted)
	c.call("POST", path+"/restore", nil, 200, &now)
	assert.Nil(t, now.Deleted)
	for only, n := range map[string]int{"": 1, "undescribed": 1, "unused": 1, "deleted": 0} {
		c.call("GET", site+"/pictures"+map[bool]string{false: "?only=" + only}[only == ""], nil, 200, &page)
		assert.Len(t, page.Pictures, n, only)
	}
	c.call("PUT", path, map[string]string{"alt": "The dome"}, 200, nil)
	c.call("GET", site+"/pictures?only=undescribed", nil, 200, &page)
	assert.Empty(t, page.Pictures)

	var shown posts.Portrait
	c.call("PUT", site+"/portrait", map[string]any{"id": p.ID}, 200, &shown)
	require.NotNil(t, shown.Picture)
	assert.Equal(t, p.ID, shown.Picture.ID)
	c.call("PUT", site+"/portrait", map[string]any{"id": p.ID + 1}, 422, nil)
	c.call("DELETE", path, nil, 409, nil)
	c.call("PUT", site+"/portrait", map[string]any{"id": 0}, 200, &shown)
	c.call("DELETE", path, nil, 204, nil)
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	c := signedIn(t)
	for says, file := range map[string][]byte{
		"not a picture":     []byte("<html><script>alert(1)</script>"),
		"looks like a PNG":  []byte("\x89PNG\r\n\x1a\n<html>"),
		"larger than 20 MB": append(photo(t, 20, 20), make([]byte, 20<<20)...),
	} {
		code, raw := c.bring("a.png", file, "")
		assert.Equal(t, 422, code)
		assert.Contains(t, string(raw), says)
		assert.Contains(t, string(raw), "body.file")
	}
	var page posts.PicturesPage
	c.call("GET", site+"/pictures", nil, 200, &page)
	assert.Empty(t, page.Pictures)
	code, _ := c.bring("a.jpg", photo(t, 20, 20), strings.Repeat("x", 501))
	assert.Equal(t, 422, code)
}
