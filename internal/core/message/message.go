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
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/rivo/uniseg"
)

// Limits is what a channel takes.
type Limits struct {
	Graphemes int   // the longest text; 0: any length
	Bytes     int   // the longest text in bytes of UTF-8; 0: any length
	Links     Links // what counts as a link, and how much
	Hashtags  int   // the most hashtags; 0: none are taken
	Image     Need  // of a picture
	Replies   bool  // whether a trailing reply may follow
}

// Over is how much longer a text is than the limits allow, in graphemes, or in bytes
// where only those pass their limit; 0 where it fits.
func (l Limits) Over(text string) int { return l.over(l.Links.Length(text), len(text)) }

// over is the same for a text whose graphemes and bytes have been counted.
func (l Limits) over(graphemes, bytes int) int {
	if l.Graphemes > 0 && graphemes > l.Graphemes {
		return graphemes - l.Graphemes
	}
	if l.Bytes > 0 {
		return max(bytes-l.Bytes, 0)
	}
	return 0
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
	Over  int // graphemes over the limit, with all that may be given up gone
	Limit int
	Bytes bool // both are bytes: the graphemes would fit
}

// Error says by how much.
func (e *TooLong) Error() string {
	unit := "characters"
	if e.Bytes {
		unit = "bytes"
	}
	return fmt.Sprintf("The message can’t fit: even after everything optional is left out, it is %d over the channel’s limit of %d %s. Shorten the wording.", e.Over, e.Limit, unit)
}

// Blank says that nothing is left to say: what the wording takes from the post is empty.
type Blank struct{}

// Error says so.
func (Blank) Error() string {
	return "The message is empty: the post has none of what the wording uses. Add a title or a link to the wording."
}

// NoImage says that the channel wants a picture and the post has none.
type NoImage struct{}

// Error says so.
func (NoImage) Error() string {
	return "The channel only accepts messages with a picture, and the post has no featured image."
}

// ellipsis ends what was shortened.
const ellipsis = "…"

// draft is a message in the making: the values that may still be given up.
type draft struct {
	wording  Wording
	post     Post
	hashtags []string
	limits   Limits
}

// Compose fills the wording with the post and makes it fit. It fails with *TooLong or
// NoImage where the channel cannot take it.
//
// What is given up, in this order, each only as far as needed: hashtags from the last
// on; the line, then the excerpt, cut after a word; the title, cut after a word. Where a
// text has no word's end within reach it is cut after a grapheme, and no link is cut.
func Compose(w Wording, p Post, tags Hashtags, limits Limits) (Message, error) {
	if limits.Image == Required && !p.HasImage {
		return Message{}, NoImage{}
	}
	if p.Line == "" && w.uses[Line] {
		p.Line = firstSentence(p.Excerpt)
	}
	d := draft{wording: w, post: p, limits: limits}
	if w.uses[Hashtag] {
		d.hashtags = tags.Of(p)
	}
	var fit Fit
	if len(d.hashtags) > limits.Hashtags {
		d.drop(len(d.hashtags)-limits.Hashtags, &fit)
	}
	text, length, over := d.measured()
	if over > 0 {
		if err := d.shorten(&fit); err != nil {
			return Message{}, err
		}
		text, length, _ = d.measured()
	}
	if strings.TrimSpace(text) == "" {
		return Message{}, Blank{}
	}
	return Message{text, length, fit}, nil
}

func (d *draft) drop(n int, fit *Fit) {
	for range n {
		last := len(d.hashtags) - 1
		fit.Hashtags = append(fit.Hashtags, d.hashtags[last])
		d.hashtags = d.hashtags[:last]
	}
}

// dropHashtags drops as few hashtags as make the message fit, or all of them.
func (d *draft) dropHashtags(fit *Fit) {
	all := d.hashtags
	d.hashtags = nil
	if d.over() > 0 {
		d.hashtags = all
		d.drop(len(all), fit)
		return
	}
	d.hashtags = all
	for d.over() > 0 && len(d.hashtags) > 0 {
		d.drop(1, fit)
	}
}

// shorten gives up as little as makes the message fit.
func (d *draft) shorten(fit *Fit) error {
	d.dropHashtags(fit)
	for _, part := range []struct {
		name  Placeholder
		value *string
		gone  *bool
	}{{Line, &d.post.Line, &fit.Line}, {Excerpt, &d.post.Excerpt, &fit.Excerpt}, {Title, &d.post.Title, &fit.Title}} {
		if d.over() == 0 {
			return nil
		}
		if !d.wording.uses[part.name] || *part.value == "" {
			continue
		}
		whole := *part.value
		d.cut(part.value, part.name == Title)
		*part.gone = *part.value != whole
	}
	_, length, over := d.measured()
	if over == 0 {
		return nil
	}
	if d.limits.Graphemes == 0 || length <= d.limits.Graphemes {
		return &TooLong{over, d.limits.Bytes, true}
	}
	return &TooLong{over, d.limits.Graphemes, false}
}

// cut shortens a value until the message fits, or as far as it goes: to nothing, or where
// some of it must stay, to its first word. Of the places to cut the last is taken with
// which the message fits.
func (d *draft) cut(value *string, keepOne bool) {
	whole := *value
	places := cuts(whole, d.limits.Links)
	set := func(n int) int {
		switch {
		case n > 0:
			*value = trimmed(whole[:places[n-1]]) + ellipsis
		case !keepOne:
			*value = ""
		case len(places) > 0:
			*value = trimmed(whole[:places[0]]) + ellipsis
		}
		return d.over()
	}
	// Longer is never less: where a link is cut off it counts for nothing, and none is cut
	// within. So the last place that fits is found by halving.
	n := sort.Search(len(places), func(n int) bool { return set(n+1) > 0 })
	for n < len(places) && set(n+1) == 0 {
		n++
	}
	for set(n) > 0 && n > 0 {
		n--
	}
}

// over is how much too long the message is.
func (d *draft) over() int {
	_, _, over := d.measured()
	return over
}

// measured is the message, how long it is for the channel, and how much too long.
func (d *draft) measured() (text string, length, over int) {
	text = d.text()
	length = d.limits.Links.Length(text)
	return text, length, d.limits.over(length, len(text))
}

// text fills the wording in; spaces that an empty value leaves behind are joined.
func (d *draft) text() string {
	out := make([]byte, 0, 1024)
	for _, piece := range d.wording.pieces {
		if piece.name == "" {
			out = append(out, piece.text...)
			continue
		}
		out = append(out, d.value(piece)...)
	}
	return tidy(out)
}

func (d *draft) value(p piece) string {
	switch p.name {
	case Title:
		return d.post.Title
	case Excerpt:
		return d.post.Excerpt
	case Link:
		return d.post.Link
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

// tidy joins the runs of spaces, and of empty lines, that empty values leave. It writes
// over the text.
func tidy(text []byte) string {
	out := text[:0]
	for i := 0; i < len(text); {
		from := i
		for i < len(text) && isBlank(text[i]) {
			i++
		}
		if gap := text[from:i]; len(out) > 0 && len(gap) > 0 && i < len(text) {
			switch lines := bytes.Count(gap, []byte{'\n'}); lines {
			case 0:
				out = append(out, ' ')
			case 1:
				out = append(out, '\n')
			default:
				out = append(out, '\n', '\n')
			}
		}
		from = i
		for i < len(text) && (!isBlank(text[i]) || text[i] == ' ' && i+1 < len(text) && !isBlank(text[i+1])) {
			i++
		}
		out = append(out, text[from:i]...)
	}
	return string(out)
}

func isBlank(c byte) bool { return c <= ' ' && (c == ' ' || c == '\n' || c == '\t' || c == '\r') }

// Graphemes counts a text's graphemes.
//
// Next to one another, plain runes are a grapheme each, which needs no table; only the
// runs of others, with the plain rune on either side that they may join, are counted
// by the rules of the Annex.
func Graphemes(text string) int {
	n, run, last := 0, -1, 0 // where a run began, with the plain rune before it, and where that rune begins
	for i := 0; i < len(text); {
		if run < 0 {
			from := i
			for i < len(text) && text[i] < utf8.RuneSelf && text[i] != '\r' {
				i++
			}
			if i > from {
				n, last = n+i-from, i-1
				continue
			}
		}
		r, size := utf8.DecodeRuneInString(text[i:])
		switch plain := isPlain(r); {
		case plain && run < 0:
			n++
		case plain:
			n += uniseg.GraphemeClusterCount(text[run : i+size])
			run = -1
		case run < 0:
			run = i
			if i > 0 {
				run, n = last, n-1
			}
		}
		last = i
		i += size
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

// firstSentence is the text up to the end of its first sentence (Unicode Standard Annex 29).
func firstSentence(text string) string {
	sentence, _, _ := uniseg.FirstSentenceInString(text, -1)
	return strings.TrimSpace(sentence)
}
