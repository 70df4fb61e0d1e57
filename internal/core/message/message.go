// Package message makes the text of an outing: a wording and a post become a message
// that a channel can take.
//
// Text is counted in graphemes (Unicode Standard Annex 29), what a reader calls
// characters. Where a message is too long, Compose gives things up in a fixed order
// and says which: that is the fit. It never touches the link or the editor's own words.
//
// The package is pure.
package message

import (
	"bytes"
	"fmt"
	"strings"

	"github.com/rivo/uniseg"
)

// Limits is what a channel takes.
type Limits struct {
	Graphemes int  // the longest text; 0: any length
	LinkCost  int  // what a link counts, whatever its length; 0: its length
	Hashtags  int  // the most hashtags; 0: none are taken
	Image     Need // of a picture
	Replies   bool // whether a trailing reply may follow
}

// Need says whether a channel wants something.
type Need string

// What a channel may say of pictures.
const (
	Required Need = "required"
	Allowed  Need = "allowed"
	None     Need = "none"
)

// Post is what a wording may speak of.
type Post struct {
	Title    string
	Excerpt  string
	Link     string
	Category string
	Tags     []string
	Author   string
	Line     string // of a tour; otherwise the excerpt's first sentence
	Fields   map[string]string
	HasImage bool
}

// Fit is what had to be given up.
type Fit struct {
	Hashtags []string `json:"hashtags,omitempty" doc:"hashtags that were left out, the last first"`
	Excerpt  bool     `json:"excerpt,omitempty" doc:"whether the excerpt was shortened"`
	Line     bool     `json:"line,omitempty" doc:"whether the line was shortened"`
	Title    bool     `json:"title,omitempty" doc:"whether the title was shortened"`
}

// IsWhole tells whether nothing was given up.
func (f Fit) IsWhole() bool { return len(f.Hashtags) == 0 && !f.Excerpt && !f.Line && !f.Title }

// String says what was given up, or "".
func (f Fit) String() string {
	var parts []string
	if n := len(f.Hashtags); n > 0 {
		parts = append(parts, "left out "+strings.Join(f.Hashtags, " "))
	}
	var short []string
	for _, s := range []struct {
		was  bool
		name string
	}{{f.Excerpt, "excerpt"}, {f.Line, "line"}, {f.Title, "title"}} {
		if s.was {
			short = append(short, s.name)
		}
	}
	if len(short) > 0 {
		parts = append(parts, "shortened the "+strings.Join(short, " and the "))
	}
	return strings.Join(parts, "; ")
}

// Message is a text that a channel takes.
type Message struct {
	Text      string `json:"text"`
	Graphemes int    `json:"graphemes" doc:"as the channel counts them"`
	Fit       Fit    `json:"fit"`
}

// TooLong says that a message cannot be made to fit.
type TooLong struct {
	Over  int // graphemes over the limit
	Limit int
}

// Error says by how much.
func (e *TooLong) Error() string {
	return fmt.Sprintf("The message cannot fit: with all that may be given up gone it is still %d over the %d characters that the channel takes. Shorten the wording.", e.Over, e.Limit)
}

// NoImage says that the channel wants a picture and the post has none.
type NoImage struct{}

// Error says so.
func (NoImage) Error() string {
	return "The channel takes messages with a picture only, and the post has no featured image."
}

// ellipsis ends what was shortened.
const ellipsis = "…"

// draft is a message in the making: the values that may still be given up.
type draft struct {
	wording  Wording
	post     Post
	hashtags []string
	linkCost int
}

// Compose fills the wording with the post and makes it fit. It fails with *TooLong or
// NoImage where the channel cannot take it.
//
// What is given up, in this order, each only as far as needed: hashtags from the last
// on; the line, then the excerpt, cut after a word; the title, cut after a word.
func Compose(w Wording, p Post, tags Hashtags, limits Limits) (Message, error) {
	if limits.Image == Required && !p.HasImage {
		return Message{}, NoImage{}
	}
	if p.Line == "" {
		p.Line = firstSentence(p.Excerpt)
	}
	d := draft{wording: w, post: p, linkCost: limits.LinkCost}
	if w.uses[Hashtag] {
		d.hashtags = tags.Of(p)
	}
	var fit Fit
	if len(d.hashtags) > limits.Hashtags {
		d.drop(len(d.hashtags)-limits.Hashtags, &fit)
	}
	length := d.length()
	if limits.Graphemes > 0 && length > limits.Graphemes {
		var err error
		if length, err = d.shorten(limits.Graphemes, &fit); err != nil {
			return Message{}, err
		}
	}
	return Message{d.text(d.post.Link), length, fit}, nil
}

func (d *draft) drop(n int, fit *Fit) {
	for range n {
		last := len(d.hashtags) - 1
		fit.Hashtags = append(fit.Hashtags, d.hashtags[last])
		d.hashtags = d.hashtags[:last]
	}
}

// shorten gives up as little as makes the message fit, and returns its length.
func (d *draft) shorten(limit int, fit *Fit) (int, error) {
	length := d.length()
	for length > limit && len(d.hashtags) > 0 {
		d.drop(1, fit)
		length = d.length()
	}
	for _, part := range []struct {
		name  Placeholder
		value *string
		gone  *bool
	}{{Line, &d.post.Line, &fit.Line}, {Excerpt, &d.post.Excerpt, &fit.Excerpt}, {Title, &d.post.Title, &fit.Title}} {
		if length <= limit {
			return length, nil
		}
		if !d.wording.uses[part.name] || *part.value == "" {
			continue
		}
		*part.gone = true
		length = d.cut(part.value, limit, part.name == Title)
	}
	if length > limit {
		return length, &TooLong{length - limit, limit}
	}
	return length, nil
}

// cut shortens a value at a word until the message fits, or as far as it goes: to
// nothing, or where a word must stay, to the first word. It returns the length.
func (d *draft) cut(value *string, limit int, keepOne bool) int {
	whole, cuts := *value, wordEnds(*value)
	set := func(n int) int {
		switch {
		case n == 0 && !keepOne:
			*value = ""
		case n == 0:
			*value = whole[:cuts[0]] + ellipsis
		default:
			*value = strings.TrimRight(whole[:cuts[n-1]], " ,;:–—-") + ellipsis
		}
		return d.length()
	}
	// A first guess from the room that is left, put right by counting the whole.
	room := limit - set(0)
	n, used := 0, 0
	for from := 0; n < len(cuts); n++ {
		if used += Graphemes(whole[from:cuts[n]]); used > room {
			break
		}
		from = cuts[n]
	}
	length := set(n)
	for n > 0 && length > limit {
		n--
		length = set(n)
	}
	for n < len(cuts) {
		longer := set(n + 1)
		if longer > limit {
			return set(n)
		}
		n, length = n+1, longer
	}
	return length
}

// wordEnds lists where words end, the last of the text left out.
func wordEnds(text string) []int {
	var ends []int
	for i := 1; i < len(text); i++ {
		if isSpace(text[i]) && !isSpace(text[i-1]) {
			ends = append(ends, i)
		}
	}
	if len(ends) == 0 && text != "" {
		ends = append(ends, len(text))
	}
	return ends
}

func isSpace(c byte) bool { return c == ' ' || c == '\n' || c == '\t' }

// length is the message's length as the channel counts it.
func (d *draft) length() int {
	link := d.post.Link
	if d.linkCost > 0 && link != "" {
		link = strings.Repeat("x", d.linkCost)
	}
	return Graphemes(d.text(link))
}

// text fills the wording in; spaces that an empty value leaves behind are joined.
func (d *draft) text(link string) string {
	out := make([]byte, 0, 1024)
	for _, piece := range d.wording.pieces {
		if piece.name == "" {
			out = append(out, piece.text...)
			continue
		}
		out = append(out, d.value(piece, link)...)
	}
	return tidy(out)
}

func (d *draft) value(p piece, link string) string {
	switch p.name {
	case Title:
		return d.post.Title
	case Excerpt:
		return d.post.Excerpt
	case Link:
		return link
	case Category:
		return d.post.Category
	case Author:
		return d.post.Author
	case Line:
		return d.post.Line
	case Hashtag:
		return strings.Join(d.hashtags, " ")
	}
	return d.post.Fields[p.text]
}

// tidy joins the runs of spaces, and of empty lines, that empty values leave.
func tidy(text []byte) string {
	if !bytes.Contains(text, []byte("  ")) && !bytes.ContainsAny(text, "\n\t\r") {
		return string(bytes.Trim(text, " "))
	}
	out := text[:0]
	space, lines := false, 0
	for _, c := range text {
		switch c {
		case ' ', '\t', '\r':
			space = true
			continue
		case '\n':
			lines++
			continue
		}
		if len(out) > 0 {
			for range min(lines, 2) {
				out = append(out, '\n')
			}
			if space && lines == 0 {
				out = append(out, ' ')
			}
		}
		space, lines = false, 0
		out = append(out, c)
	}
	return string(out)
}

// Graphemes counts a text's graphemes.
//
// Next to one another, plain runes are a grapheme each, which needs no table; only the
// runs of others, with the plain rune on either side that they may join, are counted
// by the rules of the Annex.
func Graphemes(text string) int {
	n, run, last := 0, -1, 0 // where a run began, with the plain rune before it, and where that rune begins
	for i, r := range text {
		switch plain := isPlain(r); {
		case plain && run < 0:
			n++
		case plain:
			n += uniseg.GraphemeClusterCount(text[run:i] + string(r))
			run = -1
		case run < 0:
			run = i
			if i > 0 {
				run, n = last, n-1
			}
		}
		last = i
	}
	if run >= 0 {
		n += uniseg.GraphemeClusterCount(text[run:])
	}
	return n
}

// isPlain tells of the letters, digits and marks of European text that none of the
// Annex's rules joins to another of them.
func isPlain(r rune) bool {
	return r < 0x300 && r != '\r' || 0x2010 <= r && r <= 0x2027
}

// firstSentence is the text up to its first full stop, question or exclamation mark.
func firstSentence(text string) string {
	for i, r := range text {
		if r != '.' && r != '?' && r != '!' {
			continue
		}
		if rest := text[i+1:]; rest == "" || isSpace(rest[0]) {
			return text[:i+1]
		}
	}
	return text
}
