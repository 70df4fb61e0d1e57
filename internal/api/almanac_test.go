package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/plan"
)

// A day that is over is not called short of room: nothing can be done about it.
func TestAPastDayIsNotShort(t *testing.T) {
	c := signedIn(t)
	var tight, was plan.Almanac
	_, err := c.world.DB().ExecContext(t.Context(), `update openings set count = 40 where to_minute is not null`)
	require.NoError(t, err)
	c.call("GET", site+"/almanac?days=7", nil, 200, &tight)
	short := 0
	for _, day := range tight.Days {
		short += len(day.Short)
	}
	require.NotZero(t, short, "forty do not fit")
	c.call("GET", site+"/almanac?days=7&from=2026-11-01", nil, 200, &was)
	for _, day := range was.Days {
		assert.Empty(t, day.Short, day.Date)
	}
}
