package api_test

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/forecasts"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/deliver"
	"dapper.example/internal/engine"
	"dapper.example/internal/formats"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

const rulesPath = site + "/rules"

// out adds a published post of so many days ago, and returns it.
func (c *client) out(title string, days int) store.Post {
	c.t.Helper()
	at := pgtest.Noon.AddDate(0, 0, -days)
	id, err := c.world.InsertPublished(c.t.Context(), store.Post{SiteID: c.world.Site.ID, AuthorID: c.world.Editor.ID,
		CategoryID: &c.world.Category,
		Title:      title, Slug: strings.ToLower(strings.ReplaceAll(title, " ", "-")), Body: "Some text about " + title +
			".", PublishedAt: &at, CreatedAt: at})
	require.NoError(c.t, err)
	return c.world.Reload(c.t, id)
}

func (c *client) outs(n int) (posts []store.Post) {
	for i := range n {
		posts = append(posts, c.out(fmt.Sprintf("Post %02d", i), 10*(i+1)))
	}
	return posts
}

func (c *client) lantern() int64 {
	c.t.Helper()
	id, err := c.world.InsertChannel(c.t.Context(), store.Channel{SiteID: c.world.Site.ID, Kind: channel.Lantern,
		Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 20, ADay: 24})
	require.NoError(c.t, err)
	return id
}

// live moves the clock on, from one thing that is due to the next.
func (c *client) live(to time.Time) {
	c.t.Helper()
	queue, err := deliver.NewQueue(c.world.Store)
	require.NoError(c.t, err)
	e := engine.New(c.world.Store, c.world.Changes(pgtest.Quiet()), c.clock,
		engine.Outward{Queue: queue, Public: "https://dome.example"}, pgtest.Quiet())
	for {
		n, err := e.Step(c.t.Context())
		require.NoError(c.t, err)
		if n > 0 {
			continue
		}
		next, err := e.Next(c.t.Context(), c.clock.Now())
		require.NoError(c.t, err)
		if next.IsZero() || next.After(to) {
			next = to
		}
		if !next.After(c.clock.Now()) {
			return
		}
		c.clock.Advance(next.Sub(c.clock.Now()))
	}
}

func older(days int) condition.Node {
	return condition.Node{Test: condition.Age, Match: condition.MatchOver, N: days, Unit: condition.Days}
}

func expiry(n condition.Node) rules.RuleBody {
	return rules.RuleBody{Kind: "expire", Name: "Old ones", Condition: n, Action: "archive",
		Cadence: formats.Cadence{By: "every", N: 1, Unit: "days", At: civil.MustClock("04:00")}}
}

func sharing(channel int64) rules.RuleBody {
	return rules.RuleBody{Kind: "reshare", Name: "Around again", Condition: older(1), Channels: []int64{channel},
		Order: "longest", Apart: 3,
		Cadence: formats.Cadence{By: "every", N: 6, Unit: "hours"}, Wordings: []string{"{title} {link}"}}
}

func (c *client) make(body rules.RuleBody) rules.Rule {
	c.t.Helper()
	var r rules.Rule
	c.call("POST", rulesPath, body, 201, &r)
	return r
}

func (c *client) preview(id int64, body rules.RuleBody) rules.RulePreview {
	c.t.Helper()
	var p rules.RulePreview
	c.call("POST", rulesPath+"/preview", map[string]any{"id": id, "rule": body, "coming": true}, 200, &p)
	return p
}

func (c *client) arm(r rules.Rule, confirm int) rules.Rule {
	c.t.Helper()
	p := c.preview(r.ID, r.RuleBody)
	c.call("POST", rulePath(r.ID, "arm"), map[string]any{"version": r.Version, "token": p.Token, "confirm": confirm},
		200, &r)
	return r
}

func rulePath(id int64, rest string) string {
	return strings.TrimSuffix(fmt.Sprintf("%s/%d/%s", rulesPath, id, rest), "/")
}

func (c *client) rule(id int64) rules.Rule {
	c.t.Helper()
	var all rules.Rules
	c.call("GET", rulesPath, nil, 200, &all)
	for _, r := range all.Rules {
		if r.ID == id {
			return r
		}
	}
	c.t.Fatalf("there is no rule %d", id)
	return rules.Rule{}
}

func (c *client) reader(path string) string {
	c.t.Helper()
	answer, err := c.http.Get(c.url + path)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	return string(text)
}

func TestARuleIsArmedFromItsCatchAlone(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(12)
	r := c.make(expiry(older(105)))
	assert.Equal(t, "off", r.State)
	p := c.preview(r.ID, r.RuleBody)
	require.Equal(t, 2, p.Count)
	assert.Equal(t, "Posts out for 105 days or more.", p.Sentence)
	assert.Equal(t, "it came out 120 days ago, on Mon 27 Jul", p.Posts[0].Reason)
	assert.False(t, p.Wide)

	// A post is binned between the preview and the arming.
	_, err := c.world.DB().ExecContext(t.Context(),
		`update posts set status = 'binned', binned_at = now(), binned_from = 'published' where id = $1`, posts[11].ID)
	require.NoError(t, err)
	var problem refusal
	c.call("POST", rulePath(r.ID, "arm"), map[string]any{"version": r.Version, "token": p.Token}, 409, &problem)
	require.NotNil(t, problem.Catch)
	assert.Equal(t, 1, problem.Catch.Count)
	assert.Equal(t, "off", c.rule(r.ID).State)

	c.call("POST", rulePath(r.ID, "arm"), map[string]any{"version": r.Version, "token": problem.Catch.Token}, 200, &r)
	assert.Equal(t, "armed", r.State)
	require.NotNil(t, r.Next)
	assert.Equal(t, "2026-11-25", r.Next.Date.String())

	c.live(pgtest.Noon.Add(24 * time.Hour))
	assert.Equal(t, store.Archived, c.world.Reload(t, posts[10].ID).Status)
	assert.Contains(t, c.reader("/blog/dome/post-10"), "archived on 25 November 2026")
	var history rules.RuleHistory
	c.call("GET", rulePath(r.ID, "runs"), nil, 200, &history)
	require.Len(t, history.Runs, 1)
	assert.Equal(t, 1, history.Runs[0].Took)

	c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, history.Runs[0].LogID), nil, 200, nil)
	assert.Equal(t, store.Published, c.world.Reload(t, posts[10].ID).Status)
	assert.NotContains(t, c.reader("/blog/dome/post-10"), "archived on")
	held := c.rule(r.ID)
	assert.Equal(t, "held", held.State)
	assert.Contains(t, held.HeldWhy, "undone")
	c.live(c.clock.Now().Add(72 * time.Hour))
	assert.Equal(t, store.Published, c.world.Reload(t, posts[10].ID).Status)

	held = c.arm(held, 0)
	assert.Equal(t, "armed", held.State)
	c.live(c.clock.Now().Add(24 * time.Hour))
	assert.Equal(t, store.Archived, c.world.Reload(t, posts[10].ID).Status)
}

func TestWideCatchesAreConfirmedAndWholeOnesRefused(t *testing.T) {
	c := signedIn(t)
	c.outs(10)
	r := c.make(expiry(older(75)))
	p := c.preview(r.ID, r.RuleBody)
	require.Equal(t, 3, p.Count)
	assert.True(t, p.Wide)
	arm := func(r rules.Rule, token string, confirm int) refusal {
		return c.fails("POST", rulePath(r.ID, "arm"), map[string]any{"version": r.Version, "token": token,
			"confirm": confirm}, 422)
	}
	assert.Contains(t, arm(r, p.Token, 0).Detail, "Type 3 to confirm")
	assert.Contains(t, arm(r, p.Token, 4).Detail, "Type 3")
	all := c.make(expiry(older(1)))
	p = c.preview(all.ID, all.RuleBody)
	assert.True(t, p.All)
	assert.Contains(t, arm(all, p.Token, 10).Detail, "all 10 published posts")

	r = c.arm(r, 3)
	c.live(pgtest.Noon.Add(24 * time.Hour))
	var gone int
	require.NoError(t, c.world.DB().GetContext(t.Context(), &gone,
		`select count(*) from posts where status = 'archived'`))
	assert.Equal(t, 3, gone)

	// Its reach grows: it holds and asks.
	_, err := c.world.DB().ExecContext(t.Context(),
		`update posts set published_at = published_at - interval '60 days' where status = 'published'`)
	require.NoError(t, err)
	c.live(pgtest.Noon.Add(48 * time.Hour))
	r = c.rule(r.ID)
	assert.Equal(t, "held", r.State)
	assert.Contains(t, r.HeldWhy, "more than a fifth")
	var marks forecasts.Marks
	c.call("GET", site+"/marks?from=2026-11-24", nil, 200, &marks)
	assert.Equal(t, "ask", marks.Marks[len(marks.Marks)-1].Kind)
}

func TestRunningARuleByHand(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(12)
	body := expiry(older(105))
	body.Cadence, body.Action, body.MostARun = formats.Cadence{By: "hand"}, "bin", 1
	r := c.make(body)
	assert.Equal(t, "by hand only", r.Often)
	p := c.preview(r.ID, r.RuleBody)
	var ran rules.Ran
	c.call("POST", rulePath(r.ID, "run"), map[string]any{"version": r.Version, "token": p.Token}, 200, &ran)
	assert.Equal(t, 1, ran.Took, "one a run")
	assert.Equal(t, store.Binned, c.world.Reload(t, posts[11].ID).Status)
	c.fails("POST", rulePath(r.ID, "run"), map[string]any{"version": r.Version, "token": p.Token}, 409)
	c.live(pgtest.Noon.Add(72 * time.Hour))
	assert.Equal(t, store.Published, c.world.Reload(t, posts[10].ID).Status, "by hand only is by hand only")
	assert.Contains(t, c.reader("/blog/dome/post-11"), "no post at this address")
}

func TestRulesThatAreRefused(t *testing.T) {
	c := signedIn(t)
	lantern := c.lantern()
	for _, one := range []struct {
		change func(*rules.RuleBody)
		field  string
		says   string
	}{
		{func(b *rules.RuleBody) { b.Name = " " }, "name", "Give the rule a name"},
		{func(b *rules.RuleBody) { b.Condition = condition.Node{} }, "condition", "would match every post"},
		{func(b *rules.RuleBody) { b.Condition.N = 0 }, "condition.n", "1 to"},
		{func(b *rules.RuleBody) {
			b.Condition = condition.Node{Group: condition.AllOf, Parts: []condition.Node{{Test: "colour"}}}
		}, "condition.parts[0].test", "no condition"},
		{func(b *rules.RuleBody) { b.Cadence.N = 0 }, "cadence.n", "1 to 1000"},
		{func(b *rules.RuleBody) { b.Cadence = formats.Cadence{By: "every", N: 1} }, "cadence.unit",
			"minutes, hours, days or weeks"},
		{func(b *rules.RuleBody) { b.Wordings = nil }, "wordings", "1 to 50 wordings"},
		{func(b *rules.RuleBody) { b.Wordings = []string{"{title}", "{titel}"} }, "wordings[1]",
			"no placeholder {titel}"},
		{func(b *rules.RuleBody) { b.Channels = []int64{999} }, "channels", "Choose one"},
		{func(b *rules.RuleBody) { b.Order = "best" }, "order", "no order"},
		{func(b *rules.RuleBody) { b.From, b.To = civil.MustClock("20:00"), civil.MustClock("08:00") }, "to",
			"written 26:00"},
		{func(b *rules.RuleBody) {
			b.Youngest, b.Oldest = condition.Span{N: 9, Unit: "days"}, condition.Span{N: 9, Unit: "days"}
		}, "oldest", "Raise the second age"},
		{func(b *rules.RuleBody) { b.Hashtags.Sources = []string{"field"} }, "hashtags.field", "Name the custom field"},
	} {
		body := sharing(lantern)
		one.change(&body)
		p := c.fails("POST", rulesPath, body, 422)
		require.NotEmpty(t, p.Errors)
		assert.Equal(t, "body."+one.field, p.Errors[0].Location)
		assert.Contains(t, p.Errors[0].Message, one.says)
		preview := c.preview(0, body)
		assert.Equal(t, one.field, preview.Problems[0].Path, "the preview says the same")
	}
	// A misspelt name in a condition would match the wrong posts.
	misspelt := map[string]any{"kind": "expire", "name": "Misspelt",
		"condition": map[string]any{"test": "kind", "match": "any", "value": []string{"post"}}}
	said := c.fails("POST", rulesPath, misspelt, 422)
	require.NotEmpty(t, said.Errors)
	assert.Contains(t, fmt.Sprint(said.Errors), "unexpected property")
	body := expiry(older(9))
	body.Cadence.Unit = "minutes"
	assert.Contains(t, c.fails("POST", rulesPath, body, 422).Detail, "hourly, daily or weekly")
	assert.Empty(t, c.rulesOf())
}

func (c *client) rulesOf() []rules.Rule {
	c.t.Helper()
	var all rules.Rules
	c.call("GET", rulesPath, nil, 200, &all)
	return all.Rules
}

func TestWarningsBeforeARuleRuns(t *testing.T) {
	c := signedIn(t)
	body := sharing(c.lantern())
	assert.Equal(t, []string{"This rule has no post to bring out right now. Loosen its conditions, ages or rest periods."}, c.preview(0, body).Warnings)
	c.out("The only one", 30)
	body.Cadence = formats.Cadence{By: "every", N: 1, Unit: "minutes"}
	body.Wordings = []string{"{title}"}
	p := c.preview(0, body)
	assert.Equal(t, []string{
		"This rule has only one post to bring out right now; it would be the same one every time.",
		"A message every 1 min is a lot; more than one in 20 min looks automated.",
		"Lantern takes messages at least 20 min apart; a turn every 1 min will be put off or let go.",
		"Lantern takes at most 24 messages a day; this rule alone asks for 1440.",
		"Wording 1 has no {link}; readers cannot get to the post.",
	}, p.Warnings)
	assert.Equal(t, 1, p.Count)

	// A message that cannot fit never goes out, and that is told beforehand.
	body.Wordings = []string{strings.Repeat("far too long ", 40) + "{title}"}
	p = c.preview(0, body)
	assert.Empty(t, p.Coming)
	var cmp forecasts.Comparison
	c.call("POST", site+"/forecast/compare", map[string]any{"rule": body, "days": 3}, 200, &cmp)
	require.NotEmpty(t, cmp.Warnings)
	assert.Contains(t, cmp.Warnings[0].Text, "no message of the rule “Around again” fits")
}

func TestAReshareRuleFromPreviewToClicks(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(4)
	body := sharing(c.lantern())
	body.Short, body.Params = true, nil
	r := c.arm(c.make(body), 0)
	p := c.preview(r.ID, r.RuleBody)
	require.Len(t, p.Coming, 20)
	assert.Equal(t, p.Coming[0].At, r.Next.At)
	c.live(pgtest.Noon.Add(25 * time.Hour))
	var history rules.RuleHistory
	c.call("GET", rulePath(r.ID, "runs"), nil, 200, &history)
	require.Len(t, history.Outings, 4)
	for i, o := range history.Outings {
		said := p.Coming[3-i]
		assert.Equal(t, said.At, o.At)
		assert.Equal(t, "waiting", o.State)
		assert.Equal(t, said.Text, o.Text)
	}

	_, link, _ := strings.Cut(history.Outings[0].Text, "https://dome.example")
	c.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	answer, err := c.http.Get(c.url + strings.TrimSpace(link))
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusFound, answer.StatusCode)
	assert.Contains(t, answer.Header.Get("Location"), "/blog/dome/post-")
	c.call("GET", rulePath(r.ID, "runs"), nil, 200, &history)
	assert.Equal(t, 1, history.Outings[0].Clicks)
	answer, err = c.http.Get(c.url + "/s/nowhere")
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusNotFound, answer.StatusCode)

	// A post that is excluded by hand stays away until it is let in again.
	path := fmt.Sprintf("%s/exclusions/%d", rulePath(r.ID, ""), posts[0].ID)
	c.call("PUT", path, map[string]any{"excluded": true}, 204, nil)
	var why rules.CaughtPost
	c.call("POST", rulesPath+"/why", map[string]any{"id": r.ID, "rule": r.RuleBody, "post": posts[0].ID}, 200, &why)
	assert.True(t, why.Excluded)
	assert.Contains(t, why.Reason, "excluded from this rule by hand")
	c.call("GET", rulePath(r.ID, "runs"), nil, 200, &history)
	assert.Len(t, history.Excluded, 1)
	c.call("PUT", path, map[string]any{"excluded": false}, 204, nil)
	c.call("POST", rulesPath+"/why", map[string]any{"id": r.ID, "rule": r.RuleBody, "post": posts[0].ID}, 200, &why)
	assert.Contains(t, why.Reason, "it was shared here less than 3 days ago")
}

func TestRepublishingKeepsTheFirstDate(t *testing.T) {
	c := signedIn(t)
	c.outs(3)
	r := c.arm(c.make(rules.RuleBody{Kind: "republish", Name: "Come round", Condition: older(1), Order: "oldest",
		AtATime: 1, Apart: 30,
		Youngest: condition.Span{N: 2, Unit: condition.Weeks}, Cadence: formats.Cadence{By: "every", N: 1, Unit: "days",
			At: civil.MustClock("15:00")}}), 0)
	c.live(pgtest.Noon.Add(6 * time.Hour))
	page := c.reader("/blog/dome/post-02")
	assert.Contains(t, page, "24 November 2026")
	assert.Contains(t, page, "first published on 25 October 2026")
	s := c.settings()
	s.FirstDateShown = false
	c.call("PUT", site+"/settings", s, 200, nil)
	assert.NotContains(t, c.reader("/blog/dome/post-02"), "first published")

	var history rules.RuleHistory
	c.call("GET", rulePath(r.ID, "runs"), nil, 200, &history)
	c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, history.Runs[0].LogID), nil, 200, nil)
	assert.Contains(t, c.reader("/blog/dome/post-02"), "25 October 2026")
	assert.Equal(t, "held", c.rule(r.ID).State)
	var again int
	require.NoError(t, c.world.DB().GetContext(t.Context(), &again, `select count(*) from republications`))
	assert.Zero(t, again)
}

func TestChangesMeanwhileAreNotOverwritten(t *testing.T) {
	c := signedIn(t)
	c.outs(12)
	r := c.make(expiry(older(105)))
	first := r.RuleBody
	first.Name = "Renamed"
	c.call("PUT", rulePath(r.ID, ""), first, 200, nil)
	c.fails("PUT", rulePath(r.ID, ""), r.RuleBody, 409)
	c.fails("POST", rulePath(r.ID, "arm"), map[string]any{"version": r.Version, "token": ""}, 409)
	r = c.arm(c.rule(r.ID), 0)

	// An armed rule that would take other posts must be armed again; another name alone
	// changes nothing.
	body := r.RuleBody
	body.Name = "Named again"
	c.call("PUT", rulePath(r.ID, ""), body, 200, &r)
	assert.Equal(t, "armed", r.State)
	body = r.RuleBody
	body.Condition = older(90)
	c.call("PUT", rulePath(r.ID, ""), body, 200, &r)
	assert.Equal(t, "off", r.State)
	c.fails("POST", rulePath(r.ID, "disarm"), map[string]any{"version": 1}, 409)
	c.fails("DELETE", rulePath(r.ID, "")+"?version=1", nil, 409)
	c.call("DELETE", fmt.Sprintf("%s?version=%d", rulePath(r.ID, ""), r.Version), nil, 204, nil)
	assert.Empty(t, c.rulesOf())
}

func TestOnlyEditorsChangeRulesAndOtherSitesStayHidden(t *testing.T) {
	c := signedIn(t)
	c.outs(12)
	r := c.make(expiry(older(105)))
	c.fails("GET", "/api/v1/sites/elsewhere/rules", nil, 404)
	c.fails("PUT", rulePath(r.ID+1, ""), r.RuleBody, 404)
	c.fails("POST", rulePath(r.ID+1, "arm"), map[string]any{"version": 1}, 404)
	c.fails("GET", rulePath(r.ID+1, "runs"), nil, 404)
	_, err := c.world.DB().ExecContext(t.Context(), `update memberships set role = 'contributor'`)
	require.NoError(t, err)
	c.call("GET", rulesPath, nil, 200, nil)
	c.preview(r.ID, r.RuleBody)
	c.fails("POST", rulesPath, r.RuleBody, 403)
	c.fails("PUT", rulePath(r.ID, ""), r.RuleBody, 403)
	c.fails("POST", rulePath(r.ID, "arm"), map[string]any{"version": r.Version}, 403)
	c.fails("POST", rulePath(r.ID, "run"), map[string]any{"version": r.Version}, 403)
	c.fails("DELETE", rulePath(r.ID, "")+"?version=1", nil, 403)
}

func TestForecastAndWhatAChangeWouldChange(t *testing.T) {
	c := signedIn(t)
	c.outs(12)
	lantern := c.lantern()
	r := c.arm(c.make(sharing(lantern)), 0)
	c.world.Scheduled(t, "To come", pgtest.Noon.Add(26*time.Hour))
	var f forecasts.Forecast
	c.call("GET", site+"/forecast?days=10", nil, 200, &f)
	assert.Equal(t, 1, f.Counts["publish"])
	assert.Equal(t, 40, f.Counts["share"])
	assert.Equal(t, "Around again", f.Events[0].Rule)
	assert.Equal(t, "Lantern", f.Events[0].Channel)
	assert.Contains(t, f.Events[0].Text, "/blog/dome/post-")
	c.fails("GET", site+"/forecast?days=732", nil, 422)

	stream := c.reader(site + "/forecast/follow?days=100")
	assert.Contains(t, stream, "event: progress\n")
	assert.Contains(t, stream, "event: forecast\n")
	c.fails("GET", "/api/v1/sites/elsewhere/forecast/follow", nil, 404)

	var cmp forecasts.Comparison
	c.call("POST", site+"/forecast/compare", map[string]any{"days": 10, "ruleId": r.ID, "drop": true}, 200, &cmp)
	assert.Equal(t, 40, cmp.Goes)
	fighting := expiry(older(35))
	c.call("POST", site+"/forecast/compare", map[string]any{"days": 10, "rule": fighting}, 200, &cmp)
	assert.NotZero(t, cmp.Comes)
	found := false
	for _, w := range cmp.Warnings {
		found = found || w.Kind == "fight" && strings.Contains(w.Text,
			"The rules “Around again” and “Old ones” fight over")
	}
	assert.True(t, found, "%+v", cmp.Warnings)
	var rhythm rhythms.Rhythm
	c.call("GET", site+"/rhythm", nil, 200, &rhythm)
	rhythm.Openings = rhythm.Openings[:1]
	c.call("POST", site+"/forecast/compare", map[string]any{"days": 10, "rhythm": rhythm}, 200, &cmp)
	assert.Zero(t, cmp.Comes+cmp.Goes+cmp.Moves, "scheduled posts keep their times")

	var marks forecasts.Marks
	c.call("GET", site+"/marks?days=3", nil, 200, &marks)
	assert.Len(t, marks.Marks, 9, "four a day, from noon on, up to midnight of the third")
	assert.Equal(t, "coming", marks.Marks[0].State)
	c.live(pgtest.Noon.Add(7 * time.Hour))
	c.call("GET", site+"/marks?days=3", nil, 200, &marks)
	assert.Equal(t, "waiting", marks.Marks[0].State)
	assert.Equal(t, f.Events[0].At, marks.Marks[0].At)
}

func TestCareForOnePost(t *testing.T) {
	c := signedIn(t)
	p := c.outs(1)[0]
	path := fmt.Sprintf("%s/posts/%d", site, p.ID)
	care := map[string]any{"version": p.Version, "neverExpires": true, "evergreen": true, "excerpt": "Short.",
		"fields": map[string]string{"event": "2026-12-01"}}
	var post posts.Post
	c.call("PATCH", path, care, 200, &post)
	assert.Equal(t, "2026-12-01", post.Fields["event"])
	c.fails("PATCH", path, care, 409)
	expiry := map[string]any{"version": post.Version, "expires": map[string]string{"date": "2026-12-01",
		"clock": "10:00"}}
	assert.Contains(t, c.fails("PATCH", path, expiry, 422).Detail, "Choose one of the two")
	expiry["neverExpires"] = false
	c.call("PATCH", path, expiry, 200, &post)
	assert.Equal(t, "10:00", post.Expires.Clock.String())
	c.live(pgtest.Noon.AddDate(0, 0, 8))
	assert.Equal(t, store.Archived, c.world.Reload(t, p.ID).Status)
	assert.Contains(t, c.reader("/blog/dome/post-00"), "archived on 1 December 2026")

	// Undone, it is not archived again at once by the expiry that has passed.
	var marks forecasts.Marks
	c.call("GET", site+"/marks?from=2026-12-01&days=1", nil, 200, &marks)
	require.Len(t, marks.Marks, 1)
	c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, marks.Marks[0].LogID), nil, 200, nil)
	c.live(pgtest.Noon.AddDate(0, 0, 12))
	assert.Equal(t, store.Published, c.world.Reload(t, p.ID).Status)
	assert.Nil(t, c.world.Reload(t, p.ID).ExpiresAt)
	var found posts.FoundPosts
	c.call("GET", site+"/titles?title=POST", nil, 200, &found)
	assert.Equal(t, []posts.FoundPost{{ID: p.ID, Title: "Post 00", Status: "published", Kind: "post",
		Path: "/blog/dome/post-00"}}, found.Posts)
}

func TestTheSchemaOfConditionsIsPublished(t *testing.T) {
	c := newClient(t)
	assert.Contains(t, c.reader("/api/v1/condition.schema.json"), "https://json-schema.org/draft/2020-12/schema")
}

// Where one post goes to two channels in the same minute, each mark tells of its own message.
func TestMarksOfTwoChannelsAtOnce(t *testing.T) {
	c := signedIn(t)
	c.out("The one for both", 30)
	other, err := c.world.InsertChannel(c.t.Context(), store.Channel{SiteID: c.world.Site.ID, Kind: channel.Lantern,
		Name: "Second lantern", Address: "http://127.0.0.1:9", Token: "u", Apart: 20, ADay: 24})
	require.NoError(t, err)
	for name, id := range map[string]int64{"first": c.lantern(), "second": other} {
		body := sharing(id)
		body.Name, body.Wordings = name, []string{"{title}, for the " + name + " {link}"}
		c.arm(c.make(body), 0)
	}
	c.live(pgtest.Noon.Add(7 * time.Hour))
	var marks forecasts.Marks
	c.call("GET", site+"/marks?from="+pgtest.Noon.Format(time.DateOnly)+"&days=1", nil, 200, &marks)
	said, times := map[string]string{}, map[time.Time]bool{}
	for _, m := range marks.Marks {
		if m.State != "coming" {
			said[m.Rule], times[m.At] = m.Text, true
		}
	}
	require.Len(t, said, 2)
	require.Len(t, times, 1, "both in the same minute")
	for name, text := range said {
		assert.Contains(t, text, "for the "+name)
	}
}
