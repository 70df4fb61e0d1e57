package api_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/forecasts"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/formats"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

func (c *client) undoRuns(rule int64) {
	c.t.Helper()
	var history rules.RuleHistory
	c.call("GET", rulePath(rule, "runs"), nil, 200, &history)
	for _, run := range history.Runs {
		if run.LogID != 0 {
			c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, run.LogID), nil, 200, nil)
			return
		}
	}
	require.Fail(c.t, "there is no run to undo")
}

// Each action does its one thing to what is 105 days old, is foretold, and is undone whole; the rule waits then.
func TestEachActionIsDoneAndUndone(t *testing.T) {
	t.Parallel()
	for name, one := range map[string]struct {
		set   func(*rules.RuleBody, int64)
		deed  string
		is    func(p store.Post, category int64) bool
		reads string
	}{
		"another category": {func(b *rules.RuleBody, category int64) { b.Action, b.CategoryID = "category", category }, "refile",
			func(p store.Post, category int64) bool { return *p.CategoryID == category }, "Attic"},
		"a tag": {func(b *rules.RuleBody, _ int64) { b.Action, b.Tag = "tag", " Old news " }, "add tag",
			func(p store.Post, _ int64) bool { return len(p.Tags) == 1 && p.Tags[0] == "Old news" }, "Old news"},
		"a notice": {func(b *rules.RuleBody, _ int64) { b.Action, b.Notice = "notice", "Of {published}." }, "put notice",
			func(p store.Post, _ int64) bool { return p.Notice == "Of 27 July 2026." && p.Status == store.Published }, "Of 27 July 2026."},
		"closed comments": {func(b *rules.RuleBody, _ int64) { b.Action = "comments" }, "close comments",
			func(p store.Post, _ int64) bool { return !p.CommentsOpen }, ""},
	} {
		t.Run(name, func(t *testing.T) {
			c := signedIn(t)
			posts := c.outs(12)
			old := posts[11]
			attic, err := c.world.InsertCategory(t.Context(), c.world.Site.ID, "attic", "Attic", 9)
			require.NoError(t, err)
			_, err = c.world.DB().ExecContext(t.Context(), `update sites set comments_open = true`)
			require.NoError(t, err)
			body := expiry(older(115))
			one.set(&body, attic)
			r := c.arm(c.make(body), 0)
			var told forecasts.Forecast
			c.call("GET", site+"/forecast?days=2", nil, 200, &told)
			require.Len(t, told.Events, 1)
			assert.Equal(t, one.deed, told.Events[0].Kind)
			before := c.world.Reload(t, old.ID)
			require.False(t, one.is(before, attic))
			c.live(pgtest.Noon.Add(24 * time.Hour))
			assert.True(t, one.is(c.world.Reload(t, old.ID), attic))
			assert.False(t, one.is(c.world.Reload(t, posts[10].ID), attic), "a younger one stays")
			if one.reads != "" {
				assert.Contains(t, c.reader("/blog/dome/post-11"), one.reads)
			}
			c.live(pgtest.Noon.Add(48 * time.Hour))
			assert.Equal(t, 0, c.rule(r.ID).Last.Took, "it is done once")
			c.undoRuns(r.ID)
			after := c.world.Reload(t, old.ID)
			assert.False(t, one.is(after, attic))
			assert.Equal(t, []any{before.CategoryID, len(before.Tags), before.Notice, before.CommentsOpen, before.Status}, []any{after.CategoryID, len(after.Tags), after.Notice, after.CommentsOpen, after.Status})
			assert.Equal(t, "held", c.rule(r.ID).State)
		})
	}
}

func TestActionsThatLackSomethingAreRefused(t *testing.T) {
	c := signedIn(t)
	for field, change := range map[string]func(*rules.RuleBody){
		"category": func(b *rules.RuleBody) { b.Action = "category" },
		"tag":      func(b *rules.RuleBody) { b.Action, b.Tag = "tag", " - " },
		"answer":   func(b *rules.RuleBody) { b.Answer = "teapot" },
		"leadsTo":  func(b *rules.RuleBody) { b.Answer = "redirect" },
		"action":   func(b *rules.RuleBody) { b.Action = "burn" },
		"tellDays": func(b *rules.RuleBody) { b.TellDays, b.Cadence = 3, formats.Cadence{By: "hand"} },
		"notice":   func(b *rules.RuleBody) { b.Action, b.Notice = "notice", fmt.Sprintf("%0501d", 0) },
	} {
		body := expiry(older(9))
		change(&body)
		problem := c.fails("POST", rulesPath, body, 422)
		require.NotEmpty(t, problem.Errors, field)
		assert.Contains(t, problem.Errors[0].Location, field)
	}
}

// What readers get of an archived post: as the rule says, or as the post itself says.
func TestWhatReadersGetOfAnArchivedPost(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(12)
	answer := func(path string) (int, string) {
		client := *c.http
		client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		response, err := client.Get(c.url + path)
		require.NoError(t, err)
		defer response.Body.Close()
		return response.StatusCode, response.Header.Get("Location")
	}
	body := expiry(older(115))
	body.Answer, body.LeadsTo = "redirect", posts[0].ID
	made := c.make(body)
	assert.Equal(t, "Post 00", made.LeadsToTitle)
	c.arm(made, 0)
	c.live(pgtest.Noon.Add(24 * time.Hour))
	code, to := answer("/blog/dome/post-11")
	assert.Equal(t, []any{301, "/blog/dome/post-00"}, []any{code, to})

	say := func(answer string, leadsTo int64, status int) {
		p := c.world.Reload(t, posts[11].ID)
		c.call("PUT", fmt.Sprintf("%s/posts/%d/answer", site, p.ID), map[string]any{"version": p.Version, "answer": answer, "leadsTo": leadsTo}, status, nil)
	}
	say("gone", 0, 200)
	code, _ = answer("/blog/dome/post-11")
	assert.Equal(t, 410, code)
	say("page", 0, 200)
	code, _ = answer("/blog/dome/post-11")
	assert.Equal(t, 200, code)
	say("redirect", posts[11].ID, 422) // to itself
	say("redirect", 999_999, 422)
	say("redirect", posts[1].ID, 200)
	code, to = answer("/blog/dome/post-11")
	assert.Equal(t, []any{301, "/blog/dome/post-01"}, []any{code, to})
	_, err := c.world.DB().ExecContext(t.Context(), `update posts set status = 'binned', binned_at = now(), binned_from = 'published' where id = $1`, posts[1].ID)
	require.NoError(t, err)
	code, _ = answer("/blog/dome/post-11")
	assert.Equal(t, 200, code, "the other post is not there, so the page is shown")
	say("", 0, 200)
	code, to = answer("/blog/dome/post-11")
	assert.Equal(t, []any{301, "/blog/dome/post-00"}, []any{code, to}, "as the rule says again")
}

// Authors are told two days before; one keeps the post, which is told of anew, and the other goes.
func TestAnAuthorKeepsAPostLonger(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(12)
	body := expiry(older(105))
	body.TellDays = 2
	r := c.arm(c.make(body), 0)
	c.live(pgtest.Noon.Add(24 * time.Hour))
	var told rules.Notices
	c.call("GET", site+"/upkeep/notices", nil, 200, &told)
	require.Len(t, told.Notices, 2)
	assert.Equal(t, []any{"Post 10", "expire", "2026-11-27"}, []any{told.Notices[0].Title, told.Notices[0].Kind, told.Notices[0].DueOn.Date.String()})
	var mails int
	require.NoError(t, c.world.DB().GetContext(t.Context(), &mails, `select count(*) from river_job where kind = 'mail' and (args->>'rule')::bigint = $1`, r.ID))
	assert.Equal(t, 1, mails, "one for both")

	p := c.world.Reload(t, posts[10].ID)
	var upkeep rules.PostUpkeep
	c.call("GET", fmt.Sprintf("%s/posts/%d/upkeep", site, p.ID), nil, 200, &upkeep)
	require.NotNil(t, upkeep.Next)
	assert.Equal(t, []any{"archive", "Old ones", "2026-11-27", true}, []any{upkeep.Next.Kind, upkeep.Next.Rule, upkeep.Next.Date.String(), upkeep.CanKeep})
	require.Len(t, upkeep.Notices, 1)
	keep := fmt.Sprintf("%s/posts/%d/keep", site, p.ID)
	c.fails("PUT", keep, map[string]any{"version": p.Version, "until": "2026-11-24"}, 422)
	c.fails("PUT", keep, map[string]any{"version": p.Version, "until": "soon"}, 422)
	c.fails("PUT", keep, map[string]any{"version": p.Version + 7, "until": "2026-12-24"}, 409)
	c.call("PUT", keep, map[string]any{"version": p.Version, "until": "2026-12-24"}, 200, &upkeep)
	assert.Equal(t, "2026-12-24", upkeep.KeptUntil.Date.String())
	assert.Empty(t, upkeep.Notices)

	c.live(pgtest.Noon.Add(4 * 24 * time.Hour))
	assert.Equal(t, store.Archived, c.world.Reload(t, posts[11].ID).Status)
	assert.Equal(t, store.Published, c.world.Reload(t, p.ID).Status)
	c.live(time.Date(2026, 12, 23, 12, 0, 0, 0, time.UTC))
	c.call("GET", site+"/upkeep/notices", nil, 200, &told)
	assert.Condition(t, func() bool {
		for _, n := range told.Notices {
			if n.PostID == p.ID && n.DueOn.Date.String() == "2026-12-24" {
				return true
			}
		}
		return false
	}, "told anew before it goes: %v", told.Notices)
	c.live(time.Date(2026, 12, 26, 12, 0, 0, 0, time.UTC))
	assert.Equal(t, store.Archived, c.world.Reload(t, p.ID).Status)
}

func TestAPostIsReadBeforeItComesOutAgain(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(3)
	channel := c.lantern()
	body := rules.RuleBody{Kind: "republish", Name: "Back", Condition: older(15), Order: "oldest", AtATime: 1, Apart: 30, ReadDays: 2, Channels: []int64{channel}, Say: "Once more: {title}", SayAfter: 30,
		Cadence: formats.Cadence{By: "every", N: 1, Unit: "days", At: 9 * 60}}
	r := c.arm(c.make(body), 0)
	c.live(pgtest.Noon.Add(24 * time.Hour))
	old := posts[2]
	read := fmt.Sprintf("%s/read/%d", rulePath(r.ID, ""), old.ID)
	c.fails("PUT", fmt.Sprintf("%s/read/%d", rulePath(r.ID, ""), posts[0].ID), nil, 422)
	c.call("PUT", read, nil, 204, nil)
	var told rules.Notices
	c.call("GET", site+"/upkeep/notices", nil, 200, &told)
	require.NotEmpty(t, told.Notices)
	assert.Equal(t, []any{old.ID, "republish", true}, []any{told.Notices[0].PostID, told.Notices[0].Kind, told.Notices[0].Read})
	c.live(pgtest.Noon.Add(5 * 24 * time.Hour))
	assert.Equal(t, 1, c.world.Reload(t, old.ID).TimesRepublished)
	assert.Zero(t, c.world.Reload(t, posts[1].ID).TimesRepublished, "nobody said yes to it")
	var texts []string
	require.NoError(t, c.world.DB().SelectContext(t.Context(), &texts, `select text from outings where state in ('waiting', 'sent', 'failed')`))
	assert.Equal(t, []string{"Once more: Post 02"}, texts)
}

func TestTheBinIsEmptiedAfterItsDays(t *testing.T) {
	c := signedIn(t)
	p := c.out("Old", 50)
	_, err := c.world.DB().ExecContext(t.Context(), `update posts set status = 'binned', binned_from = 'published', binned_at = $2 where id = $1`, p.ID, pgtest.Noon.AddDate(0, 0, -20))
	require.NoError(t, err)
	var s map[string]any
	c.call("GET", site+"/settings", nil, 200, &s)
	s["binDays"] = 10
	problem := c.fails("PUT", site+"/settings", s, 422)
	assert.Contains(t, problem.Errors[0].Message, "1 post has been in the bin for 10 days or longer and would be deleted for good at once. Type 1 to confirm")
	s["binDays"] = 5000
	c.fails("PUT", site+"/settings", s, 422)
	s["binDays"], s["logDays"] = 30, 10
	c.fails("PUT", site+"/settings", s, 422)
	s["logDays"] = 400
	c.call("PUT", site+"/settings", s, 200, &s)
	c.live(pgtest.Noon.AddDate(0, 0, 9))
	assert.Equal(t, store.Binned, c.world.Reload(t, p.ID).Status)
	c.live(pgtest.Noon.AddDate(0, 0, 11))
	_, err = c.world.Post(t.Context(), c.world.Site.ID, p.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	var log struct {
		Lines []struct{ Deed, Title, Reason string }
	}
	c.call("GET", site+"/logbook?deed=delete", nil, 200, &log)
	require.Len(t, log.Lines, 1)
	assert.Equal(t, []string{"Old", "It was in the bin for 30 days, the limit of this blog."}, []string{log.Lines[0].Title, log.Lines[0].Reason})
}

// Something is done once, to posts that were chosen and to those that match; undone whole.
func TestSomethingIsDoneOnce(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(12)
	const once = site + "/upkeep/once"
	chosen := map[string]any{"action": "archive", "ids": []int64{posts[0].ID, posts[3].ID, 999_999}}
	var p rules.RulePreview
	c.call("POST", once+"/preview", chosen, 200, &p)
	assert.Equal(t, []any{2, false}, []any{p.Count, p.Wide})
	chosen["token"] = "x"
	c.fails("POST", once, chosen, 409)
	chosen["token"] = p.Token
	var ran rules.Ran
	c.call("POST", once, chosen, 200, &ran)
	assert.Equal(t, 2, ran.Took)
	line := c.line
	assert.Equal(t, store.Archived, c.world.Reload(t, posts[3].ID).Status)
	c.fails("POST", once, chosen, 409)
	c.call("POST", site+"/logbook/"+line+"/undo", nil, 200, nil)
	assert.Equal(t, store.Published, c.world.Reload(t, posts[0].ID).Status)
	assert.Equal(t, store.Published, c.world.Reload(t, posts[3].ID).Status)

	matching := map[string]any{"action": "tag", "tag": "Elder", "condition": older(65)}
	c.call("POST", once+"/preview", matching, 200, &p)
	require.Equal(t, []any{6, true}, []any{p.Count, p.Wide})
	matching["token"] = p.Token
	assert.Contains(t, c.fails("POST", once, matching, 422).Detail, "Type 6 to confirm")
	matching["confirm"] = 6
	c.call("POST", once, matching, 200, &ran)
	assert.Equal(t, []string{"Elder"}, []string(c.world.Reload(t, posts[11].ID).Tags))
	delete(matching, "token")
	delete(matching, "confirm")
	c.call("POST", once+"/preview", matching, 200, &p)
	assert.Zero(t, p.Count, "they have it already")

	// Only out of the bin, and only typed.
	_, err := c.world.DB().ExecContext(t.Context(), `update posts set status = 'binned', binned_at = now(), binned_from = 'published' where id = $1`, posts[5].ID)
	require.NoError(t, err)
	gone := map[string]any{"action": "delete", "ids": []int64{posts[4].ID, posts[5].ID}}
	c.call("POST", once+"/preview", gone, 200, &p)
	require.Equal(t, []any{1, true}, []any{p.Count, p.ForGood})
	gone["token"] = p.Token
	assert.Contains(t, c.fails("POST", once, gone, 422).Detail, "can’t be undone")
	gone["confirm"] = 1
	c.call("POST", once, gone, 200, &ran)
	_, err = c.world.Post(t.Context(), c.world.Site.ID, posts[5].ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.Equal(t, store.Published, c.world.Reload(t, posts[4].ID).Status)

	for _, bad := range []map[string]any{{"action": "archive"}, {"action": "tag", "ids": []int64{1}}, {"action": "archive", "condition": condition.Node{Test: "mood"}}} {
		c.call("POST", once+"/preview", bad, 200, &p)
		assert.NotEmpty(t, p.Problems, bad)
	}
}

func TestRulesArePutInOrder(t *testing.T) {
	c := signedIn(t)
	c.outs(3)
	var ids []int64
	for i := range 3 {
		body := expiry(older(10 + i))
		body.Name = fmt.Sprint("Rule ", i)
		ids = append(ids, c.make(body).ID)
	}
	order := func() (names []string) {
		var all rules.Rules
		c.call("GET", rulesPath, nil, 200, &all)
		for _, r := range all.Rules {
			names = append(names, r.Name)
		}
		return names
	}
	c.fails("PUT", rulesPath+"/order", map[string]any{"kind": "expire", "ids": ids[:2]}, 422)
	c.call("PUT", rulesPath+"/order", map[string]any{"kind": "expire", "ids": []int64{ids[2], ids[0], ids[1]}}, 204, nil)
	line := c.line
	assert.Equal(t, []string{"Rule 2", "Rule 0", "Rule 1"}, order())
	c.make(expiry(older(99)))
	c.call("POST", site+"/logbook/"+line+"/undo", nil, 200, nil)
	assert.Equal(t, []string{"Rule 0", "Rule 1", "Rule 2", "Old ones"}, order(), "one that came since stays last")
}

func TestTheAgeMap(t *testing.T) {
	c := signedIn(t)
	posts := c.outs(12)
	on := c.arm(c.make(expiry(condition.Node{Group: condition.AllOf, Parts: []condition.Node{
		{Test: condition.Category, Match: condition.MatchAny, Values: []string{"sky guide"}}, older(105)}})), 0)
	off := c.make(rules.RuleBody{Kind: "republish", Name: "Round", Condition: older(1), Order: "oldest", AtATime: 1, Youngest: condition.Span{N: 3, Unit: condition.Weeks},
		Cadence: formats.Cadence{By: "every", N: 1, Unit: "weeks", Weekdays: []string{"monday"}, At: 600}})
	var m rules.AgeMap
	c.call("GET", site+"/upkeep/map", nil, 200, &m)
	require.Len(t, m.Posts, 12)
	require.Len(t, m.Lines, 2)
	assert.Equal(t, posts[11].ID, m.Posts[0].ID, "the oldest is first")
	assert.Equal(t, []int64{on.ID, off.ID}, m.Posts[0].Rules)
	assert.Equal(t, []int64{off.ID}, m.Posts[9].Rules)
	assert.Empty(t, m.Posts[11].Rules)
	assert.True(t, m.Posts[11].Looked, "it will be old some day")
	line := m.Lines[0]
	assert.Equal(t, []any{on.ID, "armed", true, true, "parts[1]", 105.0, 2, []int{m.Posts[0].Lane}}, []any{line.ID, line.State, line.HasAge, line.Over, line.Path, line.Days, line.Count, line.Lanes})
	line = m.Lines[1]
	assert.Equal(t, []any{off.ID, "off", true, 21.0, 10}, []any{line.ID, line.State, line.Setting, line.Days, line.Count})
	assert.Equal(t, "", m.Categories[len(m.Categories)-1])

	// Two rules disagree about a post.
	c.arm(off, 0)
	var upkeep rules.PostUpkeep
	c.call("GET", fmt.Sprintf("%s/posts/%d/upkeep", site, posts[11].ID), nil, 200, &upkeep)
	assert.Equal(t, []string{"“Old ones” takes it away, while “Round” would bring it out again."}, upkeep.Fights)
	require.Len(t, upkeep.Rules, 2)
	assert.True(t, upkeep.Rules[0].Caught)
	assert.Equal(t, "archive", upkeep.Next.Kind)
}
