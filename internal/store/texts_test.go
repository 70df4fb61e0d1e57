package store_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// writes saves a text of a post as somebody, and returns its versions, the latest first.
func writes(t *testing.T, w pgtest.World, id int64, actor *int64, at time.Time, change func(*store.Post)) []store.Text {
	t.Helper()
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		p, err := tx.LockPost(t.Context(), w.Site.ID, id)
		if err != nil {
			return err
		}
		change(&p)
		return tx.SaveText(t.Context(), p, actor, at)
	}))
	texts, err := w.Texts(t.Context(), w.Site.ID, id, 50)
	require.NoError(t, err)
	for i, one := range texts { // the list has no bodies
		texts[i], err = w.Text(t.Context(), w.Site.ID, id, one.ID)
		require.NoError(t, err)
	}
	require.True(t, texts[0].Live)
	for _, older := range texts[1:] {
		require.False(t, older.Live)
	}
	return texts
}

func body(text string) func(*store.Post) { return func(p *store.Post) { p.Body = text } }

// What one person writes in one sitting is one version; what another writes, or the same
// one later, or after a publication, is another, and says which it was made from.
func TestVersionsOfATextAreSittings(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	other, err := w.InsertUser(t.Context(), store.User{Email: "pell@example.org", Name: "Pell Hanrahan",
		PasswordHash: "-", CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	p := w.Draft(t, "Cables")
	at := func(minutes int) time.Time { return pgtest.Noon.Add(time.Duration(minutes) * time.Minute) }

	texts := writes(t, w, p.ID, &w.Editor.ID, at(3), body("One"))
	require.Len(t, texts, 1, "in the sitting in which it was begun")
	assert.Equal(t, "One", texts[0].Body)
	assert.Equal(t, "Ines Abara", texts[0].Who)
	assert.Equal(t, 1, texts[0].Words)
	first := texts[0].ID

	texts = writes(t, w, p.ID, &w.Editor.ID, at(20), body("One and two"))
	require.Len(t, texts, 2, "another sitting")
	assert.Equal(t, first, *texts[0].MadeFrom)
	texts = writes(t, w, p.ID, &w.Editor.ID, at(25), body("One and two, and three"))
	require.Len(t, texts, 2)
	assert.Equal(t, first, *texts[0].MadeFrom, "made from the same")
	second := texts[0].ID

	texts = writes(t, w, p.ID, &other.ID, at(26), func(p *store.Post) { p.Excerpt = "Short." })
	require.Len(t, texts, 3, "by somebody else")
	assert.Equal(t, second, *texts[0].MadeFrom)
	assert.Equal(t, "One and two, and three", texts[0].Body)

	texts = writes(t, w, p.ID, &other.ID, at(27), func(p *store.Post) { p.Slug = "cables" })
	require.Len(t, texts, 3, "its address is no part of its text")
	texts = writes(t, w, p.ID, &other.ID, at(28), func(p *store.Post) {
		p.Tags, p.Fields = store.Strings{"winter"},
			store.Fields{"event": "2026-12-01"}
	})
	require.Len(t, texts, 3)
	assert.Equal(t, store.Strings{"winter"}, texts[0].Tags)
	assert.Equal(t, store.Fields{"event": "2026-12-01"}, texts[0].Fields)

	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		p, err := tx.LockPost(t.Context(), w.Site.ID, p.ID)
		if err != nil {
			return err
		}
		p.Stand(p.State().Publish(at(29)))
		return tx.SaveState(t.Context(), p, at(29))
	}))
	texts = writes(t, w, p.ID, &other.ID, at(30), body("After it came out"))
	require.Len(t, texts, 4, "what readers saw is kept")
	kept, err := w.Text(t.Context(), w.Site.ID, p.ID, *texts[0].MadeFrom)
	require.NoError(t, err)
	assert.Equal(t, "One and two, and three", kept.Body)
	_, err = w.Text(t.Context(), w.Site.ID+1, p.ID, kept.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A version does not change, and a post says what its live one says.
func TestTextsStayAsTheyWereWritten(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	p, other := w.Draft(t, "Cables"), w.Draft(t, "Tape")
	for what, statement := range map[string]string{
		"another body of a version":   `update texts set body = 'x' where post_id = $1`,
		"another title of a post":     `update posts set title = 'x' where id = $1`,
		"other fields of a post":      `update posts set fields = '{"a": "b"}' where id = $1`,
		"another post's text":         `update posts set text_id = (select text_id from posts where title = 'Tape') where id = $1`,
		"no text":                     `update posts set text_id = null where id = $1`,
		"a live text deleted":         `delete from texts where post_id = $1`,
		"made from another's version": `insert into texts (site_id, post_id, made_from, title, body, at) select site_id, id, (select text_id from posts where title = 'Tape'), '', '', now() from posts where id = $1`,
	} {
		_, err := w.DB().ExecContext(t.Context(), statement, p.ID)
		assert.Error(t, err, what)
	}
	_, err := w.DB().ExecContext(t.Context(), `delete from posts where id = $1`, other.ID)
	require.NoError(t, err, "with its texts")
}

// The index of the search is written when a text changes, and not when a post gets another time.
func TestTheSearchIsWrittenWithTheText(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	p := w.Scheduled(t, "Cables", pgtest.Noon)
	row := func() (xmin string) {
		require.NoError(t, w.DB().GetContext(t.Context(), &xmin, `select xmin from post_search where post_id = $1`,
			p.ID))
		return xmin
	}
	before := row()
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		p.Stand(p.State().Pin(pgtest.Noon.Add(time.Hour)))
		return tx.SaveState(t.Context(), p, pgtest.Noon)
	}))
	assert.Equal(t, before, row())
	w.Rewrite(t, p.ID, "Cables", "White tape in the dark.")
	assert.NotEqual(t, before, row())
	found, err := w.ListPosts(t.Context(), w.Site.ID, store.PostFilter{Text: "tape"}, store.ByRelevance, true, nil, 10)
	require.NoError(t, err)
	require.Len(t, found, 1)
}

// Texts of the time when they stood in the posts are carried over, and back.
func TestTextsAreCarriedOver(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	p := w.Draft(t, "Cables")
	writes(t, w, p.ID, &w.Editor.ID, pgtest.Noon.Add(time.Hour), func(p *store.Post) {
		p.Body, p.Excerpt, p.Fields = "White tape in the dark.", "Tape.", store.Fields{"event": "2026-12-01"}
	})
	before := w.Reload(t, p.ID)
	provider, err := goose.NewProvider(goose.DialectPostgres, s.DB().DB, os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(t.Context(), 18)
	require.NoError(t, err)
	var old struct {
		Title, Body, Excerpt string
		Words                int
		Found                bool
	}
	require.NoError(t, s.DB().GetContext(t.Context(), &old, `
		select title, body, excerpt, words, search @@ to_tsquery('english', 'tape') as found from posts where id = $1`, p.ID))
	assert.Equal(t, before.Title, old.Title)
	assert.Equal(t, before.Body, old.Body)
	assert.Equal(t, before.Excerpt, old.Excerpt)
	assert.Equal(t, 5, old.Words)
	assert.True(t, old.Found)
	_, err = s.Migrate(t.Context())
	require.NoError(t, err)
	after := w.Reload(t, p.ID)
	after.TextID = before.TextID
	assert.Equal(t, before, after)
	texts, err := w.Texts(t.Context(), w.Site.ID, p.ID, 10)
	require.NoError(t, err)
	require.Len(t, texts, 1, "the way down keeps the live text only")
	assert.Equal(t, before.ChangedAt.UTC(), texts[0].At.UTC())
	assert.Equal(t, w.Editor.ID, *texts[0].Actor)
}

// Whoever waits for a post that is being saved reads it as it was saved, its new text included.
func TestAPostThatIsWaitedForIsReadAsItWasSaved(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	p := w.Draft(t, "A post")
	ctx := t.Context()
	saved, read := make(chan error, 1), make(chan store.Post, 1)
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		held, err := tx.LockPost(ctx, w.Site.ID, p.ID)
		if err != nil {
			return err
		}
		go func() {
			saved <- w.InTx(ctx, func(other *store.Tx) error {
				got, err := other.LockPost(ctx, w.Site.ID, p.ID)
				read <- got
				return err
			})
		}()
		require.Eventually(t, func() bool {
			var waiting int
			err := w.DB().Get(&waiting, `select count(*) from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`)
			return err == nil && waiting == 1
		}, time.Minute, time.Millisecond)
		held.Title, held.Body = "Another title", "Another text."
		return tx.SaveText(ctx, held, nil, pgtest.Noon)
	}))
	got := <-read
	require.NoError(t, <-saved)
	assert.Equal(t, []string{"Another title", "Another text."}, []string{got.Title, got.Body})
}

// A hundred edits of a post of 2,000 words take less than 200 kB, in the table and its index; each is a version of its own.
func TestVersionsTakeLittleRoom(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	ctx := t.Context()
	p := w.Draft(t, "A long post")
	chance, said := rand.New(rand.NewPCG(1, 2)), []string{"Some text."}
	words := make([]string, 2000)
	for i := range words {
		words[i] = fmt.Sprintf("w%x", chance.IntN(6000))
		if i%80 == 79 {
			words[i] += ".\n\n"
		}
	}
	size := func() (n int) {
		require.NoError(t, w.DB().GetContext(ctx, &n, `select coalesce(sum(pg_column_size(texts.*)), 0)::int from texts where post_id = $1`, p.ID))
		return n
	}
	for i := range 100 {
		words[chance.IntN(len(words))] = fmt.Sprint("edited", i)
		p.Body = strings.Join(words, " ")
		said = append(said, p.Body)
		require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
			return tx.SaveVersion(ctx, p, &w.Editor.ID, pgtest.Noon.Add(time.Duration(i)*time.Hour))
		}))
	}
	texts, err := w.Texts(ctx, w.Site.ID, p.ID, 200)
	require.NoError(t, err)
	assert.Len(t, texts, 101)
	for i, one := range texts {
		text, err := w.Text(ctx, w.Site.ID, p.ID, one.ID)
		require.NoError(t, err)
		require.Equal(t, said[100-i], text.Body)
		require.Equal(t, len(strings.Fields(text.Body)), text.Words)
	}
	assert.Less(t, size(), 200<<10)
	t.Log("bytes:", size())
}
