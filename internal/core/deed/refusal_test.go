package deed_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/reshare"
)

func posts(all []happening) (ids []int64) {
	for _, h := range all {
		ids = append(ids, h.post)
	}
	return ids
}

func refusal(post int64, text string, at time.Time) deed.Refusal {
	return deed.Refusal{Channel: 1, Post: post, Text: text, At: at}
}

func TestARefusedMessageIsNotComeBackTo(t *testing.T) {
	s := blog(3)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Refusals = []deed.Refusal{refusal(1, "Post 1", day(24, "00:00"))}
	all, _ := live(worldOf(s), day(24, "00:00"), day(29, "00:00"))
	assert.NotContains(t, posts(all), int64(1))
	assert.Len(t, all, 5, "no turn is lost")

	s.Posts[0].Changed = day(24, "01:00")
	all, _ = live(worldOf(s), day(24, "00:00"), day(29, "00:00"))
	assert.Contains(t, posts(all), int64(1), "the post has changed since")

	s.Posts[0].Changed = day(1, "00:00")
	s.Reshare[0] = sharing(t, 2, inCategory("A"), "Look: {title}")
	all, _ = live(worldOf(s), day(24, "00:00"), day(29, "00:00"))
	assert.Contains(t, posts(all), int64(1), "the wording has changed since")
}

func TestTheTurnOfARefusedMessageGoesToTheNextPostAtOnce(t *testing.T) {
	s := blog(3)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}", "Again: {title}")}
	s.Reshare[0].Order = reshare.Oldest
	s.Reshare[0].Served, s.Reshare[0].Owed = day(24, "04:00"), day(24, "04:00")
	first := s.Reshare[0].Wording(deed.Case{Facts: s.Posts[0]})
	text := []string{"Post 1", "Again: Post 1"}[first]
	s.Refusals = []deed.Refusal{refusal(1, text, day(24, "04:01"))}
	w := worldOf(s)
	all, runs := live(w, day(24, "04:02"), day(24, "23:00"))
	assert.Equal(t, []happening{{"24 04:02", deed.KindShare, 2}}, all)
	require.Len(t, runs, 1)
	assert.Equal(t, day(24, "04:00").UTC(), runs[0].Due.UTC(), "it is the same turn")
	assert.Zero(t, ruleIn[*reshare.Reshare](t, w, 2).Owed)

	// At the next turn the post comes again, in the wording that was not refused.
	d := w.Decide(day(25, "04:00"))
	require.Len(t, d.Deeds, 1)
	assert.Equal(t, int64(1), d.Describe()[0].Post)
	assert.Equal(t, 1-first, d.Deeds[0].(deed.Share).Wording)
}

func TestWhenAllIsRefusedTheRuleSaysSo(t *testing.T) {
	s := blog(2)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0] = sharing(t, 2, inCategory("A"),
		"{title} and words of my own that make it much longer than a hundred characters, which nobody may take from me")
	_, runs := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	require.Len(t, runs, 1)
	assert.Equal(t, "None of the 2 messages that could go out fits the channel. The shortest of them is 7 characters over.", runs[0].Note)

	s = blog(2)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Refusals = []deed.Refusal{refusal(1, "Post 1", day(24, "00:00")), refusal(2, "Post 2", day(24, "00:00"))}
	_, runs = live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	require.Len(t, runs, 1)
	assert.Equal(t, "The network refused the messages of 2 posts.", runs[0].Note)
	assert.Equal(t, 2, runs[0].Refused)
}

// Wordings go round though one of them is refused.
func TestNoWordingComesAgainBeforeAllHaveBeen(t *testing.T) {
	s := blog(1)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "a {title}", "b {title}", "c {title}")}
	s.Refusals = []deed.Refusal{refusal(1, "b Post 1", day(24, "00:00"))}
	w := worldOf(s)
	var used []int
	for d := 24; d < 30; d++ {
		decision := w.Decide(day(d, "04:00"))
		require.Len(t, decision.Deeds, 1)
		used = append(used, decision.Deeds[0].(deed.Share).Wording)
		w.Apply(decision, day(d, "04:00"))
	}
	assert.NotContains(t, used, 1)
	for i := 1; i < len(used); i++ {
		assert.NotEqual(t, used[i-1], used[i])
	}
}
