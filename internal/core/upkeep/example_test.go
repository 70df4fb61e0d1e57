package upkeep_test

import (
	"fmt"

	"dapper.example/internal/core/upkeep"
)

// A rule that would take more than a fifth of a blog asks first.
func ExampleExpire_Asks() {
	e := upkeep.Expire{Action: upkeep.Archive}
	fmt.Println(e.Asks(30, 100))
	e.Agree(30)
	fmt.Println(e.Asks(30, 100) == "")
	// Output:
	// It would affect 30 posts of the blog's 100 published posts, more than a fifth.
	// true
}
