package rules_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/store/rules"
)

// What has been read of posts is not read again.
func TestOnlyWhatWasNotReadIsLeft(t *testing.T) {
	t.Parallel()
	day := func(n int) time.Time { return time.Date(2026, 11, n, 0, 0, 0, 0, time.UTC) }
	type filter = rules.FactsFilter
	out := []string{"published"}
	for name, c := range map[string]struct {
		read, asked filter
		left        filter
		more        bool
	}{
		"the same":                    {filter{Statuses: out}, filter{Statuses: out}, filter{}, false},
		"an earlier end":              {filter{PublishedBefore: day(9)}, filter{PublishedBefore: day(8)}, filter{}, false},
		"an end where there was none": {filter{}, filter{PublishedBefore: day(8)}, filter{}, false},
		"a later end":                 {filter{PublishedBefore: day(8)}, filter{PublishedBefore: day(9)}, filter{PublishedFrom: day(8), PublishedBefore: day(9)}, true},
		"no end, so drafts too":       {filter{PublishedBefore: day(8)}, filter{}, filter{}, true},
		"a part that goes on": {filter{PublishedFrom: day(8), PublishedBefore: day(9)}, filter{PublishedFrom: day(8), PublishedBefore: day(12)},
			filter{PublishedFrom: day(9), PublishedBefore: day(12)}, true},
		"a part that begins later": {filter{PublishedFrom: day(8), PublishedBefore: day(9)}, filter{PublishedBefore: day(9)}, filter{PublishedBefore: day(9)}, true},
		"other posts":              {filter{Statuses: out}, filter{Statuses: []string{"draft"}}, filter{Statuses: []string{"draft"}}, true},
		"with their texts":         {filter{}, filter{WithText: true}, filter{WithText: true}, true},
		"without their texts":      {filter{WithText: true}, filter{WithOpening: true}, filter{}, false},
		"with clicks":              {filter{WithOpening: true}, filter{WithClicks: true}, filter{WithClicks: true}, true},
	} {
		left, more := c.asked.After(c.read)
		assert.Equal(t, c.more, more, name)
		assert.Equal(t, c.left, left, name)
	}
}
