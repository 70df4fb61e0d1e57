package reshare

import (
	"errors"
	"fmt"
	"iter"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/words"
)

// Act shares the first posts of the pool that have a message for the rule's channels. What
// cannot be said at the minute of the turn, since a channel takes one message at a time or
// channels are to be apart, is planned for the first minute after it that its channel allows.
func (r *Reshare) Act(t *deed.Turn, run *deed.Run) []deed.Deed {
	now, later := r.speakers(t.World)
	if run.Caught == 0 && r.Once {
		run.Ends = "Every post has been shared once, so the rule is off."
		run.Note = run.Ends
		return nil
	}
	if run.Caught == 0 || len(now) == 0 {
		run.Note = "None of its posts can go out right now."
		return nil
	}
	a := act{Reshare: r, turn: t, run: run, placer: t.World.Placer()}
	posts := 0
	for i := range r.inOrder(t) {
		if !a.share(i, now, later, posts == 0) {
			continue
		}
		if posts++; posts == max(r.AtATime, 1) {
			break
		}
	}
	if posts == 0 {
		run.Note, run.Refused = a.left.String(), a.left.refused
		return nil
	}
	if r.Mode == InTurn {
		run.Spoke = now[0].ID
	}
	return a.deeds
}

// act is a turn that is being served.
type act struct {
	*Reshare
	turn   *deed.Turn
	run    *deed.Run
	placer *deed.Placer
	deeds  []deed.Deed
	left   leftOut
}

// share has a post go out: now on some channels, a while after on others. The posts of a turn
// after the first are all planned. It tells whether any message was to be had.
func (a *act) share(i int, now, later []*deed.Voice, first bool) bool {
	c := a.turn.Case(i, a.turn.At())
	round := max(a.Round, c.Past.Round+1)
	refused, unfit, done := false, false, false
	for k, v := range slices.Concat(now, later) {
		s, m, why := a.message(i, c, v)
		switch {
		case why == errRefused:
			refused = true
			continue
		case why != nil:
			unfit = true
			a.left.note(why)
			continue
		}
		base := deed.Base{Post: c.Post, Due: a.run.Due, Rule: a.ID,
			Reason: fmt.Sprintf("Shared on %s by the rule “%s”, %s.%s", v.Name, a.Name, a.Order.Because(), a.turn.PutOff())}
		if first && k < len(now) {
			a.placer.Keep(v.ID, a.turn.At())
			a.deeds = append(a.deeds, deed.Share{Base: base, Origin: deed.ByRule, Channel: v.ID, Wording: s.Number, Round: round, Link: m.Link,
				Code: m.Code, Params: m.Params, Message: m.Message, Extras: a.Extras, Own: s.Wording.String(), Reply: a.Reply})
		} else {
			a.deeds = append(a.deeds, a.plan(base, s, v, k-len(now), round))
		}
		done = true
	}
	if done {
		return true
	}
	if refused {
		a.left.refused++
	} else if unfit {
		a.left.unfit++
	}
	return false
}

// plan is the deed that has a message wait: after is the place of its channel among those that
// speak later, negative of those that speak at the turn.
func (a *act) plan(base deed.Base, s deed.Saying, v *deed.Voice, after, round int) deed.Deed {
	at := a.turn.At()
	if after >= 0 {
		at = at.Add(time.Duration((after+1)*a.Between) * time.Minute)
	}
	zone := a.turn.World.Zone()
	at = a.placer.Place(v.ID, at)
	base.Reason = fmt.Sprintf("Planned on %s for %s by the rule “%s”, %s.", v.Name,
		zone.DateWords(at, a.turn.At())+zone.In(at).Format(", 15:04"), a.Name, a.Order.Because())
	return deed.Plan{Base: base, Outing: deed.Outing{Origin: deed.ByRule, Rule: a.ID, Channel: v.ID, Post: base.Post, At: at,
		Wording: s.Wording, Number: s.Number, Round: round, Extras: a.Extras, Reply: a.Reply,
		Of: a.run.Due}}
}

// AfterTurn notes which channel had its turn.
func (r *Reshare) AfterTurn(run deed.Run) {
	if run.Spoke != 0 {
		r.Spoke = run.Spoke
	}
}

// speakers are the channels that say something at the minute of the turn, and those that do
// later. Silent ones are left out. A turn that is taken again speaks where it was refused.
func (r *Reshare) speakers(w *deed.World) (now, later []*deed.Voice) {
	var all []*deed.Voice
	for _, id := range r.Channels {
		v := w.Voice(id)
		if v == nil || v.Silent || !r.Owed.IsZero() && len(r.OwedOn) > 0 && !slices.Contains(r.OwedOn, id) {
			continue
		}
		all = append(all, v)
	}
	if len(all) == 0 || !r.Owed.IsZero() {
		return all, nil
	}
	switch r.Mode {
	case InTurn:
		return r.next(all), nil
	case Staggered:
		return all[:1], all[1:]
	}
	return all, nil
}

// next is the channel whose turn it is: the one after the one that spoke last.
func (r *Reshare) next(all []*deed.Voice) []*deed.Voice {
	last := slices.Index(r.Channels, r.Spoke)
	for k := range r.Channels {
		id := r.Channels[(last+1+k)%len(r.Channels)]
		if i := slices.IndexFunc(all, func(v *deed.Voice) bool { return v.ID == id }); i >= 0 {
			return all[i : i+1]
		}
	}
	return all[:1]
}

// leftOut counts the posts of a pool that have no message for the channels.
type leftOut struct {
	refused, unfit int
	over           int // the fewest graphemes over, of those that are too long
}

// note takes in why a message does not fit.
func (l *leftOut) note(why error) {
	var long *message.TooLong
	if errors.As(why, &long) && !long.Bytes && (l.over == 0 || long.Over < l.over) {
		l.over = long.Over
	}
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

// errRefused says that the network will have none of a post's messages.
var errRefused = errors.New("refused before")

// message is what is to be said of a post on a channel: in the wording whose turn it is, or
// where the network refused that, in the next. A post that was refused in the turn that is
// being taken again has had its chance in it.
func (a *act) message(i int, c deed.Case, v *deed.Voice) (s deed.Saying, m deed.Composed, err error) {
	refused := a.turn.Refused(i, v)
	if slices.ContainsFunc(refused, func(one deed.Refusal) bool { return !a.Owed.IsZero() && !one.At.Before(a.Owed) }) {
		return s, m, errRefused
	}
	wordings := a.WordingsOf(a.turn.World, c, v)
	c.Past = a.turn.On(i, v)
	first := a.first(c, len(wordings))
	for k := range wordings {
		number := (first + k) % len(wordings)
		s = a.saying(c, wordings[number], number, a.run.Due)
		if m, err = a.turn.World.Say(v, s); err != nil {
			return s, m, err
		}
		if !deed.IsRefused(m.Text, refused) {
			return s, m, nil
		}
	}
	return s, m, errRefused
}

// saying is a message of the rule before it is composed.
func (r *Reshare) saying(c deed.Case, w message.Wording, number int, due time.Time) deed.Saying {
	return deed.Saying{Post: c.Facts, Wording: w, Number: number, Extras: r.Extras, Rule: r.ID, Name: r.Name, Due: due}
}

// WordingsOf are the wordings that take turns for a post on a channel: the post's own where it
// has any, else the rule's for that channel, else the rule's for all.
func (r *Reshare) WordingsOf(w *deed.World, c deed.Case, v *deed.Voice) []message.Wording {
	if own := w.OwnWordings(c.Facts, v.ID); len(own) > 0 {
		return own
	}
	if own := r.ByChannel[v.ID]; len(own) > 0 {
		return own
	}
	return r.Wordings
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

// Unfit lists messages of the rule that a channel cannot take, those of the posts that would
// go out next first: at most so many, of at most so many posts.
func (r *Reshare) Unfit(t *deed.Turn, most, posts int) []deed.Unfit {
	var found []deed.Unfit
	seen := 0
	for i := range t.Posts() {
		if seen++; seen > posts {
			break
		}
		c := t.Case(i, t.At())
		for _, id := range r.Channels {
			v := t.World.Voice(id)
			if v == nil {
				continue
			}
			for number, wording := range r.WordingsOf(t.World, c, v) {
				_, err := t.World.Say(v, r.saying(c, wording, number, t.At()))
				if err == nil {
					continue
				}
				one := deed.Unfit{Post: c.Post, Channel: id, Wording: number, Why: err.Error()}
				var long *message.TooLong
				if errors.As(err, &long) {
					one.Over = long.Over
				}
				if found = append(found, one); len(found) == most {
					return found
				}
			}
		}
	}
	return found
}
