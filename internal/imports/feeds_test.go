package imports_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/imports"
	"dapper.example/internal/intake/feed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
)

// ridge is a feed that grows, and may be out of order.
type ridge struct {
	*httptest.Server
	items  int
	broken bool
	asked  int
}

func newRidge(t *testing.T) *ridge {
	r := &ridge{items: 2}
	r.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		r.asked++
		if r.broken {
			w.WriteHeader(http.StatusInternalServerError)
			return
		}
		tag := fmt.Sprintf(`"%d"`, r.items)
		if w.Header().Set("ETag", tag); q.Header.Get("If-None-Match") == tag {
			w.WriteHeader(http.StatusNotModified)
			return
		}
		fmt.Fprint(w, `<rss version="2.0"><channel><title>Ridge</title>`)
		for n := r.items; n > 0; n-- {
			fmt.Fprintf(w, `<item><guid>%d</guid><title>Note %d</title><link>https://ridge.example/%d</link><description>&lt;p&gt;Sky number %d&lt;/p&gt;</description></item>`, n, n, n, n)
		}
		fmt.Fprint(w, `</channel></rss>`)
	}))
	t.Cleanup(r.Close)
	return r
}

var inside = reach.ParseAllowed("127.0.0.1")

func (r room) feeder() *imports.Feeder {
	return &imports.Feeder{Store: r.World.Store, Clock: r.clock, Client: feed.Client(inside), Log: pgtest.Quiet()}
}

func (r room) addFeed(says imports.FeedSays) store.Feed {
	f, err := imports.AddFeed(r.t.Context(), r.Desk, says, inside, r.now())
	require.NoError(r.t, err)
	return f
}

// looks lets time pass, looks at feeds, and has what is new land.
func (r room) looks(feeder *imports.Feeder, after time.Duration) {
	r.clock.Advance(after)
	require.NoError(r.t, feeder.Step(r.t.Context()))
	r.step()
}

func TestNewItemsOfFeedsBecomePosts(t *testing.T) {
	r := newRoom(t)
	ridge, feeder := newRidge(t), r.feeder()
	f := r.addFeed(imports.FeedSays{Name: "Ridge", Address: ridge.URL, Minutes: 60, Becomes: store.FeedPosts,
		Setup: imports.Setup{Landing: imports.Goal{As: imports.AsShelf}, Recipe: intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Category: {Text: "Sky Guide"}}}}})
	r.looks(feeder, 0)
	assert.Empty(t, r.posts(), "what was there stays there")
	ridge.items = 4
	r.looks(feeder, 30*time.Minute)
	assert.Empty(t, r.posts(), "its hour has not come")
	r.looks(feeder, 31*time.Minute)
	posts := r.posts()
	require.Len(t, posts, 2)
	assert.Equal(t, "Sky number 3", posts["Note 3"].Body)
	assert.Equal(t, "Sky Guide", *posts["Note 3"].CategoryName)
	assert.True(t, posts["Note 3"].Cleared)
	assert.Less(t, *posts["Note 3"].ShelfRank, *posts["Note 4"].ShelfRank, "the oldest first")
	assert.Equal(t, "2 posts brought in from “Ridge”.", r.logged().Reason)
	r.looks(feeder, 61*time.Minute)
	assert.Equal(t, 3, ridge.asked)
	assert.Len(t, r.posts(), 2)

	ridge.broken = true
	r.looks(feeder, 61*time.Minute)
	f, err := r.World.Feed(t.Context(), r.World.Site.ID, f.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"It answered 500 Internal Server Error.", 1}, []any{f.Problem, f.Failing})
	ridge.broken, ridge.items = false, 5
	r.looks(feeder, 3*time.Hour)
	assert.Len(t, r.posts(), 3)
	f, err = r.World.Feed(t.Context(), r.World.Site.ID, f.ID)
	require.NoError(t, err)
	assert.Empty(t, f.Problem)
}

func TestExistingItemsComeToo(t *testing.T) {
	r := newRoom(t)
	ridge, feeder := newRidge(t), r.feeder()
	r.addFeed(imports.FeedSays{Name: "Ridge", Address: ridge.URL, Minutes: 60, Becomes: store.FeedPosts, Existing: true, Setup: imports.Setup{Landing: imports.Goal{As: imports.AsPlaced}}})
	r.looks(feeder, 0)
	posts := r.posts()
	require.Len(t, posts, 2)
	assert.Equal(t, store.Scheduled, posts["Note 1"].Status)
	assert.True(t, posts["Note 1"].DueAt.Before(*posts["Note 2"].DueAt))
}

func TestItemsBecomeMessagesToShare(t *testing.T) {
	r := newRoom(t)
	ridge, feeder := newRidge(t), r.feeder()
	r.addFeed(imports.FeedSays{Name: "Ridge", Address: ridge.URL, Minutes: 60, Becomes: store.FeedMessages, Existing: true})
	r.looks(feeder, 0)
	assert.Empty(t, r.posts())
	all, err := r.World.PreparedMessages(t.Context(), r.World.Site.ID, nil)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, []string{"Note 1 {link}", "https://ridge.example/1"}, []string{all[0].Text, all[0].Item.Link})
	ridge.items = 3
	r.looks(feeder, 2*time.Hour)
	all, err = r.World.PreparedMessages(t.Context(), r.World.Site.ID, nil)
	require.NoError(t, err)
	assert.Len(t, all, 3, "each item once")
}

func TestWhatIsWrongWithAFeedIsSaid(t *testing.T) {
	r := newRoom(t)
	ok := imports.FeedSays{Name: "Ridge", Address: "https://ridge.example/feed", Minutes: 60, Becomes: store.FeedPosts}
	r.addFeed(ok)
	for field, change := range map[string]func(*imports.FeedSays){
		"name": func(f *imports.FeedSays) { f.Name = " " }, "address": func(f *imports.FeedSays) { f.Address = "http://10.0.0.1/" }, "minutes": func(f *imports.FeedSays) { f.Minutes = 1 },
		"becomes": func(f *imports.FeedSays) { f.Becomes = "" }, "setup.landing.portion": func(f *imports.FeedSays) { f.Setup.Landing.Portion = 3 },
	} {
		says := ok
		change(&says)
		_, err := imports.AddFeed(t.Context(), r.Desk, says, inside, r.now())
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, field, bad.Field)
	}
	_, err := imports.AddFeed(t.Context(), r.Desk, ok, inside, r.now())
	require.ErrorContains(t, err, "Another feed has this name.")
	ridge := newRidge(t)
	ok.Address = ridge.URL
	title, shown, err := imports.PreviewFeed(t.Context(), r.Desk, ok, inside, 5, r.now())
	require.NoError(t, err)
	assert.Equal(t, "Ridge", title)
	require.Len(t, shown, 2)
	assert.Equal(t, "Sky number 2", shown[0].Post.Body)
	ridge.broken = true
	_, _, err = imports.PreviewFeed(t.Context(), r.Desk, ok, inside, 5, r.now())
	require.ErrorContains(t, err, "It answered 500")
}
