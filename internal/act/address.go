package act

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"dapper.example/internal/core/address"
	"dapper.example/internal/store"
)

// FreeSlug makes an address from a title, with a number behind it where the site
// has it already.
func FreeSlug(ctx context.Context, q store.Queries, siteID int64, title string) (string, error) {
	base := address.Slug(title)
	if base == "" {
		base = "post"
	}
	taken, err := q.SlugsLike(ctx, siteID, base)
	if err != nil {
		return "", fmt.Errorf("looking for a free address: %w", err)
	}
	if !slices.Contains(taken, base) && !slices.Contains(OwnPages, base) {
		return base, nil
	}
	for n := 2; ; n++ {
		if s := base + "-" + strconv.Itoa(n); !slices.Contains(taken, s) {
			return s, nil
		}
	}
}

// OwnPages are the addresses that the blog keeps for pages of its own.
var OwnPages = []string{"search", "category", "tag", "author", "archive", "pictures", "preview", "feed"}
