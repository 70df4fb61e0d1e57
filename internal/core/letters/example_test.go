package letters_test

import (
	"fmt"

	"dapper.example/internal/core/letters"
)

func ExampleLength() {
	fmt.Println(letters.Length("a family: 👨‍👩‍👧", 100), letters.Equal("STRASSE", "straße"))
	// Output: 11 true
}
