package reflow_test

import (
	"fmt"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/reflow"
)

func ExamplePattern_Problems() {
	p := reflow.Pattern{EveryDays: 2, From: civil.MustClock("08:00"), To: civil.MustClock("09:00"), Count: 1, Gap: 0}
	for _, problem := range p.Problems() {
		fmt.Println(problem.Path, problem.Message)
	}
	// Output: gap A gap of 0 minutes is not possible; choose 1 to 10080.
}
