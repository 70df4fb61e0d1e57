package outings

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// Draft is a message that is being written, for some channels.
type Draft struct {
	Post     int64 // 0: of no post
	Item     deed.Item
	Text     string // with placeholders
	Extras   deed.Extras
	Channels []int64
	Rule     int64     // whose it is; 0: no rule's
	Due      time.Time // when it would go out
	IsReply  bool      // it goes under another one, without a picture
}

// Message is what would be sent to a channel, as the post is now.
type Message struct {
	Channel   int64
	Name      string // of the channel
	Kind      string // of its network
	Text      string
	Graphemes int    // as the network counts
	Limit     int    // the longest that it takes; 0: any length
	Fit       string // what the composer had to give up, or ""
	Over      int    // by how many graphemes it is too long
	Problem   string // why the channel cannot take it, or ""
	Link      string
	Picture   *store.Picture // that goes along; nil: none
	Wants     message.Need   // what the channel says of pictures
	Crop      Crop           // how a picture is cut there
}

// Crop is how a network shows pictures: width over height; 0: as they are.
type Crop = float64

// Compose composes a draft for each of its channels, in their order. It fails with
// *act.Invalid where the text cannot be read, or there is no such channel or post; what a
// channel cannot take is told with its message.
func (d Editor) Compose(ctx context.Context, q store.Queries, draft Draft, now time.Time) ([]Message, error) {
	if strings.TrimSpace(draft.Text) == "" {
		return nil, act.Invalidf("text", "Write what the message says.")
	}
	if len(draft.Text) > maxText {
		return nil, act.Invalidf("text", "That is too long for any message.")
	}
	wording, err := message.ReadWording(draft.Text)
	if err != nil {
		return nil, act.Invalidf("text", "%s", err)
	}
	w, err := d.world(ctx, q, []int64{draft.Post})
	if err != nil {
		return nil, err
	}
	var post *condition.Facts
	if draft.Post != 0 {
		var known bool
		if post, known = w.Post(draft.Post); !known {
			return nil, act.Invalidf("postId", "There is no such post on this site.")
		}
	}
	lists, err := siterules.Lists(ctx, q, d.Site.ID)
	if err != nil {
		return nil, err
	}
	if missing := wording.Missing(lists); len(missing) > 0 {
		return nil, act.Invalidf("text", "There is no list %q. Make it under Channels, or choose another.", missing[0])
	}
	name := ""
	if draft.Rule != 0 {
		if r, err := q.Rule(ctx, d.Site.ID, draft.Rule); err == nil {
			name = r.Name
		}
	}
	messages := make([]Message, len(draft.Channels))
	for i, id := range draft.Channels {
		_, network, err := d.channel(ctx, q, id)
		if err != nil {
			return nil, err
		}
		v := w.Voice(id)
		m := Message{Channel: id, Name: v.Name, Kind: network.Kind(), Limit: v.Limits.Graphemes, Wants: v.Limits.Image, Crop: network.Crop()}
		if draft.IsReply {
			m.Wants = message.None
			v.Limits.Image = message.None
		}
		said, err := w.Say(v, deed.Saying{Post: post, Item: draft.Item, Wording: wording, Extras: draft.Extras, Rule: draft.Rule,
			Name: name, Due: draft.Due})
		var long *message.TooLong
		switch {
		case errors.As(err, &long):
			m.Problem = err.Error()
			if m.Over = long.Over; long.Bytes {
				m.Over = 0
			}
		case err != nil:
			m.Problem = err.Error()
		}
		m.Text, m.Graphemes, m.Fit, m.Link = said.Text, said.Graphemes, said.Fit.String(), said.Link
		if m.Wants != message.None && !draft.IsReply {
			if m.Picture, err = d.picture(ctx, q, draft); err != nil {
				return nil, err
			}
		}
		messages[i] = m
	}
	return messages, nil
}

// world is a world of the site's channels and of some posts alone, in which messages are
// composed as rules do it; 0 is no post.
func (d Editor) world(ctx context.Context, q store.Queries, posts []int64) (*deed.World, error) {
	scene, err := d.book().Voices(ctx, q)
	if err != nil {
		return nil, err
	}
	posts = slices.DeleteFunc(slices.Clone(posts), func(id int64) bool { return id == 0 })
	if len(posts) == 0 {
		return deed.NewWorld(scene), nil
	}
	scene.Posts, err = q.Facts(ctx, d.Site.ID, store.FactsFilter{IDs: posts, WithOpening: true})
	return deed.NewWorld(scene), err
}

func pictureOf(id int64) message.Picture { return message.Picture{From: message.ThisPicture, ID: id} }

// picture is the one that a draft brings along; nil where it has none.
func (d Editor) picture(ctx context.Context, q store.Queries, draft Draft) (*store.Picture, error) {
	p := draft.Extras.Picture
	id := p.ID
	switch {
	case p.From == message.NoPicture:
		return nil, nil
	case p.From != message.ThisPicture && draft.Post == 0:
		return nil, nil
	case p.From != message.ThisPicture:
		ids, err := q.PictureOf(ctx, d.Site.ID, draft.Post, p.From == message.TextPicture)
		if err != nil || len(ids) == 0 {
			return nil, err
		}
		id = ids[0]
	}
	found, err := q.Picture(ctx, d.Site.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	return &found, err
}
