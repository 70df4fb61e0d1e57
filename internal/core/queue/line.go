package queue

import (
	"container/heap"
)

// ranks is a heap of items by their rank on the shelf.
type ranks []int

func (r ranks) Len() int           { return len(r) }
func (r ranks) Less(i, j int) bool { return r[i] < r[j] }
func (r ranks) Swap(i, j int)      { r[i], r[j] = r[j], r[i] }
func (r *ranks) Push(x any)        { *r = append(*r, x.(int)) }
func (r *ranks) Pop() any {
	last := (*r)[len(*r)-1]
	*r = (*r)[:len(*r)-1]
	return last
}

// group is the line of the items of one author and category: for the caps and lanes
// they are alike.
type group struct {
	items ranks
}

// groupHeap holds the groups by the rank of their first item.
type groupHeap []*group

func (h groupHeap) Len() int           { return len(h) }
func (h groupHeap) Less(i, j int) bool { return h[i].items[0] < h[j].items[0] }
func (h groupHeap) Swap(i, j int)      { h[i], h[j] = h[j], h[i] }
func (h *groupHeap) Push(x any)        { *h = append(*h, x.(*group)) }
func (h *groupHeap) Pop() any {
	last := (*h)[len(*h)-1]
	*h = (*h)[:len(*h)-1]
	return last
}

// enqueue puts an item in the line of its group.
func (p *planner) enqueue(i int) {
	key := [2]int32{p.items[i].author, p.items[i].category}
	g := p.groups[key]
	if g == nil {
		g = &group{}
		p.groups[key] = g
	}
	heap.Push(&g.items, i)
	switch {
	case len(g.items) == 1:
		heap.Push(&p.heads, g)
	case g.items[0] == i:
		heap.Init(&p.heads) // the group's first has changed
	}
}

// release puts the held items in line whose time has come by seat t.
func (p *planner) release(t int) {
	for len(p.held) > 0 && p.items[p.held[0]].notBefore <= p.seats[t].at {
		p.enqueue(p.held[0])
		p.held = p.held[1:]
	}
}

// expire drops items from the head of the group whose deadline has passed, and those
// that were placed out of turn.
func (p *planner) expire(g *group, t int) {
	for len(g.items) > 0 {
		it := &p.items[g.items[0]]
		if it.seat < 0 && it.deadline >= p.seats[t].at {
			return
		}
		if it.seat < 0 && !it.gone {
			it.gone = true
			p.pending--
		}
		heap.Pop(&g.items)
	}
}
