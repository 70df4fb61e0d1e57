package channel_test

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
)

func TestWhatIsSentAndRead(t *testing.T) {
	t.Parallel()
	var seen *http.Request
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		seen = r
		w.WriteHeader(http.StatusCreated)
		w.Write([]byte(`{"id":"m1","url":"http://wall/#m1"}`))
	}))
	defer server.Close()
	receipt, err := channel.NewClient(server.URL+"/", "secret").Send(t.Context(), channel.Message{Key: "k1", Text: "Hello"})
	require.NoError(t, err)
	assert.Equal(t, channel.Receipt{ID: "m1", URL: "http://wall/#m1"}, receipt)
	assert.Equal(t, "/api/messages", seen.URL.Path)
	assert.Equal(t, "Bearer secret", seen.Header.Get("Authorization"))
	assert.Equal(t, "k1", seen.Header.Get("Idempotency-Key"))
}

func TestAnswersThatAreNoReceipt(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		code       int
		body, wait string
		refused    string
		after      time.Duration
	}{
		{429, "", "7", "", 7 * time.Second},
		{429, "", "soon", "", time.Minute},
		{429, "", "999999", "", time.Hour},
		{403, `{"title":"No."}`, "", "No.", 0},
		{404, `<html>`, "", "404 Not Found", 0},
		{302, ``, "", "", 0},
		{408, ``, "", "", 0},
		{503, ``, "", "", 0},
		{200, `[1,2]`, "", "", 0},
	} {
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if c.code == 302 {
				http.Redirect(w, r, "/elsewhere", c.code)
				return
			}
			w.Header().Set("Retry-After", c.wait)
			w.WriteHeader(c.code)
			w.Write([]byte(c.body))
		}))
		_, err := channel.NewClient(server.URL, "t").Send(t.Context(), channel.Message{Key: "k", Text: "x"})
		server.Close()
		require.Error(t, err)
		var refused *channel.Refused
		var later *channel.Later
		switch {
		case c.refused != "":
			require.ErrorAs(t, err, &refused, "%d", c.code)
			assert.Equal(t, c.refused, refused.Reason)
		case c.after != 0:
			require.ErrorAs(t, err, &later, "%d", c.code)
			assert.Equal(t, c.after, later.After)
		default:
			assert.NotErrorAs(t, err, &refused, "%d may be tried again", c.code)
		}
	}
	_, err := channel.NewClient("http://127.0.0.1:1", "t").Send(t.Context(), channel.Message{})
	assert.ErrorContains(t, err, "could not be reached")
	var refused *channel.Refused
	_, err = channel.NewClient("http://\x7f", "t").Send(t.Context(), channel.Message{})
	require.ErrorAs(t, err, &refused)
}
