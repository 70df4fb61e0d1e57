package revise

import (
	"strings"

	"github.com/sergi/go-diff/diffmatchpatch"
)

// hunk is a stretch [a0, a1) of one list that stands as [b0, b1) in another.
type hunk struct{ a0, a1, b0, b1 int }

// most is how many entries are aligned one by one: where two lists differ in more, after what they have in common at their
// ends, the whole stretch is one hunk. It bounds the work to some hundred milliseconds, whatever the lists say.
const most = 3000

// align lists where two lists differ, in order. Hunks have equal entries between them.
func align(a, b []string) []hunk {
	begin := 0
	for begin < len(a) && begin < len(b) && a[begin] == b[begin] {
		begin++
	}
	endA, endB := len(a), len(b)
	for endA > begin && endB > begin && a[endA-1] == b[endB-1] {
		endA, endB = endA-1, endB-1
	}
	if begin == endA && begin == endB {
		return nil
	}
	if begin == endA || begin == endB || endA-begin > most || endB-begin > most {
		return []hunk{{begin, endA, begin, endB}}
	}
	known := make(map[string]rune)
	signs := func(list []string) []rune {
		all := make([]rune, len(list))
		for i, one := range list {
			sign, there := known[one]
			if !there {
				// Surrogates cannot stand in a string (RFC 3629).
				if sign = rune(len(known) + 1); sign >= 0xd800 {
					sign += 0x800
				}
				known[one] = sign
			}
			all[i] = sign
		}
		return all
	}
	differ := diffmatchpatch.New()
	differ.DiffTimeout = 0 // the answer must not depend on how fast the machine is
	var all []hunk
	i, j, open := begin, begin, false
	for _, d := range differ.DiffMainRunes(signs(a[begin:endA]), signs(b[begin:endB]), false) {
		n := strings.Count(d.Text, "") - 1
		if d.Type == diffmatchpatch.DiffEqual {
			i, j, open = i+n, j+n, false
			continue
		}
		if !open {
			all, open = append(all, hunk{i, i, j, j}), true
		}
		if d.Type == diffmatchpatch.DiffDelete {
			i += n
		} else {
			j += n
		}
		last := &all[len(all)-1]
		last.a1, last.b1 = i, j
	}
	return all
}
