package founding

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/store"
)

// Own is what a blog is called, how readers read it, and where they find it.
type Own struct {
	Title    string
	Tagline  string
	Slug     string // in its address; made from the title where it is ""
	Language string // of its readers (BCP 47)
	store.Reading
}

// Save writes what a blog is called, and how readers read it, over the version that was seen. The name
// that it had in addresses leads on to the new one. public is where the program is reached, whose host no
// blog can have. It fails with *act.Invalid and act.ErrStale.
func Save(ctx context.Context, d act.Desk, own Own, public string, version int, now time.Time) error {
	blog, wrong := Blog{Title: own.Title, Tagline: own.Tagline, Slug: own.Slug, Language: own.Language, Zone: d.Site.ZoneName}.cleaned()
	if len(wrong) > 0 {
		return wrong[0]
	}
	reading, err := cleanedReading(own.Reading, public)
	if err != nil {
		return err
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if site.Version != version {
			return act.ErrStale
		}
		if err := checkTaken(ctx, tx, site.ID, blog.Slug, reading.Host); err != nil {
			return err
		}
		if err := checkShown(ctx, tx, site.ID, reading); err != nil {
			return err
		}
		before := act.JSON(site)
		site.Title, site.Tagline, site.Slug, site.Language = blog.Title, blog.Tagline, blog.Slug, blog.Language
		site.Reading = reading
		if err := tx.SaveSite(ctx, site); err != nil {
			if store.IsDuplicate(err) {
				return slugTaken(blog.Slug)
			}
			return fmt.Errorf("saving the blog %s: %w", d.Site.Slug, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedSettings, Reason: "What the blog is called, or how readers read it, was changed.",
			Before: before, After: act.JSON(site)})
	})
}

// checkTaken refuses a name in addresses, or a host, that another blog has.
func checkTaken(ctx context.Context, tx *store.Tx, site int64, slug, host string) error {
	taken, err := tx.SlugIsTaken(ctx, slug, site)
	if err != nil {
		return err
	}
	if taken {
		return slugTaken(slug)
	}
	if taken, err = tx.HostIsTaken(ctx, host, site); err != nil {
		return err
	}
	if taken {
		return act.Invalidf("host", "Another blog has the host “%s”. Choose another.", host)
	}
	return nil
}

// checkShown refuses pictures and a front page that the blog does not have.
func checkShown(ctx context.Context, tx *store.Tx, site int64, r store.Reading) error {
	for field, id := range map[string]*int64{"logo": r.Logo, "icon": r.Icon} {
		if id == nil {
			continue
		}
		if known, err := tx.KnownPictures(ctx, site, []int64{*id}); err != nil {
			return err
		} else if len(known) == 0 {
			return act.Invalidf(field, "This picture has been deleted meanwhile. Choose another.")
		}
	}
	if r.FrontPage == nil {
		return nil
	}
	page, err := tx.Post(ctx, site, *r.FrontPage)
	if errors.Is(err, store.ErrNotFound) || err == nil && (page.Kind != "page" || page.Status == store.Binned) {
		return act.Invalidf("frontPage", "This page has been deleted meanwhile. Choose another, or the latest posts.")
	}
	return err
}

const (
	maxPostsAPage = 50
	maxFooter     = 300 // characters
)

// cleanedReading returns how readers read a blog as it is kept. It fails with *act.Invalid.
func cleanedReading(r store.Reading, public string) (store.Reading, error) {
	r.Footer = strings.Join(strings.Fields(r.Footer), " ")
	r.DateStyle = cmp.Or(r.DateStyle, store.DateStyles[0])
	var problem string
	if r.Host, problem = address.Host(r.Host, public); problem != "" {
		return r, act.Invalidf("host", "%s", problem)
	}
	switch {
	case r.PostsAPage < 1 || r.PostsAPage > maxPostsAPage:
		return r, act.Invalidf("postsAPage", "A page has 1 to %d posts, not %d.", maxPostsAPage, r.PostsAPage)
	case letters.Length(r.Footer, maxFooter) > maxFooter:
		return r, act.Invalidf("footer", "The line has more than %d characters. Shorten it.", maxFooter)
	case strings.ContainsFunc(r.Footer, unicode.IsControl):
		return r, act.Invalidf("footer", "The line has a control character in it. Remove it.")
	case !slices.Contains(store.DateStyles, r.DateStyle):
		return r, act.Invalidf("dateStyle", "There is no such way to write dates: %q.", r.DateStyle)
	}
	return r, nil
}
