package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// Titles are found by any part of them, whatever signs it has.
func TestTitlesAreFoundByAnyPart(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	for _, title := range []string{"100 % of the dome", `A back\slash`, "under_score", "underXscore", "Plain"} {
		w.Draft(t, title)
	}
	for part, want := range map[string][]string{
		"DOME": {"100 % of the dome"}, "0 %": {"100 % of the dome"}, "%": {"100 % of the dome"}, `\s`: {`A back\slash`}, "r_s": {"under_score"}, "nowhere": nil,
	} {
		found, err := w.FindPosts(t.Context(), w.Site.ID, part, 10)
		require.NoError(t, err)
		var titles []string
		for _, e := range found {
			titles = append(titles, e.Title)
		}
		assert.Equal(t, want, titles, part)
	}
}

// Turns of long ago are cleared away, but for the latest of each rule.
func TestTurnsOfLongAgoAreClearedAway(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	rule, err := w.InsertRule(t.Context(), store.Rule{SiteID: w.Site.ID, Kind: store.Expire, Name: "Old",
		CreatedAt: pgtest.Noon, Settings: store.RuleSettings{Action: "archive"}})
	require.NoError(t, err)
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		for day := range 500 {
			took := 0
			if day < 12 { // long ago
				took = day + 1
			}
			at := pgtest.Noon.AddDate(0, 0, day-600)
			if err := tx.InsertRun(t.Context(), store.RuleRun{SiteID: w.Site.ID, Rule: rule, At: at, Due: at,
				Took: took}); err != nil {
				return err
			}
		}
		return nil
	}))
	require.NoError(t, w.Tidy(t.Context(), pgtest.Noon))
	runs, err := w.Runs(t.Context(), w.Site.ID, rule, 1000)
	require.NoError(t, err)
	recent := 0
	for _, r := range runs {
		if r.At.After(pgtest.Noon.AddDate(-1, 0, 0).Add(-time.Second)) {
			recent++
		}
	}
	assert.Greater(t, recent, 200)
	assert.Len(t, runs, recent+12, "and those that took posts, by which it is judged what is usual")
	takes, err := w.Takes(t.Context(), w.Site.ID, 10)
	require.NoError(t, err)
	assert.Equal(t, []int{3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, takes[rule])
}

// What is kept as JSON cannot have another shape than it is read as.
func TestJSONHasTheShapeThatItIsReadAs(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	_, err := w.InsertRule(t.Context(), store.Rule{SiteID: w.Site.ID, Kind: store.Expire, Name: "Old",
		CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	for _, statement := range []string{
		`update rules set condition = '[]'`, `update rules set cadence = '3'`, `update rules set settings = 'null'`,
		`update sites set ready_checks = '{}'`, `update sites set audience_zones = '"x"'`, `update users set preferences = '[]'`,
	} {
		_, err := w.DB().ExecContext(t.Context(), statement)
		assert.Error(t, err, statement)
	}
}
