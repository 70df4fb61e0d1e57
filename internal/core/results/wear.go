package results

// Wear is what is left of the clicks when something is shared again.
type Wear struct {
	Nth       int     // of the outings of one thing on one channel, from 2
	Times     float64 // how many times the clicks of the first outing it has
	Low, High float64 // with a probability of 90 %
	Outings   int     // that it is known from
}

// WearOf compares the n-th outings with the first, from pooled tallies by n, the first at 0. Those that never happened are left out.
func (p Prior) WearOf(byNth []Tally) (all []Wear) {
	if len(byNth) == 0 || byNth[0].Outings == 0 {
		return nil
	}
	p = p.weak()
	first := p.After(byNth[0])
	for i, t := range byNth[1:] {
		if t.Outings == 0 {
			continue
		}
		w := Wear{Nth: i + 2, Outings: int(t.Outings)}
		w.Times, w.Low, w.High = p.After(t).Ratio(first)
		all = append(all, w)
	}
	return all
}
