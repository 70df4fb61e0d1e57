package planning

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode"

	"github.com/rivo/uniseg"

	"dapper.example/internal/store"
)

// Limits on what an editor writes. Lengths are in characters as readers count them
// (grapheme clusters, Unicode Standard Annex 29), the body's in bytes.
const (
	MaxTitle = 200
	MaxBody  = 1 << 20
	MaxTag   = 60
	MaxTags  = 30
)

// Text is what an editor changes of a post; nil fields stay as they are.
type Text struct {
	Title *string
	Body  *string
	// Category is the new category's id, or 0 for none.
	Category *int64
	Tags     *[]string
}

// Problems lists what is wrong with the text, by field. The category is checked
// when the text is saved.
func (t Text) Problems() []*Invalid {
	var found []*Invalid
	say := func(field, format string, args ...any) {
		found = append(found, &Invalid{field, fmt.Sprintf(format, args...)})
	}
	if t.Title != nil {
		title := strings.TrimSpace(*t.Title)
		switch length := uniseg.GraphemeClusterCount(title); {
		case length > MaxTitle:
			say("title", "The title has %d characters; at most %d fit. Shorten it by %d.", length, MaxTitle, length-MaxTitle)
		case title != "" && !strings.ContainsFunc(title, isWordRune):
			say("title", "The title has no letter or digit, so the post would have no address. Add a word to it.")
		case strings.ContainsFunc(title, unicode.IsControl):
			say("title", "The title has a line break or another control character in it. Remove it.")
		}
	}
	if t.Body != nil && len(*t.Body) > MaxBody {
		say("body", "The text has %d kB; at most %d kB fit. Split it into several posts.", len(*t.Body)>>10, MaxBody>>10)
	}
	if t.Tags != nil {
		if len(*t.Tags) > MaxTags {
			say("tags", "There are %d tags; at most %d fit.", len(*t.Tags), MaxTags)
		}
		for i, tag := range *t.Tags {
			field := fmt.Sprintf("tags[%d]", i)
			switch tag = strings.TrimSpace(tag); {
			case uniseg.GraphemeClusterCount(tag) > MaxTag:
				say(field, "The tag “%s” is too long; at most %d characters fit.", tag, MaxTag)
			case Slug(tag) == "":
				say(field, "The tag “%s” has no letter or digit. Add a word to it or remove it.", tag)
			}
		}
	}
	return found
}

func isWordRune(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// Write saves an editor's text over the version that the editor saw. It fails with
// ErrStale where the post has a later version, and with *Invalid for a category
// that the site lacks. A title that readers have an address for stays a title.
func (d Desk) Write(ctx context.Context, id int64, version int, text Text, now time.Time) (store.Post, error) {
	var saved store.Post
	err := d.Store.InTx(ctx, func(tx *store.Tx) error {
		post, err := tx.LockPost(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if post.Version != version {
			return ErrStale
		}
		if err := d.apply(ctx, tx, &post, text); err != nil {
			return err
		}
		if err := tx.SaveText(ctx, post, now); err != nil {
			return fmt.Errorf("saving post %d: %w", id, err)
		}
		saved, err = tx.Post(ctx, d.Site.ID, id)
		return err
	})
	return saved, err
}

// apply changes the post as the text says, and writes its tags.
func (d Desk) apply(ctx context.Context, tx *store.Tx, post *store.Post, text Text) error {
	if text.Title != nil {
		post.Title = strings.TrimSpace(*text.Title)
		if post.Title == "" && (post.Cleared || post.Status != store.Draft) {
			return invalid("title", "A post that is cleared, scheduled or out needs a title.")
		}
	}
	if text.Body != nil {
		post.Body = *text.Body
	}
	if text.Category != nil {
		if err := d.setCategory(ctx, tx, post, *text.Category); err != nil {
			return err
		}
	}
	if text.Tags != nil {
		return tx.SetTags(ctx, d.Site.ID, post.ID, tagsOf(*text.Tags))
	}
	return nil
}

func (d Desk) setCategory(ctx context.Context, tx *store.Tx, post *store.Post, category int64) error {
	if category == 0 {
		post.CategoryID = nil
		return nil
	}
	has, err := tx.HasCategory(ctx, d.Site.ID, category)
	if err != nil {
		return err
	}
	if !has {
		return invalid("categoryId", "This site has no such category. Choose one of its own.")
	}
	post.CategoryID = &category
	return nil
}

// tagsOf drops repetitions, by the form that stands in addresses.
func tagsOf(names []string) []store.Tag {
	var tags []store.Tag
	seen := make(map[string]bool)
	for _, name := range names {
		name = strings.TrimSpace(name)
		if s := Slug(name); !seen[s] {
			seen[s] = true
			tags = append(tags, store.Tag{Slug: s, Name: name})
		}
	}
	return tags
}

// Begin adds a draft by the actor. Where nothing is written yet and the actor has a
// blank draft already, that one is returned instead of a second.
func (d Desk) Begin(ctx context.Context, text Text, now time.Time) (store.Post, error) {
	var begun store.Post
	err := d.Store.InTx(ctx, func(tx *store.Tx) error {
		if text == (Text{}) {
			blank, err := tx.BlankDraft(ctx, d.Site.ID, d.Actor)
			if !errors.Is(err, store.ErrNotFound) {
				begun = blank
				return err
			}
		}
		id, err := tx.InsertDraft(ctx, store.Post{SiteID: d.Site.ID, AuthorID: d.Actor, CreatedAt: now})
		if err != nil {
			return fmt.Errorf("beginning a draft: %w", err)
		}
		post, err := tx.LockPost(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if err := d.apply(ctx, tx, &post, text); err != nil {
			return err
		}
		if err := tx.SaveText(ctx, post, now); err != nil {
			return fmt.Errorf("beginning a draft: %w", err)
		}
		begun, err = tx.Post(ctx, d.Site.ID, id)
		return err
	})
	return begun, err
}
