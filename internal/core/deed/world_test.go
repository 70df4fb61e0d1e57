package deed_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
)

var halifax = civil.MustZone("America/Halifax")

// day is midnight of a date of November 2026 in Halifax; the 24th is a Tuesday.
func day(d int, clock string) time.Time {
	return halifax.At(civil.NewDate(2026, time.November, d), civil.MustClock(clock))
}

func condOf(t require.TestingT, n condition.Node) *condition.Condition {
	c, err := condition.Compile(n, halifax)
	require.NoError(t, err)
	return c
}

func inCategory(name string) condition.Node {
	return condition.Node{Test: condition.Category, Match: condition.MatchAny, Values: []string{name}}
}

func daily(clock string) cadence.Cadence {
	return cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock(clock)}
}

// base is an armed rule that runs daily at 04:00.
func base(t require.TestingT, id int64, n condition.Node) deed.RuleBase {
	return deed.RuleBase{ID: id, Name: fmt.Sprint("rule ", id), Seed: uint64(id), Condition: condOf(t, n), Armed: true,
		Served: day(24, "00:00"),
		Pace: cadence.Pace{Cadence: daily("04:00"), Rule: id, Seed: uint64(id), Anchor: day(24, "00:00"),
			Zone: halifax, Gap: 1}}
}

func sharing(t require.TestingT, id int64, n condition.Node, wordings ...string) reshare.Reshare {
	r := reshare.Reshare{RuleBase: base(t, id, n), Channels: []int64{1}, Order: reshare.Longest,
		Bounds: cadence.Bounds{Zone: halifax}}
	for _, text := range wordings {
		w, err := message.ReadWording(text)
		require.NoError(t, err)
		r.Wordings = append(r.Wordings, w)
	}
	return r
}

func lantern() deed.Channel {
	return deed.Channel{ID: 1, Name: "Lantern", Apart: 20, ADay: 24, Zone: halifax,
		Limits: message.Limits{Graphemes: 100, Hashtags: 2}}
}

func stillPlanned(w *deed.World, id int64) bool {
	return slices.ContainsFunc(w.Scene().Planned, func(o deed.Outing) bool { return o.ID == id })
}

// scene is a scene with its rules by kind, for tests to change.
type scene struct {
	deed.Scene
	Expire    []upkeep.Expire
	Republish []upkeep.Republish
	Reshare   []reshare.Reshare
}

func worldOf(s scene) *deed.World {
	s.Rules = nil
	for i := range s.Expire {
		s.Rules = append(s.Rules, &s.Expire[i])
	}
	for i := range s.Republish {
		s.Rules = append(s.Rules, &s.Republish[i])
	}
	for i := range s.Reshare {
		s.Rules = append(s.Rules, &s.Reshare[i])
	}
	return deed.NewWorld(s.Scene)
}

// ruleIn is a rule as it is in a world.
func ruleIn[R deed.Rule](t *testing.T, w *deed.World, id int64) R {
	r, ok := w.Rule(id)
	require.True(t, ok)
	return r.(R)
}

// blog has n published posts of the category A, a day apart, the last of a month ago.
func blog(n int) scene {
	s := scene{Scene: deed.Scene{Zone: halifax, Rhythm: rhythm.Rhythm{Zone: halifax, Gap: 60},
		Channels: []deed.Channel{lantern()}}}
	for i := range n {
		out := day(24, "12:00").AddDate(0, -1, i-n)
		s.Posts = append(s.Posts, &condition.Facts{Post: int64(i + 1), Kind: "post", Status: "published",
			Title: fmt.Sprint("Post ", i+1), Category: "A", Published: out, FirstOut: out, Changed: out})
	}
	return s
}

type happening struct {
	at   string
	kind deed.Kind
	post int64
}

// live follows a world up to a moment and lists what happens.
func live(w *deed.World, from, to time.Time) (all []happening, runs []deed.Run) {
	for at := from; !at.After(to); {
		d := w.Decide(at)
		for _, one := range d.Describe() {
			all = append(all, happening{halifax.In(at).Format("02 15:04"), one.Kind, one.Post})
		}
		if d.Run != nil {
			runs = append(runs, *d.Run)
		}
		if !d.IsIdle() {
			w.Apply(d, at)
			continue
		}
		if d.Next.IsZero() {
			break
		}
		at = d.Next
	}
	return all, runs
}

// Everything is due at 04:00: each turn sees what the one before it did.
func TestWhatIsDueAtOnceIsSettledInOrder(t *testing.T) {
	s := blog(6)
	s.Posts[0].Expires = day(24, "04:00")
	s.Scheduled = []deed.Scheduled{{Post: 99, Due: day(24, "04:00")}}
	s.Posts = append(s.Posts, &condition.Facts{Post: 99, Status: "scheduled", Category: "A", Title: "New"})
	s.Expire = []upkeep.Expire{
		{RuleBase: base(t, 12, inCategory("A")), Action: upkeep.Bin, MostARun: 1, Allowed: 100},
		{RuleBase: base(t, 11, inCategory("A")), Action: upkeep.Archive, MostARun: 1, Allowed: 100},
	}
	s.Expire[0].Position = 2
	s.Expire[1].Position = 1
	s.Republish = []upkeep.Republish{{RuleBase: base(t, 5, inCategory("A")), AtATime: 1, Order: upkeep.Oldest,
		Bounds: cadence.Bounds{Zone: halifax}}}
	s.Rhythm.Gap = 1
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Order = reshare.Oldest
	all, runs := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Equal(t, []happening{
		{"24 04:00", deed.KindPublish, 99}, {"24 04:00", deed.KindArchive, 1}, {"24 04:00", deed.KindArchive,
			2}, {"24 04:00", deed.KindBin, 3},
		{"24 04:00", deed.KindShare, 4}, {"24 04:01", deed.KindRepublish, 4},
	}, all, "the republication keeps the gap from the publication")
	assert.Len(t, runs, 4)
}

func TestAnExpiryRuleAsksBeforeItTakesMuch(t *testing.T) {
	s := blog(10)
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 1, inCategory("A")), Action: upkeep.Archive}}
	for i := range 8 {
		s.Posts[i].Category = "B"
	}
	all, _ := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindArchive, 9}, {"24 04:00", deed.KindArchive, 10}}, all,
		"two of ten are just a fifth")

	s.Posts[0].Category = "A"
	w := worldOf(s)
	all, runs := live(w, day(24, "00:00"), day(28, "23:00"))
	assert.Equal(t, []happening{{"24 04:00", deed.KindAsk, 0}}, all, "it asks once and waits")
	assert.Contains(t, runs[0].Asks, "3 posts of the blog's 10")
	assert.True(t, ruleIn[*upkeep.Expire](t, w, 1).Held)

	s.Expire[0].Allowed = 3
	all, _ = live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Len(t, all, 3)
}

func TestAnExpiryRuleAsksWhenItOutgrowsItself(t *testing.T) {
	s := blog(200)
	for i := range s.Posts {
		if i >= 7 {
			s.Posts[i].Category = "B"
		}
	}
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 1, inCategory("A")), Action: upkeep.Archive, Took: []int{2, 3, 2}}}
	all, runs := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Len(t, all, 7)
	assert.Empty(t, runs[0].Asks)
	s.Expire[0].Took = []int{2, 2, 2}
	_, runs = live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Contains(t, runs[0].Asks, "it usually affects 2")
	s.Expire[0].MostARun = 5
	all, _ = live(worldOf(s), day(24, "00:00"), day(26, "23:00"))
	assert.Len(t, all, 7, "five a run are within what is usual")
	assert.Equal(t, happening{"25 04:00", deed.KindArchive, 6}, all[5])
}

func TestWhatIsNeverTaken(t *testing.T) {
	s := blog(20)
	for i := range s.Posts {
		s.Posts[i].Category = "B"
	}
	s.Posts[0].Category, s.Posts[0].NeverExpires, s.Posts[0].Expires = "A", true, day(24, "05:00")
	s.Posts[1].Category = "A"
	s.Posts[2].Category, s.Posts[2].Status = "A", "archived"
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 1, inCategory("A")), Action: upkeep.ToDraft}}
	s.Expire[0].Excluded = map[int64]bool{2: true}
	w := worldOf(s)
	all, runs := live(w, day(24, "00:00"), day(24, "23:00"))
	assert.Empty(t, all)
	assert.Equal(t, "No post matches.", runs[0].Note)
	for post, says := range map[int64]string{1: "never expiring", 2: "excluded", 3: "archived, not published",
		4: "its category is B"} {
		verdict := w.Why(1, post, day(24, "00:00"))
		assert.False(t, verdict.Caught)
		assert.Contains(t, verdict.String(), says)
	}
}

func TestAfterAnOutageATurnIsServedOnce(t *testing.T) {
	s := blog(50)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title}")}
	s.Reshare[0].Pace.Cadence = cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Hours}
	all, _ := live(worldOf(s), day(24, "10:30"), day(24, "12:00"))
	assert.Equal(t, []happening{{"24 10:30", deed.KindShare, all[0].post}, {"24 11:00", deed.KindShare, all[1].post},
		{"24 12:00", deed.KindShare, all[2].post}}, all)
}

func TestMessagesKeepToTheirChannel(t *testing.T) {
	s := blog(200)
	s.Channels[0].Apart, s.Channels[0].ADay = 45, 5
	s.Channels[0].Quiet = cadence.Quiet{From: civil.MustClock("22:00"), To: civil.MustClock("08:15"), Zone: halifax}
	s.Channels[0].Recent = []time.Time{day(24, "08:00")}
	one, other := sharing(t, 2, inCategory("A"), "{title}"), sharing(t, 3, inCategory("A"), "{title}")
	one.Pace.Cadence = cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Hours}
	other.Pace.Cadence = daily("09:00")
	s.Reshare = []reshare.Reshare{one, other}
	w := worldOf(s)
	all, _ := live(w, day(24, "00:00"), day(25, "09:30"))
	var times []string
	for _, one := range all {
		times = append(times, one.at)
	}
	assert.Equal(t, []string{"24 08:45", "24 09:30", "24 10:15", "24 11:00", "25 08:15", "25 09:00"}, times)
	s.Channels[0].Apart = 90
	rule := ruleIn[*reshare.Reshare](t, worldOf(s), 2)
	warnings := rule.Warnings(worldOf(s), 200)
	assert.Equal(t, []string{"Lantern takes messages at least 90 min apart; a turn every 60 min will be put off or let go.",
		"Lantern takes at most 5 messages a day; this rule alone asks for 24.", "Wording 1 has no {link}; readers cannot get to the post."}, warnings)
	rule.Pace.Cadence = cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Minutes}
	assert.Contains(t, rule.Warnings(worldOf(s), 200)[0], "every 1 min is a lot")
}

func TestWordingsTakeTurns(t *testing.T) {
	s := blog(2)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "one {title}", "two {title}", "three {title}")}
	w := worldOf(s)
	said := make(map[int64][]int)
	for at := day(24, "00:00"); at.Before(day(30, "00:00")); {
		d := w.Decide(at)
		for _, one := range d.Deeds {
			share := one.(deed.Share)
			said[share.Post] = append(said[share.Post], share.Wording)
		}
		w.Apply(d, at)
		at = d.Next
	}
	for post, wordings := range said {
		require.Len(t, wordings, 3, post)
		assert.ElementsMatch(t, []int{0, 1, 2}, wordings)
	}
}

func TestAMessageThatCannotFitIsPassedOver(t *testing.T) {
	s := blog(2)
	s.Reshare = []reshare.Reshare{sharing(t, 2, inCategory("A"), "{title} {field:note}")}
	s.Posts[0].Fields = map[string]string{"note": fmt.Sprintf("%0200d", 1)}
	all, _ := live(worldOf(s), day(24, "00:00"), day(26, "23:00"))
	require.Len(t, all, 3)
	for _, one := range all {
		assert.EqualValues(t, 2, one.post)
	}
	s.Posts = s.Posts[:1]
	all, runs := live(worldOf(s), day(24, "00:00"), day(24, "23:00"))
	assert.Empty(t, all)
	assert.Contains(t, runs[0].Note, "fits the channel")
}

func TestRepublishingKeepsTheGapAndTheOrder(t *testing.T) {
	s := blog(4)
	s.Scheduled = []deed.Scheduled{{Post: 90, Due: day(24, "04:30")}, {Post: 91, Due: day(25, "03:45")}}
	s.Republish = []upkeep.Republish{{RuleBase: base(t, 5, inCategory("A")), AtATime: 1, Order: upkeep.Longest,
		Apart: 2, Youngest: condition.Span{N: 1, Unit: condition.Days}, Bounds: cadence.Bounds{Zone: halifax,
			From: civil.MustClock("04:00"), To: civil.MustClock("06:00")}}}
	w := worldOf(s)
	all, _ := live(w, day(24, "00:00"), day(28, "23:00"))
	assert.Equal(t, []happening{
		{"24 04:30", deed.KindPublish, 90}, {"24 05:30", deed.KindRepublish, 1}, {"25 03:45", deed.KindPublish,
			91}, {"25 04:45", deed.KindRepublish, 2},
		{"26 04:00", deed.KindRepublish, 3}, {"27 04:00", deed.KindRepublish, 4}, {"28 04:00", deed.KindRepublish, 1},
	}, all)
	f, _ := w.Post(1)
	assert.Equal(t, 2, f.Republished)
	assert.True(t, f.Published.Equal(day(28, "04:00")))
	assert.True(t, f.FirstOut.Before(day(24, "00:00")))
	assert.Contains(t, w.Why(5, 1, day(28, "05:00")).String(), "less than 2 days ago; it may come again on Mon 30 Nov")
}

func TestShuffledRoundsAndLimits(t *testing.T) {
	s := blog(5)
	r := sharing(t, 2, inCategory("A"), "{title}")
	r.Order, r.Most = reshare.Shuffled, 2
	s.Reshare = []reshare.Reshare{r}
	w := worldOf(s)
	all, runs := live(w, day(24, "00:00"), day(24, "00:00").AddDate(0, 0, 12))
	require.Len(t, all, 10, "five posts, twice each")
	seen := make(map[int64]int)
	for i, one := range all {
		seen[one.post]++
		require.Equal(t, i/5+1, seen[one.post], "each once before any comes again")
	}
	assert.Equal(t, "None of its posts can go out right now.", runs[11].Note)
	assert.Contains(t, w.Why(2, 1, day(28, "05:00")).String(), "shared 2 times")
}

func TestWeightedByClicks(t *testing.T) {
	s := blog(3)
	r := sharing(t, 2, inCategory("A"), "{title}")
	r.Order = reshare.Weighted
	s.Reshare = []reshare.Reshare{r}
	s.Pasts = []deed.Record{{Rule: 2, Channel: 1, Post: 2, N: 1, Last: day(1, "00:00"), Earned: 8}}
	all, _ := live(worldOf(s), day(24, "00:00"), day(24, "00:00").AddDate(1, 0, 0))
	n := 0
	for _, one := range all {
		if one.post == 2 {
			n++
		}
	}
	require.Len(t, all, 365)
	assert.InDelta(t, 365*9/11, n, 30, "nine lots in eleven")
}

// aScene draws a small blog with rules of all kinds.
func aScene(t *rapid.T) scene {
	s := blog(rapid.IntRange(0, 12).Draw(t, "posts"))
	from := day(24, "00:00")
	for i := range s.Posts {
		f := s.Posts[i]
		f.Category = rapid.SampledFrom([]string{"A", "B"}).Draw(t, "category")
		if rapid.IntRange(0, 5).Draw(t, "expires") == 0 {
			f.Expires = from.Add(time.Duration(rapid.IntRange(-10, 500).Draw(t, "hours")) * time.Hour)
		}
		if rapid.IntRange(0, 5).Draw(t, "kept") == 0 {
			f.KeptUntil = from.Add(time.Duration(rapid.IntRange(-10, 300).Draw(t, "kept for")) * time.Hour)
		}
		f.CommentsOpen = rapid.Bool().Draw(t, "open")
	}
	for i := range rapid.IntRange(0, 4).Draw(t, "scheduled") {
		id := int64(100 + i)
		s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: id,
			Due: from.Add(time.Duration(rapid.IntRange(-60, 20_000).Draw(t, "due")) * time.Minute)})
		s.Posts = append(s.Posts, &condition.Facts{Post: id, Status: "scheduled", Category: "A", Title: "New"})
	}
	s.CatchUp = rapid.SampledFrom(deed.CatchUps).Draw(t, "catch-up")
	s.BinDays = rapid.IntRange(0, 4).Draw(t, "bin days")
	for i := range rapid.IntRange(0, 2).Draw(t, "binned") {
		b := deed.Binned{Post: int64(200 + i), At: from.Add(-time.Duration(rapid.IntRange(0, 7000).Draw(t, "minutes in the bin")) * time.Minute)}
		s.Binned = append(s.Binned, b)
		s.Posts = append(s.Posts, &condition.Facts{Post: b.Post, Status: "binned", Category: "A"})
	}
	s.Fresh = time.Hour
	s.Rhythm.Openings = []rhythm.Opening{rhythm.Fixed("a", rhythm.EveryDay, civil.MustClock("09:00"), 30)}
	pace := func() cadence.Cadence {
		return rapid.SampledFrom([]cadence.Cadence{daily("04:00"), daily("09:30"),
			{By: cadence.Every, N: 5, Unit: cadence.Hours, Sway: 40}, {By: cadence.Every, N: 50, Unit: cadence.Minutes,
				Sway: 5},
			{By: cadence.Every, N: 1, Unit: cadence.Weeks, Weekdays: rhythm.On(time.Monday, time.Friday),
				At: civil.MustClock("18:00")},
			{By: cadence.Openings, Openings: []rhythm.Opening{rhythm.Window("w", rhythm.EveryDay, 600, 900,
				2)}}}).Draw(t, "cadence")
	}
	node := func() condition.Node {
		return rapid.SampledFrom([]condition.Node{inCategory("A"), inCategory("B"),
			{Test: condition.Age, Match: condition.MatchOver, N: 5, Unit: condition.Weeks}, {Test: condition.Shared,
				Match: condition.MatchOver, N: 2}}).Draw(t, "condition")
	}
	id := int64(0)
	rule := func() deed.RuleBase {
		id++
		r := base(t, id, node())
		r.Pace.Cadence = pace()
		r.Position = rapid.IntRange(0, 2).Draw(t, "position")
		return r
	}
	for range rapid.IntRange(0, 2).Draw(t, "expire") {
		s.Expire = append(s.Expire, upkeep.Expire{RuleBase: rule(),
			Action: rapid.SampledFrom(upkeep.Actions).Draw(t, "action"), MostARun: rapid.IntRange(0, 2).Draw(t,
				"most"), Allowed: rapid.IntRange(0, 9).Draw(t, "allowed"), TellDays: rapid.SampledFrom([]int{0, 0, 1, 3}).Draw(t, "tell"),
			With: upkeep.Extras{Category: 2, CategoryName: rapid.SampledFrom([]string{"B", "B", "C", ""}).Draw(t, "to"), Tag: "Old news",
				Answer: rapid.SampledFrom(post.Answers).Draw(t, "answer"), LeadsTo: rapid.Int64Range(0, 3).Draw(t, "leads to")}})
	}
	for range rapid.IntRange(0, 2).Draw(t, "republish") {
		s.Republish = append(s.Republish, upkeep.Republish{RuleBase: rule(),
			AtATime: rapid.IntRange(1, 2).Draw(t, "at a time"), Order: rapid.SampledFrom(upkeep.Orders).Draw(t,
				"order"),
			Apart: rapid.IntRange(0, 9).Draw(t, "apart"), Bounds: cadence.Bounds{Zone: halifax, From: 540, To: 1020},
			ReadDays: rapid.SampledFrom([]int{0, 0, 1, 4}).Draw(t, "read"), Unread: rapid.Bool().Draw(t, "unread")})
	}
	for range rapid.IntRange(0, 3).Draw(t, "reshare") {
		r := reshare.Reshare{RuleBase: rule(), Channels: []int64{1}, Order: rapid.SampledFrom(reshare.Orders).Draw(t, "order"),
			Apart: rapid.IntRange(0, 9).Draw(t, "apart"), Most: rapid.IntRange(0, 4).Draw(t,
				"most"), Bounds: cadence.Bounds{Zone: halifax}}
		for _, text := range []string{"One {title}", "Two {title}"} {
			w, err := message.ReadWording(text)
			require.NoError(t, err)
			r.Wordings = append(r.Wordings, w)
		}
		r.Channels = rapid.SampledFrom([][]int64{{1}, {1}, {2, 1}, {1, 2, 3}, {3}}).Draw(t, "channels")
		r.Mode = rapid.SampledFrom(reshare.Modes).Draw(t, "mode")
		r.Between, r.AtATime = 25, rapid.SampledFrom([]int{0, 1, 1, 3}).Draw(t, "at a time")
		r.Once = rapid.IntRange(0, 5).Draw(t, "once") == 0
		if rapid.IntRange(0, 2).Draw(t, "replies") == 0 {
			r.Reply = &deed.Reply{After: rapid.IntRange(1, 90).Draw(t, "after"), Wording: r.Wordings[0]}
		}
		if turn, ok := r.Pace.Next(r.Served); ok && rapid.IntRange(0, 2).Draw(t, "in hand") == 0 {
			s.InHand = append(s.InHand, deed.InHand{Rule: r.ID, Turn: turn})
		}
		s.Reshare = append(s.Reshare, r)
	}
	s.Channels = three()
	s.Channels[1].Silent = rapid.IntRange(0, 3).Draw(t, "silent") == 0
	for i := range rapid.IntRange(0, 2).Draw(t, "announcements") {
		w, err := message.ReadWording("New: {title}")
		require.NoError(t, err)
		s.Announcements = append(s.Announcements, deed.Announcement{Channel: int64(i + 1), Wording: w,
			After: rapid.SampledFrom([]int{0, 30, 2000}).Draw(t, "so long after")})
	}
	for i := range rapid.IntRange(0, 4).Draw(t, "planned") {
		o := planned(t, int64(i+1), rapid.Int64Range(1, 12).Draw(t, "of post"),
			from.Add(time.Duration(rapid.IntRange(-60, 18_000).Draw(t, "goes out"))*time.Minute))
		o.Unplaced = rapid.IntRange(0, 3).Draw(t, "unplaced") == 0
		o.Channel = int64(rapid.IntRange(1, 2).Draw(t, "on"))
		s.Planned = append(s.Planned, o)
	}
	s.Channels[0].Quiet = cadence.Quiet{From: civil.MustClock("23:00"), To: civil.MustClock("06:00"), Zone: halifax}
	return s
}

// A world that goes on deciding comes to the same as one that is made anew before each
// decision, as the engine's is; and no message or republication breaks its bounds.
func TestAWorldGoesOnAsOneMadeAnew(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := aScene(t)
		from, to := day(24, "00:00"), day(24, "00:00").AddDate(0, 0, 12)
		w, anew := worldOf(s), worldOf(s)
		shared := make(map[int64][]time.Time)
		for at, steps := from, 0; !at.After(to); steps++ {
			require.Less(t, steps, 5000, "it does not come to an end")
			d := w.Decide(at)
			require.Equal(t, d, anew.Decide(at))
			require.False(t, !d.IsIdle() && !d.Next.Equal(at))
			for i, one := range d.Describe() {
				require.False(t, one.Due.After(at) && one.Kind != deed.KindPlan)
				require.NotEmpty(t, one.Reason)
				share, is := d.Deeds[i].(deed.Share)
				if !is || one.Rule == 0 || share.Parent != 0 {
					continue
				}
				_, clock := halifax.Local(at)
				require.True(t, one.Channel != 1 || clock >= 6*60 && clock < 23*60, clock)
				if before := shared[one.Channel]; len(before) > 0 {
					require.GreaterOrEqual(t, at.Sub(before[len(before)-1]), 20*time.Minute)
				}
				for _, o := range s.Planned {
					require.False(t, o.Channel == one.Channel && !o.Unplaced && o.At.After(from) &&
						at.Sub(o.At).Abs() < 20*time.Minute && stillPlanned(w, o.ID), "too near to what an editor planned")
				}
				shared[one.Channel] = append(shared[one.Channel], at)
			}
			w.Apply(d, at)
			anew.Apply(d, at)
			anew = deed.NewWorld(anew.Scene())
			if !d.IsIdle() {
				continue
			}
			if d.Next.IsZero() {
				break
			}
			require.True(t, d.Next.After(at))
			at = d.Next
		}
	})
}
