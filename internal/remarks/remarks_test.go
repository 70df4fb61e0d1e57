package remarks_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/remarks"
	"dapper.example/internal/store"
)

type room struct {
	pgtest.World
	act.Desk
	t *testing.T
}

func newRoom(t *testing.T) room {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	return room{w, act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}, t}
}

func (r room) of(post int64) []store.Remark {
	r.t.Helper()
	all, err := r.World.Remarks(r.t.Context(), r.World.Site.ID, post)
	require.NoError(r.t, err)
	return all
}

func (r room) refused(err error, field, message string) {
	r.t.Helper()
	var invalid *act.Invalid
	require.ErrorAs(r.t, err, &invalid)
	assert.Equal(r.t, field, invalid.Field)
	assert.Contains(r.t, invalid.Message, message)
}

func TestRemarksAreSaidAndResolved(t *testing.T) {
	r := newRoom(t)
	post := r.World.Draft(t, "Rings")
	id, err := remarks.Say(t.Context(), r.Desk, post.ID, "  Is that so?  ", "Saturn has "+strings.Repeat("é", 400), nil, pgtest.Noon)
	require.NoError(t, err)
	one := r.of(post.ID)[0]
	assert.Equal(t, []any{"Is that so?", "Ines Abara", 300}, []any{one.Body, one.By, len([]rune(one.Quote))})
	require.NoError(t, remarks.Resolve(t.Context(), r.Desk, post.ID, id, true, pgtest.Noon.Add(time.Hour)))
	assert.Equal(t, "Ines Abara", r.of(post.ID)[0].Resolver)
	require.NoError(t, remarks.Resolve(t.Context(), r.Desk, post.ID, id, false, pgtest.Noon))
	assert.Nil(t, r.of(post.ID)[0].ResolvedAt)
	_, err = remarks.Say(t.Context(), r.Desk, post.ID, " ", "", nil, pgtest.Noon)
	r.refused(err, "body", "Write something")
	_, err = remarks.Say(t.Context(), r.Desk, post.ID, strings.Repeat("x", 4001), "", nil, pgtest.Noon)
	r.refused(err, "body", "at most 4000")
	full, err := remarks.Say(t.Context(), r.Desk, post.ID, strings.Repeat("e\u0301", 4000), strings.Repeat("e\u0301", 290), nil, pgtest.Noon)
	require.NoError(t, err, "a letter may have several code points")
	require.NoError(t, remarks.Delete(t.Context(), r.Desk, post.ID, full))
	_, err = remarks.Say(t.Context(), r.Desk, 99_999, "Hello", "", nil, pgtest.Noon)
	assert.ErrorIs(t, err, store.ErrNotFound)
	other := r.Desk
	other.Actor = r.World.Editor.ID + 1
	r.refused(remarks.Delete(t.Context(), other, post.ID, id), "id", "Only Ines Abara can delete")
	require.NoError(t, remarks.Delete(t.Context(), r.Desk, post.ID, id))
	assert.Empty(t, r.of(post.ID))
	assert.ErrorIs(t, remarks.Resolve(t.Context(), r.Desk, post.ID, id, true, pgtest.Noon), store.ErrNotFound)
}

// A request that is granted plans the post for its time, as an editor would by hand; one that is not leaves it as it is. None is answered twice.
func TestRequestsAreAnswered(t *testing.T) {
	r := newRoom(t)
	friday := pgtest.Noon.Add(3 * 24 * time.Hour)
	post, other := r.World.Draft(t, "Rings"), r.World.Draft(t, "Moons")
	ask := func(post int64, wish time.Time) int64 {
		id, err := remarks.Say(t.Context(), r.Desk, post, "", "", &wish, pgtest.Noon)
		require.NoError(t, err)
		return id
	}
	yes, no := ask(post.ID, friday), ask(other.ID, friday)
	assert.Equal(t, "May this come out then?", r.of(post.ID)[0].Body)
	open, err := r.World.OpenRequests(t.Context(), r.World.Site.ID, 10)
	require.NoError(t, err)
	require.Len(t, open, 2)
	require.NoError(t, remarks.Answer(t.Context(), r.Desk, post.ID, yes, true, pgtest.Noon))
	require.NoError(t, remarks.Answer(t.Context(), r.Desk, other.ID, no, false, pgtest.Noon))
	planned := r.World.Reload(t, post.ID)
	assert.Equal(t, store.Scheduled, planned.Status)
	assert.True(t, planned.Pinned)
	assert.Equal(t, friday.UTC(), planned.DueAt.UTC())
	assert.Equal(t, store.Draft, r.World.Reload(t, other.ID).Status)
	assert.Equal(t, []string{"yes", "no"}, []string{*r.of(post.ID)[0].Answer, *r.of(other.ID)[0].Answer})
	r.refused(remarks.Answer(t.Context(), r.Desk, post.ID, yes, false, pgtest.Noon), "id", "answered already")
	open, err = r.World.OpenRequests(t.Context(), r.World.Site.ID, 10)
	require.NoError(t, err)
	assert.Empty(t, open)

	late := ask(other.ID, friday)
	r.refused(remarks.Answer(t.Context(), r.Desk, other.ID, late, true, friday), "id", "has passed")
	_, err = remarks.Say(t.Context(), r.Desk, other.ID, "", "", &pgtest.Noon, pgtest.Noon)
	r.refused(err, "wish", "still to come")
	remark, err := remarks.Say(t.Context(), r.Desk, other.ID, "Nice.", "", nil, pgtest.Noon)
	require.NoError(t, err)
	r.refused(remarks.Answer(t.Context(), r.Desk, other.ID, remark, true, pgtest.Noon), "id", "asks for nothing")
}
