// Package founding begins and ends: the program with its first owner, and blogs.
//
// Whoever has the setup code sets the program up, once. After that owners add blogs, take them
// out of readers' sight, and delete them.
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

	"golang.org/x/text/language"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

const (
	maxTitle   = 120 // characters
	maxTagline = 200
)

// Blog is what a new blog is to be.
type Blog struct {
	Title    string
	Tagline  string
	Slug     string // in its address; made from the title where it is ""
	Zone     string // IANA time zone
	Language string // of its readers (BCP 47)
	Start    string // the key of a rhythm to begin with (rhythm.Starts); "" for none
}

// cleaned returns the blog as it is kept, and all that is wrong with it, by field.
func (b Blog) cleaned() (Blog, []*act.Invalid) {
	var found []*act.Invalid
	say := func(field, format string, args ...any) {
		found = append(found, act.Invalidf(field, format, args...))
	}
	b.Title, b.Tagline = strings.Join(strings.Fields(b.Title), " "), strings.Join(strings.Fields(b.Tagline), " ")
	b.Slug, b.Zone, b.Language = strings.TrimSpace(b.Slug), strings.TrimSpace(b.Zone), strings.TrimSpace(b.Language)
	if b.Slug == "" && letters.Length(b.Title, maxTitle) <= maxTitle {
		b.Slug = address.SiteName(b.Title)
	}
	switch n := letters.Length(b.Title, maxTitle); {
	case !strings.ContainsFunc(b.Title, unicode.IsPrint) || strings.TrimFunc(b.Title, isUnseen) == "":
		say("title", "Give the blog a title.")
	case n > maxTitle:
		say("title", "The title has more than %d characters. Shorten it; the tagline has room for more.", maxTitle)
	case strings.ContainsFunc(b.Title, unicode.IsControl):
		say("title", "The title has a control character in it. Remove it.")
	}
	if letters.Length(b.Tagline, maxTagline) > maxTagline {
		say("tagline", "The tagline has more than %d characters. Shorten it.", maxTagline)
	} else if strings.ContainsFunc(b.Tagline, unicode.IsControl) {
		say("tagline", "The tagline has a control character in it. Remove it.")
	}
	if why := address.SiteProblem(b.Slug); why != "" {
		say("slug", "%s", why)
	}
	if _, err := civil.LoadZone(b.Zone); err != nil {
		say("zone", "There is no time zone %q. Choose one from the list, such as Europe/Lisbon.", b.Zone)
	}
	if tag, err := language.Parse(b.Language); err != nil || tag == language.Und {
		say("language", "There is no language %q. Choose one from the list.", b.Language)
	} else {
		b.Language = tag.String()
	}
	if b.Start != "" && !slices.ContainsFunc(rhythm.Starts(), func(s rhythm.Start) bool { return s.Key == b.Start }) {
		say("start", "There is no such rhythm to begin with: %q.", b.Start)
	}
	return b, found
}

// isUnseen are signs that leave nothing on the screen.
func isUnseen(r rune) bool { return unicode.IsSpace(r) || unicode.Is(unicode.Cf, r) }

// add writes the blog with its first owner.
func (b Blog) add(ctx context.Context, tx *store.Tx, owner int64, now time.Time) (store.Site, error) {
	if taken, err := tx.SlugIsTaken(ctx, b.Slug, 0); err != nil || taken {
		return store.Site{}, cmp.Or(err, slugTaken(b.Slug))
	}
	site, err := tx.InsertSite(ctx, store.Site{Slug: b.Slug, Title: b.Title, Tagline: b.Tagline, ZoneName: b.Zone,
		Language: b.Language, CreatedAt: now})
	if store.IsDuplicate(err) {
		return site, slugTaken(b.Slug)
	}
	if err != nil {
		return site, fmt.Errorf("adding the blog %s: %w", b.Slug, err)
	}
	if err := tx.InsertMembership(ctx, site.ID, owner, string(people.Owner)); err != nil {
		return site, fmt.Errorf("making an owner of %s: %w", b.Slug, err)
	}
	if _, err := tx.InsertRhythm(ctx, b.rhythm(site.ID), now); err != nil {
		return site, fmt.Errorf("adding the rhythm of %s: %w", b.Slug, err)
	}
	return site, tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Actor: &owner, Deed: store.DeedSettings,
		Reason: "The blog was created."})
}

// noRhythmGap is the fewest minutes between two posts where no rhythm was chosen.
const noRhythmGap = 60

func (b Blog) rhythm(site int64) store.Rhythm {
	r := store.Rhythm{SiteID: site, Name: "The week", Gap: noRhythmGap, Seed: act.NewSeed(), Uneven: true}
	for _, s := range rhythm.Starts() {
		if s.Key == b.Start {
			r.Name, r.Gap, r.Openings = s.Name, s.Gap, s.Openings
		}
	}
	return r
}

// Owner is who is to be the first owner.
type Owner struct {
	Name, Email, Password string
}

// SetUp makes the first owner and the first blog, where the code is right, and notes the owner's
// sign-in. Of several who do it at once one does. It fails with ErrSetUp, ErrWrongCode,
// *people.Throttled, or *act.Invalid with a field of "owner." or "blog.".
func SetUp(ctx context.Context, s *store.Store, code string, owner Owner, blog Blog, from people.Caller,
	now time.Time) (user store.User, signIn int64, err error) {
	if err := CheckCode(ctx, s.Queries, code, from, now); err != nil {
		return user, 0, err
	}
	blog, wrong := blog.cleaned()
	if len(wrong) > 0 {
		return user, 0, under("blog", wrong[0])
	}
	fresh, err := people.NewAccount(ctx, owner.Email, owner.Name, owner.Password, blog.Title, now)
	if err != nil {
		return user, 0, under("owner", err)
	}
	err = s.InTx(ctx, func(tx *store.Tx) error {
		err := tx.LockSetup(ctx)
		if errors.Is(err, store.ErrNotFound) {
			return ErrSetUp
		}
		if err != nil {
			return err
		}
		if user, err = tx.InsertUser(ctx, fresh); err != nil {
			return fmt.Errorf("making the first account: %w", err)
		}
		if _, err := blog.add(ctx, tx, user.ID, now); err != nil {
			return under("blog", err)
		}
		signIn, err = tx.InsertSignIn(ctx, store.SignIn{User: user.ID, BeganAt: now, Address: from.Address, Agent: from.Browsing()})
		return err
	})
	return user, signIn, err
}

// under says of a field what group of fields it is in.
func under(group string, err error) error {
	if bad, ok := errors.AsType[*act.Invalid](err); ok {
		return &act.Invalid{Field: group + "." + bad.Field, Message: bad.Message}
	}
	return err
}

// Add adds a blog, of which somebody who has an account is the first owner. It fails with
// *act.Invalid.
func Add(ctx context.Context, s *store.Store, owner int64, blog Blog, now time.Time) (site store.Site, err error) {
	blog, wrong := blog.cleaned()
	if len(wrong) > 0 {
		return site, wrong[0]
	}
	err = s.InTx(ctx, func(tx *store.Tx) (err error) {
		site, err = blog.add(ctx, tx, owner, now)
		return err
	})
	return site, err
}

func slugTaken(slug string) error {
	return act.Invalidf("slug", "Another blog has, or had, the address “%s”. Choose another.", slug)
}

// Archive takes a blog out of readers' sight: they are told that it is gone, and nothing comes
// out any more. All that is of it stays. by is who does it, 0 for a command.
func Archive(ctx context.Context, s *store.Store, site store.Site, by int64, now time.Time) error {
	return change(ctx, s, site, by, "The blog was archived: readers no longer see it, and nothing comes out.", now,
		func(tx *store.Tx) error { return tx.Archive(ctx, site.ID, now) })
}

// Unarchive shows an archived blog to readers again. It stays paused until somebody resumes it,
// and so nothing that was missed comes out by surprise.
func Unarchive(ctx context.Context, s *store.Store, site store.Site, by int64, now time.Time) error {
	return change(ctx, s, site, by, "The blog was brought back. It is paused until somebody resumes it.", now,
		func(tx *store.Tx) error { return tx.Unarchive(ctx, site.ID) })
}

// change does what is not done to a blog that is as it would be already.
func change(ctx context.Context, s *store.Store, site store.Site, by int64, why string, now time.Time,
	work func(*store.Tx) error) error {
	return s.InTx(ctx, func(tx *store.Tx) error {
		if err := tx.LockSite(ctx, site.ID); err != nil {
			return err
		}
		err := work(tx)
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("changing the blog %s: %w", site.Slug, err)
		}
		line := store.LogEntry{SiteID: site.ID, At: now, Deed: store.DeedSettings, Reason: why}
		if by != 0 {
			line.Actor = &by
		}
		return tx.Log(ctx, line)
	})
}

// Delete deletes a blog for good, with all its posts and pictures, where title is its title.
// People stay. It fails with *act.Invalid.
func Delete(ctx context.Context, s *store.Store, site store.Site, title string) error {
	if strings.Join(strings.Fields(title), " ") != site.Title {
		return act.Invalidf("confirm", "Enter the title exactly as it is: %s.", site.Title)
	}
	return s.InTx(ctx, func(tx *store.Tx) error {
		if err := tx.LockSite(ctx, site.ID); err != nil {
			return err
		}
		if err := tx.DeleteSite(ctx, site.Slug, nil); err != nil {
			return fmt.Errorf("deleting the blog %s: %w", site.Slug, err)
		}
		return nil
	})
}
