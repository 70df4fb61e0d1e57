package blog_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/blog"
)

// The expected texts are those of the Unicode CLDR's date formats, looked up by hand.
func TestDatesAreWrittenAsReadersWriteThem(t *testing.T) {
	friday := time.Date(2026, 12, 4, 10, 0, 0, 0, time.UTC)
	for language, want := range map[string][]string{
		"en-GB": {"4 December 2026", "Friday, 4 December 2026", "4 Dec 2026", "2026-12-04"},
		"en-US": {"December 4, 2026", "Friday, December 4, 2026", "Dec 4, 2026", "2026-12-04"},
		"de":    {"4. Dezember 2026", "Freitag, 4. Dezember 2026", "04.12.2026", "2026-12-04"},
		"de-AT": {"4. Dezember 2026", "Freitag, 4. Dezember 2026", "04.12.2026", "2026-12-04"},
		"fr":    {"4 décembre 2026", "vendredi 4 décembre 2026", "4 déc. 2026", "2026-12-04"},
		"ja":    {"2026年12月4日", "2026年12月4日金曜日", "2026/12/04", "2026-12-04"},
		"fi":    {"4. joulukuuta 2026", "perjantaina 4. joulukuuta 2026", "4.12.2026", "2026-12-04"},
		"tlh":   {"4 December 2026", "Friday, 4 December 2026", "4 Dec 2026", "2026-12-04"},
		"":      {"4 December 2026", "Friday, 4 December 2026", "4 Dec 2026", "2026-12-04"},
	} {
		assert.Equal(t, want, blog.DateExamples(language, friday), language)
	}
}
