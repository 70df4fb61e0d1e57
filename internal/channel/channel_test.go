package channel_test

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
)

func lantern(t *testing.T) channel.Network {
	n, ok := channel.Of(channel.Lantern)
	require.True(t, ok)
	return n
}

func TestNetworksAreKnownByTheirKind(t *testing.T) {
	t.Parallel()
	n := lantern(t)
	assert.Equal(t, "Lantern", n.Name())
	assert.Equal(t, channel.Lantern, n.Kind())
	apart, aDay := n.Pace()
	assert.Equal(t, []int{20, 24, 4}, []int{apart, aDay, n.Media()})
	_, ok := channel.Of("no such network")
	assert.False(t, ok)
}

func TestWhatIsSentAndRead(t *testing.T) {
	t.Parallel()
	var seen *http.Request
	var body map[string]any
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		seen = r
		body = nil
		require.NoError(t, json.NewDecoder(r.Body).Decode(&body))
		w.WriteHeader(http.StatusCreated)
		w.Write([]byte(`{"id":"m1","url":"http://wall/#m1"}`))
	}))
	defer server.Close()
	receipt, err := lantern(t).Send(t.Context(), channel.Account{Address: server.URL + "/", Token: "secret"},
		channel.Message{Key: "k1", Text: "Hello"})
	require.NoError(t, err)
	assert.Equal(t, channel.Receipt{ID: "m1", URL: "http://wall/#m1"}, receipt)
	assert.Equal(t, "/api/messages", seen.URL.Path)
	assert.Equal(t, "Bearer secret", seen.Header.Get("Authorization"))
	assert.Equal(t, "k1", seen.Header.Get("Idempotency-Key"))
	assert.Equal(t, map[string]any{"text": "Hello"}, body)

	_, err = lantern(t).Send(t.Context(), channel.Account{Address: server.URL, Token: "secret"},
		channel.Message{Key: "k2", Text: "More", ReplyTo: "m1",
			Media: []channel.Media{{Type: "image/png", Alt: "A dome", Data: []byte{1, 2, 3}}}})
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"text": "More", "inReplyTo": "m1",
		"media": []any{map[string]any{"type": "image/png", "alt": "A dome", "data": "AQID"}}}, body)
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
		{429, "", "Tue, 24 Nov 2026 12:05:00 GMT", "", 5 * time.Minute},
		{503, "", "20", "", 20 * time.Second},
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
			if strings.HasSuffix(c.wait, "GMT") {
				w.Header().Set("Date", "Tue, 24 Nov 2026 12:00:00 GMT")
			}
			if c.wait == "" {
				w.Header().Del("Retry-After")
			}
			w.WriteHeader(c.code)
			w.Write([]byte(c.body))
		}))
		_, err := lantern(t).Send(t.Context(), channel.Account{Address: server.URL, Token: "t"},
			channel.Message{Key: "k", Text: "x"})
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
	_, err := lantern(t).Send(t.Context(), channel.Account{Address: "http://127.0.0.1:1", Token: "t"},
		channel.Message{})
	assert.ErrorContains(t, err, "could not be reached")
	var refused *channel.Refused
	_, err = lantern(t).Send(t.Context(), channel.Account{Address: "http://\x7f", Token: "t"}, channel.Message{})
	require.ErrorAs(t, err, &refused)
}
