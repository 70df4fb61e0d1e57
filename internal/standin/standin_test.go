package standin_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/message"
	"dapper.example/internal/standin"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func send(l *standin.Lantern, token, key, text string) *httptest.ResponseRecorder {
	r := httptest.NewRequest("POST", "/api/messages", strings.NewReader(`{"text":"`+text+`"}`))
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	r.Header.Set("Idempotency-Key", key)
	answer := httptest.NewRecorder()
	l.Handler().ServeHTTP(answer, r)
	return answer
}

func TestTheWallShowsEachMessageOnce(t *testing.T) {
	l, err := standin.NewLantern("", clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	first := send(l, "a", "k1", "Look up: https://dome.example/p #Dome <b>")
	assert.Equal(t, http.StatusCreated, first.Code)
	again := send(l, "a", "k1", "Look up: https://dome.example/p #Dome <b>")
	assert.Equal(t, http.StatusOK, again.Code)
	assert.Equal(t, first.Body.String(), again.Body.String())
	assert.Equal(t, http.StatusConflict, send(l, "a", "k1", "Something else").Code)
	assert.Equal(t, http.StatusCreated, send(l, "b", "k1", "Another sender").Code)
	assert.Len(t, l.Messages(), 2)

	wall := httptest.NewRecorder()
	l.Handler().ServeHTTP(wall, httptest.NewRequest("GET", "/", nil))
	assert.Contains(t, wall.Body.String(),
		`<a href="https://dome.example/p">https://dome.example/p</a> <b>#Dome</b> &lt;b&gt;`)
	assert.Less(t, strings.Index(wall.Body.String(), "Another sender"), strings.Index(wall.Body.String(), "Look up"),
		"latest first")
}

func TestWhatLanternRefuses(t *testing.T) {
	l, err := standin.NewLantern("", clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	assert.Equal(t, http.StatusUnauthorized, send(l, "", "k", "x").Code)
	assert.Equal(t, http.StatusBadRequest, send(l, "a", "", "x").Code)
	assert.Equal(t, http.StatusUnprocessableEntity, send(l, "a", "k", " ").Code)
	long := send(l, "a", "k", strings.Repeat("é", 321))
	assert.Equal(t, http.StatusUnprocessableEntity, long.Code)
	assert.Contains(t, long.Body.String(), "321 characters; Lantern takes 320")
	assert.Equal(t, http.StatusCreated, send(l, "a", "k2", strings.Repeat("é",
		290)+" https://dome.example/"+strings.Repeat("long", 50)).Code, "a link counts the same, however long")
}

func TestLanternAsksToWait(t *testing.T) {
	clock := clockwork.NewFakeClockAt(noon)
	l, err := standin.NewLantern("", clock)
	require.NoError(t, err)
	l.Rate = 2
	for i := range 2 {
		require.Equal(t, http.StatusCreated, send(l, "a", string(rune('a'+i)), "x").Code)
	}
	busy := send(l, "a", "c", "x")
	assert.Equal(t, http.StatusTooManyRequests, busy.Code)
	assert.Equal(t, "30", busy.Header().Get("Retry-After"))
	assert.Equal(t, http.StatusCreated, send(l, "other", "c", "x").Code)
	clock.Advance(30 * time.Second)
	assert.Equal(t, http.StatusCreated, send(l, "a", "c", "x").Code)
}

func TestMessagesOutliveAnEnd(t *testing.T) {
	dir := t.TempDir()
	l, err := standin.NewLantern(dir, clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	require.Equal(t, http.StatusCreated, send(l, "a", "k1", "Kept").Code)
	require.NoError(t, l.Close())
	// A crash cuts the last line off.
	file, err := os.OpenFile(filepath.Join(dir, "lantern.jsonl"), os.O_APPEND|os.O_WRONLY, 0)
	require.NoError(t, err)
	_, err = file.WriteString(`{"id":"half`)
	require.NoError(t, err)
	require.NoError(t, file.Close())

	l, err = standin.NewLantern(dir, clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	defer l.Close()
	assert.Equal(t, http.StatusOK, send(l, "a", "k1", "Kept").Code, "the key is known again")
	assert.Len(t, l.Messages(), 1)
}

// Every message that the composer says fits is taken, wherever addresses stand in it.
func TestWhatFitsIsTaken(t *testing.T) {
	l, err := standin.NewLantern("", clockwork.NewFakeClock())
	require.NoError(t, err)
	l.Rate = 0
	server := httptest.NewServer(l.Handler())
	defer server.Close()
	network, _ := channel.Of(channel.Lantern)
	account := channel.Account{Address: server.URL, Token: "dome"}
	limits := network.Limits()
	word := rapid.SampledFrom([]string{"http://a.bc", "(https://blog.example/a/very/long/path/to/nowhere)",
		"xhttp://y", "HTTPS://a.b.", "“http://a.bc”", "星。", "http://…", "moon", "<b>&", "👩‍🚀", "e\u0301", "http://a.bc,http://d.ef", "\x01"})
	n := 0
	rapid.Check(t, func(rt *rapid.T) {
		text := func(name string) string {
			return strings.Join(rapid.SliceOfN(word, 0, 60).Draw(rt, name),
				rapid.SampledFrom([]string{" ", "", "\n"}).Draw(rt, "between"))
		}
		w, err := message.ReadWording(rapid.SampledFrom([]string{"{title} {link}", "({link}){excerpt}",
			"{excerpt}{link}{hashtags}", "Look: {line} {link} http://own.example {hashtags}", "{field:x}"}).Draw(rt, "wording"))
		require.NoError(rt, err)
		m, err := message.Compose(w, message.Post{Title: text("title"), Excerpt: text("excerpt"),
			Link: "https://blog.example/winter", Tags: []string{"moon",
				"http"}, Fields: map[string]string{"x": text("field")}},
			message.Hashtags{Sources: []message.Source{message.FromTags}}, limits)
		if err != nil {
			return
		}
		n++
		_, err = network.Send(t.Context(), account, channel.Message{Key: strconv.Itoa(n), Text: m.Text})
		require.NoError(rt, err, "%q", m.Text)
		require.Equal(rt, m.Text, l.Messages()[n-1].Text)
	})
	require.NotZero(t, n)
}

// A wall that is begun with messages shows them as if they had been handed in, and takes
// further ones after them.
func TestAWallBeginsWithMessages(t *testing.T) {
	dir := t.TempDir()
	first := standin.Message{Key: "a", From: "token", Text: "Clear tonight.",
		At: time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)}
	require.NoError(t, standin.Seed(dir, []standin.Message{{Key: "old", From: "token", Text: "Gone."}}))
	require.NoError(t, standin.Seed(dir, []standin.Message{first}), "it begins anew")
	lantern, err := standin.NewLantern(dir, clockwork.NewRealClock())
	require.NoError(t, err)
	defer lantern.Close()
	on := lantern.Messages()
	require.Len(t, on, 1)
	assert.NotEmpty(t, on[0].ID)
	first.ID = on[0].ID
	assert.Equal(t, first, on[0])
}
