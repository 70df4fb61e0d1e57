package deliver

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// A digest that was not taken is handed in again; one of which it is not known is not, and the next one tells of its time too.
func TestADigestIsSentOnce(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	ctx, clock := t.Context(), clockwork.NewFakeClockAt(pgtest.Noon)
	box, address := mailbox(t, clock)
	require.NoError(t, h.InTx(ctx, func(tx *store.Tx) error {
		return tx.PutDigest(ctx, store.Digest{SiteID: h.Site.ID, User: h.Editor.ID, Every: "day", ZoneName: "Europe/Lisbon", Parts: store.Strings{"held"}, Token: "t", NextAt: pgtest.Noon, SentAt: pgtest.Noon})
	}))
	var written error
	var end context.CancelFunc
	w := &mails{store: h.Store, clock: clock, post: PostOffice{Address: "127.0.0.1:1", From: "almanac@dome.example", Public: "https://dome.example"},
		digest: func(context.Context, int64, int64, time.Time) (people.Letter, error) {
			if end != nil {
				end() // the process dies
			}
			return people.Letter{To: "dome@example.org", Subject: "Notes", Text: "Hello", HTML: "<p>Hello</p>", End: "https://dome.example/end", ID: "digest.1.2.3"}, written
		}}
	work := func(ctx context.Context, day int) error {
		return w.Work(ctx, &river.Job[Mail]{JobRow: &rivertype.JobRow{Attempt: 1, MaxAttempts: maxAttempts},
			Args: Mail{Digest: true, Site: h.Site.ID, Author: h.Editor.ID, At: pgtest.Noon.AddDate(0, 0, day)}})
	}
	told := func() time.Time {
		d, err := h.Store.Digest(ctx, h.Site.ID, h.Editor.ID)
		require.NoError(t, err)
		return d.SentAt.UTC()
	}
	assert.ErrorContains(t, work(ctx, 1), "handing a mail")
	assert.Equal(t, pgtest.Noon.UTC(), told())
	w.post.Address = address
	require.NoError(t, work(ctx, 1))
	require.NoError(t, work(ctx, 1), "once more")
	require.Len(t, box.Mails(), 1)
	assert.Equal(t, pgtest.Noon.AddDate(0, 0, 1).UTC(), told())

	// It dies while it hands the next one in.
	ok, err := h.HandIn(ctx, h.Site.ID, h.Editor.ID, pgtest.Noon.AddDate(0, 0, 2))
	require.NoError(t, err)
	require.True(t, ok)
	require.NoError(t, work(ctx, 2))
	assert.Len(t, box.Mails(), 1, "whether it arrived is not known")
	assert.Equal(t, pgtest.Noon.AddDate(0, 0, 1).UTC(), told(), "the next one tells of that time too")
	require.NoError(t, work(ctx, 3))
	assert.Len(t, box.Mails(), 2)

	// Its job is cut off before the mail is handed in: it may be tried again.
	var cut context.Context
	cut, end = context.WithCancel(ctx)
	assert.Error(t, work(cut, 4))
	end = nil
	require.NoError(t, work(ctx, 4))
	assert.Len(t, box.Mails(), 3)

	written = people.ErrNotWanted
	require.NoError(t, work(ctx, 5))
	assert.Len(t, box.Mails(), 3, "there was nothing to tell")
	assert.Equal(t, pgtest.Noon.AddDate(0, 0, 5).UTC(), told())
	written = errors.New("the database is away")
	assert.ErrorIs(t, work(ctx, 6), written)
}
