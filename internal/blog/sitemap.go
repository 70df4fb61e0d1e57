package blog

import (
	"encoding/xml"
	"fmt"
	"strconv"
	"time"

	"dapper.example/internal/store"
)

// sitemapLength is the most addresses that one sitemap may hold by its protocol.
var sitemapLength = 50_000

const sitemapSpace = "http://www.sitemaps.org/schemas/sitemap/0.9"

// place is one entry of a sitemap, or of an index of them.
type place struct {
	Loc     string `xml:"loc"`
	LastMod string `xml:"lastmod,omitempty"`
}

// serveSitemap lists the published posts and pages for search engines (the protocol of
// sitemaps.org, version 0.9); where they are too many for one sitemap, it is an index of
// several.
func (b *Blog) serveSitemap(v visit) error {
	ctx := v.r.Context()
	n, err := v.Store.CountAddresses(ctx, v.site.ID)
	if err != nil {
		return err
	}
	parts := (n + sitemapLength - 1) / sitemapLength
	given := v.r.URL.Query().Get("part")
	if given == "" && parts > 1 {
		return v.sitemapIndex(parts)
	}
	part := 1
	if given != "" {
		if part, err = strconv.Atoi(given); err != nil || part < 1 || part > max(parts, 1) {
			return store.ErrNotFound
		}
	}
	posts, err := v.Store.Addresses(ctx, v.site.ID, (part-1)*sitemapLength, sitemapLength)
	if err != nil {
		return err
	}
	list := struct {
		XMLName xml.Name
		URLs    []place `xml:"url"`
	}{XMLName: xml.Name{Space: sitemapSpace, Local: "urlset"}}
	if part == 1 {
		list.URLs = append(list.URLs, place{Loc: v.address("")})
	}
	for _, p := range posts {
		list.URLs = append(list.URLs, place{v.address(p.Slug), p.UpdatedAt.UTC().Format(time.RFC3339)})
	}
	if part == 1 && len(list.URLs) > sitemapLength {
		list.URLs = list.URLs[1:] // the front page is found from anywhere
	}
	text, err := document(list)
	if err != nil {
		return err
	}
	return v.sendPosts("application/xml; charset=utf-8", text)
}

func (v visit) sitemapIndex(parts int) error {
	list := struct {
		XMLName xml.Name
		Maps    []place `xml:"sitemap"`
	}{XMLName: xml.Name{Space: sitemapSpace, Local: "sitemapindex"}}
	for part := range parts {
		list.Maps = append(list.Maps, place{Loc: v.address(fmt.Sprintf("sitemap.xml?part=%d", part+1))})
	}
	text, err := document(list)
	if err != nil {
		return err
	}
	return v.sendPosts("application/xml; charset=utf-8", text)
}
