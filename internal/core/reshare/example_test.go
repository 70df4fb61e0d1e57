package reshare_test

import (
	"fmt"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
)

// Wordings go round: the one after the one that a post had last.
func ExampleReshare_Wording() {
	r := reshare.Reshare{Wordings: make([]message.Wording, 3)}
	post := &condition.Facts{Post: 7}
	for used := 1; used <= 3; used++ {
		fmt.Print(r.Wording(deed.Case{Facts: post, Past: deed.Past{N: used, Used: used}}), " ")
	}
	// Output: 1 2 0
}
