package deliver

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
)

// through sends a message over a channel that is no network's, to a receiver that answers with a status.
func through(t *testing.T, kind string, status int, allowed reach.Allowed) (h *house, id int64, secret string, got *signed.Message) {
	t.Helper()
	t.Parallel()
	h, got = newHouse(t), &signed.Message{}
	receiver := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		got.ID, got.Timestamp, got.Signature = r.Header.Get("webhook-id"), r.Header.Get("webhook-timestamp"), r.Header.Get("webhook-signature")
		got.Body, _ = io.ReadAll(r.Body)
		if status/100 == 3 {
			w.Header().Set("Location", "http://elsewhere.example/")
		}
		w.WriteHeader(status)
		_, _ = w.Write([]byte(`{"url": "https://printer.example/7"}`))
	}))
	t.Cleanup(receiver.Close)
	secret = signed.NewSecret([signed.SecretSize]byte{7})
	var err error
	h.channel, err = h.InsertChannel(t.Context(), store.Channel{SiteID: h.Site.ID, Kind: kind, Name: "The printer", Address: receiver.URL,
		Token: pgtest.Box.Seal(secret), Apart: 20, ADay: 24})
	require.NoError(t, err)
	id = h.outing("Print this")
	w := newShares(h.Store, clockwork.NewFakeClockAt(pgtest.Noon), pgtest.Box)
	w.outside, w.done = reach.Client(allowed), "https://dome.example"+DonePath
	for range 2 { // what is done is done once
		_ = w.Work(t.Context(), &river.Job[Share]{JobRow: &rivertype.JobRow{Attempt: 1, MaxAttempts: maxAttempts}, Args: Share{id}})
	}
	return h, id, secret, got
}

func TestAMessageIsHandedToAProgram(t *testing.T) {
	h, id, secret, got := through(t, channel.Webhook, http.StatusCreated, reach.ParseAllowed("127.0.0.1"))
	o := h.state(id)
	assert.Equal(t, []any{store.Sent, 1, "https://printer.example/7"}, []any{o.State, o.Tries, o.RemoteURL})
	require.NoError(t, got.Verify([]string{secret}, pgtest.Noon))
	assert.Equal(t, "msg_"+o.Key, got.ID)
	var body map[string]any
	require.NoError(t, json.Unmarshal(got.Body, &body))
	assert.Equal(t, map[string]any{"key": o.Key, "channel": "The printer", "text": "Print this"}, body["data"])
}

func TestOutsideHandsAreWaitedFor(t *testing.T) {
	h, id, _, got := through(t, channel.Hands, http.StatusAccepted, reach.ParseAllowed("127.0.0.1"))
	o := h.state(id)
	assert.Equal(t, []any{store.Waiting, 1}, []any{o.State, o.Tries})
	require.NotNil(t, o.HandedAt)
	assert.Contains(t, string(got.Body), `"done":"https://dome.example/api/v1/hands"`)
	lost, err := h.LostOutings(t.Context(), pgtest.Noon.AddDate(1, 0, 0))
	require.NoError(t, err)
	for _, l := range lost {
		assert.NotEqual(t, id, l.ID, "hands may take their time")
	}
}

func TestOutsideHandsWithoutAnAddressArePeople(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	var err error
	h.channel, err = h.InsertChannel(t.Context(), store.Channel{SiteID: h.Site.ID, Kind: channel.Hands, Name: "By hand", Token: pgtest.Box.Seal(""), Apart: 20})
	require.NoError(t, err)
	id := h.outing("Pin this up")
	require.NoError(t, h.try(id, 1))
	list, err := h.HandedOutings(t.Context(), h.Site.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Pin this up", list[0].Text)
}

func TestAProgramThatLeadsElsewhereIsNotFollowed(t *testing.T) {
	h, id, _, _ := through(t, channel.Webhook, http.StatusFound, reach.ParseAllowed("127.0.0.1"))
	o := h.state(id)
	assert.Equal(t, store.Failed, o.State)
	assert.Contains(t, o.Error, "leads elsewhere")
}

func TestAProgramInsideIsNotReached(t *testing.T) {
	h, id, _, got := through(t, channel.Webhook, http.StatusOK, nil)
	o := h.state(id)
	assert.Equal(t, store.Failed, o.State)
	assert.Contains(t, o.Error, "own network")
	assert.Empty(t, got.ID)
}

func TestAProgramThatIsBusyIsTriedAgain(t *testing.T) {
	h, id, _, _ := through(t, channel.Webhook, http.StatusBadGateway, reach.ParseAllowed("127.0.0.1"))
	o := h.state(id)
	assert.Equal(t, store.Waiting, o.State)
	assert.True(t, strings.Contains(o.Error, "502"), o.Error)
	assert.Equal(t, 2, o.Tries)
}
