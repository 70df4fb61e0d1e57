package blog

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"html/template"

	"dapper.example/internal/store"
)

// layout names the way in which texts are laid out; with another one, what is kept is made
// anew. It changes whenever the same text would come out otherwise.
const layout = "1"

func hashOf(markdown string) []byte {
	sum := sha256.Sum256([]byte(layout + "\n" + markdown))
	return sum[:]
}

// Keep keeps the laid-out text of a post that was saved with it.
func Keep(ctx context.Context, q store.Queries, post int64, markdown string, laid Laid) error {
	return q.KeepLaidOut(ctx, post, hashOf(markdown), store.LaidOut{HTML: string(laid.HTML), Removed: laid.Removed})
}

// Of is the laid-out text of a post: what is kept with it, or made now and kept. Text that
// is too involved comes as it was written. It fails where the context ends, where too much
// is done at once, and where the store does.
func (r *Renderer) Of(ctx context.Context, q store.Queries, post int64, markdown string) (Laid, error) {
	kept, err := q.LaidOut(ctx, post, hashOf(markdown))
	if err == nil {
		return Laid{template.HTML(kept.HTML), kept.Removed}, nil //nolint:gosec // it was made safe before it was kept
	}
	if !errors.Is(err, store.ErrNotFound) {
		return Laid{}, fmt.Errorf("reading the laid-out text of post %d: %w", post, err)
	}
	laid, err := r.LayAnyway(ctx, markdown)
	if err != nil {
		return Laid{}, err
	}
	_ = Keep(ctx, q, post, markdown, laid) // where it cannot be kept it is made again
	return laid, nil
}
