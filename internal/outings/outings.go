// Package outings is where an editor plans outings by hand: a message about a post that
// goes to a channel at a time. When its time comes, core decides (package deed) whether it
// can go out; the rules of the channel go on around it.
//
// It has no clock: callers say what time it is.
package outings

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/words"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// Editor is somebody who plans outings of one site.
type Editor struct {
	act.Desk
	Public string // where readers reach the blog, as a siterules.Book has it
}

func (d Editor) book() siterules.Book { return siterules.Book{Site: d.Site, Public: d.Public} }

// Wish is what an editor says of an outing.
type Wish struct {
	Channel, Post int64
	At            time.Time // a whole minute; what is finer is cut off
	Text          string    // with placeholders, as in wordings
	Parent        int64     // the outing that it goes under; 0: none
	Pictures      []int64   // of the site's library
}

// Message is what would be sent of an outing, as its post is now.
type Message struct {
	Text      string
	Graphemes int
	Fit       string // what the composer had to give up, or ""
}

const (
	// maxText is how long a text may be before its placeholders are filled in, in bytes.
	maxText = 10_000
	// maxPlanned is how many outings of a site may wait for their time.
	maxPlanned = 5000
)

// Look tells what would be sent. It fails with *act.Invalid where the outing could not
// be planned like this.
func (d Editor) Look(ctx context.Context, q store.Queries, w Wish, now time.Time) (Message, error) {
	c, network, err := d.channel(ctx, q, w.Channel)
	if err != nil {
		return Message{}, err
	}
	if err := d.checkTime(w, now); err != nil {
		return Message{}, err
	}
	if err := d.checkPost(ctx, q, w, now); err != nil {
		return Message{}, err
	}
	if err := d.checkParent(ctx, q, w, c, network); err != nil {
		return Message{}, err
	}
	if err := d.checkPictures(ctx, q, w, network); err != nil {
		return Message{}, err
	}
	return d.compose(ctx, q, w, network)
}

func (d Editor) channel(ctx context.Context, q store.Queries, id int64) (store.Channel, channel.Network, error) {
	c, err := q.Channel(ctx, d.Site.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return c, nil, act.Invalidf("channelId", "Choose one of the site's channels.")
	}
	if err != nil {
		return c, nil, err
	}
	network, known := channel.Of(c.Kind)
	if !known {
		return c, nil, fmt.Errorf("channel %d is of a network %q, which there is not", id, c.Kind)
	}
	return c, network, nil
}

func (d Editor) checkTime(w Wish, now time.Time) error {
	switch {
	case !civil.IsNear(w.At):
		return act.Invalidf("at", "That is too far away. Choose a date from %d to %d.", civil.FirstYear, civil.LastYear)
	case !w.At.Truncate(time.Minute).After(now):
		return act.Invalidf("at", "That time has passed. Choose a later one.")
	}
	return nil
}

// checkPost checks that the post will be out by then, as far as can be known.
func (d Editor) checkPost(ctx context.Context, q store.Queries, w Wish, now time.Time) error {
	p, err := q.Post(ctx, d.Site.ID, w.Post)
	if errors.Is(err, store.ErrNotFound) {
		return act.Invalidf("postId", "There is no such post on this site.")
	}
	if err != nil {
		return err
	}
	switch s := p.State(); {
	case s.IsOut():
		return nil
	case s.Status == store.Scheduled && s.DueAt.After(w.At):
		return act.Invalidf("at", "“%s” comes out on %s, after that time. Choose a later time.", p.Title,
			d.when(s.DueAt, now))
	case s.Status == store.Scheduled:
		return nil
	case s.Status == store.Draft:
		return act.Invalidf("postId", "“%s” has no time yet. Schedule it first.", p.Title)
	}
	return act.Invalidf("postId", "“%s” is %s, so readers could not find it.", p.Title, p.Status)
}

func (d Editor) checkParent(ctx context.Context, q store.Queries, w Wish, c store.Channel,
	network channel.Network) error {
	if w.Parent == 0 {
		return nil
	}
	parent, err := q.Outing(ctx, w.Parent)
	switch {
	case errors.Is(err, store.ErrNotFound), err == nil && parent.SiteID != d.Site.ID:
		return act.Invalidf("parentId", "There is no such outing to reply to.")
	case err != nil:
		return err
	case !network.Limits().Replies:
		return act.Invalidf("parentId", "%s takes no replies.", network.Name())
	case parent.Channel != c.ID:
		return act.Invalidf("parentId", "A reply goes to the channel of the message that it replies to: %s.",
			parent.Network)
	case parent.State == store.Failed || parent.State == store.Skipped:
		return act.Invalidf("parentId", "That message was not sent, so nothing can reply to it.")
	case !parent.At.Before(w.At):
		return act.Invalidf("at", "A reply goes out after the message that it replies to. Choose a later time.")
	}
	return nil
}

func (d Editor) checkPictures(ctx context.Context, q store.Queries, w Wish, network channel.Network) error {
	if most := network.Media(); len(w.Pictures) > most {
		return act.Invalidf("pictures", "%s takes at most %s with a message.", network.Name(),
			words.Count(most, "picture"))
	}
	if network.Limits().Image == message.Required && len(w.Pictures) == 0 {
		return act.Invalidf("pictures", "%s takes no message without a picture.", network.Name())
	}
	there, err := q.KnownPictures(ctx, d.Site.ID, w.Pictures)
	if err != nil {
		return err
	}
	for i, id := range w.Pictures {
		if !slices.Contains(there, id) {
			return act.Invalidf(fmt.Sprintf("pictures[%d]", i), "There is no such picture on this site.")
		}
	}
	return nil
}

// compose makes the message of the post as it is now.
func (d Editor) compose(ctx context.Context, q store.Queries, w Wish, network channel.Network) (Message, error) {
	if strings.TrimSpace(w.Text) == "" {
		return Message{}, act.Invalidf("text", "Write what the message says.")
	}
	if len(w.Text) > maxText {
		return Message{}, act.Invalidf("text", "That is too long for any message.")
	}
	wording, err := message.ReadWording(w.Text)
	if err != nil {
		return Message{}, act.Invalidf("text", "%s", err)
	}
	facts, err := q.Facts(ctx, d.Site.ID, store.FactsFilter{IDs: []int64{w.Post}, WithOpening: true})
	if err != nil {
		return Message{}, err
	}
	if len(facts) == 0 {
		return Message{}, store.ErrNotFound
	}
	m, err := message.Compose(wording, deed.PostOf(&facts[0], d.link(&facts[0])), message.Hashtags{}, network.Limits())
	if err != nil {
		return Message{}, act.Invalidf("text", "%s", err)
	}
	return Message{m.Text, m.Graphemes, m.Fit.String()}, nil
}

func (d Editor) link(f *condition.Facts) string { return d.book().Link(f, deed.Linked{}) }

// kept is the wish as it is kept.
func (d Editor) kept(w Wish, o store.Outing) store.Outing {
	o.SiteID, o.Channel, o.Post, o.At, o.OwnText, o.Pictures = d.Site.ID, w.Channel, w.Post, w.At.Truncate(time.Minute).UTC(), w.Text, w.Pictures
	if o.Parent = nil; w.Parent != 0 {
		o.Parent = &w.Parent
	}
	if o.Pictures == nil {
		o.Pictures = store.IDs{}
	}
	return o
}

// Plan adds an outing and returns its id. It fails with *act.Invalid where it cannot
// be planned.
func (d Editor) Plan(ctx context.Context, w Wish, now time.Time) (id int64, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		if _, err := d.Look(ctx, tx.Queries, w, now); err != nil {
			return err
		}
		planned, err := tx.Planned(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(planned) >= maxPlanned {
			return act.Invalidf("at", "%d outings are planned already, as many as can be. Drop some first.", maxPlanned)
		}
		o := d.kept(w, store.Outing{Origin: store.ByHand, Actor: &d.Actor, CreatedAt: now})
		if id, err = tx.InsertPlanned(ctx, o); err != nil {
			return fmt.Errorf("planning an outing of post %d: %w", w.Post, err)
		}
		made, err := tx.LockPlanned(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		return d.log(ctx, tx, made, "An outing was planned for ", nil, &made, now)
	})
	return id, err
}

// changeOne does work on a planned outing, which must still have the version that was seen.
func (d Editor) changeOne(ctx context.Context, id int64, version int, work func(*store.Tx, store.Outing) error) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		o, err := tx.LockPlanned(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if o.Version != version {
			return act.ErrStale
		}
		return work(tx, o)
	})
}

// Save changes an outing that waits for its time.
func (d Editor) Save(ctx context.Context, id int64, version int, w Wish, now time.Time) error {
	return d.changeOne(ctx, id, version, func(tx *store.Tx, o store.Outing) error {
		if w.Parent == id {
			return act.Invalidf("parentId", "A message cannot reply to itself.")
		}
		if _, err := d.Look(ctx, tx.Queries, w, now); err != nil {
			return err
		}
		replies, err := d.repliesTo(ctx, tx.Queries, id)
		if err != nil {
			return err
		}
		for _, r := range replies {
			switch {
			case r.Channel != w.Channel:
				return act.Invalidf("channelId", "A reply to it is planned on %s. Drop that first.", r.Network)
			case !r.At.After(w.At):
				return act.Invalidf("at",
					"A reply to it is planned for %s. Choose an earlier time, or move the reply first.", d.when(r.At,
						now))
			}
		}
		if err := tx.SavePlanned(ctx, d.kept(w, o)); err != nil {
			return fmt.Errorf("changing outing %d: %w", id, err)
		}
		changed, err := tx.LockPlanned(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		return d.log(ctx, tx, changed, "A planned outing was changed; it goes out on ", &o, &changed, now)
	})
}

// repliesTo lists the planned outings that go under another.
func (d Editor) repliesTo(ctx context.Context, q store.Queries, id int64) ([]store.Outing, error) {
	planned, err := q.Planned(ctx, d.Site.ID)
	return slices.DeleteFunc(planned, func(o store.Outing) bool { return o.Parent == nil || *o.Parent != id }), err
}

// Drop takes an outing out of the plan.
func (d Editor) Drop(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changeOne(ctx, id, version, func(tx *store.Tx, o store.Outing) error {
		replies, err := d.repliesTo(ctx, tx.Queries, id)
		if err != nil {
			return err
		}
		if len(replies) > 0 {
			return act.Invalidf("id", "A reply to it is planned for %s. Drop that first.", d.when(replies[0].At, now))
		}
		if err := tx.DropPlanned(ctx, d.Site.ID, id); err != nil {
			return err
		}
		return d.log(ctx, tx, o, "A planned outing was dropped; it would have gone out on ", &o, nil, now)
	})
}

// when writes a moment by the clocks of the site.
func (d Editor) when(t, now time.Time) string {
	zone := d.Site.Zone()
	return zone.DateWords(t, now) + zone.In(t).Format(", 15:04")
}

func (d Editor) log(ctx context.Context, tx *store.Tx, o store.Outing, what string, before, after *store.Outing,
	now time.Time) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedOuting, Post: &o.Post,
		Reason: what + d.when(o.At, now) + " on " + o.Network + ".", Before: act.JSON(before), After: act.JSON(after)})
}
