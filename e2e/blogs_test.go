package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// An editor of two blogs sees both on one screen, what is wrong with one of them, and moves a draft from one to the other.
func TestAllBlogsOnOneScreen(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	_, err := a.store.DB().ExecContext(t.Context(), `update outings set state = 'failed', sent_at = null where id = (select min(id) from outings where state = 'sent')`)
	require.NoError(t, err)
	a.click("Your other blogs")
	a.click("All blogs")
	a.sees("10:20 in Halifax")
	a.sees("14:20 in Lisbon")
	a.sees("1 message not sent")
	a.sees("18 on the shelf, until")
	a.click("Seven days")
	a.sees("18:13 The lamp that was asked a question")
	a.audit("all blogs")
	a.click("Dark Lanes")

	a.newDraft("A path that needs no lamp")
	a.click("Move to another blog…")
	a.sees("It begins there with all that is written")
	a.audit("a draft that moves")
	a.click("Move the draft")
	a.sees("is a draft of Notes from the Dome now.")
	var there []store.Status
	require.NoError(t, a.store.DB().SelectContext(t.Context(), &there, `select status from posts where title = $1 order by id`, "A path that needs no lamp"))
	assert.Equal(t, []store.Status{"binned", store.Draft}, there)
}
