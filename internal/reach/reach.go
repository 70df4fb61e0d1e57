// Package reach speaks HTTP to addresses that people entered. It does not reach into the network that the program itself
// stands in: what an address is found to be is looked at as the connection is made, so neither a name nor a redirect
// leads inside.
package reach

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"syscall"
	"time"
)

// Inside says that an address lies in the program's own network.
type Inside struct{ Host string }

// Error says what to do about it.
func (e *Inside) Error() string {
	return fmt.Sprintf("%s is in this server's own network, which is not reached. Whoever runs the program can allow it (DAPPER_REACH_INSIDE)", e.Host)
}

// Allowed are hosts of the own network that may be reached all the same, as "host" or "host:port".
type Allowed []string

// ParseAllowed reads hosts that are parted by commas.
func ParseAllowed(text string) (a Allowed) {
	for host := range strings.SplitSeq(text, ",") {
		if host = strings.ToLower(strings.TrimSpace(host)); host != "" {
			a = append(a, host)
		}
	}
	return a
}

func (a Allowed) has(address string) bool {
	host, _, _ := net.SplitHostPort(address)
	return slices.Contains(a, strings.ToLower(address)) || slices.Contains(a, strings.ToLower(host))
}

// Patience is how long an answer may take.
const Patience = 10 * time.Second

// Client returns a client that reaches what is public, and of the own network only what is allowed. It follows no
// redirects, uses no proxy and no cookies.
func Client(allowed Allowed) *http.Client {
	return &http.Client{
		Timeout:       Patience,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{
			DialContext:            allowed.dial,
			MaxIdleConnsPerHost:    4,
			IdleConnTimeout:        30 * time.Second,
			TLSHandshakeTimeout:    Patience,
			MaxResponseHeaderBytes: 64 << 10,
			ForceAttemptHTTP2:      true,
		},
	}
}

func (a Allowed) dial(ctx context.Context, network, address string) (net.Conn, error) {
	d := net.Dialer{Timeout: Patience}
	if !a.has(address) {
		host, _, _ := net.SplitHostPort(address)
		d.Control = func(_, found string, _ syscall.RawConn) error {
			at, err := netip.ParseAddrPort(found)
			if err != nil || !isPublic(at.Addr()) {
				return &Inside{host}
			}
			return nil
		}
	}
	return d.DialContext(ctx, network, address)
}

// notPublic are ranges that the methods of netip.Addr do not name: special purpose addresses (RFC 6890), and those in
// which an address of the fourth version is written (RFC 6052, RFC 3056).
var notPublic = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"),
	netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("198.18.0.0/15"), netip.MustParsePrefix("198.51.100.0/24"),
	netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("240.0.0.0/4"), netip.MustParsePrefix("64:ff9b::/96"),
	netip.MustParsePrefix("64:ff9b:1::/48"), netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("2001::/23"), netip.MustParsePrefix("2001:db8::/32"),
	netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("fec0::/10"),
}

func isPublic(a netip.Addr) bool {
	a = a.Unmap().WithZone("")
	if a.IsPrivate() || a.IsLoopback() || a.IsLinkLocalUnicast() || a.IsUnspecified() || a.IsMulticast() {
		return false
	}
	return !slices.ContainsFunc(notPublic, func(p netip.Prefix) bool { return p.Contains(a) })
}

const maxAddress = 2000

// Check tells what is wrong with an address that somebody entered, as far as can be told without looking it up; "" where
// nothing is.
func (a Allowed) Check(text string) string {
	u, err := url.Parse(text)
	switch {
	case len(text) > maxAddress:
		return "That address is too long."
	case err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Hostname() == "" || u.Opaque != "":
		return "Enter an address that begins with https:// or http://."
	case u.User != nil:
		return "Leave the user name and the password out of the address."
	}
	port := u.Port()
	if port == "" {
		port = map[string]string{"http": "80", "https": "443"}[u.Scheme]
	}
	if a.has(net.JoinHostPort(u.Hostname(), port)) {
		return ""
	}
	ip, err := netip.ParseAddr(u.Hostname())
	if err == nil && !isPublic(ip) || strings.EqualFold(u.Hostname(), "localhost") || strings.HasSuffix(strings.ToLower(u.Hostname()), ".localhost") {
		return (&Inside{u.Host}).Error() + "."
	}
	return ""
}

// Reason says in a sentence why an address was not reached.
func Reason(err error) string {
	var inside *Inside
	var dns *net.DNSError
	var broken net.Error
	switch {
	case errors.As(err, &inside):
		return inside.Error() + "."
	case errors.As(err, &dns):
		return "There is no host " + dns.Name + "."
	case errors.As(err, &broken) && broken.Timeout():
		return fmt.Sprintf("It did not answer within %d seconds.", int(Patience.Seconds()))
	case errors.Is(err, syscall.ECONNREFUSED):
		return "Nothing answers at that address."
	case errors.Is(err, syscall.ECONNRESET), errors.Is(err, syscall.EPIPE), errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return "It broke off the connection."
	}
	return "It could not be reached."
}
