package message_test

import (
	"strings"
	"testing"

	"github.com/rivo/uniseg"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/message"
)

func compose(t require.TestingT, text string, p message.Post, limit int) message.Message {
	m, err := message.Compose(wording(t, text), p, message.Hashtags{}, message.Limits{Graphemes: limit, Links: links})
	require.NoError(t, err)
	return m
}

func TestTextWithoutSpacesIsCutWhereItMay(t *testing.T) {
	japanese := strings.Repeat("冬の夜空を見上げると星が近い", 40)
	m := compose(t, "{excerpt} {link}", message.Post{Excerpt: japanese, Link: post.Link}, 287)
	room := 287 - 24 - 1
	excerpt := strings.TrimSuffix(m.Text, " "+post.Link)
	assert.Equal(t, room, message.Graphemes(excerpt), "all the room is used")
	assert.True(t, strings.HasSuffix(excerpt, "…"))
	assert.True(t, m.Fit.Excerpt)

	m = compose(t, "{title} {link}", message.Post{Title: strings.Repeat("星", 150), Link: post.Link}, 120)
	assert.Equal(t, strings.Repeat("星", 94)+"… "+post.Link, m.Text)

	m = compose(t, "{title}", message.Post{Title: strings.Repeat("a", 150)}, 95)
	assert.Equal(t, strings.Repeat("a", 94)+"…", m.Text)

	family := "👩‍👩‍👧"
	m = compose(t, "{title}", message.Post{Title: strings.Repeat(family, 90)}, 50)
	assert.Equal(t, strings.Repeat(family, 49)+"…", m.Text, "no grapheme is cut")

	m = compose(t, "{excerpt}", message.Post{Excerpt: "Look at the cafe\u0301 closely tonight"}, 17)
	assert.Equal(t, "Look at the cafe\u0301…", m.Text)
}

func TestAWordIsNotCutWhereOneEndsNearby(t *testing.T) {
	m := compose(t, "{excerpt}", message.Post{Excerpt: "Six bright stars, seen low; they can't be missed"}, 18)
	assert.Equal(t, "Six bright stars…", m.Text)
	m = compose(t, "{excerpt}", message.Post{Excerpt: "They can't be missed tonight"}, 11)
	assert.Equal(t, "They can't…", m.Text)
}

func TestTheFirstSentenceEndsWhereReadersEndIt(t *testing.T) {
	for text, line := range map[string]string{
		"冬の星。明日も晴れ。":                        "冬の星。",
		"Look up. Then down.":               "Look up.",
		"At 5.30 p.m. we open. Come along!": "At 5.30 p.m. we open.",
		"Wirklich? Ja.":                     "Wirklich?",
		"no end":                            "no end",
	} {
		m := compose(t, "{line}!", message.Post{Excerpt: text}, 0)
		assert.Equal(t, line+"!", m.Text)
	}
}

func TestExcerptsOfEveryScript(t *testing.T) {
	assert.Equal(t, strings.Repeat("夜空に星が多い。", 37), message.ExcerptOf(strings.Repeat("夜空に星が多い。", 60)),
		"37 sentences of 8 are 296")
	long := message.ExcerptOf(strings.Repeat("星", 400))
	assert.True(t, strings.HasSuffix(long, "…"))
	assert.LessOrEqual(t, message.Graphemes(long), 300)
	assert.Greater(t, message.Graphemes(long), 290)
}

func TestABlankMessageIsRefused(t *testing.T) {
	_, err := message.Compose(wording(t, "{line} {excerpt}"), message.Post{Title: "x"}, message.Hashtags{},
		message.Limits{})
	assert.ErrorContains(t, err, "empty")
}

func TestBytesAreBoundedBesideGraphemes(t *testing.T) {
	heavy := "e" + strings.Repeat("\u0301", 2000)
	limits := message.Limits{Graphemes: 320, Bytes: 8192}
	m, err := message.Compose(wording(t, "{title}: {excerpt}"), message.Post{Title: "Light", Excerpt: "One " + heavy +
		" " + heavy + " " + heavy}, message.Hashtags{}, limits)
	require.NoError(t, err)
	assert.LessOrEqual(t, len(m.Text), 8192)
	_, err = message.Compose(wording(t, heavy+heavy+heavy), message.Post{}, message.Hashtags{}, limits)
	assert.ErrorContains(t, err, "3811 over the channel’s limit of 8192 bytes")
}

// Whatever the script: a cut ends in an ellipsis, splits no grapheme and wastes no room
// beyond the next word.
func TestCutsSplitNoGrapheme(t *testing.T) {
	text := rapid.StringOfN(rapid.SampledFrom([]rune("ab é👩‍🚀🇨🇦नிக星の。ﾊﾞ\u0301, .-")), 1, 400, -1)
	rapid.Check(t, func(t *rapid.T) {
		whole := strings.Join(strings.Fields(text.Draw(t, "text")), " ")
		limit := rapid.IntRange(10, 200).Draw(t, "limit")
		m, err := message.Compose(wording(t, "{excerpt}|"), message.Post{Excerpt: whole}, message.Hashtags{},
			message.Limits{Graphemes: limit})
		require.NoError(t, err)
		require.LessOrEqual(t, message.Graphemes(m.Text), limit)
		got := strings.TrimSuffix(m.Text, "|")
		if got == whole || got == "" {
			return
		}
		kept, cut := strings.CutSuffix(got, "…")
		require.True(t, cut, "%q", got)
		require.True(t, strings.HasPrefix(whole, kept))
		at, state := 0, -1
		for rest := whole; at < len(kept); {
			var one string
			one, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
			at += len(one)
		}
		require.Equal(t, len(kept), at, "%q ends within a grapheme", kept)
	})
}
