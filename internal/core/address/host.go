package address

import (
	"fmt"
	"net/netip"
	"regexp"
	"strings"

	"golang.org/x/net/idna"
)

// maxHost is the longest name of a host, in bytes (RFC 1035, section 2.3.4).
const maxHost = 253

// port is that of an authority.
var port = regexp.MustCompile(`:[0-9]*$`)

// names are those of hosts (RFC 5891; RFC 1123, section 2.1).
var names = idna.New(idna.MapForLookup(), idna.BidiRule(), idna.StrictDomainName(true), idna.VerifyDNSLength(true))

// Host returns the name of a host as it is kept, in lower case and ASCII (RFC 5891), and what is
// wrong with it as one of a blog's own; "" where nothing is. public is where the program itself is
// reached, whose host no blog can have.
func Host(given, public string) (host, problem string) {
	given = strings.TrimSuffix(strings.TrimSpace(given), ".")
	if given == "" {
		return "", ""
	}
	if strings.Contains(given, "://") || strings.ContainsAny(given, "/?#@ ") {
		return given, "Enter the name of the host alone, such as notes.example, without https:// and without a path."
	}
	if len(given) > maxHost {
		return given, fmt.Sprintf("The name of the host has more than %d characters.", maxHost)
	}
	if port.MatchString(given) && strings.Count(given, ":") == 1 {
		return given, "Enter the name of the host without a port."
	}
	if _, err := netip.ParseAddr(strings.Trim(given, "[]")); err == nil {
		return given, "Enter a name, such as notes.example, not a number."
	}
	host, err := names.ToASCII(given)
	if err != nil || len(host) > maxHost {
		return given, "This can’t be the name of a host. Use letters, digits and hyphens with dots between them, such as notes.example."
	}
	if !strings.Contains(host, ".") {
		return given, "Enter the whole name of the host, with a dot in it, such as notes.example."
	}
	if host == HostOf(strings.TrimPrefix(strings.TrimPrefix(public, "https://"), "http://")) {
		return given, "This is the host of the program itself. Choose another."
	}
	return host, ""
}

// HostOf is the name of the host of a request's Host field or an origin's authority (RFC 9110, section 7.2), without its
// port and in lower case; "" where it is a number.
func HostOf(authority string) string {
	authority, _, _ = strings.Cut(authority, "/")
	if strings.Count(authority, ":") == 1 || strings.HasPrefix(authority, "[") {
		authority = port.ReplaceAllString(authority, "")
	}
	authority = strings.ToLower(strings.TrimSuffix(strings.Trim(authority, "[]"), "."))
	if _, err := netip.ParseAddr(authority); err == nil || len(authority) > maxHost {
		return ""
	}
	return authority
}
