package gate

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A range counts the bytes of what is not packed (RFC 9110, section 14).
func TestARangeIsNotPacked(t *testing.T) {
	text := strings.Repeat("body { color: black } ", 1000)
	server := httptest.NewServer(Compressed()(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		http.ServeContent(w, r, "style.css", time.Time{}, strings.NewReader(text))
	})))
	defer server.Close()
	request, err := http.NewRequestWithContext(t.Context(), "GET", server.URL, nil)
	require.NoError(t, err)
	request.Header.Set("Accept-Encoding", "gzip")
	request.Header.Set("Range", "bytes=7-12")
	answer, err := http.DefaultTransport.RoundTrip(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	read, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.Equal(t, http.StatusPartialContent, answer.StatusCode)
	assert.Empty(t, answer.Header.Get("Content-Encoding"))
	assert.Equal(t, text[7:13], string(read))
}

func TestAnswersArePackedForThoseWhoUnderstandIt(t *testing.T) {
	text := strings.Repeat("A night under the dome. ", 1000)
	server := httptest.NewServer(Compressed()(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", r.URL.Query().Get("as"))
		io.WriteString(w, text)
	})))
	defer server.Close()
	for _, c := range []struct{ accept, as, encoding string }{
		{"gzip, br", "application/json", "gzip"},
		{"gzip", "text/html; charset=utf-8", "gzip"},
		{"", "application/json", ""},
		{"gzip", "image/png", ""},
	} {
		request, err := http.NewRequestWithContext(t.Context(), "GET", server.URL+"/?as="+url.QueryEscape(c.as), nil)
		require.NoError(t, err)
		request.Header.Set("Accept-Encoding", c.accept)
		answer, err := http.DefaultTransport.RoundTrip(request)
		require.NoError(t, err)
		defer answer.Body.Close()
		assert.Equal(t, c.encoding, answer.Header.Get("Content-Encoding"), "%+v", c)
		var body io.Reader = answer.Body
		if c.encoding == "gzip" {
			body, err = gzip.NewReader(answer.Body)
			require.NoError(t, err)
		}
		read, err := io.ReadAll(body)
		require.NoError(t, err)
		assert.Equal(t, text, string(read))
	}
}
