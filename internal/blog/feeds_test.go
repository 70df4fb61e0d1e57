package blog_test

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/mmcdole/gofeed"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// told publishes a post with a category, a tag, a featured image and text that XML
// minds.
func (r reader) told(title string, at time.Time) store.Post {
	r.t.Helper()
	p := r.world.Draft(r.t, title)
	body := "A [link](/blog/dome/other) & a picture ![of it](/blog/dome/pictures/0123456789abcdef-1200x800.jpg) \x0b <script>alert(1)</script>\n\nMore & more."
	tags, alt := []string{"Night & day"}, "A dome"
	p, err := writing.Write(r.t.Context(), r.desk, p.ID, p.Version, writing.Text{Body: &body, Tags: &tags,
		Featured: &writing.Featured{Address: "/blog/dome/pictures/0123456789abcdef-1200x800.jpg", Alt: alt}}, at)
	require.NoError(r.t, err)
	require.NoError(r.t, status.PublishNow(r.t.Context(), r.desk, p.ID, p.Version, at))
	return r.world.Reload(r.t, p.ID)
}

// Every feed, of the site and of a category, is read by a reader of feeds and says the
// same.
func TestFeedsAreReadByReaders(t *testing.T) {
	r := newReader(t)
	p := r.told("Told & <heard>", pgtest.Noon)
	r.world.Scheduled(t, "Hidden plan", pgtest.Noon.Add(time.Hour))
	for _, path := range []string{"feed.atom", "feed.rss", "feed.json", "category/sky-guide/feed.atom",
		"category/sky-guide/feed.rss", "category/sky-guide/feed.json"} {
		code, text := r.get("/blog/dome/" + path)
		require.Equal(t, 200, code, path)
		feed, err := gofeed.NewParser().ParseString(text)
		require.NoError(t, err, path)
		require.Len(t, feed.Items, 1, path)
		i := feed.Items[0]
		assert.Equal(t, "Told & <heard>", i.Title, path)
		assert.Equal(t, "https://dome.example/blog/dome/told-and-heard", i.Link, path)
		assert.Equal(t, fmt.Sprintf("tag:dome.example,2026-11-24:dome/%d", p.ID), i.GUID, path)
		assert.True(t, i.PublishedParsed.Equal(pgtest.Noon), path)
		assert.Equal(t, []string{"Sky Guide", "Night & day"}, i.Categories, path)
		if assert.Len(t, i.Authors, 1, path) {
			assert.Equal(t, "Ines Abara", i.Authors[0].Name, path)
		}
		assert.Contains(t, i.Content, `<a href="https://dome.example/blog/dome/other"`, path)
		assert.Contains(t, i.Content, `src="https://dome.example/blog/dome/pictures/0123456789abcdef-1200x800.jpg"`,
			path)
		assert.Contains(t, i.Content,
			`, https://dome.example/blog/dome/pictures/0123456789abcdef-1200x800@960.jpg 960w`, path)
		assert.NotContains(t, text, "alert(1)", path)
		assert.NotContains(t, text, "Hidden", path)
		if strings.HasPrefix(path, "category") {
			assert.Contains(t, feed.Title, "Sky Guide", path)
		}
	}
	for _, path := range []string{"feed.xml", "category/none/feed.atom"} {
		code, _ := r.get("/blog/dome/" + path)
		assert.Equal(t, 404, code, path)
	}
}

// What RFC 4287 asks of a feed and its entries (sections 4.1.1, 4.1.2 and 4.2).
func TestAtomByItsRules(t *testing.T) {
	r := newReader(t)
	r.told("One", pgtest.Noon)
	r.told("Two", pgtest.Noon.Add(time.Minute))
	_, text := r.get("/blog/dome/feed.atom")
	type link struct {
		Rel  string `xml:"rel,attr"`
		Href string `xml:"href,attr"`
	}
	var feed struct {
		XMLName xml.Name `xml:"http://www.w3.org/2005/Atom feed"`
		ID      []string `xml:"id"`
		Title   []string `xml:"title"`
		Updated []string `xml:"updated"`
		Links   []link   `xml:"link"`
		Entries []struct {
			ID      []string `xml:"id"`
			Title   []string `xml:"title"`
			Updated []string `xml:"updated"`
			Author  []string `xml:"author>name"`
			Links   []link   `xml:"link"`
			Content struct {
				Type string `xml:"type,attr"`
			} `xml:"content"`
		} `xml:"entry"`
	}
	require.NoError(t, xml.Unmarshal([]byte(text), &feed))
	once := func(values []string) string {
		require.Len(t, values, 1, "exactly one")
		return values[0]
	}
	moment := func(text string) time.Time {
		at, err := time.Parse(time.RFC3339, text)
		require.NoError(t, err)
		return at
	}
	iri := func(text string) {
		u, err := url.Parse(text)
		require.NoError(t, err)
		assert.True(t, u.IsAbs(), text)
	}
	iri(once(feed.ID))
	once(feed.Title)
	updated := moment(once(feed.Updated))
	var rels []string
	for _, l := range feed.Links {
		iri(l.Href)
		rels = append(rels, l.Rel)
	}
	assert.Equal(t, []string{"self", "alternate"}, rels)
	seen := map[string]bool{}
	for _, e := range feed.Entries {
		iri(once(e.ID))
		assert.False(t, seen[e.ID[0]], "no id twice")
		seen[e.ID[0]] = true
		once(e.Title)
		once(e.Author)
		assert.False(t, moment(once(e.Updated)).After(updated))
		assert.Equal(t, "alternate", e.Links[0].Rel)
		assert.Equal(t, "html", e.Content.Type)
	}
	assert.Len(t, seen, 2)
}

// What RSS 2.0 asks of a channel and its items.
func TestRSSByItsRules(t *testing.T) {
	r := newReader(t)
	r.told("One", pgtest.Noon)
	_, text := r.get("/blog/dome/feed.rss")
	var feed struct {
		XMLName xml.Name `xml:"rss"`
		Version string   `xml:"version,attr"`
		Channel struct {
			Title       string `xml:"title"`
			Description string `xml:"description"`
			LastBuild   string `xml:"lastBuildDate"`
			Links       []struct {
				XMLName xml.Name
				Rel     string `xml:"rel,attr"`
				Text    string `xml:",chardata"`
			} `xml:"link"`
			Items []struct {
				PubDate string `xml:"pubDate"`
				GUID    struct {
					IsPermaLink string `xml:"isPermaLink,attr"`
				} `xml:"guid"`
			} `xml:"item"`
		} `xml:"channel"`
	}
	require.NoError(t, xml.Unmarshal([]byte(text), &feed))
	assert.Equal(t, "2.0", feed.Version)
	assert.NotEmpty(t, feed.Channel.Title)
	assert.NotEmpty(t, feed.Channel.Description)
	assert.Equal(t, "https://dome.example/blog/dome/", feed.Channel.Links[0].Text)
	assert.Equal(t, "self", feed.Channel.Links[1].Rel)
	for _, at := range []string{feed.Channel.LastBuild, feed.Channel.Items[0].PubDate} {
		_, err := time.Parse(time.RFC1123Z, at) // RFC 822 with a year of four digits
		assert.NoError(t, err)
	}
	assert.Equal(t, "false", feed.Channel.Items[0].GUID.IsPermaLink, "the guid is no address")
}

// What JSON Feed 1.1 asks.
func TestJSONFeedByItsRules(t *testing.T) {
	r := newReader(t)
	code, text := r.get("/blog/dome/feed.json")
	require.Equal(t, 200, code)
	assert.Contains(t, text, `"items":[]`, "an empty feed has an empty list")
	r.told("One", pgtest.Noon)
	_, text = r.get("/blog/dome/feed.json")
	var feed map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &feed))
	assert.Equal(t, "https://jsonfeed.org/version/1.1", feed["version"])
	assert.Equal(t, "https://dome.example/blog/dome/feed.json", feed["feed_url"])
	entry := feed["items"].([]any)[0].(map[string]any)
	assert.IsType(t, "", entry["id"])
	for _, field := range []string{"date_published", "date_modified"} {
		_, err := time.Parse(time.RFC3339, entry[field].(string))
		assert.NoError(t, err)
	}
	assert.Equal(t, "https://dome.example/blog/dome/pictures/0123456789abcdef-1200x800.jpg", entry["image"])
	assert.NotNil(t, entry["content_html"])
}

func TestSitemapByItsProtocol(t *testing.T) {
	r := newReader(t)
	r.publish("Out & about", pgtest.Noon)
	r.publish("Second", pgtest.Noon)
	r.world.Scheduled(t, "Hidden plan", pgtest.Noon.Add(time.Hour))
	type list struct {
		XMLName xml.Name
		URLs    []struct {
			Loc     string `xml:"loc"`
			LastMod string `xml:"lastmod"`
		} `xml:"url"`
		Maps []struct {
			Loc string `xml:"loc"`
		} `xml:"sitemap"`
	}
	get := func(path string) (l list) {
		code, text := r.get(path)
		require.Equal(t, 200, code)
		require.NoError(t, xml.Unmarshal([]byte(text), &l))
		assert.Equal(t, "http://www.sitemaps.org/schemas/sitemap/0.9", l.XMLName.Space)
		return l
	}
	whole := get("/blog/dome/sitemap.xml")
	assert.Equal(t, "urlset", whole.XMLName.Local)
	require.Len(t, whole.URLs, 3)
	assert.Equal(t, "https://dome.example/blog/dome/", whole.URLs[0].Loc)
	assert.Equal(t, "https://dome.example/blog/dome/out-and-about", whole.URLs[1].Loc)
	_, err := time.Parse(time.RFC3339, whole.URLs[1].LastMod)
	assert.NoError(t, err)
	code, _ := r.get("/blog/dome/sitemap.xml?part=2")
	assert.Equal(t, 404, code)
}
