package deliver

import (
	"fmt"
	"net"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
)

// A message of a mailing list goes to everybody who confirmed that, once, as many at a time as the list sends.
func TestAMailingListSendsToWhoeverAsked(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx := t.Context()
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	box := standin.NewMailbox(clock)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	server := box.Server()
	go server.Serve(listener)
	t.Cleanup(func() { server.Close() })
	h.channel, err = h.InsertChannel(ctx, store.Channel{SiteID: h.Site.ID, Kind: channel.Mail, Name: "Letters", Token: pgtest.Box.Seal(""), Apart: 240})
	require.NoError(t, err)
	require.NoError(t, h.SetRate(ctx, h.Site.ID, h.channel, 6))
	var ids []int64
	for i := range 5 {
		id, err := h.AskSubscriber(ctx, store.Subscriber{SiteID: h.Site.ID, Channel: h.channel, Email: fmt.Sprintf("reader-%d@walkers.example", i), Token: fmt.Sprint("token-", i), AskedAt: pgtest.Noon}, pgtest.Noon)
		require.NoError(t, err)
		ids = append(ids, id)
		if i > 0 { // the first has not confirmed it
			require.NoError(t, h.ConfirmSubscriber(ctx, id, pgtest.Noon))
		}
	}
	w := newShares(h.Store, clock, pgtest.Box)
	w.post = PostOffice{Address: listener.Addr().String(), From: "almanac@dome.example", Public: "https://dome.example"}
	id := h.outing("Earthshine\n\nA glow on the Moon. https://dome.example/e")
	try := func() error {
		return w.Work(ctx, &river.Job[Share]{JobRow: &rivertype.JobRow{Attempt: 1, MaxAttempts: maxAttempts}, Args: Share{id}})
	}
	var rests *river.JobSnoozeError
	require.ErrorAs(t, try(), &rests)
	assert.Equal(t, 30*time.Second, rests.Duration)
	assert.Len(t, box.Mails(), 3, "half a minute's")
	require.NoError(t, h.EndSubscriber(ctx, ids[4], pgtest.Noon))
	require.NoError(t, try())
	require.NoError(t, try(), "what is sent is sent")
	all := box.Mails()
	require.Len(t, all, 3, "who ended it meanwhile gets nothing more")
	assert.Equal(t, []any{store.Sent, "3 mails"}, []any{h.state(id).State, h.state(id).RemoteID})
	assert.Equal(t, "Earthshine", all[2].Subject)
	assert.Equal(t, "reader-1@walkers.example", all[2].To)
	assert.Equal(t, "https://dome.example/blog/dome/-/letters/token-1", all[2].Unsubscribe)
	assert.Contains(t, all[2].Text, "A glow on the Moon. https://dome.example/e")
	assert.NotContains(t, all[2].Text, "token-2", "nobody gets another's link")

	// Where the mail server is away, it is tried again.
	server.Close()
	next := h.outing("Another")
	id = next
	w.post.Address = "127.0.0.1:1"
	require.Error(t, try())
	assert.Equal(t, store.Waiting, h.state(next).State)

	// Nobody on the list: nothing to send, and that is no failure.
	for _, s := range ids {
		require.NoError(t, h.EndSubscriber(ctx, s, pgtest.Noon))
	}
	require.NoError(t, try())
	assert.Equal(t, "0 mails", h.state(next).RemoteID)
}

func TestWhoeverAskedIsAskedBack(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	list, err := h.InsertChannel(t.Context(), store.Channel{SiteID: h.Site.ID, Kind: channel.Mail, Name: "Letters", Token: "t", Apart: 240})
	require.NoError(t, err)
	id, err := h.AskSubscriber(t.Context(), store.Subscriber{SiteID: h.Site.ID, Channel: list, Email: "tam@walkers.example", Token: "secret", AskedAt: pgtest.Noon}, pgtest.Noon)
	require.NoError(t, err)
	w := &mails{store: h.Store, clock: clockwork.NewFakeClockAt(pgtest.Noon), post: PostOffice{Public: "https://dome.example"}}
	letter, err := w.write(t.Context(), Mail{Subscriber: id})
	require.NoError(t, err)
	assert.Equal(t, "tam@walkers.example", letter.To)
	assert.Contains(t, letter.Text, "https://dome.example/blog/dome/-/letters/secret")
	require.NoError(t, h.ConfirmSubscriber(t.Context(), id, pgtest.Noon))
	require.NoError(t, w.Work(t.Context(), &river.Job[Mail]{Args: Mail{Subscriber: id}}), "who has confirmed is not asked again")
}
