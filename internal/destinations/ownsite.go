package destinations

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"html"

	"dapper.example/internal/blog"
	"dapper.example/internal/bundle"
	"dapper.example/internal/channel"
	"dapper.example/internal/store"
	"dapper.example/internal/tokens"
)

// ownSite is the kind of destinations that are sites of one's own, by Micropub. Each post has a key that goes along when it is added,
// and that the site is asked for where it did not answer: so it has no post twice.
type ownSite struct{}

// noMedia is kept of a site that takes no pictures.
const noMedia = "-"

// ask asks a destination's site for something, with new tokens where it does not take those that it has.
func (s *Sender) ask(ctx context.Context, d store.Destination, of func(channel.Entries) error) error {
	c, err := s.Store.Channel(ctx, d.SiteID, int64(d.Channel))
	if err != nil {
		return err
	}
	if c.SignInWhy != "" {
		return &channel.SignedOut{Reason: c.SignInWhy}
	}
	for try := 0; ; try++ {
		var token string
		if token, c, err = s.tokens().Of(ctx, c, try > 0); err != nil {
			return err
		}
		err = of(channel.Entries{Client: s.Client, At: c.Address, Token: token})
		var out *channel.SignedOut
		if !errors.As(err, &out) || c.Refresh == "" || try == tokens.MostRenewals {
			return err
		}
	}
}

// put has the site have a post.
func (ownSite) put(ctx context.Context, s *Sender, d store.Destination, p piece, c *store.Copy) error {
	return s.ask(ctx, d, func(site channel.Entries) error {
		e, err := s.entry(ctx, site, d, p)
		if err != nil {
			return err
		}
		sum, err := json.Marshal(e)
		if err != nil {
			return err
		}
		digest := sha256.Sum256(sum)
		e.UID = c.Key
		switch {
		case c.State == store.CopyThere && bytes.Equal(c.Digest, digest[:]):
			return nil
		case c.State == store.CopyLost:
			return errLost
		case c.State == store.CopyThere:
			err = s.change(ctx, site, e, c)
		case c.State == store.CopyRemoved:
			err = s.bringBack(ctx, site, e, c)
		default:
			err = s.add(ctx, site, e, c)
		}
		if err == nil {
			c.State, c.Digest = store.CopyThere, digest[:]
		}
		return err
	})
}

// errLost says that somebody decides whether a post is added anew that was deleted at the site.
var errLost = &channel.Refused{Reason: "the site has no such post any more: somebody deleted it there. Send it again to add it anew"}

// add adds a post, unless it turns out that the site has it.
func (s *Sender) add(ctx context.Context, site channel.Entries, e channel.Entry, c *store.Copy) error {
	if c.AskedAt != nil {
		at, known, err := site.Find(ctx, c.Key)
		switch {
		case err != nil:
			return err
		case at != "":
			c.State, c.Places, c.URL = store.CopyThere, []string{at}, at
			return s.change(ctx, site, e, c)
		case !known:
			return &channel.Refused{Reason: "the site did not say whether it took this post. Look there: if it has it, enter its address; if not, send it again"}
		}
	}
	now := s.Clock.Now()
	c.AskedAt = &now
	if err := s.Store.KeepCopy(ctx, *c); err != nil {
		return err
	}
	at, err := site.Add(ctx, e)
	var unknown *channel.Unknown
	if err != nil {
		if !errors.As(err, &unknown) && ctx.Err() == nil {
			c.AskedAt = nil // it has said no, or was not reached
		}
		return err
	}
	c.State, c.Places, c.URL, c.AskedAt = store.CopyThere, []string{at}, at, nil
	return s.Store.KeepCopy(ctx, *c)
}

// change has a post of the site say what it is to say now.
func (s *Sender) change(ctx context.Context, site channel.Entries, e channel.Entry, c *store.Copy) error {
	at, err := site.Change(ctx, c.Places[0], e)
	var lost *channel.Lost
	if errors.As(err, &lost) {
		c.State, c.URL, c.Digest = store.CopyLost, "", nil
		return errLost
	}
	if err == nil {
		c.Places, c.URL = []string{at}, at
	}
	return err
}

// bringBack brings a post back that was removed; where the site can't, it is added anew.
func (s *Sender) bringBack(ctx context.Context, site channel.Entries, e channel.Entry, c *store.Copy) error {
	err := site.BringBack(ctx, c.Places[0])
	var lost *channel.Lost
	var refused *channel.Refused
	if errors.As(err, &lost) || errors.As(err, &refused) {
		forget(c)
		e.UID = c.Key
		return s.add(ctx, site, e, c)
	}
	if err != nil {
		return err
	}
	c.State, c.URL = store.CopyThere, c.Places[0]
	if err := s.Store.KeepCopy(ctx, *c); err != nil {
		return err
	}
	return s.change(ctx, site, e, c)
}

// forget forgets that the site ever had a post: it is added under another key.
func forget(c *store.Copy) {
	c.Key = rand.Text()
	c.State, c.Places, c.URL, c.Digest, c.AskedAt = store.CopyNone, nil, "", nil, nil
}

// remove has the site not have a post. Its address is kept: the post may come back.
func (ownSite) remove(ctx context.Context, s *Sender, d store.Destination, c *store.Copy) error {
	return s.ask(ctx, d, func(site channel.Entries) error {
		if len(c.Places) == 0 {
			at, known, err := site.Find(ctx, c.Key)
			switch {
			case err != nil:
				return err
			case !known:
				return &channel.Refused{Reason: "the site did not say whether it took this post, which is not out any more. Look there, and delete it if it has it"}
			case at == "":
				c.AskedAt = nil
				return nil
			}
			c.Places = []string{at}
		}
		if err := site.Remove(ctx, c.Places[0]); err != nil {
			return err
		}
		c.State, c.URL, c.Digest, c.AskedAt = store.CopyRemoved, "", nil, nil
		return nil
	})
}

// entry is a post as the site is handed it; its pictures are handed over first.
func (s *Sender) entry(ctx context.Context, site channel.Entries, d store.Destination, p piece) (e channel.Entry, err error) {
	laid, err := s.Renderer.Of(ctx, s.Store.Queries, p.post.ID, p.post.Body)
	if err != nil {
		return e, err
	}
	if d.Media == "" {
		if d.Media, err = site.Media(ctx); err != nil {
			return e, err
		}
		if d.Media == "" {
			d.Media = noMedia
		}
		if err := s.Store.KnowMedia(ctx, d.SiteID, d.ID, d.Media); err != nil {
			return e, err
		}
	}
	home := p.site.Home(s.Public)
	var failed error
	of := func(address string) string {
		found, missing := false, false
		to := bundle.WithPictures(address, func(key, ending string) string {
			at, err := s.upload(ctx, site, d, key)
			failed = errors.Join(failed, err)
			found, missing = true, missing || at == ""
			return at
		})
		if found && !missing {
			return to
		}
		return home.FullOf(address)
	}
	e = channel.Entry{Slug: p.post.Slug, Title: p.post.Title, Summary: p.post.Excerpt, HTML: blog.Rewritten(string(laid.HTML), of), Alt: p.post.FeaturedAlt}
	if p.post.FeaturedImage != "" {
		e.Photo = of(p.post.FeaturedImage)
	}
	if p.post.Notice != "" {
		e.HTML = "<p><em>" + html.EscapeString(p.post.Notice) + "</em></p>\n" + e.HTML
	}
	if p.post.CategoryName != nil {
		e.Categories = append(e.Categories, *p.post.CategoryName)
	}
	e.Categories = append(e.Categories, p.post.Tags...)
	if p.post.PublishedAt != nil {
		e.Published = *p.post.PublishedAt
	}
	return e, failed
}

// upload is where a site has a picture, which is handed over once; "" where it takes none, or there is no such picture.
func (s *Sender) upload(ctx context.Context, site channel.Entries, d store.Destination, key string) (string, error) {
	if d.Media == noMedia {
		return "", nil
	}
	found, data, err := s.Store.PictureFile(ctx, d.SiteID, key, widest)
	if errors.Is(err, store.ErrNotFound) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(data)
	known := key + "-" + hex.EncodeToString(sum[:8]) // another may take its place
	at, err := s.Store.KnownPicture(ctx, d.ID, known)
	if !errors.Is(err, store.ErrNotFound) {
		return at, err
	}
	at, err = site.Upload(ctx, d.Media, fmt.Sprintf("%s.%s", key, found.Type), channel.Media{Type: mimeOf(found.Type), Data: data})
	if err != nil {
		return "", err
	}
	return at, s.Store.KnowPicture(ctx, d.ID, known, at)
}

// mimeOf is the media type of a picture of the library.
func mimeOf(kind string) string {
	if kind == "jpg" {
		return "image/jpeg"
	}
	return "image/" + kind
}
