package readiness_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/readiness"
)

var (
	halifax = civil.MustZone("America/Halifax")
	noon    = time.Date(2026, 11, 24, 16, 0, 0, 0, time.UTC)
)

// whole is a post in which nothing is missing.
func whole(id int64, title string, days int) readiness.Post {
	return readiness.Post{ID: id, Title: title, At: halifax.AddDays(noon, days), Category: "Sky Guide", HasImage: true,
		Excerpt: "An excerpt.", HasText: true}
}

func TestEachCheckFindsWhatItLooksFor(t *testing.T) {
	for check, c := range map[readiness.Check]struct {
		break_ func(*readiness.Post)
		says   string
	}{
		readiness.Text:     {func(p *readiness.Post) { p.HasText = false }, "It has no text."},
		readiness.Category: {func(p *readiness.Post) { p.Category = "" }, "It has no category"},
		readiness.Image:    {func(p *readiness.Post) { p.HasImage = false }, "It has no featured image."},
		readiness.Excerpt:  {func(p *readiness.Post) { p.Excerpt = "" }, "It has no excerpt."},
		readiness.Links: {func(p *readiness.Post) { p.Dead = []string{"/blog/dome/gone"} },
			"A link leads nowhere on the blog: /blog/dome/gone."},
	} {
		good, bad := whole(1, "The dome at night", 1), whole(2, "How to fold a chart", 2)
		c.break_(&bad)
		found := readiness.Look(halifax, civil.Date{}, []readiness.Post{good, bad}, readiness.Checks)
		require.Len(t, found, 1, check)
		assert.Equal(t, int64(2), found[0].Post)
		assert.Equal(t, check, found[0].Check)
		assert.Contains(t, found[0].Message, c.says)
		var others []readiness.Check
		for _, one := range readiness.Checks {
			if one != check {
				others = append(others, one)
			}
		}
		assert.Empty(t, readiness.Look(halifax, civil.Date{}, []readiness.Post{good, bad}, others),
			"%s is switched off", check)
		bad.Out = true
		assert.Empty(t, readiness.Look(halifax, civil.Date{}, []readiness.Post{good, bad}, readiness.Checks),
			"what is out is not looked at")
	}
}

func TestTwinsAreToldOfWithinAWeek(t *testing.T) {
	look := func(a, b string, apart int) int {
		return len(readiness.Look(halifax, civil.Date{}, []readiness.Post{whole(1, a, 0), whole(2, b, apart)},
			readiness.Usual))
	}
	assert.Equal(t, 2, look("Geminids: where and when", "Geminids — where, and when?", 7), "each is told of the other")
	assert.Equal(t, 0, look("Geminids: where and when", "Geminids: where and when", 8), "a week is over")
	assert.Equal(t, 2, look("Winter open nights 2026", "Winter open nights 2027", 1))
	assert.Equal(t, 0, look("Winter open nights", "Summer open days", 1))
	assert.Equal(t, 0, look("Leonids", "Lyrids", 1))
	assert.Equal(t, 0, look("", "", 1), "titles without a letter are not the same")

	out := whole(1, "Clear tonight", -3)
	out.Out = true
	found := readiness.Look(halifax, civil.Date{}, []readiness.Post{out, whole(2, "Clear tonight!", 2)},
		readiness.Usual)
	require.Len(t, found, 1)
	assert.Equal(t, "“Clear tonight” has nearly the same title and comes out on Sat 21 Nov.", found[0].Message)
}

func TestAPostIsNotItsOwnTwinAndLikenessGoesBothWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		title := rapid.StringMatching(`[a-zäöü0-9 ,:]{0,20}`)
		a, b := title.Draw(t, "a"), title.Draw(t, "b")
		require.Empty(t, readiness.Look(halifax, civil.Date{}, []readiness.Post{whole(1, a, 0)}, readiness.Checks))
		found := readiness.Look(halifax, civil.Date{}, []readiness.Post{whole(1, a, 0), whole(2, b, 1)},
			readiness.Checks)
		require.Contains(t, []int{0, 2}, len(found))
	})
}
