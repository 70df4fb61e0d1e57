package destinations

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/pattern"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
)

// Editor is somebody who says where the posts of one site go.
type Editor struct {
	act.Desk
	Folders string // below which folders lie; "": there are none
	Allowed reach.Allowed
}

const (
	maxName         = 60
	maxDestinations = 10 // of one site
	maxAddress      = 2000
)

// Wanted is what an editor says of a destination.
type Wanted struct {
	Name     string
	Setup    store.DestinationSetup
	Archived string // what becomes of archived posts there
}

// Add adds a destination of a kind: a folder, or with a channel, the site that it is. Without existing, only posts that come out from now
// on go there.
func (e Editor) Add(ctx context.Context, kind string, channelID int64, w Wanted, existing bool, now time.Time) (id int64, err error) {
	d := store.Destination{SiteID: e.Site.ID, Kind: kind, CreatedAt: now}
	if !existing {
		d.Since = &now
	}
	switch kind {
	case Folder:
		if e.Folders == "" {
			return 0, act.Invalidf("kind", "Folders are turned off here. Whoever runs the program can turn them on (DAPPER_FOLDERS).")
		}
		w.Setup.Folder = strings.TrimSpace(w.Setup.Folder)
		if !folderForm.MatchString(w.Setup.Folder) {
			return 0, act.Invalidf("folder", "Enter the folder’s name, of small letters, digits and hyphens, such as my-blog.")
		}
	case OwnSite:
		w.Setup = store.DestinationSetup{}
	default:
		return 0, act.Invalidf("kind", "Posts go to a folder, or to a site of your own.")
	}
	if err := e.check(kind, &w); err != nil {
		return 0, err
	}
	d.Name, d.Setup, d.Archived = w.Name, w.Setup, w.Archived
	err = e.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Queries.Destinations(ctx, e.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= maxDestinations {
			return act.Invalidf("kind", "Posts of a blog go to %d places at most. Delete one first.", maxDestinations)
		}
		if err := isFree(all, d); err != nil {
			return err
		}
		if kind == OwnSite {
			c, err := tx.Queries.Channel(ctx, e.Site.ID, channelID)
			if errors.Is(err, store.ErrNotFound) || err == nil && c.Kind != channel.Micropub {
				return act.Invalidf("channel", "Choose a site of your own. You connect one under Channels.")
			}
			if err != nil {
				return err
			}
			if slices.ContainsFunc(all, func(o store.Destination) bool { return int64(o.Channel) == channelID }) {
				return act.Invalidf("channel", "Posts go to this site already.")
			}
			d.Channel = store.ID(channelID)
		} else if taken, err := tx.Queries.FolderIsTaken(ctx, d.Setup.Folder, 0); err != nil || taken {
			if err != nil {
				return err
			}
			return act.Invalidf("folder", "Posts go to a folder of that name already. Choose another.")
		}
		if id, err = tx.InsertDestination(ctx, d); err != nil {
			return err
		}
		if existing {
			if err := tx.MarkAll(ctx, e.Site.ID, id, false); err != nil {
				return err
			}
		}
		return e.log(ctx, tx, fmt.Sprintf("Posts go to “%s” from now on.", d.Name), now)
	})
	return id, err
}

// folderForm is that of a folder's name.
var folderForm = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,59}$`)

// isFree fails where another destination has the name of one.
func isFree(all []store.Destination, d store.Destination) error {
	if slices.ContainsFunc(all, func(o store.Destination) bool { return o.ID != d.ID && letters.Equal(o.Name, d.Name) }) {
		return act.Invalidf("name", "Another place has that name. Choose another.")
	}
	return nil
}

// check says what is wrong with what an editor wants.
func (e Editor) check(kind string, w *Wanted) error {
	if w.Name = strings.TrimSpace(w.Name); w.Name == "" || letters.Length(w.Name, maxName) > maxName {
		return act.Invalidf("name", "Enter a name of up to %d characters.", maxName)
	}
	if w.Archived != store.KeepArchived && w.Archived != store.RemoveArchived {
		return act.Invalidf("archived", "Archived posts stay there, or are removed.")
	}
	if kind != Folder {
		return nil
	}
	s := &w.Setup
	s.Posts, s.Pages = strings.TrimSpace(s.Posts), strings.TrimSpace(s.Pages)
	if _, problem := pattern.Path(s.Posts); problem != "" {
		return act.Invalidf("posts", "%s", problem)
	}
	if _, problem := pattern.Path(s.Pages); problem != "" {
		return act.Invalidf("pages", "%s", problem)
	}
	if s.Pictures = strings.TrimSpace(s.Pictures); pattern.Folder(s.Pictures) != "" {
		return act.Invalidf("pictures", "%s", pattern.Folder(s.Pictures))
	}
	if s.PictureLink = strings.TrimSpace(s.PictureLink); s.PictureLink != "" {
		u, err := url.Parse(s.PictureLink)
		if err != nil || len(s.PictureLink) > maxAddress || strings.ContainsAny(s.PictureLink, "{}()<>\"' ?#") ||
			!strings.HasPrefix(s.PictureLink, "/") && u.Scheme != "https" && u.Scheme != "http" {
			return act.Invalidf("pictureLink", "Enter what stands before a picture’s name, such as /pictures/ or https://notes.example/pictures/, or leave this empty.")
		}
		s.PictureLink = strings.TrimRight(s.PictureLink, "/") + "/"
	}
	if s.Address = strings.TrimSpace(s.Address); s.Address != "" {
		if _, problem := pattern.Address(s.Address); problem != "" {
			return act.Invalidf("address", "%s", problem)
		}
	}
	return nil
}

// Save changes a destination, over the version seen; what it changes for posts that are there is brought over. A folder keeps its name.
func (e Editor) Save(ctx context.Context, id int64, version int, w Wanted, on bool, now time.Time) error {
	return e.Change(ctx, func(tx *store.Tx) error {
		d, err := e.lock(ctx, tx, id, version)
		if err != nil {
			return err
		}
		w.Setup.Folder = d.Setup.Folder
		if d.Kind == OwnSite {
			w.Setup = store.DestinationSetup{}
		}
		if err := e.check(d.Kind, &w); err != nil {
			return err
		}
		all, err := tx.Queries.Destinations(ctx, e.Site.ID)
		if err != nil {
			return err
		}
		was := d
		d.Name, d.Setup, d.Archived = w.Name, w.Setup, w.Archived
		if err := isFree(all, d); err != nil {
			return err
		}
		switch {
		case on:
			d.PausedAt = nil
		case d.PausedAt == nil:
			d.PausedAt = &now
		}
		if d.Setup.Address == "" && was.Setup.Address != "" {
			if err := e.staysReachable(ctx, tx, d); err != nil {
				return err
			}
		}
		if err := tx.SaveDestination(ctx, d); err != nil {
			return err
		}
		if d.Setup != was.Setup || d.Archived != was.Archived {
			if err := tx.MarkAll(ctx, e.Site.ID, id, false); err != nil {
				return err
			}
		}
		what := fmt.Sprintf("“%s”, where posts go, was changed.", d.Name)
		if on != (was.PausedAt == nil) {
			what = fmt.Sprintf("“%s”, where posts go, was paused.", d.Name)
			if on {
				what = fmt.Sprintf("“%s”, where posts go, goes on.", d.Name)
			}
		}
		return e.log(ctx, tx, what, now)
	})
}

func (e Editor) lock(ctx context.Context, tx *store.Tx, id int64, version int) (store.Destination, error) {
	d, err := tx.LockDestination(ctx, e.Site.ID, id)
	if err == nil && d.Version != version {
		err = act.ErrStale
	}
	return d, err
}

// End has posts go somewhere no more. With remove, those that are there are removed first, which takes its time; else they stay there.
func (e Editor) End(ctx context.Context, id int64, version int, remove bool, now time.Time) error {
	return e.Change(ctx, func(tx *store.Tx) error {
		d, err := e.lock(ctx, tx, id, version)
		if err != nil {
			return err
		}
		if err := e.staysReachable(ctx, tx, d); err != nil {
			return err
		}
		n, err := tx.Queries.CountCopies(ctx, e.Site.ID, id)
		if err != nil {
			return err
		}
		if !remove || n == 0 {
			if err := tx.DeleteDestination(ctx, e.Site.ID, id); err != nil {
				return err
			}
			return e.log(ctx, tx, fmt.Sprintf("Posts go to “%s” no more. Those that are there stay there.", d.Name), now)
		}
		d.EndingAt, d.PausedAt = &now, nil
		if err := tx.SaveDestination(ctx, d); err != nil {
			return err
		}
		if err := tx.MarkAll(ctx, e.Site.ID, id, false); err != nil {
			return err
		}
		return e.log(ctx, tx, fmt.Sprintf("Posts go to “%s” no more. Those that are there are being removed.", d.Name), now)
	})
}

// staysReachable fails where readers would find no posts any more without a destination.
func (e Editor) staysReachable(ctx context.Context, tx *store.Tx, without store.Destination) error {
	site, err := tx.Queries.Site(ctx, e.Site.ID)
	if err != nil || site.PagesOn {
		return err
	}
	all, err := tx.Queries.Destinations(ctx, e.Site.ID)
	if err != nil || slices.ContainsFunc(all, func(d store.Destination) bool { return d.ID != without.ID && hasAddress(d) }) {
		return err
	}
	return act.Invalidf("address", "The built-in pages are off, and readers find posts only there. Turn the pages on first.")
}

// hasAddress tells whether readers can be led on to posts at a destination.
func hasAddress(d store.Destination) bool {
	return d.EndingAt == nil && (d.Kind == OwnSite || d.Setup.Address != "")
}

// SavePages says whether a site has its built-in pages, and which hub is told of changes; "": none. version is that of the site.
func (e Editor) SavePages(ctx context.Context, on bool, hub string, version int, now time.Time) error {
	if hub = strings.TrimSpace(hub); hub != "" {
		if problem := e.Allowed.Check(hub); problem != "" {
			return act.Invalidf("hub", "%s", problem)
		}
		if strings.ContainsAny(hub, `<>" `) { // it stands in headers of feeds, within < and >
			return act.Invalidf("hub", "Leave blanks, quotes, < and > out of the address.")
		}
	}
	return e.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Queries.Site(ctx, e.Site.ID)
		if err != nil {
			return err
		}
		if site.Version != version {
			return act.ErrStale
		}
		if !on {
			all, err := tx.Queries.Destinations(ctx, e.Site.ID)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(all, hasAddress) {
				return act.Invalidf("pages", "Without the pages, readers are led on to where a post is. Add a site of your own first, or a folder with the address of its posts.")
			}
			if hub != "" {
				return act.Invalidf("hub", "Without the pages there are no feeds that a hub could be told of. Leave this empty.")
			}
		}
		if err := tx.SavePages(ctx, e.Site.ID, on, hub); err != nil {
			return err
		}
		if hub != "" && hub != site.Hub {
			if err := tx.Queries.TellAgain(ctx, e.Site.ID); err != nil {
				return err
			}
		}
		what := "Which hub is told of new posts was changed."
		if on != site.PagesOn {
			what = "The blog’s built-in pages were turned off. Readers are led on to where posts are."
			if on {
				what = "The blog’s built-in pages were turned on."
			}
		}
		return e.log(ctx, tx, what, now)
	})
}

// SendAll has all posts of a destination brought over anew, even those that are there as they were.
func (e Editor) SendAll(ctx context.Context, id int64, version int, now time.Time) error {
	return e.Change(ctx, func(tx *store.Tx) error {
		d, err := e.lock(ctx, tx, id, version)
		if err != nil {
			return err
		}
		if err := tx.MarkAll(ctx, e.Site.ID, id, true); err != nil {
			return err
		}
		return e.log(ctx, tx, fmt.Sprintf("All posts are brought to “%s” anew.", d.Name), now)
	})
}

// Decision is what somebody decides about a post that waits for that.
type Decision struct {
	Replace bool   // a file that is in its place is written over
	URL     string // the site has it, at this address; "": it has not
}

// Again has a post tried again.
func (e Editor) Again(ctx context.Context, id, post int64, how Decision, now time.Time) error {
	how.URL = strings.TrimSpace(how.URL)
	if how.URL != "" {
		if u, err := url.Parse(how.URL); err != nil || len(how.URL) > maxAddress || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" {
			return act.Invalidf("url", "Enter the post’s address there, which begins with https:// or http://.")
		}
	}
	return e.Change(ctx, func(tx *store.Tx) error {
		d, err := tx.LockDestination(ctx, e.Site.ID, id)
		if err != nil {
			return err
		}
		c, err := tx.LockCopy(ctx, e.Site.ID, id, post)
		if err != nil {
			return err
		}
		if !c.Waits() {
			return nil // it has been brought over meanwhile
		}
		switch {
		case d.Kind == OwnSite && how.URL != "":
			c.State, c.Places, c.URL, c.AskedAt = store.CopyThere, []string{how.URL}, how.URL, nil
		case c.State == store.CopyLost || d.Kind == OwnSite && c.AskedAt != nil:
			forget(&c)
		case d.Kind == Folder && how.Replace:
			if err := e.allowPlace(ctx, tx, d, &c); err != nil {
				return err
			}
		}
		if err := tx.Queries.KeepCopy(ctx, c); err != nil {
			return err
		}
		return tx.Queries.TryCopy(ctx, c)
	})
}

// allowPlace lets a post write over the file that is in its place.
func (e Editor) allowPlace(ctx context.Context, tx *store.Tx, d store.Destination, c *store.Copy) error {
	p, err := tx.Queries.Post(ctx, e.Site.ID, c.Post)
	if err != nil {
		return err
	}
	text := d.Setup.Posts
	if p.Kind == "page" {
		text = d.Setup.Pages
	}
	where, problem := pattern.Path(text)
	if problem != "" {
		return act.Invalidf("posts", "%s", problem)
	}
	c.Places = with(c.Places, where.Of(piece{site: e.Site, post: p}.values()))
	return nil
}

func (e Editor) log(ctx context.Context, tx *store.Tx, what string, now time.Time) error {
	return e.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedChannel, Reason: what})
}
