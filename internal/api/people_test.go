package api_test

import (
	"context"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/accounts"
	"dapper.example/internal/api/logbook"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// owned is the test's site with an owner signed in.
func owned(t *testing.T) caller {
	t.Helper()
	c := newClient(t)
	return c.as(people.Owner, c.world.Site)
}

func itoa(id int64) string { return strconv.FormatInt(id, 10) }

func secretOf(t *testing.T, link string) string {
	t.Helper()
	_, secret, found := strings.Cut(link, "#")
	require.True(t, found, "the secret stands where no server is sent it: %s", link)
	return secret
}

func TestAnInvitationIsAcceptedOnce(t *testing.T) {
	c := owned(t)
	const invitations = site + "/invitations"
	bad := c.fails("POST", invitations, map[string]string{"email": "no address", "role": "editor"}, 422)
	assert.Equal(t, "body.email", bad.Errors[0].Location)
	var i accounts.Invitation
	c.call("POST", invitations, map[string]string{"email": "Wren@dome.example", "role": "contributor"}, 201, &i)
	assert.True(t, strings.HasPrefix(i.Link, "https://dome.example/join#"), i.Link)
	secret := secretOf(t, i.Link)

	guest := c.stranger()
	var seen accounts.Invited
	guest.call("POST", "/api/v1/invitations/look", map[string]string{"secret": secret}, 200, &seen)
	assert.Equal(t, accounts.Invited{Site: "Notes from dome", Email: "Wren@dome.example", Role: "contributor",
		By: "Some owner"}, seen)
	accept := func(name, password string) map[string]string {
		return map[string]string{"secret": secret, "name": name, "password": password}
	}
	assert.Equal(t, "body.name", guest.fails("POST", "/api/v1/invitations/accept", accept(" ", "four words and more"),
		422).Errors[0].Location)
	assert.Contains(t, guest.fails("POST", "/api/v1/invitations/accept", accept("Tobias Wren", "short"), 422).Detail,
		"12 characters")
	assert.Contains(t, guest.fails("POST", "/api/v1/invitations/accept", accept("Tobias Wren", "aaaaaaaaaaaaaaa"),
		422).Detail, "repeats")
	var me accounts.Me
	guest.call("POST", "/api/v1/invitations/accept", accept("Tobias Wren", "four words and more"), 200, &me)
	assert.Equal(t, "contributor", me.Sites[0].Role)
	guest.call("GET", "/api/v1/session", nil, 200, nil)
	assert.Contains(t, c.stranger().fails("POST", "/api/v1/invitations/look", map[string]string{"secret": secret},
		410).Detail, "already been used")

	already := c.fails("POST", invitations, map[string]string{"email": "wren@dome.example", "role": "editor"}, 422)
	assert.Contains(t, already.Detail, "Tobias Wren is of this site already, as contributor.")
	var log logbook.LogbookPage
	c.call("GET", site+"/logbook?deed=people", nil, 200, &log)
	require.Len(t, log.Lines, 2)
	assert.Equal(t, "Joined as contributor.", log.Lines[0].Reason)
}

func TestInvitationsEnd(t *testing.T) {
	c := owned(t)
	invite := func() (i accounts.Invitation, secret string) {
		c.call("POST", site+"/invitations", map[string]string{"email": "late@dome.example", "role": "editor"}, 201, &i)
		return i, secretOf(t, i.Link)
	}
	look := func(secret string) refusal {
		return c.stranger().fails("POST", "/api/v1/invitations/look", map[string]string{"secret": secret}, 410)
	}
	_, first := invite()
	i, second := invite()
	assert.Contains(t, look(first).Detail, "replaced")
	var open []accounts.Invitation
	c.call("GET", site+"/invitations", nil, 200, &open)
	require.Len(t, open, 1)
	assert.Empty(t, open[0].Link, "a link is told once")
	c.clock.Advance(people.InvitationLife)
	assert.Contains(t, look(second).Detail, "has expired")
	assert.Contains(t, c.stranger().fails("POST", "/api/v1/invitations/accept",
		map[string]string{"secret": second, "name": "Late",
			"password": "four words and more"}, 410).Detail, "has expired")
	c.call("DELETE", site+"/invitations/"+itoa(i.ID), nil, 204, nil)
	assert.Contains(t, look(second).Detail, "withdrawn")
	assert.Contains(t, look("guess").Detail, "doesn’t work")
}

func TestWhoHasAnAccountJoinsWithItsPassword(t *testing.T) {
	c := owned(t)
	_, err := c.world.InsertUser(t.Context(), store.User{Email: "old@hand.example", Name: "Old Hand",
		PasswordHash: cheapHash(t), CreatedAt: c.clock.Now()})
	require.NoError(t, err)
	var i accounts.Invitation
	c.call("POST", site+"/invitations", map[string]string{"email": "old@hand.example", "role": "editor"}, 201, &i)
	body := map[string]string{"secret": secretOf(t, i.Link), "password": "not that one at all"}
	guest := c.stranger()
	assert.Equal(t, "body.password", guest.fails("POST", "/api/v1/invitations/accept", body, 422).Errors[0].Location)
	body["password"] = password
	var me accounts.Me
	guest.call("POST", "/api/v1/invitations/accept", body, 200, &me)
	assert.Equal(t, "Old Hand", me.Name)
}

func TestRolesChangeAndTheLastOwnerStays(t *testing.T) {
	c := owned(t)
	var list []accounts.Person
	c.call("GET", site+"/people", nil, 200, &list)
	require.Len(t, list, 2)
	owner, editor := c.userID("owner@dome.example"), c.userID("dome@example.org")
	last := c.fails("PUT", site+"/people/"+itoa(owner), map[string]string{"role": "editor"}, 422)
	assert.Equal(t, "Some owner is the only owner. Make somebody else an owner first.", last.Detail)
	c.fails("DELETE", site+"/people/"+itoa(owner), nil, 422)
	c.call("PUT", site+"/people/"+itoa(editor), map[string]string{"role": "owner"}, 204, nil)
	other := c.browser("dome@example.org")
	other.call("DELETE", site+"/people/"+itoa(owner), nil, 204, nil)
	c.fails("GET", site+"/people", nil, 404)
	assert.Empty(t, list[0].Posts)
}

func TestASecondPasswordAndTheSignInsItEnds(t *testing.T) {
	c := signedIn(t)
	phone := c.browser("dome@example.org")
	var list []accounts.SignIn
	c.call("GET", "/api/v1/account/sign-ins", nil, 200, &list)
	require.Len(t, list, 2)
	assert.Equal(t, "127.0.0.1", list[0].Address)
	change := map[string]string{"old": "wrong, all wrong", "next": "four words and more"}
	assert.Equal(t, "body.old", c.fails("POST", "/api/v1/account/password", change, 422).Errors[0].Location)
	change["old"] = password
	c.call("POST", "/api/v1/account/password", change, 204, nil)
	phone.fails("GET", "/api/v1/session", nil, 401)
	c.call("GET", "/api/v1/account/sign-ins", nil, 200, &list)
	require.Len(t, list, 1)
	assert.True(t, list[0].Here)

	third := c.stranger()
	third.call("POST", "/api/v1/session", map[string]string{"email": "dome@example.org",
		"password": "four words and more"}, 200, nil)
	var ended accounts.Ended
	c.call("DELETE", "/api/v1/account/sign-ins", nil, 200, &ended)
	assert.Equal(t, 1, ended.Ended)
	third.fails("GET", "/api/v1/session", nil, 401)
	var me accounts.Me
	assert.Equal(t, "body.about", c.fails("PUT", "/api/v1/account", map[string]string{"name": "Ines", "about": strings.Repeat("x", 301)}, 422).Errors[0].Location)
	c.call("PUT", "/api/v1/account", map[string]string{"name": "Ines", "about": " Keeps  the dome. "}, 200, &me)
	assert.Equal(t, "Keeps the dome.", me.About)
	c.call("PUT", "/api/v1/account", map[string]string{"name": "  Ines   B. Abara "}, 200, &me)
	assert.Empty(t, me.About)
	assert.Equal(t, "Ines B. Abara", me.Name)
}

func TestAForgottenPassword(t *testing.T) {
	c := signedIn(t)
	ctx := t.Context()
	const ask = "/api/v1/password-resets"
	var known, unknown accounts.Said
	c.call("POST", ask, map[string]string{"email": "dome@example.org"}, 202, &known)
	c.call("POST", ask, map[string]string{"email": "nobody@example.org"}, 202, &unknown)
	assert.Equal(t, known, unknown, "nobody learns which addresses exist")
	var letters int
	count := `select count(*) from river_job where kind = 'mail' and args::text like '%dome@example.org%'`
	require.NoError(t, c.world.DB().GetContext(ctx, &letters, count))
	assert.Equal(t, 1, letters)
	var args string
	require.NoError(t, c.world.DB().GetContext(ctx, &args,
		`select args::text from river_job where kind = 'mail' order by id limit 1`))
	assert.Equal(t, `{"reset_for": "dome@example.org"}`, args, "the job holds no secret")
	for range 5 {
		c.call("POST", ask, map[string]string{"email": "dome@example.org"}, 202, nil)
	}
	require.NoError(t, c.world.DB().GetContext(ctx, &letters, count))
	assert.Equal(t, 3, letters, "nobody's mailbox is filled")

	letter, err := people.WriteReset(ctx, c.world.Queries, "dome@example.org", "https://dome.example", c.clock.Now())
	require.NoError(t, err)
	secret := regexp.MustCompile(`/reset#(\S+)`).FindStringSubmatch(letter.Text)[1]
	use := map[string]string{"secret": secret, "password": "short"}
	guest := c.stranger()
	guest.fails("POST", ask+"/use", use, 422)
	use["password"] = "four words and more"
	guest.call("POST", ask+"/use", use, 204, nil)
	guest.fails("POST", ask+"/use", use, 410)
	c.fails("GET", "/api/v1/session", nil, 401)
	guest.call("POST", "/api/v1/session", map[string]string{"email": "dome@example.org",
		"password": "four words and more"}, 200, nil)

	letter, err = people.WriteReset(ctx, c.world.Queries, "dome@example.org", "https://dome.example", c.clock.Now())
	require.NoError(t, err)
	c.clock.Advance(people.ResetLife)
	use["secret"] = regexp.MustCompile(`/reset#(\S+)`).FindStringSubmatch(letter.Text)[1]
	assert.Contains(t, guest.fails("POST", ask+"/use", use, 410).Detail, "has expired")
}

// A thousand wrong passwords: few are looked at, and the right one waits a minute, but not
// in a browser that is known.
func TestAThousandWrongPasswords(t *testing.T) {
	c := signedIn(t)
	var mu sync.Mutex
	said := map[int]int{}
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			for range 50 {
				request, err := http.NewRequestWithContext(context.Background(), "POST", c.url+"/api/v1/session",
					strings.NewReader(`{"email":"dome@example.org","password":"wrong"}`))
				if !assert.NoError(t, err) {
					return
				}
				request.Header.Set("Content-Type", "application/json")
				answer, err := http.DefaultClient.Do(request)
				if !assert.NoError(t, err) {
					return
				}
				answer.Body.Close()
				mu.Lock()
				said[answer.StatusCode]++
				mu.Unlock()
			}
		})
	}
	all.Wait()
	assert.Equal(t, 10, said[401]+said[503], "few are looked at, and not many of them at once")
	assert.Equal(t, 990, said[429])
	right := map[string]string{"email": "dome@example.org", "password": password}
	assert.Contains(t, c.stranger().fails("POST", "/api/v1/session", right, 429).Detail, "Try again in")
	c.call("POST", "/api/v1/session", right, 200, nil) // a browser that is known goes through
	c.clock.Advance(time.Minute)
	c.stranger().call("POST", "/api/v1/session", right, 200, nil)
}

func TestTokens(t *testing.T) {
	c := owned(t)
	const tokens = site + "/tokens"
	for field, body := range map[string]map[string]any{
		"name":   {"name": " ", "scopes": []string{"read"}, "days": 1},
		"scopes": {"name": "A", "scopes": []string{"everything"}, "days": 1},
		"days":   {"name": "A", "scopes": []string{"read"}, "days": 400},
	} {
		assert.Equal(t, "body."+field, c.fails("POST", tokens, body, 422).Errors[0].Location)
	}
	var made accounts.Token
	c.call("POST", tokens, map[string]any{"name": "Batch of drafts", "scopes": []string{"write", "write"}, "days": 7},
		201, &made)
	assert.True(t, strings.HasPrefix(made.Token, "dapper_"))
	assert.Equal(t, []string{"write"}, made.Scopes)
	script := c.stranger()
	script.token = made.Token
	draft := listed{Operation: &huma.Operation{Method: "POST"}}
	code, said := script.status(draft, site+"/posts", map[string]string{"title": "From a script"})
	assert.Equal(t, 201, code, said)
	var list []accounts.Token
	c.call("GET", tokens, nil, 200, &list)
	require.Len(t, list, 1)
	assert.Empty(t, list[0].Token, "a token is told once")
	assert.NotNil(t, list[0].Used)
	var kept int
	require.NoError(t, c.world.DB().GetContext(t.Context(), &kept,
		`select count(*) from tokens where strpos(encode(hash, 'escape'), $1) > 0`, made.Token))
	assert.Zero(t, kept)

	c.clock.Advance(8 * 24 * time.Hour)
	code, said = script.status(draft, site+"/posts", map[string]string{"title": "Too late"})
	assert.Equal(t, 401, code)
	assert.Contains(t, said, "has expired")
	c.call("DELETE", tokens+"/"+itoa(made.ID), nil, 204, nil)
	c.fails("DELETE", tokens+"/"+itoa(made.ID), nil, 404)
}
