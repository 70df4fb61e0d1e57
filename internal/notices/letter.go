package notices

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/core/words"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// mostNamed is how many posts a letter names.
const mostNamed = 50

// Write writes the letter that tells an author of what a rule noted at a moment that it is about to do with posts of
// theirs. It fails with people.ErrNotWanted where nothing of that is left, or who it is for is not of the blog any more.
func Write(ctx context.Context, q store.Queries, siteID, rule, author int64, at time.Time, public string) (people.Letter, error) {
	all, err := q.NoticesTold(ctx, siteID, rule, author, at)
	if err != nil {
		return people.Letter{}, err
	}
	member, err := q.Member(ctx, siteID, author)
	if errors.Is(err, store.ErrNotFound) || err == nil && len(all) == 0 {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	site, err := q.Site(ctx, siteID)
	if err != nil {
		return people.Letter{}, err
	}
	var text strings.Builder
	fmt.Fprintf(&text, "Hello %s,\n\n", people.OneLine(member.Name))
	expires := all[0].Kind == store.Expire
	one := "“" + all[0].Title + "”"
	subject := one + " is about to expire"
	asks := "Keep it a while longer, or see why:"
	if expires {
		fmt.Fprintf(&text, "On “%s”, the rule “%s” is about to make %s of yours expire.\nIf that is all right, there is nothing to do.\n",
			people.OneLine(site.Title), people.OneLine(all[0].RuleName), words.Count(len(all), "post"))
	} else {
		subject, asks = "Please read "+one+" before it comes out again", "Read it, and say that it may come out:"
		fmt.Fprintf(&text, "On “%s”, the rule “%s” wants to bring %s of yours out again. Please look through it first.\n",
			people.OneLine(site.Title), people.OneLine(all[0].RuleName), words.Count(len(all), "post"))
	}
	if len(all) > 1 {
		if subject = fmt.Sprintf("%d of your posts are about to expire", len(all)); !expires {
			subject = fmt.Sprintf("Please read %d posts before they come out again", len(all))
		}
	}
	for _, n := range all[:min(len(all), mostNamed)] {
		fmt.Fprintf(&text, "\n“%s”, on %s or later\n%s\n%s/%s/notice/%d/%d\n", people.OneLine(n.Title), site.Zone().DateWords(n.DueOn, at), asks,
			public, site.Slug, n.Post, n.Rule)
	}
	if more := len(all) - mostNamed; more > 0 {
		fmt.Fprintf(&text, "\nand %d more; see %s/%s/upkeep\n", more, public, site.Slug)
	}
	return people.Letter{To: member.Email, Subject: people.OneLine(subject), Text: text.String()}, nil
}
