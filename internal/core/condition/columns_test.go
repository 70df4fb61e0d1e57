package condition_test

import (
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/condition/conditiontest"
)

// columnsOf lays out facts, one by one.
func columnsOf(facts []*condition.Facts) *condition.Columns {
	b := condition.NewBuilder()
	for _, f := range facts {
		b.Add(f)
	}
	return b.Columns()
}

// sifted are the posts that conditions surely catch of columns, and those that they may.
func sifted(c *condition.Columns, clicked map[condition.Clicked][]int64, conditions ...condition.Moment) (sure, maybe []int64) {
	s := condition.NewSieve(c, conditions, clicked)
	h := s.Hand()
	for b := range s.Blocks() {
		for _, one := range h.Judge(nil, b) {
			if maybe = append(maybe, one.Post); one.Sure {
				sure = append(sure, one.Post)
			}
		}
	}
	return sure, maybe
}

// clicksOf counts clicks of posts as a sieve asks for them.
func clicksOf(facts []*condition.Facts, conditions ...condition.Moment) map[condition.Clicked][]int64 {
	counted := make(map[condition.Clicked][]int64)
	for _, asked := range condition.ClickedIn(conditions) {
		counted[asked] = nil
		for _, f := range facts {
			n := 0
			for _, day := range f.Clicks {
				if day.Date.After(asked.After) {
					n += day.N
				}
			}
			if n >= asked.AtLeast {
				counted[asked] = append(counted[asked], f.Post)
			}
		}
	}
	return counted
}

func TestASieveCatchesWhatAConditionCatches(t *testing.T) {
	all := 0
	beside := []condition.Node{{Test: condition.NeverExpires, Match: condition.MatchNo}, {Test: condition.KeptForNow, Match: condition.MatchNo},
		{Test: condition.HasNotice, Match: condition.MatchNo}, {Test: condition.TakesComments, Match: condition.MatchYes},
		{Test: condition.TaggedLike, Match: condition.MatchNone, Values: []string{"MARS rover!"}}, {Test: condition.TaggedLike, Match: condition.MatchAny, Values: []string{"mars"}}}
	rapid.Check(t, func(t *rapid.T) {
		var facts []*condition.Facts
		for i := range rapid.IntRange(1, 40).Draw(t, "posts") {
			facts = append(facts, conditiontest.Facts(t, int64(10+3*i), noon, halifax))
		}
		c, err := condition.Compile(conditiontest.Node(t, 3), halifax)
		if err != nil {
			t.Skip(err)
		}
		if n := rapid.IntRange(0, len(beside)).Draw(t, "beside"); n < len(beside) {
			c = c.With(beside[n])
		}
		moments := []condition.Moment{c.At(noon)}
		if rapid.Bool().Draw(t, "later, too") {
			moments = append(moments, c.At(noon.AddDate(0, 0, 9)))
		}
		var want []int64
		for _, f := range facts {
			if slices.ContainsFunc(moments, func(k condition.Moment) bool { return k.Catches(f) }) {
				want = append(want, f.Post)
			}
		}
		all += len(want)
		columns := columnsOf(facts)
		sure, maybe := sifted(columns, clicksOf(facts, moments...), moments...)
		if !c.Asks(condition.Text) {
			require.Equal(t, want, sure)
			require.Equal(t, want, maybe)
		}
		for _, post := range sure {
			require.Contains(t, want, post)
		}
		for _, post := range want {
			require.Contains(t, maybe, post)
		}
		if c.Asks(condition.Clicks) {
			unsure, perhaps := sifted(columns, nil, moments...)
			require.Subset(t, maybe, unsure, "clicks that nobody counted make nothing sure")
			require.Subset(t, perhaps, maybe)
		}
	})
	assert.NotZero(t, all)
}

// What is changed again and again is what would have been laid out at once; what it was before stays as it was.
func TestColumnsChangePostByPost(t *testing.T) {
	everything, err := condition.Compile(test(condition.Kind, condition.MatchAny, "post", "page", "link"), halifax)
	require.NoError(t, err)
	evergreen, err := condition.Compile(test(condition.Evergreen, condition.MatchYes), halifax)
	require.NoError(t, err)
	tagged, err := condition.Compile(test(condition.Tags, condition.MatchAny, "mars", "new"), halifax)
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		posts := make(map[int64]*condition.Facts)
		list := func() (facts []*condition.Facts, evergreen, tagged []int64) {
			for id := range int64(6000) {
				if f := posts[id]; f != nil {
					facts = append(facts, f)
					if f.Evergreen {
						evergreen = append(evergreen, id)
					}
					if slices.Contains(f.Tags, "Mars") || slices.Contains(f.Tags, "New") {
						tagged = append(tagged, id)
					}
				}
			}
			return facts, evergreen, tagged
		}
		some := func(id int64, tags ...string) *condition.Facts {
			f := post()
			f.Post, f.Evergreen, f.Tags, f.Published = id, id%3 == 0, tags, noon.Add(-time.Duration(id)*time.Hour)
			return &f
		}
		for id := range int64(rapid.SampledFrom([]int{0, 1, 1023, 1024, 1025, 2600}).Draw(t, "posts")) {
			posts[id] = some(id, "Mars")
		}
		first, firstEvergreen, firstTagged := list()
		c := columnsOf(first)
		before := c
		for range rapid.IntRange(1, 4).Draw(t, "times") {
			changed := rapid.SliceOfNDistinct(rapid.Int64Range(0, 5999), 1, 300, rapid.ID[int64]).Draw(t, "changed")
			slices.Sort(changed)
			var fresh []*condition.Facts
			for _, id := range changed {
				if id%5 == 0 {
					delete(posts, id)
					continue
				}
				posts[id] = some(id, []string{"New", "Other"}[id%2])
				fresh = append(fresh, posts[id])
			}
			c = c.With(changed, fresh)
		}
		facts, wantEvergreen, wantTagged := list()
		require.Equal(t, len(facts), c.Len())
		require.Equal(t, len(facts), c.WithStatus("published"))
		got, _ := sifted(c, nil, evergreen.At(noon))
		require.Equal(t, wantEvergreen, got)
		got, _ = sifted(c, nil, tagged.At(noon))
		require.Equal(t, wantTagged, got)
		got, _ = sifted(before, nil, evergreen.At(noon))
		require.Equal(t, firstEvergreen, got)
		got, _ = sifted(before, nil, tagged.At(noon))
		require.Equal(t, firstTagged, got)
		got, _ = sifted(c, nil, everything.At(noon))
		require.Len(t, got, len(facts))
		require.True(t, slices.IsSorted(got))
	})
}

// Every test keeps what it asks about through the columns, and through a change of another post of the block.
func TestColumnsKeepWhatIsAsked(t *testing.T) {
	f := post()
	f.OnTop, f.FeaturedImage, f.NeverExpires, f.Notice, f.KeptUntil, f.Republished = true, true, true, "Old.", noon.Add(time.Hour), 3
	other := post()
	other.Post = 8
	c := columnsOf([]*condition.Facts{&f, &other}).With([]int64{8}, []*condition.Facts{&other})
	for _, n := range []condition.Node{
		test(condition.Kind, condition.MatchAny, "post"), test(condition.Status, condition.MatchAny, "published"), test(condition.Title, condition.MatchContains, "dome"),
		test(condition.Slug, condition.MatchEquals, "clear-tonight"), test(condition.Category, condition.MatchAny, "viewing nights"), test(condition.Tags, condition.MatchAll, "moon", "open night"),
		test(condition.Author, condition.MatchAny, "ines abara"), test(condition.Import, condition.MatchAny, "Autumn batch"), test(condition.OnTop, condition.MatchYes),
		test(condition.Image, condition.MatchYes), test(condition.CommentsOpen, condition.MatchYes),
		{Test: condition.WordCount, Match: condition.MatchOver, N: 219}, {Test: condition.WordCount, Match: condition.MatchUnder, N: 221},
		{Test: condition.Comments, Match: condition.MatchOver, N: 3}, {Test: condition.Shared, Match: condition.MatchOver, N: 1}, {Test: condition.Republished, Match: condition.MatchOver, N: 2},
		{Test: condition.Field, Field: "seats", Match: condition.MatchOver, Values: []string{"39.5"}}, {Test: condition.Field, Field: "blank", Match: condition.MatchMissing},
		{Test: condition.Field, Field: "event", Match: condition.MatchPassed, N: 1, Unit: condition.Weeks},
		span(condition.Age, condition.MatchOver, 3, condition.Weeks), span(condition.SinceChange, condition.MatchUnder, 3, condition.Weeks),
		{Test: condition.Age, Match: condition.MatchAfter, Date: "2026-10-31"}, {Test: condition.Age, Match: condition.MatchBefore, Date: "2026-11-02"}} {
		compiled, err := condition.Compile(n, halifax)
		require.NoError(t, err)
		sure, _ := sifted(c, nil, compiled.At(noon))
		assert.Contains(t, sure, int64(7), "%+v", n)
		compiled, err = condition.Compile(group(condition.NoneOf, n), halifax)
		require.NoError(t, err)
		_, maybe := sifted(c, nil, compiled.At(noon))
		assert.NotContains(t, maybe, int64(7), "none of %+v", n)
	}
	for beside, want := range map[condition.Test][]int64{condition.NeverExpires: {7}, condition.HasNotice: {7}, condition.KeptForNow: {7}, condition.TakesComments: {7, 8}} {
		sure, maybe := sifted(c, nil, condition.All(halifax).With(test(beside, condition.MatchYes)).At(noon))
		assert.Equal(t, want, sure, beside)
		assert.Equal(t, want, maybe, beside)
	}
}

func TestUndatedPostsOfColumns(t *testing.T) {
	fine, odd, none := post(), post(), post()
	fine.Post, odd.Post, none.Post = 1, 2, 3
	fine.Fields = map[string]string{"event": "2026-11-12", "other": "someday"}
	odd.Fields = map[string]string{"event": "next week"}
	none.Fields = map[string]string{"event": "  "}
	var found []string
	columnsOf([]*condition.Facts{&fine, &odd, &none}).Undated([]string{"event", "no such"}, halifax, func(f *condition.Facts) bool {
		found = append(found, f.Title+" "+f.Fields["event"])
		return true
	})
	assert.Equal(t, []string{odd.Title + " next week"}, found)
}

// More values than there are bits.
func TestASieveOfManyTags(t *testing.T) {
	var values []string
	for i := range 100 {
		values = append(values, "Tag "+strconv.Itoa(i))
	}
	few, last := post(), post()
	few.Post, few.Tags = 1, values[:64]
	last.Post, last.Tags = 2, values
	none := post()
	none.Post, none.Tags = 3, nil
	c := columnsOf([]*condition.Facts{&few, &last, &none})
	for n, want := range map[int][]int64{63: {1, 2}, 64: {1, 2}, 65: {2}, 100: {2}} {
		all, err := condition.Compile(test(condition.Tags, condition.MatchAll, values[:n]...), halifax)
		require.NoError(t, err)
		sure, _ := sifted(c, nil, all.At(noon))
		assert.Equal(t, want, sure, n)
	}
}

// BenchmarkSieveOfAMillion asks the tests of BenchmarkMillion, but for the one of texts, of columns.
func BenchmarkSieveOfAMillion(b *testing.B) {
	builder := condition.NewBuilder()
	f := post()
	for i := range 1_000_000 {
		f.Post, f.Title = int64(i), titles[i%len(titles)]
		f.Published = noon.Add(-time.Duration(i%200) * 24 * time.Hour)
		f.Words = i % 900
		builder.Add(&f)
	}
	columns := builder.Columns()
	compiled, err := condition.Compile(nineAnd(), halifax)
	require.NoError(b, err)
	k := compiled.At(noon)
	clicked := map[condition.Clicked][]int64{{After: civil.MustDate("2026-10-25"), AtLeast: 1001}: nil}
	require.Equal(b, condition.ClickedIn([]condition.Moment{k})[0].AtLeast, 1001)
	b.ReportMetric(float64(columns.Bytes())/1e6, "B/post")
	b.ReportAllocs()
	var found []condition.Sifted
	for b.Loop() {
		s := condition.NewSieve(columns, []condition.Moment{k}, clicked)
		h, n := s.Hand(), 0
		for i := range s.Blocks() {
			found = h.Judge(found[:0], i)
			n += len(found)
		}
		require.NotZero(b, n)
	}
}
