package webhooks_test

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
	"dapper.example/internal/webhooks"
)

// heard is what a receiver was told.
type heard struct {
	signed.Message
	payload webhooks.Payload
}

// line is a webhook with its receiver.
type line struct {
	pgtest.World
	webhooks.Editor
	t      *testing.T
	clock  *clockwork.FakeClock
	sender *webhooks.Sender
	url    string
	id     int64
	secret string

	mu     sync.Mutex
	heard  []heard
	answer func(http.ResponseWriter) // nil: 204
}

func newLine(t *testing.T, events ...string) *line {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	l := &line{World: w, t: t, clock: clockwork.NewFakeClockAt(pgtest.Noon)}
	receiver := httptest.NewServer(http.HandlerFunc(l.receive))
	t.Cleanup(receiver.Close)
	l.url = receiver.URL + "/hooks"
	allowed := reach.ParseAllowed("127.0.0.1")
	l.Editor = webhooks.Editor{Desk: act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}, Box: pgtest.Box, Allowed: allowed}
	l.sender = &webhooks.Sender{Store: w.Store, Clock: l.clock, Box: pgtest.Box, Client: reach.Client(allowed), Public: "https://dome.example", Log: pgtest.Quiet()}
	var err error
	l.id, l.secret, err = l.Add(t.Context(), store.Webhook{Name: "Sheet", Address: l.url, Events: events}, pgtest.Noon)
	require.NoError(t, err)
	return l
}

func (l *line) receive(w http.ResponseWriter, r *http.Request) {
	body, _ := io.ReadAll(r.Body)
	h := heard{Message: signed.Message{ID: r.Header.Get("webhook-id"), Timestamp: r.Header.Get("webhook-timestamp"), Signature: r.Header.Get("webhook-signature"), Body: body}}
	_ = json.Unmarshal(body, &h.payload)
	l.mu.Lock()
	defer l.mu.Unlock()
	l.heard = append(l.heard, h)
	if l.answer != nil {
		l.answer(w)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

// step lets the sender work, and returns what the receiver was told by it.
func (l *line) step() []heard {
	l.t.Helper()
	before := len(l.heard)
	_, err := l.sender.Step(l.t.Context())
	require.NoError(l.t, err)
	return l.heard[before:]
}

func (l *line) hook() store.Webhook {
	l.t.Helper()
	w, err := l.World.Store.Webhook(l.t.Context(), l.World.Site.ID, l.id)
	require.NoError(l.t, err)
	return w
}

func (l *line) deliveries() []store.HookDelivery {
	l.t.Helper()
	all, err := l.World.Store.HookDeliveries(l.t.Context(), l.World.Site.ID, l.id, 100)
	require.NoError(l.t, err)
	return all
}

func (l *line) log(e store.LogEntry) {
	l.t.Helper()
	e.SiteID, e.At = l.World.Site.ID, l.clock.Now()
	require.NoError(l.t, l.World.Store.InTx(l.t.Context(), func(tx *store.Tx) error { return tx.Log(l.t.Context(), e) }))
}

func TestWhatHappensIsToldAndSigned(t *testing.T) {
	l := newLine(t, "post.published", "post.expired")
	p := l.World.Scheduled(t, "Moonrise", pgtest.Noon)
	l.log(store.LogEntry{Deed: "publish", Post: &p.ID, Reason: "Its time came."})
	l.log(store.LogEntry{Deed: "publish", Post: &p.ID, Reason: "Once more."})
	l.log(store.LogEntry{Deed: "retime", Post: &p.ID, Reason: "Not asked for."})
	told := l.step()
	require.Len(t, told, 2)
	reasons := []string{told[0].payload.Data.Reason, told[1].payload.Data.Reason}
	assert.ElementsMatch(t, []string{"Its time came.", "Once more."}, reasons)
	for _, h := range told {
		require.NoError(t, h.Verify([]string{l.secret}, l.clock.Now()))
		assert.Equal(t, "post.published", h.payload.Type)
		assert.True(t, pgtest.Noon.Equal(h.payload.Timestamp))
		assert.Equal(t, "Moonrise", h.payload.Data.Post.Title)
		assert.Equal(t, "dome", h.payload.Data.Blog.Slug)
	}
	assert.NotEqual(t, told[0].ID, told[1].ID)
	assert.Empty(t, l.step(), "it is told once")
	for _, d := range l.deliveries() {
		assert.Equal(t, store.HookDelivered, d.State)
		assert.Equal(t, http.StatusNoContent, d.Status)
	}
}

// What is rolled back has not happened, and nobody is told.
func TestWhatIsTakenBackIsNotTold(t *testing.T) {
	l := newLine(t, "post.published")
	err := l.World.Store.InTx(t.Context(), func(tx *store.Tx) error {
		require.NoError(t, tx.Log(t.Context(), store.LogEntry{SiteID: l.World.Site.ID, At: pgtest.Noon, Deed: "publish"}))
		return context.Canceled
	})
	require.ErrorIs(t, err, context.Canceled)
	assert.Empty(t, l.step())
}

func TestAnActIsToldOnce(t *testing.T) {
	l := newLine(t, "plan.changed")
	require.NoError(t, l.World.Store.InTx(t.Context(), func(tx *store.Tx) error {
		one, err := tx.Begin(t.Context(), store.Act{SiteID: l.World.Site.ID, At: pgtest.Noon, Why: "Scheduled."})
		require.NoError(t, err)
		for range 50 {
			require.NoError(t, tx.Log(t.Context(), store.LogEntry{SiteID: l.World.Site.ID, At: pgtest.Noon, Deed: "commit", Act: one}))
		}
		return nil
	}))
	assert.Len(t, l.step(), 1)
	l.log(store.LogEntry{Deed: "retime"})
	assert.Len(t, l.step(), 1)
}

func TestWhoTakesAPostAwayMakesTheEvent(t *testing.T) {
	l := newLine(t, "post.expired", "post.removed")
	l.log(store.LogEntry{Deed: "archive"})
	l.log(store.LogEntry{Deed: "archive", Actor: &l.World.Editor.ID})
	var types []string
	for _, h := range l.step() {
		types = append(types, h.payload.Type)
	}
	assert.ElementsMatch(t, []string{"post.expired", "post.removed"}, types)
}

func TestOutingsAreToldAsTheyGo(t *testing.T) {
	l := newLine(t, "outing.due", "outing.sent", "outing.failed")
	ctx := t.Context()
	c, err := l.World.InsertChannel(ctx, store.Channel{SiteID: l.World.Site.ID, Kind: "lantern", Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	var ids []int64
	require.NoError(t, l.World.Store.InTx(ctx, func(tx *store.Tx) error {
		for range 2 {
			id, err := tx.InsertOuting(ctx, store.Outing{SiteID: l.World.Site.ID, Channel: c, At: pgtest.Noon, Text: "Hello", Link: "https://a.example"})
			require.NoError(t, err)
			ids = append(ids, id)
		}
		return nil
	}))
	assert.Len(t, l.step(), 2)
	require.NoError(t, l.World.Store.MarkSent(ctx, []store.Arrived{{ID: ids[0], RemoteID: "1", RemoteURL: "https://lantern.example/1"}}, pgtest.Noon))
	require.NoError(t, l.World.Store.MarkTried(ctx, ids[1], "nobody there", false))
	told := l.step()
	require.Len(t, told, 1, "a try that failed is not told; it goes on")
	assert.Equal(t, "outing.sent", told[0].payload.Type)
	assert.Equal(t, "https://lantern.example/1", told[0].payload.Data.Outing.URL)
	require.NoError(t, l.World.Store.MarkTried(ctx, ids[1], "nobody there", true))
	told = l.step()
	require.Len(t, told, 1)
	assert.Equal(t, "outing.failed", told[0].payload.Type)
	assert.Equal(t, "nobody there", told[0].payload.Data.Outing.Error)
}

// What did not arrive is tried again after longer and longer, with the same id and the same words, until it does.
func TestWhatDoesNotArriveIsTriedAgain(t *testing.T) {
	l := newLine(t, "post.published")
	l.answer = func(w http.ResponseWriter) { http.Error(w, "no", http.StatusInternalServerError) }
	p := l.World.Scheduled(t, "Moonrise", pgtest.Noon)
	l.log(store.LogEntry{Deed: "publish", Post: &p.ID})
	first := l.step()
	require.Len(t, first, 1)
	assert.Empty(t, l.step(), "not at once")
	assert.Equal(t, "It answered 500 Internal Server Error.", l.deliveries()[0].Error)
	assert.True(t, pgtest.Noon.Equal(*l.hook().FailingSince))
	l.clock.Advance(5 * time.Second)
	assert.Len(t, l.step(), 1)
	l.clock.Advance(59 * time.Second)
	assert.Empty(t, l.step())
	l.answer = nil
	l.clock.Advance(time.Second)
	last := l.step()
	require.Len(t, last, 1)
	assert.Equal(t, first[0].ID, last[0].ID)
	assert.Equal(t, string(first[0].Body), string(last[0].Body))
	assert.NotEqual(t, first[0].Timestamp, last[0].Timestamp)
	assert.NoError(t, last[0].Verify([]string{l.secret}, l.clock.Now()))
	assert.Nil(t, l.hook().FailingSince)
	assert.Equal(t, 3, l.deliveries()[0].Tries)
}

func TestAReceiverMayAskToWait(t *testing.T) {
	l := newLine(t, "post.published")
	l.answer = func(w http.ResponseWriter) {
		w.Header().Set("Retry-After", "600")
		w.WriteHeader(http.StatusTooManyRequests)
	}
	l.log(store.LogEntry{Deed: "publish"})
	l.step()
	l.clock.Advance(599 * time.Second)
	assert.Empty(t, l.step())
	l.clock.Advance(time.Second)
	assert.Len(t, l.step(), 1)
}

func TestAWebhookThatTakesNothingForLongIsTurnedOff(t *testing.T) {
	for name, c := range map[string]struct {
		status int
		days   int
		why    string
	}{
		"five days": {http.StatusBadGateway, 5, "Turned off, since it has taken nothing for 5 days. It answered 502 Bad Gateway."},
		"gone":      {http.StatusGone, 0, "Turned off, since it answered that it is gone for good."},
		"elsewhere": {http.StatusMovedPermanently, 5, "Turned off, since it has taken nothing for 5 days. It answered 301 and led elsewhere. Enter the address that it leads to."},
	} {
		t.Run(name, func(t *testing.T) {
			l := newLine(t, "post.published")
			l.answer = func(w http.ResponseWriter) { w.WriteHeader(c.status) }
			l.log(store.LogEntry{Deed: "publish"})
			l.step()
			if c.days > 0 {
				l.clock.Advance(time.Duration(c.days)*24*time.Hour - time.Second)
				l.step()
				assert.Nil(t, l.hook().OffAt)
				l.log(store.LogEntry{Deed: "publish"})
				l.clock.Advance(time.Second)
				l.step()
			}
			require.NotNil(t, l.hook().OffAt)
			assert.Equal(t, c.why, l.hook().OffWhy)
			lines, err := l.World.Store.Logbook(t.Context(), l.World.Site.ID, store.LogFilter{}, 1)
			require.NoError(t, err)
			assert.Equal(t, "The webhook “Sheet”: "+c.why, lines[0].Reason)
			l.log(store.LogEntry{Deed: "publish"})
			l.clock.Advance(48 * time.Hour)
			assert.Empty(t, l.step(), "it is told nothing more")

			// Turned on again it is told what happens from then on.
			w := l.hook()
			require.NoError(t, l.Save(t.Context(), w, true, l.clock.Now()))
			l.answer = nil
			l.log(store.LogEntry{Deed: "publish"})
			assert.Len(t, l.step(), 1)
		})
	}
}

func TestSecretsAreChangedWithAnOverlap(t *testing.T) {
	l := newLine(t, "post.published")
	fresh, err := l.Rotate(t.Context(), l.id, l.hook().Version, pgtest.Noon)
	require.NoError(t, err)
	assert.NotEqual(t, l.secret, fresh)
	l.log(store.LogEntry{Deed: "publish"})
	told := l.step()
	require.Len(t, told, 1)
	assert.NoError(t, told[0].Verify([]string{l.secret}, l.clock.Now()))
	assert.NoError(t, told[0].Verify([]string{fresh}, l.clock.Now()))
	l.clock.Advance(24 * time.Hour)
	l.log(store.LogEntry{Deed: "publish"})
	told = l.step()
	require.Len(t, told, 1)
	assert.ErrorIs(t, told[0].Verify([]string{l.secret}, l.clock.Now()), signed.ErrSignature)
	assert.NoError(t, told[0].Verify([]string{fresh}, l.clock.Now()))
	assert.NotContains(t, l.hook().Secret, strings.TrimPrefix(fresh, "whsec_"), "it is kept sealed")
}

func TestASampleTellsOfWhatIsThere(t *testing.T) {
	l := newLine(t, "post.published")
	for _, e := range webhooks.Events {
		d, err := l.World.Store.InsertHookSample(t.Context(), l.World.Site.ID, l.id, e.Name, l.clock.Now())
		require.NoError(t, err, e.Name)
		d, err = l.sender.Send(t.Context(), d)
		require.NoError(t, err, e.Name)
		assert.Equal(t, store.HookDelivered, d.State)
		last := l.heard[len(l.heard)-1]
		assert.Equal(t, e.Name, last.payload.Type)
		assert.True(t, last.payload.Data.Sample)
	}
	p := l.World.Scheduled(t, "Moonrise", pgtest.Noon)
	l.log(store.LogEntry{Deed: "publish", Post: &p.ID})
	d, err := l.World.Store.InsertHookSample(t.Context(), l.World.Site.ID, l.id, "post.published", l.clock.Now())
	require.NoError(t, err)
	l.answer = func(w http.ResponseWriter) { w.WriteHeader(http.StatusTeapot) }
	d, err = l.sender.Send(t.Context(), d)
	require.NoError(t, err)
	assert.Equal(t, store.HookFailed, d.State, "a sample is not tried again")
	assert.Equal(t, "Moonrise", l.heard[len(l.heard)-1].payload.Data.Post.Title)
	assert.Nil(t, l.hook().FailingSince)
}

func TestNothingInsideIsTold(t *testing.T) {
	l := newLine(t, "post.published")
	l.Allowed = nil
	w := l.hook()
	var bad *act.Invalid
	require.ErrorAs(t, l.Save(t.Context(), w, true, pgtest.Noon), &bad)
	assert.Equal(t, "address", bad.Field)
	assert.Contains(t, bad.Message, "own network")
	l.sender.Client = reach.Client(nil)
	l.log(store.LogEntry{Deed: "publish"})
	assert.Empty(t, l.step())
	assert.Contains(t, l.deliveries()[0].Error, "127.0.0.1 is in this server's own network")
}

func TestWhatIsWrongWithAWebhook(t *testing.T) {
	l := newLine(t, "post.published")
	for field, w := range map[string]store.Webhook{
		"name":    {Name: " ", Address: l.url, Events: []string{"post.published"}},
		"address": {Name: "x", Address: "javascript:alert(1)", Events: []string{"post.published"}},
		"events":  {Name: "x", Address: l.url},
	} {
		_, _, err := l.Add(t.Context(), w, pgtest.Noon)
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, field, bad.Field)
	}
	_, _, err := l.Add(t.Context(), store.Webhook{Name: "x", Address: l.url, Events: []string{"post.eaten"}}, pgtest.Noon)
	assert.ErrorContains(t, err, "There is no event “post.eaten”.")
	require.ErrorIs(t, l.Delete(t.Context(), l.id, 99, pgtest.Noon), act.ErrStale)
	require.NoError(t, l.Delete(t.Context(), l.id, l.hook().Version, pgtest.Noon))
	l.log(store.LogEntry{Deed: "publish"})
	assert.Empty(t, l.step())
}
