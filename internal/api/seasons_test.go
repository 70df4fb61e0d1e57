package api_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/core/civil"
)

func season(name, starts, ends string, priority int) map[string]any {
	return map[string]any{"name": name, "starts": starts, "ends": ends, "priority": priority, "seed": 3,
		"openings": []any{map[string]any{"key": "six", "kind": "time",
			"weekdays": []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday",
				"sunday"}, "from": "06:00", "sway": 0, "count": 1}}}
}

func TestSeasons(t *testing.T) {
	c := signedIn(t)
	for i := range 4 {
		c.shelved(fmt.Sprintf("Draft %d", i))
	}
	var seasons []rhythms.Season
	c.call("POST", site+"/seasons", season("Festival", "2026-11-28", "2026-12-06", 0), 200, &seasons)
	require.Len(t, seasons, 1)
	var named []string
	for _, day := range c.almanac("?days=14").Days {
		if day.Season != "" {
			named = append(named, day.Date.String())
			for _, place := range day.Free {
				assert.Equal(t, 6*60, place.Minute)
			}
		}
	}
	assert.Len(t, named, 9)
	assert.Equal(t, "2026-11-28", named[0])

	// What if it were longer, and what would it yield?
	longer := season("Festival", "2026-11-25", "2026-12-20", 0)
	longer["id"] = seasons[0].ID
	var what rhythms.WhatIf
	c.call("POST", site+"/rhythm/what-if", map[string]any{"weeks": 4, "season": longer}, 200, &what)
	assert.NotEqual(t, what.Present.Slots, what.Changed.Slots)
	assert.Equal(t, 4, what.Changed.Placed)
	require.NotNil(t, what.Changed.Dry)
	var preview rhythms.RhythmPreview
	c.call("POST", site+"/seasons/preview?days=3", longer, 200, &preview)
	require.Len(t, preview.Days, 3)
	assert.Equal(t, civil.MustDate("2026-11-25"), preview.Days[0].Date)

	c.fails("PUT", fmt.Sprintf("%s/seasons/%d", site, seasons[0].ID), longer, 409)
	longer["version"] = seasons[0].Version
	c.call("PUT", fmt.Sprintf("%s/seasons/%d", site, seasons[0].ID), longer, 200, &seasons)
	assert.Equal(t, civil.MustDate("2026-12-20"), seasons[0].Ends)
	var log logbook.LogbookPage
	c.call("GET", site+"/logbook?by=me", nil, 200, &log)
	c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, log.Lines[0].ID), nil, 200, nil)
	c.call("GET", site+"/seasons", nil, 200, &seasons)
	assert.Equal(t, civil.MustDate("2026-12-06"), seasons[0].Ends, "undone")

	backwards := season("Back", "2026-12-06", "2026-12-01", 0)
	assert.Contains(t, c.fails("POST", site+"/seasons", backwards, 422).Detail, "before it begins")
	c.call("DELETE", fmt.Sprintf("%s/seasons/%d", site, seasons[0].ID), nil, 200, &seasons)
	assert.Empty(t, seasons)
	c.fails("DELETE", fmt.Sprintf("%s/seasons/%d", site, 1<<40), nil, 404)
	c.fails("POST", site+"/rhythm/what-if", map[string]any{"weeks": 4}, 422)
}

func TestRestsOfACalendarFile(t *testing.T) {
	c := signedIn(t)
	var read rhythms.ReadRests
	c.call("POST", site+"/rests/read",
		map[string]any{"calendar": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Fair\r\nDTSTART;VALUE=DATE:20270701\r\nRRULE:FREQ=YEARLY\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"}, 200, &read)
	require.Len(t, read.Rests, 1)
	assert.Equal(t, rhythms.Rest{First: civil.MustDate("2027-07-01"), Yearly: true, Name: "Fair"}, read.Rests[0])
	assert.Contains(t, c.fails("POST", site+"/rests/read", map[string]any{"calendar": "<html>"}, 422).Detail,
		"not a calendar file")
}
