package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// Only outings that are on their way or were sent count: for the distance between messages,
// for how often a post was shared, and for what a rule did. What failed, was left out, or is
// only planned counts as none.
func TestOnlyOutingsThatWentOutCount(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	p := w.Scheduled(t, "Cables", pgtest.Noon)
	channel, err := w.InsertChannel(t.Context(), store.Channel{SiteID: w.Site.ID, Kind: "lantern", Name: "Lantern",
		Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	at := func(minutes int) time.Time { return pgtest.Noon.Add(time.Duration(minutes) * time.Minute) }
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		for i, state := range []string{"waiting", "sent", "failed", "skipped"} {
			id, err := tx.InsertOuting(t.Context(), store.Outing{SiteID: w.Site.ID, Channel: channel, Post: store.ID(p.ID),
				At: at(i), Text: "x", Link: "l", Wording: i, Round: 1})
			if err != nil {
				return err
			}
			if _, err := tx.SQL().ExecContext(t.Context(),
				`update outings set state = $2, sent_at = case when $2 = 'sent' then at end where id = $1`, id, state); err != nil {
				return err
			}
		}
		_, err := tx.InsertPlanned(t.Context(), store.Outing{SiteID: w.Site.ID, Channel: channel, Post: store.ID(p.ID),
			At: at(90), Origin: store.ByHand, OwnText: "x", CreatedAt: pgtest.Noon})
		return err
	}))
	recent, err := w.RecentMessages(t.Context(), w.Site.ID, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, map[int64][]time.Time{channel: {at(0), at(1)}}, recent)
	pasts, err := w.Pasts(t.Context(), w.Site.ID)
	require.NoError(t, err)
	require.Len(t, pasts, 1)
	assert.Equal(t, 2, pasts[0].N)
	assert.Equal(t, at(1), pasts[0].Last)
	assert.Equal(t, 2, pasts[0].Used, "the wording of the latest that went out, counted from 1")
	facts, err := w.Facts(t.Context(), w.Site.ID, store.FactsFilter{})
	require.NoError(t, err)
	assert.Equal(t, 2, facts[0].Shared)

	// What is planned can be changed until it is on its way, and no longer.
	planned, err := w.Planned(t.Context(), w.Site.ID)
	require.NoError(t, err)
	require.Len(t, planned, 1)
	o := planned[0]
	o.Text, o.At = "Said.", at(91)
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error { return tx.SendPlanned(t.Context(), o) }))
	for name, change := range map[string]func(*store.Tx) error{
		"saved":   func(tx *store.Tx) error { return tx.SavePlanned(t.Context(), o) },
		"dropped": func(tx *store.Tx) error { return tx.DropPlanned(t.Context(), w.Site.ID, o.ID) },
		"skipped": func(tx *store.Tx) error { return tx.SkipPlanned(t.Context(), w.Site.ID, o.ID, "why") },
		"sent":    func(tx *store.Tx) error { return tx.SendPlanned(t.Context(), o) },
	} {
		assert.ErrorIs(t, w.InTx(t.Context(), change), store.ErrNotFound, name)
	}
}
