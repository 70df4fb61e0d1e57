package cadence

import (
	"math/rand/v2"
	"time"

	"dapper.example/internal/core/civil"
)

// The hours, by the site's clocks, in which times over several days are drawn.
const (
	wakes  civil.Clock = 8 * 60
	sleeps civil.Clock = 21 * 60
)

// Over draws n times over so many days: the first as it is given, the others in what is left of the
// days, from 08:00 to 21:00. That is cut into as many equal parts, and each time is drawn in the later
// two thirds of its part, so that two are never nearer than a third of one. n and days are positive;
// where fewer minutes than times are left there is the first alone.
func Over(first time.Time, n, days int, zone civil.Zone, chance uint64) []time.Time {
	first = first.Truncate(time.Minute)
	times := []time.Time{first}
	end := first.Add(time.Duration(days) * 24 * time.Hour)
	type span struct {
		from time.Time
		long int // minutes
	}
	var spans []span
	all := 0
	for date := zone.DateOf(first); !zone.At(date, wakes).After(end); date = date.Add(1) {
		from, to := zone.At(date, wakes), zone.At(date, sleeps)
		if from.Before(first) {
			from = first
		}
		if to.After(end) {
			to = end
		}
		if long := int(to.Sub(from) / time.Minute); long > 0 {
			spans = append(spans, span{from, long})
			all += long
		}
	}
	if n < 2 || all < n {
		return times
	}
	r := rand.New(rand.NewPCG(chance, uint64(first.Unix())))
	for i := range n - 1 {
		begins, ends := i*all/(n-1), (i+1)*all/(n-1)
		begins += (ends - begins + 2) / 3
		at := begins
		if ends > begins {
			at += r.IntN(ends - begins)
		}
		for _, s := range spans {
			if at < s.long {
				times = append(times, s.from.Add(time.Duration(at)*time.Minute))
				break
			}
			at -= s.long
		}
	}
	return times
}
