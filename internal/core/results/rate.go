// Package results says what outings brought: how many clicks an outing has, how sure that is, and whether one way to share is better
// than another. It is pure.
//
// Clicks are taken to be Poisson, with a rate an outing that is Gamma beforehand (see Prior) and so Gamma afterwards. What lies between
// outings that a Poisson law does not explain, since posts differ, makes all evidence count for less (see Spread).
package results

import (
	"fmt"
	"math"
	"strings"

	"gonum.org/v1/gonum/mathext"
)

// Tally is what some outings brought together. Parts of outings count where hours are smoothed over their neighbours.
type Tally struct {
	Outings float64
	Clicks  float64
	Squares float64 // of the clicks of each outing
}

// Of adds up outings by their clicks.
func Of(clicks ...int) (t Tally) {
	for _, n := range clicks {
		t.Outings++
		t.Clicks += float64(n)
		t.Squares += float64(n) * float64(n)
	}
	return t
}

// Plus is both together.
func (t Tally) Plus(other Tally) Tally {
	return Tally{t.Outings + other.Outings, t.Clicks + other.Clicks, t.Squares + other.Squares}
}

// Times is a part of it, or several times it.
func (t Tally) Times(share float64) Tally {
	return Tally{t.Outings * share, t.Clicks * share, t.Squares * share}
}

// Mean is the clicks an outing; 0 of none.
func (t Tally) Mean() float64 {
	if t.Outings == 0 {
		return 0
	}
	return t.Clicks / t.Outings
}

// worth is how many outings a prior is worth.
const worth = 10

// Prior is what is held of a rate before any of its outings is looked at: a Gamma law.
type Prior struct {
	shape, rate float64
	spread      float64
}

// PriorOf fits a blog's own prior to all its outings: their mean, worth as much as ten of them, and by how much they are spread wider than chance
// alone would spread them, taken within groups of like outings, such as those of one post on one channel.
func PriorOf(groups []Tally) Prior {
	var all Tally
	excess, free := 0.0, 0.0
	for _, g := range groups {
		all = all.Plus(g)
		if g.Outings < 2 || g.Clicks == 0 {
			continue
		}
		mean := g.Mean()
		excess += (g.Squares - g.Outings*mean*mean) / mean // chi-squared over its degrees of freedom is 1 by chance alone
		free += g.Outings - 1
	}
	spread := 1.0
	if free > 0 {
		spread = max(excess/free, 1)
	}
	mean := (all.Clicks + 1) / (all.Outings + 1)
	return Prior{shape: mean * worth / spread, rate: worth / spread, spread: spread}
}

// weak is the prior worth one outing alone: what is compared is pulled together by a prior that both share, and of what wears off
// that would be untrue.
func (p Prior) weak() Prior {
	return Prior{p.shape / worth, p.rate / worth, p.spread}
}

// Rate is what is held of the clicks an outing brings, once outings were looked at: a Gamma law.
type Rate struct{ shape, rate float64 }

// After is the rate once a tally is known.
func (p Prior) After(t Tally) Rate {
	return Rate{p.shape + t.Clicks/p.spread, p.rate + t.Outings/p.spread}
}

// Quantile is what the rate is below, with a probability between 0 and 1.
func (r Rate) Quantile(p float64) float64 { return mathext.GammaIncRegInv(r.shape, p) / r.rate }

// Median is what the rate is as likely above as below.
func (r Rate) Median() float64 { return r.Quantile(0.5) }

// Interval holds the rate with a probability of 90 %.
func (r Rate) Interval() (low, high float64) { return r.Quantile(0.05), r.Quantile(0.95) }

// Exceeds is the probability that the rate is higher than another: of Gamma laws it is a value of the regularised incomplete Beta
// function.
func (r Rate) Exceeds(other Rate) float64 {
	return mathext.RegIncBeta(other.shape, r.shape, other.rate/(r.rate+other.rate))
}

// Ratio is how many times another the rate is: its median and the interval that holds it with a probability of 90 %.
func (r Rate) Ratio(other Rate) (median, low, high float64) {
	at := func(p float64) float64 {
		b := mathext.InvRegIncBeta(other.shape, r.shape, 1-p) // the other's share of both
		return other.rate / r.rate * (1 - b) / math.Max(b, math.SmallestNonzeroFloat64)
	}
	return at(0.5), at(0.05), at(0.95)
}

// Sure is the probability from which one thing is said to be better than another.
const Sure = 0.95

// Comparison is one of several alternatives against the best of the others.
type Comparison struct {
	Best      int     // its number; -1 where there are none
	Against   int     // the next best; -1 where there is only one
	Times     float64 // how many times the other it is
	Low, High float64 // with a probability of 90 %
	Sure      bool    // it is said to be better
}

// Compare finds the best of several alternatives and says whether it is better than the others. The more there are, the surer that has to be:
// among many that are alike one is always ahead.
func (p Prior) Compare(tallies []Tally) Comparison {
	c := Comparison{Best: -1, Against: -1}
	rates := make([]Rate, len(tallies))
	for i, t := range tallies {
		if rates[i] = p.After(t); t.Outings == 0 {
			continue
		}
		switch {
		case c.Best < 0 || rates[i].mean() > rates[c.Best].mean():
			c.Best, c.Against = i, c.Best
		case c.Against < 0 || rates[i].mean() > rates[c.Against].mean():
			c.Against = i
		}
	}
	if c.Against < 0 {
		return c
	}
	c.Times, c.Low, c.High = rates[c.Best].Ratio(rates[c.Against])
	pairs := 0
	for _, t := range tallies {
		if t.Outings > 0 {
			pairs++
		}
	}
	pairs = pairs * (pairs - 1) / 2
	c.Sure = 1-rates[c.Best].Exceeds(rates[c.Against]) < (1-Sure)/float64(2*pairs)
	return c
}

func (r Rate) mean() float64 { return r.shape / r.rate }

// Sentence says what a comparison found, of alternatives that are called so: "Wording 2 brings about 1.3 times the clicks of wording 1 (0.9 to 1.8). That
// is not enough to tell yet."
func (c Comparison) Sentence(name func(i int) string) string {
	switch {
	case c.Best < 0:
		return "Nothing was shared yet."
	case c.Against < 0:
		return "There is only one to look at."
	}
	said := fmt.Sprintf("%s brings about %.1f times the clicks of %s (%.1f to %.1f).", capital(name(c.Best)), c.Times, name(c.Against), c.Low, c.High)
	if !c.Sure {
		return said + " That is not enough to tell yet."
	}
	return said
}

// capital is a name at the beginning of a sentence.
func capital(name string) string {
	if name == "" {
		return name
	}
	return strings.ToUpper(name[:1]) + name[1:]
}
