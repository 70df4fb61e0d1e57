package people_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/act"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

const (
	password = "four words walk home"
	another  = "green lamps over water"
	public   = "https://blog.example"
)

// post counts the letters that would leave.
type post struct {
	invitations, resets atomic.Int64
}

func (p *post) Invite(context.Context, *store.Tx, int64) error { p.invitations.Add(1); return nil }
func (p *post) Reset(context.Context, *store.Tx, string) error { p.resets.Add(1); return nil }
func (p *post) AskSubscriber(context.Context, *store.Tx, int64) error {
	return nil
}

// house is a house with an owner, who has a password.
type house struct {
	people.House
	pgtest.World
	post  *post
	owner store.User
}

func newHouse(t *testing.T) house {
	t.Helper()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	h := house{World: w, post: &post{}}
	h.House = people.House{Store: w.Store, Mail: h.post}
	h.owner = h.joined(t, "owner@example.org", people.Owner)
	return h
}

func (h house) q() store.Queries { return h.World.Store.Queries }

var desk = people.Caller{Address: "192.0.2.1", Agent: "A browser"}

// joined is a person who accepted an invitation.
func (h house) joined(t *testing.T, email string, role people.Role) store.User {
	t.Helper()
	_, secret, err := h.Invite(t.Context(), h.Site, h.Editor.ID, email, role, pgtest.Noon)
	require.NoError(t, err)
	user, signIn, err := h.Accept(t.Context(), secret, "Somebody "+strings.Split(email, "@")[0], password, desk,
		pgtest.Noon)
	require.NoError(t, err)
	require.NotZero(t, signIn)
	return user
}

// refused is what an editor is told about a field.
func refused(t *testing.T, field, says string, err error) {
	t.Helper()
	var problem *act.Invalid
	require.ErrorAs(t, err, &problem)
	assert.Equal(t, field, problem.Field)
	assert.Contains(t, problem.Message, says)
}

func ended(t *testing.T, says string, err error) {
	t.Helper()
	var e *people.Ended
	require.ErrorAs(t, err, &e)
	assert.Contains(t, e.Why, says)
}

func TestRolesCoverThoseBelow(t *testing.T) {
	roles := []people.Role{"nobody", people.Contributor, people.Editor, people.Owner}
	for i, role := range roles {
		for j, other := range roles {
			assert.Equal(t, i >= j, role.Covers(other), "%s, %s", role, other)
		}
	}
}

func TestPasswordsThatWillNotDo(t *testing.T) {
	for given, says := range map[string]string{
		"":                                "at least 12 characters",
		"eleven char":                     "at least 12 characters",
		strings.Repeat("e\u0301", 11):     "at least 12 characters", // what a reader sees counts
		strings.Repeat("ab", 40):          "repeats one or two characters",
		strings.Repeat("long enough", 99): "at most 1000 bytes",
		"my INES@example.org is safe":     "contains your e-mail address",
	} {
		refused(t, "next", says, people.CheckPassword("next", given, "ines@example.org"))
	}
	for _, good := range []string{password, "日本語の長い合言葉をひとつ", "lamp stays lit", strings.Repeat("🌔🌑🌓", 4)} {
		assert.NoError(t, people.CheckPassword("next", good, "ines@example.org"))
	}
	assert.NoError(t, people.CheckPassword("next", password, ""), "where no address is known, none is in it")
}

func TestNames(t *testing.T) {
	for given, kept := range map[string]string{
		"  Ines\t Abara \n": "Ines Abara", "Zoë": "Zoë", strings.Repeat("n", 80): strings.Repeat("n",
			80), "👩‍🚀 Vera": "👩‍🚀 Vera",
	} {
		name, err := people.CheckName(given)
		require.NoError(t, err)
		assert.Equal(t, kept, name)
	}
	for given, says := range map[string]string{" \n": "Enter the name", strings.Repeat("n", 81): "81 characters",
		"Ines\x00": "control character"} {
		_, err := people.CheckName(given)
		refused(t, "name", says, err)
	}
	rapid.Check(t, func(t *rapid.T) {
		name, err := people.CheckName(rapid.String().Draw(t, "name"))
		if err != nil {
			return
		}
		again, err := people.CheckName(name)
		require.NoError(t, err)
		require.Equal(t, name, again, "what is kept is kept as it is")
	})
}

func TestInvitationsThatAreNoneAreRefused(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	for _, email := range []string{"", "ines", "Ines <ines@example.org>", "a@b@c", strings.Repeat("x", 250) +
		"@example.org", "ines@example.org, b@example.org"} {
		_, _, err := h.Invite(t.Context(), h.Site, h.owner.ID, email, people.Editor, pgtest.Noon)
		refused(t, "email", "is not an e-mail address", err)
	}
	_, _, err := h.Invite(t.Context(), h.Site, h.owner.ID, "new@example.org", "king", pgtest.Noon)
	refused(t, "role", "owner, editor or contributor", err)
	_, _, err = h.Invite(t.Context(), h.Site, h.owner.ID, " OWNER@example.org ", people.Editor, pgtest.Noon)
	refused(t, "email", "Somebody owner is of this site already, as owner", err)
	assert.EqualValues(t, 1, h.post.invitations.Load(), "no letter for what was refused")
}

// However many follow one link at the same moment, one joins.
func TestOneLinkOpensOnceForMany(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	_, secret, err := h.Invite(t.Context(), h.Site, h.owner.ID, "new@example.org", people.Contributor, pgtest.Noon)
	require.NoError(t, err)
	var wg sync.WaitGroup
	var joined atomic.Int64
	for i := range 6 {
		wg.Go(func() {
			_, _, err := h.Accept(t.Context(), secret, fmt.Sprint("New ", i), password, desk, pgtest.Noon)
			if err == nil {
				joined.Add(1)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 1, joined.Load())
	members, err := h.Members(t.Context(), h.Site.ID)
	require.NoError(t, err)
	assert.Len(t, members, 3, "the editor, the owner and one more")
	_, err = h.Look(t.Context(), secret, pgtest.Noon)
	ended(t, "already been used", err)
}

func TestLinksOpenWhatTheyAreFor(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	id, invitation, err := h.Invite(ctx, h.Site, h.owner.ID, "new@example.org", people.Editor, pgtest.Noon)
	require.NoError(t, err)
	letter, err := people.WriteReset(ctx, h.q(), h.owner.Email, public, pgtest.Noon)
	require.NoError(t, err)
	_, reset, there := strings.Cut(letter.Text, public+"/reset#")
	require.True(t, there)
	reset, _, _ = strings.Cut(reset, "\n")

	ended(t, "is an invitation", h.Reset(ctx, invitation, another, pgtest.Noon))
	_, err = h.Look(ctx, reset, pgtest.Noon)
	ended(t, "for choosing a password", err)
	_, err = h.Look(ctx, invitation[:10], pgtest.Noon)
	ended(t, "doesn’t work", err)

	_, err = h.Look(ctx, invitation, pgtest.Noon.Add(people.InvitationLife-time.Second))
	require.NoError(t, err)
	_, err = h.Look(ctx, invitation, pgtest.Noon.Add(people.InvitationLife))
	ended(t, "has expired", err)
	ended(t, "has expired", h.Reset(ctx, reset, another, pgtest.Noon.Add(people.ResetLife)))

	refused(t, "password", "at least 12", h.Reset(ctx, reset, "short", pgtest.Noon))
	require.NoError(t, h.Reset(ctx, reset, another, pgtest.Noon),
		"a password that would not do leaves the link as it was")
	ended(t, "already been used", h.Reset(ctx, reset, another, pgtest.Noon))

	require.NoError(t, h.Withdraw(ctx, h.Site, h.owner.ID, id, pgtest.Noon))
	_, _, err = h.Accept(ctx, invitation, "New", password, desk, pgtest.Noon)
	ended(t, "withdrawn", err)
	_, err = people.WriteInvitation(ctx, h.q(), id, public, pgtest.Noon)
	assert.ErrorIs(t, err, people.ErrNotWanted)
}

func try(t *testing.T, h house, email, given string, from people.Caller, at time.Time) error {
	_, _, err := h.SignIn(t.Context(), email, given, from, at)
	return err
}

func elsewhere(n int) people.Caller { return people.Caller{Address: fmt.Sprint("192.0.2.", n)} }

// Wrong tries slow down those of their own kind: for one account from one address after ten,
// for one account from anywhere after fifty, from one address after sixty. Nobody is locked
// out.
func TestTriesSlowDown(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	at := pgtest.Noon.Add(time.Hour)
	const wrong = "wrong and long enough"
	require.NoError(t, try(t, h, "OWNER@example.org ", password, elsewhere(9), at),
		"letters' case does not matter in an address")
	for range 10 {
		require.ErrorIs(t, try(t, h, "owner@example.org", wrong, elsewhere(1), at), people.ErrWrong)
	}
	var throttled *people.Throttled
	require.ErrorAs(t, try(t, h, "owner@example.org", password, elsewhere(1), at), &throttled)
	assert.Equal(t, time.Minute, throttled.After)
	assert.Contains(t, throttled.Error(), "Try again in two minutes")
	require.ErrorAs(t, try(t, h, "owner@example.org", password, elsewhere(1), at.Add(50*time.Second)), &throttled)
	assert.Contains(t, throttled.Error(), "in 11 seconds, or")
	require.NoError(t, try(t, h, "owner@example.org", password, elsewhere(2), at), "elsewhere it goes on")
	require.NoError(t, try(t, h, "owner@example.org", password, elsewhere(1), at.Add(time.Minute)),
		"and here a minute later")

	for i := range 50 {
		err := try(t, h, "owner@example.org", wrong, elsewhere(10+i), at.Add(2*time.Minute))
		if !errors.As(err, &throttled) {
			require.ErrorIs(t, err, people.ErrWrong)
		}
	}
	require.ErrorAs(t, try(t, h, "owner@example.org", password, elsewhere(100), at.Add(2*time.Minute)), &throttled)
	assert.Equal(t, 15*time.Second, throttled.After)
	require.NoError(t, try(t, h, "owner@example.org", password, elsewhere(100), at.Add(2*time.Minute+15*time.Second)))

	for i := range 60 {
		require.ErrorIs(t, try(t, h, fmt.Sprintf("nobody%d@example.org", i), "wrong", elsewhere(77), at),
			people.ErrWrong, "no word on which of both was wrong")
	}
	require.ErrorAs(t, try(t, h, "owner@example.org", password, elsewhere(77), at), &throttled)
}

// From a browser from which somebody has signed in before, the right password is taken
// whatever others try.
func TestAKnownBrowserIsNotKeptOut(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	secret, err := h.Recognise(ctx, h.owner.ID, desk, pgtest.Noon)
	require.NoError(t, err)
	for i := range 70 {
		err := try(t, h, "owner@example.org", "wrong and long enough", elsewhere(i%50), pgtest.Noon)
		require.Error(t, err)
	}
	var throttled *people.Throttled
	require.ErrorAs(t, try(t, h, "owner@example.org", password, elsewhere(3), pgtest.Noon), &throttled)
	known := people.Caller{Address: "192.0.2.3", Browser: secret}
	require.NoError(t, try(t, h, "owner@example.org", password, known, pgtest.Noon))
	again, err := h.Recognise(ctx, h.owner.ID, known, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, secret, again)
	other := h.joined(t, "other@example.org", people.Editor)
	require.ErrorIs(t, try(t, h, other.Email, "wrong and long enough", known, pgtest.Noon), people.ErrWrong)
	for range 20 {
		err = try(t, h, "owner@example.org", "wrong and long enough", known, pgtest.Noon)
	}
	require.ErrorAs(t, err, &throttled, "it is slowed down for itself")
	require.NoError(t, h.ChangePassword(ctx, h.owner, 0, password, another, elsewhere(90), pgtest.Noon.Add(time.Hour)))
	for range 10 {
		require.Error(t, try(t, h, "owner@example.org", "wrong and long enough", known, pgtest.Noon.Add(time.Hour)))
	}
	require.ErrorAs(t, try(t, h, "owner@example.org", another, known, pgtest.Noon.Add(time.Hour)), &throttled,
		"with another password it is known no more")
}

func TestWhatManyUseIsNoPassword(t *testing.T) {
	for given, says := range map[string]string{
		"password1234": "very common", "Administrator": "very common", "administrator!1": "very common", "1q2w3e4r5t6y": "very common",
		"Marguerite Oyelaran 26": "the name “Marguerite Oyelaran”", "inesabarainesabara1": "", "Notes from the Dome": "the name “Notes from the Dome”", "ines.abara.1": "your e-mail address",
	} {
		err := people.CheckPassword("next", given, "ines.abara@example.org", "Marguerite Oyelaran",
			"Notes from the Dome", "dome")
		if says == "" {
			assert.NoError(t, err, given)
			continue
		}
		refused(t, "next", says, err)
	}
}

func TestAPasswordIsChangedByWhoKnowsIt(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	signIn := func(given string) int64 {
		_, id, err := h.SignIn(ctx, h.owner.Email, given, people.Caller{Address: "192.0.2.8",
			Agent: strings.Repeat("é", 200) + "\x00"}, pgtest.Noon)
		require.NoError(t, err)
		return id
	}
	here, there := signIn(password), signIn(password)
	refused(t, "next", "at least 12", h.ChangePassword(ctx, h.owner, here, password, "short", desk, pgtest.Noon))
	refused(t, "old", "not your current password", h.ChangePassword(ctx, h.owner, here, another, another, desk,
		pgtest.Noon))
	require.NoError(t, h.ChangePassword(ctx, h.owner, here, password, another, desk, pgtest.Noon))
	_, err := h.UserSignedIn(ctx, here, pgtest.Noon)
	assert.NoError(t, err, "who changed it stays")
	_, err = h.UserSignedIn(ctx, there, pgtest.Noon)
	assert.ErrorIs(t, err, store.ErrNotFound, "others do not")
	_, _, err = h.SignIn(ctx, h.owner.Email, password, desk, pgtest.Noon)
	assert.ErrorIs(t, err, people.ErrWrong)
	signIn(another)
}

// Three letters in a quarter of an hour are enough, and nobody learns which addresses
// have an account.
func TestAskingForAnotherPassword(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	for range 5 {
		require.NoError(t, h.AskReset(t.Context(), h.owner.Email, desk, pgtest.Noon))
		require.NoError(t, h.AskReset(t.Context(), "nobody@example.org", desk, pgtest.Noon))
	}
	assert.EqualValues(t, 6, h.post.resets.Load(), "three for each address, whether or not it is anybody's")
	require.NoError(t, h.AskReset(t.Context(), h.owner.Email, desk, pgtest.Noon.Add(15*time.Minute)))
	assert.EqualValues(t, 7, h.post.resets.Load())
	var throttled *people.Throttled
	for i := 0; i < 100; i++ {
		if err := h.AskReset(t.Context(), "nobody@example.org", desk, pgtest.Noon); err != nil {
			require.ErrorAs(t, err, &throttled)
			return
		}
	}
	t.Error("one address may ask as often as it likes")
}

// What others have written cannot put lines of its own into a letter.
func TestLettersAreOfOurOwnWriting(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	_, err := h.DB().ExecContext(ctx,
		`update sites set title = E'A dome\r\nBcc: all@example.org\u2028and more' where id = $1`, h.Site.ID)
	require.NoError(t, err)
	_, err = h.DB().ExecContext(ctx, `update users set name = E'Ines\n.\n\tAbara\x7f' where id = $1`, h.Editor.ID)
	require.NoError(t, err)
	id, _, err := h.Invite(ctx, h.Site, h.Editor.ID, "new@example.org", people.Editor, pgtest.Noon)
	require.NoError(t, err)
	letter, err := people.WriteInvitation(ctx, h.q(), id, public, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "new@example.org", letter.To)
	assert.Equal(t, "Ines . Abara invites you to write for A dome Bcc: all@example.org and more", letter.Subject)
	lines := strings.Split(letter.Text, "\n")
	assert.Equal(t, "Ines . Abara invites you to join “A dome Bcc: all@example.org and more” as an editor.", lines[0])
	assert.Contains(t, letter.Text, "The link works once, until Tue 1 Dec, 12:00 in Halifax.\n")

	_, secret, _ := strings.Cut(letter.Text, "/join#")
	secret, _, _ = strings.Cut(secret, "\n")
	invited, err := h.Look(ctx, secret, pgtest.Noon)
	require.NoError(t, err)
	assert.False(t, invited.Known)
	assert.Equal(t, "editor", invited.Role)
	_, err = people.WriteInvitation(ctx, h.q(), id, public, pgtest.Noon.Add(people.InvitationLife))
	assert.ErrorIs(t, err, people.ErrNotWanted, "its time is over")
	_, err = people.WriteReset(ctx, h.q(), "nobody@example.org", public, pgtest.Noon)
	assert.ErrorIs(t, err, people.ErrNotWanted, "nobody has that address")
}

// Two owners who remove each other at the same moment leave one.
func TestASiteIsNeverWithoutAnOwner(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	for round := range 4 {
		second := h.joined(t, fmt.Sprintf("second%d@example.org", round), people.Owner)
		members, err := h.Members(ctx, h.Site.ID)
		require.NoError(t, err)
		var first int64
		for _, m := range members {
			if m.Role == string(people.Owner) && m.ID != second.ID {
				first = m.ID
			}
		}
		var wg sync.WaitGroup
		wg.Go(func() { _ = h.Remove(ctx, h.Site, first, second.ID, pgtest.Noon) })
		wg.Go(func() { _ = h.ChangeRole(ctx, h.Site, second.ID, first, people.Editor, pgtest.Noon) })
		wg.Wait()
		require.NoError(t, h.InTx(ctx, func(tx *store.Tx) error {
			owners, err := tx.CountOwners(ctx, h.Site.ID)
			assert.Equal(t, 1, owners)
			return err
		}))
	}
}

func TestTokensAreWhatTheySay(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	for _, c := range []struct {
		name, field, says string
		scopes            []people.Scope
		life              time.Duration
	}{
		{"", "name", "Say what the token is used for", []people.Scope{people.Read}, time.Hour},
		{strings.Repeat("n", 81), "name", "81 characters", []people.Scope{people.Read}, time.Hour},
		{"Script", "scopes", "at least one", nil, time.Hour},
		{"Script", "scopes", "“rule” is not a permission", []people.Scope{"rule"}, time.Hour},
		{"Script", "days", "from 1 to 366 days", []people.Scope{people.Read}, 0},
		{"Script", "days", "from 1 to 366 days", []people.Scope{people.Read}, people.MaxTokenLife + 1},
	} {
		_, _, err := h.MakeToken(ctx, h.Site, h.owner.ID, c.name, c.scopes, c.life, pgtest.Noon)
		refused(t, c.field, c.says, err)
	}
	token, secret, err := h.MakeToken(ctx, h.Site, h.owner.ID, " The  nightly\tscript ",
		[]people.Scope{people.Read, people.Plan, people.Read}, time.Hour, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, "The nightly script", token.Name)
	assert.Equal(t, []string{"read", "plan"}, []string(token.Scopes), "each once")
	assert.True(t, strings.HasPrefix(secret, "dapper_"), "a lost one is known for what it is")
	assert.True(t, strings.HasSuffix(secret, token.Hint))

	found, user, err := h.Bearer(ctx, secret, pgtest.Noon.Add(time.Hour-time.Second))
	require.NoError(t, err)
	assert.Equal(t, h.owner.ID, user.ID)
	assert.Equal(t, token.ID, found.ID)
	for _, wrong := range []string{"", "dapper_", secret + "x", strings.ToUpper(secret)} {
		_, _, err = h.Bearer(ctx, wrong, pgtest.Noon)
		assert.ErrorIs(t, err, people.ErrNoToken)
	}
	_, _, err = h.Bearer(ctx, secret, pgtest.Noon.Add(time.Hour))
	assert.ErrorIs(t, err, people.ErrNoToken, "its time is over")

	other := h.joined(t, "other@example.org", people.Editor)
	assert.ErrorIs(t, h.EndToken(ctx, h.Site, other.ID, people.Editor, token.ID), store.ErrNotFound,
		"another's is not theirs to end")
	require.NoError(t, h.EndToken(ctx, h.Site, h.Editor.ID, people.Owner, token.ID), "an owner may end any")
	_, _, err = h.Bearer(ctx, secret, pgtest.Noon)
	assert.ErrorIs(t, err, people.ErrNoToken)
	for range 50 {
		_, _, err = h.MakeToken(ctx, h.Site, h.owner.ID, "Script", []people.Scope{people.Read}, time.Hour, pgtest.Noon)
		require.NoError(t, err)
	}
	_, _, err = h.MakeToken(ctx, h.Site, h.owner.ID, "Script", []people.Scope{people.Read}, time.Hour, pgtest.Noon)
	refused(t, "name", "has 50 tokens", err)
}

func TestPreviewsAndCalendars(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	draft := h.Draft(t, "A draft")
	for _, life := range []time.Duration{0, -time.Hour, people.MaxPreviewLife + 1} {
		_, _, err := h.MakePreview(ctx, h.Site, h.owner.ID, people.PreviewOf{Post: draft.ID}, life, pgtest.Noon)
		refused(t, "days", "from 1 to 90 days", err)
	}
	_, _, err := h.MakePreview(ctx, h.Site, h.owner.ID, people.PreviewOf{Post: 999}, time.Hour, pgtest.Noon)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, secret, err := h.MakePreview(ctx, h.Site, h.owner.ID, people.PreviewOf{Post: draft.ID}, time.Hour, pgtest.Noon)
	require.NoError(t, err)
	shown, until, err := h.q().Previewed(ctx, h.Site.ID, secrets.Hash(secret), pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, draft.ID, shown.ID)
	assert.True(t, until.ExpiresAt.Equal(pgtest.Noon.Add(time.Hour)))
	for _, ask := range []struct {
		secret string
		site   int64
		at     time.Time
	}{{"", h.Site.ID, pgtest.Noon}, {secret, h.Site.ID + 1, pgtest.Noon}, {secret, h.Site.ID,
		pgtest.Noon.Add(time.Hour)}, {secret + "A", h.Site.ID, pgtest.Noon}} {
		_, _, err = h.q().Previewed(ctx, ask.site, secrets.Hash(ask.secret), ask.at)
		assert.ErrorIs(t, err, store.ErrNotFound, "%+v", ask)
	}

	feed := store.CalendarFeed{SiteID: h.Site.ID, User: h.owner.ID}
	for _, name := range []string{" ", strings.Repeat("n", 81)} {
		feed.Name = name
		_, _, err = h.MakeCalendar(ctx, feed, pgtest.Noon)
		refused(t, "name", "1 to 80 characters", err)
	}
	for i := range 20 {
		feed.Name = fmt.Sprint("Calendar ", i)
		_, secret, err = h.MakeCalendar(ctx, feed, pgtest.Noon)
		require.NoError(t, err)
	}
	opened, err := people.Calendar(ctx, h.q(), secret)
	require.NoError(t, err)
	assert.Equal(t, "Calendar 19", opened.Name)
	_, _, err = h.MakeCalendar(ctx, feed, pgtest.Noon)
	refused(t, "name", "20 calendars", err)
	_, err = people.Calendar(ctx, h.q(), "")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// No secret that left the house is to be found in the database.
func TestSecretsAreNotKept(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	draft := h.Draft(t, "A draft")
	_, invitation, err := h.Invite(ctx, h.Site, h.owner.ID, "new@example.org", people.Editor, pgtest.Noon)
	require.NoError(t, err)
	_, token, err := h.MakeToken(ctx, h.Site, h.owner.ID, "Script", people.Scopes(), time.Hour, pgtest.Noon)
	require.NoError(t, err)
	_, preview, err := h.MakePreview(ctx, h.Site, h.owner.ID, people.PreviewOf{Post: draft.ID}, time.Hour, pgtest.Noon)
	require.NoError(t, err)
	_, calendar, err := h.MakeCalendar(ctx, store.CalendarFeed{SiteID: h.Site.ID, User: h.owner.ID, Name: "Mine"},
		pgtest.Noon)
	require.NoError(t, err)
	var tables []string
	require.NoError(t, h.DB().SelectContext(ctx, &tables,
		`select table_name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE'`))
	require.Greater(t, len(tables), 20)
	for _, table := range tables {
		var rows []string
		require.NoError(t, h.DB().SelectContext(ctx, &rows, `select row_to_json(one)::text from "`+table+`" one`))
		for _, row := range rows {
			for _, secret := range []string{password, invitation, token, preview, calendar} {
				assert.NotContains(t, row, secret, table)
			}
		}
	}
}

// An unknown address costs what a known one costs, and both what RFC 9106 asks for.
func TestAPasswordCostsTheSameWhereNobodyHasIt(t *testing.T) {
	params, _, _, err := argon2id.DecodeHash(people.Nobody)
	require.NoError(t, err)
	assert.Equal(t, people.Costs, *params)
	assert.GreaterOrEqual(t, people.Costs.Memory, uint32(64<<10), "KiB")
}
