package api_test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/act"
	"dapper.example/internal/api"
	"dapper.example/internal/api/channels"
	apirules "dapper.example/internal/api/rules"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/outings"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
)

func TestAWebhookIsAddedTriedAndRead(t *testing.T) {
	var got signed.Message
	receiver := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		got.ID, got.Timestamp, got.Signature = r.Header.Get("webhook-id"), r.Header.Get("webhook-timestamp"), r.Header.Get("webhook-signature")
		got.Body, _ = io.ReadAll(r.Body)
	}))
	t.Cleanup(receiver.Close)
	c := newClientWith(t, func(config *api.Config) {
		config.Inside = reach.ParseAllowed(strings.TrimPrefix(receiver.URL, "http://"))
	})
	c.signIn()
	var made channels.NewSecret
	c.call("POST", site+"/webhooks", map[string]any{"name": "Sheet", "address": receiver.URL, "events": []string{"post.published"}}, 201, &made)
	require.True(t, strings.HasPrefix(made.Secret, "whsec_"))
	one := site + "/webhooks/" + strconv.FormatInt(made.ID, 10)
	var told channels.HookTold
	c.call("POST", one+"/samples", map[string]any{"event": "post.published"}, 200, &told)
	assert.Equal(t, "delivered", told.State)
	require.NoError(t, got.Verify([]string{made.Secret}, c.clock.Now()))
	assert.JSONEq(t, string(got.Body), string(told.Body))
	var list []channels.HookTold
	c.call("GET", one+"/told", nil, 200, &list)
	require.Len(t, list, 1)
	assert.True(t, list[0].Sample)
	c.call("POST", one+"/samples", map[string]any{"event": "post.eaten"}, 422, nil)

	var all channels.Webhooks
	c.call("GET", site+"/webhooks", nil, 200, &all)
	require.Len(t, all.Webhooks, 1)
	raw, err := json.Marshal(all)
	require.NoError(t, err)
	assert.NotContains(t, string(raw), "whsec_", "the secret is told once")
	c.call("POST", site+"/webhooks", map[string]any{"name": "Inner", "address": "http://10.0.0.1/", "events": []string{"post.published"}}, 422, nil)
	c.call("POST", one+"/secret?version=1", nil, 200, &made)
	c.call("PUT", one, map[string]any{"name": "Sheet", "address": receiver.URL, "events": []string{"post.changed"}, "on": false, "version": 1}, 409, nil)
	c.call("PUT", one, map[string]any{"name": "Sheet", "address": receiver.URL, "events": []string{"post.changed"}, "on": false, "version": 2}, 204, nil)
	c.call("DELETE", one+"?version=3", nil, 204, nil)
}

// handedOn is a message that was handed to outside hands, and the secret of their channel.
func handedOn(t *testing.T, c *client) (o store.Outing, secret string) {
	t.Helper()
	var made channels.AddedChannel
	c.call("POST", site+"/channels", map[string]any{"kind": "hands", "name": "The printer", "address": "http://127.0.0.1:9/print"}, 201, &made)
	require.NoError(t, c.world.Store.InTx(t.Context(), func(tx *store.Tx) error {
		id, err := tx.InsertOuting(t.Context(), store.Outing{SiteID: c.world.Site.ID, Channel: made.ChannelID, At: pgtest.Noon, Text: "Print this", Link: ""})
		o.ID = id
		return err
	}))
	require.NoError(t, c.world.MarkHanded(t.Context(), o.ID, pgtest.Noon))
	o, err := c.world.Outing(t.Context(), o.ID)
	require.NoError(t, err)
	return o, made.Secret
}

func TestOutsideHandsSayWhatBecameOfAMessage(t *testing.T) {
	c := newClientWith(t, func(config *api.Config) { config.Inside = reach.ParseAllowed("127.0.0.1") })
	c.signIn()
	o, secret := handedOn(t, c)
	var waiting apirules.PlannedOutings
	c.call("GET", site+"/outings", nil, 200, &waiting)
	require.Len(t, waiting.Handed, 1)
	assert.Equal(t, "Print this", waiting.Handed[0].Text)

	tell := func(secret string, body map[string]any, at time.Time) int {
		text, err := json.Marshal(body)
		require.NoError(t, err)
		signature, err := signed.Sign([]string{secret}, "m1", at, text)
		require.NoError(t, err)
		r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, c.url+"/api/v1/hands", bytes.NewReader(text))
		require.NoError(t, err)
		for name, value := range map[string]string{"Content-Type": "application/json", "webhook-id": "m1", "webhook-timestamp": strconv.FormatInt(at.Unix(), 10),
			"webhook-signature": signature} {
			r.Header.Set(name, value)
		}
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		return answer.StatusCode
	}
	now := c.clock.Now()
	sent := map[string]any{"key": o.Key, "state": "sent", "url": "https://printer.example/7"}
	assert.Equal(t, http.StatusNotFound, tell("whsec_"+strings.Repeat("A", 43)+"=", sent, now), "another's secret")
	assert.Equal(t, http.StatusUnprocessableEntity, tell(secret, sent, now.Add(-time.Hour)), "said long ago")
	assert.Equal(t, http.StatusNotFound, tell(secret, map[string]any{"key": "0b7a2a39-0000-4000-8000-000000000000", "state": "sent"}, now))
	assert.Equal(t, http.StatusUnprocessableEntity, tell(secret, map[string]any{"key": o.Key, "state": "sent", "url": "javascript:alert(1)"}, now))
	o, err := c.world.Outing(t.Context(), o.ID)
	require.NoError(t, err)
	require.Equal(t, store.Waiting, o.State, "none of them changes anything")

	for range 2 {
		assert.Equal(t, http.StatusNoContent, tell(secret, sent, now))
	}
	assert.Equal(t, http.StatusUnprocessableEntity, tell(secret, map[string]any{"key": o.Key, "state": "failed"}, now), "it is sent already")
	o, err = c.world.Outing(t.Context(), o.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{store.Sent, "https://printer.example/7", 2}, []any{o.State, o.RemoteURL, o.Tries})
}

func TestAPersonSaysWhatBecameOfAMessage(t *testing.T) {
	c := newClientWith(t, func(config *api.Config) { config.Inside = reach.ParseAllowed("127.0.0.1") })
	c.signIn()
	o, _ := handedOn(t, c)
	settled := site + "/outings/" + strconv.FormatInt(o.ID, 10) + "/settled"
	c.call("PUT", settled, map[string]any{"sent": true, "url": "mailto:me"}, 422, nil)
	c.call("PUT", settled, map[string]any{"sent": false, "why": "the paper jammed"}, 204, nil)
	c.call("PUT", settled, map[string]any{"sent": true}, 422, nil)
	o, err := c.world.Outing(t.Context(), o.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{store.Failed, "the paper jammed"}, []any{o.State, o.Error})
	var waiting apirules.PlannedOutings
	c.call("GET", site+"/outings", nil, 200, &waiting)
	assert.Empty(t, waiting.Handed)
	assert.Len(t, waiting.Failed, 1)
}

// Of two who say the opposite at once, one is heard, and the other learns it.
func TestOfOppositeWordsOneHolds(t *testing.T) {
	c := newClientWith(t, func(config *api.Config) { config.Inside = reach.ParseAllowed("127.0.0.1") })
	c.signIn()
	o, _ := handedOn(t, c)
	var both errgroup.Group
	heard := make([]error, 2)
	for i, sent := range []bool{true, false} {
		both.Go(func() error {
			d := outings.Editor{Desk: act.Desk{Store: c.world.Store, Site: c.world.Site, Actor: c.world.Editor.ID}}
			heard[i] = d.Settle(t.Context(), o.ID, outings.Settlement{Sent: sent, Why: strings.Repeat("é", 500)}, pgtest.Noon)
			return nil
		})
	}
	require.NoError(t, both.Wait())
	o, err := c.world.Outing(t.Context(), o.ID)
	require.NoError(t, err)
	winner, loser := 0, 1
	if o.State == store.Failed {
		winner, loser = 1, 0
	}
	require.NoError(t, heard[winner])
	var invalid *act.Invalid
	require.ErrorAs(t, heard[loser], &invalid)
	assert.Equal(t, 2, o.Tries, "of the hand-over and of one word")
}

func TestChannelsThatAreNoAccountsAreAdded(t *testing.T) {
	c := newClient(t)
	c.signIn()
	for _, bad := range []map[string]any{
		{"kind": channel.Webhook, "name": "x"},
		{"kind": channel.Webhook, "name": "x", "address": "http://127.0.0.1:9/"},
		{"kind": channel.Hands, "name": " "},
		{"kind": channel.Lantern, "name": "x"},
	} {
		c.call("POST", site+"/channels", bad, 422, nil)
	}
	var made channels.AddedChannel
	c.call("POST", site+"/channels", map[string]any{"kind": channel.Hands, "name": "By hand"}, 201, &made)
	assert.Empty(t, made.Secret, "people sign nothing")
	c.call("POST", site+"/channels", map[string]any{"kind": channel.Hands, "name": "by hand"}, 422, nil)
	var all channels.Channels
	c.call("GET", site+"/channels", nil, 200, &all)
	require.Len(t, all.Channels, 1)
	assert.True(t, all.Channels[0].Outside)
}

func TestPeopleAreAskedWhetherTheyWantMails(t *testing.T) {
	c := newClient(t)
	c.signIn()
	c.call("POST", site+"/channels/connect", map[string]any{"kind": "mail"}, 422, nil)
	var made channels.AddedChannel
	c.call("POST", site+"/channels", map[string]any{"kind": "mail", "name": "Letters"}, 201, &made)
	list := site + "/channels/" + strconv.FormatInt(made.ChannelID, 10)
	c.call("POST", list+"/subscribers", map[string]any{"emails": []string{"tam@walkers.example", "nobody"}}, 422, nil)
	c.call("POST", list+"/subscribers", map[string]any{"emails": []string{"tam@walkers.example", "Una@Lanes.example"}}, 204, nil)
	c.call("POST", list+"/subscribers", map[string]any{"emails": []string{"tam@walkers.example"}}, 204, nil)
	var all channels.Subscribers
	c.call("GET", list+"/subscribers", nil, 200, &all)
	require.Len(t, all.Subscribers, 2)
	assert.Equal(t, []any{"Una@lanes.example", "asked", 60, map[string]int{"asked": 2}},
		[]any{all.Subscribers[0].Email, all.Subscribers[0].State, all.AMinute, all.Counts})
	assert.Equal(t, "https://dome.example/blog/dome/-/letters", all.Page)
	c.call("PUT", list+"/rate", map[string]any{"aMinute": 0}, 422, nil)
	c.call("PUT", list+"/rate", map[string]any{"aMinute": 30}, 204, nil)
	c.call("DELETE", site+"/subscribers/"+strconv.FormatInt(all.Subscribers[0].ID, 10), nil, 204, nil)
	all = channels.Subscribers{}
	c.call("GET", list+"/subscribers", nil, 200, &all)
	assert.Equal(t, []any{1, 30}, []any{len(all.Subscribers), all.AMinute})
	var jobs int
	require.NoError(t, c.world.DB().GetContext(t.Context(), &jobs, `select count(*) from river_job where kind = 'mail'`))
	assert.Equal(t, 2, jobs, "each is asked once")
	c.call("GET", site+"/channels/"+strconv.FormatInt(c.lantern(), 10)+"/subscribers", nil, 404, nil)
}
