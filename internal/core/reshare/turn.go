package reshare

import (
	"errors"
	"fmt"
	"iter"
	"slices"
	"strings"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/words"
)

// Act shares the first post of the pool that has a message for the channel.
func (r *Reshare) Act(t *deed.Turn, run *deed.Run) []deed.Deed {
	v := t.World.Voice(r.Channel)
	if run.Caught == 0 || v == nil {
		run.Note = "None of its posts can go out right now."
		return nil
	}
	var left leftOut
	for i := range r.inOrder(t) {
		c := t.Case(i, t.At())
		link := r.link(t.World, c)
		wording, m, ok := r.message(c, t.Refused(i), link, v, &left)
		if !ok {
			continue
		}
		return []deed.Deed{deed.Share{Channel: v.ID, Wording: wording, Link: link, Message: m,
			Round: max(r.Round, c.Past.Round+1),
			Base: deed.Base{Post: c.Post, Due: run.Due, Rule: r.ID,
				Reason: fmt.Sprintf("Shared on %s by the rule “%s”, %s.%s", v.Name, r.Name, r.Order.Because(),
					t.PutOff())}}}
	}
	run.Note, run.Refused = left.String(), left.refused
	return nil
}

// AfterTurn notes nothing: each deed is noted with its post.
func (r *Reshare) AfterTurn(deed.Run) {}

func (r *Reshare) link(w *deed.World, c deed.Case) string {
	return w.LinkTo(c.Facts, deed.Linked{Rule: r.ID, Short: r.Short})
}

// leftOut counts the posts of a pool that have no message for the channel.
type leftOut struct {
	refused, unfit int
	over           int // the fewest graphemes over, of those that are too long
}

// String says in sentences why none was left.
func (l leftOut) String() string {
	var text string
	if l.unfit > 0 {
		text = fmt.Sprintf("None of the %d messages that could go out fits the channel.", l.unfit)
	}
	if l.over > 0 {
		text += fmt.Sprintf(" The shortest of them is %s over.", words.Count(l.over, "character"))
	}
	if l.refused > 0 {
		text += fmt.Sprintf(" The network refused the messages of %s.", words.Count(l.refused, "post"))
	}
	return strings.TrimSpace(text)
}

// message is what is to be said of a post, with the number of its wording: the one whose
// turn it is, or where the network refused that, the next. A post that was refused in the
// turn that is being taken again has had its chance in it. ok is false where there is no
// message.
func (r *Reshare) message(c deed.Case, refused []deed.Refusal, link string, v *deed.Voice, left *leftOut) (wording int,
	m message.Message, ok bool) {
	if slices.ContainsFunc(refused, func(one deed.Refusal) bool { return !r.Owed.IsZero() && !one.At.Before(r.Owed) }) {
		left.refused++
		return 0, m, false
	}
	first := r.Wording(c)
	for k := range r.Wordings {
		wording := (first + k) % len(r.Wordings)
		m, err := r.Compose(c.Facts, wording, link, v.Limits)
		if err != nil {
			left.unfit++
			var long *message.TooLong
			if errors.As(err, &long) && !long.Bytes && (left.over == 0 || long.Over < left.over) {
				left.over = long.Over
			}
			return 0, m, false
		}
		if !slices.ContainsFunc(refused, func(one deed.Refusal) bool { return one.Text == m.Text }) {
			return wording, m, true
		}
	}
	left.refused++
	return 0, m, false
}

// inOrder yields the pool in the order of the rule.
func (r *Reshare) inOrder(t *deed.Turn) iter.Seq[int] {
	if r.Order != Weighted {
		return t.Posts()
	}
	return func(yield func(int) bool) {
		tried := make(map[int]bool)
		for range t.Pool().Len() {
			best, lot := -1, 0.0
			for i := range t.Pool().All() {
				if tried[i] {
					continue
				}
				if l := r.Draw(t.Case(i, t.At()), t.Due()); best < 0 || l < lot {
					best, lot = i, l
				}
			}
			tried[best] = true
			if !yield(best) {
				return
			}
		}
	}
}

// Unfit lists messages of the rule that its channel cannot take, those of the posts that
// would go out next first: at most so many, of at most so many posts.
func (r *Reshare) Unfit(t *deed.Turn, most, posts int) []deed.Unfit {
	v := t.World.Voice(r.Channel)
	if v == nil {
		return nil
	}
	var found []deed.Unfit
	seen := 0
	for i := range t.Posts() {
		if seen++; seen > posts {
			break
		}
		c := t.Case(i, t.At())
		link := r.link(t.World, c)
		for wording := range r.Wordings {
			_, err := r.Compose(c.Facts, wording, link, v.Limits)
			if err == nil {
				continue
			}
			one := deed.Unfit{Post: c.Post, Wording: wording, Why: err.Error()}
			var long *message.TooLong
			if errors.As(err, &long) {
				one.Over = long.Over
			}
			if found = append(found, one); len(found) == most {
				return found
			}
		}
	}
	return found
}
