package condition_test

import (
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/condition"
)

// BenchmarkMillion asks a condition of ten tests of 1,000,000 posts, each made as it is
// asked about, so that the memory stays that of one.
func BenchmarkMillion(b *testing.B) {
	compiled, err := condition.Compile(nineAnd(test(condition.Text, condition.MatchAny, "closed")), halifax)
	require.NoError(b, err)
	f := post()
	b.ReportAllocs()
	for b.Loop() {
		k, caught := compiled.At(noon), 0
		for i := range 1_000_000 {
			f.Post, f.Title = int64(i), titles[i%len(titles)]
			f.Published = noon.Add(-time.Duration(i%200) * 24 * time.Hour)
			f.Words = i % 900
			if k.Catches(&f) {
				caught++
			}
		}
		require.NotZero(b, caught)
	}
}

// nineAnd is a condition of nine tests, and more of which none may hold.
func nineAnd(none ...condition.Node) condition.Node {
	return group(condition.AllOf,
		test(condition.Status, condition.MatchAny, "published"),
		test(condition.Category, condition.MatchNone, "Dome Notices", "Members Write"),
		group(condition.AnyOf,
			test(condition.Tags, condition.MatchAny, "Mars", "comets"),
			test(condition.Title, condition.MatchContains, "number 9"),
			span(condition.Age, condition.MatchOver, 3, condition.Months),
			condition.Node{Test: condition.Field, Match: condition.MatchPassed, Field: "event", N: 2,
				Unit: condition.Weeks}),
		group(condition.NoneOf, append(none,
			test(condition.Author, condition.MatchAny, "Pell Hanrahan"),
			condition.Node{Test: condition.Clicks, Match: condition.MatchOver, N: 1000, Days: 30},
			test(condition.OnTop, condition.MatchYes))...))
}

var titles = func() []string {
	var all []string
	for i := range 1000 {
		all = append(all, "A note from the dome, number "+strconv.Itoa(i))
	}
	return all
}()
