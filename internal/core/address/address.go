// Package address says how things are named in the addresses of a blog. The package is pure.
package address

import "github.com/gosimple/slug"

// Path is the address of a post on the blog of a site, without its host; of its front page
// with an empty slug.
func Path(site, slug string) string { return "/blog/" + site + "/" + slug }

// MaxSlug keeps addresses readable, in bytes; a word is not cut.
const MaxSlug = 80

// Slug is the form of a title or a name that stands in addresses: lower-case ASCII
// letters, digits and hyphens; "" where nothing of it can be said so.
func Slug(text string) string {
	s := slug.Make(text)
	if len(s) <= MaxSlug {
		return s
	}
	cut := MaxSlug
	for cut > 0 && s[cut] != '-' {
		cut--
	}
	if cut == 0 {
		cut = MaxSlug
	}
	return s[:cut]
}
