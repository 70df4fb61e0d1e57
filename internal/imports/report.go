package imports

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"dapper.example/internal/core/words"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// leftNamed is how many lines that were left out a report names.
const leftNamed = 20

// WriteReport writes the letter that tells who began an import how it ended. It fails with people.ErrNotWanted where the import is gone.
func WriteReport(ctx context.Context, q store.Queries, site, id int64, public string) (people.Letter, error) {
	i, err := q.Import(ctx, site, id)
	if errors.Is(err, store.ErrNotFound) {
		return people.Letter{}, people.ErrNotWanted
	}
	if err != nil {
		return people.Letter{}, err
	}
	user, err := q.User(ctx, i.User)
	if err != nil {
		return people.Letter{}, err
	}
	of, err := q.Site(ctx, site)
	if err != nil {
		return people.Letter{}, err
	}
	counts, err := q.CountLines(ctx, id)
	if err != nil {
		return people.Letter{}, err
	}
	left, err := q.ImportLines(ctx, id, []store.LineState{store.LineLeft, store.LineClash}, 0, leftNamed)
	if err != nil {
		return people.Letter{}, err
	}
	landed := words.Count(counts[store.LineLanded], "post")
	var text strings.Builder
	fmt.Fprintf(&text, "The import of “%s” into “%s” is over: %s brought in", i.Source, of.Title, landed)
	if n := counts[store.LineUpdated]; n > 0 {
		fmt.Fprintf(&text, ", %s changed", words.Count(n, "post"))
	}
	if n := counts[store.LineSame]; n > 0 {
		fmt.Fprintf(&text, ", %s unchanged", words.Count(n, "post"))
	}
	fmt.Fprintf(&text, ", %s left out.\n", words.Count(counts[store.LineLeft]+counts[store.LineClash], "line"))
	if i.Problem != "" {
		text.WriteString("\n" + i.Problem + "\n")
	}
	if len(left) > 0 {
		text.WriteString("\nLeft out:\n")
	}
	for _, l := range left {
		fmt.Fprintf(&text, "- %s: %s\n", l.Place, l.Reason)
	}
	if more := counts[store.LineLeft] + counts[store.LineClash] - len(left); more > 0 {
		fmt.Fprintf(&text, "- and %d more\n", more)
	}
	fmt.Fprintf(&text, "\nAll lines, and how to undo it:\n\n%s/%s/import/%d\n", public, of.Slug, i.ID)
	return people.Letter{To: user.Email, Subject: people.OneLine(fmt.Sprintf("%s brought in from %s", landed, i.Source)), Text: text.String()}, nil
}
