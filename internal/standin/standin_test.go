package standin_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
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

func send(l *standin.Network, token, key, text string) *httptest.ResponseRecorder {
	r := httptest.NewRequest("POST", "/api/messages", strings.NewReader(`{"text":"`+text+`"}`))
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	r.Header.Set("Idempotency-Key", key)
	answer := httptest.NewRecorder()
	l.Handler().ServeHTTP(answer, r)
	return answer
}

// admit lets the senders of these tests in.
func admit(n *standin.Network) {
	for _, token := range []string{"a", "b", "other", "dome"} {
		n.Admit(token, token)
	}
}

func TestTheWallShowsEachMessageOnce(t *testing.T) {
	l, err := standin.New(channel.Lantern, "", clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	admit(l)
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
		`<a href="https://dome.example/p" rel="noreferrer">https://dome.example/p</a> <b>#Dome</b> &lt;b&gt;`)
	assert.Less(t, strings.Index(wall.Body.String(), "Another sender"), strings.Index(wall.Body.String(), "Look up"),
		"latest first")
}

func TestWhatLanternRefuses(t *testing.T) {
	l, err := standin.New(channel.Lantern, "", clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	admit(l)
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
	l, err := standin.New(channel.Lantern, "", clock)
	require.NoError(t, err)
	admit(l)
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
	l, err := standin.New(channel.Lantern, dir, clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	admit(l)
	require.Equal(t, http.StatusCreated, send(l, "a", "k1", "Kept").Code)
	require.NoError(t, l.Close())
	// A crash cuts the last line off.
	file, err := os.OpenFile(filepath.Join(dir, "lantern-messages.jsonl"), os.O_APPEND|os.O_WRONLY, 0)
	require.NoError(t, err)
	_, err = file.WriteString(`{"id":"half`)
	require.NoError(t, err)
	require.NoError(t, file.Close())

	l, err = standin.New(channel.Lantern, dir, clockwork.NewFakeClockAt(noon))
	require.NoError(t, err)
	admit(l)
	defer l.Close()
	assert.Equal(t, http.StatusOK, send(l, "a", "k1", "Kept").Code, "the key is known again")
	assert.Len(t, l.Messages(), 1)
}

// Every message that the composer says fits is taken, wherever addresses stand in it.
func TestWhatFitsIsTaken(t *testing.T) {
	l, err := standin.New(channel.Lantern, "", clockwork.NewFakeClock())
	require.NoError(t, err)
	admit(l)
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
	require.NoError(t, standin.Seed(channel.Lantern, dir, []standin.Seeded{{Message: standin.Message{Key: "old", From: "token", Text: "Gone."}}}, nil))
	require.NoError(t, standin.Seed(channel.Lantern, dir, []standin.Seeded{{Message: first, Media: [][]byte{gif}}}, map[string]string{"tok": "quillmoor"}), "it begins anew")
	lantern, err := standin.New(channel.Lantern, dir, clockwork.NewRealClock())
	require.NoError(t, err)
	defer lantern.Close()
	on := lantern.Messages()
	require.Len(t, on, 1)
	assert.NotEmpty(t, on[0].ID)
	require.Len(t, on[0].Pictures, 1)
	first.ID, first.Pictures = on[0].ID, on[0].Pictures
	assert.Equal(t, first, on[0])
}

// signIn goes through the sign-in as a browser and the program do.
func signIn(t *testing.T, server *httptest.Server, handle string) channel.Tokens {
	t.Helper()
	desk := channel.SignInAt(server.URL, "http://127.0.0.1:1/back")
	verifier := channel.NewVerifier()
	page := desk.Page("state7", verifier)
	browser := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	shown, err := browser.Get(page)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, shown.StatusCode)
	answer, err := browser.PostForm(page, url.Values{"answer": {"allow"}, "handle": {handle}})
	require.NoError(t, err)
	require.Equal(t, http.StatusSeeOther, answer.StatusCode)
	back, err := answer.Location()
	require.NoError(t, err)
	require.Equal(t, "state7", back.Query().Get("state"))
	_, err = desk.Take(t.Context(), back.Query().Get("code"), channel.NewVerifier())
	var out *channel.SignedOut
	require.ErrorAs(t, err, &out, "a code without its proof is worth nothing")
	answer, err = browser.PostForm(page, url.Values{"answer": {"allow"}, "handle": {handle}})
	require.NoError(t, err)
	back, err = answer.Location()
	require.NoError(t, err)
	tokens, err := desk.Take(t.Context(), back.Query().Get("code"), verifier)
	require.NoError(t, err)
	_, err = desk.Take(t.Context(), back.Query().Get("code"), verifier)
	require.ErrorAs(t, err, &out, "a code is good once")
	return tokens
}

func TestSigningInAndOut(t *testing.T) {
	clock := clockwork.NewFakeClockAt(time.Now())
	n, err := standin.New(channel.Hearth, t.TempDir(), clock)
	require.NoError(t, err)
	defer n.Close()
	server := httptest.NewServer(n.Handler())
	defer server.Close()
	tokens := signIn(t, server, " @Quillmoor ")
	account := channel.Account{Address: server.URL, Token: tokens.Access}
	handle, err := channel.Handle(t.Context(), account)
	require.NoError(t, err)
	assert.Equal(t, "quillmoor", handle)
	hearth, _ := channel.Of(channel.Hearth)
	_, err = hearth.Send(t.Context(), account, channel.Message{Key: "1", Text: "Good evening"})
	require.NoError(t, err)

	clock.Advance(61 * time.Minute)
	var out *channel.SignedOut
	_, err = hearth.Send(t.Context(), account, channel.Message{Key: "2", Text: "Still here"})
	require.ErrorAs(t, err, &out)
	desk := channel.SignInAt(server.URL, "http://127.0.0.1:1/back")
	renewed, err := desk.Renew(t.Context(), tokens.Refresh)
	require.NoError(t, err)
	_, err = desk.Renew(t.Context(), tokens.Refresh)
	require.ErrorAs(t, err, &out, "a token to renew with is good once")
	account.Token = renewed.Access
	_, err = hearth.Send(t.Context(), account, channel.Message{Key: "2", Text: "Still here"})
	require.NoError(t, err)
	assert.Equal(t, "quillmoor", n.Messages()[1].From)
	n.Revoke("quillmoor")
	_, err = desk.Renew(t.Context(), renewed.Refresh)
	require.ErrorAs(t, err, &out)

	no, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).
		PostForm(desk.Page("s", channel.NewVerifier()), url.Values{"answer": {"refuse"}})
	require.NoError(t, err)
	assert.Contains(t, no.Header.Get("Location"), "error=access_denied")
	for _, bad := range []string{"/oauth/authorize", "/oauth/authorize?client_id=x&response_type=code&code_challenge=c&code_challenge_method=S256&redirect_uri=javascript:alert(1)"} {
		page, err := http.Get(server.URL + bad)
		require.NoError(t, err)
		assert.Equal(t, http.StatusBadRequest, page.StatusCode)
	}
}

var gif = []byte("GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\xff\xff\xff!\xf9\x04\x01\x00\x00\x00\x00,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;")

// What each network wants and refuses is what its description says.
func TestWhatNetworksTake(t *testing.T) {
	picture := []channel.Media{{Type: "image/gif", Alt: "A star", Data: gif}}
	for _, c := range []struct {
		kind    string
		message channel.Message
		refuses string
	}{
		{channel.Vitrine, channel.Message{Text: "No picture"}, "no message without a picture"},
		{channel.Vitrine, channel.Message{Text: "One", Media: picture}, ""},
		{channel.Vitrine, channel.Message{Text: "One", Media: picture, ReplyTo: "x"}, "takes no replies"},
		{channel.Crier, channel.Message{Text: "Words alone"}, ""},
		{channel.Crier, channel.Message{Text: strings.Repeat("é", 1001)}, "1001 characters; Crier takes 1000"},
		{channel.Hearth, channel.Message{Text: strings.Repeat("é", 5000)}, ""},
		{channel.Hearth, channel.Message{Text: "Reply", ReplyTo: "nothing"}, "no message to reply to"},
	} {
		n, err := standin.New(c.kind, "", clockwork.NewRealClock())
		require.NoError(t, err)
		n.Admit("t", "dome")
		server := httptest.NewServer(n.Handler())
		network, _ := channel.Of(c.kind)
		c.message.Key = "k"
		_, err = network.Send(t.Context(), channel.Account{Address: server.URL, Token: "t"}, c.message)
		if c.refuses == "" {
			require.NoError(t, err, c.kind)
			wall, err := http.Get(server.URL + "/")
			require.NoError(t, err)
			page, err := io.ReadAll(wall.Body)
			require.NoError(t, err)
			assert.Equal(t, len(c.message.Media) > 0, strings.Contains(string(page), `alt="A star"`))
			if len(c.message.Media) > 0 {
				shown, err := http.Get(server.URL + "/pictures/" + n.Messages()[0].Pictures[0])
				require.NoError(t, err)
				assert.Equal(t, "image/gif", shown.Header.Get("Content-Type"))
			}
		} else {
			assert.ErrorContains(t, err, c.refuses, c.kind)
		}
		server.Close()
	}
}

func TestTheWeatherTurns(t *testing.T) {
	n, err := standin.New(channel.Lantern, "", clockwork.NewRealClock())
	require.NoError(t, err)
	n.Admit("t", "dome")
	server := httptest.NewServer(n.Handler())
	defer server.Close()
	network, _ := channel.Of(channel.Lantern)
	send := func(key string, media ...channel.Media) error {
		_, err := network.Send(t.Context(), channel.Account{Address: server.URL, Token: "t"}, channel.Message{Key: key, Text: "x", Media: media})
		return err
	}
	var refused *channel.Refused
	var later *channel.Later
	var out *channel.SignedOut
	turn := func(to standin.Weather) {
		answer, err := http.PostForm(server.URL+"/weather", url.Values{"weather": {string(to)}})
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, answer.StatusCode)
	}
	turn(standin.Refusing)
	require.ErrorAs(t, send("1"), &refused)
	assert.True(t, refused.OfMessage)
	turn(standin.Expired)
	require.ErrorAs(t, send("1"), &out)
	turn(standin.NoPictures)
	require.ErrorAs(t, send("1", channel.Media{Data: gif}), &refused)
	require.NoError(t, send("2"))
	turn(standin.Busy)
	require.ErrorAs(t, send("3"), &later)
	assert.Equal(t, time.Minute, later.After)
	for _, w := range []standin.Weather{standin.Rubbish, standin.Down} {
		turn(w)
		err := send("3")
		require.Error(t, err)
		assert.NotErrorAs(t, err, &refused)
	}
	turn(standin.Silent)
	require.Error(t, send("4"))
	assert.Len(t, n.Messages(), 2, "it has the message all the same")
	turn(standin.Fair)
	require.NoError(t, send("4"), "and knows it again by its key")
	assert.Len(t, n.Messages(), 2)
	answer, err := http.PostForm(server.URL+"/weather", url.Values{"weather": {"hail"}})
	require.NoError(t, err)
	assert.Equal(t, http.StatusBadRequest, answer.StatusCode)
}
