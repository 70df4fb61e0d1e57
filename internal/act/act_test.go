package act_test

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// moves are what is proposed in these tests.
type moves []int64

// Token stands for exactly these moves.
func (m moves) Token() string { return act.TokenOf("moves", []int64(m)) }

func TestOnlyWhatWasSeenIsDone(t *testing.T) {
	t.Parallel()
	shown := moves{3, 1, 2}
	same, err := act.Seen(moves{3, 1, 2}, shown.Token())
	require.NoError(t, err)
	assert.Equal(t, shown, same)
	for _, other := range []moves{{3, 2, 1}, {3, 1}, {}, {3, 1, 2, 4}} {
		_, err := act.Seen(other, shown.Token())
		var outdated *act.Outdated[moves]
		require.ErrorAs(t, err, &outdated)
		assert.Equal(t, other, outdated.Now, "it comes back as it is now")
	}
	assert.NotEqual(t, act.TokenOf("a", 1), act.TokenOf("b", 1))
	assert.Len(t, shown.Token(), 24)
}

// A change holds the site's lock and has its rules asked anew, or leaves nothing behind.
func TestAChangeHasTheRulesAskedAnew(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	_, err := w.DB().ExecContext(t.Context(), `delete from asks`)
	require.NoError(t, err)
	asked := func() (n int) {
		require.NoError(t, w.DB().GetContext(t.Context(), &n, `select count(*) from asks where site_id = $1`, w.Site.ID))
		return n
	}
	failed := errors.New("no")
	require.ErrorIs(t, act.Change(t.Context(), w.Store, w.Site, func(*store.Tx) error { return failed }), failed)
	assert.Zero(t, asked())
	require.NoError(t, act.Change(t.Context(), w.Store, w.Site, func(*store.Tx) error { return nil }))
	assert.Equal(t, 1, asked())
	bad := act.Invalidf("at", "That is %d days ago.", 3)
	assert.Equal(t, "at: That is 3 days ago.", fmt.Sprintf("%s: %s", bad.Field, bad))
}
