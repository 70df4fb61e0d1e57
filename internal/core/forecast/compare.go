package forecast

import (
	"cmp"
	"slices"
	"time"

	"dapper.example/internal/core/deed"
)

// Change is one difference between two forecasts: an event that comes, goes, or comes at
// another time.
type Change struct {
	Event
	Was time.Time // of one that moves: when it would have been
	How How
}

// How an event differs.
type How string

// The differences.
const (
	Comes How = "comes"
	Goes  How = "goes"
	Moves How = "moves"
)

// what is the same thing in two forecasts, whenever it happens.
type what struct {
	kind          deed.Kind
	post, channel int64
}

// Compare lists what the second forecast has otherwise than the first, in order of
// time. The first, second and so on occurrence of one thing are compared with one
// another.
func Compare(before, after []Event) []Change {
	var changes []Change
	had := make(map[what][]Event)
	for _, e := range before {
		key := what{e.Kind, e.Post, e.Channel}
		had[key] = append(had[key], e)
	}
	for _, e := range after {
		key := what{e.Kind, e.Post, e.Channel}
		if len(had[key]) == 0 {
			changes = append(changes, Change{Event: e, How: Comes})
			continue
		}
		was := had[key][0]
		had[key] = had[key][1:]
		if !was.At.Equal(e.At) {
			changes = append(changes, Change{Event: e, Was: was.At, How: Moves})
		}
	}
	for _, rest := range had {
		for _, e := range rest {
			changes = append(changes, Change{Event: e, How: Goes})
		}
	}
	slices.SortFunc(changes, func(a, b Change) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.How, b.How), cmp.Compare(a.Kind, b.Kind),
			cmp.Compare(a.Post, b.Post), cmp.Compare(a.Channel, b.Channel))
	})
	return changes
}
