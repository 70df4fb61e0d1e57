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
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/upkeep"
)

// old is a rule on all posts of the category A that does something to them daily at 04:00.
func old(t *testing.T, action upkeep.Action, with upkeep.Extras) scene {
	s := blog(2)
	s.Posts[1].Category = "Z"
	s.Posts[0].CommentsOpen, s.Posts[0].Tags = true, []string{"hill", "zeta"}
	s.Live = map[int64]revise.Text{1: {Title: "Post 1", Category: 3, Tags: []string{"hill", "zeta"}}}
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 7, inCategory("A")), Action: action, With: with, Allowed: 9}}
	return s
}

// Each action does one thing to a post, once: a post that is so already is left alone.
func TestWhatEachActionDoes(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		action upkeep.Action
		with   upkeep.Extras
		kind   deed.Kind
		after  func(f *condition.Facts) any
		want   any
	}{
		"another category": {upkeep.ToCategory, upkeep.Extras{Category: 4, CategoryName: "Attic"}, deed.KindRefile,
			func(f *condition.Facts) any { return f.Category }, "Attic"},
		"a tag": {upkeep.AddTag, upkeep.Extras{Tag: "old news"}, deed.KindAddTag,
			func(f *condition.Facts) any { return f.Tags }, []string{"hill", "old news", "zeta"}},
		"a notice": {upkeep.PutNotice, upkeep.Extras{Notice: "Of {published}, marked {date}."}, deed.KindPutNotice,
			func(f *condition.Facts) any { return f.Notice }, "Of 22 October 2026, marked 24 November 2026."},
		"the usual notice": {upkeep.PutNotice, upkeep.Extras{}, deed.KindPutNotice,
			func(f *condition.Facts) any { return f.Notice }, "This is from 22 October 2026. What it says may no longer hold."},
		"comments closed": {upkeep.CloseComments, upkeep.Extras{}, deed.KindCloseComments,
			func(f *condition.Facts) any { return f.CommentsOpen }, false},
		"archived": {upkeep.Archive, upkeep.Extras{}, deed.KindArchive, func(f *condition.Facts) any { return f.Status }, "archived"},
	} {
		w := worldOf(old(t, c.action, c.with))
		all, runs := live(w, day(24, "00:00"), day(26, "05:00"))
		assert.Equal(t, []happening{{"24 04:00", c.kind, 1}}, all, name)
		require.Len(t, runs, 3, name)
		assert.Equal(t, []int{1, 0, 0}, []int{runs[0].Took, runs[1].Took, runs[2].Took}, name)
		f, _ := w.Post(1)
		assert.Equal(t, c.want, c.after(f), name)
	}
}

func TestARuleDoesNotDoWhatIsDone(t *testing.T) {
	t.Parallel()
	for says, c := range map[string]struct {
		action upkeep.Action
		with   upkeep.Extras
		is     func(f *condition.Facts)
	}{
		"it is in a already":                                          {upkeep.ToCategory, upkeep.Extras{CategoryName: "A"}, func(f *condition.Facts) { f.Category = "a" }},
		"it has the tag “Old News” already":                           {upkeep.AddTag, upkeep.Extras{Tag: "Old News"}, func(f *condition.Facts) { f.Tags = []string{"old-news"} }},
		"it has a notice already":                                     {upkeep.PutNotice, upkeep.Extras{}, func(f *condition.Facts) { f.Notice = "Moved." }},
		"its comments are closed already":                             {upkeep.CloseComments, upkeep.Extras{}, func(f *condition.Facts) { f.CommentsOpen = false }},
		"it is marked as never expiring":                              {upkeep.AddTag, upkeep.Extras{Tag: "x"}, func(f *condition.Facts) { f.NeverExpires = true }},
		"it is kept until Thu 3 Dec":                                  {upkeep.Archive, upkeep.Extras{}, func(f *condition.Facts) { f.KeptUntil = day(24, "00:00").AddDate(0, 0, 9) }},
		"it is published; only posts in the bin are deleted for good": {upkeep.Delete, upkeep.Extras{}, func(*condition.Facts) {}},
	} {
		s := old(t, c.action, c.with)
		c.is(s.Posts[0])
		w := worldOf(s)
		assert.Equal(t, says, w.Why(7, 1, day(24, "03:00")).String())
		all, _ := live(w, day(24, "00:00"), day(25, "05:00"))
		assert.Empty(t, all, says)
	}
}

// A post that is kept for a while is taken at the first turn after that.
func TestAPostIsKeptForAWhile(t *testing.T) {
	t.Parallel()
	s := old(t, upkeep.Archive, upkeep.Extras{})
	s.Posts[0].KeptUntil = day(26, "04:00")
	s.Posts[1].Expires, s.Posts[1].KeptUntil = day(24, "09:00"), day(25, "10:30")
	all, _ := live(worldOf(s), day(24, "00:00"), day(28, "00:00"))
	assert.Equal(t, []happening{{"25 10:30", deed.KindArchive, 2}, {"26 04:00", deed.KindArchive, 1}}, all)
}

func TestWhatReadersOfAnArchivedPostGet(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		with upkeep.Extras
		want post.Answer
		to   int64
	}{
		{upkeep.Extras{}, post.Page, 0},
		{upkeep.Extras{Answer: post.Gone, LeadsTo: 2}, post.Gone, 2},
		{upkeep.Extras{Answer: post.Elsewhere, LeadsTo: 2}, post.Elsewhere, 2},
		{upkeep.Extras{Answer: post.Elsewhere}, post.Page, 0},             // that post was deleted
		{upkeep.Extras{Answer: post.Elsewhere, LeadsTo: 1}, post.Page, 0}, // it leads to itself
	} {
		d := worldOf(old(t, upkeep.Archive, c.with)).Decide(day(24, "04:00"))
		require.Len(t, d.Deeds, 1)
		archive := d.Deeds[0].(deed.Archive)
		assert.Equal(t, []any{c.want, c.to, "This page was archived on 24 November 2026. What it says may no longer hold."},
			[]any{archive.Answer, archive.LeadsTo, archive.Notice})
	}
}

func TestARuleWhoseCategoryIsGoneAsks(t *testing.T) {
	t.Parallel()
	w := worldOf(old(t, upkeep.ToCategory, upkeep.Extras{Category: 4}))
	all, runs := live(w, day(24, "00:00"), day(27, "00:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindAsk, 0}}, all)
	assert.Equal(t, "The category that it moves posts to was deleted. Choose another.", runs[0].Asks)
}

// A rule with two days' notice takes what was 30 days old: authors are told at the first turn from 28 days on, and the
// post goes at the first turn that is two days later.
func TestAuthorsAreToldBefore(t *testing.T) {
	t.Parallel()
	s := blog(1) // out on 23 October at noon
	age := condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 34, Unit: condition.Days}
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 7, age), Action: upkeep.Archive, TellDays: 2, Allowed: 9}}
	w := worldOf(s)
	all, runs := live(w, day(24, "00:00"), day(30, "00:00"))
	// 34 days old on the 26th at noon: not at 04:00 of the 24th, two days ahead, but at that of the 25th.
	assert.Equal(t, []happening{{"25 04:00", deed.KindWarn, 1}, {"27 04:00", deed.KindArchive, 1}}, all)
	assert.Equal(t, []int{0, 0, 0, 1}, []int{runs[0].Took, runs[1].Took, runs[2].Took, runs[3].Took})
	assert.Equal(t, []string{"No post matches.", "Authors were told of 1 post.", "The authors of what matches were told not long enough ago.", ""},
		[]string{runs[0].Note, runs[1].Note, runs[2].Note, runs[3].Note})
}

func TestWhenAnAuthorIsToldAnew(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		told, published, changed, kept time.Time
		want                           []happening
	}{
		"never told":             {want: []happening{{"24 04:00", deed.KindWarn, 1}, {"26 04:00", deed.KindArchive, 1}}},
		"told, to the minute":    {told: day(22, "04:00"), want: []happening{{"24 04:00", deed.KindArchive, 1}}},
		"told a minute too late": {told: day(22, "04:01"), want: []happening{{"25 04:00", deed.KindArchive, 1}}},
		"it came out again since": {told: day(1, "00:00"), published: day(2, "00:00"),
			want: []happening{{"24 04:00", deed.KindWarn, 1}, {"26 04:00", deed.KindArchive, 1}}},
		"it was changed since": {told: day(20, "00:00"), changed: day(21, "00:00"),
			want: []happening{{"24 04:00", deed.KindWarn, 1}, {"26 04:00", deed.KindArchive, 1}}},
		"too long ago": {told: day(22, "03:59").AddDate(0, 0, -90), changed: day(1, "00:00").AddDate(0, -6, 0), published: day(1, "00:00").AddDate(0, -6, 0),
			want: []happening{{"24 04:00", deed.KindWarn, 1}, {"26 04:00", deed.KindArchive, 1}}},
		"kept for longer than that": {kept: day(27, "12:00"), want: []happening{{"26 04:00", deed.KindWarn, 1}, {"28 04:00", deed.KindArchive, 1}}},
	} {
		s := old(t, upkeep.Archive, upkeep.Extras{})
		s.Expire[0].TellDays = 2
		if !c.told.IsZero() {
			s.Pasts = []deed.Record{{Rule: 7, Post: 1, Told: c.told}}
		}
		if !c.published.IsZero() {
			s.Posts[0].Published = c.published
		}
		if !c.changed.IsZero() {
			s.Posts[0].Changed = c.changed
		}
		s.Posts[0].KeptUntil = c.kept
		all, _ := live(worldOf(s), day(24, "00:00"), day(29, "00:00"))
		assert.Equal(t, c.want, all, name)
	}
}

func TestTheBinIsEmptied(t *testing.T) {
	t.Parallel()
	s := blog(3)
	s.Binned = []deed.Binned{{Post: 9, At: day(20, "10:00").Add(30 * time.Second)}, {Post: 8, At: day(19, "23:00")}}
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 7, inCategory("A")), Action: upkeep.Bin, MostARun: 1, Allowed: 9}}
	s.Planned = []deed.Outing{planned(t, 4, 1, day(30, "12:00"))}
	s.Edits = []deed.Edit{{ID: 5, Post: 9, At: day(29, "00:00")}}
	all, _ := live(worldOf(s), day(24, "00:00"), day(25, "03:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindBin, 1}}, all, "there is no limit")
	s.BinDays = 5
	w := worldOf(s)
	all, _ = live(w, day(24, "00:00"), day(29, "12:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindBin, 1}, {"24 23:00", deed.KindDelete, 8}, {"25 04:00", deed.KindBin, 2},
		{"25 10:01", deed.KindDelete, 9}, {"26 04:00", deed.KindBin, 3}, {"29 04:00", deed.KindDelete, 1}}, all,
		"what is deleted takes its edit and its planned message along")
	f, _ := w.Post(1)
	assert.Equal(t, "deleted", f.Status)
	assert.False(t, stillPlanned(w, 4))
}

// A rule deletes for good out of the bin, and nothing else.
func TestARuleDeletesOutOfTheBin(t *testing.T) {
	t.Parallel()
	s := blog(2)
	s.Posts[0].Status = "binned"
	s.Binned = []deed.Binned{{Post: 1, At: day(23, "00:00")}}
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 7, inCategory("A")), Action: upkeep.Delete, Allowed: 9}}
	s.BinDays = 30
	w := worldOf(s)
	all, runs := live(w, day(24, "00:00"), day(26, "00:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindDelete, 1}}, all)
	assert.Equal(t, 1, runs[0].Took)
}

// A notice goes when the post comes out again; a timed edit that follows merges with what a rule changed.
func TestCareAndOtherDeeds(t *testing.T) {
	t.Parallel()
	s := old(t, upkeep.AddTag, upkeep.Extras{Tag: "old"})
	base := s.Live[1]
	wanted := base
	wanted.Title = "Post 1 in winter"
	s.Edits = []deed.Edit{{ID: 3, Post: 1, At: day(24, "12:00"), Base: base, Wanted: wanted}}
	s.Categories = map[int64]string{3: "A"}
	w := worldOf(s)
	live(w, day(24, "00:00"), day(24, "13:00"))
	f, _ := w.Post(1)
	assert.Equal(t, []any{"Post 1 in winter", []string{"hill", "old", "zeta"}}, []any{f.Title, f.Tags})
	assert.Equal(t, "", post.State{Status: post.Published, Notice: "Old."}.Republish(day(24, "12:00")).Notice)
}

// A rule whose posts are read first asks at one turn and brings out at the first turn that is two days later what
// somebody said yes to; what nobody did waits, or comes out all the same.
func TestPostsAreReadBeforeTheyComeOutAgain(t *testing.T) {
	t.Parallel()
	s := blog(3)
	s.Republish = []upkeep.Republish{again(t, 5, 1)}
	r := &s.Republish[0]
	r.ReadDays, r.Apart = 2, 30
	read := func(post int64, at string) {
		s.Pasts = append(s.Pasts, deed.Record{Rule: 5, Post: post, Told: day(23, "04:00"), Read: day(24, at)})
	}
	all, runs := live(worldOf(s), day(24, "00:00"), day(27, "00:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindAskToRead, 1}, {"25 04:00", deed.KindAskToRead, 2}, {"26 04:00", deed.KindAskToRead, 3}}, all)
	assert.Equal(t, "It asked for 1 post to be read first.", runs[0].Note)
	assert.Zero(t, runs[0].Took)

	r.Unread = true
	w := worldOf(s)
	all, _ = live(w, day(24, "00:00"), day(27, "00:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindAskToRead, 1}, {"25 04:00", deed.KindAskToRead, 2},
		{"26 04:00", deed.KindRepublish, 1}, {"26 04:00", deed.KindAskToRead, 3}}, all)

	r.Unread = false
	read(2, "09:00")
	all, _ = live(worldOf(s), day(24, "00:00"), day(27, "00:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindAskToRead, 1}, {"25 04:00", deed.KindRepublish, 2}, {"25 04:00", deed.KindAskToRead, 3}}, all,
		"the second was asked for a day before, and may come out two days later")
	s.Pasts[0].Read = day(22, "09:00")
	all, _ = live(worldOf(s), day(24, "00:00"), day(26, "00:00"))
	assert.NotContains(t, all, happening{"25 04:00", deed.KindRepublish, 2}, "what somebody said of an earlier time counts no more")
}

// A post that comes round each year is asked for before its week begins, so that it comes out in time.
func TestAYearlyPostIsReadInTime(t *testing.T) {
	t.Parallel()
	s := blog(1)
	s.Posts[0].Fields = map[string]string{"event": "2021-12-05"}
	s.Republish = []upkeep.Republish{{RuleBase: base(t, 5, condition.Node{Test: condition.Field, Match: condition.MatchRound, Field: "event", N: 7, Unit: condition.Days}),
		AtATime: 1, Apart: 30, Order: upkeep.Oldest, Bounds: cadence.Bounds{Zone: halifax}, ReadDays: 3, Unread: true}}
	all, _ := live(worldOf(s), day(24, "00:00"), day(24, "00:00").AddDate(0, 0, 10))
	// Its week begins on 28 November: on the 25th that is three days ahead.
	assert.Equal(t, []happening{{"25 04:00", deed.KindAskToRead, 1}, {"28 04:00", deed.KindRepublish, 1}}, all)
}

// What comes out again is shared where the rule says.
func TestWhatComesOutAgainIsShared(t *testing.T) {
	t.Parallel()
	s := blog(1)
	w, err := message.ReadWording("Again: {title}")
	require.NoError(t, err)
	s.Republish = []upkeep.Republish{again(t, 5, 1)}
	s.Republish[0].Apart = 30
	s.Republish[0].Says = []deed.Announcement{{Channel: 1, After: 30, Wording: w}}
	world := worldOf(s)
	all, _ := live(world, day(24, "00:00"), day(24, "23:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindRepublish, 1}, {"24 04:30", deed.KindPlan, 1}, {"24 04:30", deed.KindShare, 1}}, all)
}

// The most clicked is first; of those with as many clicks, the one that came first.
func TestRepublishingByClicks(t *testing.T) {
	t.Parallel()
	s := blog(4)
	for i, n := range []int{3, 9, 0, 9} {
		s.Posts[i].Clicks = []condition.DayClicks{{Date: civil.MustDate("2026-11-01"), N: n}}
	}
	s.Republish = []upkeep.Republish{again(t, 5, 4)}
	s.Republish[0].Order = upkeep.Clicked
	var order []int64
	for _, one := range worldOf(s).Decide(day(24, "04:00")).Describe() {
		order = append(order, one.Post)
	}
	assert.Equal(t, []int64{2, 4, 1, 3}, order)
}
