package queue

import (
	"cmp"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"
)

// Order is how a shelf is ordered.
type Order string

// The orders of a shelf.
const (
	ByHand       Order = "hand"
	OldestFirst  Order = "oldest"
	NewestFirst  Order = "newest"
	Shuffled     Order = "shuffled" // by the seed; a draft that joins moves no two others against one another
	ByCategories Order = "categories"
)

// Orders lists all orders.
var Orders = []Order{ByHand, OldestFirst, NewestFirst, Shuffled, ByCategories}

// Arrange returns the drafts, given in hand order, in the order wanted. ByCategories
// takes one of each category in turn, categories in the order of their first draft.
func Arrange(drafts []Draft, order Order, seed uint64) []Draft {
	arranged := slices.Clone(drafts)
	switch order {
	case OldestFirst:
		slices.SortStableFunc(arranged, func(a, b Draft) int { return a.Added.Compare(b.Added) })
	case NewestFirst:
		slices.SortStableFunc(arranged, func(a, b Draft) int { return b.Added.Compare(a.Added) })
	case Shuffled:
		slices.SortStableFunc(arranged, func(a, b Draft) int { return cmp.Compare(lot(seed, a.ID), lot(seed, b.ID)) })
	case ByCategories:
		return inTurn(arranged)
	}
	return arranged
}

// lot is the draft's lot in a shuffle: its own, whoever else stands on the shelf.
func lot(seed uint64, id int64) uint64 {
	h := sha256.Sum256(fmt.Appendf(nil, "shelf %d", id))
	return rand.New(rand.NewPCG(seed, binary.BigEndian.Uint64(h[:8]))).Uint64()
}

func inTurn(drafts []Draft) []Draft {
	turn := make(map[string]int)  // how many of the category have been seen
	place := make(map[string]int) // the category's place in the round
	type ranked struct {
		Draft
		round, place int
	}
	all := make([]ranked, len(drafts))
	for i, d := range drafts {
		if _, ok := place[d.Category]; !ok {
			place[d.Category] = len(place)
		}
		all[i] = ranked{d, turn[d.Category], place[d.Category]}
		turn[d.Category]++
	}
	slices.SortStableFunc(all, func(a, b ranked) int {
		return cmp.Or(cmp.Compare(a.round, b.round), cmp.Compare(a.place, b.place))
	})
	for i, r := range all {
		drafts[i] = r.Draft
	}
	return drafts
}

func instant(seconds int64) time.Time { return time.Unix(seconds, 0) }
