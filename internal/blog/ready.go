package blog

import (
	"bytes"
	"context"
	"net/url"
	"slices"
	"strings"
	"time"

	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/readiness"
	"dapper.example/internal/store"
)

// Links returns the slugs of the blog's own posts and pages that a text links to, each
// once.
func (r *Renderer) Links(ctx context.Context, markdown string, home address.Home) []string {
	if !strings.Contains(markdown, home.Origin()+"/") && !strings.Contains(markdown, "/blog/") {
		return nil
	}
	raw, release, err := r.raw(ctx, markdown)
	if err != nil {
		return nil // what cannot be laid out has no links
	}
	defer release()
	var slugs []string
	z := nethtml.NewTokenizer(bytes.NewReader(raw))
	for {
		switch z.Next() {
		case nethtml.ErrorToken:
			return slugs
		case nethtml.StartTagToken:
			token := z.Token()
			if token.DataAtom != atom.A {
				continue
			}
			for _, a := range token.Attr {
				if slug := slugIn(a.Val, home); a.Key == "href" && slug != "" &&
					!slices.Contains(slugs, slug) {
					slugs = append(slugs, slug)
				}
			}
		}
	}
}

// slugIn is the slug of the post or page that an address of the blog names; "" where it
// names none.
func slugIn(href string, home address.Home) string {
	within, ours := home.Within(href)
	target, err := url.Parse(within)
	if !ours || err != nil {
		return ""
	}
	slug := target.Path
	if strings.Contains(slug, "/") || strings.Contains(slug, ".") || slug == "search" || slug == "archive" {
		return ""
	}
	return slug
}

// Unready finds what readers would miss in the posts of a site that are about to come
// out, by the checks that the site has on. It returns those posts too, by id.
func Unready(ctx context.Context, q store.Queries, r *Renderer, site store.Site, public string,
	now time.Time) ([]readiness.Finding, map[int64]store.ReadyPost, error) {
	rows, err := q.ReadyPosts(ctx, site.ID, now.Add(-(readiness.Near+1)*24*time.Hour))
	if err != nil {
		return nil, nil, err
	}
	var asked []string
	links := make(map[int64][]string)
	for _, p := range rows {
		if l := r.Links(ctx, p.Body, site.Home(public)); len(l) > 0 {
			links[p.ID] = l
			asked = append(asked, l...)
		}
	}
	var known []string
	if len(asked) > 0 {
		if known, err = q.KnownSlugs(ctx, site.ID, asked); err != nil {
			return nil, nil, err
		}
	}
	posts := make([]readiness.Post, len(rows))
	byID := make(map[int64]store.ReadyPost, len(rows))
	for i, p := range rows {
		byID[p.ID] = p
		posts[i] = readiness.Post{ID: p.ID, Title: p.Title, At: p.At, Out: p.Out, Category: p.Category,
			HasImage: p.HasImage,
			Excerpt:  p.Excerpt, HasText: strings.TrimSpace(p.Body) != ""}
		for _, slug := range links[p.ID] {
			if !slices.Contains(known, slug) {
				posts[i].Dead = append(posts[i].Dead, address.Path(site.Slug, slug))
			}
		}
	}
	var checks []readiness.Check
	for _, c := range site.ReadyChecks {
		checks = append(checks, readiness.Check(c))
	}
	return readiness.Look(site.Zone(), site.Zone().DateOf(now), posts, checks), byID, nil
}
