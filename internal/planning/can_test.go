package planning_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// What is offered for a post follows from where it stands: a deed is offered where it can be
// done, and where only a title or a text is wanting, for which it then asks.
func TestWhatIsOfferedForAPost(t *testing.T) {
	now, later, before := pgtest.Noon, pgtest.Noon.Add(time.Hour), pgtest.Noon.Add(-time.Hour)
	whole := planning.Standing{Kind: "post", Title: "A", HasText: true}
	with := func(change func(*planning.Standing)) planning.Standing { s := whole; change(&s); return s }
	for name, c := range map[string]struct {
		stands planning.Standing
		want   string
	}{
		"draft": {with(func(s *planning.Standing) { s.Status = store.Draft }),
			"place, clear, retime, bound, publish, hand in, bin"},
		"blank draft": {planning.Standing{Kind: "post", Status: store.Draft},
			"place, clear, retime, bound, publish, hand in, bin"},
		"draft page": {with(func(s *planning.Standing) { s.Status, s.Kind = store.Draft, "page" }),
			"retime, bound, publish, hand in, bin"},
		"for review": {with(func(s *planning.Standing) { s.Status, s.HandedIn = store.Draft, true }),
			"place, clear, retime, bound, publish, give back, bin"},
		"on the shelf": {with(func(s *planning.Standing) { s.Status, s.Cleared = store.Draft, true }),
			"place, unclear, retime, bound, publish, bin"},
		"scheduled": {with(func(s *planning.Standing) { s.Status, s.DueAt = store.Scheduled, &later }),
			"retime, shelve, hold, publish, bin"},
		"held, to come": {with(func(s *planning.Standing) {
			s.Status, s.DueAt, s.Held = store.Scheduled, &later,
				true
		}), "retime, shelve, release, publish, bin"},
		"held, overdue": {with(func(s *planning.Standing) {
			s.Status, s.DueAt, s.Held = store.Scheduled, &before,
				true
		}), "retime, shelve, publish, bin"},
		"out":        {with(func(s *planning.Standing) { s.Status = store.Published }), "bin"},
		"archived":   {with(func(s *planning.Standing) { s.Status = store.Archived }), "bin"},
		"in the bin": {with(func(s *planning.Standing) { s.Status = store.Binned }), "restore, delete"},
		"page scheduled": {with(func(s *planning.Standing) {
			s.Status, s.Kind, s.DueAt = store.Scheduled, "page",
				&later
		}), "retime, shelve, hold, publish, bin"},
	} {
		var said []string
		for _, deed := range c.stands.Offered(now) {
			said = append(said, string(deed))
		}
		assert.Equal(t, c.want, strings.Join(said, ", "), name)
	}
}
