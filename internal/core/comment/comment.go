// Package comment says what becomes of what readers write under posts: who may, until when, whether it
// waits for approval, and how it is shown. The package is pure.
package comment

import (
	"fmt"
	"regexp"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/words"
)

// Status is where a comment stands.
type Status string

// The statuses.
const (
	Held   Status = "held"   // it waits for approval
	Shown  Status = "shown"  // readers see it
	Binned Status = "binned" // it can be brought back for a while
)

// Hold says which comments wait for approval.
type Hold string

// The choices.
const (
	HoldAll     Hold = "all"
	HoldUnknown Hold = "unknown" // those of readers of whom none has been approved before
)

// Limits of a comment, in characters, and of what a site may choose.
const (
	MaxName  = 80
	MaxText  = 5000
	MaxLinks = 20
	MaxDays  = 3650
)

// Rules are what a site has chosen for comments.
type Rules struct {
	Open  bool
	Days  int // after its publication a post takes comments for so many days; 0 for ever
	Hold  Hold
	Links int // the most links that a comment may have
}

// IsOpen tells whether a post takes comments at a moment. ticked says that the post's own comments are open; published
// is when it came out last, zero where it is not out: then it takes none yet, whatever is chosen.
func (r Rules) IsOpen(ticked bool, published time.Time, zone civil.Zone, at time.Time) bool {
	if !r.Open || !ticked || published.IsZero() {
		return false
	}
	return r.Days == 0 || at.Before(Closes(published, r.Days, zone))
}

// Closes is when a post that came out at a moment takes no more comments, so many days later by the
// calendar of the zone.
func Closes(published time.Time, days int, zone civil.Zone) time.Time {
	return zone.AddDays(published, days)
}

// Fate is what becomes of a new comment. known says that an earlier one of the same reader was approved.
func (r Rules) Fate(known bool) Status {
	if r.Hold == HoldUnknown && known {
		return Shown
	}
	return Held
}

// Problem is what is wrong with a comment, in a sentence for who wrote it.
type Problem struct{ Field, Message string }

// Written is a comment as a reader wrote it.
type Written struct{ Name, Text string }

var (
	manyLines = regexp.MustCompile(`\n{3,}`)
	linkBegin = regexp.MustCompile(`(?i)https?://|www\.`)
)

// Read returns a comment as it is kept: its name on one line, its text with single empty lines between paragraphs,
// without characters that cannot be seen. It lists what is wrong with it.
func (r Rules) Read(w Written) (Written, []Problem) {
	w.Name = strings.Join(strings.Fields(seen(w.Name)), " ")
	w.Text = strings.ReplaceAll(strings.ReplaceAll(w.Text, "\r\n", "\n"), "\r", "\n")
	w.Text = manyLines.ReplaceAllString(strings.TrimSpace(seen(w.Text)), "\n\n")
	var found []Problem
	say := func(field, format string, args ...any) {
		found = append(found, Problem{field, fmt.Sprintf(format, args...)})
	}
	switch {
	case blank(w.Name):
		say("name", "Enter the name that readers are to see.")
	case letters.Length(w.Name, MaxName) > MaxName:
		say("name", "The name is longer than %d characters. Shorten it.", MaxName)
	}
	switch {
	case blank(w.Text):
		say("text", "Write something first.")
	case letters.Length(w.Text, MaxText) > MaxText:
		say("text", "The comment is longer than %d characters. Shorten it, or send it in two parts.", MaxText)
	default:
		if n := len(linkBegin.FindAllStringIndex(w.Text, r.Links+1)); n > r.Links {
			if r.Links == 0 {
				say("text", "Links are not allowed here. Take them out.")
			} else {
				say("text", "A comment may have %s at most. Take some out.", words.Count(r.Links, "link"))
			}
		}
	}
	return w, found
}

// seen leaves out control characters and what turns the direction of text around (Unicode UAX #9, explicit formatting),
// but for line ends and tabs.
func seen(text string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t':
			return r
		case unicode.IsControl(r), r >= 0x202a && r <= 0x202e, r >= 0x2066 && r <= 0x2069, r == 0xfeff, r == unicode.ReplacementChar:
			return -1
		}
		return r
	}, strings.ToValidUTF8(text, ""))
}

// blank tells whether nothing of a text can be seen.
func blank(text string) bool {
	return !strings.ContainsFunc(text, func(r rune) bool { return unicode.IsGraphic(r) && !unicode.IsSpace(r) && !unicode.Is(unicode.Mn, r) })
}

// Piece is a part of a line: running text, or a link where it has an address.
type Piece struct {
	Text    string
	Address string
}

// Paragraph is lines of pieces.
type Paragraph [][]Piece

var linkForm = regexp.MustCompile(`(?i)\bhttps?://[^\s<>"]+`)

// Paragraphs are how a kept text is shown: plain text, in which whole addresses of the web are links. There is no markup.
func Paragraphs(text string) (all []Paragraph) {
	for part := range strings.SplitSeq(text, "\n\n") {
		var p Paragraph
		for line := range strings.SplitSeq(part, "\n") {
			p = append(p, pieces(line))
		}
		all = append(all, p)
	}
	return all
}

func pieces(line string) (all []Piece) {
	at := 0
	for _, found := range linkForm.FindAllStringIndex(line, -1) {
		// A sentence's own mark behind an address is not of it.
		address := strings.TrimRight(line[found[0]:found[1]], ".,;:!?)]}'’”»")
		if address == "" || len(address) <= len("https://") {
			continue
		}
		if found[0] > at {
			all = append(all, Piece{Text: line[at:found[0]]})
		}
		all = append(all, Piece{Text: address, Address: address})
		at = found[0] + len(address)
	}
	if at < len(line) || len(all) == 0 {
		all = append(all, Piece{Text: line[at:]})
	}
	return all
}
