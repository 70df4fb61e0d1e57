package operation

import (
	"context"
	"fmt"
	"sync"
	"time"

	"dapper.example/internal/store"
)

// Memo keeps answers that take long to compute, for as long as nothing has changed that they depend on. One process
// keeps its own.
type Memo struct {
	mu   sync.Mutex
	kept map[string]remembered
}

type remembered struct {
	mark       store.Mark
	from, till time.Time
	answer     any
}

// mostRemembered bounds how many answers are kept.
const mostRemembered = 256

// Remember returns the answer to a question about a site: as it was given before, if nothing of the site has changed since
// and the moment lies within the span for which it was said to hold; else as compute gives it now, with the moment from
// which on it holds no more. An answer is handed out many times: nobody may change it.
func Remember[T any](ctx context.Context, s *Tools, site store.Site, question string, now time.Time, compute func() (T, time.Time, error)) (T, error) {
	// The mark comes first: what changes while it is computed makes the answer one of before.
	mark, err := s.Store.MarkOf(ctx, site.ID)
	if err != nil {
		var none T
		return none, fmt.Errorf("looking whether anything has changed: %w", err)
	}
	key := fmt.Sprint(site.ID, " ", question)
	if answer, ok := s.memo.find(key, mark, now); ok {
		return answer.(T), nil
	}
	answer, till, err := compute()
	if err == nil && till.After(now) {
		s.memo.keep(key, remembered{mark, now, till, answer})
	}
	return answer, err
}

func (m *Memo) find(key string, mark store.Mark, now time.Time) (any, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	r, ok := m.kept[key]
	if !ok || r.mark != mark || now.Before(r.from) || !now.Before(r.till) {
		return nil, false
	}
	return r.answer, true
}

func (m *Memo) keep(key string, r remembered) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.kept == nil {
		m.kept = make(map[string]remembered)
	}
	for other, old := range m.kept {
		if len(m.kept) < mostRemembered && r.from.Before(old.till) {
			continue
		}
		delete(m.kept, other)
	}
	m.kept[key] = r
}
