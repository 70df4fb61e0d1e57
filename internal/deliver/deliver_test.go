package deliver

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	pngs "image/png"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
)

// house is a site with a channel to a Lantern of its own.
type house struct {
	pgtest.World
	t       testing.TB
	queue   *Queue
	lantern *standin.Network
	channel int64
	post    store.Post
	later   time.Duration // how long after noon it is
}

func newHouse(t testing.TB) *house {
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	lantern, err := standin.New(channel.Lantern, "", clockwork.NewRealClock())
	require.NoError(t, err)
	lantern.Rate = 0
	lantern.Admit("t", "dome")
	server := httptest.NewServer(lantern.Handler())
	t.Cleanup(server.Close)
	queue, err := NewQueue(w.Store)
	require.NoError(t, err)
	h := &house{World: w, t: t, queue: queue, lantern: lantern, post: w.Scheduled(t, "A post", pgtest.Noon)}
	h.channel, err = w.InsertChannel(t.Context(), store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern,
		Name: "Lantern", Address: server.URL, Token: "t", Apart: 20, ADay: 24})
	require.NoError(t, err)
	return h
}

// outing queues a message as the engine does.
func (h *house) outing(text string) int64 {
	h.t.Helper()
	var id int64
	require.NoError(h.t, h.InTx(h.t.Context(), func(tx *store.Tx) (err error) {
		id, err = tx.InsertOuting(h.t.Context(), store.Outing{SiteID: h.Site.ID, Channel: h.channel, Post: store.ID(h.post.ID),
			At: pgtest.Noon, Text: text, Link: "https://dome.example/p"})
		if err != nil {
			return err
		}
		return h.queue.Share(h.t.Context(), tx, id)
	}))
	return id
}

// try does the job of an outing once, at an attempt.
func (h *house) try(id int64, attempt int) error {
	h.t.Helper()
	w := newShares(h.Store, clockwork.NewFakeClockAt(pgtest.Noon.Add(h.later)), pgtest.Box)
	return w.Work(h.t.Context(), &river.Job[Share]{JobRow: &rivertype.JobRow{Attempt: attempt,
		MaxAttempts: maxAttempts}, Args: Share{id}})
}

func (h *house) state(id int64) store.Outing {
	h.t.Helper()
	o, err := h.Outing(h.t.Context(), id)
	require.NoError(h.t, err)
	return o
}

func TestAWorkerDeliversWhatIsQueued(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx, stop := context.WithCancel(t.Context())
	worker, err := NewWorker(ctx, Means{Store: h.Store, Clock: clockwork.NewFakeClockAt(pgtest.Noon), Box: pgtest.Box, Log: pgtest.Quiet()})
	require.NoError(t, err)
	ended := make(chan error)
	go func() { ended <- worker.Run(ctx) }()
	var ids []int64
	for i := range 5 {
		ids = append(ids, h.outing(fmt.Sprint("Message ", i)))
	}
	for _, id := range ids {
		require.Eventually(t, func() bool { return h.state(id).State == store.Sent }, 20*time.Second,
			10*time.Millisecond)
		o := h.state(id)
		assert.NotEmpty(t, o.RemoteID)
		assert.Contains(t, o.RemoteURL, "/#"+o.RemoteID)
		assert.Equal(t, 1, o.Tries)
		assert.True(t, o.SentAt.Equal(pgtest.Noon))
	}
	assert.Len(t, h.lantern.Messages(), 5)
	stop()
	require.NoError(t, <-ended)
}

func TestNothingIsQueuedWhereTheDeedIsNotKept(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	failed := errors.New("the deed failed")
	err := h.InTx(t.Context(), func(tx *store.Tx) error {
		id, err := tx.InsertOuting(t.Context(), store.Outing{SiteID: h.Site.ID, Channel: h.channel, Post: store.ID(h.post.ID),
			At: pgtest.Noon, Text: "x", Link: "l"})
		require.NoError(t, err)
		require.NoError(t, h.queue.Share(t.Context(), tx, id))
		return failed
	})
	require.ErrorIs(t, err, failed)
	var jobs int
	require.NoError(t, h.DB().GetContext(t.Context(), &jobs, `select count(*) from river_job`))
	assert.Zero(t, jobs)
}

// The process is killed after the network took the message and before it was noted: the
// job is done again, and the wall shows one message.
func TestKilledBetweenSendingAndNoting(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	id := h.outing("Only once")
	ctx, kill := context.WithCancel(t.Context())
	// The network takes it; the process dies before it hears of that.
	o := h.state(id)
	c, err := h.Channel(ctx, h.Site.ID, h.channel)
	require.NoError(t, err)
	network, _ := channel.Of(c.Kind)
	_, err = network.Send(ctx, channel.Account{Address: c.Address, Token: c.Token},
		channel.Message{Key: o.Key, Text: o.Text})
	require.NoError(t, err)
	kill()
	assert.Equal(t, store.Waiting, h.state(id).State)
	require.Len(t, h.lantern.Messages(), 1)

	require.NoError(t, h.try(id, 2))
	assert.Equal(t, store.Sent, h.state(id).State)
	assert.Len(t, h.lantern.Messages(), 1, "the wall shows it once")
	assert.Equal(t, h.lantern.Messages()[0].ID, h.state(id).RemoteID)
	require.NoError(t, h.try(id, 3), "a job that comes once more does nothing")
	assert.Len(t, h.lantern.Messages(), 1)
}

func TestWhatNetworksDo(t *testing.T) {
	t.Parallel()
	answer := func(code int, body string) func(http.ResponseWriter, *http.Request) bool {
		return func(w http.ResponseWriter, _ *http.Request) bool {
			w.Header().Set("Retry-After", "90")
			w.WriteHeader(code)
			w.Write([]byte(body))
			return true
		}
	}
	for _, c := range []struct {
		name    string
		trouble func(http.ResponseWriter, *http.Request) bool
		attempt int
		state   string
		says    string
		again   any // what the job is to do
	}{
		{"500", answer(500, "oops"), 1, store.Waiting, "answered 500", nil},
		{"502 with a page", answer(502, "<html>"), 1, store.Waiting, "answered 502", nil},
		{"200 with rubbish", answer(200, "<html>hello</html>"), 1, store.Waiting, "no receipt", nil},
		{"201 with nothing", answer(201, `{}`), 1, store.Waiting, "no receipt", nil},
		{"429", answer(429, ""), 1, store.Waiting, "wait 1m30s", &river.JobSnoozeError{Duration: 90 * time.Second}},
		{"422", answer(422, `{"detail":"Too long."}`), 1, store.Failed, "refused: Too long.", &river.JobCancelError{}},
		{"403", answer(403, ``), 1, store.Failed, "refused: 403 Forbidden", &river.JobCancelError{}},
		{"the last try", answer(500, ""), maxAttempts, store.Failed, "answered 500", &river.JobCancelError{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			h := newHouse(t)
			id := h.outing("A message")
			h.lantern.Trouble = c.trouble
			err := h.try(id, c.attempt)
			require.Error(t, err)
			switch want := c.again.(type) {
			case *river.JobSnoozeError:
				var snooze *river.JobSnoozeError
				require.ErrorAs(t, err, &snooze)
				assert.Equal(t, want.Duration, snooze.Duration)
			case *river.JobCancelError:
				var cancel *river.JobCancelError
				require.ErrorAs(t, err, &cancel)
			}
			o := h.state(id)
			assert.Equal(t, c.state, o.State)
			assert.Contains(t, o.Error, c.says)
			assert.Equal(t, 1, o.Tries)
			lines, err := h.LogOf(t.Context(), h.Site.ID, h.post.ID)
			require.NoError(t, err)
			if c.state == store.Failed {
				require.Len(t, lines, 1, "the editor is told")
				assert.Contains(t, lines[0].Reason, "was given up after 1 tries")
				return
			}
			assert.Empty(t, lines)
			h.lantern.Trouble = nil
			if c.name == "429" {
				require.Error(t, h.try(id, 2), "until then nothing is sent")
				h.later = 90 * time.Second
			}
			require.NoError(t, h.try(id, 2), "the next try succeeds")
			assert.Equal(t, store.Sent, h.state(id).State)
			assert.Len(t, h.lantern.Messages(), 1)
		})
	}
}

// A channel whose token is not taken any more is renewed; where that cannot be, its outings wait, and
// the editor is told once. Signed in again, they go out.
func TestASignInThatEnds(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	server, err := h.Channel(ctx, h.Site.ID, h.channel)
	require.NoError(t, err)
	desk := channel.SignInAt(server.Address, "http://127.0.0.1:1/back")
	signIn := func() store.Channel {
		verifier := channel.NewVerifier()
		answer, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).
			PostForm(desk.Page("s", verifier), url.Values{"answer": {"allow"}, "handle": {"quillmoor"}})
		require.NoError(t, err)
		back, err := answer.Location()
		require.NoError(t, err)
		tokens, err := desk.Take(ctx, back.Query().Get("code"), verifier)
		require.NoError(t, err)
		c := server
		c.Token, c.Refresh, c.TokenEnds, c.Handle = pgtest.Box.Seal(tokens.Access), pgtest.Box.Seal(tokens.Refresh), &tokens.Ends, "quillmoor"
		require.NoError(t, h.Queries.SignIn(ctx, c))
		return c
	}
	// Its token ends at the network, an hour on by the real clock; by the test's clock that is long past.
	c := signIn()
	past := pgtest.Noon.Add(-time.Hour)
	c.TokenEnds = &past
	require.NoError(t, h.Queries.Renew(ctx, c))
	// It was copied to another blog: a token to refresh with is good once, so both get the new ones.
	other := pgtest.NewWorld(t, h.Store, "lanes")
	copied := c
	copied.SiteID = other.Site.ID
	copied.ID, err = h.InsertChannel(ctx, copied)
	require.NoError(t, err)
	apart := copied // signed in by itself
	apart.Refresh, apart.Name = pgtest.Box.Seal("its own"), "By itself"
	apart.ID, err = h.InsertChannel(ctx, apart)
	require.NoError(t, err)
	require.NoError(t, h.try(h.outing("Renewed before it is refused"), 1))
	renewed, err := h.Channel(ctx, h.Site.ID, h.channel)
	require.NoError(t, err)
	assert.NotEqual(t, c.Token, renewed.Token)
	assert.True(t, pgtest.Box.IsCurrent(renewed.Token))
	there, err := h.Channel(ctx, other.Site.ID, copied.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{renewed.Token, renewed.Refresh, renewed.TokenEnds}, []any{there.Token, there.Refresh, there.TokenEnds})
	left, err := h.Channel(ctx, other.Site.ID, apart.ID)
	require.NoError(t, err)
	assert.Equal(t, apart.Token, left.Token, "another sign-in is another's")

	h.lantern.Revoke("quillmoor")
	first, second := h.outing("Held"), h.outing("Held too")
	for _, id := range []int64{first, second, first} {
		var snooze *river.JobSnoozeError
		require.ErrorAs(t, h.try(id, maxAttempts), &snooze, "however often it was tried")
		assert.Equal(t, store.Waiting, h.state(id).State)
	}
	var told int
	require.NoError(t, h.DB().GetContext(ctx, &told, `select count(*) from logbook where deed = 'channel' and reason like 'Lantern needs you to sign in again%'`))
	assert.Equal(t, 1, told)
	signIn()
	require.NoError(t, h.try(first, 2))
	require.NoError(t, h.try(second, 2))
	assert.Len(t, h.lantern.Messages(), 3)
}

// A delivery whose last try died with its process is given up, not left on its way for ever; one that has
// a job is left alone.
func TestADeliveryThatDiesAtItsLastTryIsGivenUp(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	lost, waits := h.outing("Lost"), h.outing("Waits")
	_, err := h.DB().ExecContext(t.Context(), `update river_job set state = 'discarded', finalized_at = now() where (args->>'outing')::bigint = $1`, lost)
	require.NoError(t, err)
	tidy := &tidying{store: h.Store, clock: clockwork.NewFakeClockAt(pgtest.Noon.Add(59 * time.Minute))}
	require.NoError(t, tidy.Work(t.Context(), nil))
	assert.Equal(t, store.Waiting, h.state(lost).State)
	tidy.clock = clockwork.NewFakeClockAt(pgtest.Noon.Add(61 * time.Minute))
	require.NoError(t, tidy.Work(t.Context(), nil))
	assert.Equal(t, store.Failed, h.state(lost).State)
	assert.Equal(t, store.Waiting, h.state(waits).State)
	lines, err := h.LogOf(t.Context(), h.Site.ID, h.post.ID)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	assert.Contains(t, lines[0].Reason, "The message to Lantern was given up. Its last try was cut off")
}

// What is planned for a channel that an editor paused waits at its delivery too.
func TestAPausedChannelSendsNothing(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	c, err := h.Channel(t.Context(), h.Site.ID, h.channel)
	require.NoError(t, err)
	id := h.outing("Not now")
	c.PausedAt = &pgtest.Noon
	require.NoError(t, h.InTx(t.Context(), func(tx *store.Tx) error { return tx.SaveChannel(t.Context(), c) }))
	var snooze *river.JobSnoozeError
	require.ErrorAs(t, h.try(id, 1), &snooze)
	assert.Empty(t, h.lantern.Messages())
	c.PausedAt = nil
	require.NoError(t, h.InTx(t.Context(), func(tx *store.Tx) error { return tx.SaveChannel(t.Context(), c) }))
	require.NoError(t, h.try(id, 1))
	assert.Len(t, h.lantern.Messages(), 1)
}

// A network that answers late: the message has arrived, the answer has not been waited
// for. The next try finds it there.
func TestANetworkThatAnswersLate(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	id := h.outing("Late")
	var late atomic.Bool
	late.Store(true)
	inner := h.lantern.Handler()
	hold := make(chan struct{})
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !late.Load() {
			inner.ServeHTTP(w, r)
			return
		}
		inner.ServeHTTP(httptest.NewRecorder(), r) // it is taken, but nobody hears of it
		<-hold
	}))
	defer server.Close()
	defer close(hold)
	require.NoError(t, h.MoveChannels(t.Context(), channel.Lantern, server.URL))
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan error)
	go func() {
		w := newShares(h.Store, clockwork.NewFakeClockAt(pgtest.Noon.Add(h.later)), pgtest.Box)
		done <- w.Work(ctx, &river.Job[Share]{JobRow: &rivertype.JobRow{Attempt: 1, MaxAttempts: maxAttempts},
			Args: Share{id}})
	}()
	require.Eventually(t, func() bool { return len(h.lantern.Messages()) == 1 }, 20*time.Second, 5*time.Millisecond)
	cancel() // as the job's time limit would
	require.Error(t, <-done)
	assert.Equal(t, store.Waiting, h.state(id).State)
	late.Store(false)
	require.NoError(t, h.try(id, 2))
	assert.Equal(t, store.Sent, h.state(id).State)
	assert.Len(t, h.lantern.Messages(), 1)
}

func TestAnOutingThatIsGone(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	var cancel *river.JobCancelError
	require.ErrorAs(t, h.try(9999, 1), &cancel)
}

// What waits to be sent when a blog is archived is given up, and said.
func TestNothingLeavesAnArchivedBlog(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	id := h.outing("Too late")
	require.NoError(t, h.InTx(t.Context(), func(tx *store.Tx) error { return tx.Archive(t.Context(), h.Site.ID, pgtest.Noon) }))
	var cancel *river.JobCancelError
	require.ErrorAs(t, h.try(id, 1), &cancel)
	assert.Empty(t, h.lantern.Messages())
	kept, err := h.Outing(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, store.Failed, kept.State)
	lines, err := h.LogOf(t.Context(), h.Site.ID, h.post.ID)
	require.NoError(t, err)
	assert.Contains(t, lines[0].Reason, "The blog was archived before this message was sent.")
}

// A message that the network refuses is remembered, and its rule goes on with another post
// at once; one that is turned away for who sends it is not.
func TestARefusalOwesTheRuleItsTurn(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	at := pgtest.Noon
	rule, err := h.InsertRule(ctx, store.Rule{SiteID: h.Site.ID, Kind: store.Reshare, Name: "Again",
		Settings: store.RuleSettings{Channels: []int64{h.channel}}, CreatedAt: at, ArmedAt: &at, ServedAt: &at,
		Condition: condition.Node{Test: condition.Evergreen,
			Match: condition.MatchYes}, Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days}})
	require.NoError(t, err)
	due := at.Add(-time.Minute)
	send := func(text string) int64 {
		var id int64
		require.NoError(t, h.InTx(ctx, func(tx *store.Tx) (err error) {
			id, err = tx.InsertOuting(ctx, store.Outing{SiteID: h.Site.ID, Rule: &rule, Channel: h.channel,
				Post: store.ID(h.post.ID), At: at, Text: text, Link: "l", Due: &due})
			return err
		}))
		require.Error(t, h.try(id, 1))
		return id
	}
	owed := func() *time.Time {
		r, err := h.Rule(ctx, h.Site.ID, rule)
		require.NoError(t, err)
		return r.OwedAt
	}
	h.lantern.Trouble = func(w http.ResponseWriter,
		_ *http.Request) bool {
		w.WriteHeader(http.StatusForbidden)
		return true
	}
	send("For whom it is")
	assert.Nil(t, owed())
	refusals, err := h.Refusals(ctx, h.Site.ID)
	require.NoError(t, err)
	assert.Empty(t, refusals)

	h.lantern.Trouble = nil
	send(strings.Repeat("a", 334))
	require.NotNil(t, owed())
	assert.True(t, owed().Equal(due))
	kept, err := h.RefusedOf(ctx, h.Site.ID, rule, 10)
	require.NoError(t, err)
	require.Len(t, kept, 1)
	assert.Contains(t, kept[0].Reason, "334 characters")
	lines, err := h.LogOf(ctx, h.Site.ID, h.post.ID)
	require.NoError(t, err)
	assert.Contains(t, lines[0].Reason, "It is 14 over what Lantern takes.")
	assert.Contains(t, lines[0].Reason, "the rule goes on with the next post")

	require.NoError(t, h.InTx(ctx, func(tx *store.Tx) error { return tx.Serve(ctx, h.Site.ID, rule, store.Served{At: at}) }))
	assert.Nil(t, owed(), "it is served")
	for range 30 {
		require.NoError(t, h.InTx(ctx, func(tx *store.Tx) error { return tx.Serve(ctx, h.Site.ID, rule, store.Served{At: at}) }))
		send(strings.Repeat("a", 334))
	}
	assert.Nil(t, owed(), "a network that refuses everything is not sent the whole blog")
}

// replyTo queues a message that goes under another, with pictures of the library.
func (h *house) replyTo(parent int64, text string, pictures ...int64) int64 {
	h.t.Helper()
	id := h.outing(text)
	_, err := h.DB().ExecContext(h.t.Context(),
		`update outings set parent_id = $2, pictures = $3, origin = 'hand' where id = $1`, id, parent, store.IDs(pictures))
	require.NoError(h.t, err)
	return id
}

// A reply waits until what it replies to has been sent, and brings its pictures along.
func TestAReplyWaitsForItsMessage(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	var png bytes.Buffer
	require.NoError(t, pngs.Encode(&png, image.NewGray(image.Rect(0, 0, 4, 4))))
	picture, err := h.InsertPicture(t.Context(), store.Picture{SiteID: h.Site.ID, Key: "0123456789abcdef",
		Name: "dome.png", Alt: "A dome at dusk", Type: "png", Width: 4, Height: 4, CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	require.NoError(t, h.InsertPictureFile(t.Context(), picture, 4, png.Bytes()))
	first := h.outing("The message")
	reply := h.replyTo(first, "And more", picture)

	var snoozed *river.JobSnoozeError
	require.ErrorAs(t, h.try(reply, 1), &snoozed)
	assert.Equal(t, time.Second, snoozed.Duration)
	assert.Equal(t, store.Waiting, h.state(reply).State)
	require.NoError(t, h.try(first, 1))
	require.NoError(t, h.try(reply, 1))
	wall := h.lantern.Messages()
	require.Len(t, wall, 2)
	assert.Equal(t, h.state(first).RemoteID, wall[1].InReplyTo)
	assert.Equal(t, []string{"A dome at dusk"}, wall[1].Alts)
	assert.Equal(t, store.Sent, h.state(reply).State)
}

// A reply looks soon for what it goes under, and less and less often.
func TestAReplyLooksForItsMessageLessAndLessOften(t *testing.T) {
	t.Parallel()
	for metadata, want := range map[string]time.Duration{
		``:                                time.Second,
		`{}`:                              time.Second,
		`{"snoozes":1}`:                   2 * time.Second,
		`{"snoozes":4,"other":["x"]}`:     16 * time.Second,
		`{"snoozes":5}`:                   30 * time.Second,
		`{"snoozes":9223372036854775807}`: 30 * time.Second,
		`{"snoozes":-3}`:                  time.Second,
		`not even JSON`:                   30 * time.Second,
	} {
		assert.Equal(t, want, untilSent(&rivertype.JobRow{Metadata: []byte(metadata)}), metadata)
	}
}

// A reply to what was never sent is given up, and says so.
func TestAReplyToWhatWasNotSentIsGivenUp(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	first := h.outing("The message")
	reply := h.replyTo(first, "And more")
	_, err := h.DB().ExecContext(t.Context(), `update outings set state = 'failed' where id = $1`, first)
	require.NoError(t, err)
	require.Error(t, h.try(reply, 1))
	o := h.state(reply)
	assert.Equal(t, store.Failed, o.State)
	assert.Contains(t, o.Error, "The message that this is a reply to was not sent.")
	assert.Empty(t, h.lantern.Messages())
}
