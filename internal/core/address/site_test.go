package address_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"dapper.example/internal/core/address"
)

func TestNamesOfBlogsInAddresses(t *testing.T) {
	for name, says := range map[string]string{
		"garden-notes": "", "a": "", "7": "", "2026-in-review": "", strings.Repeat("a", 40): "",
		"":                      "Enter the name",
		strings.Repeat("a", 41): "longer than 40",
		"Garden":                "such as garden.",
		"garden notes":          "such as garden-notes.",
		"garden_notes":          "such as garden-notes.",
		"-garden":               "such as garden.",
		"gärten":                "such as garten.",
		"garden/notes":          "small letters",
		"🌱":                     "small letters",
		"api":                   "the program’s own",
		"blog":                  "the program’s own",
		"sign-in":               "the program’s own",
		"begin":                 "the program’s own",
	} {
		if got := address.SiteProblem(name); says == "" {
			assert.Empty(t, got, name)
		} else {
			assert.Contains(t, got, says, name)
		}
	}
}

func TestANameIsFoundForATitle(t *testing.T) {
	for title, want := range map[string]string{
		"Garden Notes": "garden-notes", "  ": "", "🌱🌱": "", "Sign In": "sign-in-blog", "Blog": "blog-blog", "Über Gärten": "uber-garten",
		strings.Repeat("garden ", 10): "garden-garden-garden-garden-garden",
	} {
		assert.Equal(t, want, address.SiteName(title), title)
	}
	rapid.Check(t, func(t *rapid.T) {
		if name := address.SiteName(rapid.String().Draw(t, "title")); name != "" {
			assert.Empty(t, address.SiteProblem(name), name)
		}
	})
}
