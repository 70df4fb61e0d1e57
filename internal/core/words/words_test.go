package words_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/words"
)

func TestCounts(t *testing.T) {
	t.Parallel()
	for n, said := range map[int]string{0: "0 posts", 1: "1 post", 2: "2 posts", 1000: "1000 posts"} {
		assert.Equal(t, said, words.Count(n, "post"))
	}
	assert.Equal(t, "is", words.For(1, "is", "are"))
	assert.Equal(t, "are", words.For(0, "is", "are"))
}

func TestLists(t *testing.T) {
	t.Parallel()
	assert.Empty(t, words.List(nil, "and"))
	assert.Equal(t, "a", words.List([]string{"a"}, "and"))
	assert.Equal(t, "a or b", words.List([]string{"a", "b"}, "or"))
	assert.Equal(t, "a, b and c", words.List([]string{"a", "b", "c"}, "and"))
}

func TestRunesOfWords(t *testing.T) {
	t.Parallel()
	for _, r := range "aé7字ß" {
		assert.True(t, words.IsRune(r), string(r))
	}
	for _, r := range " -_.’\n" {
		assert.False(t, words.IsRune(r), string(r))
	}
}

func ExampleList() {
	fmt.Println(words.Count(3, "post"), "by", words.List([]string{"Ines", "Pell", "Tobias"}, "and"))
	// Output: 3 posts by Ines, Pell and Tobias
}
