package deed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/upkeep"
)

// The worlds below are small enough to be worked out by hand: what each expects is
// written from the rules of the job. Laws that compare core with itself cannot see a
// rule that is wrong in both places.

// again is a republish rule on a category, oldest first.
func again(t require.TestingT, id int64, atATime int) upkeep.Republish {
	return upkeep.Republish{RuleBase: base(t, id, inCategory("A")), AtATime: atATime, Order: upkeep.Oldest,
		Bounds: cadence.Bounds{Zone: halifax}}
}

// A post that was just brought out again is not old enough to be shared at that minute:
// republish rules have their turn before reshare rules.
func TestRepublishRulesHaveTheirTurnBeforeReshareRules(t *testing.T) {
	t.Parallel()
	s := blog(2)
	s.Rhythm.Gap = 1
	s.Republish = []upkeep.Republish{again(t, 5, 1)}
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Order, s.Reshare[0].Youngest = reshare.Oldest, condition.Span{N: 1, Unit: condition.Days}
	all, _ := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindRepublish, 1}, {"24 04:00", deed.KindShare, 2}}, all)
}

// Expiry rules have theirs before republish rules: what a rule takes away does not come
// out again at that minute.
func TestExpiryRulesHaveTheirTurnBeforeRepublishRules(t *testing.T) {
	t.Parallel()
	s := blog(10)
	s.Rhythm.Gap = 1
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 9, inCategory("A")), Action: upkeep.Archive, MostARun: 1,
		Allowed: 100}}
	s.Republish = []upkeep.Republish{again(t, 5, 1)}
	all, _ := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindArchive, 1}, {"24 04:00", deed.KindRepublish, 2}}, all)
}

func TestARepublishRuleBringsOutAsManyAsItSays(t *testing.T) {
	t.Parallel()
	for n, want := range map[int][]int64{1: {1}, 3: {1, 2, 3}, 9: {1, 2, 3, 4}} {
		s := blog(4)
		s.Rhythm.Gap = 1
		s.Republish = []upkeep.Republish{again(t, 5, n)}
		w := worldOf(s)
		d := w.Decide(day(24, "04:00"))
		require.NotNil(t, d.Run)
		var posts []int64
		for _, one := range d.Describe() {
			assert.Equal(t, deed.KindRepublish, one.Kind)
			posts = append(posts, one.Post)
		}
		assert.Equal(t, want, posts, n)
	}
}

// An editor agreed to a catch of six, of which two are taken a run: after two runs two of
// the agreement are left. Three posts more make a catch of five, and that is asked about.
func TestWhatAnEditorAgreedToIsUsedUp(t *testing.T) {
	t.Parallel()
	s := blog(10)
	for i := range 4 {
		s.Posts[i].Category = "B"
	}
	for i, clock := range []string{"12:00", "13:00", "14:00"} {
		post := int64(91 + i)
		s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: post, Due: day(25, clock)})
		s.Posts = append(s.Posts, &condition.Facts{Post: post, Status: "scheduled", Category: "A", Title: "New"})
	}
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 1, inCategory("A")), Action: upkeep.Archive, MostARun: 2, Allowed: 6}}
	all, runs := live(worldOf(s), day(24, "00:00"), day(27, "23:00"))
	assert.Equal(t, []happening{
		{"24 04:00", deed.KindArchive, 5}, {"24 04:00", deed.KindArchive, 6}, {"25 04:00", deed.KindArchive,
			7}, {"25 04:00", deed.KindArchive, 8},
		{"25 12:00", deed.KindPublish, 91}, {"25 13:00", deed.KindPublish, 92}, {"25 14:00", deed.KindPublish, 93},
		{"26 04:00", deed.KindAsk, 0},
	}, all, "and then it waits")
	require.Len(t, runs, 3)
	assert.Equal(t, "It would affect 5 posts of the blog's 9 published posts, more than a fifth.", runs[2].Asks)
}

// The first publication of a post stays what it was, however often it comes out again:
// a rule that goes by it takes the same order a year later.
func TestTheFirstPublicationIsKept(t *testing.T) {
	t.Parallel()
	s := blog(3)
	s.Rhythm.Gap = 1
	s.Republish = []upkeep.Republish{again(t, 5, 1)}
	all, _ := live(worldOf(s), day(24, "00:00"), day(27, "23:00"))
	assert.Equal(t, []happening{
		{"24 04:00", deed.KindRepublish, 1}, {"25 04:00", deed.KindRepublish, 1}, {"26 04:00", deed.KindRepublish,
			1}, {"27 04:00", deed.KindRepublish, 1},
	}, all, "the oldest is the one that came out first, and stays it")

	s.Republish[0].Apart = 2
	all, _ = live(worldOf(s), day(24, "00:00"), day(27, "23:00"))
	assert.Equal(t, []happening{
		{"24 04:00", deed.KindRepublish, 1}, {"25 04:00", deed.KindRepublish, 2}, {"26 04:00", deed.KindRepublish,
			1}, {"27 04:00", deed.KindRepublish, 2},
	}, all)
}

// Clicks count on their day and on as many days after it as the rule says, and then no
// longer: what a world remembers of a verdict is not good a day too long.
func TestClicksCountForAsManyDaysAsTheRuleSays(t *testing.T) {
	t.Parallel()
	clicked := condition.Node{Test: condition.Clicks, Match: condition.MatchOver, N: 5, Days: 3}
	s := blog(1)
	s.Posts[0].Clicks = []condition.DayClicks{{Date: halifax.DateOf(day(24, "12:00")), N: 20}}
	s.Reshare = []reshare.Reshare{sharing(t, 2, clicked, "{title}")}
	all, _ := live(worldOf(s), day(24, "00:00"), day(30, "23:00"))
	var days []string
	for _, one := range all {
		days = append(days, one.at)
	}
	assert.Equal(t, []string{"24 04:00", "25 04:00", "26 04:00"}, days, "three days, the one of the clicks among them")
}

// A post's own expiry, a rule's age and a deadline are good up to their minute, and at it
// they are over.
func TestAnAgeHoldsFromItsMinute(t *testing.T) {
	t.Parallel()
	old := condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 30, Unit: condition.Days}
	for at, caught := range map[string]bool{"03:59": false, "04:00": true, "04:01": true} {
		s := blog(10)
		for i := range s.Posts {
			s.Posts[i].Published = day(24, "12:00")
		}
		out := halifax.AddDays(day(24, "04:00"), -30)
		s.Posts[0].Published, s.Posts[0].FirstOut = out, out
		rule := base(t, 1, old)
		rule.Pace.Cadence = daily(at)
		s.Expire = []upkeep.Expire{{RuleBase: rule, Action: upkeep.Archive, Allowed: 100}}
		all, _ := live(worldOf(s), day(24, "00:00"), day(24, "12:00"))
		assert.Equal(t, caught, len(all) == 1, "at %s", at)
	}
	s := blog(1)
	s.Posts[0].Expires = day(24, "09:30")
	w := worldOf(s)
	assert.True(t, w.Decide(day(24, "09:29")).IsIdle())
	assert.Equal(t, day(24, "09:30"), w.Decide(day(24, "09:29")).Next)
	require.Len(t, w.Decide(day(24, "09:30")).Deeds, 1)
	assert.Equal(t, deed.KindArchive, w.Decide(day(24, "09:30")).Describe()[0].Kind)
}

// A rule shares a post as often as it says, and no more.
func TestARuleSharesAPostAsOftenAsItSays(t *testing.T) {
	t.Parallel()
	s := blog(1)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Most = 2
	all, _ := live(worldOf(s), day(24, "00:00"), day(28, "23:00"))
	assert.Len(t, all, 2, "two outings, and no third")
}
