package api_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/posts"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/pgtest"
)

func TestWhatIsMissingIsFoundAheadOfTime(t *testing.T) {
	c := signedIn(t)
	c.world.Scheduled(t, "The dome at night", pgtest.Noon.Add(48*time.Hour))
	p := c.world.Scheduled(t, "The dome, at night", pgtest.Noon.Add(24*time.Hour))
	other := c.world.Scheduled(t, "A map of the path", pgtest.Noon.Add(9*24*time.Hour))
	_, err := c.world.DB().ExecContext(t.Context(), `update posts set featured_image = '/x.jpg'`)
	require.NoError(t, err)
	_, err = c.world.DB().ExecContext(t.Context(), `update posts set category_id = null where id = $1`, p.ID)
	require.NoError(t, err)
	c.world.Rewrite(t, p.ID, p.Title,
		"See [the map](/blog/dome/post-"+itoa(other.ID)+"), [this](https://dome.example/blog/dome/gone#top), [all](/blog/dome/archive) and [others](https://elsewhere.example/blog/dome/gone).")
	var found []posts.Unready
	c.call("GET", site+"/unready", nil, 200, &found)
	said := map[string]string{}
	for _, f := range found {
		if f.PostID == p.ID {
			said[f.Check] = f.Message
		}
	}
	assert.Equal(t, "A link leads nowhere on the blog: /blog/dome/gone.", said["links"])
	assert.Contains(t, said["category"], "It has no category")
	assert.Equal(t, "“The dome at night” has nearly the same title and comes out on Thu 26 Nov.", said["twins"])
	assert.Len(t, said, 3)
	assert.Equal(t, p.ID, found[0].PostID, "in the order in which they come out")

	var s rhythms.Settings
	c.call("GET", site+"/settings", nil, 200, &s)
	assert.NotContains(t, s.Ready, "excerpt")
	s.Ready = []string{"excerpt"}
	c.call("PUT", site+"/settings", s, 200, &s)
	c.call("GET", site+"/unready", nil, 200, &found)
	require.Len(t, found, 3)
	assert.Equal(t, "excerpt", found[0].Check)
	s.Ready = []string{}
	c.call("PUT", site+"/settings", s, 200, &s)
	c.call("GET", site+"/unready", nil, 200, &found)
	assert.Empty(t, found)
	s.Ready = []string{"text", "text"}
	problem := c.fails("PUT", site+"/settings", s, 422)
	assert.Equal(t, "body.ready", problem.Errors[0].Location)
}
