package message_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/message"
)

func TestShortCodes(t *testing.T) {
	t.Parallel()
	seen := make(map[string]bool)
	for post := range int64(1000) {
		code := message.ShortCode(1, 2, post, 3, 1_795_000_000+60*(post%7))
		require.Regexp(t, `^[0-9a-z]{10}$`, code)
		require.False(t, seen[code])
		seen[code] = true
	}
}
