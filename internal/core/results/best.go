package results

import "math/bits"

// Best is a stretch of hours that did better than the usual hour, on one or more days of the week.
type Best struct {
	Days     [7]bool // from Monday
	From, To int     // hours of the day: the first, and the one after the last
	Times    float64 // how many times the clicks of the usual hour it brings: the median of its hours, weighed by what is known of each
	Sure     bool    // that every one of its hours is better is surer than Sure, shrunk for how many hours were compared
	Outings  int     // that went out in it
}

const (
	mostBest    = 3 // stretches that are named
	longestBest = 3 // hours
)

// BestHours names up to three stretches of a smoothed week that did better than the usual hour, the best first. Where an hour is surely better
// they are made of those alone; else of what looks better so far, which is not said to be sure. Hours of which too little is known are in none, nor
// those that only their neighbours speak for: their own outings, where they had any, must not say otherwise.
func (p Prior) BestHours(w Week) []Best {
	smooth := p.Smooth(w)
	var all Tally
	known := 0
	for d := range 7 {
		for h := range 24 {
			all = all.Plus(w[d][h])
			if !smooth[d][h].Thin {
				known++
			}
		}
	}
	if known == 0 {
		return nil
	}
	usual := p.After(all)
	median := usual.Median()
	fine := func(d, h int) bool {
		own := w[d][h]
		return !smooth[d][h].Thin && smooth[d][h].Median > median && (own.Outings == 0 || p.After(own).Median() >= median)
	}
	on, any := those(func(d, h int) bool { return fine(d, h) && smooth[d][h].exceeds(usual) > 1-(1-Sure)/float64(known) })
	if any {
		return stretches(smooth, w, on, median, true)
	}
	if on, any = those(fine); any {
		return stretches(smooth, w, on, median, false)
	}
	return nil
}

// those tells, for each hour of the day, on which weekdays it is good, as bits from Monday.
func those(good func(day, hour int) bool) (on [24]uint8, any bool) {
	for d := range 7 {
		for h := range 24 {
			if good(d, h) {
				on[h] |= 1 << d
				any = true
			}
		}
	}
	return on, any
}

// stretches picks the stretches that win the most, one after the other, none over another.
func stretches(smooth [7][24]Hour, w Week, on [24]uint8, usual float64, sure bool) (all []Best) {
	for len(all) < mostBest {
		var best Best
		var days uint8
		most := 0.0
		for from := range 24 {
			both := uint8(1<<7 - 1)
			for to := from + 1; to <= min(24, from+longestBest); to++ {
				if both &= on[to-1]; both == 0 {
					break
				}
				if won := gain(smooth, both, from, to, usual); won > most {
					most, days, best = won, both, Best{From: from, To: to, Sure: sure}
				}
			}
		}
		if most == 0 {
			break
		}
		for h := best.From; h < best.To; h++ {
			on[h] &^= days
		}
		weight, sum := 0.0, 0.0
		for d := range 7 {
			best.Days[d] = days&(1<<d) != 0
			for h := best.From; best.Days[d] && h < best.To; h++ {
				best.Outings += int(w[d][h].Outings)
				weight += w[d][h].Outings + 1
				sum += smooth[d][h].Median * (w[d][h].Outings + 1)
			}
		}
		best.Times = sum / weight / usual
		all = append(all, best)
	}
	return all
}

// gain is how much better than the usual some hours are together: what one more outing in each would bring.
func gain(smooth [7][24]Hour, days uint8, from, to int, usual float64) (won float64) {
	for rest := days; rest != 0; rest &= rest - 1 {
		d := bits.TrailingZeros8(rest)
		for h := from; h < to; h++ {
			won += smooth[d][h].Median - usual
		}
	}
	return max(won, 0)
}
