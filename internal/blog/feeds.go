package blog

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"html"
	"net/url"
	"strconv"
	"strings"
	"time"

	nethtml "golang.org/x/net/html"

	"dapper.example/internal/store"
)

const feedLength = 20

// channel is a feed in no form yet.
type channel struct {
	Title, About string
	Home, Self   string // full addresses
	Hub          string // that is told when it changes (W3C WebSub); "": none is
	Language     string // of its readers (BCP 47)
	Updated      time.Time
	Items        []item
}

type item struct {
	ID, Title, Link      string
	Author, Category     string
	Tags                 []string
	Summary, HTML, Image string
	Published, Updated   time.Time
}

// serveFeed writes the latest posts of the site, or of a category, as Atom (RFC 4287),
// RSS 2.0 or JSON Feed 1.1.
func (b *Blog) serveFeed(v visit) error {
	c := channel{Title: v.site.Title, About: v.site.Tagline, Language: v.site.Language, Home: v.address(""),
		Self: v.address("feed." + v.param("form")), Updated: v.site.CreatedAt}
	filter := store.PublicFilter{}
	if v.param("slug") == "" {
		c.Hub = v.site.Hub
	} else {
		topic, err := v.category()
		if err != nil {
			return err
		}
		filter.Category = topic.ID
		c.Title += ": " + topic.Name
		c.Home, c.Self = v.address("category/"+topic.Slug), v.address("category/"+topic.Slug+"/feed."+v.param("form"))
	}
	posts, err := v.Store.PublicPosts(v.r.Context(), v.site.ID, filter, 0, feedLength)
	if err != nil {
		return err
	}
	for _, p := range posts {
		i, err := v.item(p)
		if err != nil {
			return err
		}
		c.Items = append(c.Items, i)
		if i.Updated.After(c.Updated) {
			c.Updated = i.Updated
		}
	}
	var kind string
	var text []byte
	switch v.param("form") {
	case "atom":
		kind = "application/atom+xml; charset=utf-8"
		text, err = c.atom()
	case "rss":
		kind = "application/rss+xml; charset=utf-8"
		text, err = c.rss()
	case "json":
		kind = "application/feed+json; charset=utf-8"
		text, err = c.json()
	default:
		return store.ErrNotFound
	}
	if err != nil {
		return err
	}
	if c.Hub != "" { // W3C WebSub, section 4
		v.w.Header().Add("Link", fmt.Sprintf(`<%s>; rel="hub"`, c.Hub))
		v.w.Header().Add("Link", fmt.Sprintf(`<%s>; rel="self"`, c.Self))
	}
	return v.sendPosts(kind, text)
}

func (v visit) item(p store.Post) (item, error) {
	laid, err := v.Renderer.Of(v.r.Context(), v.Store.Queries, p.ID, p.Body)
	if err != nil {
		return item{}, err
	}
	i := item{
		ID: v.lasting(p), Title: xmlSafe(p.Title), Link: v.address(p.Slug), Author: xmlSafe(p.AuthorName), Tags: p.Tags,
		Summary: xmlSafe(excerptOf(p)), HTML: xmlSafe(Rewritten(string(laid.HTML), v.home.FullOf)), Image: v.home.FullOf(p.FeaturedImage),
		Published: p.PublishedAt.UTC(), Updated: changed(p).UTC(),
	}
	if !v.site.FeedsWhole {
		i.HTML = "<p>" + html.EscapeString(i.Summary) + "</p>"
	}
	if p.CategoryName != nil {
		i.Category = xmlSafe(*p.CategoryName)
	}
	return i, nil
}

// lasting names a post for ever, whatever becomes of its address (RFC 4151).
func (v visit) lasting(p store.Post) string {
	return v.lastingAs(p.CreatedAt.UTC(), strconv.FormatInt(p.ID, 10))
}

// lastingAs names something of the site for ever that was made at a moment.
func (v visit) lastingAs(made time.Time, name string) string {
	host := "blog.invalid"
	if u, err := url.Parse(v.Public); err == nil && u.Hostname() != "" {
		host = u.Hostname()
	}
	return fmt.Sprintf("tag:%s,%s:%s/%s", host, made.Format(time.DateOnly), v.site.LastingName, name)
}

// Rewritten is rendered HTML with another address for each of ours: readers of feeds are elsewhere, and a blog
// may have a host of its own. Running text stays as it is.
func Rewritten(fragment string, of func(address string) string) string {
	if !strings.Contains(fragment, `="/`) && !strings.Contains(fragment, ` /blog/`) {
		return fragment
	}
	var out strings.Builder
	z := nethtml.NewTokenizer(strings.NewReader(fragment))
	for {
		switch z.Next() {
		case nethtml.ErrorToken:
			return out.String()
		case nethtml.StartTagToken, nethtml.SelfClosingTagToken:
			raw := string(z.Raw())
			token, changed := z.Token(), false
			for i, a := range token.Attr {
				full := a.Val
				switch a.Key {
				case "href", "src":
					full = of(a.Val)
				case "srcset":
					full = inSet(a.Val, of)
				}
				changed = changed || full != a.Val
				token.Attr[i].Val = full
			}
			if changed {
				raw = token.String()
			}
			out.WriteString(raw)
		default:
			out.Write(z.Raw())
		}
	}
}

// inSet is a srcset with another address for each of its own.
func inSet(set string, of func(address string) string) string {
	parts := strings.Split(set, ", ")
	for i, part := range parts {
		parts[i] = of(part)
	}
	return strings.Join(parts, ", ")
}

// xmlSafe drops what XML has no room for (XML 1.0, section 2.2).
func xmlSafe(text string) string {
	return strings.Map(func(r rune) rune {
		if r == '\t' || r == '\n' || r == '\r' || r >= 0x20 && r <= 0xd7ff || r >= 0xe000 && r <= 0xfffd ||
			r >= 0x10000 {
			return r
		}
		return -1
	}, text)
}

type atomLink struct {
	Rel  string `xml:"rel,attr"`
	Type string `xml:"type,attr,omitempty"`
	Href string `xml:"href,attr"`
}

type atomText struct {
	Type string `xml:"type,attr"`
	Text string `xml:",chardata"`
}

type atomCategory struct {
	Term string `xml:"term,attr"`
}

type atomEntry struct {
	ID         string         `xml:"id"`
	Title      atomText       `xml:"title"`
	Links      []atomLink     `xml:"link"`
	Published  string         `xml:"published"`
	Updated    string         `xml:"updated"`
	Author     string         `xml:"author>name"`
	Categories []atomCategory `xml:"category"`
	Summary    *atomText      `xml:"summary"`
	Content    atomText       `xml:"content"`
}

func (c channel) atom() ([]byte, error) {
	feed := struct {
		XMLName  xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
		ID       string      `xml:"id"`
		Title    string      `xml:"title"`
		Subtitle string      `xml:"subtitle,omitempty"`
		Updated  string      `xml:"updated"`
		Links    []atomLink  `xml:"link"`
		Entries  []atomEntry `xml:"entry"`
	}{ID: c.Self, Title: xmlSafe(c.Title), Subtitle: xmlSafe(c.About), Updated: c.Updated.UTC().Format(time.RFC3339),
		Links: []atomLink{{"self", "application/atom+xml", c.Self}, {"alternate", "text/html", c.Home}}}
	if c.Hub != "" {
		feed.Links = append(feed.Links, atomLink{"hub", "", c.Hub})
	}
	for _, i := range c.Items {
		e := atomEntry{ID: i.ID, Title: atomText{"text", i.Title},
			Links:     []atomLink{{"alternate", "text/html", i.Link}},
			Published: i.Published.Format(time.RFC3339), Updated: i.Updated.Format(time.RFC3339), Author: i.Author, Content: atomText{"html", i.HTML}}
		if i.Summary != "" {
			e.Summary = &atomText{"text", i.Summary}
		}
		for _, term := range i.terms() {
			e.Categories = append(e.Categories, atomCategory{term})
		}
		feed.Entries = append(feed.Entries, e)
	}
	return document(feed)
}

func (i item) terms() (terms []string) {
	if i.Category != "" {
		terms = append(terms, i.Category)
	}
	for _, t := range i.Tags {
		terms = append(terms, xmlSafe(t))
	}
	return terms
}

func document(v any) ([]byte, error) {
	text, err := xml.Marshal(v)
	return append([]byte(xml.Header), text...), err
}

type rssItem struct {
	Title       string   `xml:"title"`
	Link        string   `xml:"link"`
	GUID        rssGUID  `xml:"guid"`
	PubDate     string   `xml:"pubDate"`
	Creator     string   `xml:"dc:creator"`
	Categories  []string `xml:"category"`
	Description string   `xml:"description"`
	Content     string   `xml:"content:encoded"`
}

type rssGUID struct {
	IsPermaLink bool   `xml:"isPermaLink,attr"`
	ID          string `xml:",chardata"`
}

// rss writes RSS 2.0 with the author and the whole text in the namespaces that its
// readers know (Dublin Core, RSS content module).
func (c channel) rss() ([]byte, error) {
	type rssChannel struct {
		Title       string     `xml:"title"`
		Link        string     `xml:"link"`
		Links       []atomLink `xml:"atom:link"`
		Description string     `xml:"description"`
		Language    string     `xml:"language"`
		LastBuild   string     `xml:"lastBuildDate"`
		Items       []rssItem  `xml:"item"`
	}
	feed := struct {
		XMLName xml.Name   `xml:"rss"`
		Version string     `xml:"version,attr"`
		Atom    string     `xml:"xmlns:atom,attr"`
		Content string     `xml:"xmlns:content,attr"`
		DC      string     `xml:"xmlns:dc,attr"`
		Channel rssChannel `xml:"channel"`
	}{Version: "2.0", Atom: "http://www.w3.org/2005/Atom", Content: "http://purl.org/rss/1.0/modules/content/", DC: "http://purl.org/dc/elements/1.1/",
		Channel: rssChannel{Title: xmlSafe(c.Title), Link: c.Home,
			Links: []atomLink{{"self", "application/rss+xml", c.Self}}, Language: c.Language,
			Description: orElse(xmlSafe(c.About), xmlSafe(c.Title)), LastBuild: c.Updated.UTC().Format(time.RFC1123Z)}}
	if c.Hub != "" {
		feed.Channel.Links = append(feed.Channel.Links, atomLink{"hub", "", c.Hub})
	}
	for _, i := range c.Items {
		feed.Channel.Items = append(feed.Channel.Items, rssItem{Title: i.Title, Link: i.Link,
			GUID: rssGUID{false, i.ID}, PubDate: i.Published.Format(time.RFC1123Z),
			Creator: i.Author, Categories: i.terms(), Description: i.Summary, Content: i.HTML})
	}
	return document(feed)
}

func orElse(text, other string) string {
	if text == "" {
		return other
	}
	return text
}

// json writes JSON Feed 1.1.
func (c channel) json() ([]byte, error) {
	type author struct {
		Name string `json:"name"`
	}
	type entry struct {
		ID        string   `json:"id"`
		URL       string   `json:"url"`
		Title     string   `json:"title"`
		HTML      string   `json:"content_html"`
		Summary   string   `json:"summary,omitempty"`
		Image     string   `json:"image,omitempty"`
		Published string   `json:"date_published"`
		Modified  string   `json:"date_modified"`
		Authors   []author `json:"authors"`
		Tags      []string `json:"tags,omitempty"`
	}
	type hub struct {
		Type string `json:"type"`
		URL  string `json:"url"`
	}
	feed := struct {
		Version     string  `json:"version"`
		Title       string  `json:"title"`
		Home        string  `json:"home_page_url"`
		Self        string  `json:"feed_url"`
		Description string  `json:"description,omitempty"`
		Language    string  `json:"language"`
		Hubs        []hub   `json:"hubs,omitempty"`
		Items       []entry `json:"items"`
	}{"https://jsonfeed.org/version/1.1", c.Title, c.Home, c.Self, c.About, c.Language, nil, []entry{}}
	if c.Hub != "" {
		feed.Hubs = []hub{{"WebSub", c.Hub}}
	}
	for _, i := range c.Items {
		feed.Items = append(feed.Items, entry{i.ID, i.Link, i.Title, i.HTML, i.Summary, i.Image,
			i.Published.Format(time.RFC3339), i.Updated.Format(time.RFC3339), []author{{i.Author}}, i.terms()})
	}
	return json.Marshal(feed)
}
