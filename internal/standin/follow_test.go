package standin_test

import (
	"net/http"
	"net/http/httptest"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/followers"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
)

// Followers click the link of a message as often as the model says, once the time has come; links that lead elsewhere
// they leave alone.
func TestFollowersClickInTheirTime(t *testing.T) {
	var clicks, posted atomic.Int32
	blog := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		clicks.Add(1)
		http.Redirect(w, r, "http://elsewhere.example/", http.StatusFound)
	}))
	t.Cleanup(blog.Close)
	clock := clockwork.NewFakeClockAt(pgtest.Noon.Add(7 * time.Hour))
	hearth, err := standin.New(channel.Hearth, "", clock)
	require.NoError(t, err)
	hearth.Admit("t", "dome")
	hearth.Follow(t.Context())
	server := httptest.NewServer(hearth.Handler())
	t.Cleanup(server.Close)
	network, _ := channel.Of(channel.Hearth)
	post := func(text string) {
		_, err := network.Send(t.Context(), channel.Account{Address: server.URL, Token: "t"}, channel.Message{Key: string(rune('a' + posted.Add(1))), Text: text})
		require.NoError(t, err)
	}
	text := "Tonight: " + blog.URL + "/s/abc"
	want := len(followers.Said{Network: channel.Hearth, Text: text, Wording: "Tonight: ", Nth: 1, At: clock.Now().UTC()}.Clicks())
	require.NotZero(t, want)
	post(text)
	post("Far away: http://elsewhere.example/")
	assert.Zero(t, clicks.Load())
	clock.Advance(8 * time.Hour)
	assert.Eventually(t, func() bool { return int(clicks.Load()) == want }, 10*time.Second, time.Millisecond)
}
