package blog

import (
	"strings"
	"time"

	"dapper.example/internal/core/address"
	"dapper.example/internal/store"
)

// meta is what a page says of itself to programs: the Open Graph protocol and
// schema.org's vocabulary as JSON-LD.
type meta struct {
	Type        string // of the Open Graph: website or article; "" says nothing
	Title       string
	Description string
	URL         string
	Image       string
	ImageAlt    string
	Published   string // RFC 3339
	Modified    string
	Section     string
	Tags        []string
	LD          map[string]any
}

func siteMeta(p page) meta {
	return meta{Type: "website", Title: p.Title, Description: p.Site.Tagline, URL: p.Canonical, LD: map[string]any{
		"@context": "https://schema.org", "@type": "Blog", "name": p.Site.Title, "description": p.Site.Tagline, "url": p.Canonical,
	}}
}

func postMeta(p page, home address.Home, post store.Post) meta {
	m := meta{Type: "article", Title: post.Title, Description: excerptOf(post), URL: p.Canonical,
		Image:    home.FullOf(post.FeaturedImage),
		ImageAlt: post.FeaturedAlt, Published: post.PublishedAt.UTC().Format(time.RFC3339), Modified: changed(post).UTC().Format(time.RFC3339), Tags: post.Tags}
	kind := "BlogPosting"
	if post.Kind == "page" {
		m.Type, kind = "website", "WebPage"
	}
	m.LD = map[string]any{
		"@context": "https://schema.org", "@type": kind, "headline": post.Title, "description": m.Description, "url": p.Canonical, "mainEntityOfPage": p.Canonical,
		"datePublished": m.Published, "dateModified": m.Modified, "wordCount": post.Words,
		"author": map[string]any{"@type": "Person", "name": post.AuthorName,
			"url": home.Full("author/" + authorSlug(post.AuthorID, post.AuthorName))},
		"publisher": map[string]any{"@type": "Organization", "name": p.Site.Title, "url": home.Full("")},
	}
	if m.Image != "" {
		m.LD["image"] = m.Image
	}
	if post.CategoryName != nil {
		m.Section = *post.CategoryName
		m.LD["articleSection"] = m.Section
	}
	if len(post.Tags) > 0 {
		m.LD["keywords"] = strings.Join(post.Tags, ", ")
	}
	return m
}

// changed is when readers last got something new of a post: its text, or its coming out.
func changed(p store.Post) time.Time {
	if p.ChangedAt != nil && p.ChangedAt.After(*p.PublishedAt) {
		return *p.ChangedAt
	}
	return *p.PublishedAt
}
