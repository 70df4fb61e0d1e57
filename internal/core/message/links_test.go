package message_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/message"
)

var links = message.Links{Schemes: schemes, Cost: 24}

func TestWhereALinkBeginsAndEnds(t *testing.T) {
	for text, want := range map[string][]string{
		"see https://a.example/p?x=1#y now":           {"https://a.example/p?x=1#y"},
		"(https://a.example/p)":                       {"https://a.example/p"},
		"https://a.example/p_(x) and (http://b.c).":   {"https://a.example/p_(x)", "http://b.c"},
		"“HTTP://A.B”":                                {"HTTP://A.B"},
		"詳しくはhttps://例え.jp/星。次へ":                      {"https://例え.jp/星"},
		"http://a.bc http://a.bc":                     {"http://a.bc", "http://a.bc"},
		"http://a.bc,http://d.ef":                     {"http://a.bc,http://d.ef"},
		"xhttp://a.bc ftp://a.bc http:/a http:// end": nil,
		"http://…":           nil,
		"http://a.bc…":       {"http://a.bc"},
		"<http://a.bc>":      {"http://a.bc"},
		"http://http://a.bc": {"http://http://a.bc"},
		"http://a.bc]":       {"http://a.bc"},
	} {
		var found []string
		for _, s := range links.Find(text) {
			found = append(found, text[s.From:s.To])
		}
		assert.Equal(t, want, found, text)
	}
}

func TestLinksOfAnyValueCountTheSame(t *testing.T) {
	assert.Equal(t, 24+1+24, links.Length("http://a.bc http://a.bc"))
	assert.Equal(t, 24+2, links.Length("(https://blog.example/winter-hexagon)"))
	assert.Equal(t, 11, message.Links{Schemes: schemes}.Length("http://a.bc"))
	p := post
	p.Excerpt = strings.Repeat("Stars over the hill. ", 14) + "http://a.bc http://a.bc"
	limits := message.Limits{Graphemes: 320, Links: links}
	m, err := message.Compose(wording(t, "{excerpt} ({link})"), p, message.Hashtags{}, limits)
	require.NoError(t, err)
	assert.Equal(t, links.Length(m.Text), m.Graphemes)
	assert.Zero(t, limits.Over(m.Text))
}

// A link in running text is taken whole or not at all, and what is shown as fitting fits.
func TestNoLinkIsCut(t *testing.T) {
	word := rapid.SampledFrom([]string{"a", "moon,", "http://a.bc", "(https://blog.example/p)", "https://a.example/" +
		strings.Repeat("x", 60), "星空。", "é", "xhttp://y.z"})
	rapid.Check(t, func(t *rapid.T) {
		p := post
		p.Excerpt = strings.Join(rapid.SliceOfN(word, 0, 40).Draw(t, "words"),
			rapid.SampledFrom([]string{" ", ""}).Draw(t, "between"))
		limits := message.Limits{Graphemes: rapid.IntRange(60, 320).Draw(t, "limit"), Links: links, Hashtags: 2}
		m, err := message.Compose(wording(t, "{excerpt} {title} {link} {hashtags}"), p, tags, limits)
		if err != nil {
			return
		}
		require.Zero(t, limits.Over(m.Text))
		require.Equal(t, links.Length(m.Text), m.Graphemes)
		whole := make(map[string]bool)
		for _, s := range links.Find(p.Excerpt) {
			whole[p.Excerpt[s.From:s.To]] = true
		}
		whole[p.Link] = true
		for _, s := range links.Find(m.Text) {
			require.True(t, whole[m.Text[s.From:s.To]], "%q in %q", m.Text[s.From:s.To], m.Text)
		}
	})
}
