package deed_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
)

// planned is an outing on Lantern that an editor planned.
func planned(t require.TestingT, id, post int64, at time.Time, text ...string) deed.Outing {
	w, err := message.ReadWording(strings.Join(append(text, "Look: {title}")[:1], ""))
	require.NoError(t, err)
	return deed.Outing{ID: id, Channel: 1, Post: post, At: at, Wording: w}
}

// An outing goes out at its time, quiet hours or not: an editor chose it.
func TestAPlannedOutingGoesOutAtItsTime(t *testing.T) {
	t.Parallel()
	s := blog(2)
	s.Channels[0].Quiet = cadence.Quiet{From: civil.MustClock("22:00"), To: civil.MustClock("07:00"), Zone: halifax}
	s.Planned = []deed.Outing{planned(t, 7, 2, day(25, "06:30")), planned(t, 6, 1, day(24, "12:10"),
		"Now: {title} {link}")}
	s.Link = func(f *condition.Facts) string {
		return fmt.Sprint("https://blog.example/", f.Post)
	}
	w := worldOf(s)
	assert.Equal(t, day(24, "12:10"), w.Decide(day(24, "00:00")).Next)
	d := w.Decide(day(24, "12:10"))
	require.Len(t, d.Deeds, 1)
	assert.Nil(t, d.Run, "it is no rule's turn")
	share := d.Deeds[0].(deed.Share)
	assert.Equal(t, deed.Base{Post: 1, Due: day(24, "12:10"), Reason: "Planned for this time on Lantern."}, share.Base)
	assert.EqualValues(t, 6, share.Outing)
	assert.Equal(t, "Now: Post 1 https://blog.example/1", share.Message.Text)
	all, _ := live(w, day(24, "00:00"), day(30, "00:00"))
	assert.Equal(t, []happening{{"24 12:10", deed.KindShare, 1}, {"25 06:30", deed.KindShare, 2}}, all)
	f, _ := w.Post(1)
	assert.Equal(t, 1, f.Shared)
}

func TestAPlannedOutingThatIsLateGoesOutAtOnceAndSaysSo(t *testing.T) {
	t.Parallel()
	s := blog(1)
	s.Planned = []deed.Outing{planned(t, 6, 1, day(24, "09:00"))}
	told := worldOf(s).Decide(day(24, "12:00")).Describe()
	require.Len(t, told, 1)
	assert.Equal(t, "Planned for this time on Lantern. It was 3 hours late, since nothing could send it before.",
		told[0].Reason)
}

// What cannot be sent is left out, with the reason; it stands in nobody's way afterwards.
func TestAPlannedOutingThatCannotGoOutIsSkipped(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		change func(*scene)
		says   string
	}{
		{func(s *scene) { s.Posts[0].Status = "archived" }, "Not sent: the post was not out at that time."},
		{func(s *scene) { s.Posts = nil }, "Not sent: the post was not out at that time."},
		{func(s *scene) { s.Channels = nil }, "Not sent: its channel is gone."},
		{func(s *scene) { s.Posts[0].Expires = day(24, "09:00") }, "Not sent: the post was not out at that time."},
		{func(s *scene) { s.Channels[0].Limits.Graphemes = 3 }, "Not sent: "},
		{func(s *scene) { s.Refusals = []deed.Refusal{refusal(1, "Look: Post 1", day(24, "00:00"))} },
			"Not sent: Lantern refused this message before."},
	} {
		s := blog(1)
		s.Planned = []deed.Outing{planned(t, 6, 1, day(24, "09:00"))}
		c.change(&s)
		w := worldOf(s)
		d := w.Decide(day(24, "09:00"))
		if d.Describe()[0].Kind == deed.KindArchive {
			w.Apply(d, day(24, "09:00"))
			d = w.Decide(day(24, "09:00"))
		}
		require.Len(t, d.Deeds, 1)
		skip := d.Deeds[0].(deed.Skip)
		assert.EqualValues(t, 6, skip.Outing)
		assert.Contains(t, skip.Reason, c.says)
		w.Apply(d, day(24, "09:00"))
		assert.True(t, w.Decide(day(24, "09:00")).IsIdle())
		assert.Empty(t, w.Scene().Planned)
	}
}

// A post that comes out at the minute of its outing is shared; one that is brought out by a
// rule of that minute too.
func TestAPlannedOutingComesAfterWhatBringsItsPostOut(t *testing.T) {
	t.Parallel()
	s := blog(0)
	s.Scheduled = []deed.Scheduled{{Post: 99, Due: day(24, "09:00")}}
	s.Posts = append(s.Posts, &condition.Facts{Post: 99, Status: "scheduled", Title: "New"})
	s.Planned = []deed.Outing{planned(t, 6, 99, day(24, "09:00"))}
	all, _ := live(worldOf(s), day(24, "00:00"), day(25, "00:00"))
	assert.Equal(t, []happening{{"24 09:00", deed.KindPublish, 99}, {"24 09:00", deed.KindShare, 99}}, all)
}

// The rule's turn of 04:00 gives way to the message planned for 04:10 (20 minutes apart),
// and what was planned counts among the messages of its day and of its post.
func TestARuleGoesOnAroundWhatIsPlanned(t *testing.T) {
	t.Parallel()
	s := blog(3)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Order, s.Reshare[0].Apart = reshare.Oldest, 2
	s.Planned = []deed.Outing{planned(t, 6, 1, day(24, "04:10"))}
	all, _ := live(worldOf(s), day(24, "00:00"), day(27, "23:00"))
	assert.Equal(t, []happening{
		{"24 04:10", deed.KindShare, 1}, {"24 04:30", deed.KindShare, 2}, {"25 04:00", deed.KindShare, 3}, {"27 04:00",
			deed.KindShare, 1},
	}, all, "on the 26th at 04:00 the first is not two days past")

	s = blog(3)
	s.Channels[0].ADay = 1
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Planned = []deed.Outing{planned(t, 6, 1, day(24, "18:00"))}
	all, _ = live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Equal(t, []happening{{"24 18:00", deed.KindShare, 1}}, all, "the one message of the day is the editor's")
}

// A stop of a tour that is to be held waits for an editor where its post is not out; where there is no post any more, nothing is left to wait for.
func TestAHeldStopWaitsForAnEditor(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		change func(*scene)
		kind   deed.Kind
	}{
		{func(*scene) {}, deed.KindShare},
		{func(s *scene) { s.Posts[0].Status = "archived" }, deed.KindSetAside},
		{func(s *scene) { s.Posts[0].Status = "binned" }, deed.KindSetAside},
		{func(s *scene) { s.Posts = nil }, deed.KindSkip},
	} {
		s := blog(1)
		o := planned(t, 6, 1, day(24, "12:10"))
		o.Extras.Hold = true
		s.Planned = []deed.Outing{o}
		c.change(&s)
		told := worldOf(s).Decide(day(24, "12:10")).Describe()
		require.Len(t, told, 1)
		assert.Equal(t, c.kind, told[0].Kind)
		if c.kind == deed.KindSetAside {
			assert.Equal(t, "Set aside, since the post was not out at that time.", told[0].Reason)
		}
	}
}
