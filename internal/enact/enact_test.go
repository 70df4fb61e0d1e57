package enact

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/deed"
)

// Whatever core may decide, somebody knows how to do.
func TestEveryDeedHasADoer(t *testing.T) {
	t.Parallel()
	for _, kind := range deed.Kinds() {
		assert.Contains(t, doers, kind)
	}
	assert.Len(t, doers, len(deed.Kinds()))
}
