package deliver

import (
	"net"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
)

// mailbox is a mailbox and the address at which it takes mails.
func mailbox(t *testing.T, clock clockwork.Clock) (box *standin.Mailbox, address string) {
	t.Helper()
	box = standin.NewMailbox(clock)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	server := box.Server()
	go server.Serve(listener)
	t.Cleanup(func() { server.Close() })
	return box, listener.Addr().String()
}

func TestLettersGoOutByMail(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx, clock := t.Context(), clockwork.NewFakeClockAt(pgtest.Noon)
	box, address := mailbox(t, clock)
	post := PostOffice{Address: address, From: "almanac@dome.example", Public: "https://dome.example"}
	w := &mails{store: h.Store, clock: clock, post: post}
	work := func(m Mail) error {
		return w.Work(ctx, &river.Job[Mail]{JobRow: &rivertype.JobRow{Attempt: 1, MaxAttempts: maxAttempts}, Args: m})
	}

	// A name with a line break in it makes no header of its own.
	require.NoError(t, h.SaveName(ctx, h.Editor.ID, "Ines\r\nBcc: everybody@example.org", ""))
	house := people.House{Store: h.Store, Mail: h.queue}
	id, told, err := house.Invite(ctx, h.Site, h.Editor.ID, "wren@dome.example", people.Editor, pgtest.Noon)
	require.NoError(t, err)
	require.NoError(t, work(Mail{Invitation: id}))
	require.NoError(t, work(Mail{Reset: "dome@example.org"}))
	all := box.Mails()
	require.Len(t, all, 2)
	assert.Equal(t, "dome@example.org", all[0].To)
	assert.Contains(t, all[0].Text, "https://dome.example/reset#")
	assert.Equal(t, "wren@dome.example", all[1].To)
	assert.Equal(t, "Ines Bcc: everybody@example.org invites you to write for Notes from dome", all[1].Subject)
	_, sent, found := strings.Cut(all[1].Text, "/join#")
	require.True(t, found)
	sent, _, _ = strings.Cut(sent, "\n")
	assert.NotEqual(t, told, sent, "the letter has a secret of its own")
	i, err := house.Look(ctx, sent, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, id, i.ID)

	clock.Advance(people.InvitationLife)
	require.NoError(t, work(Mail{Invitation: id}), "what is over is not sent")
	assert.Len(t, box.Mails(), 2)
	require.NoError(t, h.InTx(ctx, func(tx *store.Tx) error { return h.queue.Reset(ctx, tx, "dome@example.org") }))
	require.NoError(t, (&tidying{store: h.Store, clock: clock}).Work(ctx, nil))
	clock.Advance(30 * 24 * time.Hour)
	require.NoError(t, (&tidying{store: h.Store, clock: clock}).Work(ctx, nil))
	_, err = house.Look(ctx, sent, pgtest.Noon)
	assert.ErrorContains(t, err, "doesn’t work")

	w.post.Address = "127.0.0.1:1"
	err = work(Mail{Reset: "dome@example.org"})
	assert.ErrorContains(t, err, "handing a mail to 127.0.0.1:1")
	assert.NotContains(t, err.Error(), "#")
}
