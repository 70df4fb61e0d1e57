package rhythm_test

import (
	"archive/zip"
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// zones lists every zone of the time zone database that Go ships.
func zones(t *testing.T) []string {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	require.NoError(t, err)
	files, err := zip.OpenReader(filepath.Join(strings.TrimSpace(string(root)), "lib/time/zoneinfo.zip"))
	require.NoError(t, err)
	defer files.Close()
	var names []string
	for _, f := range files.File {
		if !strings.HasSuffix(f.Name, "/") {
			names = append(names, f.Name)
		}
	}
	require.Greater(t, len(names), 400)
	return names
}

// changes lists the instants from 2020 to 2037 at which the zone's clocks change.
func changes(name string) []time.Time {
	loc, err := time.LoadLocation(name)
	if err != nil {
		panic(err)
	}
	var found []time.Time
	end := time.Date(2038, 1, 1, 0, 0, 0, 0, time.UTC)
	for at := time.Date(2020, 1, 1, 0, 0, 0, 0, loc); ; {
		_, next := at.ZoneBounds()
		if next.IsZero() || next.After(end) {
			return found
		}
		found = append(found, next)
		at = next.In(loc)
	}
}

// Around every clock change of every zone, each opening yields all its slots, within
// its window by the clocks of the zone, once each and a gap apart; a window or a time
// that is skipped whole comes out as much later as the clocks skip. Where tests are to be
// short, every twelfth change is looked at.
func TestEveryClockChangeOfEveryZone(t *testing.T) {
	seen := make(map[string]bool)
	checked, each := 0, 1
	if testing.Short() {
		each = 12
	}
	for _, name := range zones(t) {
		at := changes(name)
		zone, err := civil.LoadZone(name)
		require.NoError(t, err)
		for _, change := range at {
			_, before := change.Add(-time.Second).In(zone.In(change).Location()).Zone()
			_, after := zone.In(change).Zone()
			key := fmt.Sprint(change.Unix(), before, after)
			if seen[key] {
				continue // many names share their rules
			}
			seen[key] = true
			if len(seen)%each == 0 {
				checked++
				checkChange(t, zone, change, after-before)
			}
		}
	}
	require.Greater(t, checked*each, 1000)
}

func checkChange(t *testing.T, zone civil.Zone, change time.Time, shift int) {
	t.Helper()
	date, clock := zone.Local(change.Add(-time.Minute))
	clock++ // what clocks would have shown at the change
	if clock == civil.Midnight {
		date, clock = date.Add(1), 0
	}
	r := rhythm.Rhythm{ID: 1, Zone: zone, Gap: 25, Seed: uint64(change.Unix()), Openings: []rhythm.Opening{
		rhythm.Window("day", rhythm.EveryDay, 0, civil.Midnight, 6),
		rhythm.Window("over", rhythm.EveryDay, max(clock-90, 0), clock+150, 2),
		rhythm.Fixed("at", rhythm.EveryDay, min(clock+20, 1439), 0),
	}}
	var times []time.Time
	for _, day := range daysFrom(r, date.Add(-1), 3, nil) {
		short := 0
		for _, s := range day.Short {
			short += s.Missing
		}
		require.Equal(t, 9, len(day.Slots)+short, "%s on %s", zone, day.Date)
		for _, s := range day.Slots {
			times = append(times, s.At)
			shown, at := zone.Local(s.At)
			minute := shown.Sub(day.Date)*1440 + int(at)
			require.Equal(t, s.At, zone.At(shown, at), "%s shows the time of %s twice, and this is the second", zone,
				s.ID)
			from, to := bounds(r, s.ID.Opening)
			if shift > 0 && (minute < from || minute >= to) {
				// Skipped whole: moved forward by the skip.
				minute -= shift / 60
			}
			require.True(t, minute >= from && minute < to, "%s: %s at %s is out of its window", zone, s.ID,
				zone.In(s.At))
		}
	}
	apart(t, times, r.Gap)
}

func bounds(r rhythm.Rhythm, key string) (from, to int) {
	for _, o := range r.Openings {
		if o.Key == key && o.IsFixed() {
			return int(o.From), int(o.From) + 1
		} else if o.Key == key {
			return int(o.From), int(o.To)
		}
	}
	panic(key)
}
