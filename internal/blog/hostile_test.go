package blog_test

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/blog"
	"dapper.example/internal/hostile"
	"dapper.example/internal/limited"
)

// A megabyte of any of them is laid out or refused with its line, and takes no more memory
// than its share.
func TestCostlyTextIsLaidOutOrRefused(t *testing.T) {
	r := blog.NewRenderer()
	for name, pattern := range hostile.Texts {
		sizes := []int{10_000, 100_000, 1_000_000}
		if testing.Short() { // a megabyte of each takes long under the race detector
			sizes = sizes[:2]
		}
		for _, size := range sizes {
			var before, after runtime.MemStats
			runtime.GC()
			runtime.ReadMemStats(&before)
			laid, err := r.Lay(t.Context(), pattern(size))
			runtime.ReadMemStats(&after)
			var involved *blog.TooInvolved
			if err != nil {
				require.ErrorAs(t, err, &involved, name)
				assert.Positive(t, involved.Line, name)
				assert.NotEmpty(t, involved.Why, name)
			} else {
				assert.Less(t, len(laid.HTML), 9<<20, name)
			}
			assert.Less(t, int(after.TotalAlloc-before.TotalAlloc)>>20, 400, "%s of %d: MB allocated in all", name,
				size)
		}
	}
}

func BenchmarkCostlyText(b *testing.B) {
	r := blog.NewRenderer()
	for name, pattern := range hostile.Texts {
		text := pattern(1_000_000)
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				_, _ = r.Lay(b.Context(), text)
			}
		})
	}
}

// What people write at length is never refused: a megabyte of prose with links, quotes,
// emphasis, lists and a table of a thousand rows.
func TestAMegabyteOfProseIsLaidOut(t *testing.T) {
	section := "## Night %d\n\nThe sky was *clear*, the “seeing” **good** (see [the log](https://log.example/night_%d) and `dome --open`), and it's " +
		strings.Repeat("a long walk up the hill in the dark, with a lamp that nobody minded, ", 12) +
		"as ever.\n\n- one\n- two\n  - three\n\n> quoted\n\n"
	var text strings.Builder
	for i := 0; text.Len() < 900_000; i++ {
		fmt.Fprintf(&text, section, i, i)
	}
	text.WriteString("| a | b | c |\n|---|---|---|\n" + strings.Repeat("| 1 | 2 | 3 |\n", 1000))
	laid, err := blog.NewRenderer().Lay(t.Context(), text.String())
	require.NoError(t, err)
	assert.Contains(t, string(laid.HTML), `id="night-800"`)
}

func TestWhereItIsTooMuchIsSaid(t *testing.T) {
	_, err := blog.NewRenderer().Lay(t.Context(), "One\n\nTwo\n\n"+strings.Repeat("> ", 100)+"deep\n")
	var involved *blog.TooInvolved
	require.ErrorAs(t, err, &involved)
	assert.Equal(t, 5, involved.Line)
	assert.Equal(t, "The text can’t be laid out: quotes and lists lie more than 60 deep in one another, at line 5. Shorten or split it there.", err.Error())
	laid, err := blog.NewRenderer().LayAnyway(t.Context(), strings.Repeat("> ", 100)+"<b>deep</b>")
	require.NoError(t, err)
	assert.Contains(t, string(laid.HTML), "too involved to be laid out")
	assert.Contains(t, string(laid.HTML), "&lt;b&gt;deep")
}

func TestLayingOutEndsWithItsRequest(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := blog.NewRenderer().Lay(ctx, strings.Repeat("a *b*\n\n", 1000))
	assert.ErrorIs(t, err, context.Canceled)
}

func FuzzLay(f *testing.F) {
	for _, pattern := range hostile.Texts {
		f.Add(pattern(300))
	}
	f.Add("| a | b |\n|---|:-:|\n| 1 |\n\n[x]: y 'z'\n\n![x][x] ~~a~~ \"q\" [^1]\n\n[^1]: note")
	r := blog.NewRenderer()
	f.Fuzz(func(t *testing.T, text string) {
		var laid blog.Laid
		var err error
		limited.Work(t, 200, func() { laid, err = r.Lay(t.Context(), text) })
		var involved *blog.TooInvolved
		if err != nil && !errors.As(err, &involved) {
			t.Fatal(err)
		}
		if html := strings.ToLower(string(laid.HTML)); strings.Contains(html, "<script") ||
			strings.Contains(html, "javascript:alert") && strings.Contains(html, "href=\"javascript") {
			t.Fatalf("not safe: %s", html)
		}
	})
}
