// Package outings is where an editor plans outings by hand: messages that go to channels at a
// time, about a post or about nothing of the blog's; and where turns of rules are taken in hand.
// When its time comes, core decides (package deed) whether an outing can go out; the rules of
// its channel go on around it.
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
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/words"
	"dapper.example/internal/enact"
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
	Channel    int64
	Post       int64     // 0: it is of no post
	Item       deed.Item // of no post
	At         time.Time // a whole minute; what is finer is cut off
	Text       string    // with placeholders, as in wordings
	Parent     int64     // the outing that it goes under; 0: none
	Pictures   []int64   // of the site's library
	Extras     deed.Extras
	ReplyText  string // what follows under it; "": nothing
	ReplyAfter int    // minutes
	Wording    int    // the number of the rule's wording that it is, where a turn is in hand
	Unplaced   bool   // it goes out at the first minute from its time on that its channel allows
	Prepared   int64  // the prepared message that it is of; 0: none
}

const (
	// maxText is how long a text may be before its placeholders are filled in, in bytes.
	maxText = 10_000
	// maxPlanned is how many outings of a site may wait for their time.
	maxPlanned = 5000
	// maxAtOnce is how many may be planned in one act.
	maxAtOnce = 200
	// maxReply is how long after its message a reply may follow, in minutes.
	maxReply = 7 * 24 * 60
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
	if err := d.checkReplies(ctx, q, w, c, network); err != nil {
		return Message{}, err
	}
	if err := d.checkPictures(ctx, q, w, network); err != nil {
		return Message{}, err
	}
	composed, err := d.Compose(ctx, q, Draft{Post: w.Post, Item: w.Item, Text: w.Text, Extras: w.extras(), Channels: []int64{c.ID},
		Due: w.At}, now)
	if err != nil {
		return Message{}, err
	}
	if one := composed[0]; one.Problem != "" {
		return Message{}, act.Invalidf("text", "%s", one.Problem)
	}
	return composed[0], nil
}

// extras are what the message has beside its text: the first of pictures that were chosen by
// hand stands for all.
func (w Wish) extras() deed.Extras {
	e := w.Extras
	if len(w.Pictures) > 0 {
		e.Picture = pictureOf(w.Pictures[0])
	}
	return e
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

// checkPost checks that the post will be out by then, as far as can be known, or that what is
// said without one is in order.
func (d Editor) checkPost(ctx context.Context, q store.Queries, w Wish, now time.Time) error {
	if w.Post == 0 {
		return checkItem(w.Item)
	}
	p, err := q.Post(ctx, d.Site.ID, w.Post)
	if errors.Is(err, store.ErrNotFound) {
		return act.Invalidf("postId", "There is no such post on this site.")
	}
	if err != nil {
		return err
	}
	switch s := p.State(); {
	case s.CanBeShared():
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

// maxItem bounds the title and the link of what is no post, in bytes.
const maxItem = 2000

func checkItem(i deed.Item) error {
	if len(i.Title) > maxItem || len(i.Link) > maxItem {
		return act.Invalidf("link", "That title or link is too long.")
	}
	if i.Link == "" {
		return nil
	}
	if !address.IsWeb(i.Link) {
		return act.Invalidf("link", "Enter a link that begins with https:// or http://.")
	}
	return nil
}

func (d Editor) checkReplies(ctx context.Context, q store.Queries, w Wish, c store.Channel,
	network channel.Network) error {
	if w.ReplyText != "" {
		switch {
		case !network.Limits().Replies:
			return act.Invalidf("replyText", "%s takes no replies. Leave the reply out.", network.Name())
		case w.ReplyAfter < 1 || w.ReplyAfter > maxReply:
			return act.Invalidf("replyAfter", "A reply follows after 1 minute to %d days.", maxReply/24/60)
		}
	}
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

// kept is the wish as it is kept.
func (d Editor) kept(w Wish, o store.Outing) store.Outing {
	o.SiteID, o.Channel, o.Post, o.At = d.Site.ID, w.Channel, store.ID(w.Post), w.At.Truncate(time.Minute).UTC()
	o.OwnText, o.Pictures, o.Wording = w.Text, w.Pictures, w.Wording
	o.Item, o.Extras = store.Item{}, store.Extras{Extras: w.Extras}
	if w.Post == 0 {
		o.Item.Item = w.Item
	}
	if o.Parent = nil; w.Parent != 0 {
		o.Parent = &w.Parent
	}
	if o.Pictures == nil {
		o.Pictures = store.IDs{}
	}
	if o.ReplyText, o.ReplyAfter = strings.TrimSpace(w.ReplyText), w.ReplyAfter; o.ReplyText == "" {
		o.ReplyAfter = 0
	}
	o.Unplaced = w.Unplaced
	if w.Prepared != 0 {
		o.Prepared = store.ID(w.Prepared)
	}
	return o
}

// Plan adds outings in one act, and returns their ids. It fails with *act.Invalid where one of
// them cannot be planned; then none is.
func (d Editor) Plan(ctx context.Context, wishes []Wish, now time.Time) (ids []int64, err error) {
	if len(wishes) == 0 {
		return nil, act.Invalidf("channelId", "Choose at least one channel.")
	}
	if len(wishes) > maxAtOnce {
		return nil, act.Invalidf("times", "That makes %d outings; %d are the most at once. Choose fewer times or channels.", len(wishes), maxAtOnce)
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		if err := d.HasRoom(ctx, tx, len(wishes)); err != nil {
			return err
		}
		if len(wishes) > 1 {
			if err := d.Begin(ctx, tx, words.Count(len(wishes), "outing")+" planned.", now); err != nil {
				return err
			}
		}
		ids, err = d.planAll(ctx, tx, wishes, now)
		return err
	})
	return ids, err
}

// planAll looks at outings and adds them.
func (d Editor) planAll(ctx context.Context, tx *store.Tx, wishes []Wish, now time.Time) (ids []int64, err error) {
	for _, w := range wishes {
		if _, err := d.Look(ctx, tx.Queries, w, now); err != nil {
			return nil, err
		}
		id, err := d.insert(ctx, tx, d.kept(w, store.Outing{Origin: store.ByHand, Actor: &d.Actor, CreatedAt: now}), now)
		if err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	return ids, nil
}

// HasRoom checks that so many more outings may wait; it fails with *act.Invalid where they may not.
func (d Editor) HasRoom(ctx context.Context, tx *store.Tx, more int) error {
	planned, err := tx.Planned(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	if len(planned)+more > maxPlanned {
		return act.Invalidf("at", "%d outings are planned already; %d are the most. Drop some first.", len(planned), maxPlanned)
	}
	return nil
}

// insert adds an outing and says so in the logbook.
func (d Editor) insert(ctx context.Context, tx *store.Tx, o store.Outing, now time.Time) (int64, error) {
	what := "An outing was planned for "
	if o.State == store.Skipped {
		what = "A rule's outing was left out; it would have gone out on "
	}
	return d.Insert(ctx, tx, o, what, now)
}

// Insert adds an outing and says so in the logbook: the words, and when it goes out on which channel.
func (d Editor) Insert(ctx context.Context, tx *store.Tx, o store.Outing, what string, now time.Time) (int64, error) {
	id, err := tx.InsertPlanned(ctx, o)
	if err != nil {
		return 0, fmt.Errorf("planning an outing: %w", err)
	}
	made, err := tx.LockOuting(ctx, d.Site.ID, id)
	if err != nil {
		return 0, err
	}
	return id, d.Note(ctx, tx, made, what, nil, &made, now)
}

// changeOne does work on an outing that has not gone out, which must still have the version
// that was seen.
func (d Editor) changeOne(ctx context.Context, id int64, version int, work func(*store.Tx, store.Outing) error) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		o, err := tx.LockOuting(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if o.Version != version {
			return act.ErrStale
		}
		return work(tx, o)
	})
}

// Save changes an outing that waits for its time, or gives one that was set aside or left out
// another.
func (d Editor) Save(ctx context.Context, id int64, version int, w Wish, now time.Time) error {
	return d.changeOne(ctx, id, version, func(tx *store.Tx, o store.Outing) error { return d.saveOne(ctx, tx, o, w, now) })
}

// saveOne changes an outing that was locked.
func (d Editor) saveOne(ctx context.Context, tx *store.Tx, o store.Outing, w Wish, now time.Time) error {
	if w.Parent == o.ID {
		return act.Invalidf("parentId", "A message cannot reply to itself.")
	}
	if o.Rule != nil || o.Origin != store.ByHand { // what a rule or the site says beside the text stays
		w.Extras, w.Wording = o.Extras.Extras, o.Wording
	}
	if _, err := d.Look(ctx, tx.Queries, w, now); err != nil {
		return err
	}
	replies, err := d.repliesTo(ctx, tx.Queries, o.ID)
	if err != nil {
		return err
	}
	for _, r := range replies {
		switch {
		case r.Channel != w.Channel:
			return act.Invalidf("channelId", "A reply to it is planned on %s. Drop that first.", r.Network)
		case !r.At.After(w.At):
			return act.Invalidf("at",
				"A reply to it is planned for %s. Choose an earlier time, or move the reply first.", d.when(r.At, now))
		}
	}
	if err := tx.SavePlanned(ctx, d.kept(w, o)); err != nil {
		return fmt.Errorf("changing outing %d: %w", o.ID, err)
	}
	changed, err := tx.LockOuting(ctx, d.Site.ID, o.ID)
	if err != nil {
		return err
	}
	if o.State == store.Failed { // the failed message is not brought back
		return d.Note(ctx, tx, changed, "A message that could not be sent was changed; it goes out on ", nil, nil, now)
	}
	return d.Note(ctx, tx, changed, "A planned outing was changed; it goes out on ", &o, &changed, now)
}

// repliesTo lists the planned outings that go under another.
func (d Editor) repliesTo(ctx context.Context, q store.Queries, id int64) ([]store.Outing, error) {
	planned, err := q.Planned(ctx, d.Site.ID)
	return slices.DeleteFunc(planned, func(o store.Outing) bool { return o.Parent == nil || *o.Parent != id }), err
}

// Drop takes an outing out of the plan. One by which a turn of a rule was taken in hand is kept
// as left out, so that the rule does not have the turn again.
func (d Editor) Drop(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changeOne(ctx, id, version, func(tx *store.Tx, o store.Outing) error {
		replies, err := d.repliesTo(ctx, tx.Queries, id)
		if err != nil {
			return err
		}
		if len(replies) > 0 {
			return act.Invalidf("id", "A reply to it is planned for %s. Drop that first.", d.when(replies[0].At, now))
		}
		if o.State == store.Failed {
			if err := tx.LeaveOut(ctx, d.Site.ID, id, o.Error); err != nil {
				return err
			}
			return d.Note(ctx, tx, o, "A message that could not be sent was let go; it was to go out on ", nil, nil, now)
		}
		if o.Turn != nil {
			if o.State == store.Skipped {
				return nil
			}
			if err := tx.LeaveOut(ctx, d.Site.ID, id, leftOut); err != nil {
				return err
			}
			gone, err := tx.LockOuting(ctx, d.Site.ID, id)
			if err != nil {
				return err
			}
			return d.Note(ctx, tx, o, "A rule's outing was left out; it would have gone out on ", &o, &gone, now)
		}
		if err := tx.DropPlanned(ctx, d.Site.ID, id); err != nil {
			return err
		}
		return d.Note(ctx, tx, o, "A planned outing was dropped; it would have gone out on ", &o, nil, now)
	})
}

// TryAgain sends a message that could not be sent once more, as it was.
func (d Editor) TryAgain(ctx context.Context, id int64, version int, queue enact.Sharer, now time.Time) error {
	return d.changeOne(ctx, id, version, func(tx *store.Tx, o store.Outing) error {
		if o.State != store.Failed {
			return act.Invalidf("id", "Only a message that could not be sent can be tried again.")
		}
		if err := tx.Retry(ctx, d.Site.ID, id, now); err != nil {
			return err
		}
		if err := queue.Share(ctx, tx, id); err != nil {
			return fmt.Errorf("queueing outing %d again: %w", id, err)
		}
		return d.Note(ctx, tx, o, "A message that could not be sent is tried again; it was to go out on ", nil, nil, now)
	})
}

// leftOut is why an outing that an editor left out was not sent.
const leftOut = "An editor left it out."

// when writes a moment by the clocks of the site.
func (d Editor) when(t, now time.Time) string {
	zone := d.Site.Zone()
	return zone.DateWords(t, now) + zone.In(t).Format(", 15:04")
}

// Note says in the logbook what was done with an outing: the words, and when it goes out on which channel.
func (d Editor) Note(ctx context.Context, tx *store.Tx, o store.Outing, what string, before, after *store.Outing,
	now time.Time) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedOuting, Post: o.Post.Pointer(), Rule: o.Rule, Act: d.Act,
		Reason: what + d.when(o.At, now) + " on " + o.Network + ".", Before: act.JSON(before), After: act.JSON(after)})
}
