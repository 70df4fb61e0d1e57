package check_test

import (
	"fmt"

	"dapper.example/internal/core/check"
)

func ExampleFieldProblem() {
	p := check.FieldProblem{Path: "openings[2].to", Message: "The window must end after it begins."}
	fmt.Printf("%s: %s\n", p.Path, p.Message)
	// Output: openings[2].to: The window must end after it begins.
}
