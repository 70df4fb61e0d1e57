package api

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/pgtest"
)

var built = fstest.MapFS{
	"index.html": {Data: []byte("<html><head></head><body></body></html>")},
	"assets/manifest.json": {Data: []byte(`{
		"_shared-1.js": {"file": "assets/shared-1.js"},
		"src/main.tsx": {"file": "assets/main-1.js", "src": "src/main.tsx", "imports": ["_shared-1.js"], "css": ["assets/main-1.css"], "assets": ["assets/bodoni-moda-latin-wght-normal-1.woff2", "assets/bodoni-moda-latin-ext-wght-normal-1.woff2"], "dynamicImports": ["src/features/almanac/AlmanacScreen.tsx"]},
		"src/features/almanac/AlmanacScreen.tsx": {"file": "assets/AlmanacScreen-1.js", "src": "src/features/almanac/AlmanacScreen.tsx", "imports": ["_shared-1.js", "src/main.tsx"]},
		"src/features/posts/PostsScreen.tsx": {"file": "assets/PostsScreen-1.js", "src": "src/features/posts/PostsScreen.tsx", "imports": ["_shared-1.js"]}
	}`)},
	"assets/main-1.js":    {Data: []byte("plain")},
	"assets/main-1.js.br": {Data: []byte("as br")},
	"assets/main-1.js.gz": {Data: []byte("as gzip")},
}

// A screen's scripts, styles and first data are fetched with its document, each once, and
// nothing that it has no use for.
func TestWhatAScreenFetchesAhead(t *testing.T) {
	parts := partsOf(built)
	for _, c := range []struct {
		address  string
		signedIn bool
		want     string
	}{
		{"/dome", true, "main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js AlmanacScreen-1.js session status almanac?days=14 marks?days=14 unready"},
		{"/dome/", false, "main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js AlmanacScreen-1.js"},
		{"/dome?view=month", true,
			"main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js AlmanacScreen-1.js session status"},
		{"/dome/posts?stages=draft", true,
			"main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js PostsScreen-1.js session status"},
		{"/", true, "main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js session"},
		{"/sign-in", false, "main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js AlmanacScreen-1.js"},
		{"/sign-in", true, "main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js AlmanacScreen-1.js session"},
		{"/dome/no/such", true, "main-1.css bodoni-moda-latin-wght-normal-1.woff2 shared-1.js main-1.js session"},
	} {
		address, err := url.Parse(c.address)
		assert.NoError(t, err)
		var got []string
		for line := range strings.Lines(parts.ahead(address, c.signedIn)) {
			_, href, _ := strings.Cut(line, `href="`)
			href, _, _ = strings.Cut(href, `"`)
			got = append(got, href[strings.LastIndex(href, "/")+1:])
		}
		assert.Equal(t, c.want, strings.Join(got, " "), c.address)
	}
	evil, err := url.Parse(`/%22%3E%3Cscript%3E/posts`)
	assert.NoError(t, err)
	assert.NotContains(t, parts.ahead(evil, true), "<script>")
	assert.Empty(t, partsOf(fstest.MapFS{}))
}

// A file that lies packed is sent packed to who takes it, and plain to who does not.
func TestPackedFiles(t *testing.T) {
	s := &Server{Tools: &operation.Tools{Log: pgtest.Quiet()}, config: Config{Web: built}}
	for accepted, want := range map[string]string{
		"gzip, deflate, br, zstd": "as br", "gzip": "as gzip", "br;q=0, gzip;q=0.5": "as gzip", "": "", "gzip;q=0": "", "brotli": "", "GZIP": "as gzip",
	} {
		r := httptest.NewRequest(http.MethodGet, "/assets/main-1.js", nil)
		r.Header.Set("Accept-Encoding", accepted)
		w := httptest.NewRecorder()
		assert.Equal(t, want != "", s.packed(w, r, "assets/main-1.js"), accepted)
		assert.Equal(t, want, w.Body.String(), accepted)
		assert.Equal(t, "Accept-Encoding", w.Header().Get("Vary"))
		if want != "" {
			assert.Equal(t, strings.TrimPrefix(want, "as "), w.Header().Get("Content-Encoding"))
			assert.Equal(t, "text/javascript; charset=utf-8", w.Header().Get("Content-Type"))
		}
	}
	r := httptest.NewRequest(http.MethodGet, "/assets/main-1.js", nil)
	r.Header.Set("Accept-Encoding", "gzip")
	r.Header.Set("Range", "bytes=0-1")
	assert.False(t, s.packed(httptest.NewRecorder(), r, "assets/main-1.js"), "a range counts bytes of the plain file")
}

// The server knows the screens as they name themselves.
func TestTheServerKnowsTheScreens(t *testing.T) {
	source, err := os.ReadFile("../../web/src/screens.tsx")
	require.NoError(t, err)
	named := make(map[string]string)
	for _, found := range regexp.MustCompile(`(?m)^  "?(\w*)"?: screen\(\(\) => import\("\./features/([\w/]+)"\)\)`).FindAllStringSubmatch(string(source), -1) {
		named[found[1]] = found[2]
	}
	require.Greater(t, len(named), 8)
	delete(named, "rule") // one rule is below the rules
	delete(named, "imported")
	assert.Equal(t, named, screenSources)
}
