package intake_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/limited"
)

// Texts that were made to be costly are taken or left out within a moment.
func TestCostlyLinesAreTakenOrLeftOut(t *testing.T) {
	recipe := intake.Recipe{Remove: []string{"div div p", ".a > .b ~ p:not(.c)", "p:nth-child(2n+1)"}, StripLinks: true, Must: []string{"a"},
		Links: []intake.HouseLink{{Word: "a", Address: "/a", Most: 20}, {Word: "aa aa", Address: "/b", Most: 20}}}
	for len(recipe.Links) < 50 {
		recipe.Links = append(recipe.Links, intake.HouseLink{Word: strings.Repeat("a", len(recipe.Links)%50+1), Address: "/x", Most: 20})
	}
	p := ready(t, recipe, dome(t, map[string][]string{"x": {strings.Repeat("{title}", 50)}}))
	for name, one := range map[string]string{
		"deep":        strings.Repeat("<div>", 200_000) + "a",
		"deep inline": strings.Repeat("<b><p>", 100_000) + "a",
		"wide":        strings.Repeat("<p>a</p>", 120_000),
		"open":        strings.Repeat("<a href=x>", 100_000),
		"attributes":  "<p " + strings.Repeat("a=b ", 250_000) + ">a",
		"tables":      strings.Repeat("<table><tr><td>a", 50_000),
		"wide table":  "<table>" + strings.Repeat("<tr>"+strings.Repeat("<td>a</td>", 200)+"</tr>", 100) + "</table>",
		"spans":       "<table><tr><td colspan=100000 rowspan=100000>a</table>",
		"lists":       strings.Repeat("<ul><li>a", 50_000),
		"quotes":      strings.Repeat("<blockquote>", 190) + "a",
		"pre":         "<pre>" + strings.Repeat("`", 1_000_000) + "a",
		"a":           "<p>" + strings.Repeat("a ", 500_000),
		"one word":    "<p>" + strings.Repeat("a", 1_000_000),
		"comments":    strings.Repeat("<!-- a -->", 100_000),
		"entities":    "<p>" + strings.Repeat("&amp;", 200_000) + " a",
		"marks":       "<p>a " + strings.Repeat("*_[", 300_000),
		"pictures":    strings.Repeat("<img src=moon.jpg alt=a>", 40_000),
		"odd":         "<p>a " + strings.Repeat("\x00\xff\u202e", 200_000),
	} {
		for _, format := range []intake.Format{intake.HTML, intake.Markdown, intake.Plain} {
			marked := name == "pre" || name == "marks"
			if format == intake.Plain && !marked || testing.Short() && marked != (format != intake.HTML) {
				continue // in a short run each text is taken once for what it is
			}
			l := intake.Line{Key: "k", Article: intake.Article{Title: "a", Body: one, Format: format}}
			t.Log(name, format)
			began := time.Now()
			spent := limited.Work(t, 1500, func() {
				_, err := p.Take(t.Context(), l)
				require.NoError(t, err)
			})
			t.Logf("%s %s: %s, %d MB", name, format, time.Since(began).Round(time.Millisecond), spent)
		}
	}
}
