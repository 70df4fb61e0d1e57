package channel_test

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/reach"
)

func TestWhereASiteTakesNotes(t *testing.T) {
	var header http.Header
	var page string
	mux := http.NewServeMux()
	mux.HandleFunc("/{$}", func(w http.ResponseWriter, r *http.Request) {
		for name, values := range header {
			w.Header()[name] = values
		}
		_, _ = io.WriteString(w, page)
	})
	mux.Handle("/elsewhere", http.RedirectHandler("/", http.StatusMovedPermanently))
	mux.Handle("/round", http.RedirectHandler("/round", http.StatusFound))
	mux.HandleFunc("/meta", func(w http.ResponseWriter, r *http.Request) {
		_, _ = io.WriteString(w, `{"authorization_endpoint": "https://auth.example/", "token_endpoint": "https://auth.example/token"}`)
	})
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	home := server.URL + "/"
	const both = `<link rel="authorization_endpoint" href="/auth"><link href='/token' rel=token_endpoint>`
	for name, c := range map[string]struct {
		at     string
		header http.Header
		page   string
		want   channel.Site
		says   string
	}{
		"in the page":        {home, nil, `<LINK REL="micropub nofollow" href="post">` + both, channel.Site{Me: home, Posts: home + "post", Authorization: home + "auth", Token: home + "token"}, ""},
		"in the headers":     {home, http.Header{"Link": {`<https://a.example/p>; rel="micropub", </t>; rel=token_endpoint`, `</a>; title=x; rel="authorization_endpoint"`}}, `<link rel=micropub href=/other>`, channel.Site{Me: home, Posts: "https://a.example/p", Authorization: home + "a", Token: home + "t"}, ""},
		"by metadata":        {home, nil, `<link rel=micropub href=/p><link rel="indieauth-metadata" href="/meta">`, channel.Site{Me: home, Posts: home + "p", Authorization: "https://auth.example/", Token: "https://auth.example/token"}, ""},
		"after a redirect":   {server.URL + "/elsewhere", nil, `<a rel=micropub href=/p>x</a>` + both, channel.Site{Me: home, Posts: home + "p", Authorization: home + "auth", Token: home + "token"}, ""},
		"nowhere":            {home, nil, both, channel.Site{}, "rel=micropub"},
		"no sign-in":         {home, nil, `<link rel=micropub href=/p>`, channel.Site{}, "rel=authorization_endpoint"},
		"a script":           {home, nil, `<link rel=micropub href="javascript:alert(1)">` + both, channel.Site{}, "rel=micropub"},
		"in a comment":       {home, nil, `<!-- <link rel=micropub href=/p> -->` + both, channel.Site{}, "rel=micropub"},
		"round and round":    {server.URL + "/round", nil, "", channel.Site{}, "on and on"},
		"not there":          {server.URL + "/nothing", nil, "", channel.Site{}, "404"},
		"a megabyte of tags": {home, nil, strings.Repeat("<link ", 400_000), channel.Site{}, "rel=micropub"},
		"many attributes":    {home, nil, "<link " + strings.Repeat("a=b ", 200_000) + "rel=micropub href=/p>" + both, channel.Site{Me: home, Posts: home + "p", Authorization: home + "auth", Token: home + "token"}, ""},
	} {
		header, page = c.header, c.page
		got, err := channel.Discover(t.Context(), reach.Client(reach.ParseAllowed("127.0.0.1")), c.at)
		if c.says != "" {
			assert.ErrorContains(t, err, c.says, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, c.want, got, name)
	}
	_, err := channel.Discover(t.Context(), reach.Client(nil), home)
	assert.ErrorContains(t, err, "own network")
}

func TestANoteIsPosted(t *testing.T) {
	var got *http.Request
	answer := func(w http.ResponseWriter) { w.WriteHeader(http.StatusCreated) }
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		got = r
		_ = r.ParseMultipartForm(1 << 20)
		w.Header().Set("Location", "/notes/7")
		answer(w)
	}))
	t.Cleanup(server.Close)
	network, _ := channel.Of(channel.Micropub)
	account := channel.Account{Address: server.URL + "/post", Token: "t", Client: reach.Client(reach.ParseAllowed("127.0.0.1"))}
	send := func(m channel.Message) (channel.Receipt, error) {
		m.Key, m.Text = "k", "Größe & more"
		return network.Send(t.Context(), account, m)
	}
	receipt, err := send(channel.Message{})
	require.NoError(t, err)
	assert.Equal(t, server.URL+"/notes/7", receipt.URL)
	assert.Equal(t, []string{"entry", "Größe & more", "Bearer t"}, []string{got.PostFormValue("h"), got.PostFormValue("content"), got.Header.Get("Authorization")})
	_, err = send(channel.Message{Media: []channel.Media{{Type: "image/png", Alt: "a moon", Data: []byte("png")}}})
	require.NoError(t, err)
	assert.Equal(t, "entry", got.MultipartForm.Value["h"][0])
	assert.Equal(t, "a moon", got.MultipartForm.Value["mp-photo-alt[]"][0])
	assert.Equal(t, "picture-1.png", got.MultipartForm.File["photo"][0].Filename)

	for name, c := range map[string]struct {
		answer func(http.ResponseWriter)
		want   any
	}{
		"signed out":  {func(w http.ResponseWriter) { w.WriteHeader(http.StatusUnauthorized) }, new(*channel.SignedOut)},
		"not allowed": {func(w http.ResponseWriter) { w.WriteHeader(http.StatusForbidden) }, new(*channel.SignedOut)},
		"bad note": {func(w http.ResponseWriter) {
			http.Error(w, `{"error":"invalid_request","error_description":"too blue"}`, 400)
		}, new(*channel.Refused)},
		"broken":    {func(w http.ResponseWriter) { w.WriteHeader(http.StatusInternalServerError) }, new(*channel.Refused)},
		"hangs up":  {func(http.ResponseWriter) { panic(http.ErrAbortHandler) }, new(*channel.Refused)},
		"elsewhere": {func(w http.ResponseWriter) { w.WriteHeader(http.StatusFound) }, new(*channel.Refused)},
		"busy": {func(w http.ResponseWriter) {
			w.Header().Set("Retry-After", "60")
			w.WriteHeader(http.StatusServiceUnavailable)
		}, new(*channel.Later)},
		"too many now": {func(w http.ResponseWriter) { w.WriteHeader(http.StatusTooManyRequests) }, new(*channel.Later)},
	} {
		answer = c.answer
		_, err := send(channel.Message{})
		assert.ErrorAs(t, err, c.want, name)
		if name == "bad note" {
			assert.ErrorContains(t, err, "too blue")
		}
	}

	// Where nothing was sent, it is sent again; a site inside is not.
	account.Client = reach.Client(reach.ParseAllowed("127.0.0.1"))
	server.Close()
	_, err = send(channel.Message{})
	require.Error(t, err)
	assert.NotErrorAs(t, err, new(*channel.Refused))
	account.Client = reach.Client(nil)
	_, err = send(channel.Message{})
	assert.ErrorAs(t, err, new(*channel.Refused))
	ctx, cancel := context.WithTimeout(t.Context(), time.Hour)
	cancel()
	_, err = network.Send(ctx, account, channel.Message{Key: "k", Text: "x"})
	assert.Error(t, err)
}
