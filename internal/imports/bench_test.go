package imports_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/imports"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// someWords are so many words, in paragraphs.
func someWords(n int, chance *rand.Rand) string {
	words := strings.Fields("the a dome moon telescope ridge slowly bright north winter chart kettle and of to under over glass light frost evening stars rise behind hill gate cold clear")
	var out strings.Builder
	for i := range n {
		out.WriteString(words[chance.IntN(len(words))])
		if out.WriteByte(' '); i%60 == 59 {
			out.WriteString("\n\n")
		}
	}
	return out.String()
}

// whole brings a file in, from its arrival to the last post, and says how long reading and landing took.
func whole(b *testing.B, path string, data []byte, setup imports.Setup, posts int) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	d := act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}
	runner := &imports.Runner{Store: w.Store, Clock: clockwork.NewRealClock(), Log: pgtest.Quiet()}
	for n := 0; b.Loop(); n++ {
		ctx, now := b.Context(), time.Now()
		i, err := imports.Begin(ctx, d, fmt.Sprint("source ", n), now)
		require.NoError(b, err)
		for from := 0; from < len(data); from += imports.MaxPart {
			end := min(from+imports.MaxPart, len(data))
			require.NoError(b, imports.AddFile(ctx, d, i.ID, imports.Part{Path: path, From: int64(from), Last: end == len(data), Data: data[from:end]}))
		}
		arrived := time.Now()
		_, err = imports.Read(ctx, d, i.ID, i.Version, setup, now)
		require.NoError(b, err)
		require.NoError(b, runner.Step(ctx))
		read := time.Now()
		i, err = w.Import(ctx, w.Site.ID, i.ID)
		require.NoError(b, err)
		p, err := imports.Propose(ctx, w.Queries, w.Site, i, now)
		require.NoError(b, err)
		require.Equal(b, posts, p.Counts[store.LineReady], i.Problem)
		_, err = imports.Commit(ctx, d, i.ID, p.Token(), now)
		require.NoError(b, err)
		require.NoError(b, runner.Step(ctx))
		b.ReportMetric(arrived.Sub(now).Seconds(), "s/upload")
		b.ReportMetric(read.Sub(arrived).Seconds(), "s/read")
		b.ReportMetric(time.Since(read).Seconds(), "s/land")
	}
}

// BenchmarkArchive brings 1,000 articles of 800 words in from a .zip.
func BenchmarkArchive(b *testing.B) {
	chance := rand.New(rand.NewPCG(1, 2))
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for n := range 1000 {
		w, err := z.Create(fmt.Sprintf("articles/%04d.md", n))
		require.NoError(b, err)
		fmt.Fprintf(w, "---\ntitle: Article number %d of a thousand\ntags: [winter, moon]\n---\n\n%s", n, someWords(800, chance))
	}
	require.NoError(b, z.Close())
	whole(b, "articles.zip", out.Bytes(), imports.Setup{Landing: imports.Goal{Doubles: true}}, 1000)
}

// BenchmarkBook brings rows of an .xlsx sheet in, each a title and sixty words.
func BenchmarkBook(b *testing.B) {
	for _, rows := range []int{10_000, 50_000} {
		b.Run(fmt.Sprint(rows), func(b *testing.B) {
			chance := rand.New(rand.NewPCG(1, 2))
			var out bytes.Buffer
			require.NoError(b, sheet.WriteBook(&out, sheet.Table{Name: "Rows", Headings: []string{"Nr", "Name", "Text"}, Rows: func(yield func([]any, error) bool) {
				for n := range rows {
					if !yield([]any{n + 1, fmt.Sprintf("Thing number %d", n), someWords(60, chance)}, nil) {
						return
					}
				}
			}}))
			setup := imports.Setup{Sheet: imports.Sheet{Heading: 1, Key: "Nr"}, Landing: imports.Goal{Doubles: true},
				Recipe: intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "{column:Name}"}, intake.Body: {Text: "About {column:Name}.\n\n{column:Text}"}}}}
			whole(b, "rows.xlsx", out.Bytes(), setup, rows)
		})
	}
}
