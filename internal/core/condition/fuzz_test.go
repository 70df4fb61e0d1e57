package condition_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/limited"
)

// Whatever is sent as a condition is refused with reasons, or can be said, asked of a post,
// explained, and read again as the same.
func FuzzRead(f *testing.F) {
	for _, text := range []string{
		`{}`, `null`, `[]`, `{"group":"all","parts":[{"test":"age","match":"over","n":1000,"unit":"days"},{"test":"title","match":"contains","values":["рассвет","ß"]}]}`,
		`{"group":"none","parts":[{"test":"tags","match":"any of","values":["a","A","a"]},{"test":"field","field":"x","match":"is","values":[""]}]}`,
		`{"test":"published","match":"before","date":"9999-12-31"}`, `{"test":"clicks","match":"over","n":9223372036854775807,"days":-1}`,
		strings.Repeat(`{"group":"all","parts":[`, 300), `{"group":"all","parts":[` + strings.Repeat(`{},`, 300) +
			`{}]}`, `{"test":"age"}{"test":"age"}`,
	} {
		f.Add([]byte(text))
	}
	at := time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)
	facts := condition.Facts{Title: "Рассвет над холмом", Text: "日本語の文章。", Tags: []string{"a"},
		Published: at.AddDate(-3, 0, 0), Changed: at, Fields: map[string]string{"x": "2026-02-30"},
		Clicks: []condition.DayClicks{{Date: civil.MustDate("2026-11-20"), N: 3}}}
	f.Fuzz(func(t *testing.T, raw []byte) {
		limited.Work(t, 100, func() {
			n, problems := read(raw)
			if len(problems) > 0 {
				for _, p := range problems {
					if p.Message == "" {
						t.Fatal("a problem without a word")
					}
				}
				return
			}
			c, err := condition.Compile(n, civil.Zone{})
			if err != nil {
				t.Fatalf("what was found right does not compile: %v", err)
			}
			if condition.Sentence(n) == "" {
				t.Fatal("it cannot be said")
			}
			now := c.At(at)
			held, _ := now.Judge(&facts)
			if verdict := now.Explain(&facts); held != verdict.Caught || held != now.Catches(&facts) {
				t.Fatalf("it holds: %v, explained as %v", held, verdict)
			}
			c.Hints(at)
			again, err := json.Marshal(n)
			if err != nil {
				t.Fatal(err)
			}
			if m, problems := read(again); len(problems) > 0 || condition.Sentence(m) != condition.Sentence(n) {
				t.Fatalf("%s reads otherwise the second time: %v", again, problems)
			}
		})
	})
}
