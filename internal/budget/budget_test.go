package budget_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/budget"
)

func TestSharesAreHandedOutAndBack(t *testing.T) {
	most, err := budget.Take(t.Context(), 10*budget.Megabytes, time.Minute)
	require.NoError(t, err, "a share larger than all there is takes all")
	_, err = budget.Take(t.Context(), 1, time.Millisecond)
	require.ErrorIs(t, err, budget.ErrBusy)
	ended, end := context.WithCancel(t.Context())
	end()
	_, err = budget.Take(ended, 1, time.Minute)
	assert.ErrorIs(t, err, context.Canceled)
	most()
	one, err := budget.Take(t.Context(), 0, time.Millisecond)
	require.NoError(t, err)
	one()
}
