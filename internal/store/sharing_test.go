package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// A turn is in hand as long as it has not been served; what stands for it may be skipped or sent.
func TestTurnsInHand(t *testing.T) {
	w, _ := strangers(t)
	r := newRuled(t, w)
	ctx := t.Context()
	p := r.out("shared")
	turn := func(minute int, state string) (id int64) {
		at := after(minute)
		r.do(func(tx *store.Tx) (err error) {
			id, err = tx.InsertPlanned(ctx, store.Outing{SiteID: r.Site.ID, Channel: r.channel, Post: store.ID(p.ID), At: after(minute + 100),
				Origin: store.ByRule, OwnText: "{title}", CreatedAt: pgtest.Noon, Rule: &r.reshare, Turn: &at, State: state})
			return err
		})
		return id
	}
	inHand := func() []deed.InHand {
		all, err := r.InHand(ctx, r.Site.ID)
		require.NoError(t, err)
		return all
	}
	first := turn(30, store.Planned)
	turn(30, store.Planned)
	turn(60, store.Skipped)
	assert.Equal(t, []deed.InHand{{Rule: r.reshare, Turn: after(30)}, {Rule: r.reshare, Turn: after(60)}}, inHand())
	r.do(func(tx *store.Tx) error {
		return tx.Serve(ctx, r.Site.ID, r.reshare, store.Served{At: after(30)})
	})
	assert.Equal(t, []deed.InHand{{Rule: r.reshare, Turn: after(60)}}, inHand(), "that of the served turn is past")
	planned, err := r.Planned(ctx, r.Site.ID)
	require.NoError(t, err)
	require.Len(t, planned, 2)
	r.do(func(tx *store.Tx) error {
		require.NoError(t, tx.PlacePlanned(ctx, r.Site.ID, first, after(300)))
		require.NoError(t, tx.SetAside(ctx, r.Site.ID, first, "Too late."))
		assert.ErrorIs(t, tx.PlacePlanned(ctx, r.Site.ID, first, after(400)), store.ErrNotFound, "it does not wait any more")
		return nil
	})
	aside, err := r.AsideOutings(ctx, r.Site.ID)
	require.NoError(t, err)
	require.Len(t, aside, 1)
	assert.Equal(t, "Too late.", aside[0].Error)
	assert.True(t, aside[0].At.Equal(after(300)))
}

// What came of a turn: the channel that spoke, and that the rule has come to its end.
func TestWhatIsNotedOfATurn(t *testing.T) {
	w, _ := strangers(t)
	r := newRuled(t, w)
	serve := func(s store.Served) store.Rule {
		s.At = after(10)
		r.do(func(tx *store.Tx) error { return tx.Serve(t.Context(), r.Site.ID, r.reshare, s) })
		return r.rule(r.reshare)
	}
	assert.Equal(t, r.channel, serve(store.Served{SpokeOn: r.channel}).SpokeOn)
	assert.Equal(t, r.channel, serve(store.Served{}).SpokeOn, "as before")
	assert.NotNil(t, r.rule(r.reshare).ArmedAt)
	assert.Nil(t, serve(store.Served{Off: true}).ArmedAt)
}

// What follows when posts come out: what the site says of posts, or the post itself; in the post's
// own words, for the channel before any.
func TestPublicationsAreAnnounced(t *testing.T) {
	w, other := strangers(t)
	r, elsewhere := newRuled(t, w), newRuled(t, other)
	ctx := t.Context()
	second, err := r.InsertChannel(ctx, store.Channel{SiteID: r.Site.ID, Kind: "hearth", Name: "Hearth", Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	plain, own, none := r.out("plain"), r.out("own"), r.out("none")
	r.do(func(tx *store.Tx) error {
		require.NoError(t, tx.SaveAnnouncements(ctx, r.Site.ID, 0, true, []store.Announcement{{Channel: r.channel, Text: "New: {title}", After: 10,
			ReplyText: "More: {link}", ReplyAfter: 3, Extras: store.Extras{Extras: deed.Extras{Picture: message.Picture{From: message.NoPicture}}}},
			{Channel: second, Text: "{title}"}}))
		require.NoError(t, tx.SaveAnnouncements(ctx, elsewhere.Site.ID, 0, true, []store.Announcement{{Channel: elsewhere.channel, Text: "Not ours"}}))
		require.NoError(t, tx.SaveAnnouncements(ctx, r.Site.ID, own.ID, true, []store.Announcement{{Channel: second, Text: "Only here"}}))
		require.NoError(t, tx.SaveAnnouncements(ctx, r.Site.ID, none.ID, true, nil))
		return tx.SaveWordings(ctx, r.Site.ID, plain.ID, store.Wordings{{Text: "Mine"}, {Channel: second, Text: "Mine on Hearth"}})
	})
	var sites []int64
	r.do(func(tx *store.Tx) (err error) {
		sites, err = tx.Announce(ctx, []int64{none.ID, own.ID, plain.ID}, after(5).Add(20*time.Second))
		return err
	})
	assert.Equal(t, []int64{r.Site.ID}, sites)
	planned, err := r.Planned(ctx, r.Site.ID)
	require.NoError(t, err)
	require.Len(t, planned, 3)
	type said struct {
		post, channel int64
		text          string
		at            time.Time
	}
	var all []said
	for _, o := range planned {
		assert.True(t, o.Unplaced)
		all = append(all, said{int64(o.Post), o.Channel, o.OwnText, o.At.UTC()})
	}
	assert.Equal(t, []said{{own.ID, second, "Only here", after(5)}, {plain.ID, second, "Mine on Hearth", after(5)},
		{plain.ID, r.channel, "Mine", after(15)}}, all)
	assert.Equal(t, []any{"More: {link}", 3, message.NoPicture}, []any{planned[2].ReplyText, planned[2].ReplyAfter, planned[2].Extras.Picture.From})

	// Published again after an undoing, it is planned once.
	r.do(func(tx *store.Tx) error {
		_, err := tx.Announce(ctx, []int64{plain.ID}, after(50))
		return err
	})
	planned, err = r.Planned(ctx, r.Site.ID)
	require.NoError(t, err)
	assert.Len(t, planned, 3)
	say, has, err := r.AnnouncementsOf(ctx, r.Site.ID, own.ID)
	require.NoError(t, err)
	assert.True(t, has)
	require.Len(t, say, 1)
	r.do(func(tx *store.Tx) error { return tx.SaveAnnouncements(ctx, r.Site.ID, own.ID, false, nil) })
	_, has, err = r.AnnouncementsOf(ctx, r.Site.ID, own.ID)
	require.NoError(t, err)
	assert.False(t, has)
}

// A channel wants signing in once; whoever signs in or lets it rest does not end another's form.
func TestHowAChannelStands(t *testing.T) {
	w, other := strangers(t)
	r := newRuled(t, w)
	ctx := t.Context()
	news, err := r.WantSignIn(ctx, r.Site.ID, r.channel, "It was revoked.")
	require.NoError(t, err)
	assert.True(t, news)
	news, err = r.WantSignIn(ctx, r.Site.ID, r.channel, "Again.")
	require.NoError(t, err)
	assert.False(t, news)
	news, err = r.WantSignIn(ctx, other.Site.ID, r.channel, "Another's.")
	require.NoError(t, err)
	assert.False(t, news)
	c, err := r.Channel(ctx, r.Site.ID, r.channel)
	require.NoError(t, err)
	assert.True(t, c.IsSilent())
	assert.Equal(t, "It was revoked.", c.SignInWhy)
	require.NoError(t, r.Rest(ctx, r.Site.ID, r.channel, after(9)))
	require.NoError(t, r.Rest(ctx, r.Site.ID, r.channel, after(3)))
	c, err = r.Channel(ctx, r.Site.ID, r.channel)
	require.NoError(t, err)
	assert.True(t, c.RestsUntil.Equal(after(9)), "the later of the two")
	assert.Equal(t, 1, c.Version)
	require.NoError(t, r.SignIn(ctx, c))
	c, err = r.Channel(ctx, r.Site.ID, r.channel)
	require.NoError(t, err)
	assert.False(t, c.IsSilent())
	assert.Nil(t, c.RestsUntil)
}

// A post is picked for a rule of its own site only.
func TestPicks(t *testing.T) {
	w, other := strangers(t)
	r, elsewhere := newRuled(t, w), newRuled(t, other)
	ctx := t.Context()
	mine, theirs := r.out("mine"), elsewhere.out("theirs")
	r.do(func(tx *store.Tx) error {
		return tx.Pick(ctx, r.Site.ID, r.reshare, []int64{mine.ID, theirs.ID, mine.ID}, true)
	})
	picks, err := r.Picks(ctx, r.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, map[int64]map[int64]bool{r.reshare: {mine.ID: true}}, picks)
	r.do(func(tx *store.Tx) error { return tx.Pick(ctx, r.Site.ID, r.reshare, []int64{mine.ID}, false) })
	picks, err = r.Picks(ctx, r.Site.ID)
	require.NoError(t, err)
	assert.Empty(t, picks)
}
