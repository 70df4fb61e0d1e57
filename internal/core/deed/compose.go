package deed

import (
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
)

// Extras are what a message has beside its wording.
type Extras struct {
	Hashtags message.Hashtags `json:"hashtags,omitzero"`
	Params   []message.Param  `json:"params,omitempty"` // added to the link
	Short    bool             `json:"short,omitempty"`  // a short link, which counts clicks
	Picture  message.Picture  `json:"picture,omitzero"`
	Line     string           `json:"line,omitempty"` // of a tour's stop: the line it is built on
	// Hold has a planned message whose post is not out at its time wait for an editor; else it is left out.
	Hold bool `json:"hold,omitempty"`
}

// Item is what a message is about that is not about a post: a page elsewhere, or nothing.
type Item struct {
	Title string `json:"title,omitempty"`
	Link  string `json:"link,omitempty"`
}

// Saying is a message before it is composed.
type Saying struct {
	Post    *condition.Facts // nil: of no post
	Item    Item             // of no post
	Wording message.Wording
	Number  int // of the wording
	Extras  Extras
	Rule    int64
	Name    string    // of the rule, for the parameters of links
	Due     time.Time // the turn, or the time that was planned: what chance and short links are counted from
}

// Composed is a message as it is composed for a channel.
type Composed struct {
	message.Message
	Link   string          // as it stands in the message
	Params []message.Param // that a link gets, or that a short link adds where it leads
	Code   string          // of the short link; "": it is none
}

// Say composes a message for a channel. It fails where the channel cannot take it.
func (w *World) Say(v *Voice, s Saying) (Composed, error) {
	var said Composed
	p := message.Post{Title: s.Item.Title, Link: s.Item.Link}
	var post int64
	if s.Post != nil {
		post = s.Post.Post
		p = PostOf(s.Post, "")
		if w.scene.Link != nil {
			p.Link = w.scene.Link(s.Post)
		}
	}
	p.HasImage = s.Extras.Picture.IsThere(s.Post != nil && s.Post.FeaturedImage, s.Post != nil && s.Post.InText > 0)
	if said.Link = p.Link; p.Link != "" {
		said.Params = message.FillParams(message.MergeParams(v.Habits.Params, s.Extras.Params), v.Name, s.Name, s.Number)
		if w.scene.Short != nil && (s.Extras.Short || v.Habits.Short) {
			said.Code = message.ShortCode(w.scene.Site, s.Rule, post, v.ID, s.Due.Unix())
			said.Link = w.scene.Short(said.Code)
		} else {
			said.Link = message.WithParams(p.Link, said.Params)
		}
		p.Link = said.Link
	}
	seed := cadence.Mix(uint64(s.Rule), uint64(post), uint64(v.ID), uint64(s.Due.Unix()))
	wording := s.Wording.Draw(w.scene.Lists, seed).Between(v.Habits.Before, v.Habits.After)
	var err error
	said.Message, err = message.Compose(wording, p, s.Extras.Hashtags, v.Limits)
	return said, err
}

// PostOf is what a message can say of a post. A post without an excerpt gets the
// beginning of its text, and keeps it.
func PostOf(f *condition.Facts, link string) message.Post {
	if f.Excerpt == "" {
		f.Excerpt = message.ExcerptOf(f.Text)
	}
	return message.Post{Title: f.Title, Excerpt: f.Excerpt, Link: link, Category: f.Category, Tags: f.Tags,
		Author: f.Author, Fields: f.Fields, HasImage: f.FeaturedImage}
}

// OwnWordings are the wordings that a post itself has for a channel: those for it alone, else
// those for any. None: it has none.
func (w *World) OwnWordings(f *condition.Facts, channel int64) []message.Wording {
	for _, of := range []int64{channel, 0} {
		var found []message.Wording
		for _, one := range f.Wordings {
			if one.Channel != of {
				continue
			}
			if wording, err := w.read(one.Text); err == nil {
				found = append(found, wording)
			}
		}
		if len(found) > 0 {
			return found
		}
	}
	return nil
}

// read reads a wording, each once.
func (w *World) read(text string) (message.Wording, error) {
	if known, have := w.wordings[text]; have {
		return known, nil
	}
	wording, err := message.ReadWording(text)
	if err == nil {
		w.wordings[text] = wording
	}
	return wording, err
}
