package deed_test

import (
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

// three are three channels; the second asks for 90 minutes between messages, the third is
// quiet until noon.
func three() []deed.Channel {
	a, b, c := lantern(), lantern(), lantern()
	b.ID, b.Name, b.Apart = 2, "Hearth", 90
	c.ID, c.Name = 3, "Crier"
	c.Quiet = cadence.Quiet{From: civil.MustClock("22:00"), To: civil.MustClock("12:00"), Zone: halifax}
	return []deed.Channel{a, b, c}
}

// sent is a message as these tests compare it.
type sent struct {
	at      string
	channel int64
	post    int64
}

// messages lists what is said from a moment to another.
func messages(w *deed.World, from, to time.Time) (all []sent) {
	for at := from; !at.After(to); {
		d := w.Decide(at)
		for _, one := range d.Describe() {
			if one.Effect == deed.Said {
				all = append(all, sent{halifax.In(at).Format("02 15:04"), one.Channel, one.Post})
			}
		}
		if w.Apply(d, at); !d.IsIdle() {
			continue
		}
		if d.Next.IsZero() {
			break
		}
		at = d.Next
	}
	return all
}

func onThree(t *testing.T, posts int, mode reshare.Mode) scene {
	s := blog(posts)
	s.Channels = three()
	r := sharing(t, 2, inCategory("A"), "{title}")
	r.Channels, r.Mode, r.Order, r.Between, r.Apart = []int64{1, 2, 3}, mode, reshare.Oldest, 30, 3
	s.Reshare = []reshare.Reshare{r}
	return s
}

func TestSeveralChannelsOfARule(t *testing.T) {
	t.Parallel()
	from, to := day(24, "00:00"), day(26, "23:00")
	assert.Equal(t, []sent{{"24 12:00", 1, 1}, {"24 12:00", 2, 1}, {"24 12:00", 3, 1}, {"25 12:00", 1, 2},
		{"25 12:00", 2, 2}, {"25 12:00", 3, 2}, {"26 12:00", 1, 3}, {"26 12:00", 2, 3}, {"26 12:00", 3, 3}},
		messages(worldOf(onThree(t, 3, reshare.Together)), from, to), "all wait for the one that is quiet until noon")
	assert.Equal(t, []sent{{"24 04:00", 1, 1}, {"25 04:00", 2, 2}, {"26 12:00", 3, 3}},
		messages(worldOf(onThree(t, 3, reshare.InTurn)), from, to))
	assert.Equal(t, []sent{{"24 04:00", 1, 1}, {"24 04:30", 2, 1}, {"24 12:00", 3, 1}, {"25 04:00", 1, 2},
		{"25 04:30", 2, 2}, {"25 12:00", 3, 2}, {"26 04:00", 1, 3}, {"26 04:30", 2, 3}, {"26 12:00", 3, 3}},
		messages(worldOf(onThree(t, 3, reshare.Staggered)), from, to), "an hour after 04:00 the third is quiet")

	s := onThree(t, 3, reshare.InTurn)
	s.Reshare[0].Spoke = 2
	assert.EqualValues(t, 3, messages(worldOf(s), from, to)[0].channel, "the one after the one that spoke last")
	s = onThree(t, 3, reshare.Together)
	s.Channels[2].Silent = true
	assert.Equal(t, []sent{{"24 04:00", 1, 1}, {"24 04:00", 2, 1}}, messages(worldOf(s), from, day(24, "23:00")),
		"a silent channel is left out and keeps nobody waiting")
	for i := range s.Channels {
		s.Channels[i].Silent = true
	}
	assert.Empty(t, messages(worldOf(s), from, to))
}

// Three posts a turn do not all go out at its minute: each of them waits for its channel.
func TestSeveralPostsOfATurn(t *testing.T) {
	t.Parallel()
	s := onThree(t, 5, reshare.Together)
	s.Reshare[0].Channels, s.Reshare[0].AtATime = []int64{1, 2}, 3
	w := worldOf(s)
	d := w.Decide(day(24, "04:00"))
	require.Equal(t, 3, d.Run.Took)
	assert.Equal(t, []sent{{"24 04:00", 1, 1}, {"24 04:00", 2, 1}, {"24 04:20", 1, 2}, {"24 04:40", 1, 3},
		{"24 05:30", 2, 2}, {"24 07:00", 2, 3}, {"25 04:00", 1, 4}, {"25 04:00", 2, 4}, {"25 04:20", 1, 5},
		{"25 05:30", 2, 5}}, messages(w, day(24, "00:00"), day(25, "23:00")))
}

// A turn that an editor took in hand is no turn of the rule any more; what was moved counts at
// its new time, and its post does not go out by the rule before.
func TestARuleGoesOnAroundATurnInHand(t *testing.T) {
	t.Parallel()
	s := blog(3)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Order, s.Reshare[0].Apart = reshare.Oldest, 2
	moved := planned(t, 9, 1, day(26, "18:00"))
	moved.Rule, moved.Origin, moved.Turn = 2, deed.ByRule, day(24, "04:00")
	s.Planned, s.InHand = []deed.Outing{moved}, []deed.InHand{{Rule: 2, Turn: day(24, "04:00")}}
	w := worldOf(s)
	assert.Equal(t, []happening{{"25 04:00", deed.KindShare, 2}, {"26 04:00", deed.KindShare, 3},
		{"26 18:00", deed.KindShare, 1}, {"27 04:00", deed.KindShare, 2}, {"28 04:00", deed.KindShare, 3},
		{"29 04:00", deed.KindShare, 1}}, first(live(w, day(24, "00:00"), day(29, "12:00"))))

	// Skipped: a turn without an outing, and nothing else.
	s.Planned = nil
	all, _ := live(worldOf(s), day(24, "00:00"), day(26, "12:00"))
	assert.Equal(t, []happening{{"25 04:00", deed.KindShare, 1}, {"26 04:00", deed.KindShare, 2}}, all)

	verdict := w.Why(2, 1, day(30, "00:00"))
	assert.False(t, verdict.Caught)
	w = worldOf(scene{Scene: deed.Scene{Zone: halifax, Posts: s.Posts, Channels: s.Channels, Planned: []deed.Outing{moved}},
		Reshare: s.Reshare})
	assert.Contains(t, w.Why(2, 1, day(24, "00:00")).String(), "planned to go out by this rule on Thu 26 Nov")
}

func first(all []happening, _ []deed.Run) []happening { return all }

// A post that an editor planned to share on Thursday is not shared by the rule on the days
// before that are too near.
func TestARuleKeepsItsDaysFromWhatIsPlannedOfAPost(t *testing.T) {
	t.Parallel()
	s := blog(1)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Apart = 2
	s.Planned = []deed.Outing{planned(t, 9, 1, day(28, "12:00"))}
	all, _ := live(worldOf(s), day(24, "00:00"), day(30, "23:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindShare, 1}, {"26 04:00", deed.KindShare, 1},
		{"28 12:00", deed.KindShare, 1}}, all[:3], "the 26th at 04:00 is two days and eight hours before")
	assert.Equal(t, "30 12:00", worldOf(s).Scene().Zone.In(day(30, "12:00")).Format("02 15:04"))
	assert.Len(t, all, 3, "on the 30th at 04:00 the two days are not over")
}

// A reply goes under its message so many minutes after it went out, whatever the channel asks
// for; it counts neither as a message of the channel nor as an outing of the post.
func TestARepliesFollow(t *testing.T) {
	t.Parallel()
	s := blog(2)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Order, s.Reshare[0].Apart = reshare.Oldest, 2
	again, err := message.ReadWording("Read it here: {link}")
	require.NoError(t, err)
	s.Link = func(f *condition.Facts) string { return "https://blog.example/" + f.Title }
	s.Reshare[0].Reply = &deed.Reply{After: 5, Wording: again}
	w := worldOf(s)
	d := w.Decide(day(24, "04:00"))
	require.Len(t, d.Deeds, 1)
	w.Apply(d, day(24, "04:00"))
	waiting := w.Planned()
	require.Len(t, waiting, 1)
	assert.NotZero(t, waiting[0].Parent)
	d = w.Decide(day(24, "04:05"))
	require.Len(t, d.Deeds, 1)
	reply := d.Deeds[0].(deed.Share)
	assert.Equal(t, "Read it here: https://blog.example/Post 1", reply.Message.Text)
	assert.Equal(t, "The reply that follows the message on Lantern.", reply.Reason)
	assert.Equal(t, waiting[0].Parent, reply.Parent)
	w.Apply(d, day(24, "04:05"))
	f, _ := w.Post(1)
	assert.Equal(t, 1, f.Shared)
	assert.Empty(t, w.Planned())
	all, _ := live(worldOf(s), day(24, "00:00"), day(25, "04:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindShare, 1}, {"24 04:05", deed.KindShare, 1},
		{"25 04:00", deed.KindShare, 2}}, all)
}

// What a site announces is planned as its post comes out, at the first minute from then on that
// the channel allows.
func TestPublicationsAreAnnounced(t *testing.T) {
	t.Parallel()
	s := blog(0)
	s.Channels = three()
	say := func(text string) message.Wording {
		w, err := message.ReadWording(text)
		require.NoError(t, err)
		return w
	}
	s.Announcements = []deed.Announcement{{Channel: 1, Wording: say("New: {title}")},
		{Channel: 2, After: 45, Wording: say("{title}")}, {Channel: 3, After: 10, Wording: say("{title}")}}
	s.OwnAnnouncements = map[int64][]deed.Announcement{92: nil, 93: {{Channel: 1, After: 1, Wording: say("Only here")}}}
	for i, kind := range []string{"post", "page", "post", "post"} {
		id := int64(90 + i)
		s.Posts = append(s.Posts, &condition.Facts{Post: id, Kind: kind, Status: "scheduled", Title: "New"})
		s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: id, Due: day(24, "09:00")})
	}
	w := worldOf(s)
	assert.Equal(t, []sent{{"24 09:00", 1, 90}, {"24 09:20", 1, 93}, {"24 09:45", 2, 90}, {"24 12:00", 3, 90}},
		messages(w, day(24, "00:00"), day(25, "00:00")), "pages, and posts with a say of their own, are left alone")
	w = worldOf(s)
	w.Apply(w.Decide(day(24, "09:00")), day(24, "09:00"))
	told := w.Decide(day(24, "09:00")).Describe()
	assert.Equal(t, "Planned on Hearth for Tue 24 Nov, 09:45, since the post came out.", told[3].Reason)
	assert.Equal(t, deed.KindPlan, told[3].Kind)
	assert.Equal(t, deed.NothingOf, told[3].Effect)
}

// What a post says of itself comes before the rule's wordings, for its channel before all.
func TestAPostHasWordingsOfItsOwn(t *testing.T) {
	t.Parallel()
	s := onThree(t, 2, reshare.Together)
	s.Reshare[0].ByChannel = map[int64][]message.Wording{}
	w, err := message.ReadWording("On Hearth: {title}")
	require.NoError(t, err)
	s.Reshare[0].ByChannel[2] = []message.Wording{w}
	s.Posts[1].Wordings = []condition.OwnWording{{Text: "Mine"}, {Channel: 3, Text: "Mine on Crier"}}
	s.Channels[0].Habits = message.Habits{Before: "★", After: "(QM)"}
	world := worldOf(s)
	texts := make(map[sent]string)
	for at := day(24, "12:00"); at.Before(day(26, "00:00")); at = at.Add(24 * time.Hour) {
		d := world.Decide(at)
		for _, one := range d.Describe() {
			texts[sent{channel: one.Channel, post: one.Post}] = one.Text
		}
		world.Apply(d, at)
	}
	assert.Equal(t, map[sent]string{
		{channel: 1, post: 1}: "★ Post 1 (QM)", {channel: 2, post: 1}: "On Hearth: Post 1", {channel: 3, post: 1}: "Post 1",
		{channel: 1, post: 2}: "★ Mine (QM)", {channel: 2, post: 2}: "Mine", {channel: 3, post: 2}: "Mine on Crier",
	}, texts)
}

// After an outage what is late goes out one after another, at the channel's distance; what is on
// time stays at its minute. A reply is not held up.
func TestLateOutingsDoNotFlood(t *testing.T) {
	t.Parallel()
	s := blog(6)
	for i, clock := range []string{"09:00", "09:30", "10:00", "12:10"} {
		s.Planned = append(s.Planned, planned(t, int64(i+1), int64(i+1), day(24, clock)))
	}
	reply := planned(t, 9, 5, day(24, "09:05"))
	reply.Parent = 77
	s.Planned = append(s.Planned, reply)
	at := day(24, "12:00")
	assert.Equal(t, []sent{{"24 12:00", 1, 5}, {"24 12:10", 1, 4}, {"24 12:30", 1, 1}, {"24 12:50", 1, 2},
		{"24 13:10", 1, 3}}, messages(worldOf(s), at, day(24, "23:00")), "at 12:00 a message would be too near to 12:10")

	s.CatchUp, s.Fresh = deed.AtOnceIfFresh, 140*time.Minute
	all, _ := live(worldOf(s), at, day(24, "23:00"))
	assert.Equal(t, []happening{{"24 12:00", deed.KindSetAside, 1}, {"24 12:00", deed.KindSetAside, 5},
		{"24 12:00", deed.KindSetAside, 2}, {"24 12:00", deed.KindPlan, 3}, {"24 12:10", deed.KindShare, 4},
		{"24 12:30", deed.KindShare, 3}}, all, "what was fresh when the site could send again is not set aside for waiting its turn")
	s.CatchUp = deed.HoldForMe
	d := worldOf(s).Decide(at)
	require.Len(t, d.Deeds, 4)
	assert.Equal(t, "Set aside, since the site holds what is overdue for an editor. It was 3 hours late, since nothing could send it before.",
		d.Describe()[0].Reason)
}

// What waits for a channel that is silent stays where it is, and is late when the channel
// speaks again.
func TestASilentChannelHoldsItsOutings(t *testing.T) {
	t.Parallel()
	s := blog(1)
	s.Channels[0].Silent = true
	s.Planned = []deed.Outing{planned(t, 1, 1, day(24, "09:00"))}
	w := worldOf(s)
	assert.Equal(t, deed.Decision{}, w.Decide(day(24, "12:00")))
	s.Channels[0].Silent = false
	assert.Equal(t, "24 12:00", messages(worldOf(s), day(24, "12:00"), day(25, "00:00"))[0].at)
}

func TestOnceRoundThenStop(t *testing.T) {
	t.Parallel()
	s := blog(3)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Once = true
	s.Reshare[0].Picked = map[int64]bool{1: true, 3: true}
	w := worldOf(s)
	all, runs := live(w, day(24, "00:00"), day(30, "00:00"))
	assert.Equal(t, []int64{1, 3}, sorted(posts(all)))
	require.Len(t, runs, 3)
	assert.Equal(t, "Every post has been shared once, so the rule is off.", runs[2].Ends)
	assert.False(t, ruleIn[*reshare.Reshare](t, w, 2).Armed)
	assert.Contains(t, w.Why(2, 2, day(30, "00:00")).String(), "not one of the posts picked")
	assert.Contains(t, w.Why(2, 1, day(30, "00:00")).String(), "this rule has shared it once")
}

func sorted(ids []int64) []int64 {
	if len(ids) == 2 && ids[0] > ids[1] {
		return []int64{ids[1], ids[0]}
	}
	return ids
}

func TestFromAndUntil(t *testing.T) {
	t.Parallel()
	s := blog(9)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].From, s.Reshare[0].Until = day(26, "00:00"), day(28, "04:00")
	all, _ := live(worldOf(s), day(24, "00:00"), day(30, "00:00"))
	require.Len(t, all, 2)
	assert.Equal(t, []string{"26 04:00", "27 04:00"}, []string{all[0].at, all[1].at})
}

// The turn that is taken again speaks only where it was refused.
func TestARefusalOnOneChannelOfThree(t *testing.T) {
	t.Parallel()
	s := onThree(t, 3, reshare.Together)
	r := &s.Reshare[0]
	r.Served, r.Owed, r.OwedOn = day(24, "12:00"), day(24, "12:00"), []int64{2}
	s.Refusals = []deed.Refusal{{Channel: 2, Post: 1, Text: "Post 1", At: day(24, "12:01")}}
	s.Pasts = []deed.Record{{Rule: 2, Channel: 1, Post: 1, N: 1, Last: day(24, "12:00")}, {Rule: 2, Channel: 3, Post: 1,
		N: 1, Last: day(24, "12:00")}}
	assert.Equal(t, []sent{{"24 12:02", 2, 2}}, messages(worldOf(s), day(24, "12:02"), day(24, "23:00")))
}

// A message of no post, about a page elsewhere, goes out like any other; it may be counted by
// a short link.
func TestAMessageOfItsOwn(t *testing.T) {
	t.Parallel()
	s := blog(0)
	o := planned(t, 4, 0, day(24, "09:00"), "{title}: {link}")
	o.Item = deed.Item{Title: "The comet is back", Link: "https://sky.example/comet?from=us"}
	o.Extras.Params = []message.Param{{Name: "utm_source", Value: "{channel}"}}
	s.Planned = []deed.Outing{o}
	d := worldOf(s).Decide(day(24, "09:00"))
	require.Len(t, d.Deeds, 1)
	assert.Equal(t, "The comet is back: https://sky.example/comet?from=us&utm_source=lantern", d.Describe()[0].Text)
	s.Short = func(code string) string { return "https://blog.example/s/" + code }
	s.Channels[0].Habits.Short = true
	d = worldOf(s).Decide(day(24, "09:00"))
	assert.Regexp(t, `^The comet is back: https://blog.example/s/[0-9a-z]{10}$`, d.Describe()[0].Text)
	assert.Equal(t, "https://sky.example/comet?from=us", d.Deeds[0].(deed.Share).Item.Link)
}
