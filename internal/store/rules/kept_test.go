package rules

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/condition"
)

// What was used the longest ago makes room; a site that is too large by itself is not kept again.
func TestWhatIsKeptIsBounded(t *testing.T) {
	t.Parallel()
	k := NewKept()
	k.most = 10
	fill := func(id int64, posts int) {
		k.site(id, true).facts = make([]*condition.Facts, posts)
		k.bound()
	}
	fill(1, 4)
	fill(2, 4)
	k.site(1, false)
	fill(3, 4)
	assert.Equal(t, []bool{true, false, true}, []bool{k.has(1), k.has(2), k.has(3)})
	assert.NotNil(t, k.site(2, true), "it had to go, and may come again")
	fill(4, 11)
	assert.Equal(t, []bool{true, true, false}, []bool{k.has(1), k.has(3), k.has(4)}, "others need not go for it")
	assert.Nil(t, k.site(4, true), "it is too large for ever")
	var none *Kept
	assert.False(t, none.has(1), "a transaction keeps nothing")
}

func TestReplacedFacts(t *testing.T) {
	t.Parallel()
	f := func(ids ...int64) (all []*condition.Facts) {
		for _, id := range ids {
			all = append(all, &condition.Facts{Post: id})
		}
		return all
	}
	ids := func(all []*condition.Facts) (ids []int64) {
		for _, p := range all {
			ids = append(ids, p.Post)
		}
		return ids
	}
	before := f(1, 3, 5)
	for _, c := range []struct{ changed, fresh, want []int64 }{
		{[]int64{3}, []int64{3}, []int64{1, 3, 5}},
		{[]int64{3}, nil, []int64{1, 5}},
		{[]int64{0, 2, 4, 6}, []int64{0, 4, 6}, []int64{0, 1, 3, 4, 5, 6}},
		{[]int64{1, 3, 5}, nil, nil},
	} {
		assert.Equal(t, c.want, ids(replaced(before, c.changed, f(c.fresh...))), "%v", c)
	}
	assert.Equal(t, []int64{1, 3, 5}, ids(before), "what others have stays")
}
