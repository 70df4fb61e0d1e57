package secrets_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/secrets"
)

func TestSecretsDifferAndAreKnownByTheirHashes(t *testing.T) {
	seen := make(map[string]bool)
	for range 100 {
		text, hash := secrets.New()
		assert.Len(t, text, 32)
		assert.Regexp(t, `^[A-Za-z0-9_-]+$`, text)
		assert.Equal(t, hash, secrets.Hash(text))
		assert.NotEqual(t, hash, secrets.Hash(text+" "))
		assert.False(t, seen[text])
		seen[text] = true
	}
}
