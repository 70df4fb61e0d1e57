package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// strangers are two blogs with an editor each.
func strangers(t *testing.T) (w, other pgtest.World) {
	t.Helper()
	t.Parallel()
	s := pgtest.New(t)
	return pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "elsewhere")
}

func person(t *testing.T, w pgtest.World, name, role string) store.User {
	t.Helper()
	u, err := w.InsertUser(t.Context(), store.User{Email: name + "@Example.org", Name: name, PasswordHash: "-",
		CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	if role != "" {
		require.NoError(t, w.InsertMembership(t.Context(), w.Site.ID, u.ID, role))
	}
	return u
}

func TestWhoIsOfASite(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	owner, guest := person(t, w, "Ada", "owner"), person(t, w, "Guest", "")
	w.Draft(t, "One")
	members, err := w.Members(ctx, w.Site.ID)
	require.NoError(t, err)
	require.Len(t, members, 2)
	assert.Equal(t, store.Member{ID: owner.ID, Name: "Ada", Email: "Ada@Example.org", Role: "owner"}, members[0])
	assert.Equal(t, 1, members[1].Posts)
	for _, user := range []int64{guest.ID, other.Editor.ID} {
		_, err = w.Member(ctx, w.Site.ID, user)
		assert.ErrorIs(t, err, store.ErrNotFound)
		_, err = w.MembershipOf(ctx, user, "dome")
		assert.ErrorIs(t, err, store.ErrNotFound)
	}
	m, err := w.MembershipOf(ctx, owner.ID, "dome")
	require.NoError(t, err)
	assert.Equal(t, "owner", m.Role)
	assert.Equal(t, w.Site.ID, m.Site.ID)
	n, err := w.CountOwners(ctx, w.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	n, err = w.CountOwners(ctx, other.Site.ID)
	require.NoError(t, err)
	assert.Zero(t, n)

	require.NoError(t, w.InsertMembership(ctx, other.Site.ID, owner.ID, "contributor"))
	sites, err := w.Memberships(ctx, owner.ID)
	require.NoError(t, err)
	require.Len(t, sites, 2)
	assert.Equal(t, []string{"owner", "contributor"}, []string{sites[0].Role, sites[1].Role}, "their own first")

	found, err := w.UserByEmail(ctx, "ADA@example.ORG")
	require.NoError(t, err)
	assert.Equal(t, owner.ID, found.ID, "letters' case does not matter")
	_, err = w.InsertUser(ctx, store.User{Email: "ada@example.org", Name: "Another", PasswordHash: "-",
		CreatedAt: pgtest.Noon})
	assert.True(t, store.IsDuplicate(err))
}

// Who leaves a site takes their tokens for it along, and no others.
func TestLeavingEndsTokens(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	require.NoError(t, w.InsertMembership(ctx, other.Site.ID, w.Editor.ID, "editor"))
	token := func(site int64, secret string, ends time.Time) int64 {
		id, err := w.InsertToken(ctx, store.Token{SiteID: site, User: w.Editor.ID, Name: secret,
			Hash: secrets.Hash(secret), Hint: "…",
			Scopes: store.Strings{"read"}, CreatedAt: pgtest.Noon, ExpiresAt: ends})
		require.NoError(t, err)
		return id
	}
	id := token(w.Site.ID, "here", after(60))
	token(other.Site.ID, "there", after(60))
	found, err := w.TokenByHash(ctx, secrets.Hash("here"), after(59))
	require.NoError(t, err)
	assert.Equal(t, id, found.ID)
	assert.Nil(t, found.UsedAt, "as it was before")
	found, err = w.TokenByHash(ctx, secrets.Hash("here"), after(59))
	require.NoError(t, err)
	assert.True(t, found.UsedAt.Equal(after(59)))
	_, err = w.TokenByHash(ctx, secrets.Hash("here"), after(60))
	assert.ErrorIs(t, err, store.ErrNotFound, "its time is over")
	assert.ErrorIs(t, w.DeleteToken(ctx, other.Site.ID, id), store.ErrNotFound)

	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		return tx.DeleteMembership(ctx, w.Site.ID, w.Editor.ID)
	}))
	_, err = w.TokenByHash(ctx, secrets.Hash("here"), pgtest.Noon)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = w.TokenByHash(ctx, secrets.Hash("there"), pgtest.Noon)
	assert.NoError(t, err)
}

func TestSignInsEnd(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	signIn := func(user int64, at time.Time) int64 {
		id, err := w.InsertSignIn(ctx, store.SignIn{User: user, BeganAt: at, Address: "192.0.2.1", Agent: "A browser"})
		require.NoError(t, err)
		return id
	}
	old, here, there := signIn(w.Editor.ID, after(-120)), signIn(w.Editor.ID, pgtest.Noon), signIn(w.Editor.ID,
		after(1))
	theirs := signIn(other.Editor.ID, pgtest.Noon)
	ids := func() (ids []int64) {
		all, err := w.SignIns(ctx, w.Editor.ID, after(-60))
		require.NoError(t, err)
		for _, s := range all {
			ids = append(ids, s.ID)
		}
		return ids
	}
	assert.Equal(t, []int64{there, here}, ids(), "last seen first, none that began before the moment")
	u, err := w.UserSignedIn(ctx, here, after(5))
	require.NoError(t, err)
	assert.Equal(t, w.Editor.ID, u.ID)
	assert.Equal(t, []int64{here, there}, ids(), "it has been seen since")
	assert.ErrorIs(t, w.EndSignIn(ctx, w.Editor.ID, theirs, after(6)), store.ErrNotFound, "nobody ends another's")
	require.NoError(t, w.EndSignIn(ctx, w.Editor.ID, there, after(6)))
	assert.ErrorIs(t, w.EndSignIn(ctx, w.Editor.ID, there, after(7)), store.ErrNotFound, "once")
	_, err = w.UserSignedIn(ctx, there, after(7))
	assert.ErrorIs(t, err, store.ErrNotFound)
	n, err := w.EndSignIns(ctx, w.Editor.ID, here, after(8))
	require.NoError(t, err)
	assert.Equal(t, 1, n, "the old one; the one that is kept stays, and the one that ended is not counted")
	_, err = w.UserSignedIn(ctx, old, after(8))
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = w.UserSignedIn(ctx, theirs, after(8))
	assert.NoError(t, err)
}

// Of several invitations to one address the last one holds; its links open it once.
func TestInvitationsAndTheirSecrets(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	invite := func(site int64, email string) (id int64) {
		require.NoError(t, w.InTx(ctx, func(tx *store.Tx) (err error) {
			id, err = tx.PutInvitation(ctx, store.Invitation{SiteID: site, Email: email, Role: "editor",
				InvitedBy: w.Editor.ID,
				CreatedAt: pgtest.Noon, ExpiresAt: after(60)})
			return err
		}))
		return id
	}
	first := invite(w.Site.ID, "New@example.org")
	elsewhere := invite(other.Site.ID, "new@example.org")
	require.NoError(t, w.InsertSecret(ctx, store.LinkSecret{Hash: secrets.Hash("first"), Invitation: &first,
		CreatedAt: pgtest.Noon, ExpiresAt: after(60)}))
	second := invite(w.Site.ID, "new@EXAMPLE.org")
	_, err := w.Secret(ctx, secrets.Hash("first"))
	assert.ErrorIs(t, err, store.ErrNotFound, "the first one's link opens nothing any more")
	_, err = w.Invitation(ctx, first)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = w.Invitation(ctx, elsewhere)
	assert.NoError(t, err)

	for _, secret := range []string{"one", "two"} {
		require.NoError(t, w.InsertSecret(ctx, store.LinkSecret{Hash: secrets.Hash(secret), Invitation: &second,
			CreatedAt: pgtest.Noon, ExpiresAt: after(60)}))
	}
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		s, err := tx.Secret(ctx, secrets.Hash("one"))
		require.NoError(t, err)
		require.NoError(t, tx.UseSecret(ctx, s, after(1)))
		assert.ErrorIs(t, tx.UseSecret(ctx, s, after(2)), store.ErrNotFound, "once")
		require.NoError(t, tx.AcceptInvitation(ctx, second, after(1)))
		assert.ErrorIs(t, tx.AcceptInvitation(ctx, second, after(2)), store.ErrNotFound, "once")
		assert.ErrorIs(t, tx.DeleteInvitation(ctx, w.Site.ID, second), store.ErrNotFound, "nor taken back after that")
		return nil
	}))
	for _, secret := range []string{"one", "two"} {
		s, err := w.Secret(ctx, secrets.Hash(secret))
		require.NoError(t, err)
		assert.NotNil(t, s.UsedAt, "its siblings are used with it")
	}
	open, err := w.Invitations(ctx, w.Site.ID)
	require.NoError(t, err)
	assert.Empty(t, open)
	assert.NotEqual(t, second, invite(w.Site.ID, "new@example.org"), "who was of it may be asked again")
	_, err = w.Invitation(ctx, second)
	assert.NoError(t, err, "and what was accepted stays")
}

// Tries: so many at once within a span, then one in so much time; the span over, they begin anew.
func TestTriesAreCounted(t *testing.T) {
	w, _ := strangers(t)
	ctx := t.Context()
	pace := store.Pace{Span: time.Hour, Free: 3, Pause: 10 * time.Minute}
	wait := func(key string, minute int) time.Duration {
		t.Helper()
		d, err := w.Try(ctx, key, after(minute), pace)
		require.NoError(t, err)
		return d
	}
	for range 3 {
		assert.Zero(t, wait("a", 0))
	}
	assert.Zero(t, wait("b", 0), "another key counts for itself")
	assert.Equal(t, 10*time.Minute, wait("a", 0))
	assert.Equal(t, time.Minute, wait("a", 9), "what was refused does not put it off")
	assert.Zero(t, wait("a", 10))
	assert.Equal(t, 10*time.Minute, wait("a", 10))
	for range 3 {
		assert.Zero(t, wait("a", 60), "the span is over")
	}
	assert.Equal(t, 10*time.Minute, wait("a", 60))
	require.NoError(t, w.ForgetTries(ctx, "a"))
	assert.Zero(t, wait("a", 60))
	require.NoError(t, w.TakeBackTry(ctx, "a"))
	for range 3 {
		assert.Zero(t, wait("a", 61), "one was taken back")
	}
	assert.NotZero(t, wait("a", 61))
}

// Another password ends what else opens the account: tokens, links, known browsers.
func TestAnotherPasswordForgetsSecrets(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	for _, u := range []store.User{w.Editor, other.Editor} {
		name := u.Email
		_, err := w.InsertToken(ctx, store.Token{SiteID: w.Site.ID, User: u.ID, Name: "t",
			Hash: secrets.Hash("token " + name), Hint: "…",
			Scopes: store.Strings{"read"}, CreatedAt: pgtest.Noon, ExpiresAt: after(60)})
		require.NoError(t, err)
		require.NoError(t, w.InsertSecret(ctx, store.LinkSecret{Hash: secrets.Hash("reset " + name), User: &u.ID,
			CreatedAt: pgtest.Noon, ExpiresAt: after(60)}))
		require.NoError(t, w.KnowBrowser(ctx, secrets.Hash("browser"), u.ID, pgtest.Noon))
	}
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error { return tx.ForgetSecrets(ctx, w.Editor.ID, after(1)) }))
	for _, c := range []struct {
		user store.User
		gone bool
	}{{w.Editor, true}, {other.Editor, false}} {
		_, err := w.TokenByHash(ctx, secrets.Hash("token "+c.user.Email), after(2))
		assert.Equal(t, c.gone, err != nil)
		s, err := w.Secret(ctx, secrets.Hash("reset "+c.user.Email))
		require.NoError(t, err)
		assert.Equal(t, c.gone, s.UsedAt != nil)
		known, err := w.KnowsBrowser(ctx, secrets.Hash("browser"), c.user.ID, after(2))
		require.NoError(t, err)
		assert.Equal(t, !c.gone, known)
	}
	known, err := w.KnowsBrowser(ctx, secrets.Hash("another"), other.Editor.ID, after(2))
	require.NoError(t, err)
	assert.False(t, known)
}

// A preview opens its post until it ends, its maker leaves, or the post goes into the bin.
func TestWhatAPreviewOpens(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	p := w.Draft(t, "Not out yet")
	id, err := w.InsertPreviewLink(ctx, store.PreviewLink{SiteID: w.Site.ID, Post: p.ID, Hash: secrets.Hash("look"),
		User:      w.Editor.ID,
		CreatedAt: pgtest.Noon, ExpiresAt: after(60)})
	require.NoError(t, err)
	opens := func(site int64, secret string, minute int) bool {
		t.Helper()
		found, until, err := w.Previewed(ctx, site, secrets.Hash(secret), after(minute))
		if err == nil {
			assert.Equal(t, p.ID, found.ID)
			assert.True(t, until.ExpiresAt.Equal(after(60)))
		} else {
			require.ErrorIs(t, err, store.ErrNotFound)
		}
		return err == nil
	}
	assert.True(t, opens(w.Site.ID, "look", 59))
	assert.False(t, opens(w.Site.ID, "look", 60))
	assert.False(t, opens(other.Site.ID, "look", 0))
	assert.False(t, opens(w.Site.ID, "", 0))
	links, err := w.PreviewLinks(ctx, w.Site.ID, p.ID, after(60))
	require.NoError(t, err)
	assert.Empty(t, links)
	assert.ErrorIs(t, w.EndPreviewLink(ctx, other.Site.ID, p.ID, id), store.ErrNotFound)
	maker, err := w.PreviewMaker(ctx, w.Site.ID, p.ID, id)
	require.NoError(t, err)
	assert.Equal(t, w.Editor.ID, maker)

	p.Stand(p.State().Bin(pgtest.Noon))
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error { return tx.SaveState(ctx, p, pgtest.Noon) }))
	assert.False(t, opens(w.Site.ID, "look", 0))
	p.Stand(p.State().Restore())
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error { return tx.SaveState(ctx, p, pgtest.Noon) }))
	assert.True(t, opens(w.Site.ID, "look", 0))
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		return tx.DeleteMembership(ctx, w.Site.ID, w.Editor.ID)
	}))
	assert.False(t, opens(w.Site.ID, "look", 0))
}

// The demo may be loaded and removed only where there is nothing else.
func TestWhatLiesBeyondTheDemo(t *testing.T) {
	w, _ := strangers(t)
	ctx := t.Context()
	beyond := func(slugs, emails []string) bool {
		found, err := w.Beyond(ctx, slugs, emails)
		require.NoError(t, err)
		return found
	}
	both, people := []string{"dome", "elsewhere"}, []string{"dome@example.org", "elsewhere@example.org"}
	assert.False(t, beyond(both, people))
	assert.True(t, beyond(both[:1], people), "another site")
	assert.False(t, beyond(both, people[:1]), "who is of such a site counts as its own")
	person(t, w, "Alone", "")
	assert.True(t, beyond(both, people), "somebody who is of no site")
	assert.False(t, beyond(both, append(people, "alone@example.org")))

	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error { return tx.DeleteSite(ctx, "dome", people) }))
	_, err := w.SiteBySlug(ctx, "dome")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = w.UserByEmail(ctx, "dome@example.org")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = w.UserByEmail(ctx, "elsewhere@example.org")
	assert.NoError(t, err, "who is of another site stays")
}
