package siterules_test

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/enact"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

type house struct {
	pgtest.World
	siterules.Book
	t *testing.T
}

func newHouse(t *testing.T) house {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	return house{w, siterules.Book{Site: w.Site, Public: "https://dome.example"}, t}
}

func (h house) out(n int) (ids []int64) {
	for i := range n {
		at := pgtest.Noon.AddDate(0, 0, -i-1)
		id, err := h.InsertPublished(h.t.Context(), store.Post{SiteID: h.World.Site.ID, AuthorID: h.Editor.ID,
			CategoryID: &h.Category,
			Title:      fmt.Sprint("Post ", i), Slug: fmt.Sprint("post-",
				i), Body: "Some text.", PublishedAt: &at, CreatedAt: at})
		require.NoError(h.t, err)
		ids = append(ids, id)
	}
	return ids
}

func (h house) expiry(change func(*store.Rule)) store.Rule {
	r := store.Rule{SiteID: h.World.Site.ID, Kind: store.Expire, Name: "Old ones", Allowed: 1000,
		CreatedAt: pgtest.Noon, ArmedAt: &pgtest.Noon, ServedAt: &pgtest.Noon,
		Condition: condition.Node{Test: condition.Category, Match: condition.MatchAny, Values: []string{"sky guide"}},
		Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days,
			At: civil.MustClock("04:00")}, Settings: store.RuleSettings{Action: "archive"}}
	change(&r)
	id, err := h.InsertRule(h.t.Context(), r)
	require.NoError(h.t, err)
	kept, err := h.Rule(h.t.Context(), h.World.Site.ID, id)
	require.NoError(h.t, err)
	return kept
}

// turn has the site's rules take one turn at a moment.
func (h house) turn(at time.Time, spent func() time.Duration) (done []deed.Deed) {
	h.t.Helper()
	require.NoError(h.t, h.InTx(h.t.Context(), func(tx *store.Tx) error {
		d, frame, err := h.Decide(h.t.Context(), tx, at)
		if err != nil || d.IsIdle() {
			return err
		}
		done, err = enact.Doer{Site: h.World.Site.ID, Now: at, Spent: spent}.Do(h.t.Context(), tx, frame.RuleOf(d), d)
		return err
	}))
	return done
}

func TestARunStopsWhenItsTimeIsUpAndGoesOnAtTheNext(t *testing.T) {
	h := newHouse(t)
	h.out(10)
	r := h.expiry(func(r *store.Rule) { r.Settings.MostSeconds = 3 })
	seconds := 0
	slow := func() time.Duration { seconds++; return time.Duration(seconds) * time.Second }
	first := h.turn(pgtest.Noon.Add(24*time.Hour), slow)
	assert.Len(t, first, 4)
	runs, err := h.Runs(t.Context(), h.World.Site.ID, r.ID, 10)
	require.NoError(t, err)
	require.Len(t, runs, 1)
	assert.Equal(t, 4, runs[0].Took)
	assert.Equal(t, 10, runs[0].Caught)
	assert.Equal(t, "It stopped after 3 seconds and will continue at its next turn.", runs[0].Note)
	assert.Empty(t, h.turn(pgtest.Noon.Add(25*time.Hour), nil), "not before its next turn")
	assert.Len(t, h.turn(pgtest.Noon.Add(48*time.Hour), nil), 6)
	kept, err := h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.NoError(t, err)
	assert.Equal(t, 990, kept.Allowed, "what was agreed to is used up")
	assert.True(t, kept.ServedAt.Equal(pgtest.Noon.Add(48*time.Hour)))
	assert.Equal(t, r.Version, kept.Version, "a turn makes no form stale")
}

// What is read for one turn is what the rule may catch: the same as if all were read.
func TestReadingLittleComesToTheSame(t *testing.T) {
	h := newHouse(t)
	ids := h.out(6)
	h.Drafts(t, 3)
	h.Scheduled(t, "To come", pgtest.Noon.Add(time.Hour))
	_, err := h.DB().ExecContext(t.Context(), `update posts set category_id = null where id = $1`, ids[0])
	require.NoError(t, err)
	r := h.expiry(func(r *store.Rule) {
		r.Condition = condition.Node{Group: condition.AllOf, Parts: []condition.Node{r.Condition,
			{Test: condition.Age, Match: condition.MatchOver, N: 3, Unit: condition.Days}, {Test: condition.Text,
				Match: condition.MatchAny, Values: []string{"text"}}}}
	})
	p, err := h.Preview(t.Context(), h.Queries, r, siterules.PreviewPage{Limit: 10}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 4, p.Count)
	assert.Equal(t, 6, p.Published)
	frame, err := h.Frame(t.Context(), h.Queries, pgtest.Noon, nil)
	require.NoError(t, err)
	require.NoError(t, frame.AddCandidates(t.Context(), h.Queries, h.World.Site.ID, r.ID, pgtest.Noon))
	assert.Len(t, frame.Scene.Posts, 5, "of the category; ages are widened")
	assert.Equal(t, "Some text.", frame.Scene.Posts[0].Text)
	require.ErrorIs(t, frame.AddCandidates(t.Context(), h.Queries, h.World.Site.ID, r.ID+1, pgtest.Noon),
		store.ErrNotFound)
}

func TestPreviewPages(t *testing.T) {
	h := newHouse(t)
	ids := h.out(7)
	r := h.expiry(func(*store.Rule) {})
	page := func(offset, limit int) (all []int64) {
		p, err := h.Preview(t.Context(), h.Queries, r, siterules.PreviewPage{Offset: offset, Limit: limit}, pgtest.Noon)
		require.NoError(t, err)
		for _, c := range p.Posts {
			all = append(all, c.Post.Post)
		}
		return all
	}
	assert.Equal(t, []int64{ids[6], ids[5], ids[4]}, page(0, 3), "what came out first is taken first")
	assert.Equal(t, []int64{ids[0]}, page(6, 3))
	assert.Empty(t, page(7, 3))
}

func TestForecastsEndWhenTheyAreToldTo(t *testing.T) {
	h := newHouse(t)
	h.out(3)
	lantern, err := h.InsertChannel(t.Context(), store.Channel{SiteID: h.World.Site.ID, Kind: channel.Lantern,
		Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 1})
	require.NoError(t, err)
	h.expiry(func(r *store.Rule) {
		r.Kind = store.Reshare
		r.Cadence = cadence.Cadence{By: cadence.Every, N: 30, Unit: cadence.Minutes}
		r.Settings = store.RuleSettings{Channels: []int64{lantern}, Order: "oldest", Wordings: []string{"{title} {link}"}}
	})
	ctx, cancel := context.WithCancel(t.Context())
	var reached time.Time
	_, err = h.Forecast(ctx, h.Queries, nil, pgtest.Noon, pgtest.Noon.AddDate(2, 0, 0), func(at time.Time) {
		reached = at
		cancel()
	})
	require.ErrorIs(t, err, context.Canceled)
	assert.True(t, reached.Before(pgtest.Noon.AddDate(0, 1, 0)))
	told, err := h.Forecast(t.Context(), h.Queries, nil, pgtest.Noon, pgtest.Noon.AddDate(0, 0, 1), nil)
	require.NoError(t, err)
	assert.Len(t, told.Events, 48)
	assert.Equal(t, "https://dome.example/blog/dome/post-2", told.Events[0].Deed.(deed.Share).Link)
	assert.Equal(t, "Post 2", told.Titles[told.Events[0].Post])
}

// What is coming, asked for by itself, is what the whole forecast has of it, with rules
// that act and without any.
func TestWhatIsComingIsWhatTheForecastHas(t *testing.T) {
	h := newHouse(t)
	ids := h.out(8)
	set := func(statement string, args ...any) {
		t.Helper()
		_, err := h.DB().ExecContext(t.Context(), statement, args...)
		require.NoError(t, err)
	}
	expires := func(id int64, in time.Duration) {
		t.Helper()
		set(`update posts set expires_at = $2 where id = $1`, id, pgtest.Noon.Add(in))
	}
	expires(ids[0], 30*time.Hour)
	expires(ids[1], 400*24*time.Hour)
	expires(ids[2], 31*time.Hour)
	set(`update posts set never_expires = true where id = $1`, ids[2])
	for i := range 6 {
		// some are overdue
		p := h.Scheduled(t, fmt.Sprint("To come ", i), pgtest.Noon.Add(time.Duration(i-2)*10*time.Hour))
		if i%2 == 0 {
			expires(p.ID, time.Duration(50+i)*time.Hour)
		}
	}
	to := pgtest.Noon.AddDate(0, 0, 20)
	same := func(coming int) {
		t.Helper()
		var err error
		h.Book.Site, err = h.World.Store.Site(t.Context(), h.World.Site.ID)
		require.NoError(t, err)
		whole, err := h.Forecast(t.Context(), h.Queries, nil, pgtest.Noon, to, nil)
		require.NoError(t, err)
		told, err := h.Coming(t.Context(), h.Queries, pgtest.Noon, to)
		require.NoError(t, err)
		unplanned := func(events []forecast.Event) []forecast.Event {
			return slices.DeleteFunc(slices.Clone(events), func(e forecast.Event) bool {
				return e.Effect == deed.ComesOut || e.Effect == deed.Replanned
			})
		}
		assert.Equal(t, unplanned(whole.Events), unplanned(told.Events))
		assert.Len(t, unplanned(told.Events), coming)
		for _, e := range unplanned(told.Events) {
			assert.Equal(t, whole.Titles[e.Post], told.Titles[e.Post])
		}
		assert.Zero(t, told.Dry)
	}
	for _, catchUp := range deed.CatchUps {
		set(`update sites set catch_up = $1`, string(catchUp))
		// One that is out, and three that will be; where the overdue are held, one less.
		same(map[bool]int{false: 4, true: 3}[catchUp == deed.AtOnceIfFresh || catchUp == deed.HoldForMe])
	}
	set(`update sites set catch_up = $1`, string(deed.AtOnce))
	set(`update posts set due_at = due_at + interval '30 hours' where status = 'scheduled'`)
	same(4)
	h.expiry(func(r *store.Rule) { r.ArmedAt = nil })
	same(4) // a rule that is not armed does nothing
	h.expiry(func(r *store.Rule) {
		r.Condition = condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 5, Unit: condition.Days}
	})
	same(13)
	set(`update sites set paused_at = now()`)
	same(0) // nothing comes out or goes meanwhile
}

// undone undoes the latest line of the logbook and returns the line whose undoing does it again.
func (h house) undone(at time.Time) int64 {
	h.t.Helper()
	lines, err := h.Logbook(h.t.Context(), h.World.Site.ID, store.LogFilter{}, 1)
	require.NoError(h.t, err)
	require.True(h.t, undo.CanUndo(lines[0]), lines[0].Reason)
	again, err := undo.Undo(h.t.Context(), act.Desk{Store: h.Store, Site: h.World.Site, Actor: h.Editor.ID},
		lines[0].ID, at)
	require.NoError(h.t, err)
	return again
}

func (h house) desk() siterules.Editor {
	return siterules.Editor{Desk: act.Desk{Store: h.Store, Site: h.Book.Site, Actor: h.Editor.ID}, Public: h.Book.Public}
}

// A rule that was deleted comes back with what it knew, and does not make up for turns that
// it missed.
func TestADeletedRuleIsBroughtBack(t *testing.T) {
	h := newHouse(t)
	posts := h.out(3)
	r := h.expiry(func(*store.Rule) {})
	require.NoError(t, h.desk().Exclude(t.Context(), r.ID, posts[0], true, pgtest.Noon))
	require.ErrorIs(t, h.desk().Delete(t.Context(), r.ID, r.Version+1, pgtest.Noon), act.ErrStale)
	require.NoError(t, h.desk().Delete(t.Context(), r.ID, r.Version, pgtest.Noon))
	_, err := h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	assert.Empty(t, h.turn(pgtest.Noon.AddDate(0, 0, 2), nil), "a deleted rule does nothing")

	back := pgtest.Noon.AddDate(0, 0, 2)
	again := h.undone(back)
	kept, err := h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Name, kept.Name)
	assert.Equal(t, r.Condition, kept.Condition)
	assert.Equal(t, r.Settings, kept.Settings)
	require.NotNil(t, kept.ArmedAt)
	assert.True(t, kept.ServedAt.Equal(back), "its turns are counted from now on")
	assert.Empty(t, h.turn(back.Add(time.Minute), nil), "what it missed is not made up for")
	excluded, err := h.Exclusions(t.Context(), h.World.Site.ID)
	require.NoError(t, err)
	assert.True(t, excluded[r.ID][posts[0]])
	assert.Len(t, h.turn(back.AddDate(0, 0, 1), nil), 2)

	// Deleting it again is an undo, too.
	require.NotZero(t, again)
	_, err = undo.Undo(t.Context(), act.Desk{Store: h.Store, Site: h.World.Site, Actor: h.Editor.ID}, again, back)
	require.NoError(t, err)
	_, err = h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestASavedRuleIsPutBack(t *testing.T) {
	h := newHouse(t)
	h.out(3)
	r := h.expiry(func(*store.Rule) {})
	changed := r
	changed.Name, changed.Settings.Action = "Other ones", "bin"
	require.NoError(t, h.desk().Save(t.Context(), changed, pgtest.Noon))
	now, err := h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.NoError(t, err)
	assert.Nil(t, now.ArmedAt, "it does something else now")

	h.undone(pgtest.Noon)
	now, err = h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Name, now.Name)
	assert.Equal(t, "archive", now.Settings.Action)
	assert.Nil(t, now.ArmedAt, "nobody has agreed to its catch since")

	// What was changed since is not lost by an undo.
	changed, changed.Name = now, "Third name"
	require.NoError(t, h.desk().Save(t.Context(), changed, pgtest.Noon))
	changed.Name, changed.Version = "Fourth name", changed.Version+1
	require.NoError(t, h.desk().Save(t.Context(), changed, pgtest.Noon))
	lines, err := h.Logbook(t.Context(), h.World.Site.ID, store.LogFilter{}, 2)
	require.NoError(t, err)
	desk := act.Desk{Store: h.Store, Site: h.World.Site, Actor: h.Editor.ID}
	_, err = undo.Undo(t.Context(), desk, lines[1].ID, pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))
	_, err = undo.Undo(t.Context(), desk, lines[0].ID, pgtest.Noon)
	require.NoError(t, err)
	now, err = h.Rule(t.Context(), h.World.Site.ID, r.ID)
	require.NoError(t, err)
	assert.Equal(t, "Third name", now.Name)
}

func TestAMadeRuleIsTakenBack(t *testing.T) {
	h := newHouse(t)
	r := h.expiry(func(*store.Rule) {})
	id, err := h.desk().Create(t.Context(), r, pgtest.Noon)
	require.NoError(t, err)
	h.undone(pgtest.Noon)
	_, err = h.Rule(t.Context(), h.World.Site.ID, id)
	require.ErrorIs(t, err, store.ErrNotFound)
}
