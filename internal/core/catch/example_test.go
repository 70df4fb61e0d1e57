package catch_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/catch"
)

// grown catches posts from their hour on, the later number first.
type grown []time.Time

// Judge tells whether a post is old enough, and until when that stays so.
func (g grown) Judge(post int, at time.Time) (bool, time.Time) {
	if g[post].After(at) {
		return false, g[post]
	}
	return true, time.Time{}
}

// Key orders the posts.
func (g grown) Key(post int) catch.Key { return catch.Key{First: -int64(post)} }

func ExamplePool() {
	noon := time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)
	pool := catch.New(grown{noon, noon.Add(time.Hour), noon.Add(2 * time.Hour)}, 3, noon, time.Time{})
	fmt.Println(pool.Len())
	pool.Advance(noon.Add(time.Hour))
	for post := range pool.InOrder() {
		fmt.Println("post", post)
	}
	// Output:
	// 1
	// post 1
	// post 0
}
