package revisions

import (
	"context"
	"errors"
	"fmt"

	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// WriteHeld writes the letter that tells who prepared a timed edit that it is on hold, and why. It fails with people.ErrNotWanted where the
// edit is gone or was settled meanwhile, or who prepared it is not of the blog any more.
func WriteHeld(ctx context.Context, q store.Queries, siteID, id int64, public string) (people.Letter, error) {
	e, err := q.TimedEdit(ctx, siteID, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (e.State != store.EditHeld || e.User == nil) {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	member, err := q.Member(ctx, siteID, *e.User)
	if errors.Is(err, store.ErrNotFound) {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	site, err := q.Site(ctx, siteID)
	if err != nil {
		return people.Letter{}, err
	}
	return people.Letter{To: member.Email, Subject: people.OneLine(fmt.Sprintf("Your change of “%s” is on hold", e.Title)),
		Text: "Hello " + people.OneLine(member.Name) + ",\n\n" + people.OneLine(fmt.Sprintf("The change that you prepared for “%s” on “%s” was not made.", e.Title, site.Title)) +
			"\n" + e.HeldWhy + "\n\nReaders still see the post as it was. See what to do about it here:\n\n" + fmt.Sprintf("%s/%s/edits/%d", public, site.Slug, e.ID) + "\n"}, nil
}
