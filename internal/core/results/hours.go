package results

// Week is what outings brought by the hour of the week: days from Monday, hours from midnight.
type Week [7][24]Tally

// Add adds outings of an hour, counted from the beginning of 1970 as clocks show it.
func (w *Week) Add(hour int, t Tally) {
	const week, fromMonday = 7 * 24, 3 * 24 // 1970 began on a Thursday
	at := ((hour+fromMonday)%week + week) % week
	w[at/24][at%24] = w[at/24][at%24].Plus(t)
}

// kernel is what hours that far away count, on the same day and on the days before and after.
var kernel = [2][3]float64{{1, 0.5, 0.2}, {0.4, 0.2, 0.1}}

// thin is from how many outings on, with what neighbours count, an hour is not called thin any more.
const thin = 4

// Hour is one hour of a week, smoothed over its neighbours.
type Hour struct {
	Median    float64 // clicks an outing
	Low, High float64 // with a probability of 90 %
	Outings   int     // of that hour alone
	Thin      bool    // so few are known, of it and its neighbours, that it says little
	rate      Rate
}

// exceeds is the probability that the hour is better than a rate.
func (h Hour) exceeds(r Rate) float64 { return h.rate.Exceeds(r) }

// Smooth says what an outing brings at each hour of the week. Neighbours count, since people who read at nine read at ten: by less the further they are
// away, over midnight and from Sunday to Monday as well.
func (p Prior) Smooth(w Week) (hours [7][24]Hour) {
	for d := range 7 {
		for h := range 24 {
			var t Tally
			for dd := -1; dd <= 1; dd++ {
				for hh := -2; hh <= 2; hh++ {
					at := (d+dd+7)*24 + h + hh
					t = t.Plus(w[at/24%7][at%24].Times(kernel[abs(dd)][abs(hh)]))
				}
			}
			r := p.After(t)
			one := Hour{Median: r.Median(), Outings: int(w[d][h].Outings), Thin: t.Outings < thin, rate: r}
			one.Low, one.High = r.Interval()
			hours[d][h] = one
		}
	}
	return hours
}

func abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}
