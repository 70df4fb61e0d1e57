// Package catch keeps the posts that a rule applies to as time moves on.
//
// A Pool is filled by asking the rule about every post once. The rule says with each
// answer until when it is good, so that later only posts whose answer may have changed
// are asked again: those whose time has come, and those that were touched. The posts
// of the pool are had in the order of their keys. The package is pure.
package catch

import (
	"iter"
	"math"
	"time"
)

// Catcher is what a pool asks. Posts are numbered from 0.
type Catcher interface {
	// Judge tells whether the post belongs at the moment, and until when that stays so if
	// the post does not change; the zero time is for good.
	Judge(post int, at time.Time) (belongs bool, until time.Time)
	// Key is the post's place in the order; it changes only when the post is touched.
	Key(post int) Key
}

// Key is a place in an order: the lower comes first.
type Key struct {
	First int64
	Tie   uint64
}

// Less tells whether k comes before other.
func (k Key) Less(other Key) bool {
	return k.First < other.First || k.First == other.First && k.Tie < other.Tie
}

// Pool holds the posts that belong.
type Pool struct {
	rule    Catcher
	end     time.Time // answers that are good until then or longer are not asked again
	at      time.Time
	belongs []bool
	stamps  []uint32 // entries of an older stamp are void
	n       int
	order   heap[member]
	turning heap[turn]
}

// lastMoment is the last that nanoseconds since 1970 tell, in the year 2262. What turns later is as good as for good.
var lastMoment = time.Unix(0, math.MaxInt64)

type member struct {
	key   Key
	post  int32
	stamp uint32
}

// Less tells whether m comes before other.
func (m member) Less(other member) bool { return m.key.Less(other.key) }

type turn struct {
	at    int64 // nanoseconds since 1970
	post  int32
	stamp uint32
}

// Less tells whether t comes before other.
func (t turn) Less(other turn) bool { return t.at < other.at }

// New asks the rule about posts 0 to n-1 at a moment. The pool is not asked about
// moments after end; the zero time is no end.
func New(rule Catcher, n int, at, end time.Time) *Pool {
	p := &Pool{rule: rule, end: end, at: at, belongs: make([]bool, n), stamps: make([]uint32, n)}
	for i := range n {
		p.judge(i, false)
	}
	p.order.build()
	p.turning.build()
	return p
}

// judge asks about one post and enters the answer.
func (p *Pool) judge(i int, sorted bool) {
	belongs, until := p.rule.Judge(i, p.at)
	if !until.IsZero() && until.Before(lastMoment) && (p.end.IsZero() || until.Before(p.end)) {
		p.turning.add(turn{until.UnixNano(), int32(i), p.stamps[i]}, sorted)
	}
	if !belongs {
		return
	}
	p.belongs[i] = true
	p.n++
	p.order.add(member{p.rule.Key(i), int32(i), p.stamps[i]}, sorted)
}

// Touch asks about a post again, since it changed.
func (p *Pool) Touch(i int) {
	p.stamps[i]++
	if p.belongs[i] {
		p.belongs[i] = false
		p.n--
	}
	p.judge(i, true)
}

// Advance moves the pool to a moment that is not earlier than the one before.
func (p *Pool) Advance(at time.Time) {
	p.at = at
	for now := at.UnixNano(); len(p.turning) > 0 && p.turning[0].at <= now; {
		if t := p.turning.pop(); t.stamp == p.stamps[t.post] {
			p.Touch(int(t.post))
		}
	}
}

// Add makes room for one more post and asks about it.
func (p *Pool) Add() {
	p.belongs = append(p.belongs, false)
	p.stamps = append(p.stamps, 0)
	p.judge(len(p.belongs)-1, true)
}

// Len is how many posts belong.
func (p *Pool) Len() int { return p.n }

// Has tells whether the post belongs.
func (p *Pool) Has(i int) bool { return p.belongs[i] }

// InOrder yields the posts that belong in the order of their keys. Posts must not be
// touched while it runs.
func (p *Pool) InOrder() iter.Seq[int] {
	return func(yield func(int) bool) {
		var seen []member
		defer func() {
			for _, m := range seen {
				p.order.push(m)
			}
		}()
		for len(p.order) > 0 {
			m := p.order.pop()
			if m.stamp != p.stamps[m.post] {
				continue
			}
			seen = append(seen, m)
			if !yield(int(m.post)) {
				return
			}
		}
	}
}

// All yields the posts that belong in the order of their numbers.
func (p *Pool) All() iter.Seq[int] {
	return func(yield func(int) bool) {
		for i, belongs := range p.belongs {
			if belongs && !yield(i) {
				return
			}
		}
	}
}

// heap is a binary heap of what orders itself.
type heap[T interface{ Less(T) bool }] []T

func (h *heap[T]) add(x T, sorted bool) {
	if sorted {
		h.push(x)
	} else {
		*h = append(*h, x)
	}
}

func (h *heap[T]) build() {
	for i := len(*h)/2 - 1; i >= 0; i-- {
		h.sink(i)
	}
}

func (h *heap[T]) push(x T) {
	*h = append(*h, x)
	for i := len(*h) - 1; i > 0; {
		up := (i - 1) / 2
		if !(*h)[i].Less((*h)[up]) {
			return
		}
		(*h)[i], (*h)[up] = (*h)[up], (*h)[i]
		i = up
	}
}

func (h *heap[T]) pop() T {
	top, last := (*h)[0], len(*h)-1
	(*h)[0] = (*h)[last]
	*h = (*h)[:last]
	h.sink(0)
	return top
}

func (h *heap[T]) sink(i int) {
	for {
		down := 2*i + 1
		if down >= len(*h) {
			return
		}
		if right := down + 1; right < len(*h) && (*h)[right].Less((*h)[down]) {
			down = right
		}
		if !(*h)[down].Less((*h)[i]) {
			return
		}
		(*h)[i], (*h)[down] = (*h)[down], (*h)[i]
		i = down
	}
}
