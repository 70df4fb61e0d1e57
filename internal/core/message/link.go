package message

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
)

// Param is a parameter that a rule adds to links, such as utm_source.
type Param struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// WithParams returns the link with parameters added, in their order; a link that cannot
// be read is returned as it is.
func WithParams(link string, params []Param) string {
	if len(params) == 0 {
		return link
	}
	u, err := url.Parse(link)
	if err != nil {
		return link
	}
	var pairs []string
	if u.RawQuery != "" {
		pairs = append(pairs, u.RawQuery)
	}
	for _, p := range params {
		pairs = append(pairs, url.QueryEscape(p.Name)+"="+url.QueryEscape(p.Value))
	}
	u.RawQuery = strings.Join(pairs, "&")
	return u.String()
}

// WithQuery returns the link with a query of further parameters behind its own; before a fragment.
func WithQuery(link, query string) string {
	if query == "" {
		return link
	}
	u, err := url.Parse(link)
	if err != nil {
		return link
	}
	if u.RawQuery != "" {
		query = u.RawQuery + "&" + query
	}
	u.RawQuery = query
	return u.String()
}

// CheckParams says what is wrong with parameters, or "".
func CheckParams(params []Param) string {
	var names []string
	for _, p := range params {
		name := strings.TrimSpace(p.Name)
		switch {
		case name == "":
			return "A link parameter needs a name, such as utm_source."
		case slices.Contains(names, name):
			return fmt.Sprintf("The link parameter %q appears twice.", name)
		case len(p.Name) > 60 || len(p.Value) > 200:
			return fmt.Sprintf("The link parameter %q is too long.", clip(p.Name))
		}
		names = append(names, name)
	}
	return ""
}
