package outings_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/outings"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

type room struct {
	pgtest.World
	outings.Editor
	t       *testing.T
	lantern int64
	post    store.Post
}

func newRoom(t *testing.T) room {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	r := room{World: w, t: t, Editor: outings.Editor{Public: "https://dome.example",
		Desk: act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}}}
	r.lantern = r.channel("Lantern")
	at := pgtest.Noon.AddDate(0, -1, 0)
	id, err := w.InsertPublished(t.Context(), store.Post{SiteID: w.Site.ID, AuthorID: w.Editor.ID,
		CategoryID: &w.Category, Title: "Cables in the dark", Slug: "cables",
		Body: "White tape.", PublishedAt: &at, CreatedAt: at})
	require.NoError(t, err)
	r.post = w.Reload(t, id)
	return r
}

func (r room) channel(name string) int64 {
	id, err := r.World.InsertChannel(r.t.Context(), store.Channel{SiteID: r.World.Site.ID, Kind: channel.Lantern,
		Name: name, Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(r.t, err)
	return id
}

func (r room) wish(hours int) outings.Wish {
	return outings.Wish{Channel: r.lantern, Post: r.post.ID, At: pgtest.Noon.Add(time.Duration(hours) * time.Hour),
		Text: "Look: {title} {link}"}
}

func (r room) plan(w outings.Wish) store.Outing {
	r.t.Helper()
	ids, err := r.Plan(r.t.Context(), []outings.Wish{w}, pgtest.Noon)
	require.NoError(r.t, err)
	return r.get(ids[0])
}

func (r room) get(id int64) store.Outing {
	r.t.Helper()
	o, err := r.World.Outing(r.t.Context(), id)
	require.NoError(r.t, err)
	return o
}

func (r room) planned() []store.Outing {
	r.t.Helper()
	all, err := r.World.Planned(r.t.Context(), r.World.Site.ID)
	require.NoError(r.t, err)
	return all
}

func TestAnOutingIsPlannedChangedAndDropped(t *testing.T) {
	r := newRoom(t)
	m, err := r.Look(t.Context(), r.World.Queries, r.wish(5), pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "Look: Cables in the dark https://dome.example/blog/dome/cables", m.Text)
	assert.Equal(t, 6+18+1+24, m.Graphemes, "a link costs 24")
	assert.Empty(t, r.planned(), "looking plans nothing")

	w := r.wish(5)
	w.At = w.At.Add(40 * time.Second)
	o := r.plan(w)
	assert.Equal(t, pgtest.Noon.Add(5*time.Hour), o.At.UTC(), "plans are of whole minutes")
	assert.Equal(t, store.ByHand, o.Origin)
	assert.Equal(t, store.Planned, o.State)
	assert.Equal(t, r.World.Editor.ID, *o.Actor)
	lines, err := r.World.LogOf(t.Context(), r.World.Site.ID, r.post.ID)
	require.NoError(t, err)
	assert.Equal(t, "An outing was planned for Tue 24 Nov, 17:00 on Lantern.", lines[0].Reason)

	w = r.wish(30)
	w.Text = "{title}"
	require.ErrorIs(t, r.Save(t.Context(), o.ID, o.Version+1, w, pgtest.Noon), act.ErrStale)
	require.NoError(t, r.Save(t.Context(), o.ID, o.Version, w, pgtest.Noon))
	changed := r.get(o.ID)
	assert.Equal(t, "{title}", changed.OwnText)
	assert.Equal(t, pgtest.Noon.Add(30*time.Hour), changed.At.UTC())
	assert.Equal(t, store.ByHand, changed.Origin)

	require.ErrorIs(t, r.Drop(t.Context(), o.ID, o.Version, pgtest.Noon), act.ErrStale)
	require.NoError(t, r.Drop(t.Context(), o.ID, changed.Version, pgtest.Noon))
	assert.Empty(t, r.planned())
	require.ErrorIs(t, r.Drop(t.Context(), o.ID, changed.Version, pgtest.Noon), store.ErrNotFound)
}

func TestWhatCannotBePlanned(t *testing.T) {
	r := newRoom(t)
	draft, soon := r.World.Draft(t, "Not ready"), r.World.Scheduled(t, "To come", pgtest.Noon.Add(10*time.Hour))
	gone := r.World.Draft(t, "Gone")
	require.NoError(t, status.Bin(t.Context(), act.Desk{Store: r.World.Store, Site: r.World.Site, Actor: r.World.Editor.ID},
		gone.ID, gone.Version, pgtest.Noon))
	other := r.channel("Another")
	parent := r.plan(r.wish(4))
	for name, c := range map[string]struct {
		change func(*outings.Wish)
		field  string
		says   string
	}{
		"a time that has passed": {func(w *outings.Wish) { w.At = pgtest.Noon }, "at", "has passed"},
		"a time far away":        {func(w *outings.Wish) { w.At = pgtest.Noon.AddDate(9000, 0, 0) }, "at", "too far away"},
		"no such channel": {func(w *outings.Wish) { w.Channel = 99999 }, "channelId",
			"Choose one of the site's channels."},
		"no such post": {func(w *outings.Wish) { w.Post = 99999 }, "postId", "no such post"},
		"a draft": {func(w *outings.Wish) { w.Post = draft.ID }, "postId",
			"“Not ready” has no time yet. Schedule it first."},
		"before it is out": {func(w *outings.Wish) { w.Post = soon.ID }, "at",
			"“To come” comes out on Tue 24 Nov, 22:00, after that time."},
		"in the bin":            {func(w *outings.Wish) { w.Post = gone.ID }, "postId", "“Gone” is binned"},
		"nothing said":          {func(w *outings.Wish) { w.Text = " \n" }, "text", "Write what the message says."},
		"a placeholder unknown": {func(w *outings.Wish) { w.Text = "{titel}" }, "text", "titel"},
		"too long":              {func(w *outings.Wish) { w.Text = strings.Repeat("very ", 80) }, "text", "over"},
		"far too long": {func(w *outings.Wish) { w.Text = strings.Repeat("{title}", 2000) }, "text",
			"too long for any message"},
		"no such parent": {func(w *outings.Wish) { w.Parent = 99999 }, "parentId", "no such outing"},
		"on another channel": {func(w *outings.Wish) { w.Parent, w.Channel = parent.ID, other }, "parentId",
			"the channel of the message that it replies to: Lantern"},
		"before its parent": {func(w *outings.Wish) { w.Parent, w.At = parent.ID, parent.At }, "at",
			"after the message that it replies to"},
		"no such picture": {func(w *outings.Wish) { w.Pictures = []int64{1} }, "pictures[0]", "no such picture"},
		"too many pictures": {func(w *outings.Wish) { w.Pictures = make([]int64, 5) }, "pictures",
			"at most 4 pictures"},
	} {
		w := r.wish(5)
		c.change(&w)
		_, err := r.Plan(t.Context(), []outings.Wish{r.wish(3), w}, pgtest.Noon)
		var bad *act.Invalid
		if assert.ErrorAs(t, err, &bad, name) {
			assert.Equal(t, c.field, bad.Field, name)
			assert.Contains(t, bad.Message, c.says, name)
		}
	}
	assert.Len(t, r.planned(), 1, "where one cannot be planned, none is")
	later := r.wish(11)
	later.Post = soon.ID
	r.plan(later)
}

func TestRepliesKeepTheirMessage(t *testing.T) {
	r := newRoom(t)
	parent := r.plan(r.wish(4))
	w := r.wish(6)
	w.Parent = parent.ID
	reply := r.plan(w)
	assert.Equal(t, parent.ID, *reply.Parent)

	moved := r.wish(7)
	for _, err := range []error{r.Save(t.Context(), parent.ID, parent.Version, moved, pgtest.Noon),
		r.Drop(t.Context(), parent.ID, parent.Version, pgtest.Noon)} {
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad)
		assert.Contains(t, bad.Message, "A reply to it is planned for Tue 24 Nov, 18:00.")
	}
	self := r.wish(7)
	self.Parent = reply.ID
	require.ErrorAs(t, r.Save(t.Context(), reply.ID, reply.Version, self, pgtest.Noon), new(*act.Invalid))
	require.NoError(t, r.Drop(t.Context(), reply.ID, reply.Version, pgtest.Noon))
	require.NoError(t, r.Save(t.Context(), parent.ID, parent.Version, moved, pgtest.Noon))
}

// undo takes back the latest line of the logbook.
func (r room) undo(at time.Time) error {
	r.t.Helper()
	lines, err := r.World.Logbook(r.t.Context(), r.World.Site.ID, store.LogFilter{}, 1)
	require.NoError(r.t, err)
	require.True(r.t, undo.CanUndo(lines[0]), lines[0].Reason)
	_, err = undo.Undo(r.t.Context(), act.Desk{Store: r.World.Store, Site: r.World.Site, Actor: r.World.Editor.ID},
		lines[0].ID, at)
	return err
}

func TestPlanningAnOutingIsUndone(t *testing.T) {
	r := newRoom(t)
	o := r.plan(r.wish(5))
	require.NoError(t, r.undo(pgtest.Noon))
	assert.Empty(t, r.planned())
	require.NoError(t, r.undo(pgtest.Noon), "and done again")
	again := r.get(o.ID)
	assert.Equal(t, []any{o.OwnText, o.At.UTC(), store.Planned}, []any{again.OwnText, again.At.UTC(), again.State})

	w := r.wish(9)
	w.Text = "Other words: {title}"
	require.NoError(t, r.Save(t.Context(), o.ID, again.Version, w, pgtest.Noon))
	require.NoError(t, r.undo(pgtest.Noon))
	back := r.get(o.ID)
	assert.Equal(t, []any{o.OwnText, o.At.UTC()}, []any{back.OwnText, back.At.UTC()})

	require.NoError(t, r.Drop(t.Context(), o.ID, back.Version, pgtest.Noon))
	require.NoError(t, r.undo(pgtest.Noon))
	back = r.get(o.ID)
	require.NoError(t, r.Drop(t.Context(), o.ID, back.Version, pgtest.Noon))
	require.ErrorContains(t, r.undo(pgtest.Noon.Add(6*time.Hour)), "has passed")
}

func TestAPlannedOutingGetsAnotherTime(t *testing.T) {
	r := newRoom(t)
	o := r.plan(r.wish(3))
	later := pgtest.Noon.Add(27 * time.Hour)
	require.NoError(t, r.Retime(t.Context(), o.ID, o.Version, later, pgtest.Noon))
	moved := r.get(o.ID)
	assert.Equal(t, []any{true, o.OwnText, o.Post, o.Channel}, []any{moved.At.Equal(later), moved.OwnText, moved.Post, moved.Channel})
	require.ErrorIs(t, r.Retime(t.Context(), o.ID, o.Version, later, pgtest.Noon), act.ErrStale)
	require.ErrorAs(t, r.Retime(t.Context(), o.ID, moved.Version, pgtest.Noon.Add(-time.Hour), pgtest.Noon), new(*act.Invalid))
	require.ErrorIs(t, r.Retime(t.Context(), 1<<40, 1, later, pgtest.Noon), store.ErrNotFound)
}
