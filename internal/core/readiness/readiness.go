// Package readiness finds ahead of time what readers would miss in posts that are about to
// come out: no picture, no category, no text, links that lead nowhere, and two posts
// that tell the same.
//
// It finds and explains; what to do is the editor's. The package is pure.
package readiness

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/words"
)

// Check is one thing that is looked for; each can be switched off.
type Check string

// The checks.
const (
	Image    Check = "image"    // there is no featured image
	Excerpt  Check = "excerpt"  // there is no excerpt but the text's beginning
	Category Check = "category" // there is no category
	Text     Check = "text"     // there is no text
	Links    Check = "links"    // a link to the blog itself leads nowhere
	Twins    Check = "twins"    // another post within a week is called nearly the same
)

// Checks lists all of them, in the order in which they are shown.
var Checks = []Check{Text, Category, Image, Excerpt, Links, Twins}

// Usual are those that are on unless a site says otherwise.
var Usual = []Check{Text, Category, Image, Links, Twins}

// Post is one that is looked at, or one that is out and near to it.
type Post struct {
	ID       int64
	Title    string
	At       time.Time // when it comes out, or came out
	Out      bool      // it is out already: only others are held against it
	Category string
	HasImage bool
	Excerpt  string
	HasText  bool
	// Dead are its links to pages of the blog that are not there.
	Dead []string
}

// Finding is what was found in one post.
type Finding struct {
	Post    int64
	Check   Check
	Message string // a sentence for the editor: what is missing and what to do
}

// Near is how far apart, in days, two posts of nearly the same title may be and still be
// told of.
const Near = 7

// Look finds what the checks look for in the posts that are to come, in their order.
// Dates of another year than today's are said with their year.
func Look(zone civil.Zone, today civil.Date, posts []Post, checks []Check) []Finding {
	var found []Finding
	on := func(c Check) bool { return slices.Contains(checks, c) }
	keys := make([]map[string]int, len(posts))
	for i, p := range posts {
		keys[i] = pairs(p.Title)
	}
	for i, p := range posts {
		if p.Out {
			continue
		}
		tell := func(c Check, format string, args ...any) {
			found = append(found, Finding{p.ID, c, fmt.Sprintf(format, args...)})
		}
		if on(Text) && !p.HasText {
			tell(Text, "It has no text. Write it, or take the post back to the shelf.")
		}
		if on(Category) && p.Category == "" {
			tell(Category, "It has no category, so readers browsing by category won’t find it.")
		}
		if on(Image) && !p.HasImage {
			tell(Image, "It has no featured image.")
		}
		if on(Excerpt) && p.Excerpt == "" {
			tell(Excerpt, "It has no excerpt. Lists and feeds will show the beginning of its text.")
		}
		if on(Links) && len(p.Dead) > 0 {
			tell(Links, "%s nowhere on the blog: %s.", words.For(len(p.Dead), "A link leads", "Links lead"),
				strings.Join(p.Dead, ", "))
		}
		if !on(Twins) {
			continue
		}
		for j, other := range posts {
			apart := zone.DateOf(p.At).Sub(zone.DateOf(other.At))
			if i == j || apart < -Near || apart > Near || !alike(keys[i], keys[j]) {
				continue
			}
			tell(Twins, "“%s” has nearly the same title and comes out on %s.", other.Title,
				zone.DateOf(other.At).Words(today))
		}
	}
	return found
}

// pairs counts the pairs of neighbouring letters and digits of a title, word by word.
func pairs(title string) map[string]int {
	counts := make(map[string]int)
	for _, word := range strings.FieldsFunc(strings.ToLower(title),
		func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		runes := []rune(word)
		if len(runes) == 1 {
			counts[word]++
		}
		for i := 1; i < len(runes); i++ {
			counts[string(runes[i-1:i+1])]++
		}
	}
	return counts
}

// likeness is from which share of common pairs on two titles are nearly the same.
const likeness = 0.8

// alike tells whether two titles have nearly all of their pairs in common: Dice's
// coefficient over multisets.
func alike(a, b map[string]int) bool {
	common, all := 0, 0
	for pair, n := range a {
		common += min(n, b[pair])
		all += n
	}
	for _, n := range b {
		all += n
	}
	return all > 0 && float64(2*common) >= likeness*float64(all)
}
