package message_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/rivo/uniseg"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/message"
)

var post = message.Post{
	Title: "Finding the Winter Hexagon without a chart", Excerpt: "Six bright stars make a shape so large that most people look through it. Start with Rigel, low after supper.",
	Link: "https://blog.example/winter-hexagon", Category: "Sky Guide", Tags: []string{"winter", "naked eye",
		"Sky guide"}, Author: "Ines Abara",
	Fields: map[string]string{"season": "winter", "tags": "cold, hot tea"},
}

var schemes = []string{"http", "https"}

var tags = message.Hashtags{Sources: []message.Source{message.FromCategory, message.FromTags}, Style: message.Joined}

func wording(t require.TestingT, text string) message.Wording {
	w, err := message.ReadWording(text)
	require.NoError(t, err)
	return w
}

func TestPlaceholders(t *testing.T) {
	m, err := message.Compose(wording(t,
		"{title} by {author} in {category}: {line} {{{field:season}}} {field:none} {link}  {hashtags}"), post, tags, message.Limits{Hashtags: 10})
	require.NoError(t, err)
	assert.Equal(t, "Finding the Winter Hexagon without a chart by Ines Abara in Sky Guide: Six bright stars make a shape so large that most people look through it. {winter} https://blog.example/winter-hexagon #SkyGuide #Winter #NakedEye", m.Text)
	assert.True(t, m.Fit.IsWhole())
	assert.Equal(t, len(m.Text), m.Graphemes)
	assert.Empty(t, m.Fit.String())
}

func TestWordingsThatAreRefused(t *testing.T) {
	for text, says := range map[string]string{
		" ":                       "empty",
		"{titel} {link}":          "no placeholder {titel}",
		"{field:} x":              "{field:NAME}",
		"{title":                  "not closed",
		"title}":                  "on its own",
		strings.Repeat("a", 5001): "5000",
	} {
		_, err := message.ReadWording(text)
		assert.ErrorContains(t, err, says, text)
	}
	w := wording(t, "{{}} {title}")
	assert.True(t, w.Uses(message.Title))
	assert.False(t, w.Uses(message.Link))
	assert.Equal(t, "{{}} {title}", w.String())
}

func TestWhatIsGivenUpInOrder(t *testing.T) {
	w := wording(t, "Look: {title} – {excerpt} {link} {hashtags}")
	for _, c := range []struct {
		limit int
		text  string
		fit   string
	}{
		{400, "", ""},
		{206, "Look: Finding the Winter Hexagon without a chart – Six bright stars make a shape so large that most people look through it. Start with Rigel, low after supper. https://blog.example/winter-hexagon #SkyGuide", "left out #NakedEye #Winter"},
		{150, "Look: Finding the Winter Hexagon without a chart – Six bright stars make a shape so large that most people look… https://blog.example/winter-hexagon", "left out #NakedEye #Winter #SkyGuide; shortened the excerpt"},
		{88, "Look: Finding the Winter Hexagon without a chart – https://blog.example/winter-hexagon",
			"left out #NakedEye #Winter #SkyGuide; shortened the excerpt"},
		{66, "Look: Finding the Winter… – https://blog.example/winter-hexagon",
			"left out #NakedEye #Winter #SkyGuide; shortened the excerpt and the title"},
	} {
		m, err := message.Compose(w, post, tags, message.Limits{Graphemes: c.limit, Hashtags: 10})
		require.NoError(t, err, c.limit)
		if c.text != "" {
			assert.Equal(t, c.text, m.Text)
		}
		assert.Equal(t, c.fit, m.Fit.String())
		assert.LessOrEqual(t, m.Graphemes, c.limit)
	}
	_, err := message.Compose(w, post, tags, message.Limits{Graphemes: 45, Hashtags: 10})
	var long *message.TooLong
	require.ErrorAs(t, err, &long)
	assert.Equal(t, 7, long.Over, "“Look: Finding… – ” and the link are 52")
	assert.Contains(t, err.Error(), "7 over the channel’s limit of 45")
}

func TestALinkCostsWhatTheChannelSays(t *testing.T) {
	w := wording(t, "{title} {link}")
	m, err := message.Compose(w, post, message.Hashtags{}, message.Limits{Graphemes: 60,
		Links: message.Links{Schemes: schemes, Cost: 10}})
	require.NoError(t, err)
	assert.Equal(t, len(post.Title)+1+10, m.Graphemes)
	assert.Contains(t, m.Text, post.Link)
}

// A message without a link pays for none, and one with two pays for both.
func TestOnlyLinksThatAreThereCost(t *testing.T) {
	t.Parallel()
	limits := message.Limits{Graphemes: 300, Links: message.Links{Schemes: schemes, Cost: 24}}
	for text, cost := range map[string]int{
		"No link":                          7,
		"{link}":                           24,
		"See {link}":                       4 + 24,
		"https://a.example/b and {link}":   24 + 5 + 24,
		"{title}":                          message.Graphemes(post.Title),
		"a {link} b {link}":                2 + 24 + 3 + 24,
		"https://a.example/very/long/path": 24,
	} {
		m, err := message.Compose(wording(t, text), post, message.Hashtags{}, limits)
		require.NoError(t, err, text)
		assert.Equal(t, cost, m.Graphemes, text)
	}
}

func TestTheChannelsLimits(t *testing.T) {
	w := wording(t, "{title} {hashtags}")
	m, err := message.Compose(w, post, tags, message.Limits{Hashtags: 1})
	require.NoError(t, err)
	assert.Equal(t, post.Title+" #SkyGuide", m.Text)
	m, err = message.Compose(w, post, tags, message.Limits{})
	require.NoError(t, err)
	assert.Equal(t, post.Title, m.Text)
	_, err = message.Compose(w, post, tags, message.Limits{Image: message.Required})
	assert.ErrorContains(t, err, "picture")
}

func TestHashtags(t *testing.T) {
	p := message.Post{Category: "Sky Guide", Tags: []string{"sky guide", "can't wait", "№ 9", "2026",
		"Étoiles d’hiver"}, Fields: map[string]string{"more": "dark lanes,, sky-guide "}}
	all := []message.Source{message.FromField, message.FromCategory, message.FromTags, message.FromList}
	for style, want := range map[message.Style][]string{
		message.Joined:     {"#DarkLanes", "#SkyGuide", "#CantWait", "#ÉtoilesDhiver", "#Dome"},
		message.Lower:      {"#darklanes", "#skyguide", "#cantwait", "#étoilesdhiver", "#dome"},
		message.Underlined: {"#dark_lanes", "#sky_guide", "#cant_wait", "#étoiles_dhiver", "#dome"},
	} {
		assert.Equal(t, want, message.Hashtags{Sources: all, List: []string{"dome", "DOME"}, Field: "more",
			Style: style}.Of(p))
	}
}

func TestGraphemesAreWhatAReaderCounts(t *testing.T) {
	for text, n := range map[string]int{"": 0, "dome": 4, "é": 1, "e\u0301": 1, "👩‍🚀🇨🇦": 2, "a\r\nb": 3, "நி": 1,
		"x\u200d–": 2, "©\u200d©": 1} {
		assert.Equal(t, n, message.Graphemes(text), "%q", text)
	}
}

// Counting in runs comes to what the Annex's rules give for the whole.
func TestGraphemesAgreeWithTheAnnex(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOf(rapid.SampledFrom([]rune("aé ©\r\n–…\u0301\u200d\ufe0f👩🚀🇨🇦நி한\u0600\u00ad"))).Draw(t,
			"text")
		require.Equal(t, uniseg.GraphemeClusterCount(text), message.Graphemes(text))
	})
}

func TestLinkParameters(t *testing.T) {
	params := []message.Param{{Name: "utm_source", Value: "lantern"}, {Name: "utm_campaign", Value: "dark & clear"}}
	assert.Equal(t, "https://b.example/p?x=1&utm_source=lantern&utm_campaign=dark+%26+clear#end",
		message.WithParams("https://b.example/p?x=1#end", params))
	assert.Equal(t, "https://b.example/p", message.WithParams("https://b.example/p", nil))
	assert.Empty(t, message.CheckParams(params))
	assert.Contains(t, message.CheckParams([]message.Param{{Value: "x"}}), "needs a name")
	assert.Contains(t, message.CheckParams(append(params, params[0])), "twice")
}

// Whatever the post and the limit: a message fits or is refused with the number it is
// over; the link and the editor's words are always whole; nothing is given up in vain.
func TestMessagesFitOrAreRefused(t *testing.T) {
	words := rapid.StringOfN(rapid.SampledFrom([]rune("ab é👩‍🚀, .")), 0, 80, -1)
	rapid.Check(t, func(t *rapid.T) {
		p := message.Post{Title: words.Draw(t, "title"), Excerpt: words.Draw(t, "excerpt"),
			Link: "https://blog.example/p", Tags: rapid.SliceOfN(rapid.SampledFrom([]string{"one", "two three",
				"four"}), 0, 3).Draw(t, "tags")}
		limits := message.Limits{Graphemes: rapid.IntRange(1, 200).Draw(t, "limit"),
			Links: message.Links{Schemes: schemes, Cost: rapid.SampledFrom([]int{0, 10}).Draw(t, "cost")}, Hashtags: 5}
		w := wording(t, rapid.SampledFrom([]string{"OWN {title} {link}", "OWN {title}: {excerpt} {link} {hashtags}",
			"{line} OWN\n\n{excerpt}\n\n{link}"}).Draw(t, "wording"))
		h := message.Hashtags{Sources: []message.Source{message.FromTags}, Style: message.Lower}
		free, err := message.Compose(w, p, h, message.Limits{Links: limits.Links, Hashtags: 5})
		require.NoError(t, err)
		m, err := message.Compose(w, p, h, limits)
		var long *message.TooLong
		if errors.As(err, &long) {
			require.Positive(t, long.Over)
			require.Greater(t, free.Graphemes, limits.Graphemes)
			return
		}
		require.NoError(t, err)
		require.LessOrEqual(t, m.Graphemes, limits.Graphemes)
		require.Contains(t, m.Text, p.Link)
		require.Contains(t, m.Text, "OWN")
		if free.Graphemes <= limits.Graphemes {
			require.Equal(t, free, m)
		} else {
			require.False(t, m.Fit.IsWhole())
		}
	})
}

// BenchmarkCompose makes 10,000 messages, a third of which must be shortened.
func BenchmarkCompose(b *testing.B) {
	w := wording(b, "{title} – {excerpt} {link} {hashtags}")
	long := post
	long.Excerpt = strings.Repeat(post.Excerpt+" ", 4)
	b.ReportAllocs()
	for b.Loop() {
		for i := range 10_000 {
			p := post
			if i%3 == 0 {
				p = long
			}
			if _, err := message.Compose(w, p, tags, message.Limits{Graphemes: 320,
				Links: message.Links{Schemes: schemes, Cost: 24}, Hashtags: 4}); err != nil {
				b.Fatal(err)
			}
		}
	}
}

// The line is shortened before the excerpt, and the excerpt before the title.
func TestTheLineIsShortenedBeforeTheExcerpt(t *testing.T) {
	t.Parallel()
	w, err := message.ReadWording("{title} / {line} / {excerpt}")
	require.NoError(t, err)
	post := message.Post{Title: "Cables", Line: "White tape shows the way.",
		Excerpt: "Cables that can be found in the dark."}
	whole := "Cables / White tape shows the way. / Cables that can be found in the dark."
	for _, c := range []struct {
		most int
		want string
		fit  message.Fit
	}{
		{len(whole), whole, message.Fit{}},
		{len(whole) - 1, "Cables / White tape shows the… / Cables that can be found in the dark.",
			message.Fit{Line: true}},
	} {
		m, err := message.Compose(w, post, message.Hashtags{}, message.Limits{Graphemes: c.most})
		require.NoError(t, err)
		assert.Equal(t, c.want, m.Text)
		assert.Equal(t, c.fit.Line, m.Fit.Line)
		assert.Equal(t, c.fit.Excerpt, m.Fit.Excerpt)
	}
	m, err := message.Compose(w, post, message.Hashtags{}, message.Limits{Graphemes: 40})
	require.NoError(t, err)
	assert.True(t, m.Fit.Line && m.Fit.Excerpt && !m.Fit.Title, "%q", m.Text)
	assert.True(t, strings.HasPrefix(m.Text, "Cables / "))
}

func TestALineIsPutIntoAWording(t *testing.T) {
	for text, want := range map[string]string{
		"{line} {link}":                        "Braces {{so}} stay. {link}",
		"{{line}} is no placeholder: {line}":   "{{line}} is no placeholder: Braces {{so}} stay.",
		"{field:when}, {one-of:calls} {title}": "{field:when}, {one-of:calls} {title}",
	} {
		w, err := message.ReadWording(text)
		require.NoError(t, err)
		assert.Equal(t, want, w.WithLine("Braces {so} stay."))
	}
}
