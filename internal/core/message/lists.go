package message

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/check"
)

// OneOf is the placeholder {one-of:NAME}: an entry of the list of that name.
const OneOf Placeholder = "one-of"

// Limits of lists.
const (
	MaxLists   = 200
	MaxEntries = 1000 // of one list
	MaxEntry   = 500  // graphemes of one entry
	// maxDrawn bounds what one wording can grow to by its lists, in pieces.
	maxDrawn = 200
)

// Lists are named lists of words and sentences, for alternatives in wordings. Entries are
// wordings: they may have placeholders, and lists in turn.
type Lists struct {
	entries map[string][]Wording
}

// ReadLists reads lists by name. Where something is wrong it says so, each with the list as
// its path: an entry that cannot be read, a list that is not there, lists that come back to
// themselves, with the way they do.
func ReadLists(texts map[string][]string) (Lists, []check.FieldProblem) {
	l := Lists{make(map[string][]Wording, len(texts))}
	var found []check.FieldProblem
	say := func(path, format string, args ...any) {
		found = append(found, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
	}
	names := slices.Sorted(maps.Keys(texts))
	for _, name := range names {
		if name == "" || len(name) > 60 || strings.ContainsAny(name, "{}") {
			say(name, "The name of a list has 1 to 60 characters and no braces.")
		}
		if n := len(texts[name]); n == 0 || n > MaxEntries {
			say(name, "The list %q has %d entries; it needs 1 to %d.", clip(name), n, MaxEntries)
		}
		for i, text := range texts[name] {
			w, err := ReadWording(text)
			if err != nil {
				say(name, "Entry %d of the list %q: %s", i+1, clip(name), err)
				continue
			}
			l.entries[name] = append(l.entries[name], w)
		}
	}
	for _, name := range names {
		for _, w := range l.entries[name] {
			for _, other := range w.lists() {
				if _, there := texts[other]; !there {
					say(name, "The list %q asks for {one-of:%s}, which there is not.", clip(name), clip(other))
				}
			}
		}
		if way := l.loop(name, nil); way != nil {
			say(name, "The list %q comes back to itself: %s.", clip(name), strings.Join(way, " → "))
		}
	}
	return l, found
}

// loop is the way from a list back to itself; nil where there is none.
func (l Lists) loop(name string, way []string) []string {
	return l.walk(name, name, way, make(map[string]bool))
}

func (l Lists) walk(home, name string, way []string, seen map[string]bool) []string {
	way = append(way, name)
	for _, w := range l.entries[name] {
		for _, next := range w.lists() {
			if next == home {
				return append(way, home)
			}
			if seen[next] {
				continue
			}
			seen[next] = true
			if found := l.walk(home, next, slices.Clone(way), seen); found != nil {
				return found
			}
		}
	}
	return nil
}

// Has tells whether there is a list of a name.
func (l Lists) Has(name string) bool { return len(l.entries[name]) > 0 }

// lists are the names of the lists that a wording asks for.
func (w Wording) lists() (names []string) {
	for _, p := range w.pieces {
		if p.name == OneOf {
			names = append(names, p.text)
		}
	}
	return names
}

// Missing are the lists that a wording asks for and that there are not.
func (w Wording) Missing(l Lists) (names []string) {
	for _, name := range w.lists() {
		if !l.Has(name) && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// Draw is the wording with an entry of a list in the place of each {one-of:NAME}: which, comes
// from the seed and the place. A list that is not there leaves nothing.
func (w Wording) Draw(l Lists, seed uint64) Wording {
	if !w.uses[OneOf] {
		return w
	}
	drawn := Wording{text: w.text, uses: maps.Clone(w.uses)}
	delete(drawn.uses, OneOf)
	drawn.draw(w, l, seed)
	return drawn
}

func (w *Wording) draw(from Wording, l Lists, seed uint64) {
	for i, p := range from.pieces {
		if p.name != OneOf {
			w.pieces = append(w.pieces, p)
			w.uses[p.name] = p.name != "" || w.uses[p.name]
			continue
		}
		entries := l.entries[p.text]
		if len(entries) == 0 || len(w.pieces) > maxDrawn {
			continue
		}
		one := cadence.Mix(seed, uint64(i))
		w.draw(entries[one%uint64(len(entries))], l, one)
	}
}

// Between is the wording with a text before it and one after it, which stand as they are.
func (w Wording) Between(before, after string) Wording {
	if before == "" && after == "" {
		return w
	}
	all := Wording{text: w.text, uses: w.uses}
	if before != "" {
		all.pieces = append(all.pieces, piece{text: before + " "})
	}
	all.pieces = append(all.pieces, w.pieces...)
	if after != "" {
		all.pieces = append(all.pieces, piece{text: " " + after})
	}
	return all
}

// One is an entry of a list as a wording, drawn by the seed; ok is false where there is no such list.
func (l Lists) One(name string, seed uint64) (w Wording, ok bool) {
	entries := l.entries[name]
	if len(entries) == 0 {
		return Wording{}, false
	}
	one := cadence.Mix(seed, 0)
	return entries[one%uint64(len(entries))].Draw(l, one), true
}
