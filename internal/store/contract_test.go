package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// pair is two blogs with the same posts in one database: whatever is asked of the one must leave the
// other's out.
type pair struct {
	pgtest.World
	other pgtest.World
	posts map[string]store.Post // of the one
	twins map[string]store.Post // of the other
}

// after is a moment so many minutes from noon on.
func after(minutes int) time.Time { return pgtest.Noon.Add(time.Duration(minutes) * time.Minute) }

// slot is one of the rhythm of a world.
func slot(w pgtest.World, day string) rhythm.SlotID {
	return rhythm.SlotID{Rhythm: w.Rhythm.ID, Date: civil.MustDate(day), Opening: "morning"}
}

// stand gives a new post of a world a state.
func stand(t *testing.T, w pgtest.World, title string, to func(post.State) post.State) store.Post {
	t.Helper()
	p := w.Draft(t, title)
	p.Slug = title
	p.Stand(to(p.State()))
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.SaveState(t.Context(), p, pgtest.Noon)
	}))
	return w.Reload(t, p.ID)
}

// places are a post in each place that a post can have.
func places(t *testing.T, w pgtest.World) map[string]store.Post {
	t.Helper()
	all := make(map[string]store.Post)
	for title, to := range map[string]func(post.State) post.State{
		"draft":      func(s post.State) post.State { return s },
		"handed-in":  func(s post.State) post.State { return s.HandIn(pgtest.Noon) },
		"first":      func(s post.State) post.State { return s.Clear(-3) },
		"last":       func(s post.State) post.State { return s.Clear(8) },
		"late":       func(s post.State) post.State { return s.Pin(after(-5)) },
		"now":        func(s post.State) post.State { return s.Pin(pgtest.Noon) },
		"soon":       func(s post.State) post.State { return s.Pin(after(1)) },
		"in-a-slot":  func(s post.State) post.State { return s.Schedule(after(90), slot(w, "2026-12-02")) },
		"held-late":  func(s post.State) post.State { return s.Pin(after(-10)).Hold() },
		"held-ahead": func(s post.State) post.State { return s.Schedule(after(60), slot(w, "2026-12-03")).Hold() },
		"out":        func(s post.State) post.State { return s.Publish(after(-60)) },
		"out-before": func(s post.State) post.State { return s.Publish(after(-120)) },
		"archived":   func(s post.State) post.State { return s.Publish(after(-90)).Archive(after(-1), "Old.") },
		"binned":     func(s post.State) post.State { return s.Publish(after(-30)).Bin(after(-1)) },
	} {
		all[title] = stand(t, w, title, to)
	}
	return all
}

func newPair(t *testing.T) pair {
	t.Helper()
	t.Parallel()
	s := pgtest.New(t)
	p := pair{World: pgtest.NewWorld(t, s, "dome"), other: pgtest.NewWorld(t, s, "elsewhere")}
	p.posts, p.twins = places(t, p.World), places(t, p.other)
	return p
}

func titles(entries []store.Entry) (all []string) {
	for _, e := range entries {
		all = append(all, e.Title)
	}
	return all
}

// inTx runs a test's work in a transaction that is undone.
func inTx(t *testing.T, s *store.Store, work func(*store.Tx)) {
	t.Helper()
	require.ErrorIs(t, s.InTx(t.Context(), func(tx *store.Tx) error {
		work(tx)
		return errUndone
	}), errUndone)
}

var errUndone = assert.AnError

func TestWhatOfThePlanIsListed(t *testing.T) {
	p := newPair(t)
	ctx := t.Context()
	list := func(entries []store.Entry, err error) []string {
		t.Helper()
		require.NoError(t, err)
		for _, e := range entries {
			assert.Equal(t, p.posts[e.Title].ID, e.ID, "of this site")
		}
		return titles(entries)
	}
	assert.Equal(t, []string{"first", "last"}, list(p.Shelf(ctx, p.Site.ID)))
	assert.Equal(t, []string{"soon", "in-a-slot"}, list(p.ScheduledPosts(ctx, p.Site.ID, pgtest.Noon)),
		"after the moment, none that is held")
	assert.Equal(t, []string{"in-a-slot"}, list(p.SlottedPosts(ctx, p.Site.ID, pgtest.Noon)), "no pins")
	assert.Empty(t, list(p.SlottedPosts(ctx, p.Site.ID, after(90))), "after, not at")
	assert.Equal(t, []string{"held-late"}, list(p.Held(ctx, p.Site.ID, pgtest.Noon)), "none whose time is to come")
	assert.Equal(t, []string{"held-late"}, list(p.Held(ctx, p.Site.ID, after(-10))), "due at the moment")
	assert.Empty(t, list(p.Held(ctx, p.Site.ID, after(-11))))
	assert.ElementsMatch(t, []string{"draft", "handed-in"}, list(p.Queries.Drafts(ctx, p.Site.ID, 10)),
		"none of the shelf")

	placed, err := p.Placed(ctx, p.Site.ID, after(-60))
	require.NoError(t, err)
	var where []string
	waits := make(map[string]bool)
	byID := make(map[int64]string)
	for title, one := range p.posts {
		byID[one.ID] = title
	}
	for _, one := range placed {
		where = append(where, byID[one.Post])
		waits[byID[one.Post]] = one.Waits
	}
	assert.Equal(t, []string{"out", "held-late", "late", "now", "soon", "held-ahead", "in-a-slot"}, where,
		"what is scheduled, and what came out since")
	assert.False(t, waits["held-late"] || waits["out"])
	assert.True(t, waits["soon"])

	next, err := p.NextDue(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, "late", next.Title, "the earliest that is not held")
	at, err := p.NextDueAfter(ctx, pgtest.Noon)
	require.NoError(t, err)
	assert.True(t, at.Equal(after(1)), "after the moment, of any site")
	at, err = p.NextDueAfter(ctx, after(90))
	require.NoError(t, err)
	assert.True(t, at.IsZero())

	low, high, err := p.ShelfEnds(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []int64{-3, 8}, []int64{low, high})

	status, err := p.SiteStatus(ctx, p.Site.ID, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "late", status.Next.Title)
	assert.Equal(t, 1, status.Overdue, "one is held whose time has passed")
	assert.Empty(t, status.Asking)

	choices, err := p.EntriesOf(ctx, p.Site.ID, []int64{p.posts["soon"].ID, p.twins["late"].ID, p.posts["first"].ID})
	require.NoError(t, err)
	require.Len(t, choices, 2, "not the other site's")
	assert.Equal(t, []string{"soon", "first"}, []string{choices[0].Title, choices[1].Title}, "in the order asked for")
	assert.True(t, choices[0].HasText)
	assert.Equal(t, []bool{false, true}, []bool{choices[0].Cleared, choices[1].Cleared})
}

func TestTheShelfIsRankedAndSlotsAreLeft(t *testing.T) {
	p := newPair(t)
	ctx := t.Context()
	require.NoError(t, p.InTx(ctx, func(tx *store.Tx) error {
		ids := []int64{p.posts["last"].ID, p.posts["first"].ID, p.posts["draft"].ID, p.twins["last"].ID}
		if err := tx.RankShelf(ctx, p.Site.ID, ids); err != nil {
			return err
		}
		return tx.LeaveSlots(ctx, p.Site.ID, []int64{p.posts["in-a-slot"].ID, p.twins["in-a-slot"].ID})
	}))
	shelf, err := p.Shelf(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"last", "first"}, titles(shelf), "only drafts on the shelf are ranked")
	twins, err := p.Shelf(ctx, p.other.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"first", "last"}, titles(twins), "the other site's order stays")
	left := p.Reload(t, p.posts["in-a-slot"].ID)
	assert.Zero(t, left.Slot())
	assert.True(t, left.DueAt.Equal(after(90)), "its time stays")
	assert.NotZero(t, p.other.Reload(t, p.twins["in-a-slot"].ID).Slot())
}

func TestWhichPostsAnEngineClaims(t *testing.T) {
	p := newPair(t)
	ctx := t.Context()
	claimed := func(tx *store.Tx, at, overdue time.Time, limit int) (ids []int64) {
		claims, err := tx.ClaimDue(ctx, at, overdue, limit)
		require.NoError(t, err)
		for _, c := range claims {
			ids = append(ids, c.ID)
		}
		return ids
	}
	both := []int64{p.posts["late"].ID, p.twins["late"].ID, p.posts["now"].ID, p.twins["now"].ID}
	inTx(t, p.Store, func(tx *store.Tx) {
		assert.Equal(t, both[:3], claimed(tx, pgtest.Noon, after(-60), 3), "the earliest first, no more than asked for")
		// Another process goes around what is locked.
		inTx(t, p.Store, func(more *store.Tx) {
			assert.Equal(t, both[3:], claimed(more, pgtest.Noon, after(-60), 10),
				"due at the moment, none that is held")
		})
	})
	set := func(query string, args ...any) {
		_, err := p.DB().ExecContext(ctx, query, args...)
		require.NoError(t, err)
	}
	mine := []int64{p.posts["late"].ID, p.posts["now"].ID}
	set(`update sites set paused_at = $2 where id = $1`, p.other.Site.ID, pgtest.Noon)
	inTx(t, p.Store, func(tx *store.Tx) {
		assert.Equal(t, mine, claimed(tx, pgtest.Noon, after(-60), 10), "none of a paused site")
	})
	set(`update sites set paused_at = null, resumed_at = $2 where id = $1`, p.other.Site.ID, after(1))
	inTx(t, p.Store, func(tx *store.Tx) {
		assert.Equal(t, mine, claimed(tx, pgtest.Noon, after(-60), 10), "nor of one that goes on only later")
	})
	set(`update sites set resumed_at = null, catch_up = 'next slots' where id = $1`, p.other.Site.ID)
	inTx(t, p.Store, func(tx *store.Tx) {
		assert.Equal(t, mine, claimed(tx, pgtest.Noon, after(-5), 10),
			"nor where what is overdue is to be decided first")
		assert.Len(t, claimed(tx, pgtest.Noon, after(-6), 10), 4, "what is a little late is not overdue")
	})

	inTx(t, p.Store, func(tx *store.Tx) {
		claims, err := tx.ClaimSite(ctx, p.Site.ID, pgtest.Noon)
		require.NoError(t, err)
		require.Len(t, claims, 2)
		assert.Equal(t, mine, []int64{claims[0].ID, claims[1].ID})
		one, err := tx.ClaimPost(ctx, p.Site.ID, p.posts["archived"].ID)
		require.NoError(t, err)
		assert.Equal(t, p.posts["archived"].State(), one.State)
		_, err = tx.ClaimPost(ctx, p.Site.ID, p.twins["archived"].ID)
		assert.ErrorIs(t, err, store.ErrNotFound)
	})
}

// What readers may see is published, or archived at its own address; nothing else ever shows.
func TestWhatReadersMaySee(t *testing.T) {
	p := newPair(t)
	ctx := t.Context()
	tag := store.Tag{Slug: "frost", Name: "Frost"}
	for _, title := range []string{"out", "archived", "draft"} {
		require.NoError(t, p.SetTags(ctx, p.Site.ID, p.posts[title].ID, []store.Tag{tag}))
		require.NoError(t, p.SetTags(ctx, p.other.Site.ID, p.twins[title].ID, []store.Tag{tag}))
	}
	public := func(f store.PublicFilter, offset, limit int) (all []string) {
		t.Helper()
		posts, err := p.PublicPosts(ctx, p.Site.ID, f, offset, limit)
		require.NoError(t, err)
		for _, one := range posts {
			all = append(all, one.Title)
		}
		return all
	}
	onTop := true
	assert.Equal(t, []string{"out", "out-before"}, public(store.PublicFilter{}, 0, 10))
	assert.Equal(t, []string{"out-before"}, public(store.PublicFilter{}, 1, 10))
	assert.Equal(t, []string{"out"}, public(store.PublicFilter{}, 0, 1))
	assert.Equal(t, []string{"out"}, public(store.PublicFilter{From: after(-60), To: after(-59)}, 0, 10))
	assert.Empty(t, public(store.PublicFilter{From: after(-61), To: after(-60)}, 0, 10), "up to the end, not at it")
	assert.Len(t, public(store.PublicFilter{Category: p.Category, Author: p.Editor.ID}, 0, 10), 2)
	assert.Empty(t, public(store.PublicFilter{Category: p.other.Category}, 0, 10))
	assert.Empty(t, public(store.PublicFilter{Author: p.other.Editor.ID}, 0, 10))
	assert.Empty(t, public(store.PublicFilter{OnTop: &onTop}, 0, 10))
	assert.Len(t, public(store.PublicFilter{Text: "text"}, 0, 10), 2)
	assert.Empty(t, public(store.PublicFilter{Text: "nowhere"}, 0, 10))

	topic, err := p.PublicTag(ctx, p.Site.ID, "frost")
	require.NoError(t, err)
	assert.Equal(t, 1, topic.N, "published posts only")
	assert.Equal(t, []string{"out"}, public(store.PublicFilter{Tag: topic.ID}, 0, 10))
	_, err = p.PublicTag(ctx, p.Site.ID, "thaw")
	assert.ErrorIs(t, err, store.ErrNotFound)
	categories, err := p.PublicCategories(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []store.Topic{{ID: p.Category, Slug: "sky-guide", Name: "Sky Guide", N: 2}}, categories)
	authors, err := p.PublicAuthors(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []store.Topic{{ID: p.Editor.ID, Name: p.Editor.Name, N: 2}}, authors)

	for title := range p.posts {
		_, err := p.PublicPost(ctx, p.Site.ID, title)
		if seen := title == "out" || title == "out-before" || title == "archived"; seen {
			assert.NoError(t, err, title)
		} else {
			assert.ErrorIs(t, err, store.ErrNotFound, title)
		}
	}
	older, newer, err := p.Neighbours(ctx, p.posts["out-before"])
	require.NoError(t, err)
	assert.Nil(t, older)
	assert.Equal(t, p.posts["out"].ID, newer.ID, "not the archived one between them")
	n, err := p.CountAddresses(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	addresses, err := p.Addresses(ctx, p.Site.ID, 0, 10)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"out", "out-before"}, titles(addresses))

	months, err := p.PublicMonths(ctx, p.Site.ID, "Pacific/Kiritimati")
	require.NoError(t, err)
	require.Len(t, months, 1)
	assert.Equal(t, 2, months[0].N)
	_, err = p.DB().ExecContext(ctx, `update posts set kind = 'page' where id = $1`, p.posts["out"].ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"out-before"}, public(store.PublicFilter{}, 0, 10), "a page is no post")
	pages, err := p.PublicPages(ctx, p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"out"}, titles(pages))

	known, err := p.KnownSlugs(ctx, p.Site.ID, []string{"out", "soon", "archived", "draft", "binned", "nowhere"})
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"out", "soon", "archived"}, known)
}

// A month is one of the site's clocks: ten minutes before midnight in Halifax it is tomorrow in Lisbon.
func TestMonthsAreOfTheSitesClocks(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	at := time.Date(2026, 12, 1, 3, 50, 0, 0, time.UTC)
	stand(t, w, "late", func(s post.State) post.State { return s.Publish(at) })
	for zone, month := range map[string]int{"America/Halifax": 11, "Europe/Lisbon": 12} {
		months, err := w.PublicMonths(t.Context(), w.Site.ID, zone)
		require.NoError(t, err)
		assert.Equal(t, []store.Month{{Year: 2026, Month: month, N: 1}}, months, zone)
	}
}

func TestWhatACalendarShows(t *testing.T) {
	p := newPair(t)
	ctx := t.Context()
	shows := func(f store.CalendarFeed) (all []string) {
		t.Helper()
		f.SiteID = p.Site.ID
		entries, err := p.CalendarEntries(ctx, f, after(-100))
		require.NoError(t, err)
		for _, e := range entries {
			all = append(all, e.State+" "+e.Title)
		}
		return all
	}
	assert.Equal(t, []string{"out out", "scheduled held-late", "scheduled late", "scheduled now", "scheduled soon",
		"scheduled held-ahead", "scheduled in-a-slot"}, shows(store.CalendarFeed{}),
		"from the moment on, in time order")
	assert.Equal(t, []string{"out out"}, shows(store.CalendarFeed{Status: "published"}))
	assert.Equal(t, []string{"scheduled held-late", "scheduled held-ahead"}, shows(store.CalendarFeed{Status: "held"}))
	assert.Equal(t, []string{"scheduled late", "scheduled now", "scheduled soon"},
		shows(store.CalendarFeed{Status: "pinned"}))
	assert.Equal(t, []string{"scheduled in-a-slot"}, shows(store.CalendarFeed{Status: "scheduled"}))
	assert.Empty(t, shows(store.CalendarFeed{Kind: "page"}))
	assert.Empty(t, shows(store.CalendarFeed{Authors: store.IDs{p.other.Editor.ID}}))
	assert.Len(t, shows(store.CalendarFeed{Authors: store.IDs{p.Editor.ID}, Categories: store.IDs{p.Category}}), 7)

	for _, c := range []struct {
		feed store.CalendarFeed
		can  bool
	}{
		{store.CalendarFeed{}, true},
		{store.CalendarFeed{Authors: store.IDs{p.Editor.ID}, Categories: store.IDs{p.Category}}, true},
		{store.CalendarFeed{Authors: store.IDs{p.other.Editor.ID}}, false},
		{store.CalendarFeed{Categories: store.IDs{p.Category, p.other.Category}}, false},
	} {
		c.feed.SiteID = p.Site.ID
		can, err := p.CanFilter(ctx, c.feed)
		require.NoError(t, err)
		assert.Equal(t, c.can, can, "%+v", c.feed)
	}

	f := store.CalendarFeed{SiteID: p.Site.ID, User: p.Editor.ID, Name: "Mine", Hash: secrets.Hash("hash"),
		CreatedAt: pgtest.Noon}
	id, err := p.InsertCalendarFeed(ctx, f)
	require.NoError(t, err)
	found, err := p.CalendarFeedByHash(ctx, secrets.Hash("hash"))
	require.NoError(t, err)
	assert.Equal(t, id, found.ID)
	assert.ErrorIs(t, p.EndCalendarFeed(ctx, p.other.Site.ID, p.Editor.ID, id), store.ErrNotFound)
	assert.ErrorIs(t, p.EndCalendarFeed(ctx, p.Site.ID, p.other.Editor.ID, id), store.ErrNotFound)
	require.NoError(t, p.InTx(ctx, func(tx *store.Tx) error {
		return tx.DeleteMembership(ctx, p.Site.ID, p.Editor.ID)
	}))
	_, err = p.CalendarFeedByHash(ctx, secrets.Hash("hash"))
	assert.ErrorIs(t, err, store.ErrNotFound, "who has left the site reads nothing of it")
}

// Only what lies in the bin is deleted for good.
func TestOnlyTheBinIsEmptied(t *testing.T) {
	p := newPair(t)
	require.NoError(t, p.InTx(t.Context(), func(tx *store.Tx) error {
		for title, one := range p.posts {
			err := tx.DeletePost(t.Context(), p.Site.ID, one.ID)
			if title == "binned" {
				assert.NoError(t, err)
			} else {
				assert.ErrorIs(t, err, store.ErrNotFound, title)
			}
		}
		assert.ErrorIs(t, tx.DeletePost(t.Context(), p.Site.ID, p.twins["binned"].ID), store.ErrNotFound)
		return nil
	}))
	n, err := p.CountPublished(t.Context(), p.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
}

// A stale version of the settings is not this package's to see, but what is not there is.
func TestAnUpdateOfNothingFails(t *testing.T) {
	p := newPair(t)
	ctx := t.Context()
	mine, theirs := p.posts["draft"], p.twins["draft"]
	require.NoError(t, p.InTx(ctx, func(tx *store.Tx) error {
		stranger := theirs
		stranger.SiteID = p.Site.ID
		for what, err := range map[string]error{
			"state":       tx.SaveState(ctx, stranger, pgtest.Noon),
			"care":        tx.SaveCare(ctx, stranger, pgtest.Noon),
			"rule":        tx.SaveRule(ctx, store.Rule{SiteID: p.Site.ID, ID: 99}, pgtest.Noon),
			"no rule":     tx.DeleteRule(ctx, p.Site.ID, 99, pgtest.Noon),
			"serve":       tx.Serve(ctx, p.Site.ID, 99, store.Served{At: pgtest.Noon}),
			"restore":     tx.RestoreRule(ctx, p.Site.ID, 99, pgtest.Noon),
			"channel":     tx.SaveChannel(ctx, store.Channel{SiteID: p.Site.ID, ID: 99}),
			"settings":    tx.SaveSettings(ctx, store.Site{ID: 99, ZoneName: "UTC"}),
			"role":        tx.SaveRole(ctx, p.Site.ID, p.other.Editor.ID, "owner"),
			"membership":  tx.DeleteMembership(ctx, p.Site.ID, p.other.Editor.ID),
			"invitation":  tx.AcceptInvitation(ctx, 99, pgtest.Noon),
			"undone":      tx.MarkUndone(ctx, p.Site.ID, 99, pgtest.Noon),
			"description": tx.DescribePicture(ctx, p.Site.ID, 99, "A dome."),
			"token":       tx.DeleteToken(ctx, p.Site.ID, 99),
			"sign-in":     tx.EndSignIn(ctx, p.Editor.ID, 99, pgtest.Noon),
			"season":      tx.DropSeason(ctx, p.Site.ID, p.other.Rhythm.ID),
		} {
			assert.ErrorIs(t, err, store.ErrNotFound, what)
		}
		return nil
	}))
	assert.Equal(t, mine.Version, p.Reload(t, mine.ID).Version)
}
