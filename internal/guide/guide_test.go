package guide_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/guide"
)

func TestEveryPageHasATitleAndSections(t *testing.T) {
	for _, p := range guide.Pages() {
		assert.NotEmpty(t, p.Title, p.Name)
		assert.Greater(t, len(p.Sections), 2, p.Name)
		assert.NotContains(t, p.HTML, "<h1", p.Name)
		for _, s := range p.Sections[1:] {
			assert.NotEmpty(t, s.Title, p.Name)
			assert.Contains(t, p.HTML, `id="`+s.ID+`"`, p.Name)
		}
	}
}

func TestLinksLeadToPagesAndSectionsThatAreThere(t *testing.T) {
	inner := regexp.MustCompile(`href="#([a-z-]*)(?:/([a-z0-9-]+))?"`)
	for _, p := range guide.Pages() {
		assert.NotRegexp(t, `href="[^"]*\.md["#]`, p.HTML, p.Name)
		for _, to := range inner.FindAllStringSubmatch(p.HTML, -1) {
			page, found := guide.Find(to[1])
			require.True(t, found, "%s leads to %s", p.Name, to[0])
			if to[2] != "" {
				assert.Contains(t, page.HTML, `id="`+to[2]+`"`, "%s leads to %s", p.Name, to[0])
			}
		}
	}
	_, found := guide.Find("operations")
	assert.False(t, found, "what is for those who run it is no page of the guide")
}

func TestWordsAreFoundInSections(t *testing.T) {
	found := guide.Search("CATEGORIES", 5)
	require.NotEmpty(t, found)
	assert.Equal(t, "Categories", found[0].Title, "in the title comes first")
	assert.Equal(t, "your-own-blog", found[0].Page)
	assert.LessOrEqual(t, len(found), 5)
	one := guide.Search("whoever finishes first", 5)
	require.Len(t, one, 1)
	assert.Equal(t, "setting-the-program-up", one[0].ID)
	assert.Empty(t, guide.Search("  ", 5))
	assert.Empty(t, guide.Search("xylophone", 5))
	assert.Empty(t, guide.Search(strings.Repeat("zzz ", 10_000), 5))
}
