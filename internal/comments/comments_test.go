package comments_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/comments"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

type desk struct {
	pgtest.World
	act.Desk
	post store.Post
}

func newDesk(t *testing.T) desk {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	return desk{w, act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}, w.Draft(t, "A post")}
}

func (d desk) comment(t *testing.T, status comment.Status) int64 {
	t.Helper()
	id, err := d.InsertComment(t.Context(), store.Comment{SiteID: d.Desk.Site.ID, Post: d.post.ID, Name: "Tam", Text: "Hello.", Status: status, At: pgtest.Noon})
	require.NoError(t, err)
	return id
}

func (d desk) statuses(t *testing.T, ids ...int64) (all []comment.Status) {
	t.Helper()
	for _, id := range ids {
		c, err := d.Comment(t.Context(), d.Desk.Site.ID, id)
		require.NoError(t, err)
		all = append(all, c.Status)
	}
	return all
}

func (d desk) shown(t *testing.T) int {
	t.Helper()
	n, err := d.CommentsShown(t.Context(), []int64{d.post.ID})
	require.NoError(t, err)
	return n[d.post.ID]
}

func TestCommentsAreDecidedAboutTogether(t *testing.T) {
	d, ctx, now := newDesk(t), t.Context(), pgtest.Noon
	one, two, three := d.comment(t, comment.Held), d.comment(t, comment.Held), d.comment(t, comment.Shown)
	n, err := comments.Decide(ctx, d.Desk, []int64{one, two, three, 99}, comment.Shown, now)
	require.NoError(t, err)
	assert.Equal(t, 2, n, "those that stand there already are left alone")
	assert.Equal(t, 3, d.shown(t))
	n, err = comments.Decide(ctx, d.Desk, []int64{one, three}, comment.Binned, now)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	assert.Equal(t, []comment.Status{comment.Binned, comment.Shown, comment.Binned}, d.statuses(t, one, two, three))
	assert.Equal(t, 1, d.shown(t))
	n, err = comments.Decide(ctx, d.Desk, []int64{one}, comment.Binned, now)
	require.NoError(t, err)
	assert.Zero(t, n)

	elsewhere := pgtest.NewWorld(t, d.World.Store, "lanes")
	n, err = comments.Decide(ctx, act.Desk{Store: d.World.Store, Site: elsewhere.Site, Actor: elsewhere.Editor.ID}, []int64{two}, comment.Binned, now)
	require.NoError(t, err)
	assert.Zero(t, n, "another blog's are not there")
	for to, ids := range map[comment.Status][]int64{"gone": {one}, comment.Shown: make([]int64, 501)} {
		_, err = comments.Decide(ctx, d.Desk, ids, to, now)
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad)
	}

	// What has been in the bin for 30 days is gone for good.
	require.NoError(t, d.EmptyCommentBin(ctx, now.Add(time.Second)))
	_, err = d.Comment(ctx, d.Desk.Site.ID, one)
	require.ErrorIs(t, err, store.ErrNotFound)
	assert.Equal(t, 1, d.shown(t))
}

func TestAnswers(t *testing.T) {
	d, ctx, now := newDesk(t), t.Context(), pgtest.Noon
	held, binned := d.comment(t, comment.Held), d.comment(t, comment.Held)
	_, err := comments.Decide(ctx, d.Desk, []int64{binned}, comment.Binned, now)
	require.NoError(t, err)
	answer, err := comments.Answer(ctx, d.Desk, d.Editor, held, " Thank you. ", now)
	require.NoError(t, err)
	assert.Equal(t, "Thank you.", answer.Text)
	assert.Equal(t, "Ines Abara", answer.Name)
	assert.Equal(t, []comment.Status{comment.Shown, comment.Shown}, d.statuses(t, held, answer.ID), "what waited is approved with it")
	deeper, err := comments.Answer(ctx, d.Desk, d.Editor, answer.ID, "And more.", now)
	require.NoError(t, err)
	assert.Equal(t, held, *deeper.Answers, "answers stand one below another")
	for _, bad := range []struct {
		id   int64
		text string
	}{{held, " "}, {held, strings.Repeat("x", 5001)}, {binned, "x"}, {999, "x"}} {
		_, err = comments.Answer(ctx, d.Desk, d.Editor, bad.id, bad.text, now)
		require.Error(t, err)
	}
	assert.Equal(t, 3, d.shown(t))

	// With the post go all its comments.
	_, err = d.DB().Exec(`delete from posts where id = $1`, d.post.ID)
	require.NoError(t, err)
	counts, err := d.CountComments(ctx, d.Desk.Site.ID)
	require.NoError(t, err)
	assert.Empty(t, counts)
}

func TestWhatIsReceived(t *testing.T) {
	d, ctx, now := newDesk(t), t.Context(), pgtest.Noon
	site := d.Desk.Site
	reader := make([]byte, 32)
	receive := func(hold comment.Hold, reader []byte) comment.Status {
		site.Commenting = store.Commenting{Open: true, Hold: hold, Links: 1}
		c, err := comments.Receive(ctx, d.World.Queries, site, d.post.ID, comment.Written{Name: "Tam", Text: "Hello."}, reader, now)
		require.NoError(t, err)
		assert.Equal(t, []comment.Status{c.Status}, d.statuses(t, c.ID))
		return c.Status
	}
	assert.Equal(t, comment.Held, receive(comment.HoldUnknown, reader))
	_, err := comments.Decide(ctx, d.Desk, []int64{1}, comment.Shown, now)
	require.NoError(t, err)
	assert.Equal(t, comment.Shown, receive(comment.HoldUnknown, reader))
	assert.Equal(t, comment.Held, receive(comment.HoldAll, reader))
	assert.Equal(t, comment.Held, receive(comment.HoldUnknown, nil))
	_, err = comments.Decide(ctx, d.Desk, []int64{1, 2}, comment.Binned, now)
	require.NoError(t, err)
	assert.Equal(t, comment.Held, receive(comment.HoldUnknown, reader), "whose comments were deleted is unknown again")
	_, err = comments.Receive(ctx, d.World.Queries, site, d.post.ID, comment.Written{}, nil, now)
	var refused comments.Refused
	require.ErrorAs(t, err, &refused)
	assert.Len(t, refused, 2)
}
