package intake

import (
	"hash/fnv"
	"slices"
	"strings"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/words"
)

// Titles finds titles that are nearly the same: that have the same words in any order but for one, which is another or missing, and no number.
// Titles of fewer than fewestForNear words are near only to those that have the same words.
type Titles struct {
	whole map[uint64]int32 // by their words
	less  map[uint64]int32 // by their words less one
	named []string
}

const (
	fewestForNear = 4
	mostForNear   = 30 // words that are looked at
)

// NewTitles returns a collection without titles.
func NewTitles() *Titles {
	return &Titles{whole: make(map[uint64]int32), less: make(map[uint64]int32)}
}

// Add adds a title.
func (t *Titles) Add(title string) {
	whole, less := signs(title)
	if whole == 0 {
		return
	}
	if _, there := t.whole[whole]; there {
		return
	}
	t.named = append(t.named, title)
	n := int32(len(t.named) - 1) //nolint:gosec // far fewer
	t.whole[whole] = n
	for _, s := range less {
		if _, there := t.less[s]; !there {
			t.less[s] = n
		}
	}
}

// Near is a title that is nearly the same; ok is false where there is none.
func (t *Titles) Near(title string) (other string, ok bool) {
	whole, less := signs(title)
	if whole == 0 {
		return "", false
	}
	if n, ok := t.whole[whole]; ok {
		return t.named[n], true
	}
	if n, ok := t.less[whole]; ok { // it lacks one of the other's
		return t.named[n], true
	}
	for _, s := range less {
		if n, ok := t.whole[s]; ok { // it has one more
			return t.named[n], true
		}
		if n, ok := t.less[s]; ok { // one is another
			return t.named[n], true
		}
	}
	return "", false
}

// signs stand for the words of a title, and for those less one each; 0 for a title without words.
func signs(title string) (whole uint64, less []uint64) {
	all := strings.FieldsFunc(letters.Fold(title), func(r rune) bool { return !words.IsRune(r) })
	if len(all) == 0 {
		return 0, nil
	}
	all = all[:min(len(all), mostForNear)]
	slices.Sort(all)
	hashes := make([]uint64, len(all))
	for i, w := range all {
		h := fnv.New64a()
		h.Write([]byte(w))
		hashes[i] = cadence.Mix(h.Sum64())
		whole += hashes[i]
	}
	if whole == 0 {
		whole = 1
	}
	if len(all) >= fewestForNear {
		for i, h := range hashes {
			if !strings.ContainsAny(all[i], "0123456789") { // the twelfth week is not the thirteenth
				less = append(less, whole-h)
			}
		}
	}
	return whole, less
}
