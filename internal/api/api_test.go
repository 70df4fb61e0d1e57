package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/api/accounts"
	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/plan"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/channel"
	"dapper.example/internal/deliver"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// client is an editor's browser on a server of its own.
type client struct {
	t     *testing.T
	http  *http.Client
	url   string
	world pgtest.World
	clock *clockwork.FakeClock
	line  string // of the logbook, as the last answer named it
}

const password = "correct horse"

func newClient(t *testing.T) *client {
	t.Helper()
	return newClientWith(t, func(*api.Config) {})
}

// newClientWith is newClient with something of the server's set otherwise.
func newClientWith(t *testing.T, set func(*api.Config)) *client {
	t.Helper()
	t.Parallel()
	return newClientOn(t, pgtest.New(t), set)
}

func newClientOn(t *testing.T, s *store.Store, set func(*api.Config)) *client {
	t.Helper()
	w := pgtest.NewWorld(t, s, "dome")
	_, err := w.DB().ExecContext(t.Context(), `update users set password_hash = $1`, cheapHash(t))
	require.NoError(t, err)
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	ctx, stop := context.WithCancel(context.Background())
	changes := w.Changes(pgtest.Quiet())
	done := make(chan struct{})
	go func() { defer close(done); changes.Run(ctx) }()
	queue, err := deliver.NewQueue(w.Store)
	require.NoError(t, err)
	config := api.Config{
		// a busy machine with the race detector is slow
		Box: pgtest.Box, Networks: channel.Addresses{Base: "http://127.0.0.1:9"}, Queue: queue, Mail: queue, Public: "https://dome.example", Store: w.Store, Changes: changes, Clock: clock, Log: pgtest.Quiet(), Version: "test", Patience: 10 * time.Minute,
		Web: fstest.MapFS{"index.html": {Data: []byte("<title>screens</title>")}, "assets/a.js": {Data: []byte("1")}},
	}
	set(&config)
	server := httptest.NewServer(api.New(ctx, config).Handler())
	t.Cleanup(func() { stop(); server.Close(); <-done })
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &client{t: t, http: &http.Client{Jar: jar}, url: server.URL, world: w, clock: clock}
}

// cheapHash is that of the password with cheap parameters: the tests are about sessions,
// not about hashing.
func cheapHash(t *testing.T) string {
	hash, err := pgtest.CheapHash(password)
	require.NoError(t, err)
	return hash
}

func signedIn(t *testing.T) *client {
	t.Helper()
	c := newClient(t)
	c.signIn()
	return c
}

func (c *client) signIn() {
	c.t.Helper()
	c.call("POST", "/api/v1/session", map[string]string{"email": "DOME@example.org", "password": password},
		http.StatusOK, nil)
}

// call sends a request, checks its status and reads the answer into result.
func (c *client) call(method, path string, body any, status int, result any) {
	c.t.Helper()
	request, err := http.NewRequestWithContext(c.t.Context(), method, c.url+path, reader(c.t, body))
	require.NoError(c.t, err)
	request.Header.Set("Content-Type", "application/json")
	answer, err := c.http.Do(request)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	raw, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, status, answer.StatusCode, "%s %s: %s", method, path, raw)
	c.line = answer.Header.Get("Logbook-Line")
	if status >= 400 && strings.HasPrefix(path, "/api/") {
		require.Equal(c.t, "application/problem+json", answer.Header.Get("Content-Type"))
	}
	if result != nil {
		require.NoError(c.t, json.Unmarshal(raw, result), "%s", raw)
	}
}

// reader reads a body: a text as it is, all else as JSON.
func reader(t *testing.T, body any) io.Reader {
	if body == nil {
		return nil
	}
	if text, ok := body.(string); ok {
		return strings.NewReader(text)
	}
	raw, err := json.Marshal(body)
	require.NoError(t, err)
	return bytes.NewReader(raw)
}

// refusal is any answer that refuses.
type refusal struct {
	operation.Problem
	Present   *posts.Post        `json:"present"`
	Placement *plan.Placement    `json:"placement"`
	Closing   *plan.Closing      `json:"closing"`
	Reflow    *plan.Reflow       `json:"reflow"`
	Catch     *rules.RulePreview `json:"catch"`
}

func (c *client) fails(method, path string, body any, status int) refusal {
	c.t.Helper()
	var p refusal
	c.call(method, path, body, status, &p)
	require.Equal(c.t, status, p.Status)
	require.NotEmpty(c.t, p.Detail)
	return p
}

const site = "/api/v1/sites/dome"

func TestSessions(t *testing.T) {
	c := newClient(t)
	assert.Equal(t, "Sign in first.", c.fails("GET", "/api/v1/session", nil, 401).Detail)
	c.fails("GET", site+"/almanac", nil, 401)
	unknown := c.fails("POST", "/api/v1/session", map[string]string{"email": "nobody@example.org",
		"password": password}, 401)
	wrong := c.fails("POST", "/api/v1/session", map[string]string{"email": "dome@example.org", "password": "guess"},
		401)
	assert.Equal(t, unknown.Detail, wrong.Detail, "an answer does not tell which addresses exist")

	var me accounts.Me
	c.call("POST", "/api/v1/session", map[string]string{"email": "Dome@Example.org", "password": password}, 200, &me)
	assert.Equal(t, "Ines Abara", me.Name)
	assert.Equal(t, []accounts.MySite{{Slug: "dome", Title: "Notes from dome", Zone: "America/Halifax", Role: "editor"}},
		me.Sites)
	c.call("GET", "/api/v1/session", nil, 200, &me)
	c.call("DELETE", "/api/v1/session", nil, 204, nil)
	c.fails("GET", "/api/v1/session", nil, 401)
}

func TestWritesFromOtherOriginsAreRefused(t *testing.T) {
	c := signedIn(t)
	request, err := http.NewRequestWithContext(t.Context(), "POST", c.url+site+"/posts", strings.NewReader(`{}`))
	require.NoError(t, err)
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Origin", "https://elsewhere.example")
	request.Header.Set("Sec-Fetch-Site", "cross-site")
	answer, err := c.http.Do(request)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusForbidden, answer.StatusCode)
}

func (c *client) almanac(query string) plan.Almanac {
	c.t.Helper()
	var a plan.Almanac
	c.call("GET", site+"/almanac"+query, nil, 200, &a)
	return a
}

func (c *client) begin(title string) posts.Post {
	c.t.Helper()
	var p posts.Post
	c.call("POST", site+"/posts", map[string]string{"title": title, "body": "Some text."}, 201, &p)
	return p
}

func (c *client) shelved(title string) posts.Post {
	c.t.Helper()
	p := c.begin(title)
	c.call("POST", c.path(p, "/clear"), map[string]int{"version": p.Version}, 200, &p)
	return p
}

func (c *client) path(p posts.Post, deed string) string {
	raw, err := json.Marshal(p.ID)
	require.NoError(c.t, err)
	return site + "/posts/" + string(raw) + deed
}

func TestTheWholeLine(t *testing.T) {
	c := signedIn(t)
	p := c.shelved("First light")
	plan := c.almanac("")
	require.Len(t, plan.Days, 14)
	require.Len(t, plan.Shelf, 1)
	require.NotNil(t, plan.Shelf[0].Proposed)
	assert.Equal(t, "2026-11-24", plan.Now.Date.String())
	assert.Equal(t, 12*60, plan.Now.Minute)
	ghost := plan.Days[0].Ghosts[0]
	assert.Equal(t, p.ID, ghost.ID)
	assert.Equal(t, *plan.Shelf[0].Proposed, ghost.Place)
	assert.InDelta(t, 19*60, ghost.Minute, 15, "this evening's slot")
	assert.Equal(t, []rhythms.Stretch{{Opening: "morning", From: 480, To: 660},
		{Opening: "evening", From: 1125, To: 1156}}, plan.Days[0].Openings)
	assert.Len(t, plan.Days[1].Free, 2)

	placed := map[string]any{"token": plan.Token}
	c.call("POST", site+"/placement", placed, 204, nil)
	plan = c.almanac("")
	require.Len(t, plan.Days[0].Entries, 1)
	assert.Equal(t, ghost.Place, plan.Days[0].Entries[0].Place)
	assert.Equal(t, p.ID, plan.Next.ID)

	problem := c.fails("POST", site+"/placement", placed, 409)
	require.NotNil(t, problem.Placement)
	assert.Empty(t, problem.Placement.Placed)

	var log []logbook.LogLine
	c.call("GET", c.path(p, "/logbook"), nil, 200, &log)
	require.Len(t, log, 2)
	assert.Equal(t, "Ines Abara", log[0].Who)
	assert.Equal(t, "First on the shelf, so it gets the first free slot.", log[0].Reason)
}

func TestDeedsOnPosts(t *testing.T) {
	c := signedIn(t)
	p := c.shelved("Held")
	c.call("POST", c.path(p, "/retime"), map[string]any{"version": p.Version, "date": "2026-11-25", "time": "09:30"},
		200, &p)
	assert.Equal(t, "scheduled", p.Status)
	assert.True(t, p.Pinned)
	assert.Equal(t, 9*60+30, p.When.Minute)
	other := c.begin("Neighbour")
	c.call("POST", c.path(other, "/retime"), map[string]any{"version": other.Version, "date": "2026-11-25",
		"time": "10:00"}, 200, &other)
	assert.Equal(t, []string{"That is nearer than the gap to “Held” at 09:30."}, other.Notes)

	for name, body := range map[string]map[string]any{
		"past":       {"version": p.Version, "date": "2026-11-24", "time": "11:59"},
		"no date":    {"version": p.Version, "date": "2026-02-30", "time": "09:30"},
		"no time":    {"version": p.Version, "date": "2026-11-25", "time": "25:99"},
		"next day":   {"version": p.Version, "date": "2026-11-25", "time": "26:00"},
		"no version": {"date": "2026-11-25", "time": "09:30"},
	} {
		problem := c.fails("POST", c.path(p, "/retime"), body, 422)
		require.NotEmpty(t, problem.Errors, name)
		assert.Contains(t, problem.Errors[0].Location, "body", name)
	}
	stale := c.fails("POST", c.path(p, "/shelve"), map[string]int{"version": 1}, 409)
	assert.Equal(t, p.Version, stale.Present.Version)
	c.call("POST", c.path(p, "/shelve"), map[string]int{"version": p.Version}, 200, &p)
	assert.True(t, p.Cleared)
	c.call("POST", c.path(p, "/unclear"), map[string]int{"version": p.Version}, 200, &p)
	assert.False(t, p.Cleared)
	c.call("POST", c.path(p, "/publish"), map[string]int{"version": p.Version}, 200, &p)
	assert.Equal(t, "/blog/dome/held", p.Address)
	c.call("GET", p.Address, nil, 200, nil)
}

// A time that the clocks skip comes out at the time they skip to, and that is said.
func TestASkippedTimeIsTold(t *testing.T) {
	c := signedIn(t)
	p := c.begin("Spring")
	c.call("POST", c.path(p, "/retime"), map[string]any{"version": p.Version, "date": "2027-03-14", "time": "02:30"},
		200, &p)
	assert.Equal(t, 3*60+30, p.When.Minute)
	assert.Equal(t, []string{"The clocks go forward past 02:30 on that day, so it comes out at 03:30."}, p.Notes)
}

func TestShelfOrder(t *testing.T) {
	c := signedIn(t)
	a, b := c.shelved("A"), c.shelved("B")
	c.call("PUT", site+"/shelf", map[string]any{"order": []int64{b.ID, a.ID}}, 204, nil)
	shelf := c.almanac("").Shelf
	assert.Equal(t, []string{"B", "A"}, []string{shelf[0].Title, shelf[1].Title})
	c.fails("PUT", site+"/shelf", map[string]any{"order": []int64{b.ID}}, 409)
	assert.Equal(t, "body.order[0]", c.fails("PUT", site+"/shelf", `{"order":["x"]}`, 422).Errors[0].Location)
}

func TestWritingBadInput(t *testing.T) {
	c := signedIn(t)
	p := c.begin("Good")
	for name, test := range map[string]struct {
		body     map[string]any
		location string
	}{
		"400 characters": {map[string]any{"title": strings.Repeat("a", 400)}, "body.title"},
		"only emoji":     {map[string]any{"title": "🔭"}, "body.title"},
		"no category":    {map[string]any{"categoryId": 9999}, "body.categoryId"},
		"odd tag":        {map[string]any{"tags": []string{"🌙"}}, "body.tags[0]"},
	} {
		test.body["version"] = p.Version
		problem := c.fails("PATCH", c.path(p, ""), test.body, 422)
		assert.Equal(t, test.location, problem.Errors[0].Location, name)
	}
	c.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "body": strings.Repeat("a", 5<<20)}, 413)
	c.call("GET", c.path(p, ""), nil, 200, &p)
	assert.Equal(t, "Good", p.Title)

	script := "Hello <script>alert(1)</script> [x](javascript:alert(1)) <a href='/' onclick='x()'>y</a>"
	c.call("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "body": script}, 200, &p)
	assert.Equal(t, script, p.Body, "the text is kept as it was written")
	require.Len(t, p.Notes, 1)
	assert.Contains(t, p.Notes[0], "<script>")
	assert.Contains(t, p.Notes[0], "onclick on <a>")
	c.call("POST", c.path(p, "/publish"), map[string]int{"version": p.Version}, 200, &p)
	answer, err := c.http.Get(c.url + p.Address)
	require.NoError(t, err)
	defer answer.Body.Close()
	page, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	for _, bad := range []string{"alert(1)", "javascript:", "onclick"} {
		assert.NotContains(t, string(page), bad)
	}

	stale := c.fails("PATCH", c.path(p, ""), map[string]any{"version": 1, "title": "Late"}, 409)
	assert.Equal(t, script, stale.Present.Body, "the present state comes with the refusal")
}

func TestBlankDraftsAreNotPiledUp(t *testing.T) {
	c := signedIn(t)
	var first, second posts.Post
	c.call("POST", site+"/posts", map[string]any{}, 201, &first)
	c.call("POST", site+"/posts", map[string]any{}, 201, &second)
	assert.Equal(t, first.ID, second.ID)
}

func TestRhythmProblemsNameTheirFields(t *testing.T) {
	c := signedIn(t)
	var r rhythms.Rhythm
	c.call("GET", site+"/rhythm", nil, 200, &r)
	require.Len(t, r.Openings, 2)
	window := func(from, to string, count int) map[string]any {
		return map[string]any{"key": "w", "kind": "window", "weekdays": []string{"friday"}, "from": from, "to": to,
			"count": count}
	}
	for name, test := range map[string]struct {
		gap      int
		opening  map[string]any
		path     string
		contains string
	}{
		"reversed": {60, window("22:00", "02:00", 1), "openings[0].to", "end it at 26:00"},
		"empty":    {60, window("10:00", "10:00", 1), "openings[0].to", "empty"},
		"midnight": {60, window("10:00", "00:00", 1), "openings[0].to", "write 24:00"},
		"wide gap": {200, window("06:00", "08:00", 2), "openings[0].count", "wider than the window"},
		"too many": {20, window("06:00", "08:00", 9), "openings[0].count",
			"Friday asks for 9 posts between 06:00 and 08:00 with a gap of 20 min; 6 fit."},
		"no gap": {0, window("06:00", "08:00", 1), "gap", "between 1 minute and 7 days"},
		"no window": {60, map[string]any{"key": "w", "kind": "window", "weekdays": []string{"friday"},
			"from": "06:00"}, "openings[0].to", "needs an end"},
	} {
		body := map[string]any{"name": "R", "gap": test.gap, "seed": 1, "version": r.Version,
			"openings": []any{test.opening}}
		var preview rhythms.RhythmPreview
		c.call("POST", site+"/rhythm/preview", body, 200, &preview)
		require.NotEmpty(t, preview.Problems, name)
		assert.Equal(t, test.path, preview.Problems[0].Path, name)
		assert.Contains(t, preview.Problems[0].Message, test.contains, name)
		problem := c.fails("PUT", site+"/rhythm", body, 422)
		assert.Equal(t, "body."+test.path, problem.Errors[0].Location, name)
	}
	bad := c.fails("PUT", site+"/rhythm", map[string]any{"name": "R", "gap": 60, "seed": 1, "version": 1,
		"openings": []any{window("6 am", "08:00", 1)}}, 422)
	assert.Contains(t, bad.Errors[0].Message, "09:40")
}

func TestRhythmPreviewIsWhatIsSaved(t *testing.T) {
	c := signedIn(t)
	var r rhythms.Rhythm
	c.call("GET", site+"/rhythm", nil, 200, &r)
	c.shelved("One")
	r.Gap = 30
	var preview rhythms.RhythmPreview
	c.call("POST", site+"/rhythm/preview?days=3", r, 200, &preview)
	require.Empty(t, preview.Problems)
	require.Len(t, preview.Days, 3)
	c.call("PUT", site+"/rhythm", r, 200, &r)
	plan := c.almanac("?days=3")
	assert.Equal(t, preview.Days[1].Slots, append([]operation.Place{}, plan.Days[1].Free...))
	r.Version = 1
	c.fails("PUT", site+"/rhythm", r, 409)
}

func TestAnotherSiteIsNotThere(t *testing.T) {
	c := signedIn(t)
	theirs := pgtest.NewWorld(t, c.world.Store, "lanes")
	p := theirs.Draft(t, "Theirs")
	c.fails("GET", "/api/v1/sites/lanes/almanac", nil, 404)
	c.fails("GET", "/api/v1/sites/nowhere/almanac", nil, 404)
	mine := posts.Post{ID: p.ID}
	c.fails("GET", c.path(mine, ""), nil, 404)
	c.fails("GET", c.path(mine, "/logbook"), nil, 404)
	c.fails("POST", c.path(mine, "/publish"), map[string]int{"version": 1}, 404)
	assert.Equal(t, store.Draft, theirs.Reload(t, p.ID).Status)
}

func TestContributorsDoNotChangeThePlan(t *testing.T) {
	c := signedIn(t)
	p := c.shelved("Editor's")
	_, err := c.world.DB().ExecContext(t.Context(), `update memberships set role = 'contributor'`)
	require.NoError(t, err)
	c.fails("POST", c.path(p, "/publish"), map[string]int{"version": p.Version}, 403)
	c.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "title": "Mine"}, 403)
	own := c.begin("Own")
	c.call("PATCH", c.path(own, ""), map[string]any{"version": own.Version, "title": "Own, better"}, 200, &own)
	assert.Equal(t, "Own, better", own.Title)
}

func TestAlmanacQueries(t *testing.T) {
	c := signedIn(t)
	assert.Equal(t, "2030-01-05", c.almanac("?from=2030-01-05&days=2").Days[0].Date.String())
	for _, query := range []string{"?from=soon", "?days=0", "?days=63", "?from=2026-02-30"} {
		assert.NotEmpty(t, c.fails("GET", site+"/almanac"+query, nil, 422).Errors, query)
	}
	for _, from := range []string{"0001-01-01", "9999-12-31"} {
		assert.Len(t, c.almanac("?from="+from+"&days=1").Days, 1)
	}
}

// An open screen hears of what happens, whoever does it.
func TestEventsTellOfChanges(t *testing.T) {
	c := signedIn(t)
	ctx, stop := context.WithTimeout(t.Context(), time.Minute)
	defer stop()
	request, err := http.NewRequestWithContext(ctx, "GET", c.url+site+"/events", nil)
	require.NoError(t, err)
	answer, err := c.http.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, "text/event-stream", answer.Header.Get("Content-Type"))
	read := make([]byte, 4096)
	var seen strings.Builder
	next := func(event string) {
		for !strings.Contains(seen.String(), event) {
			n, err := answer.Body.Read(read)
			require.NoError(t, err)
			seen.Write(read[:n])
		}
	}
	next("event: beat")
	var p posts.Post
	c.call("POST", site+"/posts", map[string]any{"title": "Heard of"}, 201, &p)
	next(`"plan"`)
	c.call("PATCH", site+"/posts/"+itoa(p.ID), map[string]any{"version": p.Version, "body": "Words."}, 200, nil)
	next(fmt.Sprintf(`"of":["text"],"posts":[{"id":%d,"version":%d}]`, p.ID, p.Version+1))
	remarks := fmt.Sprintf("%s/posts/%d/remarks", site, p.ID)
	var said []posts.Remark
	c.call("POST", remarks, map[string]any{"body": "Is that so?"}, 200, &said)
	next(`"of":["remarks"]`)
	seen.Reset()
	c.call("DELETE", fmt.Sprintf("%s/%d", remarks, said[0].ID), nil, 200, nil)
	next(`"of":["remarks"]`)
}

// What every screen shows is told in a few bytes, without the plan.
func TestTheStatusOfASite(t *testing.T) {
	c := signedIn(t)
	var s plan.Status
	c.call("GET", site+"/status", nil, 200, &s)
	assert.Equal(t, []any{false, 0, false}, []any{s.Engine.Alive, s.Overdue, s.Paused})
	assert.Nil(t, s.Next)
	assert.Empty(t, s.Asking)
	second := c.scheduled("Second", pgtest.Noon.Add(72*time.Hour))
	first := c.scheduled("First", pgtest.Noon.Add(48*time.Hour))
	held := c.scheduled("Held", pgtest.Noon.Add(24*time.Hour))
	c.call("POST", fmt.Sprintf("%s/posts/%d/hold", site, held.ID), map[string]any{"version": held.Version}, 200, nil)
	c.call("GET", site+"/status", nil, 200, &s)
	require.NotNil(t, s.Next)
	assert.Equal(t, []any{first.ID, "First", pgtest.Noon.Add(48 * time.Hour)},
		[]any{s.Next.ID, s.Next.Title, s.Next.At})
	assert.Zero(t, s.Overdue, "it is held, and its time is to come")
	c.clock.Advance(25 * time.Hour)
	c.call("GET", site+"/status", nil, 200, &s)
	assert.Equal(t, 1, s.Overdue)
	assert.NotZero(t, second.ID)
}

// A stream ends with the right to watch: after a sign-out, and after a removal.
func TestEventsEndWithTheRightToHearThem(t *testing.T) {
	for name, end := range map[string]func(c *client, watcher caller){
		"signed out": func(_ *client, watcher caller) { watcher.call("DELETE", "/api/v1/session", nil, 204, nil) },
		"removed": func(c *client, watcher caller) {
			_, err := c.world.DB().ExecContext(c.t.Context(), `delete from memberships where user_id = $1`,
				c.userID("editor@dome.example"))
			require.NoError(c.t, err)
		},
	} {
		t.Run(name, func(t *testing.T) {
			c := signedIn(t)
			watcher := c.as(people.Editor, c.world.Site)
			ctx, stop := context.WithTimeout(t.Context(), time.Minute)
			defer stop()
			request, err := http.NewRequestWithContext(ctx, "GET", c.url+site+"/events", nil)
			require.NoError(t, err)
			answer, err := watcher.http.Do(request)
			require.NoError(t, err)
			defer answer.Body.Close()
			require.Equal(t, http.StatusOK, answer.StatusCode)
			first := make([]byte, 5)
			_, err = io.ReadFull(answer.Body, first)
			require.NoError(t, err)
			end(c, watcher)
			c.begin("Not for them")
			rest, err := io.ReadAll(answer.Body)
			require.NoError(t, err, "it ends, and in time")
			// That anything may have changed unseen is told as listening begins, which may be now.
			told := strings.ReplaceAll(string(rest), `"of":["all"]`, "")
			assert.NotContains(t, told, `"of":`)
		})
	}
}

// A database that takes no writing is not ready, though it reads well.
func TestReadyMeansWritableToo(t *testing.T) {
	t.Parallel()
	c := newClientOn(t, pgtest.Own(t), func(*api.Config) {})
	c.call("GET", "/readyz", nil, 200, nil)
	_, err := c.world.DB().ExecContext(t.Context(),
		`do $$ begin execute format('alter database %I set default_transaction_read_only = on', current_database()); end $$`)
	require.NoError(t, err)
	_, err = c.world.DB().ExecContext(t.Context(),
		`select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`)
	require.NoError(t, err)
	c.world.DB().SetMaxIdleConns(0) // the present connection would still write
	c.clock.Advance(time.Minute)
	c.call("GET", "/readyz", nil, 503, nil)
	c.call("GET", "/healthz", nil, 200, nil)
}

// A link to a preview opens nothing any more once its maker is not of the site, or its
// post is in the bin.
func TestPreviewsEndWithTheirMakersAndPosts(t *testing.T) {
	c := signedIn(t)
	writer := c.as(people.Editor, c.world.Site)
	opens := func(link string) int {
		u, err := url.Parse(link)
		require.NoError(t, err)
		answer, err := c.http.Get(c.url + u.Path)
		require.NoError(t, err)
		answer.Body.Close()
		return answer.StatusCode
	}
	p := c.begin("Soon out")
	var mine, theirs posts.SecretLink
	c.call("POST", c.path(p, "/previews"), map[string]int{"days": 1}, 201, &mine)
	writer.call("POST", c.path(p, "/previews"), map[string]int{"days": 1}, 201, &theirs)
	assert.Equal(t, 200, opens(mine.Address))
	assert.Equal(t, 200, opens(theirs.Address))
	_, err := c.world.DB().ExecContext(t.Context(), `delete from memberships where user_id = $1`,
		c.userID("editor@dome.example"))
	require.NoError(t, err)
	assert.Equal(t, 200, opens(mine.Address))
	assert.Equal(t, 404, opens(theirs.Address))
	c.call("POST", c.path(p, "/bin"), map[string]int{"version": p.Version}, 200, &p)
	assert.Equal(t, 404, opens(mine.Address))
}

func TestScreensAndProbes(t *testing.T) {
	c := newClient(t)
	c.call("GET", "/healthz", nil, 200, nil)
	c.call("GET", "/readyz", nil, 200, nil)
	for path, want := range map[string]string{"/": "screens", "/dome/rhythm": "screens", "/assets/a.js": "1"} {
		answer, err := c.http.Get(c.url + path)
		require.NoError(t, err)
		body, err := io.ReadAll(answer.Body)
		answer.Body.Close()
		require.NoError(t, err)
		assert.Contains(t, string(body), want)
		assert.Equal(t, "nosniff", answer.Header.Get("X-Content-Type-Options"))
		assert.Contains(t, answer.Header.Get("Content-Security-Policy"), "frame-ancestors 'none'")
	}
	c.call("GET", "/assets/../../etc/passwd", nil, 200, nil) // an address of the screens, not a file
	var description struct {
		OpenAPI string `json:"openapi"`
	}
	c.call("GET", "/api/openapi.json", nil, 200, &description)
	assert.True(t, strings.HasPrefix(description.OpenAPI, "3.1"))
}

func TestNotReadyWithoutItsSchema(t *testing.T) {
	c := newClient(t)
	_, err := c.world.DB().ExecContext(t.Context(), `delete from goose_db_version where version_id > 0`)
	require.NoError(t, err)
	c.call("GET", "/readyz", nil, 503, nil)
}
