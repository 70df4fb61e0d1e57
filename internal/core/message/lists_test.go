package message_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/message"
)

func wordingOf(t *testing.T, text string) message.Wording {
	w, err := message.ReadWording(text)
	require.NoError(t, err)
	return w
}

func TestAlternativesAreDrawnBySeed(t *testing.T) {
	t.Parallel()
	lists, found := message.ReadLists(map[string][]string{
		"hello": {"Look up:", "{one-of:time}, look up:", "Once more:"},
		"time":  {"Tonight", "This evening"}})
	require.Empty(t, found)
	w := wordingOf(t, "{one-of:hello} {title} {one-of:nothing}")
	assert.Equal(t, []string{"nothing"}, w.Missing(lists))
	seen := make(map[string]int)
	for seed := range uint64(4000) {
		m, err := message.Compose(w.Draw(lists, seed), message.Post{Title: "Six stars"}, message.Hashtags{}, message.Limits{})
		require.NoError(t, err)
		seen[m.Text]++
		again, err := message.Compose(w.Draw(lists, seed), message.Post{Title: "Six stars"}, message.Hashtags{}, message.Limits{})
		require.NoError(t, err)
		require.Equal(t, m, again)
	}
	require.Len(t, seen, 4)
	assert.InDelta(t, 1333, seen["Look up: Six stars"], 120, "a third")
	assert.InDelta(t, 667, seen["Tonight, look up: Six stars"], 100, "a half of a third")
}

func TestListsThatAreRefused(t *testing.T) {
	t.Parallel()
	for says, lists := range map[string]map[string][]string{
		`The list "a" comes back to itself: a → b → c → a.`: {"a": {"x", "{one-of:b}"}, "b": {"{one-of:c}"},
			"c": {"y {one-of:a}"}},
		`The list "a" comes back to itself: a → a.`:               {"a": {"{one-of:a}"}},
		`The list "a" asks for {one-of:b}, which there is not.`:   {"a": {"{one-of:b}"}},
		`Entry 2 of the list "a": There is a } on its own.`:       {"a": {"x", "}"}},
		`The list "a" has 0 entries; it needs 1 to 1000.`:         {"a": {}},
		`The name of a list has 1 to 60 characters and no braces`: {"a}": {"x"}},
	} {
		_, found := message.ReadLists(lists)
		require.NotEmpty(t, found, says)
		assert.Contains(t, found[0].Message, says)
		assert.Contains(t, lists, found[0].Path)
	}
}

// Lists of lists of lists that would grow without end come to an end.
func TestListsDoNotGrowWithoutEnd(t *testing.T) {
	t.Parallel()
	texts := map[string][]string{"l0": {"x"}}
	for i := 1; i < 40; i++ {
		texts[fmt.Sprint("l", i)] = []string{strings.Repeat(fmt.Sprintf("{one-of:l%d} ", i-1), 10)}
	}
	lists, found := message.ReadLists(texts)
	require.Empty(t, found)
	m, err := message.Compose(wordingOf(t, "{one-of:l39}").Draw(lists, 1), message.Post{}, message.Hashtags{}, message.Limits{})
	require.NoError(t, err)
	assert.Less(t, len(m.Text), 3000)
}

func TestTextsAroundAMessage(t *testing.T) {
	t.Parallel()
	w := wordingOf(t, "{title} {link}")
	m, err := message.Compose(w.Between("{not} read:", "– the dome"), message.Post{Title: "Six stars over the hill", Link: "https://a.example/b"},
		message.Hashtags{}, message.Limits{Graphemes: 60})
	require.NoError(t, err)
	assert.Equal(t, "{not} read: Six stars over… https://a.example/b – the dome", m.Text, "they are the editor's own words")
	assert.Equal(t, w, w.Between("", ""))
}

func TestLinkParametersOfChannelAndRule(t *testing.T) {
	t.Parallel()
	channel := []message.Param{{Name: "utm_source", Value: "{channel}"}, {Name: "utm_medium", Value: "social"}}
	rule := []message.Param{{Name: "utm_medium", Value: "reshare"}, {Name: "utm_content", Value: "{rule}-{wording}"}}
	assert.Equal(t, []message.Param{{Name: "utm_source", Value: "dome-on-hearth"}, {Name: "utm_medium", Value: "reshare"},
		{Name: "utm_content", Value: "old-favourites-2"}},
		message.FillParams(message.MergeParams(channel, rule), "Dome on Hearth", "Old favourites", 1))
	assert.Equal(t, "social", channel[1].Value, "the channel's own stay as they are")
}

func TestWhichPictureIsThere(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		picture          message.Picture
		featured, inText bool
		want             bool
	}{
		{message.Picture{}, true, false, true}, {message.Picture{}, false, true, false},
		{message.Picture{From: message.FeaturedPicture}, true, true, true},
		{message.Picture{From: message.TextPicture}, false, true, true},
		{message.Picture{From: message.TextPicture}, true, false, false},
		{message.Picture{From: message.ThisPicture}, true, true, false},
		{message.Picture{From: message.ThisPicture, ID: 3}, false, false, true},
		{message.Picture{From: message.NoPicture}, true, true, false},
	} {
		assert.Equal(t, c.want, c.picture.IsThere(c.featured, c.inText), c)
	}
}
