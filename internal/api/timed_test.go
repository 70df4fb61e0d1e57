package api_test

import (
	"fmt"
	"maps"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/plan"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/revisions"
	"dapper.example/internal/store"
)

// body is an edit's as a screen sends it, from what the post says.
func (c *client) editOf(p posts.Post, date, clock string, change func(text map[string]any)) map[string]any {
	text := map[string]any{"title": p.Title, "body": p.Body, "excerpt": p.Excerpt, "slug": p.Slug, "categoryId": p.CategoryID, "tags": p.Tags, "fields": maps.Clone(p.Fields), "featured": p.Featured}
	change(text)
	return map[string]any{"version": p.Version, "at": map[string]any{"date": date, "clock": clock}, "text": text}
}

func (c *client) postOf(id int64) (p posts.Post) {
	c.t.Helper()
	c.call("GET", fmt.Sprint(site, "/posts/", id), nil, 200, &p)
	return p
}

func (c *client) prepares(p posts.Post, body map[string]any) (e posts.WholeEdit) {
	c.t.Helper()
	c.call("POST", c.path(p, "/edits"), body, 201, &e)
	return e
}

func (c *client) edit(id int64) (e posts.WholeEdit) {
	c.t.Helper()
	c.call("GET", fmt.Sprint(site, "/edits/", id), nil, 200, &e)
	return e
}

func (c *client) lines(post int64) (said []string, last int64) {
	c.t.Helper()
	lines, err := c.world.LogOf(c.t.Context(), c.world.Site.ID, post)
	require.NoError(c.t, err)
	for _, l := range lines {
		said = append(said, l.Deed+": "+l.Reason)
		last = max(last, l.ID)
	}
	return said, last
}

func (c *client) out3(title string, paragraphs ...string) posts.Post {
	p := c.postOf(c.out(title, 10).ID)
	return c.put(p, map[string]any{"body": strings.Join(paragraphs, "\n\n")})
}

func TestATimedEditFromItsPreparationToItsUndoing(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Opening hours", "Open at eight.", "Bring a coat.", "Soup is free.")
	e := c.prepares(p, c.editOf(p, "2026-11-25", "09:40", func(text map[string]any) {
		text["title"], text["body"], text["slug"], text["tags"] = "Winter hours", "Open at seven.\n\nBring a coat.\n\nSoup is free.", "winter-hours", []string{"winter"}
	}))
	assert.Equal(t, "waiting", e.State)
	assert.Equal(t, 9*60+40, e.At.Minute)
	require.Len(t, e.Differences, 4)
	assert.Equal(t, posts.Difference{Part: "title", Runs: []posts.Run{{Kind: "removed", Text: "Opening"}, {Kind: "added", Text: "Winter"}, {Kind: "same", Text: " hours"}}}, e.Differences[0])
	assert.Contains(t, c.reader("/blog/dome/opening-hours"), "Open at eight", "until then, readers see the old post only")

	// The post changes meanwhile, elsewhere.
	p = c.put(c.postOf(p.ID), map[string]any{"body": "Open at eight.\n\nBring a coat.\n\nSoup is free, and hot."})
	// A secret link shows what will be.
	var link posts.SecretLink
	c.call("POST", c.path(p, "/previews"), map[string]any{"days": 3, "edit": e.ID}, 201, &link)
	shown := c.reader(strings.TrimPrefix(link.Address, "https://dome.example"))
	assert.Contains(t, shown, "Open at seven")
	assert.Contains(t, shown, "Soup is free, and hot")

	c.live(pgtest.Noon.Add(26 * time.Hour))
	now := c.postOf(p.ID)
	assert.Equal(t, []any{"Winter hours", "Open at seven.\n\nBring a coat.\n\nSoup is free, and hot.", "winter-hours", []string{"winter"}}, []any{now.Title, now.Body, now.Slug, now.Tags})
	assert.Equal(t, "applied", c.edit(e.ID).State)
	page := c.reader("/blog/dome/opening-hours")
	assert.Contains(t, page, "Open at seven", "the old address leads on")
	said, last := c.lines(p.ID)
	assert.Contains(t, said, "timed edit: Changed as it was prepared: title, text, address and tags.")

	c.call("POST", fmt.Sprint(site, "/logbook/", last, "/undo"), nil, 200, nil)
	back := c.postOf(p.ID)
	assert.Equal(t, []any{"Opening hours", p.Body, "opening-hours"}, []any{back.Title, back.Body, back.Slug})
	held := c.edit(e.ID)
	assert.Equal(t, []string{"held", "It was applied and undone. Give it another time, or drop it."}, []string{held.State, held.Why})
	_, undone := c.lines(p.ID)
	c.call("POST", fmt.Sprint(site, "/logbook/", undone, "/undo"), nil, 200, nil)
	assert.Equal(t, "Winter hours", c.postOf(p.ID).Title, "and done again")
	assert.Equal(t, "applied", c.edit(e.ID).State)
}

func TestWhatIsWrongWithATimedEditIsSaid(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Opening hours", "Open at eight.")
	c.out("Soup", 5)
	draft := c.begin("A draft")
	fine := func(text map[string]any) { text["title"] = "Winter hours" }
	for name, one := range map[string]struct {
		body  map[string]any
		post  posts.Post
		field string
	}{
		"past":            {c.editOf(p, "2026-11-24", "11:59", fine), p, "at"},
		"now":             {c.editOf(p, "2026-11-24", "12:00", fine), p, "at"},
		"beyond":          {c.editOf(p, "9999-12-31", "12:00", fine), p, "at"},
		"nothing":         {c.editOf(p, "2026-11-26", "12:00", func(map[string]any) {}), p, "body"},
		"no title":        {c.editOf(p, "2026-11-26", "12:00", func(text map[string]any) { text["title"] = " " }), p, "title"},
		"taken":           {c.editOf(p, "2026-11-26", "12:00", func(text map[string]any) { text["slug"] = "Soup" }), p, "slug"},
		"the blog's own":  {c.editOf(p, "2026-11-26", "12:00", func(text map[string]any) { text["slug"] = "feed.atom" }), p, ""},
		"no category":     {c.editOf(p, "2026-11-26", "12:00", func(text map[string]any) { text["categoryId"] = 999 }), p, "categoryId"},
		"a draft":         {c.editOf(draft, "2026-11-26", "12:00", fine), draft, "post"},
		"a NUL in a text": {c.editOf(p, "2026-11-26", "12:00", func(text map[string]any) { text["body"] = "a\x00b" }), p, "body"},
	} {
		if one.field == "" {
			continue
		}
		if one.field == "slug" || one.field == "title" {
			one.body["text"].(map[string]any)["body"] = "Changed."
		}
		if draft.ID == one.post.ID {
			one.body["text"].(map[string]any)["slug"] = "a-draft"
		}
		assert.Equal(t, "body."+one.field, c.fails("POST", c.path(one.post, "/edits"), one.body, 422).Errors[0].Location, name)
	}
	stale := c.editOf(p, "2026-11-26", "12:00", fine)
	stale["version"] = p.Version - 1
	c.fails("POST", c.path(p, "/edits"), stale, 409)
	for range 20 {
		c.prepares(p, c.editOf(p, "2026-11-26", "12:00", fine))
	}
	assert.Equal(t, "20 changes wait for this post already. Drop one first.", c.fails("POST", c.path(p, "/edits"), c.editOf(p, "2026-11-26", "12:00", fine), 422).Errors[0].Message)
}

func TestAClashIsSettled(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Opening hours", "Open at eight.", "Bring a coat.")
	e := c.prepares(p, c.editOf(p, "2026-11-25", "09:40", func(text map[string]any) {
		text["title"], text["body"] = "Winter hours", "Open at seven.\n\nBring a coat."
	}))
	p = c.put(c.postOf(p.ID), map[string]any{"body": "Open at nine.\n\nBring a coat."})
	e = c.edit(e.ID)
	assert.Equal(t, []posts.Clash{{Part: "text", Base: "Open at eight.", Ours: "Open at seven.", Theirs: "Open at nine."}}, e.Clashes, "it is seen before it is due")
	c.live(pgtest.Noon.Add(26 * time.Hour))
	e = c.edit(e.ID)
	assert.Equal(t, []string{"held", "A timed edit is on hold: the post was changed meanwhile in the same places, in its text."}, []string{e.State, e.Why})
	assert.Equal(t, "Open at nine.\n\nBring a coat.", c.postOf(p.ID).Body)
	var marks posts.EditMarks
	c.call("GET", site+"/edits", nil, 200, &marks)
	require.Len(t, marks.Edits, 1)
	assert.Equal(t, "held", marks.Edits[0].State)

	var status plan.Status
	c.call("GET", site+"/status", nil, 200, &status)
	assert.Equal(t, []plan.HeldEdit{{ID: e.ID, Title: "Opening hours"}}, status.Held)
	letter, err := revisions.WriteHeld(t.Context(), c.world.Queries, c.world.Site.ID, e.ID, "https://dome.example")
	require.NoError(t, err)
	assert.Equal(t, []string{"dome@example.org", "Your change of “Opening hours” is on hold"}, []string{letter.To, letter.Subject})
	assert.Contains(t, letter.Text, fmt.Sprint("https://dome.example/dome/edits/", e.ID))
	var mails int
	require.NoError(t, c.world.DB().GetContext(t.Context(), &mails, `select count(*) from river_job where kind = 'mail' and (args->>'held_edit')::bigint = $1`, e.ID))
	assert.Equal(t, 1, mails, "its author is told, once")

	settle := fmt.Sprint(site, "/edits/", e.ID, "/settle")
	at := map[string]any{"date": "2026-11-27", "clock": "00:00"}
	c.fails("POST", settle, map[string]any{"version": e.Version, "choices": []string{}, "at": at}, 409)
	c.fails("POST", settle, map[string]any{"version": e.Version - 1, "choices": []string{"both"}, "at": at}, 409)
	c.call("POST", settle, map[string]any{"version": e.Version, "choices": []string{"both"}, "at": at}, 200, &e)
	assert.Equal(t, "waiting", e.State)
	assert.Empty(t, e.Clashes)
	c.live(pgtest.Noon.Add(72 * time.Hour))
	now := c.postOf(p.ID)
	assert.Equal(t, []string{"Winter hours", "Open at nine.\n\nOpen at seven.\n\nBring a coat."}, []string{now.Title, now.Body})
}

// Over New Year, while nothing runs: at midnight of the site, in order of their time, one of them yearly.
func TestTimedEditsAreAppliedAfterAnOutage(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Showers of 2026", "In 2026.", "Bring a coat.")
	yearly := c.editOf(p, "2027-01-01", "00:00", func(text map[string]any) {
		text["title"], text["body"] = "Showers of {year}", "In {year}.\n\nBring a coat."
	})
	yearly["yearly"] = true
	e := c.prepares(p, yearly)
	assert.Equal(t, "Showers of 2027", said(e.Differences[0], "added"))
	p = c.postOf(p.ID)
	c.prepares(p, c.editOf(p, "2027-01-01", "00:00", func(text map[string]any) { text["excerpt"] = "A new year." }))
	gone := c.out3("Gone by then", "Text.")
	other := c.prepares(gone, c.editOf(gone, "2026-12-31", "23:00", func(text map[string]any) { text["title"] = "Never" }))
	c.does(c.postOf(gone.ID), "bin")
	c.clock.Advance(39 * 24 * time.Hour) // 2 January
	c.live(c.clock.Now())
	now := c.postOf(p.ID)
	assert.Equal(t, []string{"Showers of 2027", "In 2027.\n\nBring a coat.", "A new year."}, []string{now.Title, now.Body, now.Excerpt})
	e = c.edit(e.ID)
	assert.Equal(t, []string{"waiting", "2028-01-01"}, []string{e.State, e.At.Date.String()})
	assert.Equal(t, "A timed edit is on hold: its post is in the bin.", c.edit(other.ID).Why)
	c.does(c.postOf(gone.ID), "restore")
	assert.Contains(t, c.edit(other.ID).Why, "is out again", "a post that comes back asks again")
	said, _ := c.lines(p.ID)
	assert.Contains(t, strings.Join(said, "\n"), "Changed as it was prepared: title and text. It was 1 day late.")
	p = c.put(c.postOf(p.ID), map[string]any{"body": "In 2027.\n\nBring a warm coat."})
	c.clock.Advance(364 * 24 * time.Hour)
	c.live(c.clock.Now())
	assert.Equal(t, "In 2028.\n\nBring a warm coat.", c.postOf(p.ID).Body, "what was changed in between stays")
}

func said(d posts.Difference, kind string) string {
	var all strings.Builder
	for _, r := range d.Runs {
		if r.Kind == "same" || r.Kind == kind {
			all.WriteString(r.Text)
		}
	}
	return all.String()
}

func TestATimedEditIsMovedChangedDroppedAndBroughtBack(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Opening hours", "Open at eight.")
	e := c.prepares(p, c.editOf(p, "2026-11-25", "09:40", func(text map[string]any) { text["title"] = "Winter hours" }))
	path := fmt.Sprint(site, "/edits/", e.ID)
	c.call("POST", path+"/retime", map[string]any{"version": e.Version, "at": map[string]any{"date": "2026-11-26", "clock": "10:00"}}, 200, &e)
	assert.Equal(t, "2026-11-26", e.At.Date.String())
	c.fails("POST", path+"/retime", map[string]any{"version": e.Version, "at": map[string]any{"date": "2026-11-20", "clock": "10:00"}}, 422)
	c.fails("POST", path+"/retime", map[string]any{"version": e.Version - 1, "at": map[string]any{"date": "2026-11-26", "clock": "10:00"}}, 409)
	body := c.editOf(p, "2026-11-26", "11:00", func(text map[string]any) { text["title"] = "Hours in winter" })
	body["version"] = e.Version
	c.call("PUT", path, body, 200, &e)
	assert.Equal(t, []any{"Hours in winter", 11 * 60}, []any{e.Text.Title, e.At.Minute})

	c.call("DELETE", fmt.Sprint(path, "?version=", e.Version), nil, 204, nil)
	var of posts.EditChanges
	c.call("GET", c.path(p, "/edits"), nil, 200, &of)
	assert.Empty(t, of.Edits)
	_, last := c.lines(p.ID)
	c.call("POST", fmt.Sprint(site, "/logbook/", last, "/undo"), nil, 200, nil)
	c.call("GET", c.path(p, "/edits"), nil, 200, &of)
	require.Len(t, of.Edits, 1)
	e = c.edit(e.ID)
	assert.Equal(t, "waiting", e.State)
	c.call("POST", path+"/apply", map[string]any{"version": e.Version}, 200, &e)
	c.live(c.clock.Now())
	assert.Equal(t, "Hours in winter", c.postOf(p.ID).Title)
	c.fails("POST", path+"/apply", map[string]any{"version": e.Version + 1}, 422)

	p = c.postOf(p.ID)
	e = c.prepares(p, c.editOf(p, "2026-11-26", "09:40", func(text map[string]any) { text["title"] = "Summer hours" }))
	_, last = c.lines(p.ID)
	c.call("POST", fmt.Sprint(site, "/logbook/", last, "/undo"), nil, 200, nil)
	assert.Equal(t, "dropped", c.edit(e.ID).State, "undoing the preparation drops it")
	_, last = c.lines(p.ID)
	c.call("POST", fmt.Sprint(site, "/logbook/", last, "/undo"), nil, 200, nil)
	assert.Equal(t, "waiting", c.edit(e.ID).State)
	require.NoError(t, c.world.InTx(t.Context(), func(tx *store.Tx) error { // a post that is deleted takes its edits along
		if _, err := c.world.DB().ExecContext(t.Context(), `update posts set status = 'binned', binned_at = now(), binned_from = 'published', cleared = false where id = $1`, p.ID); err != nil {
			return err
		}
		return tx.DeletePost(t.Context(), c.world.Site.ID, p.ID)
	}))
	c.fails("GET", fmt.Sprint(site, "/edits/", e.ID), nil, http.StatusNotFound)
}

func TestAnEarlierVersionIsComparedNamedAndRestored(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Opening hours", "Open at eight.", "Bring a coat.")
	c.clock.Advance(time.Hour)
	p = c.put(c.postOf(p.ID), map[string]any{"body": "Open at nine.\n\nBring a coat.", "title": "Hours"})
	var all posts.TextVersions
	c.call("GET", c.path(p, "/texts"), nil, 200, &all)
	require.GreaterOrEqual(t, len(all.Texts), 2)
	first := all.Texts[1]
	text := fmt.Sprint(c.path(p, "/texts/"), first.ID)
	var d posts.Differences
	c.call("GET", text+"/differences", nil, 200, &d)
	assert.Equal(t, []posts.Difference{{Part: "title", Runs: []posts.Run{{Kind: "removed", Text: "Opening hours"}, {Kind: "added", Text: "Hours"}}},
		{Part: "text", Runs: []posts.Run{{Kind: "same", Text: "Open at "}, {Kind: "removed", Text: "eight"}, {Kind: "added", Text: "nine"}, {Kind: "same", Text: ".\n\nBring a coat."}}}}, d.Differences)
	c.call("PUT", text+"/name", map[string]any{"name": "  As it\nopened "}, 204, nil)
	c.fails("PUT", text+"/name", map[string]any{"name": strings.Repeat("a", 61)}, 422)
	c.fails("POST", text+"/restore", map[string]any{"version": p.Version - 1}, 409)
	c.call("POST", text+"/restore", map[string]any{"version": p.Version}, 200, &p)
	assert.Equal(t, []string{"Opening hours", "Open at eight.\n\nBring a coat."}, []string{p.Title, p.Body})
	c.call("GET", c.path(p, "/texts"), nil, 200, &all)
	assert.Equal(t, []string{"", "As it opened"}, []string{all.Texts[0].Name, all.Texts[2].Name})
	assert.Contains(t, all.Texts[0].Why, "“As it opened”")
	_, last := c.lines(p.ID)
	c.call("POST", fmt.Sprint(site, "/logbook/", last, "/undo"), nil, 200, nil)
	p = c.postOf(p.ID)
	assert.Equal(t, "Hours", p.Title)
	c.fails("POST", fmt.Sprint(c.path(p, "/texts/"), all.Texts[1].ID, "/restore"), map[string]any{"version": p.Version + 9}, 409)
}

// What else becomes of a post until then: another address, another category, a page; none of it stands in the way of a change of its text.
func TestATimedEditFollowsItsPost(t *testing.T) {
	c := signedIn(t)
	p := c.out3("Opening hours", "Open at eight.")
	c.prepares(p, c.editOf(p, "2026-11-25", "09:40", func(text map[string]any) { text["body"] = "Open at seven." }))
	c.put(c.postOf(p.ID), map[string]any{"slug": "hours", "kind": "page", "categoryId": 0, "tags": []string{"hours"}})
	c.live(pgtest.Noon.Add(26 * time.Hour))
	now := c.postOf(p.ID)
	assert.Equal(t, []any{"Open at seven.", "hours", "page", int64(0), []string{"hours"}}, []any{now.Body, now.Slug, now.Kind, now.CategoryID, now.Tags})

	// Two of one minute, the second over what the first one says; and one whose new address somebody else took meanwhile.
	p = c.postOf(p.ID)
	first := c.prepares(p, c.editOf(p, "2026-11-27", "10:00", func(text map[string]any) { text["title"] = "First" }))
	second := c.prepares(p, c.editOf(p, "2026-11-27", "10:00", func(text map[string]any) { text["title"], text["excerpt"] = "Second", "Both" }))
	third := c.prepares(p, c.editOf(p, "2026-11-27", "10:00", func(text map[string]any) { text["slug"] = "wanted" }))
	var of posts.EditChanges
	c.call("GET", c.path(p, "/edits"), nil, 200, &of)
	require.Len(t, of.Edits, 3)
	assert.Empty(t, of.Edits[0].Clashes)
	assert.Equal(t, []posts.Clash{{Part: "title", Base: "Opening hours", Ours: "Second", Theirs: "First"}}, of.Edits[1].Clashes, "it is seen that the two want one place")
	c.put(c.postOf(c.out("Another", 3).ID), map[string]any{"slug": "wanted"})
	c.live(pgtest.Noon.Add(80 * time.Hour))
	assert.Equal(t, "First", c.postOf(p.ID).Title)
	assert.Equal(t, []string{"applied", "held", "held"}, []string{c.edit(first.ID).State, c.edit(second.ID).State, c.edit(third.ID).State})
	assert.Equal(t, "A timed edit is on hold: its new address, wanted, belongs to another post.", c.edit(third.ID).Why)
}
