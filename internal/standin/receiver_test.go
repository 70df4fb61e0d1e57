package standin_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/signed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
)

func TestAProgramTakesWebhooksAndSaysWhatBecameOfThem(t *testing.T) {
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	secret := signed.NewSecret([signed.SecretSize]byte{1})
	var told signed.Message
	almanac := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		told = signed.Message{ID: r.Header.Get("webhook-id"), Timestamp: r.Header.Get("webhook-timestamp"), Signature: r.Header.Get("webhook-signature")}
		told.Body, _ = io.ReadAll(r.Body)
		w.WriteHeader(http.StatusNoContent)
	}))
	t.Cleanup(almanac.Close)
	program := standin.NewReceiver(clock)
	server := httptest.NewServer(program.Handler())
	t.Cleanup(server.Close)
	hand := func(body string) int {
		r, err := http.NewRequest(http.MethodPost, server.URL+"/", strings.NewReader(body))
		require.NoError(t, err)
		signature, err := signed.Sign([]string{secret}, "m", clock.Now(), []byte(body))
		require.NoError(t, err)
		r.Header.Set(signed.IDHeader, "m")
		r.Header.Set(signed.TimestampHeader, strconv.FormatInt(clock.Now().Unix(), 10))
		r.Header.Set(signed.SignatureHeader, signature)
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		answer.Body.Close()
		return answer.StatusCode
	}
	page := func() string {
		answer, err := http.Get(server.URL + "/")
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return string(text)
	}
	post := func(path string, values url.Values) {
		answer, err := http.PostForm(server.URL+path, values)
		require.NoError(t, err)
		answer.Body.Close()
	}
	assert.Equal(t, http.StatusUnprocessableEntity, hand("nonsense"))
	assert.Equal(t, http.StatusNoContent, hand(`{"type":"message.send","data":{"key":"k","text":"<b>","done":"`+almanac.URL+`"}}`))
	assert.Contains(t, page(), "&lt;b&gt;")
	post("/told", url.Values{"key": {"k"}, "state": {"sent"}})
	assert.Contains(t, page(), "secret first")
	post("/settings", url.Values{"secret": {secret}})
	assert.Contains(t, page(), "signature is right")
	post("/told", url.Values{"key": {"k"}, "state": {"sent"}})
	assert.Contains(t, page(), "Told: sent.")
	require.NoError(t, told.Verify([]string{secret}, clock.Now()))
	assert.JSONEq(t, `{"key":"k","state":"sent"}`, string(told.Body))
	post("/settings", url.Values{"refuses": {"on"}})
	assert.Equal(t, http.StatusServiceUnavailable, hand(`{"type":"x"}`))
	assert.Len(t, program.Received(), 1)
}
