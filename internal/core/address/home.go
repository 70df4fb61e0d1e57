package address

import (
	"net/url"
	"strings"
)

// Home is where readers find a blog: under its name on the host of the program, or on a host of
// its own.
type Home struct {
	public string // where the program is reached, such as https://blog.example
	origin string // where the blog is
	name   string // of the blog in addresses
	own    bool   // the host is the blog's own
}

// HomeOf is the home of a blog with a name in addresses, and a host of its own, "" where it has
// none. public is where the program is reached, such as https://blog.example: a host of its own
// is reached in the same way, at the same port.
func HomeOf(public, name, host string) Home {
	if host == "" {
		return Home{public, public, name, false}
	}
	scheme, port := "http", ""
	if u, err := url.Parse(public); err == nil && u.Scheme != "" {
		scheme = u.Scheme
		if u.Port() != "" {
			port = ":" + u.Port()
		}
	}
	return Home{public, scheme + "://" + host + port, name, true}
}

// Origin is the scheme, the host and the port of the blog's pages, without a slash at the end.
func (h Home) Origin() string { return h.origin }

// Path is the address of something of the blog without its host; of its front page with "".
func (h Home) Path(path string) string {
	if h.own {
		return "/" + path
	}
	return Path(h.name, path)
}

// Full is the address of something of the blog with its host.
func (h Home) Full(path string) string { return h.origin + h.Path(path) }

// Of is how an address that is written in a text is reached from a page of the blog: those
// of the blog lose its name on a host of its own, others stay as they are.
func (h Home) Of(address string) string {
	if rest, ours := h.cut(address); ours && h.own {
		return "/" + rest
	}
	return address
}

// FullOf is an address that is written in a text with its host; those that have one stay as
// they are.
func (h Home) FullOf(address string) string {
	if rest, ours := h.cut(address); ours {
		return h.Full(rest)
	}
	if strings.HasPrefix(address, "/") && !strings.HasPrefix(address, "//") {
		return h.public + address
	}
	return address
}

// Within is what an address names within the blog, whichever way it is written; it tells
// whether it names anything of the blog.
func (h Home) Within(address string) (path string, ours bool) {
	if h.own {
		if rest, ours := strings.CutPrefix(address, h.origin+"/"); ours {
			return rest, true
		}
	}
	return h.cut(strings.TrimPrefix(address, h.public))
}

func (h Home) cut(address string) (string, bool) {
	return strings.CutPrefix(address, Path(h.name, ""))
}
