// Package address says how things are named in the addresses of a blog. The package is pure.
package address

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"github.com/gosimple/slug"
)

// Path is the address of a post on the blog of a site, without its host; of its front page
// with an empty slug.
func Path(site, slug string) string { return "/blog/" + site + "/" + slug }

// maxWeb bounds addresses of the web, in bytes.
const maxWeb = 2000

// IsWeb tells whether a text is an address of the web that a message may lead to: absolute, of http or https, without a sign-in
// in it, of at most 2,000 bytes (RFC 3986).
func IsWeb(text string) bool {
	if len(text) > maxWeb || strings.ContainsFunc(text, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }) {
		return false
	}
	u, err := url.Parse(text)
	return err == nil && (u.Scheme == "https" || u.Scheme == "http") && u.Host != "" && u.User == nil
}

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

// MaxSite is the longest name of a blog in addresses, in bytes.
const MaxSite = 40

// ours are the first words of addresses that are the program's own.
var ours = []string{"api", "assets", "begin", "blog", "calendar", "calendars", "debug", "favicon", "forgotten", "guide", "healthz", "help",
	"join", "metrics", "new", "new-blog", "preview", "readyz", "reset", "s", "schemas", "setup", "sign-in", "sign-out"}

// SiteProblem says why a blog cannot have a name in addresses, and what to do; "" where it can.
func SiteProblem(name string) string {
	switch {
	case name == "":
		return "Enter the name that the blog has in its address, such as garden-notes."
	case len(name) > MaxSite:
		return fmt.Sprintf("The name in the address is longer than %d characters. Shorten it.", MaxSite)
	case slices.Contains(ours, name):
		return fmt.Sprintf("“%s” is an address of the program’s own. Choose another.", name)
	case !siteForm.MatchString(name):
		if better := SiteName(name); better != "" {
			return fmt.Sprintf("Use small letters, digits and hyphens only, such as %s.", better)
		}
		return "Use small letters, digits and hyphens only, such as garden-notes."
	}
	return ""
}

// siteForm is that of a blog's name in addresses.
var siteForm = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

// SiteName is a name in addresses for a blog with a title; "" where nothing of it can be said
// so.
func SiteName(title string) string {
	words := strings.FieldsFunc(slug.Make(title), func(r rune) bool { return r == '-' || r == '_' })
	name := ""
	for _, word := range words {
		if name != "" && len(name)+1+len(word) > MaxSite {
			break
		}
		name = strings.Trim(name+"-"+word, "-")
	}
	name = name[:min(len(name), MaxSite)]
	if slices.Contains(ours, name) {
		name += "-blog"
	}
	return name
}

// IsAmong tells whether one of some names has the same form in addresses as a name.
func IsAmong(name string, names []string) bool {
	wanted := Slug(name)
	return slices.ContainsFunc(names, func(n string) bool { return Slug(n) == wanted })
}
