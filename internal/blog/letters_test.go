package blog_test

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/letters"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

func (r reader) hand(path string, values url.Values) (int, string) {
	r.t.Helper()
	request := httptest.NewRequest("POST", path, strings.NewReader(values.Encode()))
	request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	answer := httptest.NewRecorder()
	r.pages.ServeHTTP(answer, request)
	return answer.Code, answer.Body.String()
}

// A reader asks for mails, confirms that, and ends it in one click.
func TestAReaderAsksForMails(t *testing.T) {
	r := newReader(t)
	const path = "/blog/dome/-/letters"
	code, _ := r.get(path)
	assert.Equal(t, http.StatusNotFound, code, "there is no list")
	_, front := r.get("/blog/dome/")
	assert.NotContains(t, front, "By mail")
	list, err := r.world.InsertChannel(t.Context(), store.Channel{SiteID: r.world.Site.ID, Kind: "mail", Name: "Letters", Token: "t", Apart: 240})
	require.NoError(t, err)
	_, front = r.get("/blog/dome/")
	assert.Contains(t, front, `<a href="/blog/dome/-/letters">By mail</a>`)
	code, page := r.get(path)
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, "Subscribe")

	for _, bad := range []string{"", "tam", "tam@walkers", "Tam <tam@walkers.example>", "a@b.example, c@d.example", "tam@walkers.example\r\nBcc: x@y.example", strings.Repeat("a", 65) + "@b.example"} {
		_, ok := letters.Address(bad)
		assert.False(t, ok, bad)
	}
	code, page = r.hand(path, url.Values{"email": {"<b>"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, page, `value="&lt;b&gt;"`)
	code, _ = r.hand(path, url.Values{"email": {"tam@Walkers.example"}, "website": {"https://spam.example"}})
	assert.Equal(t, http.StatusOK, code)
	assert.Empty(t, *r.asked, "a program that fills in everything is told nothing")

	first, answer := r.hand(path, url.Values{"email": {"tam@Walkers.example"}})
	again, same := r.hand(path, url.Values{"email": {"TAM@walkers.example"}})
	assert.Equal(t, []any{first, answer}, []any{again, same}, "nobody learns who is on the list")
	require.Len(t, *r.asked, 1, "one mail in ten minutes")
	s, err := r.world.Subscriber(t.Context(), (*r.asked)[0])
	require.NoError(t, err)
	assert.Equal(t, []any{"tam@walkers.example", "asked", list}, []any{s.Email, s.State, s.Channel})

	state := func() string {
		s, err := r.world.Subscriber(t.Context(), s.ID)
		require.NoError(t, err)
		return s.State
	}
	mine := path + "/" + s.Token
	code, page = r.get(mine)
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, "Yes, send me mails")
	assert.Equal(t, "asked", state(), "looking at a link confirms nothing")
	_, page = r.hand(mine, url.Values{"do": {"confirm"}})
	assert.Contains(t, page, "Thank you")
	assert.Equal(t, "on", state())
	_, page = r.get(mine)
	assert.Contains(t, page, "Unsubscribe")
	assert.Equal(t, "on", state())
	code, _ = r.hand(mine, url.Values{"List-Unsubscribe": {"One-Click"}}) // RFC 8058
	assert.Equal(t, http.StatusOK, code)
	assert.Equal(t, "off", state())
	code, _ = r.hand(path+"/nonsense", url.Values{})
	assert.Equal(t, http.StatusNotFound, code)

	// Asked again, it is the same link: those in the mails that came before stay good.
	id, err := r.world.AskSubscriber(t.Context(), store.Subscriber{SiteID: r.world.Site.ID, Channel: list, Email: "tam@walkers.example", Token: "another", AskedAt: pgtest.Noon.Add(time.Hour)}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, s.ID, id)
	_, page = r.get(mine)
	assert.Contains(t, page, "Yes, send me mails")

	ok, err := letters.Confirm(t.Context(), r.world.Queries, s, pgtest.Noon.Add(letters.Confirmable+1))
	require.NoError(t, err)
	assert.False(t, ok, "a link is good for a week")
}
